"""A walk from above, to scale, and its stations as a table."""

from typing import Literal

import numpy as np
from pydantic import BaseModel, ConfigDict

from revani.core.documents import Shot
from revani.core.edit.walking import pause_s
from revani.core.findings.walk import hidden_from
from revani.core.move.axes import middle_mm
from revani.core.move.carried import Carried
from revani.core.optics.lens import focal_px
from revani.core.optics.projection import view_deg
from revani.core.program.compiled import Program
from revani.core.quantities.arrays import spans
from revani.core.quantities.measures import ANGLE, DISTANCE
from revani.core.quantities.units import decimals, duration
from revani.core.reframe.crop import hand_zoom
from revani.core.shown.sentence import Word, leg_words

_MOST_STANDS, _MOST_RAYS = 60, 7
_AROUND = 1.15
# Wider than this, a wedge from above is none any more.
_WIDEST_DRAWN_DEG = 85.0


class WalkPart(BaseModel):
    """Base of what a walk shows; places are mm to the right and ahead."""

    model_config = ConfigDict(frozen=True)


class WalkStand(WalkPart):
    """A place on the path: a station, or one of some moments of a filmed walk."""

    number: int
    x_mm: float
    y_mm: float
    ray: list[float] | None


class OnTable(WalkPart):
    """A thing from above."""

    name: str
    role: Literal["subject", "foreground", "background"]
    x_mm: float
    y_mm: float
    width_mm: float
    aim: bool


class LostStretch(WalkPart):
    """A part of the path from which what is looked at is not seen."""

    points: list[list[float]]
    label: str


class StationRow(WalkPart):
    """What is done at a station, in words."""

    number: int
    clock: str
    along: str
    bearing: str
    dial: str
    height: str
    away: str
    pause: str
    light: str


class WalkTable(WalkPart):
    """All that is shown of a walk beside the loom."""

    number: int
    points: list[list[float]]
    low: list[float]
    high: list[float]
    stands: list[WalkStand]
    here: WalkStand
    view: list[list[float]]
    things: list[OnTable]
    lost: list[LostStretch]
    north_deg: float
    sun_deg: float | None
    sun: str
    legs: list[list[Word]]
    stations: list[StationRow]
    told: list[str]


