"""Practice: what would be left of a shot if something went wrong that nobody planned."""

from collections.abc import Sequence
from dataclasses import replace
from typing import Literal, NamedTuple

import numpy as np
from numpy.typing import ArrayLike, NDArray

from revani.core.documents import Place, Shot
from revani.core.documents.place import WeatherHour
from revani.core.light.exposing import LightOn, expose, night_stops
from revani.core.light.scene import CLOUD_STOPS, moonlight_stops
from revani.core.program.compiled import Program, compile_shot
from revani.core.rehearsal.outcome import stands_from, taken_frames
from revani.core.sky.weather import HOLE_S, known

Mishap = Literal[
    "half a battery", "cold", "cloud comes in", "the moon is forgotten", "an hour is missed", "an axis stalls"
]
MISHAPS: tuple[tuple[Mishap, str], ...] = (
    ("half a battery", "the camera's battery is half of what it should be"),
    ("cold", "it is 15 °C (27 °F) colder than expected"),
    ("cloud comes in", "from the middle on the sky is overcast within half an hour"),
    ("the moon is forgotten", "the exposure is planned as though there were no moon"),
    ("an hour is missed", "nothing is taken for an hour in the middle"),
    ("an axis stalls", "from the middle on the rig stands still"),
)
_COLDER_C = 15.0
# What a moon below this adds, nobody has forgotten.
_NOTHING_STOPS = 0.05
_COMES_IN_S = 1_800.0
# A place keeps so many hours.
_MOST_HOURS = 240


class Practised(NamedTuple):
    """A program after what went wrong: which frames (n,) are taken, and from which on the rig stands, if it does."""

    program: Program
    taken: NDArray[np.bool_]
    stands: int | None

    def posed_at(self, frames: ArrayLike) -> NDArray[np.intp]:
        """As which frame the rig is posed at frames (any shape): from where it stands on it stays so."""
        at = np.asarray(frames, dtype=np.intp)
        return at if self.stands is None else np.minimum(at, max(self.stands - 1, 0))


def practised(planned: Program, mishaps: Sequence[Mishap] = ()) -> Practised:
    """A program with mishaps that it does not know of: settings stay as planned unless the body chooses them."""
    shot = planned.shot
    if "the moon is forgotten" in mishaps:
        planned = _moon_forgotten(planned)
    program = planned
    harmed = _harmed(planned, mishaps)
    if harmed != shot:
        program = compile_shot(harmed)
        if not shot.light.automatic:
            # What was planned is taken, whatever comes.
            darker = program.scene_ev - planned.scene_ev
            asked = replace(planned.exposures, error_stops=planned.exposures.error_stops + darker)
            program = replace(program, exposures=asked)
    taken, stands = taken_frames(program), stands_from(program)
    middle = planned.frame_count // 2
    if "an hour is missed" in mishaps:
        taken = taken & ~((program.t_s >= program.t_s[middle]) & (program.t_s < program.t_s[middle] + 3600))
    if "an axis stalls" in mishaps and program.motion is not None:
        stands = middle if stands is None else min(stands, middle)
        if shot.move is not None and shot.move.on_stall == "end":
            taken = taken & (np.arange(taken.size) < middle)
    return Practised(program, taken, stands)


def _moon_forgotten(program: Program) -> Program:
    """The program with the settings that it would have without a moon, under the moon that there is."""
    shot = program.shot
    more = moonlight_stops(program.sky, program.at_s, shot.place.sky_brightness)
    if shot.light.automatic or more.max() < _NOTHING_STOPS:
        return program
    dark = LightOn(
        program.t_s, program.scene_ev - more, program.nd_stops, program.shutter_room_s,
        night_stops(shot.light, program.sun_altitude_deg),
    )  # fmt: skip
    asked = expose(shot, dark)
    return replace(program, exposures=replace(asked, error_stops=asked.error_stops + more))


def _harmed(program: Program, mishaps: Sequence[Mishap]) -> Shot:
    """The shot with what mishaps change in its kit and its weather."""
    shot = program.shot
    if "half a battery" in mishaps:
        body = shot.kit.body.model_copy(update={"battery_wh": shot.kit.body.battery_wh / 2})
        shot = shot.model_copy(update={"kit": shot.kit.model_copy(update={"body": body})})
    place = shot.place
    if "cold" in mishaps:
        hours = tuple(
            one if one.temperature_c is None
            else one.model_copy(update={"temperature_c": max(one.temperature_c - _COLDER_C, -60.0)})
            for one in place.weather
        )  # fmt: skip
        coldest = max(place.temperature_c - _COLDER_C, -60.0)
        place = place.model_copy(update={"temperature_c": coldest, "weather": hours})
    if "cloud comes in" in mishaps:
        place = _clouded(place, program)
    return shot.model_copy(update={"place": place})


def _clouded(place: Place, program: Program) -> Place:
    """The place with a sky that closes from the middle of the shot on."""
    begins = float(program.at_s[program.frame_count // 2])
    before, is_known = known(place, "cloud", begins)
    planned = CLOUD_STOPS[program.shot.light.cloud] / CLOUD_STOPS["overcast"]
    at_first = float(before) if bool(is_known) else planned
    # As far apart as hours may be without a hole, so that even a very long shot has no more than a place may keep.
    closed = np.arange(begins + _COMES_IN_S, program.end_s + HOLE_S, HOLE_S)[: _MOST_HOURS // 2].tolist()
    told = {begins: at_first} | dict.fromkeys(closed, 1.0)
    if not bool(is_known):
        told = {begins - 1: planned} | told
    hours = place.weather
    while len(hours) + len(told) > _MOST_HOURS:
        hours = hours[::2]
    kept = [one.model_copy(update={"cloud": 1.0}) if one.at_s > begins else one for one in hours]
    new = [WeatherHour(at_s=at, cloud=part) for at, part in told.items() if at not in {one.at_s for one in kept}]
    return place.model_copy(update={"weather": tuple(sorted([*kept, *new], key=lambda one: one.at_s))})
