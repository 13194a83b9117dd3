"""Moves of all axes together: keyframes to positions, speeds and what the rig must do between frames.

Keys share their moments: every axis leaves and arrives together. An axis that a key does not name
stays where the key before had it. Focus goes straight in 1/distance, as the lens does.
"""

from dataclasses import dataclass, field
from itertools import pairwise

import numpy as np
from numpy.typing import ArrayLike, NDArray
from scipy.interpolate import CubicHermiteSpline, PchipInterpolator

from revani.core.documents import (
    AimLock,
    Axis,
    AxisName,
    Kit,
    Move,
    Shot,
    Thing,
)  # fmt: skip
from revani.core.move.leg import Leg, ways
from revani.core.optics.focus import scale_of
from revani.core.quantities.arrays import Array
from revani.core.quantities.refusal import Refusal
from revani.core.timing.moments import ShotClock

_TOGETHER_S = 1e-3


@dataclass(frozen=True)
class Knots:
    """The keys as columns (n,): when the rig arrives at and leaves each, s from the start, and where the axes stand."""

    arrives_s: Array
    leaves_s: Array
    positions: dict[AxisName, Array]


@dataclass(frozen=True, eq=False)
class Path:
    """The way of every axis over one pass of the keys, and how it repeats."""

    move: Move
    axes: dict[AxisName, Axis]
    knots: Knots
    legs: tuple[Leg, ...]
    _smooth: dict[AxisName, CubicHermiteSpline] = field(default_factory=dict)

    @property
    def begins_s(self) -> float:
        """When the first key is reached."""
        return float(self.knots.arrives_s[0])

    @property
    def pass_s(self) -> float:
        """How long one pass of the keys takes."""
        return float(self.knots.leaves_s[-1] - self.knots.arrives_s[0])

    @property
    def names(self) -> tuple[AxisName, ...]:
        """The axes that the keys move."""
        return tuple(self.knots.positions)

    def within(self, at_s: ArrayLike) -> Array:
        """Seconds from the start as they fall into the first pass, as the move repeats (any shape)."""
        t = np.asarray(at_s, dtype=np.float64)
        if self.move.repeat == "once" or self.pass_s <= 0:
            return t
        since = np.maximum(t - self.begins_s, 0.0)
        if self.move.repeat == "loop":
            inside = since % self.pass_s
        else:
            inside = since % (2 * self.pass_s)
            inside = np.where(inside > self.pass_s, 2 * self.pass_s - inside, inside)
        return np.asarray(np.where(t < self.begins_s, t, self.begins_s + inside))

    def raw(self, axis: AxisName, at_s: ArrayLike) -> Array:
        """Where an axis stands, focus in 1/m, at seconds from the start (any shape)."""
        t = self.within(at_s)
        values = self.knots.positions[axis]
        if self.move.path == "smooth" and values.size > 1:
            arrives, leaves = self.knots.arrives_s, self.knots.leaves_s
            return np.asarray(self._smooth[axis](np.clip(t, arrives[0], leaves[-1])))
        leg, part = self._part(t)
        steps = np.append(np.diff(values), 0.0)
        return np.asarray(values[leg] + steps[leg] * part)

    def _part(self, t: Array) -> tuple[NDArray[np.intp], Array]:
        """The leg that has begun last at times of the first pass, and the part of it that is done."""
        leg = np.clip(np.searchsorted(self.knots.leaves_s, t, side="right") - 1, 0, None)
        if not self.legs:
            return np.zeros_like(leg), np.zeros_like(t)
        begun = t >= self.knots.leaves_s[0]
        last = len(self.legs) - 1
        # At the last key nothing is left to go.
        inside = np.minimum(leg, last)
        part = ways(self.legs, inside, t - self.knots.leaves_s[inside])
        return inside, np.where(begun, part, 0.0)

    def all_raw(self, at_s: ArrayLike) -> dict[AxisName, Array]:
        """Where every axis of the keys stands, focus in 1/m; the way is worked out once for all of them."""
        if self.move.path == "smooth" and self.knots.arrives_s.size > 1:
            return {name: self.raw(name, at_s) for name in self.names}
        leg, part = self._part(self.within(at_s))
        return {
            name: np.asarray(values[leg] + np.append(np.diff(values), 0.0)[leg] * part)
            for name, values in self.knots.positions.items()
        }

    def all_positions(self, at_s: ArrayLike) -> dict[AxisName, Array]:
        """Where every axis of the keys stands; focus as a distance in metres."""
        return {name: 1 / raw if name == "focus" else raw for name, raw in self.all_raw(at_s).items()}

    def position(self, axis: AxisName, at_s: ArrayLike) -> Array:
        """Where an axis stands; focus as a distance in metres."""
        raw = self.raw(axis, at_s)
        return 1 / raw if axis == "focus" else raw

    def turns_s(self, until_s: float) -> Array:
        """When the rig turns round, or jumps back, up to a moment: seconds from the start."""
        if self.move.repeat == "once" or self.pass_s <= 0:
            return np.zeros(0)
        return np.arange(self.begins_s + self.pass_s, until_s, self.pass_s)

    def peaks(self, axis: AxisName) -> tuple[Array, Array]:
        """Greatest speed and acceleration of an axis on each leg (n − 1,), in units a second; focus in 1/m.

        A leg that begins or ends at speed is an infinite acceleration, unless the axis comes to that key,
        or leaves it, at the same speed.
        """
        if axis in self._smooth:
            return self._smooth_peaks(axis)
        steps = np.diff(self.knots.positions[axis])
        speeds = steps * np.array([leg.cruise_per_s for leg in self.legs])
        ramped = np.array([leg.ramped_per_s2 for leg in self.legs])
        jumps = np.zeros(steps.size, dtype=bool)
        for i, leg in enumerate(self.legs):
            before = self._speed_at_key(i, speeds, arriving=True)
            after = self._speed_at_key(i + 1, speeds, arriving=False)
            begins = 0.0 if leg.up.s > 0 else speeds[i]
            ends = 0.0 if leg.down.s > 0 else speeds[i]
            hair = 1e-6 * abs(speeds[i]) + 1e-12
            jumps[i] = abs(begins - before) > hair or abs(ends - after) > hair
        return np.abs(speeds), np.where(jumps, np.inf, np.abs(steps) * ramped)

    def _speed_at_key(self, at: int, speeds: Array, *, arriving: bool) -> float:
        """An axis's speed as it comes to a key, or as it leaves it; 0 at the ends, at a hold, and where it eases."""
        holds = self.knots.leaves_s[at] > self.knots.arrives_s[at]
        if holds or (arriving and at == 0) or (not arriving and at == len(self.legs)):
            return 0.0
        if arriving:
            return 0.0 if self.legs[at - 1].down.s > 0 else float(speeds[at - 1])
        return 0.0 if self.legs[at].up.s > 0 else float(speeds[at])

    def _smooth_peaks(self, axis: AxisName) -> tuple[Array, Array]:
        """A cubic's acceleration is straight, so it is greatest at an end; its speed there, or where that is 0."""
        curve = self._smooth[axis]
        first, second = curve.derivative(1), curve.derivative(2)
        speeds, forces = [], []
        for i in range(self.knots.arrives_s.size - 1):
            begin, end = float(self.knots.leaves_s[i]), float(self.knots.arrives_s[i + 1])
            hair = (end - begin) * 1e-9
            a, b = float(second(begin + hair)), float(second(end - hair))
            inside = [begin + (end - begin) * a / (a - b)] if a * b < 0 else []
            speeds.append(max(abs(float(first(t))) for t in (begin, end, *inside)))
            forces.append(max(abs(a), abs(b)))
        return np.array(speeds), np.array(forces)


