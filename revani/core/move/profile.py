"""Moves of one axis: speed ramps, minimum jerk, and the pan that keeps a target in the picture."""

from dataclasses import dataclass
from fractions import Fraction

import numpy as np
from numpy.typing import ArrayLike

from revani.core.quantities.arrays import Array
from revani.core.quantities.refusal import Refusal


@dataclass(frozen=True)
class Trapezoid:
    """A move that speeds up evenly, holds its speed, and slows down evenly; lengths in mm, times in s.

    A negative distance goes the other way, with negative speeds. Times may be exact, so that ramps of 2.9
    and 4.4 s fill 7.3 s.
    """

    distance_mm: float
    duration_s: float | Fraction
    ramp_up_s: float | Fraction
    ramp_down_s: float | Fraction

    def __post_init__(self) -> None:
        if self.ramp_up_s + self.ramp_down_s > self.duration_s:
            allowed = f"Both ramps together must fit into the duration, {float(self.duration_s):g} s."
            raise Refusal("ramp_up_s", allowed, float(self.ramp_up_s))

    @property
    def peak_speed_mm_s(self) -> float:
        """v = d / (T − (t_up + t_down) / 2)."""
        return self.distance_mm / float(self.duration_s - (self.ramp_up_s + self.ramp_down_s) / 2)

    @property
    def acceleration_mm_s2(self) -> float | None:
        """v / t_up; None where there is no ramp, which no rig can follow."""
        return self.peak_speed_mm_s / float(self.ramp_up_s) if self.ramp_up_s else None

    @property
    def deceleration_mm_s2(self) -> float | None:
        """v / t_down; None where there is no ramp."""
        return self.peak_speed_mm_s / float(self.ramp_down_s) if self.ramp_down_s else None

    def position_mm(self, at_s: ArrayLike) -> Array:
        """Where the axis stands at times (any shape); before the beginning 0, after the end all of it."""
        duration, up, down = float(self.duration_s), float(self.ramp_up_s), float(self.ramp_down_s)
        t = np.clip(np.asarray(at_s, dtype=np.float64), 0, duration)
        v, rest = self.peak_speed_mm_s, duration - t
        # Only within a ramp, so that a ramp of next to nothing does not overflow outside it.
        rising = v * np.minimum(t, up) * (np.minimum(t, up) / up) / 2 if up else np.zeros_like(t)
        slowing = v * np.minimum(rest, down) * (np.minimum(rest, down) / down) / 2 if down else np.zeros_like(t)
        falling = self.distance_mm - slowing
        cruising = v * (t - up / 2)
        # Not −0 where a way goes back.
        return np.asarray(np.where(t < up, rising, np.where(rest < down, falling, cruising)) + 0.0)


def minimum_jerk_peaks(distance_mm: float, duration_s: float) -> tuple[float, float]:
    """Peak speed and peak acceleration of 10τ³ − 15τ⁴ + 6τ⁵: 1.875 d/T and 10/√3 d/T².

    Source: Flash & Hogan, Journal of Neuroscience 5 (1985).
    """
    return 1.875 * distance_mm / duration_s, 10 / np.sqrt(3) * distance_mm / duration_s**2


def aim_pan_deg(target_x_mm: float, target_y_mm: float, x_mm: ArrayLike) -> Array:
    """Pan, clockwise from straight ahead, that looks from places along a slider at a target."""
    x = np.asarray(x_mm, dtype=np.float64)
    return np.degrees(np.arctan2(target_x_mm - x, target_y_mm))
