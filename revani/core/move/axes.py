"""The rig over a whole shot: where every axis stands at each frame, and what the camera sees from there."""

from collections.abc import Iterable
from dataclasses import dataclass, replace
from functools import cached_property
from typing import NamedTuple

import numpy as np
from numpy.typing import ArrayLike, NDArray

from revani.core.documents import Axis, AxisName, Shot, Thing
from revani.core.move.path import Path, driven_units, locked_aim_deg, path_of, thing_of
from revani.core.optics.projection import bent, camera_axes, ray, seen_from
from revani.core.quantities.arrays import Array
from revani.core.quantities.refusal import Refusal
from revani.core.timing.moments import ShotClock

_DENSE = 4_000
_STILL = 1e-9


@dataclass(frozen=True)
class Pose:
    """Where the camera stands and how it looks: mm, degrees and mm of focal length, all of one shape.

    `right_mm`, `ahead_mm` and `up_mm` are from the slider's zero: along an inclined slider the camera rises.
    """

    right_mm: Array
    ahead_mm: Array
    up_mm: Array
    heading_deg: Array
    tilt_deg: Array
    roll_deg: Array
    focal_mm: Array

    def sees(self, shot: Shot, point_mm: ArrayLike) -> tuple[Array, Array, Array]:
        """Places (parts of the picture) of a point on the move table, and its depth in mm; ≤ 0 is behind.

        `point_mm` (…, 3) is to the right, ahead and up, and broadcasts against the pose.
        """
        point = np.asarray(point_mm, dtype=np.float64)
        return self._place(shot, point - self.camera_mm)

    @property
    def camera_mm(self) -> Array:
        """Where the camera stands (…, 3): to the right, ahead and up."""
        return np.stack([self.right_mm, self.ahead_mm, self.up_mm], axis=-1)

    def sees_far(self, shot: Shot, azimuth_deg: ArrayLike, altitude_deg: ArrayLike) -> tuple[Array, Array, Array]:
        """The same for something far away, by its azimuth from straight ahead and its altitude."""
        az, alt = np.radians(azimuth_deg), np.radians(altitude_deg)
        away = np.stack(np.broadcast_arrays(np.cos(alt) * np.sin(az), np.cos(alt) * np.cos(az), np.sin(alt)), axis=-1)
        return self._place(shot, away)

    def direction_of(self, shot: Shot, across: ArrayLike, down: ArrayLike) -> Array:
        """Unit vectors (…, 3) east, north, up of places in the picture, parts from its left and top; of one pose.

        The inverse of `sees_far`.
        """
        body, roll = shot.body, np.radians(float(self.roll_deg))
        right = (np.asarray(across, dtype=np.float64) - 0.5) * body.sensor_width_mm / float(self.focal_mm)
        up = (0.5 - np.asarray(down, dtype=np.float64)) * body.sensor_height_mm / float(self.focal_mm)
        towards = ray(right, up, shot.recording.projection)
        x, y = towards[..., 0], towards[..., 1]
        level = np.stack(
            [np.cos(roll) * x + np.sin(roll) * y, np.cos(roll) * y - np.sin(roll) * x, towards[..., 2]], axis=-1
        )
        return np.asarray(level @ camera_axes(float(self.heading_deg), float(self.tilt_deg)))

    def _place(self, shot: Shot, away: Array) -> tuple[Array, Array, Array]:
        body = shot.body
        x, y, depth = seen_from(away, self.heading_deg - shot.framing.heading_deg, self.tilt_deg, self.roll_deg)
        x, y, depth = bent(x, y, depth, shot.recording.projection)
        return (
            0.5 + x * self.focal_mm / body.sensor_width_mm, 0.5 - y * self.focal_mm / body.sensor_height_mm, depth,
        )  # fmt: skip


class Nudge(NamedTuple):
    """The end of an axis moved by hand while a move goes on: by so much, eased in from a moment to the last key's."""

    axis: AxisName
    by: float
    from_s: float
    to_s: float

    def at(self, at_s: Array) -> Array:
        """By how much the axis stands elsewhere at seconds from the start: nothing, then ever more, then all of it."""
        part = np.clip((at_s - self.from_s) / max(self.to_s - self.from_s, 1e-9), 0.0, 1.0)
        return np.asarray(self.by * part * part * (3 - 2 * part))