def path_of(shot: Shot, clock: ShotClock) -> Path | None:
    """The path of a shot's move; None where it has no keys.

    Raises Refusal at the key's field for an axis that the rig lacks, for keys at one moment, and for
    a hold that reaches into the next key.
    """
    move = shot.move
    if move is None or not move.keys:
        return None
    axes = shot.kit.axes
    moments = [clock.after_s(key.at, shot, f"move.keys.{i}.at") for i, key in enumerate(move.keys)]
    order = sorted(range(len(moments)), key=lambda i: moments[i])
    named: list[AxisName] = [name for name in axes if any(name in key.positions for key in move.keys)]
    for i, key in enumerate(move.keys):
        for name in key.positions:
            if name not in axes:
                raise Refusal(f"move.keys.{i}.positions.{name}", "No mover of this kit has that axis.", name)
        if not -_TOGETHER_S <= moments[i] <= clock.event_s + 1:
            raise Refusal(f"move.keys.{i}.at", "A key stands between the first frame and the end.", moments[i])
    for before, after in pairwise(order):
        leaves = moments[before] + move.keys[before].hold_s
        if moments[after] - leaves < _TOGETHER_S:
            allowed = "A leg needs time: two keys stand at one moment, or a hold reaches into the next key."
            raise Refusal(f"move.keys.{after}.at", allowed, moments[after])
    arrives = np.array([moments[i] for i in order])
    leaves_s = arrives + np.array([move.keys[i].hold_s for i in order])
    positions = {name: _column(move, order, name) for name in named}
    knots = Knots(arrives, leaves_s, positions)
    legs = tuple(
        Leg.between(move.keys[a].leave, move.keys[b].arrive, float(arrives[k + 1] - leaves_s[k]))
        for k, (a, b) in enumerate(pairwise(order))
    )
    smooth = {}
    if move.path == "smooth" and arrives.size > 1:
        held = leaves_s > arrives
        at = np.concatenate([arrives, leaves_s[held]])
        sequence = np.argsort(at, kind="stable")
        for name, values in positions.items():
            smooth[name] = _eased(at[sequence], np.concatenate([values, values[held]])[sequence])
    return Path(move, {name: axes[name] for name in named}, knots, legs, smooth)


