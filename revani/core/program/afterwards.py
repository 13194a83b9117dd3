"""What is made of a shot afterwards: which of its frames make each frame of an output, and how it lies in them."""

from collections.abc import Sequence
from dataclasses import dataclass
from fractions import Fraction
from functools import cached_property, lru_cache
from itertools import pairwise

import numpy as np
from numpy.typing import NDArray

from revani.core.documents import FilmOutput, Section, SphereKey
from revani.core.documents.output import FilmKey, most_view_deg
from revani.core.move.leg import Leg, ways
from revani.core.optics.projection import camera_axes
from revani.core.program.compiled import Program
from revani.core.quantities.arrays import Array
from revani.core.quantities.refusal import Refusal
from revani.core.reframe.crop import crop, roll_room
from revani.core.reframe.shake import noise, of_clip
from revani.core.reframe.sphere import unwound

# Over how long a way of travel is smoothed, seconds of film.
_TRAVEL_S = 1.5


@dataclass(frozen=True, eq=False)
class Way:
    """An output over its film: `film_s` (m,) is when each of its frames plays, `shot_film_s` the same in the film of
    the shot, `source` the frame of the shot that is shown then (counted from 0), `after_s` when that is taken."""

    program: Program
    output: FilmOutput
    film_s: Array
    shot_film_s: Array
    source: NDArray[np.intp]
    after_s: Array

    @property
    def frame_count(self) -> int:
        """How many frames it has."""
        return len(self.film_s)


@dataclass(frozen=True, eq=False)
class CropWay(Way):
    """A crop: its zoom, its middle as parts of the picture, its roll, at each film frame, shake and all."""

    zoom: Array
    across: Array
    down: Array
    roll_deg: Array

    @property
    def source_px(self) -> tuple[int, int]:
        """The size of the picture that it is cut out of."""
        body = self.program.shot.body
        return body.pixels_wide, body.pixels_high

    @cached_property
    def whole_px(self) -> tuple[float, float]:
        """The size of the largest crop, in pixels of the source."""
        made = crop(*self.source_px, self.output.pixels_wide, self.output.pixels_high, Fraction(1))
        return float(made.width_px), float(made.height_px)

    @property
    def lossless(self) -> float:
        """The zoom up to which no pixel is enlarged."""
        return self.whole_px[0] / self.output.pixels_wide

    @cached_property
    def reach(self) -> tuple[Array, Array]:
        """How far the frame's corners reach from its middle, sideways and up and down, parts of the picture."""
        (wide, high), (w, h) = self.source_px, self.whole_px
        turn = np.radians(self.roll_deg)
        half_w, half_h = w / self.zoom / 2, h / self.zoom / 2
        sin, cos = np.abs(np.sin(turn)), np.abs(np.cos(turn))
        return (half_w * cos + half_h * sin) / wide, (half_w * sin + half_h * cos) / high

    @cached_property
    def over(self) -> Array:
        """By how much the frame lies over the picture's edge, parts of the picture; at most 0: not at all."""
        x, y = self.reach
        off = np.stack([x - self.across, self.across + x - 1, y - self.down, self.down + y - 1])
        return np.asarray(off.max(axis=0))

    @property
    def needed(self) -> float:
        """How many times wider than the widest frame the picture must be: the largest zoom, with room to roll and
        to shake."""
        wide, high = self.output.pixels_wide, self.output.pixels_high
        room = max(roll_room(float(one), wide, high) for one in (self.roll_deg.min(), self.roll_deg.max()))
        return float(self.zoom.max()) * room * self.shake_room

    @property
    def shake_room(self) -> float:
        """The zoom that a shake to either side takes."""
        widths = shake_of(self.output, np.linspace(0, 60, 1_201))[0] if self.output.shaken else np.zeros(1)
        left = 1 - 2 * float(np.abs(widths).max())
        return 1 / left if left > 0.05 else 20.0

    def matrix(self, j: int) -> Array:
        """What takes the pixels of film frame j to those of its source (2, 3), pixel centres on whole numbers."""
        (wide, high), scale = self.source_px, self.whole_px[0] / self.output.pixels_wide / float(self.zoom[j])
        turn = np.radians(float(self.roll_deg[j]))
        cos, sin = np.cos(turn) * scale, np.sin(turn) * scale
        mid_x, mid_y = (self.output.pixels_wide - 1) / 2, (self.output.pixels_high - 1) / 2
        at_x, at_y = float(self.across[j]) * wide - 0.5, float(self.down[j]) * high - 0.5
        return np.array([[cos, -sin, at_x - cos * mid_x + sin * mid_y], [sin, cos, at_y - sin * mid_x - cos * mid_y]])