@dataclass(frozen=True, eq=False)
class Motion:
    """A move compiled: `positions` (n,) of every axis that moves at each frame, focus in metres.

    `travel_s` and `settle_s` are what shoot–move–settle takes out of each frame's slot; zero otherwise.
    `frame_times_s` is when the frames are due, from the start.
    """

    shot: Shot
    path: Path
    positions: dict[AxisName, Array]
    travel_s: Array
    settle_s: Array
    event_s: float
    frame_times_s: Array
    nudges: tuple[Nudge, ...] = ()

    def at(self, at_s: ArrayLike) -> dict[AxisName, Array]:
        """Where the axes stand at any seconds from the start (any shape), aim and all."""
        at = np.asarray(at_s, dtype=np.float64)
        found = _positions(self.shot, self.path, at)
        for nudge in self.nudges:
            found[nudge.axis] = found[nudge.axis] + nudge.at(at)
        return found

    def nudged(self, nudge: Nudge) -> "Motion":
        """The same move with one end moved by hand; before the moment from which it holds nothing is other."""
        positions = dict(self.positions)
        positions[nudge.axis] = positions[nudge.axis] + nudge.at(self.frame_times_s)
        return replace(self, nudges=(*self.nudges, nudge), positions=positions)

    @cached_property
    def frame_pose(self) -> Pose:
        """How the camera looks when each frame is due."""
        return pose_of(self.shot, self.positions, self.travel_s)

    def steps_px(self) -> dict[str, Array]:
        """How far things move in the picture from each frame to the next (n − 1,), in pixels."""
        before = Pose(*(part[:-1] for part in vars(self.frame_pose).values()))
        return shifts_px(self, before, Pose(*(part[1:] for part in vars(self.frame_pose).values())))

    def pose(self, at_s: ArrayLike) -> Pose:
        """How the camera looks at seconds from the start."""
        return pose_of(self.shot, self.at(at_s), np.asarray(at_s, dtype=np.float64))

    @cached_property
    def dense(self) -> tuple[Array, dict[AxisName, Array]]:
        """Times close enough together to see every peak, and the axes there."""
        event_s = self.event_s
        ends = [*self.path.knots.arrives_s, *self.path.knots.leaves_s]
        at = np.union1d(np.linspace(0.0, event_s, _DENSE), np.clip(ends, 0.0, event_s))
        return at, self.at(at)

    def moving_s(self, names: Iterable[AxisName], until_s: ArrayLike) -> Array:
        """For how long any of these axes has moved up to moments (any shape), seconds."""
        until = np.asarray(until_s, dtype=np.float64)
        moved = [name for name in names if name in self.positions]
        if not moved:
            return np.zeros_like(until)
        if self.path.move.kind == "stepwise":
            ends = np.append(self.frame_times_s, self.event_s)
            return np.asarray(np.interp(until, ends, np.concatenate([[0.0], np.cumsum(self.travel_s)])))
        at, positions = self.dense
        steps = np.max(np.abs(np.diff([positions[name] for name in moved], axis=1)), axis=0)
        moving = np.where(steps > _STILL, np.diff(at), 0.0)
        return np.asarray(np.interp(until, at, np.concatenate([[0.0], np.cumsum(moving)])))

    @property
    def axes(self) -> dict[AxisName, Axis]:
        """The axes that move."""
        return {name: self.shot.kit.axes[name] for name in self.positions}


def motion_of(shot: Shot, clock: ShotClock) -> Motion | None:
    """A shot's move, frame by frame; None where nothing moves. Raises Refusal at the field at fault."""
    path = path_of(shot, clock)
    if path is None:
        return None
    if shot.move is not None and shot.move.aim is not None and "pan" not in shot.kit.axes:
        raise Refusal("move.aim", "No mover of this kit pans.")
    positions = _positions(shot, path, clock.t_s)
    travel, settle = np.zeros_like(clock.t_s), np.zeros_like(clock.t_s)
    motion = Motion(shot, path, positions, travel, settle, clock.event_s, clock.t_s)
    if path.move.kind == "stepwise":
        return _stepwise(motion)
    return motion


def _positions(shot: Shot, path: Path, at_s: Array) -> dict[AxisName, Array]:
    found = path.all_positions(at_s)
    aim = path.move.aim
    if aim is not None:
        thing = thing_of(path.move, aim)
        pose = pose_of(shot, found, at_s)
        middle = np.array([thing.x_mm, thing.y_mm, thing.base_mm + thing.height_mm / 2])
        body = shot.body
        over = (body.sensor_width_mm / pose.focal_mm, body.sensor_height_mm / pose.focal_mm)
        # Where a straight lens of as many millimetres would have that place of the picture.
        across, down = np.array(aim.across), np.array(aim.down)
        if shot.recording.projection != "straight":
            towards = ray((across - 0.5) * over[0], (down - 0.5) * over[1], shot.recording.projection)
            across = 0.5 + towards[..., 0] / towards[..., 2] / over[0]
            down = 0.5 + towards[..., 1] / towards[..., 2] / over[1]
        pan, tilt = locked_aim_deg(middle, pose.camera_mm, across, down, over, pose.roll_deg)
        found["pan"] = pan
        if "tilt" in shot.kit.axes:
            found["tilt"] = tilt
    return {name: found[name] for name in shot.kit.axes if name in found}


