"""An output of a shot rehearsed: which of its frames there would be, and what tells its film from any other."""

import hashlib
from collections.abc import Sequence
from dataclasses import dataclass
from fractions import Fraction
from functools import cached_property

import numpy as np

from revani.core.documents import FilmOutput
from revani.core.program.afterwards import CropWay, rate_of, way_of
from revani.core.program.compiled import Program
from revani.core.quantities.refusal import Refusal
from revani.core.quantities.units import count, duration
from revani.core.rehearsal.film import MOST, RehearsedFilm, rehearsed
from revani.core.rehearsal.practice import Mishap, Practised, practised

# What it is cut out of is no wider than this.
_WIDEST = 1_920
# So wide a sphere is unrolled.
_ROUND = 1_440


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

    def shown(self, frame: int) -> int:
        """Which frame of the shot a frame of it shows, both counted from 0."""
        return int(way_of(self.left.program, self.output).source[self.wanted[frame]])


def rehearsed_output(program: Program, number: int, width: int, mishaps: Sequence[Mishap] = ()) -> RehearsedOutput:
    """The film of an output of a program, counted from 0. Raises Refusal("output")."""
    outputs = program.shot.outputs
    if number >= len(outputs):
        names = ", ".join(f"{n} ({one.name})" for n, one in enumerate(outputs)) or "there is none"
        raise Refusal("output", f"An output of the shot: {names}.", number)
    output = outputs[number]
    if not output.is_film:
        raise Refusal("output", f"“{output.name}” becomes {output.becomes}: what is rehearsed is a film.", number)
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
