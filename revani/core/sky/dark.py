"""When the night is dark, with the moon or without."""

import numpy as np

from revani.core.quantities.arrays import Window, spans
from revani.core.sky.sun_and_moon import DARK_DEG, HORIZON_DEG, STARS_FROM_DEG, Sky


def dark_windows(sky: Sky, moon_up_to: float = 1.0) -> list[Window]:
    """When the sun is under −18° around the shot; −12° where the night never gets that dark.

    With `moon_up_to` below 1, also only while the moon is down or its disc lit no more than that.
    """
    at = np.arange(sky.from_s, sky.to_s + 1, 60.0)
    altitude = sky.sun(at).altitude_deg
    limit = DARK_DEG if altitude.min() < DARK_DEG else STARS_FROM_DEG
    dark = altitude < limit
    if moon_up_to < 1:
        up = sky.moon(at).altitude_deg > HORIZON_DEG
        dark &= ~(up & (sky.moon_illuminated_fraction(at) > moon_up_to))
    return spans(dark, at)
