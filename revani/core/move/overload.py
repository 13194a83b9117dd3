"""Where a move asks an axis for more speed or acceleration than it has."""

from dataclasses import dataclass
from functools import lru_cache

import numpy as np

from revani.core.documents import Axis, AxisName
from revani.core.move.axes import Motion
from revani.core.move.path import driven_units
from revani.core.quantities.arrays import Array

_SLACK = 1.001


@dataclass(frozen=True)
class Over:
    """A stretch in which an axis goes beyond a limit."""

    axis: AxisName
    reached: float
    limit: float
    from_s: float
    to_s: float

    @property
    def factor(self) -> float:
        """How many times over the limit."""
        return self.reached / self.limit


@lru_cache(maxsize=16)
def over_speed_or_force(motion: Motion | None, start_s: float) -> tuple[list[Over], list[Over]]:
    """Where axes are asked for more speed or acceleration than they have; a shoot–move–settle rig goes at its own."""
    if motion is None or motion.path.move.kind == "stepwise":
        return [], []
    speeds: list[Over] = []
    forces: list[Over] = []
    for name, axis in motion.axes.items():
        for over, (reached, limit, begin, end) in _peaks(motion, name, axis):
            (speeds if over == "speed" else forces).append(Over(name, reached, limit, start_s + begin, start_s + end))
    return speeds, forces


def _peaks(motion: Motion, name: AxisName, axis: Axis) -> list[tuple[str, tuple[float, float, float, float]]]:
    """Every leg of an axis that is over a limit: what kind, reached, limit, from and to."""
    path, found = motion.path, []
    if _keyed(motion, name):
        speeds, forces = path.peaks(name)
        for i, (speed, force) in enumerate(zip(speeds, forces, strict=True)):
            begin, end = float(path.knots.leaves_s[i]), float(path.knots.arrives_s[i + 1])
            if speed > axis.speed * _SLACK:
                found.append(("speed", (float(speed), axis.speed, begin, end)))
            if force > axis.acceleration * _SLACK:
                found.append(("force", (float(force), axis.acceleration, begin, end)))
        return found
    # An axis that is solved for, or that goes through a scale of its own, is looked at closely instead.
    speed, force, middle = _looked_at(motion, name)
    for kind, reached, limit, where in (
        ("speed", speed, axis.speed, middle),
        ("force", force, axis.acceleration, middle[1:]),
    ):
        if reached.size and reached.max() > limit * _SLACK:
            bad = where[: reached.size][reached > limit * _SLACK]
            found.append((kind, (float(reached.max()), limit, float(bad[0]), float(bad[-1]))))
    return found


def _keyed(motion: Motion, name: AxisName) -> bool:
    """Whether an axis goes just as its keys say."""
    path = motion.path
    return name in path.names and name != "focus" and not (path.move.aim and name in ("pan", "tilt"))


def _looked_at(motion: Motion, name: AxisName) -> tuple[Array, Array, Array]:
    """Speed (n,) and acceleration (n − 1,) of an axis from close samples, and when (n,) the speeds are."""
    at, positions = motion.dense
    values = driven_units(motion.shot.kit, name, positions[name])
    velocity = np.diff(values) / np.diff(at)
    middle = (at[1:] + at[:-1]) / 2
    return np.abs(velocity), np.abs(np.diff(velocity) / np.diff(middle)), middle


# A move that is sped up keeps this part of what its axes can do, and its legs this long at least.
_PART = 0.8
_LEAST_LEG_S = 0.5


def least_factor(motion: Motion | None) -> float:
    """By how much the times of a move may be shortened at most, so that its axes can still follow; 0: by anything."""
    if motion is None:
        return 0.0
    legs = motion.path.legs
    factors = [_LEAST_LEG_S / min(leg.duration_s for leg in legs)] if legs else [0.0]
    for name, axis in motion.axes.items():
        if not legs:
            continue
        speeds, forces = motion.path.peaks(name) if _keyed(motion, name) else _looked_at(motion, name)[:2]
        forces = forces[np.isfinite(forces)]
        factors.append(float(speeds.max(initial=0.0)) / (axis.speed * _PART))
        factors.append(float(np.sqrt(forces.max(initial=0.0) / (axis.acceleration * _PART))))
    return max(factors)