def walk_table(program: Program, number: int) -> WalkTable:
    """A walk at a frame; `number` counts from 1. The program must be one of a walk."""
    carried, shot = program.carried, program.shot
    assert carried is not None
    things = shot.things
    at = np.unique(np.linspace(0, program.frame_count - 1, min(_MOST_STANDS, program.frame_count)).round().astype(int))
    stands = [_stand(program, carried, int(i), k % max(len(at) // _MOST_RAYS, 1) == 0) for k, i in enumerate(at)]
    corners = np.concatenate(
        [carried.track.points_mm, [[one.x_mm, one.y_mm] for one in things]] if things else [carried.track.points_mm]
    )
    low, high = corners.min(axis=0), corners.max(axis=0)
    around = max(float((high - low).max()), 4_000.0) * (_AROUND - 1)
    i = number - 1
    sun = program.sky.sun(np.array([program.at_s[i]]))
    up = float(sun.altitude_deg[0])
    return WalkTable(
        number=number,
        points=carried.track.points_mm.round(0).tolist(),
        low=(low - around).tolist(),
        high=(high + around).tolist(),
        stands=stands,
        here=_stand(program, carried, i, True),
        view=_view(program, i, float((high - low).max()) + around),
        things=[
            OnTable(
                name=one.name, role=one.role, x_mm=one.x_mm, y_mm=one.y_mm, width_mm=one.width_mm,
                aim=carried.walk.towards == "a thing" and one.name == carried.walk.thing,
            )
            for one in things
        ],
        lost=_lost(program, carried),
        north_deg=-shot.framing.heading_deg,
        sun_deg=float(sun.azimuth_deg[0]) - shot.framing.heading_deg if up > -1 else None,
        sun=f"sun {ANGLE.show(float(sun.azimuth_deg[0]), 0)}" if up > -1 else "the sun is down",
        legs=[leg_words(shot, leg) for leg in range(len(carried.track.legs))],
        stations=[station(program, int(j)) for j in at],
        told=_told(program, carried),
    )  # fmt: skip


def _stand(program: Program, carried: Carried, i: int, ray: bool) -> WalkStand:
    x, y = carried.track.place_mm(carried.along_m(program.t_s[i])).tolist()
    thing = carried.thing if carried.walk.towards == "a thing" else None
    return WalkStand(
        number=i + 1, x_mm=round(x), y_mm=round(y), ray=[thing.x_mm, thing.y_mm] if thing is not None and ray else None
    )


def _view(program: Program, i: int, reach_mm: float) -> list[list[float]]:
    """The corners of what the camera sees from above: where it is, and the ends of its left and right edge."""
    pose, shot = program.pose(program.t_s[i]), program.shot
    seen = view_deg(shot.recording.projection, shot.body.sensor_width_mm, float(pose.focal_mm))
    half = min((seen or 360.0) / 2, _WIDEST_DRAWN_DEG)
    ahead = float(pose.heading_deg) - shot.framing.heading_deg
    x, y = float(pose.right_mm), float(pose.ahead_mm)
    ends = np.radians([ahead - half, ahead + half])
    near = reach_mm * 0.35
    return [[x, y], *([x + near * float(np.sin(one)), y + near * float(np.cos(one))] for one in ends)]


def _lost(program: Program, carried: Carried) -> list[LostStretch]:
    thing, shot = carried.thing, program.shot
    if thing is None or carried.walk.towards != "a thing":
        return []
    along = np.linspace(0, carried.track.length_m, 400)
    places = carried.track.place_mm(along)
    hidden, by = hidden_from(places, thing, shot.things)
    return [
        LostStretch(
            points=carried.track.place_mm(np.linspace(one.from_s, one.to_s, 12)).round(0).tolist(),
            label=f"behind {by}, {decimals(one.from_s, 0)} – {DISTANCE.show(one.to_s, 0)}",
        )
        for one in spans(hidden, along)
    ]


def station(program: Program, i: int) -> StationRow:
    """What is done at a frame of a walk, counted from 0, in words."""
    carried, shot = program.carried, program.shot
    assert carried is not None
    pose = program.pose(program.t_s[i])
    along = float(carried.along_m(program.t_s[i]))
    thing = carried.thing if carried.walk.towards == "a thing" else None
    bearing, height, away = "", "", ""
    if thing is not None:
        to = middle_mm(thing) - np.array([float(pose.right_mm), float(pose.ahead_mm), 0.0])
        metres = float(np.hypot(to[0], to[1])) / 1000
        bearing = ANGLE.show((float(np.degrees(np.arctan2(to[0], to[1]))) + shot.framing.heading_deg) % 360, 0)
        away = DISTANCE.show(metres, 0)
        height = f"{thing.height_mm * focal_px(shot) / max(metres * 1000, 1):,.0f} px"
    return StationRow(
        number=i + 1, clock=f"{program.local(float(program.at_s[i])):%H:%M:%S}", along=DISTANCE.show(along, 1),
        bearing=bearing, dial=ANGLE.show(float(pose.heading_deg) % 360, 0), height=height, away=away,
        pause="" if carried.walk.filmed else duration(round(pause_s(shot), 2)),
        light=f"EV {decimals(float(program.scene_ev[i]), 1)}",
    )  # fmt: skip


_SUPPORT_SHOWS = {
    "held": "held: nothing of the one who walks is in the picture",
    "on a stick": "on a stick: its end is hidden where the stick points straight at the camera, and shows beside that",
    "on the chest": "on the chest: arms come into the picture's foot, and it nods with every step",
    "in the backpack": "in the backpack: it looks over the head; hat and shoulders come into the picture's foot",
    "on a vehicle": "on a vehicle: what it is fixed to shows; never filmed by who drives",
}


def _told(program: Program, carried: Carried) -> list[str]:
    walk, shot = carried.walk, program.shot
    zoom = hand_zoom(focal_px(shot), shot.body.pixels_wide, shot.body.pixels_high, walk.hand_deg, walk.roll_deg)
    hands = f"Hands that are off by {decimals(walk.hand_deg, 1)}° and roll by {decimals(walk.roll_deg, 1)}°"
    told = [
        f"{hands} take {decimals(zoom, 2)} ×: frame that much wider, {_wider(shot, zoom)}."
        if np.isfinite(zoom)
        else f"{hands} leave nothing of the picture."
    ]
    told.append(f"Carried {_SUPPORT_SHOWS[walk.support]}.")
    if walk.filmed:
        step = carried.pace_m_s * float(walk.factor / program.timing.fps)
        told.append(f"A film frame every {DISTANCE.show(step, 2)} of the way while it is sped up.")
    else:
        step = carried.track.length_m / program.frame_count
        told.append(
            f"A station every {DISTANCE.show(step, 2)}, {duration(program.timing.interval_s)} each: set what is looked "
            f"at on the same place of the finder, {walk.across:.0%} across and {walk.down:.0%} down."
        )
    return told


def _wider(shot: Shot, zoom: float) -> str:
    """How wide that is, as a focal length."""
    return f"at {decimals(shot.focal_length_mm / zoom, 1)} mm instead of {decimals(shot.focal_length_mm, 1)} mm"
