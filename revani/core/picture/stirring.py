"""How much of a picture has changed since the one before."""

import numpy as np

from revani.core.quantities.arrays import Array

# Cells so small that a bird fills one, and so large that noise does not; and by how much one must change against its
# neighbours (memory).
_ACROSS, _DOWN, _CHANGED = 48, 32, 0.12
_DARKEST = 4.0


def changed_part(before: Array, after: Array) -> float:
    """The part of a picture (h, w), brightness 0 to 255, that is another than before, 0 to 1.

    What gets brighter or darker as a whole, such as the sky at dusk or another exposure, has not changed. 0 for
    pictures of different sizes: one of them is of another camera.
    """
    if before.shape != after.shape:
        return 0.0
    first, second = _cells(before), _cells(after)
    return float(np.mean(np.abs(first - second) > _CHANGED))


def _cells(picture: Array) -> Array:
    """Mean brightness of cells, as parts of the picture's middle brightness."""
    high, wide = picture.shape
    down, across = min(_DOWN, high), min(_ACROSS, wide)
    rows = np.add.reduceat(picture, np.linspace(0, high, down, endpoint=False).astype(int), axis=0)
    cells = np.add.reduceat(rows, np.linspace(0, wide, across, endpoint=False).astype(int), axis=1)
    cells = cells / (high * wide / (down * across))
    return np.asarray(cells / max(float(np.median(cells)), _DARKEST))