def pose_of(shot: Shot, positions: dict[AxisName, Array], at_s: Array) -> Pose:
    """How the camera looks with its axes at positions; an axis that is not there stands as it is framed.

    On an inclined slider the head is levelled, so that pan turns about the vertical.
    """
    none = np.zeros_like(at_s)
    right_mm, up_mm = camera_place_mm(shot, positions.get("slide", none), positions.get("lift", none))
    return Pose(
        right_mm=right_mm,
        ahead_mm=none,
        up_mm=up_mm,
        heading_deg=shot.framing.heading_deg + positions.get("pan", none),
        tilt_deg=positions.get("tilt", none + shot.framing.tilt_deg),
        roll_deg=positions.get("roll", none),
        focal_mm=positions.get("zoom", none + shot.focal_length_mm),
    )


def camera_place_mm(shot: Shot, slide_mm: ArrayLike, lift_mm: ArrayLike) -> tuple[Array, Array]:
    """To the right and up, where slide and lift bring the camera on a slider that stands as steeply as it does."""
    steep = np.radians(shot.move.incline_deg if shot.move else 0.0)
    slide = np.asarray(slide_mm, dtype=np.float64)
    return slide * np.cos(steep), np.asarray(lift_mm, dtype=np.float64) + slide * np.sin(steep)


def travel_s(way: ArrayLike, speed: float, acceleration: float) -> Array:
    """The least time for a way from rest to rest: a trapezoid, or a triangle where speed is not reached."""
    d = np.abs(np.asarray(way, dtype=np.float64))
    full = speed**2 / acceleration
    return np.where(d >= full, d / speed + speed / acceleration, 2 * np.sqrt(d / acceleration))


def _stepwise(motion: Motion) -> Motion:
    """Positions on the steps of the axes, and the time that each step takes out of its slot."""
    travel, settle = np.zeros_like(motion.travel_s), np.zeros_like(motion.settle_s)
    stepped: dict[AxisName, Array] = {}
    for name, axis in motion.axes.items():
        units = driven_units(motion.shot.kit, name, motion.positions[name])
        whole = np.round(units / axis.step) * axis.step
        stepped[name] = motion.positions[name] if name == "focus" else whole
        step = np.diff(whole, append=whole[-1:])
        # An axis that turns round takes up its backlash first.
        turns = np.concatenate([[False], step[1:] * step[:-1] < 0])
        way = np.abs(step)
        turned = np.where(turns, axis.backlash, 0.0)
        travel = np.maximum(travel, np.where(way > 0, travel_s(way + turned, axis.speed, axis.acceleration), 0.0))
        settle = np.maximum(settle, np.where(way > 0, axis.settle_s, 0.0))
    return replace(motion, positions=stepped, travel_s=travel, settle_s=settle)


def middle_mm(thing: Thing) -> Array:
    """The middle of a thing on the move table: right, ahead, up."""
    return np.array([thing.x_mm, thing.y_mm, thing.base_mm + thing.height_mm / 2])


def shifts_px(motion: Motion, before: Pose, after: Pose) -> dict[str, Array]:
    """How far each thing, and what is far away, moves in the picture between two poses (n,), in pixels.

    Only where it stands in the picture at one of the two; elsewhere 0. `far away` is what stood in
    the middle of the picture at first.
    """
    shot, body = motion.shot, motion.shot.body
    out: dict[str, Array] = {}

    def shift(a: tuple[Array, Array, Array], b: tuple[Array, Array, Array]) -> Array:
        seen = ((a[2] > 0) & _inside(a)) | ((b[2] > 0) & _inside(b))
        way = np.hypot((b[0] - a[0]) * body.pixels_wide, (b[1] - a[1]) * body.pixels_high)
        return np.where(seen & (a[2] > 0) & (b[2] > 0), way, 0.0)

    for thing in path_things(motion):
        point = middle_mm(thing)
        out[thing.name] = shift(before.sees(shot, point), after.sees(shot, point))
    azimuth, altitude = before.heading_deg - shot.framing.heading_deg, before.tilt_deg
    middle = np.full_like(azimuth, 0.5)
    out["far away"] = shift((middle, middle, np.ones_like(azimuth)), after.sees_far(shot, azimuth, altitude))
    return out


def path_things(motion: Motion) -> tuple[Thing, ...]:
    """The things before the camera."""
    return motion.path.move.things


def _inside(place: tuple[Array, Array, Array]) -> NDArray[np.bool_]:
    return np.asarray((place[0] >= 0) & (place[0] <= 1) & (place[1] >= 0) & (place[1] <= 1))
