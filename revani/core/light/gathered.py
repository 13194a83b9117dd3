"""Light gathered: what makes grain and shows faint stars, whatever the ISO."""

import numpy as np
from numpy.typing import ArrayLike

from revani.core.quantities.arrays import Array

# A star gathers no more for a pixel than while it crosses so much (memory).
CROSSES_PX = 3.0


def sky_stops(shutter_s: ArrayLike, aperture: ArrayLike) -> Array:
    """Light of the sky on each pixel, stops against 1 s at f/1: log2(t/N²). All broadcast."""
    shutter, n = np.asarray(shutter_s, dtype=np.float64), np.asarray(aperture, dtype=np.float64)
    return np.asarray(np.log2(shutter / n**2))


def star_stops(shutter_s: ArrayLike, aperture: ArrayLike, focal_length_mm: float, px_per_s: ArrayLike = 0.0) -> Array:
    """Light of a star that stays a point, stops: log2(t (f/N)²), f in mm; one that trails gathers while it crosses.

    `px_per_s` is how fast stars move in the picture; 0: they stay points. All broadcast.
    """
    shutter, n = np.asarray(shutter_s, dtype=np.float64), np.asarray(aperture, dtype=np.float64)
    speed = np.asarray(px_per_s, dtype=np.float64)
    counts = np.minimum(shutter, np.where(speed > 0, CROSSES_PX / np.where(speed > 0, speed, 1.0), np.inf))
    return np.asarray(np.log2(counts * (focal_length_mm / n) ** 2))


def fainter_magnitudes(stops: ArrayLike) -> Array:
    """By how many magnitudes fainter stars show for so many stops more, sky-limited: 1.25 log10 2 a stop (memory)."""
    return np.asarray(1.25 * np.log10(2.0) * np.asarray(stops, dtype=np.float64))
