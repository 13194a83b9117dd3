"""The frames of an output, one after the other, out of the pictures of its shot."""

from collections.abc import Callable, Iterator, Mapping, Sequence
from dataclasses import dataclass
from functools import cached_property

import cv2
import numpy as np
from numpy.typing import NDArray

from revani.core.documents import FilmOutput
from revani.core.program.afterwards import CropWay, SphereWay, way_of
from revani.core.program.compiled import Program
from revani.jobs.align import Aligned, straightened
from revani.jobs.resample import Picture, framed
from revani.jobs.source import Source

Floats = NDArray[np.float32]


@dataclass(frozen=True)
class Recipe:
    """What is made of which pictures: an output of a program, or the pictures as they are, and how they are aligned.

    `there` are the frames of the shot that there are pictures of, counted from 0, in order; of a clip, None. `size` is
    how large an output is made; None: as it says.
    """

    program: Program
    output: FilmOutput | None
    there: tuple[int, ...] | None
    aligned: Mapping[int, Aligned]
    size: tuple[int, int] | None = None

    def film_frames(self) -> list[int]:
        """The frames of the film that there are pictures for: indices into the output's, or the shot's own."""
        if self.output is None:
            return list(self.there if self.there is not None else range(self.program.frame_count))
        way = way_of(self.program, self.output)
        if self.output.becomes == "a still":
            at_s = self.output.keys[0].at_s if self.output.keys else 0.0
            return [int(np.abs(way.film_s - at_s).argmin())]
        if self.output.becomes == "a trail picture":
            return list(self.there if self.there is not None else range(self.program.frame_count))
        if self._known is None:
            return list(range(way.frame_count))
        return [j for j in range(way.frame_count) if int(way.source[j]) in self._known]

    @cached_property
    def _known(self) -> frozenset[int] | None:
        return None if self.there is None else frozenset(self.there)

    def frames(self, source: Source, wanted: Sequence[int]) -> Iterator[Picture]:
        """The finished pictures of some of the film's frames, one after the other."""
        if self.output is None:
            for i in wanted:
                yield self._taken(source, i, float(self.program.t_s[i]))
            return
        way = way_of(self.program, self.output)
        if self.output.becomes == "a comet film":
            yield from self._comet(source, way, wanted)
            return
        for j in wanted:
            yield self._framed(self._mixed(source, way, j), way, j)

    def brightest(self, source: Source, wanted: Sequence[int], tell: Callable[[int], None]) -> Picture:
        """The brightest value of every pixel over some of the shot's frames, uncut."""
        trail: Picture | None = None
        for n, i in enumerate(wanted):
            tell(n)
            taken = self._taken(source, i, float(self.program.t_s[i]))
            trail = taken.copy() if trail is None else np.maximum(trail, taken)
        assert trail is not None
        return trail

    def cut_once(self, picture: Picture) -> Picture:
        """A picture of the whole shot, cut as the output is at its last frame."""
        assert self.output is not None
        way = way_of(self.program, self.output)
        return self._framed(picture, way, way.frame_count - 1)

    def _taken(self, source: Source, index: int, after_s: float) -> Picture:
        picture = source.picture(index, after_s)
        found = self.aligned.get(index)
        return picture if found is None else straightened(picture, found)

    def _framed(self, picture: Picture, way: CropWay | SphereWay, j: int) -> Picture:
        width, height = self.size or (way.output.pixels_wide, way.output.pixels_high)
        return framed(picture, way, j, width, height)

    def _mixed(self, source: Source, way: CropWay | SphereWay, j: int) -> Picture:
        """What film frame j is made of: its source, or the mean of so many from there on."""
        i, count = int(way.source[j]), 1 if way.output.becomes != "a blended film" else way.output.frames
        if count == 1:
            return self._taken(source, i, float(way.after_s[j]))
        mixed = [
            k for k in range(i, min(i + count, self.program.frame_count)) if self._known is None or k in self._known
        ]
        total: Floats | None = None
        for k in mixed:
            taken = self._taken(source, k, float(self.program.t_s[k]))
            total = taken.astype(np.float32) if total is None else cv2.add(total, taken, dtype=cv2.CV_32F)  # type: ignore[assignment]
        assert total is not None
        return np.asarray(np.rint(total / len(mixed)), dtype=np.uint8)

    def _comet(self, source: Source, way: CropWay | SphereWay, wanted: Sequence[int]) -> Iterator[Picture]:
        """The brightest of the last frames, each fading evenly to nothing over `frames`.

        What is older has faded out, so that a part of the film that begins so many frames before is the whole's.
        """
        fades = np.float32(255 / way.output.frames)
        glow: Floats | None = None
        every = self.film_frames()
        at = every.index(wanted[0])
        for j in every[max(at - way.output.frames, 0) : at + len(wanted)]:
            taken = self._taken(source, int(way.source[j]), float(way.after_s[j])).astype(np.float32)
            glow = taken if glow is None else np.maximum(taken, glow - fades)
            if j >= wanted[0]:
                yield self._framed(np.asarray(np.rint(glow), dtype=np.uint8), way, j)
