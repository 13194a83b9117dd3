"""The synthetic view that the simulated camera sees: sky, sun, moon, stars and a ridge.

Colours are made up to look right, brightness is not: a frame that is a stop over is a stop over.
"""

from dataclasses import dataclass
from functools import lru_cache

import numpy as np
from numpy.typing import ArrayLike, NDArray

from revani.core.documents import Cloud, Projection, Thing
from revani.core.optics.projection import bent, camera_axes, direction, project, ray, seen_from
from revani.core.quantities.arrays import Array
from revani.core.sky.catalogue import illuminance_lx, stars_of
from revani.core.sky.skyline import skyline_deg
from revani.core.sky.stars import sidereal_deg, to_horizon

Picture = NDArray[np.uint8]
Floats = NDArray[np.float32]

_SUN_ALTITUDES = np.array([-18.0, -14.0, -10.0, -6.0, -3.0, 0.0, 5.0, 20.0])
_ZENITH = np.array(
    [[.020, .026, .060], [.026, .036, .090], [.045, .062, .170], [.085, .115, .300],
     [.130, .170, .380], [.160, .235, .480], [.170, .320, .620], [.150, .340, .720]]
)  # fmt: skip
_HORIZON = np.array(
    [[.026, .032, .062], [.045, .050, .105], [.150, .115, .190], [.450, .250, .250],
     [.850, .430, .250], [.980, .600, .300], [.900, .780, .560], [.720, .800, .900]]
)  # fmt: skip
_CLOUD_GREY: dict[Cloud, float] = {"clear": 0.0, "haze": 0.25, "light cloud": 0.5, "overcast": 0.9}
_NEUTRAL_K = 4_800.0
# Another one whenever pictures come out otherwise, so that none that were kept are taken for the new ones.
VERSION = 3
# Linear light of a grey that is well exposed; stars are measured against it.
_GREY = 0.18
_STARS_FROM_SUN_DEG = -4.0


@dataclass(frozen=True)
class View:
    """What stands before the camera at one moment, and how it looks at it.

    Angles in degrees; `sensor_width_mm` and `focal_length_mm` set the field of view.
    """

    at_s: float
    latitude_deg: float
    longitude_deg: float
    sun_altitude_deg: float
    sun_azimuth_deg: float
    moon_altitude_deg: float
    moon_azimuth_deg: float
    moon_fraction: float
    heading_deg: float
    tilt_deg: float
    focal_length_mm: float
    sensor_width_mm: float
    cloud: Cloud = "clear"
    skyline: tuple[tuple[float, float], ...] = ()
    """Azimuth and height of the raised horizon, ascending; empty for an invented ridge."""
    ahead_deg: float | None = None
    """Azimuth of straight ahead on the move table; None: where the camera looks."""
    slide_mm: float = 0.0
    ahead_mm: float = 0.0
    lift_mm: float = 0.0
    roll_deg: float = 0.0
    things: tuple[Thing, ...] = ()
    projection: Projection = "straight"


@dataclass(frozen=True)
class Exposure:
    """How the picture is taken. `error_stops` is positive where it comes out too bright.

    `white_k` is the white balance: a higher one makes the picture warmer.
    """

    error_stops: float
    shutter_s: float
    aperture: float
    iso: float
    white_k: float = 4_800.0


def light_strip(sun_altitude_deg: ArrayLike) -> list[str]:
    """The sky as the eye has it, dark at night, as `#rrggbb` at each altitude of the sun."""
    altitude = np.atleast_1d(np.asarray(sun_altitude_deg, dtype=np.float64))
    return sky_colours(altitude, np.interp(altitude, [-18, -8, 0], [-2.7, -0.8, 0.0]), 0.7)


def sky_colours(sun_altitude_deg: ArrayLike, error_stops: ArrayLike = 0.0, towards_zenith: float = 0.45) -> list[str]:
    """The look of the sky at each altitude of the sun, as `#rrggbb`, for strips of light.

    `error_stops` broadcasts; `towards_zenith` chooses from the skyline (0) to the zenith (1).
    """
    zenith, horizon = _by_altitude(_ZENITH, sun_altitude_deg), _by_altitude(_HORIZON, sun_altitude_deg)
    colours = towards_zenith * zenith + (1 - towards_zenith) * horizon
    colours = colours * 2.0 ** np.clip(np.atleast_1d(np.asarray(error_stops)), -20, 12)[:, None]
    return ["#" + bytes(row).hex() for row in _developed(colours.astype(np.float32))]


