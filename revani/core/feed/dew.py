"""Dew: when a lens that is colder than the air's dew point is wet."""

import numpy as np
from numpy.typing import ArrayLike

from revani.core.quantities.arrays import Array

# Magnus formula over water, coefficients of the WMO Guide to Instruments and Methods of Observation (memory).
_A, _B_C = 17.62, 243.12


# How much colder than the air a lens gets under an open night sky (memory).
LENS_COOLS_C = 2.0
# How much warmer than it would be a heater keeps a lens (memory).
HEATER_WARMS_C = 6.0


def dew_point_c(temperature_c: ArrayLike, humidity_percent: ArrayLike) -> Array:
    """The temperature at which the air's own moisture falls out, °C (any shape)."""
    t = np.asarray(temperature_c, dtype=np.float64)
    part = np.log(np.asarray(humidity_percent) / 100) + _A * t / (_B_C + t)
    return np.asarray(_B_C * part / (_A - part))
