"""The schools of exposing side by side, over the same light."""

from typing import get_args

import numpy as np
from pydantic import BaseModel, ConfigDict

from revani.core.documents import School, Shot
from revani.core.light.dials import marked_iso, show_shutter
from revani.core.light.exposing import SCHOOL_NAMES, Exposures, as_school, check_settings, expose
from revani.core.light.firing import check_firing
from revani.core.light.flicker import VISIBLE_TO_MANY, VISIBLE_TO_MOST, flicker_stops, smoothed_stops
from revani.core.light.gathered import sky_stops
from revani.core.program.compiled import Program
from revani.core.quantities.refusal import Refusal
from revani.core.quantities.units import duration, stops
from revani.core.rehearsal.lost import clipped

_CURVE_POINTS = 120


class SchoolOutcome(BaseModel):
    """What one school would make of a shot; `refused` says why it cannot be had with this kit.

    `error_stops` is the error curve, thinned; `shot` is the document that chooses the school.
    """

    model_config = ConfigDict(frozen=True)

    school: School
    name: str
    chosen: bool
    refused: str = ""
    error_stops: list[float] = []
    worst: str = ""
    flicker_stops: float = 0.0
    flicker: str = ""
    smoothed: str = ""
    visible: str = ""
    clipped: int = 0
    iso_reached: str = ""
    longest_shutter: str = ""
    dark_gap: str = ""
    gathered: str = ""
    shot: Shot


def compare_schools(program: Program) -> tuple[SchoolOutcome, ...]:
    """All five schools over the light of a program."""
    return tuple(_outcome(program, school) for school in get_args(School))


def _outcome(program: Program, school: School) -> SchoolOutcome:
    shot = program.shot.model_copy(update={"light": as_school(program.shot, school)})
    chosen, name = school == program.shot.light.school, SCHOOL_NAMES[school]
    try:
        check_firing(shot)
        check_settings(shot)
    except Refusal as refusal:
        return SchoolOutcome(school=school, name=name, chosen=chosen, refused=refusal.allowed, shot=shot)
    got = program.exposures if chosen else expose(shot, program.light_on)
    error, fps = got.error_stops, program.timing.fps
    flicker = flicker_stops(error, fps)
    after = flicker_stops(smoothed_stops(error, fps), fps)
    darkest = int(np.argmin(program.scene_ev))
    worst = float(error[np.argmax(np.abs(error))])
    points = np.unique(np.linspace(0, error.size - 1, min(_CURVE_POINTS, error.size)).astype(int))
    return SchoolOutcome(
        school=school,
        name=name,
        chosen=chosen,
        error_stops=np.round(error[points], 2).tolist(),
        worst=stops(worst),
        flicker_stops=flicker,
        flicker=f"{flicker:.2f}",
        smoothed=f"{after:.2f}",
        visible="most see it" if flicker > VISIBLE_TO_MOST else "many see it" if flicker > VISIBLE_TO_MANY else "",
        clipped=int(clipped(shot.body, error).sum()),
        iso_reached=f"{marked_iso(float(got.iso.max()))}",
        longest_shutter=show_shutter(float(got.shutter_s.max())),
        dark_gap=duration(round(float(program.slot_s[darkest] - got.shutter_s[darkest]), 2)),
        gathered=_gathered_told(program, got, darkest),
        shot=shot,
    )


def _gathered_told(program: Program, got: Exposures, at: int) -> str:
    """Light gathered in a frame against that of the way that is chosen: grain follows it, whatever the ISO."""
    mine = float(sky_stops(got.shutter_s[at], got.aperture[at]))
    return stops(mine - float(sky_stops(program.exposures.shutter_s[at], program.exposures.aperture[at])))
