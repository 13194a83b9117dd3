"""The grid of pixels that a picture is drawn on, the whole of it or a piece."""

from typing import NamedTuple

import numpy as np

from revani.core.documents import Projection
from revani.core.optics.projection import project, ray
from revani.core.picture.skylight import Floats
from revani.core.quantities.arrays import Array


class Piece(NamedTuple):
    """A piece of a picture by its place and size in the picture's own pixels."""

    left: int
    top: int
    width: int
    height: int


class Raster(NamedTuple):
    """`width` by `height` pixels, of which `focal_px` are a focal length; the axis meets them at `across`, `down`."""

    focal_px: float
    width: int
    height: int
    across: float
    down: float

    def rays(self, projection: Projection) -> Floats:
        """The direction of every pixel (h · w, 3): to the right, up and forward of the camera."""
        x = (np.arange(self.width) + 0.5 - self.across) / self.focal_px
        y = (self.down - np.arange(self.height) - 0.5) / self.focal_px
        return ray(x[None, :], y[:, None], projection).astype(np.float32).reshape(-1, 3)

    def places(self, vectors: Array, axes: Array, projection: Projection) -> tuple[Array, Array, Array]:
        """Columns, rows and depth of directions (…, 3); those that are not before the camera have depth ≤ 0."""
        x, y, depth = project(vectors, axes, self.focal_px, 0, 0, projection)
        return x + self.across, y + self.down, depth


def raster(focal_px: float, width: int, height: int, piece: Piece | None = None) -> Raster:
    """The grid of a picture of so many pixels, or of a piece of it."""
    if piece is None:
        return Raster(focal_px, width, height, width / 2, height / 2)
    return Raster(focal_px, piece.width, piece.height, width / 2 - piece.left, height / 2 - piece.top)
