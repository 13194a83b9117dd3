"""The weather by the hour at a place: interpolated where it is known, the place's usual values where it is not."""

from typing import Literal

import numpy as np
from numpy.typing import ArrayLike, NDArray

from revani.core.documents import Place
from revani.core.quantities.arrays import Array

Told = Literal["temperature_c", "humidity_percent", "cloud", "wind_m_s"]
# Hours further apart than this are a hole, which is not filled: six hours change the weather (memory).
HOLE_S = 6 * 3_600.0
# What is known of an hour holds so long before and after it.
_HOLDS_S = 3_600.0


def known(place: Place, what: Told, at_s: ArrayLike) -> tuple[Array, NDArray[np.bool_]]:
    """A value at instants (any shape), straight between hours, and where it is known at all."""
    at = np.asarray(at_s, dtype=np.float64)
    rows = [(one.at_s, float(getattr(one, what))) for one in place.weather if getattr(one, what) is not None]
    if not rows:
        return np.zeros_like(at), np.zeros(at.shape, dtype=bool)
    hours, values = np.array(rows).T
    after = np.searchsorted(hours, at, side="left")
    later = hours[np.minimum(after, hours.size - 1)]
    sooner = hours[np.maximum(after - 1, 0)]
    within = (after > 0) & (after < hours.size) & (later - sooner <= HOLE_S)
    near = (np.abs(at - later) <= _HOLDS_S) | (np.abs(at - sooner) <= _HOLDS_S)
    return np.asarray(np.interp(at, hours, values)), np.asarray(within | near)


def temperature_c(place: Place, at_s: ArrayLike) -> Array:
    """Temperatures at instants (any shape), °C: the place's coldest expected where none is known."""
    values, is_known = known(place, "temperature_c", at_s)
    return np.where(is_known, values, place.temperature_c)
