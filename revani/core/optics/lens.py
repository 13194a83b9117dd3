"""The lens of a shot: how a direction becomes a place in its picture."""

from typing import NamedTuple

import numpy as np
from numpy.typing import NDArray

from revani.core.documents import Kit, Shot
from revani.core.optics.projection import camera_axes, focal_pixels, project
from revani.core.sky.sun_and_moon import Array


class Lens(NamedTuple):
    """How a direction becomes a place in the picture: 0 to 1 from the left and from the top."""

    axes: Array
    focal_px: float
    width: int
    height: int

    def place(self, directions: Array) -> tuple[Array, Array, NDArray[np.bool_]]:
        """Columns and rows as parts of the picture, and whether they lie before the camera (…)."""
        x, y, depth = project(directions, self.axes, self.focal_px, self.width, self.height)
        return x / self.width, y / self.height, depth > 0


def lens_of(shot: Shot) -> Lens:
    """The lens of a shot as it is framed."""
    framing, body = shot.framing, shot.kit.body
    return Lens(
        camera_axes(framing.heading_deg, framing.tilt_deg), focal_px(shot.kit, shot.focal_length_mm),
        body.pixels_wide, body.pixels_high,
    )  # fmt: skip


def focal_px(kit: Kit, focal_length_mm: float) -> float:
    """Focal length in pixels of the body's picture."""
    return focal_pixels(focal_length_mm, kit.body.sensor_width_mm, kit.body.pixels_wide)
