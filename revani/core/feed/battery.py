"""Battery: what a shot takes out of it, and what cold takes away."""

import numpy as np
from numpy.typing import ArrayLike

from revani.core.documents import Kit
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


def held_wh(kit: Kit) -> float:
    """All that a body is fed from at 20 °C: its battery, cells that are changed, banks; infinite on the mains."""
    body = kit.body
    beside = (one.gives_wh * (body.battery_usable if one.cells else 1.0) for one in kit.feeding(body.id))
    return body.battery_wh * body.battery_usable + sum(beside)


def average_w(idle_w: float, frame_j: float, interval_s: float) -> float:
    """Average power of a camera that takes a frame every `interval_s`, watts."""
    return idle_w + frame_j / interval_s


def drawn_wh(idle_w: float, frame_j: float, elapsed_s: ArrayLike, frames: ArrayLike) -> Array:
    """Energy drawn after `elapsed_s` and `frames` frames, watt-hours; the two broadcast."""
    joules = idle_w * np.asarray(elapsed_s, dtype=np.float64) + frame_j * np.asarray(frames)
    return np.asarray(joules / 3600)


def runtime_s(usable_wh: float, power_w: float) -> float:
    """How long an amount of energy lasts at a power, seconds."""
    return usable_wh * 3600 / power_w


def bank_runtime_s(capacity_wh: float, conversion: float, temperature_factor: float, load_w: float) -> float | None:
    """How long a power bank feeds a load, seconds; None where nothing is drawn."""
    return capacity_wh * conversion * temperature_factor / load_w * 3600 if load_w else None
