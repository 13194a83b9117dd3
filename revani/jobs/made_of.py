"""An output of a shot rehearsed: cut, looked about in, blended or fading as it would be, out of rehearsed pictures."""

import hashlib
from collections import OrderedDict
from collections.abc import Iterator, Sequence
from dataclasses import dataclass
from fractions import Fraction
from functools import cached_property

import numpy as np

from revani.core.documents import FilmOutput, Shot
from revani.core.edit.fitting import compile_fitted
from revani.core.picture.planned import picture_of
from revani.core.program.afterwards import CropWay, rate_of, way_of
from revani.core.program.compiled import Program
from revani.core.quantities.refusal import Refusal
from revani.core.quantities.units import count, duration
from revani.core.rehearsal.film import MOST, RehearsedFilm, rehearsed
from revani.core.rehearsal.practice import Mishap, Practised, practised
from revani.jobs.render import Recipe
from revani.jobs.resample import Picture

# What it is cut out of is no wider than this.
_WIDEST = 1_920
# So wide a sphere is unrolled.
_ROUND = 1_440
_KEPT = 64


class Rehearsing:
    """The pictures of a shot as they would be taken: a source as any other."""

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


@dataclass(frozen=True)
class RehearsedOutput:
    """The film of an output: which of its frames there are, how many of those that there would be are shown."""

    left: Practised
    output: FilmOutput
    width: int
    wanted: tuple[int, ...]
    every: int
    lost: int
    source: RehearsedFilm

    @property
    def program(self) -> Program:
        """The program of the shot, as it is practised."""
        return self.left.program

    @property
    def length(self) -> int:
        """How many frames it has."""
        return len(self.wanted)

    @property
    def fps(self) -> Fraction:
        """Frames a second; a thinned one is as long as the whole."""
        return rate_of(self.left.program, self.output) / self.every

    @property
    def height(self) -> int:
        """Its height, even, in the output's shape."""
        return max(round(self.width / self.output.shape / 2) * 2, 2)

    @property
    def source_width(self) -> int:
        """How wide what it is cut out of is drawn, so that nothing is enlarged that would not be."""
        way = way_of(self.left.program, self.output)
        if not isinstance(way, CropWay):
            return _ROUND
        part = way.source_px[0] / way.whole_px[0] * float(way.zoom.max())
        return min(round(self.width * part / 2) * 2, _WIDEST)

    @property
    def told(self) -> str:
        """How long it is, and what is not in it, in words."""
        length = duration(round(float(len(self.wanted) / self.fps), 1))
        missing = f"; {count(self.lost, 'frame')} would not be there" if self.lost else ""
        thinned = f"; of so many frames every {self.every}. is shown" if self.every > 1 else ""
        return f"“{self.output.name}”: {length} of film{missing}{thinned}."

    @cached_property
    def key(self) -> str:
        """What tells it from any other: what its pictures are made of, and what is made of them."""
        told = (self.source.key, self.output.model_dump_json(exclude={"name"}), self.width, self.wanted, str(self.fps))
        return hashlib.sha256(repr(told).encode()).hexdigest()

    def parts(self, size: int) -> list[tuple[int, int, str]]:
        """Its parts of so many frames: the first, how many, and what tells one from any other."""
        firsts = range(0, len(self.wanted), size)
        return [
            (first, len(self.wanted[first : first + size]), hashlib.sha256(f"{self.key} {first}".encode()).hexdigest())
            for first in firsts
        ]

    def pictures(self, first: int, count: int) -> Iterator[Picture]:
        """The pictures (RGB) of some of its frames, in order."""
        there = tuple(np.flatnonzero(self.left.taken).tolist())
        recipe = Recipe(self.left.program, self.output, there, {}, (self.width, self.height))
        source = Rehearsing(self.left, self.source_width)
        for picture in recipe.frames(source, self.wanted[first : first + count]):
            yield picture[..., ::-1]

    def shown(self, frame: int) -> int:
        """Which frame of the shot a frame of it shows, both counted from 0."""
        return int(way_of(self.left.program, self.output).source[self.wanted[frame]])


def rehearsed_output(shot: Shot, number: int, width: int, mishaps: Sequence[Mishap] = ()) -> RehearsedOutput:
    """The film of an output of a shot, counted from 0. Raises Refusal("output")."""
    if number >= len(shot.outputs):
        names = ", ".join(f"{n} ({one.name})" for n, one in enumerate(shot.outputs)) or "there is none"
        raise Refusal("output", f"An output of the shot: {names}.", number)
    output = shot.outputs[number]
    if not output.is_film:
        raise Refusal("output", f"“{output.name}” becomes {output.becomes}: what is rehearsed is a film.", number)
    program = compile_fitted(shot)
    left = practised(program, mishaps)
    there = frozenset(np.flatnonzero(left.taken).tolist())
    source = way_of(left.program, output).source.tolist()
    found = [j for j, i in enumerate(source) if i in there]
    if not found:
        raise Refusal("shot", "No frame would be taken, so there is no film.")
    every = max(1, -(-len(found) // MOST))
    return RehearsedOutput(
        left, output, width // 2 * 2, tuple(found[::every]), every, len(source) - len(found),
        rehearsed(program, width, mishaps),
    )  # fmt: skip
