"""A picture looked at as on a light table: how its light is spread, what has no drawing, where level lies."""

from typing import NamedTuple

import numpy as np
from numpy.typing import NDArray

from revani.core.optics.projection import direction
from revani.core.picture.passages import place_in_picture
from revani.core.picture.skylight import LUMINANCE, Picture, undeveloped
from revani.core.program.compiled import Program

BINS = 64
# A display value up to which nothing is told apart from black (common practice, no source).
_BLACK = 3
# Stripes over what is white, pixels from one to the next.
_STRIPE = 8
# From such a share of a picture on, two can be held against each other.
_ENOUGH = 0.02


class Spread(NamedTuple):
    """Shares of the pixels by their brightness from black to white (64 of them), and of those that are one or other."""

    shares: tuple[float, ...]
    white: float
    black: float


def spread(picture: Picture) -> Spread:
    """How the light of a picture (h, w, 3) is spread; what is white in a colour has no drawing left."""
    luminance = picture @ LUMINANCE
    counts, _ = np.histogram(luminance, bins=BINS, range=(0, 255.001))
    white, black = whites(picture).mean(), (picture <= _BLACK).all(axis=-1).mean()
    return Spread(tuple(np.round(counts / luminance.size, 5).tolist()), float(white), float(black))


def whites(picture: Picture) -> NDArray[np.bool_]:
    """Pixels (h, w) that have no drawing left in one colour at least."""
    return np.asarray((picture == 255).any(axis=-1))


def striped(picture: Picture) -> NDArray[np.uint8]:
    """Slanting stripes, dark and light, over what is white, clear elsewhere (h, w, 4)."""
    high, wide = picture.shape[:2]
    dark = (np.arange(high)[:, None] + np.arange(wide)[None, :]) % _STRIPE < _STRIPE // 2
    over = np.zeros((high, wide, 4), dtype=np.uint8)
    over[..., 3] = np.where(whites(picture), 255, 0)
    over[..., :3] = np.where(dark, 0, 255)[..., None]
    return over


def horizon(program: Program, posed_at: int) -> list[tuple[float, float]]:
    """Where the level horizon lies as the rig is posed at a frame (counted from 0): points in parts of the picture."""
    towards = program.pose(float(program.t_s[posed_at])).heading_deg
    azimuth = float(towards) + np.linspace(-89, 89, 90)
    at = np.full(azimuth.shape, float(program.at_s[posed_at]))
    x, y, before = place_in_picture(program, direction(np.zeros_like(azimuth), azimuth), at)
    seen = before & (x > -0.2) & (x < 1.2) & (y > -0.2) & (y < 1.2)
    return [(round(float(a), 4), round(float(b), 4)) for a, b in zip(x[seen], y[seen], strict=True)]


def stops_apart(rehearsed: Picture, taken: Picture) -> float | None:
    """By how many stops a taken picture is brighter than a rehearsed one of its size; None where it cannot be told.

    Their mean linear light, where neither is black nor white.
    """
    there = np.ones(taken.shape[:2], dtype=np.bool_)
    for one in (rehearsed, taken):
        there &= ~whites(one) & (one > _BLACK).any(axis=-1)
    if there.mean() < _ENOUGH:
        return None
    light, meant = (undeveloped(one[there]) @ LUMINANCE for one in (taken, rehearsed))
    return float(np.log2(light.mean() / meant.mean()))
