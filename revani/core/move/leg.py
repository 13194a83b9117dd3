"""One leg of a move: how far of its way is done at each moment, for all axes alike.

A leg speeds up over a ramp, cruises, and slows down over another. An even ramp has constant
acceleration; a ramp of least jerk has the shape of half a quintic 10τ³ − 15τ⁴ + 6τ⁵ (Flash & Hogan,
Journal of Neuroscience 5 (1985)), so that two of them over half a leg each are that quintic.
"""

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np
from numpy.typing import ArrayLike, NDArray

from revani.core.documents import Ease
from revani.core.quantities.arrays import Array

# ∫ and greatest slope of the ramps' shapes over 0 … 1: x, and x²(2 − x)² = 4x² − 4x³ + x⁴.
_LINEAR_AREA, _JERK_AREA = 1 / 2, 8 / 15
_JERK_SLOPE = 8 / (3 * np.sqrt(3))


@dataclass(frozen=True)
class Ramp:
    """A change between standing and cruising over `s` seconds; none at all where `s` is 0."""

    s: float
    jerk: bool = False

    @property
    def area(self) -> float:
        """What part of cruising speed × s is travelled."""
        return _JERK_AREA if self.jerk else _LINEAR_AREA

    @property
    def steepest(self) -> float:
        """The greatest acceleration, in cruising speeds over s."""
        return float(_JERK_SLOPE) if self.jerk else 1.0

    def speed(self, x: Array) -> Array:
        """Speed in cruising speeds at x, 0 to 1 along the ramp."""
        return (x * (2 - x)) * (x * (2 - x)) if self.jerk else x

    def way(self, x: Array) -> Array:
        """What is travelled up to x, in cruising speeds × s."""
        # Multiplied out: powers of whole arrays are ten times as slow.
        return x * x * x * (4 / 3 - x + x * x / 5) if self.jerk else x * x / 2


def ramp_of(ease: Ease, leg_s: float) -> Ramp:
    """The ramp of an ease on a leg that takes `leg_s`."""
    if ease.kind == "none":
        return Ramp(0.0)
    if ease.s is None:
        return Ramp(leg_s / 2, jerk=True)
    return Ramp(ease.s, ease.kind == "jerk")


@dataclass(frozen=True)
class Leg:
    """A way from 0 to 1 in `duration_s`. `shortened` tells that its ramps did not fit and were cut alike."""

    duration_s: float
    up: Ramp
    down: Ramp
    shortened: bool = False

    @classmethod
    def between(cls, leave: Ease, arrive: Ease, duration_s: float) -> "Leg":
        """The leg that leaves one key and arrives at the next."""
        up, down = ramp_of(leave, duration_s), ramp_of(arrive, duration_s)
        total = up.s + down.s
        if total <= duration_s * (1 + 1e-9):
            return cls(duration_s, up, down)
        factor = duration_s / total
        return cls(duration_s, Ramp(up.s * factor, up.jerk), Ramp(down.s * factor, down.jerk), True)

    @property
    def cruise_per_s(self) -> float:
        """Parts of the way a second between the ramps; the peak speed."""
        straight = self.duration_s - self.up.s - self.down.s
        return 1 / (self.up.s * self.up.area + straight + self.down.s * self.down.area)

    @property
    def ramped_per_s2(self) -> float:
        """The greatest acceleration of its ramps, parts of the way a second squared; 0 without any."""
        return max(ramp.steepest / ramp.s * self.cruise_per_s if ramp.s > 0 else 0.0 for ramp in (self.up, self.down))

    def way(self, at_s: ArrayLike) -> Array:
        """Part of the way that is done at seconds from the leg's beginning (any shape)."""
        t = np.clip(np.asarray(at_s, dtype=np.float64), 0, self.duration_s)
        v, up, down = self.cruise_per_s, self.up, self.down
        x = np.clip(t / up.s, 0, 1) if up.s > 0 else np.ones_like(t)
        rest = np.clip((self.duration_s - t) / down.s, 0, 1) if down.s > 0 else np.ones_like(t)
        rising = v * up.s * up.way(x)
        falling = 1 - v * down.s * down.way(rest)
        cruising = v * (up.s * up.area + t - up.s)
        return np.asarray(np.where(t < up.s, rising, np.where(t > self.duration_s - down.s, falling, cruising)))

    def speed_per_s(self, at_s: ArrayLike) -> Array:
        """Parts of the way a second, at seconds from the leg's beginning; 0 outside it."""
        t = np.asarray(at_s, dtype=np.float64)
        x = np.clip(t / self.up.s, 0, 1) if self.up.s > 0 else np.ones_like(t)
        rest = np.clip((self.duration_s - t) / self.down.s, 0, 1) if self.down.s > 0 else np.ones_like(t)
        v = self.cruise_per_s * np.minimum(self.up.speed(x), self.down.speed(rest))
        return np.where((t < 0) | (t > self.duration_s), 0.0, v)


def ways(legs: Sequence[Leg], leg: NDArray[np.intp], at_s: Array) -> Array:
    """What `Leg.way` says, for many moments at once: `leg` (n,) is the index of each moment's leg."""
    up, down, length, cruise, up_area, up_jerk, down_jerk = (
        np.array(column, dtype=np.float64)[leg]
        for column in zip(
            *((one.up.s, one.down.s, one.duration_s, one.cruise_per_s, one.up.area, one.up.jerk, one.down.jerk)
              for one in legs),
            strict=True,
        )
    )  # fmt: skip
    t = np.clip(at_s, 0, length)
    x = np.clip(t / np.where(up > 0, up, 1.0), 0, 1)
    rest = np.clip((length - t) / np.where(down > 0, down, 1.0), 0, 1)
    rising = cruise * up * np.where(up_jerk > 0, Ramp(1, True).way(x), Ramp(1).way(x))
    falling = 1 - cruise * down * np.where(down_jerk > 0, Ramp(1, True).way(rest), Ramp(1).way(rest))
    cruising = cruise * (up * up_area + t - up)
    return np.asarray(np.where(t < up, rising, np.where(t > length - down, falling, cruising)))
