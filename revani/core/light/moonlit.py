"""The sky under the moon.

Krisciunas & Schaefer, A model of the brightness of moonlight, PASP 103 (1991) 1033 (formula from memory; check: full
moon and line of sight both 30° from the zenith and 60° apart, a sky of 21.7 becomes 18.42).
"""

import numpy as np
from numpy.typing import ArrayLike

from revani.core.quantities.arrays import Array

_EXTINCTION = 0.172


def nanolamberts(magnitudes: ArrayLike) -> Array:
    """Brightness of a sky in nanolambert, from mag/arcsec²."""
    return np.asarray(34.08 * np.exp(20.7233 - 0.92104 * np.asarray(magnitudes, dtype=np.float64)))


def moonlit_nl(
    phase_angle_deg: ArrayLike, separation_deg: ArrayLike, moon_altitude_deg: ArrayLike, altitude_deg: ArrayLike
) -> Array:
    """What the moon adds to the sky in a direction, nanolambert; nothing once it is set. All broadcast.

    The phase angle is 0 at full moon; `separation_deg` lies between the moon and the direction.
    """
    phase, apart = np.abs(np.asarray(phase_angle_deg, dtype=np.float64)), np.asarray(separation_deg, dtype=np.float64)
    moon = 10 ** (-0.4 * (3.84 + 0.026 * phase + 4e-9 * phase**4))
    scattered = 10**5.36 * (1.06 + np.cos(np.radians(apart)) ** 2) + 10 ** (6.15 - apart / 40)
    through, along = _airmass(moon_altitude_deg), _airmass(altitude_deg)
    added = scattered * moon * 10 ** (-0.4 * _EXTINCTION * through) * (1 - 10 ** (-0.4 * _EXTINCTION * along))
    return np.where(np.asarray(moon_altitude_deg) > 0, added, 0.0)


def moonlit_mag(dark_sky_mag: ArrayLike, added_nl: ArrayLike) -> Array:
    """The sky with so much added to its own, mag/arcsec²."""
    return np.asarray((20.7233 - np.log((nanolamberts(dark_sky_mag) + np.asarray(added_nl)) / 34.08)) / 0.92104)


def _airmass(altitude_deg: ArrayLike) -> Array:
    zenith = np.radians(90.0 - np.clip(np.asarray(altitude_deg, dtype=np.float64), 0.0, 90.0))
    return np.asarray((1 - 0.96 * np.sin(zenith) ** 2) ** -0.5)