def _by_altitude(table: Array, altitude_deg: ArrayLike) -> Array:
    altitude = np.atleast_1d(np.asarray(altitude_deg, dtype=np.float64))
    columns = [np.interp(altitude, _SUN_ALTITUDES, table[:, channel]) for channel in range(3)]
    return np.stack(columns, axis=-1)


def _developed(linear: Floats) -> Picture:
    """Linear light to display values, with a soft shoulder before white."""
    shouldered = 1 - np.exp(-1.9 * linear)
    return np.asarray(np.sqrt(shouldered) * 255, dtype=np.uint8)


@lru_cache(maxsize=8)
def _rays(focal_px: float, width: int, height: int, projection: Projection) -> Floats:
    """The direction of every pixel (h · w, 3): to the right, up and forward of the camera."""
    x = (np.arange(width) + 0.5 - width / 2) / focal_px
    y = (height / 2 - np.arange(height) - 0.5) / focal_px
    return ray(x[None, :], y[:, None], projection).astype(np.float32).reshape(-1, 3)


# The skyline is looked up all round in steps of this, and the sky's colour by its height.
_ROUND, _UP = 16_384, 2_048


@lru_cache(maxsize=8)
def _skyline_round(ridge_points: tuple[tuple[float, float], ...]) -> Floats:
    """The skyline's height all round (n,), degrees, from due north: the place's own, or an invented ridge."""
    azimuth = np.linspace(0, 2 * np.pi, _ROUND, endpoint=False)
    rough = 0.25 * np.sin(11 * azimuth + 2.1) + 0.2 * np.sin(37 * azimuth) + 0.1 * np.sin(90 * azimuth + 1)
    if ridge_points:
        return np.asarray(skyline_deg(ridge_points, np.degrees(azimuth)) + rough, dtype=np.float32)
    return np.asarray(2.2 + 1.6 * np.sin(3 * azimuth + 0.6) + 0.65 * np.sin(11 * azimuth + 2.1) + rough, np.float32)


# How far the sky has gone from the skyline's colour to the zenith's, by the sine of its height.
_TOWARDS_ZENITH = (np.clip(np.degrees(np.arcsin(np.linspace(0, 1, _UP))) / 45, 0, 1) ** 0.6).astype(np.float32)


@lru_cache(maxsize=4)
def _frame(
    looks: tuple[float, float, float],
    focal_px: float,
    width: int,
    height: int,
    ridge_points: tuple[tuple[float, float], ...],
    projection: Projection,
) -> tuple[Floats, Floats, Floats]:
    """For every pixel: direction (h, w, 3), the sky's blend towards the zenith, and the ridge's mask."""
    rays = _rays(focal_px, width, height, projection) @ camera_axes(*looks).astype(np.float32)
    up = rays[:, 2]
    blend = _TOWARDS_ZENITH[(np.clip(up, 0, 1) * np.float32(_UP - 1)).astype(np.int32)]
    altitude = np.degrees(np.arcsin(np.clip(up, -1, 1)))
    skyline_round = _skyline_round(ridge_points)
    ridge = (altitude < skyline_round.max() + 1).astype(np.float32)
    near = np.flatnonzero((altitude < skyline_round.max() + 1) & (altitude > skyline_round.min() - 1))
    turn = np.arctan2(rays[near, 0], rays[near, 1]) * np.float32(_ROUND / (2 * np.pi))
    # The ridge's edge is half a pixel soft, so that it does not crawl when the camera moves.
    soft_deg = np.float32(np.degrees(1 / focal_px))
    ridge[near] = np.clip((skyline_round[turn.astype(np.int32) % _ROUND] - altitude[near]) / soft_deg + 0.5, 0, 1)
    shape = (height, width)
    return rays.reshape(height, width, 3), blend.reshape(shape), ridge.reshape(shape)


