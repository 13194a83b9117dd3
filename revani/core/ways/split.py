"""The film of ways beside each other: which frame of whose film stands where."""

import hashlib
from collections.abc import Sequence
from fractions import Fraction
from typing import NamedTuple

import numpy as np
from numpy.typing import NDArray

from revani.core.documents import Shot
from revani.core.quantities.refusal import Refusal
from revani.core.ways.lockstep import Lock, frames_needed, stands
from revani.core.ways.together import together

# So many are seen at a glance.
FEWEST, MOST = 2, 4
# Another one whenever such films come out otherwise.
_VERSION = 1


class Side(NamedTuple):
    """One way in such a film: its name, the key and the rate of its own film, and its frame at each (n,), or −1."""

    name: str
    film: str
    fps: Fraction
    size: tuple[int, int]
    frames: NDArray[np.intp]


class SplitFilm(NamedTuple):
    """All sides, and the rate of the whole."""

    sides: tuple[Side, ...]
    fps: Fraction

    @property
    def length(self) -> int:
        """How many frames it has."""
        return len(self.sides[0].frames)

    @property
    def key(self) -> str:
        """What tells it from any other."""
        return self._told_apart(0, self.length)

    def parts(self, size: int) -> list[tuple[int, int, str]]:
        """Its parts of so many frames: the first, how many, and what tells one from any other."""
        cut = [(first, min(size, self.length - first)) for first in range(0, self.length, size)]
        return [(first, count, self._told_apart(first, count)) for first, count in cut]

    def _told_apart(self, first: int, count: int) -> str:
        shown = slice(first, first + count)
        told = [_VERSION, str(self.fps), *((one.name, one.film, one.frames[shown].tobytes()) for one in self.sides)]
        return hashlib.sha256(repr(told).encode()).hexdigest()


def split(shot: Shot, names: Sequence[str], lock: Lock) -> SplitFilm:
    """The film of ways of a shot by their names, in that order. Raises Refusal("names")."""
    if not FEWEST <= len(names) <= MOST or len(set(names)) < len(names):
        raise Refusal("names", f"From {FEWEST} to {MOST} different ways stand beside each other.", list(names))
    there = {one.name: one for one in together(shot).ways}
    if missing := [name for name in names if name not in there]:
        raise Refusal("names", f"The ways of this shot that can be filmed: {', '.join(there)}.", missing[0])
    ways = [there[name] for name in names]
    frames = stands(ways, lock, frames_needed(ways, lock))
    sides = tuple(
        Side(way.name, way.film.key, way.film.fps, (way.film.width, way.film.height), at)
        for way, at in zip(ways, frames, strict=True)
    )
    return SplitFilm(sides, ways[0].film.fps)