@dataclass(frozen=True, eq=False)
class SphereWay(Way):
    """A picture out of a sphere at each film frame: yaw from what it is locked to, pitch, roll, view, curve."""

    yaw_deg: Array
    pitch_deg: Array
    roll_deg: Array
    view_deg: Array
    curve: Array

    @cached_property
    def heading_deg(self) -> Array:
        """Where it looks, as azimuth."""
        shot = self.program.shot
        base = np.full(self.frame_count, shot.framing.heading_deg)
        if self.output.lock == "the way ahead" and self.program.carried is not None:
            carried = self.program.carried
            travel = np.unwrap(carried.track.travel_deg(carried.along_m(self.after_s)), period=360)
            base = base + _smoothed(travel, self.film_s)
        return np.asarray(base + self.yaw_deg)

    def turned(self, j: int) -> Array:
        """What takes directions of the picture of film frame j to those of its sphere, right, up and forward (3, 3)."""
        turn = np.radians(self.roll_deg[j])
        roll = np.array([[np.cos(turn), -np.sin(turn), 0], [np.sin(turn), np.cos(turn), 0], [0, 0, 1.0]])
        looks = camera_axes(float(self.heading_deg[j]), float(self.pitch_deg[j]))
        pose = self.program.pose(float(self.after_s[j]))
        # The sphere is steadied: it turns with what carries it and stays level.
        held = camera_axes(float(pose.heading_deg), float(pose.tilt_deg))
        return np.asarray(roll @ looks @ held.T)


def _smoothed(values: Array, film_s: Array) -> Array:
    if len(values) < 3:
        return values
    step = float(film_s[1] - film_s[0])
    wide = min(max(round(_TRAVEL_S / step), 1), len(values))
    padded = np.pad(values, (wide, wide), mode="edge")
    kernel = np.hanning(2 * wide + 1)
    return np.convolve(padded, kernel / kernel.sum(), mode="valid")


def film_length_s(program: Program, output: FilmOutput) -> float:
    """How long an output plays."""
    return float(_knots(float(program.film_length_s), output.sections)[1][-1])


def _knots(whole_s: float, sections: tuple[Section, ...]) -> tuple[Array, Array]:
    """Moments of the shot's film between which an output plays evenly, and when they play."""
    starts = [0.0, *(one.from_s for one in sections if 0 < one.from_s < whole_s), whole_s]
    plays = [0.0]
    for a, b in pairwise(starts):
        factor = next((one.factor for one in reversed(sections) if one.from_s <= a + 1e-9), 1.0)
        plays.append(plays[-1] + (b - a) / factor)
    return np.array(starts), np.array(plays)


@lru_cache(maxsize=64)
def _times(
    program: Program, fps: Fraction, sections: tuple[Section, ...]
) -> tuple[Array, Array, NDArray[np.intp], Array]:
    """When each film frame plays, when in the film of the shot, what it shows, and when that is taken."""
    starts, plays = _knots(float(program.film_length_s), sections)
    m = max(int(Fraction(plays[-1]).limit_denominator(10**6) * fps + Fraction(1, 10**6)), 1)
    film_s = np.arange(m) * fps.denominator / fps.numerator
    shot_film_s = np.interp(film_s, plays, starts)
    # A billionth of a second: what begins at a moment is shown at it.
    source = np.maximum(np.searchsorted(program.film_s, shot_film_s + 1e-9, side="right") - 1, 0)
    return film_s, shot_film_s, source, np.interp(shot_film_s, program.film_s, program.t_s)


