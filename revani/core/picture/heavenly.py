"""Sun, moon, stars and the Milky Way, added in place to linear light (3, h, w), or to what is soft of it."""

from functools import lru_cache

import numpy as np

from revani.core.documents import Cloud
from revani.core.light.moonlit import moonlit_nl, nanolamberts
from revani.core.optics.projection import camera_axes, direction
from revani.core.picture.raster import Raster
from revani.core.picture.skylight import GREY, Floats
from revani.core.picture.view import Exposure, View
from revani.core.quantities.arrays import Array
from revani.core.sky.catalogue import EXTINCTION, air_mass, illuminance_lx, stars_of
from revani.core.sky.stars import equatorial, sidereal_deg, to_horizon

# How much of what is behind it a sky lets through no more.
CLOUD_GREY: dict[Cloud, float] = {"clear": 0.0, "haze": 0.25, "light cloud": 0.5, "overcast": 0.9}
_STARS_FROM_SUN_DEG = -4.0
# Luminance of the sunlit moon outside the air: with f/11 and 1/ISO it comes out as a grey (common practice, no
# source), which with K = 12.5 is 12.5 · 11² cd/m²; what the air takes in the zenith is put on again.
MOON_CD_M2 = 12.5 * 11**2 * 10 ** (0.4 * EXTINCTION)
_MOON_RADIUS_DEG = 0.259
# The Milky Way's own light at its brightest, towards the core, and opposite to it, mag/arcsec² (memory).
_CORE_MAG, _ANTICORE_MAG = 20.8, 22.6
# The galactic pole and centre, J2000 (IAU 1958; Reid & Brunthaler 2004).
_POLE, _CENTRE = (192.8595, 27.1283), (266.4168, -29.0078)
# 1 nanolambert is 1e-5/π cd/m².
_CD_PER_NL = 1e-5 / np.pi


def add_sun_glow(soft: Floats, view: View, rays: Floats, brighter: float) -> None:
    """The glow about the sun; `brighter` is by how much the whole sky is exposed over what is metered."""
    strength = _sunny(view) * brighter
    if strength:
        apart = _apart_deg(rays, view.sun_altitude_deg, view.sun_azimuth_deg)
        _add_tinted(soft, strength * (0.5 * np.exp(-apart / 9) + 0.35 * np.exp(-apart / 30)), (1.0, 0.66, 0.34))


def add_sun_disc(light: Floats, view: View, rays: Floats, brighter: float) -> None:
    """The sun itself, which is white whatever the exposure."""
    if view.sun_altitude_deg <= -1.2:
        return
    towards = direction(view.sun_altitude_deg, view.sun_azimuth_deg).astype(np.float32)
    row, column = np.nonzero(rays @ towards > _NEAR)
    if row.size:
        apart = _apart_deg(rays[row, column], view.sun_altitude_deg, view.sun_azimuth_deg)
        light[:, row, column] += 60 * np.float32(_sunny(view) * brighter) * np.clip((0.266 - apart) * 20, 0, 1)


def _sunny(view: View) -> float:
    up = float(np.clip((view.sun_altitude_deg + 9) / 9, 0, 1))
    return up * (1 - CLOUD_GREY[view.cloud])


# The cosine of half a degree.
_NEAR = np.float32(np.cos(np.radians(0.5)))


def add_moonlight(soft: Floats, view: View, exposure: Exposure, rays: Floats) -> None:
    """The moon's light in the air about it: the sky's light as a whole is in what is metered."""
    clear = 1 - CLOUD_GREY[view.cloud]
    night = float(np.clip((-view.sun_altitude_deg - 6) / 12, 0, 1))
    if night and clear and view.moon_altitude_deg > 0:
        apart = _apart_deg(rays, view.moon_altitude_deg, view.moon_azimuth_deg)
        phase = float(np.degrees(np.arccos(np.clip(2 * view.moon_fraction - 1, -1, 1))))
        far = moonlit_nl(phase, np.array([60.0]), view.moon_altitude_deg, 45.0)
        added = moonlit_nl(phase, np.maximum(apart, 1.0), view.moon_altitude_deg, 45.0) - far
        glow = np.maximum(added, 0) * _CD_PER_NL * exposure.grey_per_cd * night * clear
        _add_tinted(soft, glow, (0.95, 1.0, 1.05))


def add_moon_disc(
    light: Floats, view: View, exposure: Exposure, grid: Raster, looks: tuple[float, float, float]
) -> None:
    """The moon as large, as lit and as bright as it is, as the camera looks there.

    Its lit part by coverage of each pixel: a disc that ends at an ellipse, turned towards the sun.
    """
    if view.moon_altitude_deg <= -1:
        return
    clear = 1 - CLOUD_GREY[view.cloud]
    height, width = light.shape[1:]
    axes = camera_axes(*looks)
    moon = direction(view.moon_altitude_deg, view.moon_azimuth_deg)
    sun = direction(view.sun_altitude_deg, view.sun_azimuth_deg)
    towards = sun - (sun @ moon) * moon
    towards = towards / max(float(np.linalg.norm(towards)), 1e-9)
    beside = np.cross(moon, towards)
    radius = np.tan(np.radians(_MOON_RADIUS_DEG))
    ends = np.stack([moon, moon + radius * towards, moon + radius * beside])
    x, y, depth = grid.places(ends, axes, view.projection)
    if depth[0] <= 0:
        return
    # Columns and rows of a step towards the sun and beside it, and back from pixels to parts of the radius.
    steps = np.array([[x[1] - x[0], x[2] - x[0]], [y[1] - y[0], y[2] - y[0]]])
    reach = float(np.abs(steps).sum()) + 1.5
    left, right = max(int(x[0] - reach), 0), min(int(x[0] + reach) + 2, width)
    top, below = max(int(y[0] - reach), 0), min(int(y[0] + reach) + 2, height)
    if view.projection == "sphere" and reach > grid.focal_px * np.pi / 4:
        # It lies over the seam, or over a pole, where a step is none of a disc.
        return
    if left >= right or top >= below or abs(np.linalg.det(steps)) < 1e-9:
        return
    fine = 5 if reach < 40 else 1
    columns = left + (np.arange((right - left) * fine) + 0.5) / fine - x[0]
    rows = top + (np.arange((below - top) * fine) + 0.5) / fine - y[0]
    back = np.linalg.inv(steps)
    along = back[0, 0] * columns[None, :] + back[0, 1] * rows[:, None]
    across = back[1, 0] * columns[None, :] + back[1, 1] * rows[:, None]
    edge = np.sqrt(np.clip(1 - across**2, 0, None))
    lit = (along**2 + across**2 <= 1) & (along >= -(2 * view.moon_fraction - 1) * edge)
    cover = lit.reshape(below - top, fine, right - left, fine).mean(axis=(1, 3))
    air = 10 ** (-0.4 * EXTINCTION * float(air_mass(view.moon_altitude_deg)))
    shown = MOON_CD_M2 * air * exposure.grey_per_cd * clear
    light[:, top:below, left:right] += (cover * shown).astype(np.float32)


