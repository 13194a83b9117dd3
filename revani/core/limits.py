"""Where a move asks an axis for more speed or acceleration than it has."""

from dataclasses import dataclass
from functools import lru_cache

import numpy as np

from revani.core.documents import Axis, AxisName
from revani.core.moves import driven_units
from revani.core.program import Program
from revani.core.rig import Motion

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
def over_speed_or_force(program: Program) -> tuple[list[Over], list[Over]]:
    """Where axes are asked for more speed or acceleration than they have; a shoot–move–settle rig goes at its own."""
    motion = program.motion
    if motion is None or motion.path.move.kind == "stepwise":
        return [], []
    speeds: list[Over] = []
    forces: list[Over] = []
    for name, axis in motion.axes.items():
        for over, (reached, limit, begin, end) in _peaks(program, motion, name, axis):
            (speeds if over == "speed" else forces).append(
                Over(name, reached, limit, program.start_s + begin, program.start_s + end)
            )
    return speeds, forces


def _peaks(
    program: Program, motion: Motion, name: AxisName, axis: Axis
) -> list[tuple[str, tuple[float, float, float, float]]]:
    """Every leg of an axis that is over a limit: what kind, reached, limit, from and to."""
    path, found = motion.path, []
    if name in path.names and name != "focus" and not (path.move.aim and name in ("pan", "tilt")):
        speeds, forces = path.peaks(name)
        for i, (speed, force) in enumerate(zip(speeds, forces, strict=True)):
            begin, end = float(path.knots.leaves_s[i]), float(path.knots.arrives_s[i + 1])
            if speed > axis.speed * _SLACK:
                found.append(("speed", (float(speed), axis.speed, begin, end)))
            if force > axis.acceleration * _SLACK:
                found.append(("force", (float(force), axis.acceleration, begin, end)))
        return found
    # An axis that is solved for, or that goes through a scale of its own, is looked at closely instead.
    at, positions = motion.dense
    values = driven_units(program.shot.kit, name, positions[name])
    speed = np.abs(np.diff(values) / np.diff(at))
    middle = (at[1:] + at[:-1]) / 2
    force = np.abs(np.diff(np.diff(values) / np.diff(at)) / np.diff(middle))
    for kind, reached, limit, where in (
        ("speed", speed, axis.speed, middle),
        ("force", force, axis.acceleration, middle[1:]),
    ):
        if reached.size and reached.max() > limit * _SLACK:
            bad = where[: reached.size][reached > limit * _SLACK]
            found.append((kind, (float(reached.max()), limit, float(bad[0]), float(bad[-1]))))
    return found
