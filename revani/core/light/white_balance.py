"""White balance over a shot: held, taken over in small steps as night falls, or left to the body."""

import numpy as np
from numpy.typing import ArrayLike

from revani.core.documents import Light
from revani.core.quantities.arrays import Array

# Common practice, no source: daylight 5,000–5,600 K, a night sky 3,500–4,200 K.
_DAY_FROM_DEG, _NIGHT_FROM_DEG = 3.0, -9.0
_LIGHT_DEG = np.array([-12.0, -6.0, 0.0, 6.0, 20.0])
_LIGHT_K = np.array([4_000.0, 6_800.0, 4_300.0, 5_000.0, 5_400.0])
NAMED_K = {"tungsten": 3_200, "fluorescent": 4_000, "daylight": 5_200, "flash": 5_500, "cloudy": 6_000, "shade": 7_000}
"""What bodies mean by the names of their white balances (common practice, no source)."""
DRIFT_K = 120.0
"""Standard deviation of an automatic white balance from frame to frame (memory)."""


def white_balance_k(light: Light, sun_altitude_deg: ArrayLike, seed: int) -> Array:
    """Kelvins a frame. A ramp goes in steps between the sun at +3° and at −9°, even in the reciprocal.

    `seed` draws what an automatic white balance makes of each frame.
    """
    altitude = np.asarray(sun_altitude_deg, dtype=np.float64)
    if light.white_balance == "fixed":
        return np.full_like(altitude, float(light.white_balance_k))
    if light.white_balance == "automatic":
        return automatic_k(altitude, np.random.default_rng(seed + 1).normal(0.0, DRIFT_K, altitude.shape))
    night = np.clip((_DAY_FROM_DEG - altitude) / (_DAY_FROM_DEG - _NIGHT_FROM_DEG), 0, 1)
    exact = 1 / ((1 - night) / light.white_balance_k + night / light.white_balance_night_k)
    step = light.white_balance_step_k
    low, high = sorted((light.white_balance_k, light.white_balance_night_k))
    return np.asarray(np.clip(np.round(exact / step) * step, low, high))


def automatic_k(sun_altitude_deg: ArrayLike, drift_k: ArrayLike) -> Array:
    """What a body's own white balance takes under a sky, off by its drift (invented shape, for the stand-in)."""
    return np.asarray(
        np.interp(np.asarray(sun_altitude_deg, dtype=np.float64), _LIGHT_DEG, _LIGHT_K) + np.asarray(drift_k)
    )