def add_milky_way(soft: Floats, view: View, exposure: Exposure, rays: Floats) -> None:
    """The band of the Milky Way as a soft field, brightest towards the core, with its dark rift."""
    clear = 1 - CLOUD_GREY[view.cloud]
    dark = float(np.clip((-view.sun_altitude_deg - 12) / 6, 0, 1))
    if not dark or clear < 0.2:
        return
    up = to_horizon(view.latitude_deg, float(sidereal_deg(view.at_s, view.longitude_deg)))
    seen = rays.astype(np.float64) @ (up @ _galactic().T)
    latitude = np.degrees(np.arcsin(np.clip(seen[..., 2], -1, 1)))
    longitude = np.degrees(np.arctan2(seen[..., 1], seen[..., 0]))
    towards_core = np.exp(-((longitude / 55) ** 2))
    magnitude = _ANTICORE_MAG + (_CORE_MAG - _ANTICORE_MAG) * towards_core
    band = np.exp(-np.abs(latitude) / (6 + 5 * towards_core))
    rift = 1 - 0.55 * towards_core * np.exp(-(((latitude - 2) / 3) ** 2))
    high = np.clip(rays[..., 2] / 0.17, 0, 1)
    cd = nanolamberts(magnitude) * _CD_PER_NL * band * rift * high
    _add_tinted(soft, cd * exposure.grey_per_cd * dark * clear, (1.06, 1.0, 0.94))


@lru_cache(maxsize=1)
def _galactic() -> Array:
    """Galactic axes (3, 3) on those of the equator: towards the centre, along the plane, towards the pole."""
    pole, centre = equatorial(*_POLE), equatorial(*_CENTRE)
    centre = centre - (centre @ pole) * pole
    centre = centre / np.linalg.norm(centre)
    return np.stack([centre, np.cross(pole, centre), pole])


def add_stars(light: Floats, view: View, exposure: Exposure, grid: Raster, times: int = 1) -> None:
    """The stars as they stand, each as bright as its light on a pixel makes it, drawn out while the shutter is open.

    `times` as bright, where the light is divided by that afterwards.
    """
    clear = 1 - CLOUD_GREY[view.cloud]
    if view.sun_altitude_deg >= _STARS_FROM_SUN_DEG or clear < 0.2:
        return
    height, width = light.shape[1:]
    vectors, magnitude, colour = stars_of(view.at_s)
    # 15.041″ of turning a second, and what the rig turns: a long shutter draws each star as an arc of so many pixels.
    turning_deg = exposure.shutter_s * 15.041 / 3600 + float(np.abs(view.turns_deg).sum())
    steps = int(np.clip(np.ceil(np.radians(turning_deg) * grid.focal_px), 1, 64))
    # Lux seconds on one pixel, through the whole opening of the lens; against the 10/S of ISO 12232 that render grey.
    opening = np.pi / 4 * (view.focal_length_mm / exposure.aperture) ** 2
    gathered = opening * exposure.shutter_s / (view.focal_length_mm / grid.focal_px) ** 2 / (10 / exposure.iso)
    part = times * GREY * gathered * clear / 2.0**exposure.nd_stops / steps
    warm = np.clip(colour, -0.3, 1.9) - 0.6
    tint = np.stack([1 + 0.35 * warm, np.ones_like(warm), 1 - 0.45 * warm], axis=-1)
    for step in range(steps):
        at_s = view.at_s + exposure.shutter_s * step / steps
        axes = camera_axes(*(a + b * step / steps for a, b in zip(view.looks, view.turns_deg, strict=True)))
        turned = vectors @ to_horizon(view.latitude_deg, float(sidereal_deg(at_s, view.longitude_deg))).T
        x, y, depth = grid.places(turned, axes, view.projection)
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
            for band, colour_flux in zip(light, flux.T, strict=True):
                np.add.at(band, at, (colour_flux * share).astype(np.float32))


def _add_tinted(soft: Floats, grey: Array, tint: tuple[float, float, float]) -> None:
    for band, part in zip(soft, tint, strict=True):
        band += (grey * part).astype(np.float32)


def _apart_deg(rays: Floats, altitude_deg: float, azimuth_deg: float) -> Array:
    """Degrees (…) between directions (…, 3) and a place in the sky."""
    away = rays.astype(np.float64) @ direction(altitude_deg, azimuth_deg)
    return np.asarray(np.degrees(np.arccos(np.clip(away, -1, 1))))
