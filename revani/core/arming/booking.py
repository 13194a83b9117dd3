"""Before a shot is left to the rig: what stands against it, how fast a simulated stage goes, what is in the way."""

from collections.abc import Sequence
from math import floor
from typing import NamedTuple

from revani.core.findings import Finding, judge
from revani.core.program.compiled import Program

_LEAST_REAL_SLOT_S = 0.08
_LEAST_REAL_SLACK_S = 0.03
_FASTEST_FILM = 60.0
_LADDER = (1, 60, 240, 600, 1200)
# Between two runs of one rig: to store the last frame, and to set the next one up.
CHANGE_S = 60.0


def against(program: Program) -> tuple[Finding, ...]:
    """What will fail, worst first."""
    return tuple(one for one in judge(program) if one.fails)


def fastest(program: Program) -> float:
    """The speed of the stage clock at which simulated gear still keeps up, link and picture included."""
    if program.shot.live:
        return _FASTEST_FILM
    busy = program.exposures.shutter_s * float(program.shot.held_times) + float(program.shot.body.overhead_s)
    if program.motion is not None:
        # Every step of the rig is a few questions more, and a wait until it is settled.
        busy = busy + program.motion.travel_s + program.motion.settle_s
    slack = float((program.slot_s - busy).min())
    return max(1.0, min(float(program.slot_s.min()) / _LEAST_REAL_SLOT_S, slack / _LEAST_REAL_SLACK_S))


def speeds(program: Program) -> tuple[int, ...]:
    """The speeds of the stage clock that are offered: that of the wall, some between, and the largest."""
    most = floor(fastest(program))
    return tuple(sorted({*(one for one in _LADDER if one <= most), most}))


class Booking(NamedTuple):
    """A run that has the rig, or waits for it: real time, seconds since 1970 UTC; `paced` by the wall's clock."""

    name: str
    from_s: float
    to_s: float
    paced: bool


def in_the_way(wanted: Booking, others: Sequence[Booking]) -> Booking | None:
    """The run that ends last of those that a new one would collide with; None where the rig is free for it.

    Runs go together when their hours do; of two on a faster stage, which begin at once, one waits.
    """
    colliding = [
        other
        for other in others
        if not (wanted.paced or other.paced)
        or (wanted.from_s < other.to_s + CHANGE_S and wanted.to_s + CHANGE_S > other.from_s)
    ]
    return max(colliding, key=lambda one: one.to_s, default=None)


def free_from(wanted: Booking, others: Sequence[Booking]) -> float:
    """When a run that waits may begin: at its own time, or after all that it would collide with from then on."""
    while (blocked := in_the_way(wanted, others)) is not None:
        begins = blocked.to_s + CHANGE_S
        wanted = wanted._replace(from_s=begins, to_s=begins + wanted.to_s - wanted.from_s)
    return wanted.from_s
