"""Ways under one cursor: where each one's film stands, by film time or by the clock."""

from collections.abc import Sequence
from typing import Literal

import numpy as np

from revani.core.quantities.arrays import Array
from revani.core.quantities.units import duration
from revani.core.ways.measured import Measured

Lock = Literal["film", "clock"]
# So many places of the cursor.
STEPS = 241


def lockstep(ways: Sequence[Measured], lock: Lock) -> tuple[list[list[float | None]], list[str]]:
    """For each way the second of its film at each place of the cursor, and the words for each place.

    None is where a way shows nothing: its film is over, or it does not run at that time. Within a way's run the
    frame that was taken last stands.
    """
    starts = [way.program.at_s[way.film.frames] for way in ways]
    lengths = [len(way.film.frames) / float(way.film.fps) for way in ways]
    if lock == "film":
        at = np.linspace(0, max(lengths), STEPS)
        return (
            [_listed(np.where(at <= length, at, np.nan)) for length in lengths],
            [f"{duration(round(float(one), 1))} of film" for one in at],
        )
    overs = [
        float(start[-1] + way.program.slot_s[way.film.frames[-1]]) for way, start in zip(ways, starts, strict=True)
    ]
    at = np.linspace(min(float(one[0]) for one in starts), max(overs), STEPS)
    found = []
    for way, start, over in zip(ways, starts, overs, strict=True):
        place = np.searchsorted(start, at + 1e-6, side="right") - 1
        # The middle of the frame, so that no rounding of a player shows the one before.
        film_s = (place + 0.5) / float(way.film.fps)
        found.append(_listed(np.where((place >= 0) & (at <= over), film_s, np.nan)))
    program = ways[0].program
    return found, [f"{program.local(float(one)):%H:%M}" for one in at]


def _listed(values: Array) -> list[float | None]:
    return [None if np.isnan(one) else round(float(one), 4) for one in values]
