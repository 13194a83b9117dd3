"""Heat: how warm a body gets that records for long, in the sun, with no air going through it."""

import numpy as np
from numpy.typing import ArrayLike

from revani.core.quantities.arrays import Array

# A dark case in full sun at noon is so much warmer than the air; one that lets air through, half of it (memory).
SUN_C = 18.0
# Of its gain by its own power a case keeps so much when it stands in wind and open air (memory).
_OPEN = 0.6


def inside_c(air_c: ArrayLike, sun_altitude_deg: ArrayLike, power_w: ArrayLike, per_w_c: float, sealed: bool) -> Array:
    """How warm it is inside a body that has run for some while, °C (any shape; the three broadcast).

    Air, and what the sun adds by its height (its share on a case that stands upright and flat: sin^½), and what its
    own power adds. Estimates from memory: shade, wind and the colour of a case change them by ten degrees.
    """
    up = np.maximum(np.sin(np.radians(np.asarray(sun_altitude_deg, dtype=np.float64))), 0.0)
    through = 1.0 if sealed else _OPEN
    sun = SUN_C * np.sqrt(up) * through
    return np.asarray(np.asarray(air_c) + sun + np.asarray(power_w) * per_w_c * through)
