"""A rehearsed picture looked at as on a light table: how its light is spread, and where the level horizon lies."""

from typing import NamedTuple

import numpy as np

from revani.core.optics.projection import direction
from revani.core.picture.passages import place_in_picture
from revani.core.picture.planned import picture_of
from revani.core.program.compiled import Program

BINS = 64
_WIDTH = 480
_LUMINANCE = np.array([0.2126, 0.7152, 0.0722])
# A display value up to which nothing is told apart from black (common practice, no source).
_BLACK = 3


class Spread(NamedTuple):
    """Shares of the pixels by their brightness from black to white (64 of them), and of those that are one or other."""

    shares: tuple[float, ...]
    white: float
    black: float


def spread(program: Program, i: int, posed_at: int) -> Spread:
    """How the light of a frame (counted from 0) is spread, the rig posed as at another; white has no drawing left."""
    picture = picture_of(program, i, _WIDTH, posed_at)
    luminance = picture @ _LUMINANCE
    counts, _ = np.histogram(luminance, bins=BINS, range=(0, 255.001))
    white, black = (picture == 255).any(axis=-1).mean(), (picture <= _BLACK).all(axis=-1).mean()
    return Spread(tuple(np.round(counts / luminance.size, 5).tolist()), float(white), float(black))


def horizon(program: Program, posed_at: int) -> list[tuple[float, float]]:
    """Where the level horizon lies as the rig is posed at a frame (counted from 0): points in parts of the picture."""
    towards = program.pose(float(program.t_s[posed_at])).heading_deg
    azimuth = float(towards) + np.linspace(-89, 89, 90)
    at = np.full(azimuth.shape, float(program.at_s[posed_at]))
    x, y, before = place_in_picture(program, direction(np.zeros_like(azimuth), azimuth), at)
    seen = before & (x > -0.2) & (x < 1.2) & (y > -0.2) & (y < 1.2)
    return [(round(float(a), 4), round(float(b), 4)) for a, b in zip(x[seen], y[seen], strict=True)]
