"""Where a thing that runs out will end, as it is measured, beside what was planned."""

from collections.abc import Sequence
from typing import NamedTuple

import numpy as np

# Fewer measurements, a shorter while (seconds) or a smaller loss than these tell nothing yet (memory).
_FEWEST, _SHORTEST_S, _LEAST_LOSS = 8, 600.0, 0.02


class Sample(NamedTuple):
    """How much was left at an instant: seconds since 1970 UTC, and a part of the whole, 0 to 1."""

    at_s: float
    left: float


def ends_at_s(samples: Sequence[Sample], floor: float) -> float | None:
    """When so little will be left, if it goes on as it has in the later half; None where nothing can be said of it.

    A straight line of least squares through the later half of what was measured, for what draws at the end of a night
    draws in the cold. None, too, where it fills rather than empties.
    """
    later = samples[len(samples) // 2 :]
    if len(later) < _FEWEST or later[-1].at_s - later[0].at_s < _SHORTEST_S:
        return None
    if later[0].left - later[-1].left < _LEAST_LOSS:
        return None
    at, left = np.array(later).T
    slope, start = np.polynomial.polynomial.polyfit(at - at[0], left, 1)[::-1]
    return None if slope >= 0 else float(at[0] + (floor - start) / slope)
