"""The frame that a camera would take: sky, sun, moon, stars, the ridge, and what stands before it.

Colours are made up to look right, brightness is not: a frame that is a stop over is a stop over.
"""

from functools import lru_cache

import numpy as np

from revani.core.documents import Projection
from revani.core.optics.projection import camera_axes
from revani.core.picture.boards import add_things
from revani.core.picture.heavenly import (
    CLOUD_GREY,
    add_milky_way,
    add_moon_disc,
    add_moonlight,
    add_stars,
    add_sun_disc,
    add_sun_glow,
)
from revani.core.picture.raster import Piece, Raster, raster
from revani.core.picture.skylight import Floats, Picture, developed, sky_light
from revani.core.picture.soft import laid_out, places
from revani.core.picture.view import Exposure, View
from revani.core.sky.skyline import skyline_deg

# Another one whenever pictures come out otherwise, so that none that were kept are taken for the new ones.
VERSION = 6
_NEUTRAL_K = 4_800.0
_RIDGE_REFLECTS = 0.075
# A picture that goes on by more than this while the shutter is open is drawn at several places of its way.
_STANDS_PX = 1.5
_MOST_PLACES = 6


@lru_cache(maxsize=8)
def _rays(grid: Raster, projection: Projection) -> Floats:
    return grid.rays(projection)


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
    grid: Raster,
    ridge_points: tuple[tuple[float, float], ...],
    projection: Projection,
) -> tuple[Floats, Floats, Floats, tuple[int, int] | None]:
    """The direction of every pixel (h, w, 3), and of those few (m, n, 3) that soft light is worked out at; the ridge's
    mask (h, w), and its rows."""
    rays = _rays(grid, projection) @ camera_axes(*looks).astype(np.float32)
    up = rays[:, 2]
    altitude = np.degrees(np.arcsin(np.clip(up, -1, 1)))
    skyline_round = _skyline_round(ridge_points)
    ridge = (altitude < skyline_round.max() + 1).astype(np.float32)
    near = np.flatnonzero((altitude < skyline_round.max() + 1) & (altitude > skyline_round.min() - 1))
    turn = np.arctan2(rays[near, 0], rays[near, 1]) * np.float32(_ROUND / (2 * np.pi))
    # The ridge's edge is half a pixel soft, so that it does not crawl when the camera moves.
    soft_deg = np.float32(np.degrees(1 / grid.focal_px))
    ridge[near] = np.clip((skyline_round[turn.astype(np.int32) % _ROUND] - altitude[near]) / soft_deg + 0.5, 0, 1)
    shape = (grid.height, grid.width)
    mask = ridge.reshape(shape)
    rows = np.flatnonzero(mask.any(axis=1))
    rays = rays.reshape(*shape, 3)
    few = rays[np.ix_(places(grid.height), places(grid.width))]
    return rays, few, mask, (rows[0], rows[-1] + 1) if rows.size else None


@lru_cache(maxsize=8)
def _falls_off(grid: Raster) -> Floats:
    """How much light gets to each pixel (h, w): half, in stops, of the cos⁴ law, as lenses are mended (memory)."""
    return np.asarray(_rays(grid, "straight")[:, 2].reshape(grid.height, grid.width) ** 2, dtype=np.float32)


def render(
    view: View, exposure: Exposure, width: int, height: int, seed: int = 0, piece: Piece | None = None
) -> Picture:
    """The picture, (height, width, 3) of 8-bit display values, or a piece of it. `seed` fixes the grain."""
    grid = raster(view.focal_length_mm / view.sensor_width_mm * width, width, height, piece)
    turned_px = np.radians(max(np.abs(view.turns_deg))) * grid.focal_px
    times = int(np.clip(np.ceil(turned_px / _STANDS_PX), 1, _MOST_PLACES))
    brighter = 2.0 ** min(exposure.error_stops, 12.0)
    zenith, horizon = ((one[0] * brighter).astype(np.float32) for one in sky_light(view.sun_altitude_deg))
    sky = zenith, horizon, brighter
    light = _far(view, exposure, grid, sky, view.looks, times)
    for time in range(1, times):
        on = tuple(a + b * time / (times - 1) for a, b in zip(view.looks, view.turns_deg, strict=True))
        light += _far(view, exposure, grid, sky, (on[0], on[1], on[2]))
    if times > 1:
        light /= np.float32(times)
    add_things(light, view, exposure, (zenith + horizon) / 2, grid)
    if view.projection == "straight":
        light *= _falls_off(grid)
    warm = np.float32((exposure.white_k / _NEUTRAL_K) ** 0.5)
    light[0] *= warm
    light[2] /= warm
    # By the green, which is most of the light, on all three.
    grain = np.maximum(light[1], np.float32(0.004))
    np.sqrt(grain, out=grain)
    grain *= np.float32(0.0022 * np.sqrt(exposure.iso / 100))
    grain *= _grain(seed, grid.height, grid.width)
    light += grain
    np.maximum(light, 0, out=light)
    shown = np.empty((grid.height, grid.width, 3), dtype=np.uint8)
    for colour, band in enumerate(developed(light, exposure.white)):
        shown[..., colour] = band
    return shown


def _far(
    view: View,
    exposure: Exposure,
    grid: Raster,
    sky: tuple[Floats, Floats, float],
    looks: tuple[float, float, float],
    starry: int = 0,
) -> Floats:
    """Linear light (3, h, w) of all that is far away, as the camera looks there; the stars so many times as bright.

    `sky` is the light of zenith and skyline as they are exposed, and by how much that is over what is metered.
    """
    rays, few, ridge, is_ridge = _frame(looks, grid, view.skyline, view.projection)
    zenith, horizon, brighter = sky
    grey = np.float32(CLOUD_GREY[view.cloud])
    if grey:
        # A covered sky is all of one grey.
        zenith, horizon = (one * (1 - grey) + one.mean() * grey for one in (zenith, horizon))
    blend = _TOWARDS_ZENITH[(np.clip(few[..., 2], 0, 1) * np.float32(_UP - 1)).astype(np.int32)]
    soft = horizon[:, None, None] + blend * (zenith - horizon)[:, None, None]
    add_sun_glow(soft, view, few, brighter)
    add_moonlight(soft, view, exposure, few)
    add_milky_way(soft, view, exposure, few)
    light = laid_out(soft, grid.height, grid.width)
    add_sun_disc(light, view, rays, brighter)
    add_moon_disc(light, view, exposure, grid, looks)
    if starry:
        add_stars(light, view, exposure, grid, starry)
    if is_ridge:
        first = slice(is_ridge[0], is_ridge[1])
        dark = (horizon * np.float32(_RIDGE_REFLECTS))[:, None, None]
        part = light[:, first]
        part += ridge[first] * (dark - part)
    return light


@lru_cache(maxsize=4)
def _noise(height: int, width: int) -> Floats:
    """Noise over more than a picture, out of which each frame takes its own piece."""
    return np.random.default_rng(1949).standard_normal((2 * height, 2 * width), dtype=np.float32)


def _grain(seed: int, height: int, width: int) -> Floats:
    """The grain of a frame (h, w): the same for the same seed, another one for the next."""
    down, right = np.random.default_rng(seed).integers(0, (height + 1, width + 1))
    return _noise(height, width)[down : down + height, right : right + width]
