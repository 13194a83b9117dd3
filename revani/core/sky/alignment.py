"""When sun, moon or the galactic core stand at a point: the nearest instants of their passes."""

from typing import Literal, NamedTuple

import numpy as np
from numpy.typing import ArrayLike
from scipy.optimize import minimize_scalar

from revani.core.documents import Place
from revani.core.quantities.arrays import Array
from revani.core.sky.stars import galactic_core_directions
from revani.core.sky.sun_and_moon import COARSE_S, Bearings, Sky, sky_over

Luminary = Literal["sun", "moon", "galactic core"]
_LOOK_S = 120.0


class Pass(NamedTuple):
    """The instant at which a centre comes nearest to a point, seconds since 1970, and how near."""

    at_s: float
    separation_deg: float


def separation_deg(sky: Sky, body: Luminary, at_s: ArrayLike, azimuth_deg: float, altitude_deg: float) -> Array:
    """Great-circle angle from a point to the centre of sun, moon or galaxy, airless (any shape)."""
    seen = _seen(sky, body, at_s)
    a, b = np.radians(seen.altitude_deg), np.radians(altitude_deg)
    half = np.sin((a - b) / 2) ** 2
    half = half + np.cos(a) * np.cos(b) * np.sin(np.radians(seen.azimuth_deg - azimuth_deg) / 2) ** 2
    return np.asarray(np.degrees(2 * np.arcsin(np.sqrt(np.clip(half, 0, 1)))))


def _seen(sky: Sky, body: Luminary, at_s: ArrayLike) -> Bearings:
    if body == "sun":
        return sky.sun(at_s)
    if body == "moon":
        return sky.moon(at_s)
    at = np.atleast_1d(np.asarray(at_s, dtype=np.float64))
    east, north, up = np.moveaxis(galactic_core_directions(sky.latitude_deg, sky.longitude_deg, at), -1, 0)
    shape = np.shape(at_s)
    altitude, azimuth = np.degrees(np.arcsin(np.clip(up, -1, 1))), np.degrees(np.arctan2(east, north)) % 360
    return Bearings(altitude.reshape(shape), azimuth.reshape(shape))


# The core is seen once the sun is as far down as this (common practice, no source).
_CORE_FROM_SUN_DEG = -12.0


def passes(
    place: Place, body: Luminary, azimuth_deg: float, altitude_deg: float, within_deg: float, from_s: float, to_s: float
) -> list[Pass]:
    """The passes inside a span of time that come within a distance, in order; looked for coarsely, found exactly."""
    sky = sky_over(place, from_s, to_s, COARSE_S)
    at = np.append(np.arange(from_s, to_s, _LOOK_S), to_s)
    apart = separation_deg(sky, body, at, azimuth_deg, altitude_deg)
    lows = np.flatnonzero((apart[1:-1] <= apart[:-2]) & (apart[1:-1] < apart[2:])) + 1
    found = []
    for i in lows:
        # No luminary comes nearer by more than a degree between two looks.
        if apart[i] > within_deg + 1.0:
            continue
        looked_s = float(at[i])
        near = sky_over(place, looked_s - 600, looked_s + 600)
        # Measured from the look: a search over seconds since 1970 would end half a minute early, for want of digits.
        best = minimize_scalar(
            lambda after_s, near=near, looked_s=looked_s: float(
                separation_deg(near, body, looked_s + after_s, azimuth_deg, altitude_deg)
            ),
            bounds=(float(at[i - 1]) - looked_s, float(at[i + 1]) - looked_s), method="bounded",
            options={"xatol": 1e-3},
        )  # fmt: skip
        if best.fun <= within_deg and (body != "galactic core" or near.sun(looked_s).altitude_deg < _CORE_FROM_SUN_DEG):
            found.append(Pass(looked_s + float(best.x), float(best.fun)))
    return found
