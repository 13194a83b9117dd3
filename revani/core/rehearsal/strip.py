"""The film as a strip of small pictures: which frames they show, and the pictures themselves."""

import numpy as np
from numpy.typing import NDArray

from revani.core.picture.planned import picture_of
from revani.core.picture.skylight import Picture
from revani.core.program.compiled import Program
from revani.core.quantities.arrays import Array
from revani.core.rehearsal.practice import practised

CELLS = 24


def cells(program: Program) -> tuple[Array, NDArray[np.intp]]:
    """Where the cells of the strip begin and end in the film (n + 1,), seconds, and the frame that each shows (n,)."""
    edges = np.linspace(0, float(program.film_length_s), min(CELLS, program.frame_count) + 1)
    # A billionth of a second: a frame that begins at the middle of a cell is the one that is shown there.
    shown = np.searchsorted(program.film_s, (edges[:-1] + edges[1:]) / 2 + 1e-9, side="right") - 1
    return edges, shown.astype(np.intp)


def strip(program: Program, width: int) -> Picture:
    """The pictures of all cells beside each other (h, n · width, 3); black where a frame would not be taken."""
    body, left = program.shot.body, practised(program)
    height = max(round(width * body.pixels_high / body.pixels_wide), 1)
    _, shown = cells(program)
    made = np.zeros((height, len(shown) * width, 3), dtype=np.uint8)
    for n, i in enumerate(shown.tolist()):
        if left.taken[i]:
            made[:, n * width : (n + 1) * width] = picture_of(program, i, width, int(left.posed_at(i)))[:height]
    return made
