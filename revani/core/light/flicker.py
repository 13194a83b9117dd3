"""Flicker: what the eye sees of brightness that differs from frame to frame."""

from fractions import Fraction

import numpy as np
from scipy.ndimage import median_filter

from revani.core.quantities.arrays import Array

# From memory: over the first many people see it, over the second most do.
VISIBLE_TO_MANY, VISIBLE_TO_MOST = 0.05, 0.15
_WIDEST = 121


def smoothed_stops(error_stops: Array, fps: Fraction) -> Array:
    """Brightness errors after a running median over a second of film (at most 121 frames)."""
    width = min(int(fps) // 2 * 2 + 1, _WIDEST, max(1, error_stops.size // 2 * 2 - 1))
    return np.asarray(median_filter(error_stops, max(width, 1), mode="nearest"))


def flicker_stops(error_stops: Array, fps: Fraction) -> float:
    """Standard deviation, in stops, of brightness after its running median over a second is taken away."""
    if error_stops.size < 3:
        return 0.0
    return float(np.std(error_stops - smoothed_stops(error_stops, fps)))
