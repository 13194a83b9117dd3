"""When sun or moon stand at a point: the nearest instants of their passes."""

from typing import Literal, NamedTuple

import numpy as np
from numpy.typing import ArrayLike
from scipy.optimize import minimize_scalar

from revani.core.documents import Place
from revani.core.quantities.arrays import Array
from revani.core.sky.sun_and_moon import Sky, sky_over

Luminary = Literal["sun", "moon"]
_LOOK_S = 120.0


class Pass(NamedTuple):
    """The instant at which a centre comes nearest to a point, seconds since 1970, and how near."""

    at_s: float
    separation_deg: float


def separation_deg(sky: Sky, body: Luminary, at_s: ArrayLike, azimuth_deg: float, altitude_deg: float) -> Array:
    """Great-circle angle from a point to the centre of sun or moon, airless (any shape)."""
    seen = sky.sun(at_s) if body == "sun" else sky.moon(at_s)
    a, b = np.radians(seen.altitude_deg), np.radians(altitude_deg)
    half = np.sin((a - b) / 2) ** 2
    half = half + np.cos(a) * np.cos(b) * np.sin(np.radians(seen.azimuth_deg - azimuth_deg) / 2) ** 2
    return np.asarray(np.degrees(2 * np.arcsin(np.sqrt(np.clip(half, 0, 1)))))


def passes(
    place: Place, body: Luminary, azimuth_deg: float, altitude_deg: float, within_deg: float, from_s: float, to_s: float
) -> list[Pass]:
    """The passes inside a span of time that come within a distance, in order."""
    sky = sky_over(place, from_s, to_s)
    at = np.append(np.arange(from_s, to_s, _LOOK_S), to_s)
    apart = separation_deg(sky, body, at, azimuth_deg, altitude_deg)
    lows = np.flatnonzero((apart[1:-1] <= apart[:-2]) & (apart[1:-1] < apart[2:])) + 1
    found = []
    for i in lows:
        # No luminary comes nearer by more than a degree between two looks.
        if apart[i] > within_deg + 1.0:
            continue
        best = minimize_scalar(
            lambda s: float(separation_deg(sky, body, s, azimuth_deg, altitude_deg)),
            bounds=(float(at[i - 1]), float(at[i + 1])), method="bounded", options={"xatol": 1e-3},
        )  # fmt: skip
        if best.fun <= within_deg:
            found.append(Pass(float(best.x), float(best.fun)))
    return found