def render(view: View, exposure: Exposure, width: int, height: int, seed: int = 0) -> Picture:
    """The picture, (height, width, 3) of 8-bit display values. `seed` fixes the grain."""
    focal_px = view.focal_length_mm / view.sensor_width_mm * width
    looks = (view.heading_deg, view.tilt_deg, view.roll_deg)
    rays, blend, ridge = _frame(looks, focal_px, width, height, view.skyline, view.projection)
    zenith = _by_altitude(_ZENITH, view.sun_altitude_deg)[0].astype(np.float32)
    horizon = _by_altitude(_HORIZON, view.sun_altitude_deg)[0].astype(np.float32)
    light = horizon + blend[..., None] * (zenith - horizon)
    grey = _CLOUD_GREY[view.cloud]
    if grey:
        light = light * (1 - grey) + light.mean(axis=-1, keepdims=True) * grey
    _add_sun(light, view, rays)
    _add_moon(light, view, rays)
    if view.sun_altitude_deg < _STARS_FROM_SUN_DEG and grey < 0.9:
        _add_stars(light, view, exposure, focal_px)
    light += ridge[..., None] * (horizon * np.float32(0.075) - light)
    _add_things(light, view, horizon, focal_px)
    light *= np.float32(2.0 ** min(exposure.error_stops, 12.0))
    warm = np.float32((exposure.white_k / _NEUTRAL_K) ** 0.5)
    light *= np.array([warm, 1, 1 / warm], dtype=np.float32)
    grain = 0.0022 * np.sqrt(exposure.iso / 100)
    light += _grain(seed, height, width)[..., None] * (np.float32(grain) * np.sqrt(np.maximum(light, 0.004)))
    return _developed(np.maximum(light, 0))


@lru_cache(maxsize=4)
def _noise(height: int, width: int) -> Floats:
    """Noise over more than a picture, out of which each frame takes its own piece."""
    return np.random.default_rng(1949).standard_normal((2 * height, 2 * width), dtype=np.float32)


def _grain(seed: int, height: int, width: int) -> Floats:
    """The grain of a frame (h, w): the same for the same seed, another one for the next."""
    down, right = np.random.default_rng(seed).integers(0, (height + 1, width + 1))
    return _noise(height, width)[down : down + height, right : right + width]


def _separation_deg(rays: Floats, altitude_deg: float, azimuth_deg: float) -> Floats:
    towards = direction(altitude_deg, azimuth_deg).astype(np.float32)
    return np.asarray(np.degrees(np.arccos(np.clip(rays @ towards, -1, 1))), dtype=np.float32)


def _add_sun(light: Floats, view: View, rays: Floats) -> None:
    if view.sun_altitude_deg < -9:
        return
    apart = _separation_deg(rays, view.sun_altitude_deg, view.sun_azimuth_deg)
    strength = np.clip((view.sun_altitude_deg + 9) / 9, 0, 1) * (1 - _CLOUD_GREY[view.cloud])
    glow = np.float32(strength) * (0.5 * np.exp(-apart / 9) + 0.35 * np.exp(-apart / 30))
    light += glow[..., None] * np.array([1.0, 0.66, 0.34], dtype=np.float32)
    if view.sun_altitude_deg > -1.2:
        light += (60 * strength * np.clip(1.2 - apart, 0, 1))[..., None].astype(np.float32)


def _add_moon(light: Floats, view: View, rays: Floats) -> None:
    if view.moon_altitude_deg < -1:
        return
    apart = _separation_deg(rays, view.moon_altitude_deg, view.moon_azimuth_deg)
    night = np.clip(-view.sun_altitude_deg / 12, 0.05, 1) * view.moon_fraction * (1 - _CLOUD_GREY[view.cloud])
    light += (np.float32(0.05 * night) * np.exp(-apart / 7))[..., None]
    # Drawn at twice its half degree, so that it is a disc and not a dot in a small picture.
    light += (np.float32(1.5 * (0.3 + 0.7 * view.moon_fraction)) * np.clip((0.55 - apart) * 6, 0, 1))[..., None]


