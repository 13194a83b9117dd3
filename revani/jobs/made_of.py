"""The pictures of a rehearsed output, by the recipe that makes it of frames that came home."""

from collections import OrderedDict
from collections.abc import Iterator

import numpy as np

from revani.core.picture.planned import picture_of
from revani.core.rehearsal.output import RehearsedOutput
from revani.core.rehearsal.practice import Practised
from revani.jobs.render import Recipe
from revani.jobs.resample import Picture

# So many pictures are kept, for a blend shows each several times.
_KEPT = 64


class Rehearsing:
    """A source of the pictures of a shot as they would be taken."""

    def __init__(self, left: Practised, width: int) -> None:
        self._left, self._width = left, width
        self._kept: OrderedDict[int, Picture] = OrderedDict()

    def picture(self, index: int, after_s: float) -> Picture:
        """The picture of a frame, BGR."""
        del after_s
        if index not in self._kept:
            made = picture_of(self._left.program, index, self._width, int(self._left.posed_at(index)))
            self._kept[index] = made[..., ::-1]
            if len(self._kept) > _KEPT:
                self._kept.popitem(last=False)
        return self._kept[index]

    def close(self) -> None:
        """Let go of what is kept."""
        self._kept.clear()


def pictures_of(film: RehearsedOutput, first: int, count: int) -> Iterator[Picture]:
    """The pictures (RGB) of some of its frames, in order."""
    there = tuple(np.flatnonzero(film.left.taken).tolist())
    recipe = Recipe(film.program, film.output, there, {}, (film.width, film.height))
    for picture in recipe.frames(Rehearsing(film.left, film.source_width), film.wanted[first : first + count]):
        yield picture[..., ::-1]
