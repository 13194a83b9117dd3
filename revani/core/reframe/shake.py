"""A hand's unrest put into a steady picture: noise of a band, or what was measured of a clip."""

from collections.abc import Sequence

import numpy as np
from numpy.typing import ArrayLike

from revani.core.quantities.arrays import Array

_WAVES = 5
_SLOWEST_PART = 0.25
# Slower than this, a measured motion is a pan that was meant and no shake.
_MEANT_S = 1.0


def noise(at_s: ArrayLike, hz: float, seed: int, channels: int) -> Array:
    """Band-limited noise (channels, …) at moments (any shape): within ±1, from a quarter of `hz` up to it.

    A moment has the same value whatever others are asked for, so that parts of a film fit each other.
    """
    random = np.random.default_rng(seed)
    at = np.asarray(at_s, dtype=np.float64)
    rates = random.uniform(_SLOWEST_PART * hz, hz, (channels, _WAVES))
    phases = random.uniform(0, 2 * np.pi, (channels, _WAVES))
    sizes = random.uniform(0.4, 1.0, (channels, _WAVES))
    sizes /= sizes.sum(axis=1, keepdims=True)
    # Waves that add up to 1 at most seldom do; two thirds of that are their measure, and what is over it is cut off.
    found = np.zeros((channels, at.size), dtype=np.float32)
    for row, *waves in zip(found, rates, phases, sizes, strict=True):
        for rate, phase, size in zip(*waves, strict=True):
            turns = at.ravel() * rate + phase / (2 * np.pi)
            # Whole turns taken off first, so that single precision is enough, and quick.
            turns -= np.floor(turns)
            row += np.float32(1.5 * size) * np.sin(np.float32(2 * np.pi) * turns.astype(np.float32))
    return np.clip(found, -1.0, 1.0).astype(np.float64).reshape(channels, *at.shape)


def of_clip(rows: Sequence[Sequence[float]], fps: float, at_s: ArrayLike) -> Array:
    """What was measured of a clip (3, …): shifts across and down, roll; to and fro where the clip is shorter."""
    table = np.asarray(rows, dtype=np.float64)
    at = np.asarray(at_s, dtype=np.float64) * fps
    last = len(table) - 1
    turn = last - np.abs(np.mod(at, 2 * last) - last) if last > 0 else np.zeros_like(at)
    return np.stack([np.interp(turn, np.arange(len(table)), column) for column in table.T])


def high_passed(rows: ArrayLike, fps: float) -> Array:
    """The unrest in a measured motion (n, channels): what is left of it beside its mean over a second."""
    table = np.asarray(rows, dtype=np.float64)
    wide = max(round(_MEANT_S * fps / 2), 1)
    around = np.concatenate([np.zeros((1, table.shape[1])), np.cumsum(table, axis=0)])
    n = np.arange(len(table))
    low, high = np.maximum(n - wide, 0), np.minimum(n + wide + 1, len(table))
    return np.asarray(table - (around[high] - around[low]) / (high - low)[:, None])
