"""The raised horizon of a place, and when the sun goes behind it."""

from collections.abc import Sequence
from functools import lru_cache

import numpy as np
from numpy.typing import ArrayLike

from revani.core.documents import Place
from revani.core.quantities.arrays import Array
from revani.core.sky.sun_and_moon import Sky, SkyEvent

SUN_RADIUS_DEG = 0.267


# A gap between two noted points of a skyline that is wider than this is open ground.
_OPEN_GAP_DEG = 180.0


_BRINK_DEG = 1e-6


def skyline_points(place: Place) -> tuple[tuple[float, float], ...]:
    """Azimuth and height of the points of a place's raised horizon, ascending.

    Between neighbouring points it is a straight line. Beyond the outermost ones it is flat, unless the
    points close the circle: no gap between neighbours of 180° or more. One point alone raises nothing.
    """
    noted = sorted({point.azimuth_deg: point.altitude_deg for point in place.horizon}.items())
    if len(noted) < 2:
        return ()
    after = [*noted[1:], (noted[0][0] + 360, noted[0][1])]
    widest = max(range(len(noted)), key=lambda i: after[i][0] - noted[i][0])
    if after[widest][0] - noted[widest][0] < _OPEN_GAP_DEG:
        return tuple(noted)
    flat = (((noted[widest][0] + _BRINK_DEG) % 360, 0.0), ((after[widest][0] - _BRINK_DEG) % 360, 0.0))
    return tuple(sorted((*noted, *flat)))


def skyline_deg(points: Sequence[tuple[float, float]], azimuth_deg: ArrayLike) -> Array:
    """Height of a raised horizon in given directions, straight between the points of `skyline_points`; 0 without."""
    azimuth = np.asarray(azimuth_deg, dtype=np.float64)
    if not points:
        return np.zeros_like(azimuth)
    known = np.array(points, dtype=np.float64)
    return np.asarray(np.interp(azimuth, known[:, 0], known[:, 1], period=360), dtype=np.float64)


def ridge_crossings(sky: Sky, place: Place) -> tuple[SkyEvent, ...]:
    """When the sun's upper limb goes behind, or comes over, the raised horizon of a place."""
    points = skyline_points(place)
    return _kept_ridge_crossings(sky, points) if points else ()


@lru_cache(maxsize=64)
def _kept_ridge_crossings(sky: Sky, points: tuple[tuple[float, float], ...]) -> tuple[SkyEvent, ...]:
    at = np.arange(sky.from_s, sky.to_s + 1, 120.0)
    sun = sky.sun(at)
    over = sun.altitude_deg + SUN_RADIUS_DEG - skyline_deg(points, sun.azimuth_deg)
    turns = np.flatnonzero((over[:-1] > 0) != (over[1:] > 0))
    # Over two minutes the sun's height above a ridge is straight to a second or so.
    exact = at[turns] + 120.0 * over[turns] / (over[turns] - over[turns + 1])
    names = np.where(over[turns] > 0, "sun behind the ridge", "sun over the ridge")
    # Where the ridge is the true horizon, rise and set say the same already.
    height = sky.sun(exact).altitude_deg
    return tuple(
        SkyEvent(str(name), float(when)) for name, when, up in zip(names, exact, height, strict=True) if up > 0.3
    )
