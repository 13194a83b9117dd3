"""What changes softly over a picture: worked out at a few places, and laid straight between them."""

from functools import lru_cache

import numpy as np
from numpy.typing import NDArray

from revani.core.picture.skylight import Floats

# Pixels from one place to the next, at most.
_APART = 6


def places(size: int) -> NDArray[np.intp]:
    """The rows or columns, of so many, at which it is worked out; the first and the last among them."""
    return _between(size)[0]


def laid_out(soft: Floats, height: int, width: int) -> Floats:
    """What was worked out at the places of rows and columns (3, m, n), for every pixel (3, h, w)."""
    rows, columns = _between(height)[1], _between(width)[1]
    return np.asarray(np.matmul(np.matmul(rows, soft), columns.T), dtype=np.float32)


@lru_cache(maxsize=16)
def _between(size: int) -> tuple[NDArray[np.intp], Floats]:
    """The places, and the weights (size, n) of each pixel between the two that it lies between."""
    at = np.round(np.linspace(0, size - 1, -(-(size - 1) // _APART) + 1)).astype(np.intp)
    weights = np.stack([np.interp(np.arange(size), at, one) for one in np.eye(len(at))], axis=1)
    return at, weights.astype(np.float32)
