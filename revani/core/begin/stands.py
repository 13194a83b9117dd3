"""When does it stand there: the instants at which sun, moon or galactic core pass a point of the picture."""

from datetime import date, datetime, timedelta
from zoneinfo import ZoneInfo

import numpy as np
from pydantic import BaseModel, ConfigDict

from revani.core.documents import Shot
from revani.core.program.compiled import Program
from revani.core.quantities.refusal import Refusal
from revani.core.quantities.units import decimals
from revani.core.sky.alignment import Luminary, passes
from revani.core.sky.sun_and_moon import local_midnight_s

MOST_DAYS = 400
_LOWEST_DEG = -5.0


class Stand(BaseModel):
    """An instant at which it stands there, as the place's clock says it; a start is typed to the minute."""

    model_config = ConfigDict(frozen=True)

    at_s: float
    date: date
    clock: str
    start: str
    separation: str
    told: str


def point_of_thing(program: Program, index: int) -> tuple[float, float]:
    """Azimuth and height of the top of a thing on the move table, as the camera stands in the first frame."""
    shot = program.shot
    things = shot.things
    if not 0 <= index < len(things):
        raise Refusal(
            "thing", f"From 0 to {len(things) - 1}." if things else "Nothing stands on the move table.", index
        )
    thing = things[index]
    pose = program.pose(program.t_s[0])
    across, ahead = thing.x_mm - float(pose.right_mm), thing.y_mm - float(pose.ahead_mm)
    up = thing.base_mm + thing.height_mm - float(pose.up_mm)
    azimuth = (shot.framing.heading_deg + float(np.degrees(np.arctan2(across, ahead)))) % 360
    return azimuth, float(np.degrees(np.arctan2(up, np.hypot(across, ahead))))


def point_in_picture(program: Program, number: int, across: float, down: float) -> tuple[float, float]:
    """Azimuth and height of a place in the picture of a frame, counted from 1; parts of its width and height.

    Raises Refusal("number").
    """
    if not 1 <= number <= program.frame_count:
        raise Refusal("number", f"A frame from 1 to {program.frame_count:,}.", number)
    pose = program.pose(program.t_s[number - 1])
    east, north, up = pose.direction_of(program.shot, across, down)
    return float(np.degrees(np.arctan2(east, north)) % 360), float(np.degrees(np.arcsin(np.clip(up, -1, 1))))


def standings(
    shot: Shot, body: Luminary, azimuth_deg: float, altitude_deg: float, within_deg: float, first: date, days: int
) -> list[Stand]:
    """The passes from a date on that come within a distance of a point, in order. Raises Refusal."""
    if not 1 <= days <= MOST_DAYS:
        raise Refusal("days", f"From 1 to {MOST_DAYS} days can be looked through.", days)
    if altitude_deg < _LOWEST_DEG:
        raise Refusal("altitude_deg", "At most 5° under the horizon.", altitude_deg)
    place = shot.place
    zone = ZoneInfo(place.time_zone)
    from_s, to_s = local_midnight_s(place, first), local_midnight_s(place, first + timedelta(days=days))
    found = []
    for one in passes(place, body, azimuth_deg, altitude_deg, within_deg, from_s, to_s):
        local = datetime.fromtimestamp(one.at_s, zone)
        found.append(
            Stand(
                at_s=one.at_s, date=local.date(), clock=f"{local:%H:%M:%S}", start=f"{local:%H:%M}",
                separation=f"{decimals(one.separation_deg, 2)}°",
                told=f"{local:%a %-d %b %Y, %H:%M:%S} {local.tzname()}: {decimals(one.separation_deg, 2)}° away",
            )
        )  # fmt: skip
    return found
