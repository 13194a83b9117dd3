"""The shots of a sequence laid one after the other."""

from collections.abc import Mapping
from dataclasses import dataclass
from functools import cached_property
from itertools import pairwise
from typing import NamedTuple
from uuid import UUID

import numpy as np

from revani.core.documents import Cut, Shot, ShotSequence
from revani.core.documents.sequence import View
from revani.core.edit.fitting import compile_fitted
from revani.core.optics.projection import view_deg
from revani.core.program.compiled import Program
from revani.core.quantities.refusal import Refusal

# A subject that fills so much of the height of the picture is close, or a middle view; where nothing stands on the
# move table, the angle of view says it (common practice, no source).
_CLOSE_PART, _MIDDLE_PART = 0.6, 0.25
_WIDE_DEG, _CLOSE_DEG = 60.0, 25.0
_MOVED_PART = 0.1
_SLID_MM = 50.0


class Kept(NamedTuple):
    """A shot as it is kept: put away, or still in use."""

    shot: Shot
    archived: bool


@dataclass(frozen=True)
class Piece:
    """A cut with the program of its shot; None where that is gone or cannot be planned, `trouble` then says why.

    `from_s` is where it begins in the film of the sequence, `in_s` and `out_s` are seconds of its own film.
    """

    at: int
    cut: Cut
    program: Program | None
    archived: bool
    trouble: str
    from_s: float
    in_s: float
    out_s: float

    @property
    def name(self) -> str:
        """What its shot is called now."""
        return self.program.shot.name if self.program else self.cut.name

    @property
    def length_s(self) -> float:
        """How long it is in the film."""
        return max(self.out_s - self.in_s, 0.0)

    @cached_property
    def frames(self) -> tuple[int, int]:
        """The first and the last frame of its shot that are used, counted from 0."""
        assert self.program is not None
        film, last = self.program.film_s, self.program.frame_count - 1
        # A millionth of a second: 1/3 s as it is typed is the frame at 1/3 s.
        first = min(int(np.searchsorted(film, self.in_s - 1e-6)), last)
        return first, max(first, min(int(np.searchsorted(film, self.out_s - 1e-6)) - 1, last))


class Joint(NamedTuple):
    """Two neighbours in the film, each with its program."""

    before: Piece
    before_program: Program
    after: Piece
    after_program: Program


@dataclass(frozen=True)
class Film:
    """A sequence with what comes of it."""

    sequence: ShotSequence
    pieces: tuple[Piece, ...]

    @property
    def length_s(self) -> float:
        """How long the whole is."""
        return sum(one.length_s for one in self.pieces)

    @property
    def planned(self) -> tuple[tuple[Piece, Program], ...]:
        """The pieces that there is a plan of, each with it."""
        return tuple((one, one.program) for one in self.pieces if one.program is not None)

    @property
    def joins(self) -> tuple[Joint, ...]:
        """Neighbours in the film, both of which there is a plan of."""
        return tuple(
            Joint(a, a.program, b, b.program)
            for a, b in pairwise(self.pieces)
            if a.program is not None and b.program is not None
        )

    @property
    def programs(self) -> tuple[Program, ...]:
        """The programs of its shots, each once, by when they begin."""
        each = {program.shot.id: program for _, program in self.planned}
        return tuple(sorted(each.values(), key=lambda one: one.start_s))


def laid(sequence: ShotSequence, kept: Mapping[UUID, Kept]) -> Film:
    """The shots of a sequence one after the other; what is gone or cannot be planned stays as a hole that says so."""
    programs: dict[UUID, Program | str] = {}
    for id in {cut.shot for cut in sequence.cuts}:
        if id not in kept:
            programs[id] = "It is not there any more."
            continue
        try:
            programs[id] = compile_fitted(kept[id].shot)
        except Refusal as refusal:
            programs[id] = f"It cannot be planned: {refusal.allowed}"
    pieces: list[Piece] = []
    film_s = 0.0
    for at, cut in enumerate(sequence.cuts):
        found = programs[cut.shot]
        program = None if isinstance(found, str) else found
        whole = float(program.film_length_s) if program else float(cut.out_s or cut.in_s)
        end = whole if cut.out_s is None else min(float(cut.out_s), whole)
        piece = Piece(
            at, cut, program, cut.shot in kept and kept[cut.shot].archived, found if isinstance(found, str) else "",
            film_s, float(cut.in_s), max(end, float(cut.in_s)),
        )  # fmt: skip
        pieces.append(piece)
        film_s += piece.length_s
    return Film(sequence, tuple(pieces))


def shape_of(text: str) -> float:
    """Width over height of a shape such as 16:9."""
    wide, high = text.split(":")
    return int(wide) / int(high)


def across_deg(shot: Shot, focal_mm: float | None = None) -> float:
    """How wide the picture sees through the mode's projection, degrees; at most all round."""
    seen = view_deg(shot.recording.projection, shot.body.sensor_width_mm, focal_mm or shot.focal_length_mm)
    return 360.0 if seen is None else seen


class Box(NamedTuple):
    """Where something stands in the picture: parts from its left and top."""

    left: float
    top: float
    right: float
    bottom: float


def subject_box(program: Program, frame: int) -> Box | None:
    """Where the first subject stands in the picture of a frame; None where there is none before the camera."""
    thing = program.shot.subject
    if thing is None:
        return None
    half, foot = thing.width_mm / 2, thing.base_mm
    corners = [[thing.x_mm - half, thing.y_mm, foot + thing.height_mm], [thing.x_mm + half, thing.y_mm, foot]]
    pose = program.pose(np.full(2, float(program.t_s[frame])))
    x, y, depth = pose.sees(program.shot, corners)
    if (depth <= 1).any():
        return None
    return Box(float(x.min()), float(y[0]), float(x.max()), float(y[1]))


def view_of(piece: Piece) -> View:
    """How near a cut seems: what its person says, else by its subject, else by its angle of view."""
    if piece.cut.view is not None:
        return piece.cut.view
    assert piece.program is not None
    box = subject_box(piece.program, piece.frames[0])
    if box is not None:
        part = box.bottom - box.top
        return "close" if part >= _CLOSE_PART else "middle" if part >= _MIDDLE_PART else "wide"
    angle = across_deg(piece.program.shot)
    return "wide" if angle >= _WIDE_DEG else "middle" if angle >= _CLOSE_DEG else "close"


def drift_across(piece: Piece) -> int:
    """Which way the picture goes while the camera moves: 1 to the right, −1 to the left, 0 where it hardly does.

    Around a thing that is kept in its place, near and far go opposite ways; to and fro, it goes both.
    """
    program = piece.program
    if program is None or program.motion is None or program.shot.move is None:
        return 0
    shot, move = program.shot, program.shot.move
    if move.aim is not None or move.repeat == "ping-pong":
        return 0
    first, last = piece.frames
    after = program.t_s[[first, last]]
    pose = program.motion.pose(after)
    middle = program.motion.pose(program.t_s[(first + last) // 2])
    ahead = float(middle.heading_deg) - shot.framing.heading_deg
    x, _, depth = pose.sees_far(shot, np.full(2, ahead), np.full(2, float(middle.tilt_deg)))
    moved = float(x[1] - x[0])
    if (depth > 0).all() and abs(moved) > _MOVED_PART:
        return 1 if moved > 0 else -1
    slide = program.motion.positions.get("slide")
    if slide is not None and abs(float(slide[last] - slide[first])) > _SLID_MM:
        return -1 if slide[last] > slide[first] else 1
    return 0
