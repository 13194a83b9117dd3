"""Battery: what a shot takes out of it, and what cold takes away."""

from typing import NamedTuple

import numpy as np
from numpy.typing import ArrayLike

from revani.core.documents import Mover
from revani.core.quantities.arrays import Array

# Lithium cells, typical data sheets (memory); a measured run time replaces it.
_COLD_C = (-20.0, -10.0, 0.0, 10.0, 20.0)
_COLD_FACTOR = (0.5, 0.7, 0.85, 0.95, 1.0)
MARGIN = 0.2


def cold_factor(temperature_c: ArrayLike) -> Array:
    """The part of a lithium cell's capacity that is left at a temperature, 0.5 to 1."""
    return np.asarray(np.interp(np.asarray(temperature_c, dtype=np.float64), _COLD_C, _COLD_FACTOR))


def available_wh(capacity_wh: float, usable_fraction: float, temperature_c: ArrayLike) -> Array:
    """Energy that can be taken out of a battery at temperatures (any shape), watt-hours."""
    return np.asarray(capacity_wh * usable_fraction * cold_factor(temperature_c))


def left(drawn_wh: ArrayLike, available: ArrayLike) -> Array:
    """What is left after each draw (n,), as a fraction; what is drawn in the cold takes more of it than in the warm."""
    drawn, gives = np.asarray(drawn_wh, dtype=np.float64), np.asarray(available, dtype=np.float64)
    if np.ptp(gives) == 0:
        return np.asarray(1 - drawn / gives.flat[0])
    return np.asarray(1 - np.cumsum(np.diff(drawn, prepend=0.0) / gives))


def average_w(idle_w: float, frame_j: float, interval_s: float) -> float:
    """Average power of a camera that takes a frame every `interval_s`, watts."""
    return idle_w + frame_j / interval_s


def drawn_wh(idle_w: float, frame_j: float, elapsed_s: ArrayLike, frames: ArrayLike) -> Array:
    """Energy drawn after `elapsed_s` and `frames` frames, watt-hours; the two broadcast."""
    joules = idle_w * np.asarray(elapsed_s, dtype=np.float64) + frame_j * np.asarray(frames)
    return np.asarray(joules / 3600)


class Supply(NamedTuple):
    """A battery over a shot: whose it is, and what is left after each frame's slot (n,), a fraction of what it gives.

    Below 0 it is empty. `gives_wh` is what the cold leaves of it. Without the body's there are no pictures; without a
    mover's the rig stands still.
    """

    name: str
    left: Array
    gives_wh: float
    carries: bool

    @property
    def ends_at(self) -> int | None:
        """The index of the first frame that it does not last for; None where it lasts."""
        return int(np.argmax(self.left < 0)) if (self.left < 0).any() else None


def mover_left(mover: Mover, temperature_c: ArrayLike, elapsed_s: ArrayLike, moving_s: ArrayLike) -> Array:
    """What is left in a mover's own battery after so long, of which it moved so long; 1 where it has none."""
    elapsed, moving = np.asarray(elapsed_s, dtype=np.float64), np.asarray(moving_s, dtype=np.float64)
    if mover.battery_wh is None:
        return np.ones_like(elapsed)
    drawn = (mover.idle_w * (elapsed - moving) + mover.moving_w * moving) / 3600
    return left(drawn, available_wh(mover.battery_wh, 1.0, temperature_c))


def runtime_s(usable_wh: float, power_w: float) -> float:
    """How long an amount of energy lasts at a power, seconds."""
    return usable_wh * 3600 / power_w


def bank_runtime_s(capacity_wh: float, conversion: float, temperature_factor: float, load_w: float) -> float | None:
    """How long a power bank feeds a load, seconds; None where nothing is drawn."""
    return capacity_wh * conversion * temperature_factor / load_w * 3600 if load_w else None
