"""The lens of a shot: how a direction becomes a place in its picture."""

from typing import NamedTuple

import numpy as np
from numpy.typing import NDArray

from revani.core.documents import Projection, Shot
from revani.core.optics.projection import camera_axes, focal_pixels, project, ray
from revani.core.quantities.arrays import Array


class Lens(NamedTuple):
    """How a direction becomes a place in the picture: 0 to 1 from the left and from the top."""

    axes: Array
    focal_px: float
    width: int
    height: int
    projection: Projection = "straight"

    def place(self, directions: Array) -> tuple[Array, Array, NDArray[np.bool_]]:
        """Columns and rows as parts of the picture, and whether they lie before the camera (…)."""
        x, y, depth = project(directions, self.axes, self.focal_px, self.width, self.height, self.projection)
        return x / self.width, y / self.height, depth > 0

    def rays(self, across: Array, down: Array) -> Array:
        """Directions (…, 3) of places in the picture, parts of its width and height; they broadcast."""
        right = (across - 0.5) * self.width / self.focal_px
        up = (0.5 - down) * self.height / self.focal_px
        return np.asarray(ray(right, up, self.projection) @ self.axes)


def lens_of(shot: Shot) -> Lens:
    """The lens of a shot as it is framed."""
    framing, body = shot.framing, shot.body
    return Lens(
        camera_axes(framing.heading_deg, framing.tilt_deg), focal_px(shot),
        body.pixels_wide, body.pixels_high, shot.recording.projection,
    )  # fmt: skip


def focal_px(shot: Shot) -> float:
    """Focal length in pixels of the picture."""
    return focal_pixels(shot.focal_length_mm, shot.body.sensor_width_mm, shot.body.pixels_wide)
