"""What a frame was taken with, by its own word, against what was planned for it."""

from typing import NamedTuple

import numpy as np

from revani.core.documents import Shot
from revani.core.documents.run import Taken
from revani.core.light.dials import marked_aperture, marked_iso, show_shutter
from revani.core.program.compiled import Program

# A dial goes by thirds: more than that is another setting, and far more a wrong one. A body that meters by itself meets
# another sky than was planned, so it is given more room (memory).
_OTHER_STOPS, _WRONG_STOPS = 0.5, 1.0
_METERED_OTHER_STOPS, _METERED_WRONG_STOPS = 1.0, 2.0


class Off(NamedTuple):
    """How far one setting is off what was planned, stops; both in words; and the field of the shot that rules it."""

    stops: float
    came: str
    planned: str
    field: str


def allowed_stops(shot: Shot) -> tuple[float, float]:
    """From how many stops on a setting is another one than was planned, and from how many on a wrong one."""
    metered = shot.light.automatic
    return (_METERED_OTHER_STOPS, _METERED_WRONG_STOPS) if metered else (_OTHER_STOPS, _WRONG_STOPS)


def planned_for(program: Program, number: int) -> Taken:
    """The settings that are planned for a frame, counted from 1."""
    i, got = number - 1, program.exposures
    return Taken(shutter_s=float(got.shutter_s[i]), aperture=float(got.aperture[i]), iso=float(got.iso[i]))


def furthest_off(
    program: Program, number: int, shutter_s: float | None, aperture: float | None, iso: float | None
) -> Off | None:
    """The setting of a frame that is the furthest off its plan; None where its file says nothing of any.

    An aperture that is turned by hand is not known to the body, whatever its file says.
    """
    planned, by_hand = planned_for(program, number), not program.shot.kit.lens.electronic_aperture
    asked = (
        (shutter_s, planned.shutter_s, 1.0, show_shutter, "light.shutter_s"),
        (None if by_hand else aperture, planned.aperture, 2.0, lambda f: f"f/{marked_aperture(f):g}", "light.aperture"),
        (iso, planned.iso, 1.0, lambda one: f"ISO {marked_iso(one):,}", "light.iso"),
    )
    found = [
        Off(abs(power * float(np.log2(came / meant))), told(came), told(meant), field)
        for came, meant, power, told, field in asked
        if came is not None and came > 0 and meant > 0
    ]
    return max(found, key=lambda one: one.stops, default=None)
