"""The real stars to magnitude 6, turned to the equator of a date.

Positions, magnitudes and colours of the Extended Hipparcos Compilation (XHIP, CDS V/137D), shipped beside this module.
"""

from functools import lru_cache
from importlib.resources import files
from typing import NamedTuple

import numpy as np
from numpy.typing import ArrayLike

from revani.core.quantities.arrays import Array
from revani.core.sky.stars import equatorial
from revani.core.sky.sun_and_moon import timescale

# Illuminance of a star of magnitude 0 outside the air, lux (C. W. Allen, Astrophysical Quantities; from memory).
LUX_OF_ZERO = 2.54e-6
# What the air takes of a star in the zenith, magnitudes (memory: a clear night by the sea).
EXTINCTION = 0.2
_DAY_S = 86_400


class Stars(NamedTuple):
    """Unit vectors (n, 3) on the axes of an equator, magnitudes and B−V colours (n,), the brightest first."""

    vectors: Array
    magnitude: Array
    colour: Array


@lru_cache(maxsize=1)
def _j2000() -> Stars:
    table = np.loadtxt(str(files("revani.core.sky") / "stars_to_6.csv"), delimiter=",")
    return Stars(equatorial(table[:, 0], table[:, 1]), table[:, 2], table[:, 3])


@lru_cache(maxsize=16)
def _of_day(day: int) -> Stars:
    stars = _j2000()
    # Precession and nutation of noon: they change by a hundredth of a second of arc in a night.
    turned = stars.vectors @ np.asarray(timescale().utc(1970, 1, 1 + day, 12).M).T
    return stars._replace(vectors=turned)


def stars_of(at_s: float) -> Stars:
    """The stars on the true equator of an instant's day (seconds since 1970 UTC)."""
    return _of_day(int(at_s // _DAY_S))


def air_mass(altitude_deg: ArrayLike) -> Array:
    """Through how much air one looks at altitudes (any shape), 1 in the zenith.

    F. Kasten and A. T. Young, Applied Optics 28 (1989) 4735.
    """
    up = np.maximum(np.asarray(altitude_deg, dtype=np.float64), 0.0)
    return np.asarray(1 / (np.sin(np.radians(up)) + 0.50572 * (up + 6.07995) ** -1.6364))


def illuminance_lx(magnitude: Array, altitude_deg: Array) -> Array:
    """What reaches the ground of stars at altitudes (all broadcast), lux: dimmed by the air that they shine through.

    Nothing from below the horizon.
    """
    seen = LUX_OF_ZERO * 10 ** (-0.4 * (np.asarray(magnitude) + EXTINCTION * air_mass(altitude_deg)))
    return np.where(np.asarray(altitude_deg) > 0, seen, 0.0)
