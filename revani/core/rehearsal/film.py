"""The film that a shot would give: which frames it has, and what is in each, so that the same is made once."""

import hashlib
from collections.abc import Iterator, Sequence
from dataclasses import dataclass
from fractions import Fraction
from functools import cached_property

import numpy as np
from numpy.typing import NDArray

from revani.core.picture.planned import exposed_stops, picture_of
from revani.core.picture.render import VERSION
from revani.core.picture.skylight import Picture
from revani.core.program.compiled import Program
from revani.core.quantities.arrays import Array
from revani.core.quantities.units import count, duration
from revani.core.rehearsal.practice import Mishap, practised

# A shot of more frames than this is shown thinned.
MOST = 20_000


@dataclass(frozen=True)
class RehearsedFilm:
    """The frames of a rehearsed film by their places in the program, every so many of them, those lost, its rate."""

    program: Program
    width: int
    frames: NDArray[np.intp]
    posed_at: NDArray[np.intp]
    """As which frame the rig is posed: from where it has no power, or stalls, it stands."""
    every: int
    lost: int
    fps: Fraction

    @property
    def height(self) -> int:
        """Its height, even, in the body's shape."""
        body = self.program.shot.body
        return max(round(self.width * body.pixels_high / body.pixels_wide / 2) * 2, 2)

    @property
    def length(self) -> int:
        """How many frames it has."""
        return len(self.frames)

    def shown(self, frame: int) -> int:
        """Which frame of the shot a frame of it shows, both counted from 0."""
        return int(self.frames[frame])

    def parts(self, size: int) -> list[tuple[int, int, str]]:
        """Its parts of so many frames: the first, counted in the film, how many, and what tells one from any other."""
        rows = self._inputs
        return [
            (first, len(rows[first : first + size]), self._told_apart(rows[first : first + size]))
            for first in range(0, len(rows), size)
        ]

    @property
    def key(self) -> str:
        """What tells the whole film from any other."""
        return self._told_apart(self._inputs)

    def _told_apart(self, rows: Array) -> str:
        return hashlib.sha256(_shared(self) + rows.tobytes()).hexdigest()

    @cached_property
    def _inputs(self) -> Array:
        return _inputs(self.program, self.frames, self.posed_at)

    @property
    def told(self) -> str:
        """How long it is, and what is not in it, in words."""
        length = duration(round(float(len(self.frames) / self.fps), 1))
        missing = f"; {count(self.lost, 'frame')} would not be taken" if self.lost else ""
        thinned = f"; of so many frames every {self.every}. is shown" if self.every > 1 else ""
        return f"{length} of film{missing}{thinned}."

    def pictures(self, first: int, count: int) -> Iterator[Picture]:
        """The pictures of some of its frames, in order."""
        span = slice(first, first + count)
        for i, posed_at in zip(self.frames[span].tolist(), self.posed_at[span].tolist(), strict=True):
            yield picture_of(self.program, i, self.width, posed_at)[: self.height]


def rehearsed(program: Program, width: int, mishaps: Sequence[Mishap] = ()) -> RehearsedFilm:
    """The film of a program: the frames that would be taken, in order; of a very long one every so many.

    Of a walk that is filmed and sped up they are those that its film shows. A thinned film is as long as the whole one.
    `mishaps` are practised: the film is what would be left.
    """
    left, shown = practised(program, mishaps), _shown(program)
    there = shown[left.taken[shown]]
    every = max(1, -(-len(there) // MOST))
    frames = there[::every]
    return RehearsedFilm(
        left.program, width // 2 * 2, frames, left.posed_at(frames), every, len(shown) - len(there),
        program.timing.fps / every,
    )  # fmt: skip


def _shown(program: Program) -> NDArray[np.intp]:
    """Which frame of the program each frame of the whole film shows."""
    if program.carried is None or not program.carried.walk.filmed:
        return np.arange(program.frame_count, dtype=np.intp)
    fps = program.timing.fps
    at = np.arange(max(int(program.film_length_s * fps), 1)) / float(fps)
    found = np.searchsorted(program.film_s, at + 1e-9, side="right") - 1
    return np.clip(found, 0, program.frame_count - 1).astype(np.intp)


def _inputs(program: Program, at: NDArray[np.intp], posed_at: NDArray[np.intp]) -> Array:
    """All that a frame's picture is made of (n, columns), beside what all frames share."""
    exposures, pose = program.exposures, program.pose(program.t_s[posed_at])
    closes = program.pose(program.t_s[posed_at] + exposures.shutter_s[at])
    focus = program.motion.positions.get("focus") if program.motion else None
    columns = [
        at, program.at_s[at], exposed_stops(program, at), exposures.shutter_s[at], exposures.aperture[at],
        exposures.iso[at], program.white_balance_k[at], pose.heading_deg, pose.tilt_deg, pose.roll_deg, pose.right_mm,
        pose.ahead_mm, pose.up_mm, pose.focal_mm, program.nd_stops[at], closes.heading_deg, closes.tilt_deg,
        closes.roll_deg, 0.0 if focus is None else focus[posed_at],
    ]  # fmt: skip
    # Rounded, so that the last digit of a computation makes no other film.
    rows = np.column_stack([np.broadcast_to(np.asarray(one, dtype=np.float64), at.shape) for one in columns])
    return np.asarray(np.round(rows, 6), dtype=np.float64)


def _shared(film: RehearsedFilm) -> bytes:
    """What all frames share: where it stands, what stands there, the lens's projection, and how it is drawn."""
    shot = film.program.shot
    place = shot.place.model_dump_json(include={"latitude_deg", "longitude_deg", "horizon", "elevation_m", "weather"})
    things = "".join(one.model_dump_json() for one in shot.things)
    body = shot.body
    told = (
        VERSION, str(film.fps), film.width, film.height, place, things, shot.recording.projection, shot.light.cloud,
        body.sensor_width_mm, body.sensor_height_mm, body.pixels_wide, body.pixels_high,
        shot.framing.heading_deg, body.clips_over_stops,
        shot.needs_dark or shot.trails,
    )  # fmt: skip
    return repr(told).encode()
