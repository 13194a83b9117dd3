"""Columns of numbers: spans in which something holds, samples to draw."""

from typing import NamedTuple

import numpy as np
from numpy.typing import NDArray

Array = NDArray[np.float64]


class Window(NamedTuple):
    """A span of time, seconds since 1970 UTC."""

    from_s: float
    to_s: float


def spans(holds: NDArray[np.bool_], at_s: Array) -> list[Window]:
    """The spans of time in which a condition on samples holds, in order."""
    padded = np.concatenate([[False], holds, [False]])
    edges = np.flatnonzero(padded[1:] != padded[:-1])
    last = at_s.size - 1
    return [
        Window(float(at_s[begin]), float(at_s[min(end, last)]))
        for begin, end in zip(edges[::2], edges[1::2], strict=True)
    ]


def thinned(length: int, most: int) -> np.ndarray:
    """Indices of at most `most` frames, the first and the last among them, evenly spread."""
    if length <= most:
        return np.arange(length)
    # More frames than points, so no two points round to one frame.
    return np.round(np.linspace(0, length - 1, most)).astype(int)