def rate_of(program: Program, output: FilmOutput) -> Fraction:
    """Frames a second of an output."""
    return output.fps or program.timing.fps


@lru_cache(maxsize=64)
def way_of(program: Program, output: FilmOutput) -> CropWay | SphereWay:
    """An output over its film. Raises Refusal for one that asks for a sphere where there is none."""
    film_s, shot_film_s, source, after_s = _times(program, rate_of(program, output), output.sections)
    m = len(film_s)
    given = (program, output, film_s, shot_film_s, source, after_s)
    if program.round:
        keys: Sequence[SphereKey] = output.sphere or (SphereKey(),)
        longer = [one.turns == "longer" for one in keys]
        yaw, pitch, roll, view, curve = _sampled(
            keys, film_s,
            [unwound([one.yaw_deg for one in keys], longer), [one.pitch_deg for one in keys],
             unwound([one.roll_deg for one in keys], longer), [one.view_deg for one in keys],
             [one.curve for one in keys]],
        )  # fmt: skip
        # Between two keys that can be had there may be a moment that cannot.
        return SphereWay(*given, yaw, pitch, roll, np.minimum(view, most_view_deg(curve)), curve)
    if output.sphere:
        raise Refusal("sphere", "Only a mode that records a sphere has pictures out of one.")
    if output.keys:
        zoom, across, down, roll = _sampled(
            output.keys, film_s,
            [np.log([one.zoom for one in output.keys]), [one.across for one in output.keys],
             [one.down for one in output.keys], [one.roll_deg for one in output.keys]],
        )  # fmt: skip
    else:
        zoom, across, down, roll = (np.full(m, value) for value in (0.0, 0.5, 0.5, 0.0))
    zoom = np.exp(zoom)
    if output.shaken:
        body = program.shot.body
        made = crop(body.pixels_wide, body.pixels_high, output.pixels_wide, output.pixels_high, Fraction(1))
        part = float(made.width_px) / body.pixels_wide
        x, y, turned = shake_of(output, film_s)
        across = across + x * part / zoom
        down = down + y * part / zoom * body.pixels_wide / body.pixels_high
        roll = roll + turned
    return CropWay(*given, zoom, across, down, roll)


def shake_of(output: FilmOutput, film_s: Array) -> Array:
    """The shake of an output at moments of its film (3, m): widths across and down, degrees of roll."""
    if not output.measured:
        x, y, roll = noise(film_s, output.shake_hz, output.shake_seed, 3)
        return np.stack([x * output.shake_part, y * output.shake_part, roll * output.shake_roll_deg])
    # A measured motion is laid out as strong as is said: its largest shift is the shake's part of the width.
    rows = of_clip(output.measured, float(output.measured_fps), film_s)
    most = np.abs(np.asarray(output.measured)).max(axis=0)
    shift = output.shake_part / max(float(most[:2].max()), 1e-9)
    return np.stack([rows[0] * shift, rows[1] * shift, rows[2] * output.shake_roll_deg / max(float(most[2]), 1e-9)])


def _sampled(keys: Sequence[FilmKey], film_s: Array, values: Sequence[Sequence[float] | Array]) -> Array:
    """The values of keys (k, n) at moments of the film (k, m), eased from one to the next."""
    table = np.asarray(values, dtype=np.float64)
    if len(keys) == 1:
        return np.repeat(table, len(film_s), axis=1)
    at = np.array([one.at_s for one in keys])
    legs = [Leg.between(a.leave, b.arrive, b.at_s - a.at_s) for a, b in pairwise(keys)]
    leg = np.clip(np.searchsorted(at, film_s, side="right") - 1, 0, len(legs) - 1)
    done = ways(legs, leg, film_s - at[leg])
    return np.asarray(table[:, leg] + (table[:, leg + 1] - table[:, leg]) * done)