def _eased(at_s: Array, values: Array) -> CubicHermiteSpline:
    """A monotone cubic through positions that begins and ends at rest; at a hold it rests by itself.

    A slope of 0 at the ends keeps it monotone (Fritsch & Carlson, SIAM J. Numer. Anal. 17 (1980)).
    """
    slopes = PchipInterpolator(at_s, values).derivative()(at_s)
    slopes[0] = slopes[-1] = 0.0
    return CubicHermiteSpline(at_s, values, slopes)


def _column(move: Move, order: list[int], name: AxisName) -> Array:
    """One axis's values at the keys in order; a key that does not name it keeps the value before (or the first)."""
    values: list[float] = []
    first = next(move.keys[i].positions[name] for i in order if name in move.keys[i].positions)
    for i in order:
        values.append(move.keys[i].positions.get(name, values[-1] if values else first))
    column = np.array(values, dtype=np.float64)
    return np.asarray(1 / column) if name == "focus" else column


def driven_units(kit: Kit, axis: AxisName, values: Array) -> Array:
    """Positions as the axis itself counts them: focus on the lens's scale, others as they are."""
    if axis == "focus" and kit.lens.focus_marks:
        return scale_of(kit.lens.focus_marks, values)
    return values


def thing_of(move: Move, aim: AimLock) -> Thing:
    """The thing that is aimed at."""
    return next(thing for thing in move.things if thing.name == aim.thing)


def locked_aim_deg(
    target: ArrayLike,
    camera: ArrayLike,
    across: ArrayLike,
    down: ArrayLike,
    sensor_over_focal: tuple[ArrayLike, ArrayLike],
    roll_deg: ArrayLike = 0.0,
) -> tuple[Array, Array]:
    """Pan and tilt (n,) that put a target at a place of the picture, exactly.

    `target` (3,) and `camera` (n, 3) are mm to the right, ahead and up; `across` and `down` are parts
    of the picture; `sensor_over_focal` are sensor width and height over the focal length; a positive roll
    turns the camera clockwise as seen from behind it. Raises Refusal("move.aim") for a target at or behind
    the camera.
    """
    away = np.asarray(target, dtype=np.float64) - np.asarray(camera, dtype=np.float64)
    length = np.linalg.norm(away, axis=-1)
    if (away[..., 1] <= 0).any() or (length == 0).any():
        raise Refusal("move.aim", "The target lies at or behind the camera somewhere on its way.")
    a = (np.asarray(across) - 0.5) * np.asarray(sensor_over_focal[0], dtype=np.float64)
    b = (0.5 - np.asarray(down)) * np.asarray(sensor_over_focal[1], dtype=np.float64)
    # What the ray would be with the camera upright.
    sin_r, cos_r = np.sin(np.radians(roll_deg)), np.cos(np.radians(roll_deg))
    a, b = cos_r * a + sin_r * b, cos_r * b - sin_r * a
    ray = np.sqrt(a**2 + b**2 + 1)
    up = away[..., 2] / length * ray / np.sqrt(1 + b**2)
    if (np.abs(up) > 1).any():
        raise Refusal("move.aim", "No tilt puts the target there.")
    tilt = np.arcsin(up) - np.arctan(b)
    pan = np.arctan2(away[..., 0], away[..., 1]) - np.arctan2(a, np.cos(tilt) - b * np.sin(tilt))
    return np.degrees((pan + np.pi) % (2 * np.pi) - np.pi), np.degrees(tilt)
