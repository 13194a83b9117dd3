"""The light of the sky by the sun's height: its colours, and how bright they come out."""

import numpy as np
from numpy.typing import ArrayLike, NDArray

from revani.core.quantities.arrays import Array

Picture = NDArray[np.uint8]
Floats = NDArray[np.float32]

# Linear light of a grey that is well exposed.
GREY = 0.18
# The sky between skyline and zenith against that grey: two thirds of a stop over it (common practice, no source).
_SKY_OVER_GREY = 1.6
# Of linear red, green and blue (Rec. 709).
LUMINANCE = np.array([0.2126, 0.7152, 0.0722])
_MIDDLE = 0.45

_SUN_ALTITUDES = np.array([-18.0, -14.0, -10.0, -6.0, -3.0, 0.0, 5.0, 20.0])
_ZENITH = np.array(
    [[.020, .026, .060], [.026, .036, .090], [.045, .062, .170], [.085, .115, .300],
     [.130, .170, .380], [.160, .235, .480], [.170, .320, .620], [.150, .340, .720]]
)  # fmt: skip
_HORIZON = np.array(
    [[.026, .032, .062], [.045, .050, .105], [.150, .115, .190], [.450, .250, .250],
     [.850, .430, .250], [.980, .600, .300], [.900, .780, .560], [.720, .800, .900]]
)  # fmt: skip


def light_strip(sun_altitude_deg: ArrayLike) -> list[str]:
    """The sky as the eye has it, dark at night, as `#rrggbb` at each altitude of the sun."""
    altitude = np.atleast_1d(np.asarray(sun_altitude_deg, dtype=np.float64))
    seen = 2.0 ** np.interp(altitude, [-18, -8, 0], [-2.7, -0.8, 0.0])
    colours = 0.7 * _by_altitude(_ZENITH, altitude) + 0.3 * _by_altitude(_HORIZON, altitude)
    return _written(colours * seen[:, None])


def sky_colours(sun_altitude_deg: ArrayLike, error_stops: ArrayLike, towards_zenith: float) -> list[str]:
    """The sky as it is exposed at each altitude of the sun, as `#rrggbb`; `error_stops` broadcasts.

    `towards_zenith` chooses from the skyline (0) to the zenith (1).
    """
    zenith, horizon = sky_light(sun_altitude_deg)
    colours = towards_zenith * zenith + (1 - towards_zenith) * horizon
    return _written(colours * 2.0 ** np.clip(np.atleast_1d(np.asarray(error_stops)), -20, 12)[:, None])


def sky_light(sun_altitude_deg: ArrayLike) -> tuple[Array, Array]:
    """Linear light (n, 3) of zenith and skyline at each altitude of the sun, in a picture that is well exposed.

    Their colours are made up to look right; as bright as the scene is metered they are whatever the hour.
    """
    zenith, horizon = _by_altitude(_ZENITH, sun_altitude_deg), _by_altitude(_HORIZON, sun_altitude_deg)
    middle = (_MIDDLE * zenith + (1 - _MIDDLE) * horizon) @ LUMINANCE
    scale = (_SKY_OVER_GREY * GREY / middle)[:, None]
    return zenith * scale, horizon * scale


def developed(linear: Floats, white: float = np.inf) -> Picture:
    """Linear light to display values, with a soft shoulder; what is over `white` has no drawing left, and is 255."""
    shouldered = np.multiply(linear, np.float32(-1.9))
    np.exp(shouldered, out=shouldered)
    np.subtract(1, shouldered, out=shouldered)
    np.sqrt(shouldered, out=shouldered)
    shouldered *= 255
    shown = shouldered.astype(np.uint8)
    if np.isfinite(white):
        shown[linear >= white] = 255
    return shown


def undeveloped(picture: Picture) -> Array:
    """The linear light that display values come from, back through the curve of `developed`."""
    part = np.clip((picture.astype(np.float64) + 0.5) / 255, 0, 0.998)
    return np.asarray(-np.log(1 - part**2) / 1.9)


def _written(colours: Array) -> list[str]:
    return ["#" + bytes(row).hex() for row in developed(colours.astype(np.float32))]


def _by_altitude(table: Array, altitude_deg: ArrayLike) -> Array:
    altitude = np.atleast_1d(np.asarray(altitude_deg, dtype=np.float64))
    columns = [np.interp(altitude, _SUN_ALTITUDES, table[:, channel]) for channel in range(3)]
    return np.stack(columns, axis=-1)
