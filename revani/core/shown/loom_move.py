"""What the loom draws of a move: a strip an axis, its keys as posts, and where it is over a limit."""

from dataclasses import dataclass
from functools import lru_cache

import numpy as np
from numpy.typing import NDArray
from pydantic import BaseModel, ConfigDict

from revani.core.documents import AXIS_MEASURES, AxisName
from revani.core.move.overload import over_speed_or_force
from revani.core.move.words import show_moment, show_position
from revani.core.optics.focus import circle_mm
from revani.core.optics.projection import sharp_limits_m
from revani.core.program.compiled import Program
from revani.core.quantities.arrays import Array, spans
from revani.core.quantities.units import duration


class Lane(BaseModel):
    """Base of what is drawn."""

    model_config = ConfigDict(frozen=True)


class Breach(Lane):
    """A stretch over which an axis is asked for too much."""

    from_s: float
    to_s: float
    text: str


@dataclass(frozen=True)
class Post:
    """A key on the strip of an axis: by its place in the document, and where it has the axis, also in words.

    There are a hundred of them in an answer; a plain class is made faster.
    """

    index: int
    at_s: float
    value: float
    said: str
    moment: str


class AxisLane(Lane):
    """One axis on the motion layer: its name in `frames` (and `…_speed`), what it spans, where it breaks a limit.

    `spans` are `low` and `high` in words. `posts` are its keys; none where it is solved for.
    """

    name: str
    low: float
    high: float
    spans: str
    breaches: list[Breach]
    posts: list[Post]


class Hold(Lane):
    """A stretch over which a key is held."""

    from_s: float
    to_s: float


def motion_columns(program: Program, at: NDArray[np.intp], rates: bool) -> dict[str, list[float]]:
    """Positions at frames, with `rates` also `…_speed` and `…_force`; and what is sharp while focus is pulled."""
    motion = program.motion
    if motion is None:
        return {}
    columns: dict[str, Array] = {}
    for name, values in motion.positions.items():
        columns[name] = np.round(values[at], 3)
        if not rates:
            continue
        speed = np.gradient(values, program.t_s) if values.size > 1 else np.zeros_like(values)
        force = np.gradient(speed, program.t_s) if values.size > 1 else np.zeros_like(values)
        columns[f"{name}_speed"], columns[f"{name}_force"] = np.round(speed[at], 4), np.round(force[at], 6)
    if "focus" in motion.positions:
        near, far = _sharp(program)
        columns["focus_near"], columns["focus_far"] = np.round(near[at], 3), np.round(far[at], 3)
    return {name: values.tolist() for name, values in columns.items()}


_FARTHEST_M = 1_000.0


def _sharp(program: Program) -> tuple[Array, Array]:
    """Near and far limit of what is sharp at each frame, metres; infinity is drawn as a kilometre."""
    assert program.motion
    pose, focus = program.motion.frame_pose, program.motion.positions["focus"]
    near, far = sharp_limits_m(pose.focal_mm, program.exposures.aperture, focus, circle_mm(program.shot.body))
    return near, np.minimum(far, _FARTHEST_M)


_LEAST_SPAN: dict[AxisName, float] = {"slide": 10.0, "lift": 10.0, "focus": 0.1}


def axis_lanes(program: Program) -> list[AxisLane]:
    """The axes that move, in their usual order."""
    motion = program.motion
    if motion is None:
        return []
    speeds, forces = over_speed_or_force(program.motion, program.start_s)
    lanes, moments = [], key_moments(program)
    for name, axis in motion.axes.items():
        values = motion.positions[name]
        breaches = [
            Breach(from_s=one.from_s, to_s=one.to_s, text=word)
            for over, word in ((speeds, "too fast"), (forces, "too hard"))
            for one in over
            if one.axis == name
        ]
        beyond = (
            (values < axis.low - 1e-6) | (values > axis.high + 1e-6) if name != "focus" else np.zeros(0, dtype=bool)
        )
        breaches += [
            Breach(from_s=one.from_s, to_s=one.to_s, text="out of range") for one in spans(beyond, program.at_s)
        ]
        # A key may stand where no frame does.
        reach = np.concatenate([values, _keyed(program, name)])
        low, high = float(reach.min()), float(reach.max())
        # An axis that hardly moves is drawn as one that hardly moves.
        spare = max(0.0, _LEAST_SPAN.get(name, 1.0) - (high - low)) / 2
        low, high = low - spare, high + spare
        lanes.append(
            AxisLane(
                name=name, low=round(low, 3), high=round(high, 3), spans=_spans(name, low, high), breaches=breaches,
                posts=_posts(program, name, moments),
            )
        )  # fmt: skip
    return lanes


def _spans(name: AxisName, low: float, high: float) -> str:
    return AXIS_MEASURES[name].between(low, high, 0 if name in ("slide", "lift") else 1)


def _keyed(program: Program, name: AxisName) -> Array:
    """Where the keys have an axis, in the unit in which they are given; nothing where it is solved for."""
    assert program.motion
    raw = program.motion.path.knots.positions.get(name, np.zeros(0))
    return 1 / raw if name == "focus" else raw


@dataclass(frozen=True)
class KeyMoment:
    """When a key is reached and left, seconds from the start; its place among the knots, and its moment in words."""

    arrives_s: float
    leaves_s: float
    knot: int
    said: str


@lru_cache(maxsize=8)
def key_moments(program: Program) -> list[KeyMoment]:
    """The moments of the keys, in the order of the document."""
    motion = program.motion
    if motion is None or program.shot.move is None:
        return []
    knots = motion.path.knots
    found = []
    for key, after in zip(program.shot.move.keys, program.key_moments_s, strict=True):
        at = int(np.argmin(np.abs(knots.arrives_s - after)))
        found.append(KeyMoment(after, float(knots.leaves_s[at]), at, show_moment(key.at, program.shot)))
    return found


def turning_points(program: Program) -> list[str]:
    """When the rig turns round, or jumps back, in a film at live speed: times of the film."""
    motion = program.motion
    if motion is None or not program.shot.live:
        return []
    return [duration(round(float(at), 1)) for at in motion.path.turns_s(float(program.timing.event_s))]


def holds(program: Program) -> list[Hold]:
    """Where the rig holds a key."""
    return [
        Hold(from_s=program.start_s + one.arrives_s, to_s=program.start_s + one.leaves_s)
        for one in key_moments(program)
        if one.leaves_s > one.arrives_s
    ]


def _posts(program: Program, name: AxisName, moments: list[KeyMoment]) -> list[Post]:
    columns = _keyed(program, name)
    return [
        Post(
            index=index, at_s=program.start_s + one.arrives_s, value=float(columns[one.knot]),
            said=show_position(name, float(columns[one.knot])), moment=one.said,
        )
        for index, one in enumerate(moments)
        if columns.size
    ]  # fmt: skip
