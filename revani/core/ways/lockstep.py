"""Ways under one cursor: where each one's film stands, by film time or by the clock."""

from collections.abc import Sequence
from typing import Literal

import numpy as np
from numpy.typing import NDArray

from revani.core.quantities.arrays import Array
from revani.core.quantities.units import duration
from revani.core.ways.measured import Measured

Lock = Literal["film", "clock"]
# So many places of the cursor.
STEPS = 241


def lockstep(ways: Sequence[Measured], lock: Lock) -> tuple[list[list[float | None]], list[str]]:
    """For each way the second of its film at each place of the cursor, and the words for each place.

    None is where a way shows nothing, as in `stands`. The second is the middle of a frame, so that no rounding of a
    player shows the one before.
    """
    places = _places(ways, lock, STEPS)
    seek = [
        [None if one < 0 else round((one + 0.5) / float(way.film.fps), 4) for one in frames.tolist()]
        for way, frames in zip(ways, stands(ways, lock, STEPS), strict=True)
    ]
    if lock == "film":
        return seek, [f"{duration(round(float(one), 1))} of film" for one in places]
    program = ways[0].program
    return seek, [f"{program.local(float(one)):%H:%M}" for one in places]


def stands(ways: Sequence[Measured], lock: Lock, count: int) -> list[NDArray[np.intp]]:
    """For each way which frame of its film stands at each of so many places of the cursor, −1 where it shows nothing.

    Its film is over, or it does not run at that time. Within a way's run the frame that was taken last stands.
    """
    at = _places(ways, lock, count)
    found = []
    for way in ways:
        last = len(way.film.frames) - 1
        if lock == "film":
            frame = np.floor(at * float(way.film.fps) + 1e-6).astype(np.intp)
            # At its very end a film stands on its last frame.
            shown = np.where(at * float(way.film.fps) <= last + 1 + 1e-6, np.minimum(frame, last), -1)
        else:
            starts, over = _runs(way)
            frame = np.searchsorted(starts, at + 1e-6, side="right") - 1
            shown = np.where(at <= over, frame, -1)
        found.append(shown.astype(np.intp))
    return found


def frames_needed(ways: Sequence[Measured], lock: Lock) -> int:
    """How many frames a film of all of them beside each other has, at the first one's rate, so that none is lost."""
    if lock == "clock":
        return max(len(way.film.frames) for way in ways)
    return max(round(_seconds(ways) * float(ways[0].film.fps)), 1)


def _seconds(ways: Sequence[Measured]) -> float:
    return max(len(way.film.frames) / float(way.film.fps) for way in ways)


def _places(ways: Sequence[Measured], lock: Lock, count: int) -> Array:
    if lock == "film":
        return np.linspace(0, _seconds(ways), count)
    runs = [_runs(way) for way in ways]
    return np.linspace(min(float(starts[0]) for starts, _ in runs), max(over for _, over in runs), count)


def _runs(way: Measured) -> tuple[Array, float]:
    """When each frame of a way's film is taken, and when the last one's slot is over."""
    frames = way.film.frames
    starts = way.program.at_s[frames]
    return starts, float(starts[-1] + way.program.slot_s[frames[-1]])
