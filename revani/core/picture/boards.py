"""The things of the move table in a picture: upright boards in the light, soft where they are out of focus."""

import numpy as np

from revani.core.documents import Thing
from revani.core.optics.projection import bent, seen_from
from revani.core.picture.raster import Raster
from revani.core.picture.skylight import Floats
from revani.core.picture.view import Exposure, View
from revani.core.quantities.arrays import Array

# What they give back of the light (common practice, no source).
_REFLECTS = {"subject": 0.3, "foreground": 0.12, "background": 0.2}


def defocus_px(
    exposure: Exposure, focal_mm: float, focused_mm: float | None, away_mm: float, px_per_mm: float
) -> float:
    """Across how many pixels a point at a distance is spread by a thin lens that is focused elsewhere.

    f² / (N (s − f)) · |d − s| / d; focused at infinity f² / (N d).
    """
    if focused_mm is None:
        spread = focal_mm**2 / (exposure.aperture * away_mm)
    else:
        beyond = max(focused_mm - focal_mm, 1e-6)
        spread = focal_mm**2 / (exposure.aperture * beyond) * abs(away_mm - focused_mm) / away_mm
    return spread * px_per_mm


def add_things(light: Floats, view: View, exposure: Exposure, sky: Floats, grid: Raster) -> None:
    """All that stands on the table, the farthest first; `sky` is the light (3,) that comes from all round."""
    height, width = light.shape[1:]
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
        away = float(np.hypot(thing.x_mm - view.slide_mm, deep))
        soft = defocus_px(exposure, view.focal_length_mm, view.focused_mm, away, grid.focal_px / view.focal_length_mm)
        columns, rows = grid.across + grid.focal_px * x, grid.down - grid.focal_px * y
        # Edges that fall between pixels are blended, so that slow moves do not jump; and while the shutter is open
        # the picture goes on.
        across, x_at = _soft(columns, width, max(soft, np.radians(abs(view.turns_deg[0])) * grid.focal_px))
        down, y_at = _soft(rows, height, max(soft, np.radians(abs(view.turns_deg[1])) * grid.focal_px))
        cover = (down[:, None] * across[None, :]).astype(np.float32)
        shade = (sky * np.float32(_lit(thing, view, ahead)))[:, None, None]
        light[:, y_at, x_at] += cover * (shade - light[:, y_at, x_at])


def _lit(thing: Thing, view: View, ahead_deg: float) -> float:
    """What a board gives back of the sky's light: half of the sky lights it, and the sun from where it stands.

    With the sun behind the board it is a shape against the light.
    """
    towards_us = ahead_deg + np.degrees(np.arctan2(thing.x_mm - view.slide_mm, thing.y_mm - view.ahead_mm)) + 180
    up = np.clip((view.sun_altitude_deg + 2) / 12, 0, 1)
    facing = np.cos(np.radians(view.sun_azimuth_deg - towards_us)) * np.cos(np.radians(view.sun_altitude_deg))
    return _REFLECTS[thing.role] * float(0.5 + 2.0 * up * max(facing, 0.0))


def _soft(ends: Array, size: int, spread: float) -> tuple[Floats, slice]:
    """How much of each pixel lies between two ends, their edges spread over so many pixels; and which pixels."""
    spread = max(spread, 1.0)
    low, high = float(ends[0]), float(ends[1])
    along = slice(int(np.clip(low - spread, 0, size)), int(np.clip(np.ceil(high + spread), 0, size)))
    at = np.arange(size)[along] + 0.5
    cover = np.clip((at - low) / spread + 0.5, 0, 1) * np.clip((high - at) / spread + 0.5, 0, 1)
    return np.asarray(cover, dtype=np.float32), along
