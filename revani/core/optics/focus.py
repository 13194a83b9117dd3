"""Focus: distances on a lens's own scale, and what is sharp through a shot.

Between marked points the scale goes straight with 1/distance, as focus does. A body that shows only
a bar from near to far is so mapped to distances.
"""

from collections.abc import Sequence

import numpy as np
from numpy.typing import ArrayLike

from revani.core.documents import Body, FocusMark
from revani.core.quantities.arrays import Array

# Common practice, no source: a circle of confusion of 1/1500 of the sensor's diagonal.
_CIRCLE_PART = 1 / 1500


def scale_of(marks: Sequence[FocusMark], distance_m: ArrayLike) -> Array:
    """Points on a focus scale for distances (any shape), straight in 1/distance between the marks.

    Beyond the outermost marks the scale stands still: there it is not known.
    """
    known = np.array(sorted((1 / mark.distance_m, mark.scale) for mark in marks))
    return np.asarray(np.interp(1 / np.asarray(distance_m, dtype=np.float64), known[:, 0], known[:, 1]))


def distance_of(marks: Sequence[FocusMark], scale: ArrayLike) -> Array:
    """Distances for points on a focus scale (any shape)."""
    known = np.array(sorted((mark.scale, 1 / mark.distance_m) for mark in marks))
    return np.asarray(1 / np.interp(np.asarray(scale, dtype=np.float64), known[:, 0], known[:, 1]))


def circle_mm(body: Body) -> float:
    """The circle of confusion of a body, mm."""
    return float(np.hypot(body.sensor_width_mm, body.sensor_height_mm)) * _CIRCLE_PART
