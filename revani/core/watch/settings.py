"""What a frame was taken with, by its own word, against what was planned for it."""

from typing import NamedTuple

import numpy as np

from revani.core.documents import Shot
from revani.core.documents.run import Taken
from revani.core.light.dials import marked_aperture, marked_iso, show_shutter
from revani.core.program.compiled import Program

# A dial goes by thirds: more than that is another setting, and far more a wrong one. A body that meters by itself meets
# another sky than was planned, so it is given more room (memory).
_SAME_STOPS, _SAME_MIREDS = 0.1, 5.0
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


def _sizes(asked: Taken, by_hand: bool, came: tuple[float | None, float | None, float | None]) -> list[Off]:
    """How far each setting is off; one that is not said, or is turned by hand and so not known, is left out."""
    shutter_s, aperture, iso = came
    rows = (
        (shutter_s, asked.shutter_s, 1.0, show_shutter, "light.shutter_s"),
        (None if by_hand else aperture, asked.aperture, 2.0, lambda f: f"f/{marked_aperture(f):g}", "light.aperture"),
        (iso, asked.iso, 1.0, lambda one: f"ISO {marked_iso(one):,}", "light.iso"),
    )
    return [
        Off(abs(power * float(np.log2(came / meant))), told(came), told(meant), field)
        for came, meant, power, told, field in rows
        if came is not None and came > 0 and meant > 0
    ]


def nearest_listed(shot: Shot, asked: Taken, stands: Taken) -> dict[str, str]:
    """What a body could not be set to, for it lists no such value: a sentence for each field of the shot.

    A tenth of a stop, such as between 1/500 and 0.0020 s, is no difference.
    """
    by_hand = not shot.kit.lens.electronic_aperture
    found = {
        one.field: f"The camera cannot be set to {one.planned}: {one.came} is nearest, {one.stops:.1f} stops off."
        for one in _sizes(asked, by_hand, (stands.shutter_s, stands.aperture, stands.iso))
        if one.stops > _SAME_STOPS and one.came != one.planned
    }
    meant, came = asked.white_balance_k, stands.white_balance_k
    if meant and came and abs(1e6 / meant - 1e6 / came) > _SAME_MIREDS:
        found["light.white_balance_k"] = f"The camera cannot be set to {meant:,} K: {came:,} K is nearest."
    return found


def furthest_off(
    program: Program, number: int, shutter_s: float | None, aperture: float | None, iso: float | None
) -> Off | None:
    """The setting of a frame that is the furthest off its plan; None where its file says nothing of any.

    An aperture that is turned by hand is not known to the body, whatever its file says.
    """
    planned, by_hand = planned_for(program, number), not program.shot.kit.lens.electronic_aperture
    return max(_sizes(planned, by_hand, (shutter_s, aperture, iso)), key=lambda one: one.stops, default=None)
