"""What stands before the camera at one moment, and how it is taken."""

from dataclasses import dataclass

import numpy as np

from revani.core.documents import Cloud, Projection, Thing
from revani.core.picture.skylight import GREY


@dataclass(frozen=True)
class View:
    """What stands before the camera at one moment, and how it looks at it.

    Angles in degrees; `sensor_width_mm` and `focal_length_mm` set the field of view.
    """

    at_s: float
    latitude_deg: float
    longitude_deg: float
    sun_altitude_deg: float
    sun_azimuth_deg: float
    moon_altitude_deg: float
    moon_azimuth_deg: float
    moon_fraction: float
    heading_deg: float
    tilt_deg: float
    focal_length_mm: float
    sensor_width_mm: float
    cloud: Cloud = "clear"
    skyline: tuple[tuple[float, float], ...] = ()
    """Azimuth and height of the raised horizon, ascending; empty for an invented ridge."""
    ahead_deg: float | None = None
    """Azimuth of straight ahead on the move table; None: where the camera looks."""
    slide_mm: float = 0.0
    ahead_mm: float = 0.0
    lift_mm: float = 0.0
    roll_deg: float = 0.0
    things: tuple[Thing, ...] = ()
    projection: Projection = "straight"
    focused_mm: float | None = None
    """How far away it is sharp; None: at infinity."""
    turns_deg: tuple[float, float, float] = (0.0, 0.0, 0.0)
    """By how much heading, tilt and roll go on while the shutter is open."""

    @property
    def looks(self) -> tuple[float, float, float]:
        """Heading, tilt and roll as the shutter opens."""
        return self.heading_deg, self.tilt_deg, self.roll_deg


@dataclass(frozen=True)
class Exposure:
    """How the picture is taken. `error_stops` is positive where it comes out too bright.

    `white_k` is the white balance: a higher one makes the picture warmer.
    """

    error_stops: float
    shutter_s: float
    aperture: float
    iso: float
    white_k: float = 4_800.0
    nd_stops: float = 0.0
    clips_over_stops: float = np.inf

    @property
    def grey_per_cd(self) -> float:
        """Linear light that a luminance of 1 cd/m² gives in the picture.

        What is metered by K = 12.5 (ISO 2720) comes out as a grey of 0.18: 0.18 L t S / (K N²), behind a filter.
        """
        return float(GREY * self.shutter_s * self.iso / (12.5 * self.aperture**2) / 2.0**self.nd_stops)

    @property
    def white(self) -> float:
        """Linear light from which on a pixel is white."""
        return float(GREY * 2.0**self.clips_over_stops)