def _add_stars(light: Floats, view: View, exposure: Exposure, focal_px: float) -> None:
    """The stars as they stand, each as bright as its light on a pixel makes it against a grey that is well exposed."""
    height, width = light.shape[:2]
    vectors, magnitude, colour = stars_of(view.at_s)
    axes = camera_axes(view.heading_deg, view.tilt_deg, view.roll_deg)
    # 15.041″ of turning a second: a long shutter draws each star as an arc of this many pixels.
    drift_px = exposure.shutter_s * np.radians(15.041 / 3600) * focal_px
    steps = int(np.clip(np.ceil(drift_px), 1, 64))
    # Lux seconds on one pixel, through the whole opening of the lens; against the 10/S of ISO 12232 that render grey.
    opening = np.pi / 4 * (view.focal_length_mm / exposure.aperture) ** 2
    gathered = opening * exposure.shutter_s / (view.sensor_width_mm / width) ** 2 / (10 / exposure.iso)
    # The whole picture is made brighter or darker by its error afterwards; a star is as bright as it is.
    part = _GREY * gathered * (1 - _CLOUD_GREY[view.cloud]) / 2.0 ** min(exposure.error_stops, 12.0) / steps
    warm = np.clip(colour, -0.3, 1.9) - 0.6
    tint = np.stack([1 + 0.35 * warm, np.ones_like(warm), 1 - 0.45 * warm], axis=-1)
    for step in range(steps):
        at_s = view.at_s + exposure.shutter_s * step / steps
        turned = vectors @ to_horizon(view.latitude_deg, float(sidereal_deg(at_s, view.longitude_deg))).T
        x, y, depth = project(turned, axes, focal_px, width, height, view.projection)
        shown = (depth > 0) & (x >= 0.5) & (x < width - 0.5) & (y >= 0.5) & (y < height - 0.5) & (turned[:, 2] > 0)
        up_deg = np.degrees(np.arcsin(np.clip(turned[shown, 2], -1, 1)))
        flux = (illuminance_lx(magnitude[shown], up_deg) * part)[:, None] * tint[shown]
        # The middle of a pixel is half a pixel in.
        column, row = (x[shown] - 0.5).astype(int), (y[shown] - 0.5).astype(int)
        right, below = x[shown] - 0.5 - column, y[shown] - 0.5 - row
        for d_row, d_column, share in (
            (0, 0, (1 - right) * (1 - below)), (0, 1, right * (1 - below)),
            (1, 0, (1 - right) * below), (1, 1, right * below),
        ):  # fmt: skip
            at = np.minimum(row + d_row, height - 1), np.minimum(column + d_column, width - 1)
            np.add.at(light, at, (flux * share[:, None]).astype(np.float32))


_SHADES = {"subject": 0.16, "foreground": 0.05, "background": 0.1}


def _add_things(light: Floats, view: View, horizon: Floats, focal_px: float) -> None:
    """The things of the move table as upright boards, the farthest first."""
    height, width = light.shape[:2]
    ahead = view.heading_deg if view.ahead_deg is None else view.ahead_deg
    for thing in sorted(view.things, key=lambda one: -np.hypot(one.x_mm - view.slide_mm, one.y_mm - view.ahead_mm)):
        low, high = thing.base_mm - view.lift_mm, thing.base_mm + thing.height_mm - view.lift_mm
        deep = thing.y_mm - view.ahead_mm
        left, right = (thing.x_mm - view.slide_mm + side * thing.width_mm / 2 for side in (-1, 1))
        x, y, depth = seen_from(
            [[left, deep, high], [right, deep, low]], view.heading_deg - ahead, view.tilt_deg, view.roll_deg
        )
        x, y, depth = bent(x, y, depth, view.projection)
        if (depth <= 1).any():
            continue
        columns = np.clip(width / 2 + focal_px * x, 0, width)
        rows = np.clip(height / 2 - focal_px * y, 0, height)
        shade = horizon * np.float32(_SHADES[thing.role])
        # Edges that fall between pixels are blended, so that slow moves do not jump.
        across, along = (slice(int(ends[0]), int(np.ceil(ends[1]))) for ends in (columns, rows))
        x_at, y_at = np.arange(width)[across], np.arange(height)[along]
        over = np.clip(x_at + 1 - columns[0], 0, 1) * np.clip(columns[1] - x_at, 0, 1)
        down = np.clip(y_at + 1 - rows[0], 0, 1) * np.clip(rows[1] - y_at, 0, 1)
        cover = (down[:, None] * over[None, :])[..., None].astype(np.float32)
        light[along, across] += cover * (shade - light[along, across])
