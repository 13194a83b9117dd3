"""The list of the day: what is set up when and in which order, with the way between, and what is needed twice.

A person is where a shot is set up and, where it is filmed at speed or fired by hand, as long as it runs; a camera that
runs by itself is fetched when there is time for the way.
"""

from collections.abc import Sequence
from dataclasses import dataclass
from itertools import combinations
from typing import Literal, NamedTuple

import numpy as np

from revani.core.program.compiled import Program
from revani.core.sequence.way import way_between_m

Doing = Literal["set up", "film", "fetch"]
_FETCH_PART = 0.5


class Task(NamedTuple):
    """What a person does: where, from when to when (seconds since 1970 UTC), and for which shot."""

    doing: Doing
    program: Program
    from_s: float
    to_s: float


@dataclass(frozen=True)
class Step:
    """A task in its place of the day: the way to it, how late one comes to it, and what runs meanwhile."""

    task: Task
    way_m: float
    way_s: float
    late_s: float
    meanwhile: tuple[Program, ...]


class Clash(NamedTuple):
    """Gear that two shots need at the same time, from the set-up of the later one on."""

    names: tuple[str, ...]
    earlier: Program
    later: Program
    free_s: float
    wanted_s: float


def attended(program: Program) -> bool:
    """Whether a person has to be there as long as it runs."""
    return program.shot.live or program.shot.fires == "by hand"


def day_list(programs: Sequence[Program], set_up_s: float, pace_m_s: float) -> tuple[Step, ...]:
    """Every task in the order in which one does them, each with the way to it.

    Set-ups and films have their times; a camera that has run by itself is fetched in the first pause that is long
    enough for it and its ways, else after all that has a time of its own.
    """
    fixed: list[Task] = []
    for program in sorted(programs, key=lambda one: one.start_s):
        fixed.append(Task("set up", program, program.start_s - set_up_s, program.start_s))
        if attended(program):
            fixed.append(Task("film", program, program.start_s, program.end_s))
    fixed.sort(key=lambda one: (one.from_s, one.doing == "set up"))
    agenda = list(fixed)
    for program in sorted(programs, key=lambda one: one.end_s):
        _put_in(agenda, program, set_up_s * _FETCH_PART, pace_m_s)
    steps, before = [], None
    for task in agenda:
        way = way_between_m(before.program.shot.place, task.program.shot.place) if before else 0.0
        way_s = way / pace_m_s
        late = max(0.0, before.to_s + way_s - task.from_s) if before else 0.0
        running = tuple(
            one
            for one in programs
            if one is not task.program and not attended(one) and one.start_s < task.to_s and one.end_s > task.from_s
        )
        steps.append(Step(task, way, way_s, late, running))
        before = task
    return tuple(steps)


def _put_in(agenda: list[Task], program: Program, takes_s: float, pace_m_s: float) -> None:
    """Fetch a shot in the first pause after its end that is long enough."""

    def way_s(a: Program, b: Program) -> float:
        return way_between_m(a.shot.place, b.shot.place) / pace_m_s

    at = next((i for i, one in enumerate(agenda) if one.to_s > program.end_s), len(agenda))
    for i in range(at, len(agenda) + 1):
        here = max(program.end_s, agenda[i - 1].to_s + way_s(agenda[i - 1].program, program) if i else program.end_s)
        onwards = agenda[i].from_s - way_s(program, agenda[i].program) if i < len(agenda) else np.inf
        if here + takes_s <= onwards:
            agenda.insert(i, Task("fetch", program, here, here + takes_s))
            return


def clashes(programs: Sequence[Program], set_up_s: float = 0.0, pace_m_s: float = np.inf) -> tuple[Clash, ...]:
    """Gear that a shot needs before another that runs has let it go and it is carried over, the earlier shots first."""
    found = []
    for earlier, later in combinations(sorted(programs, key=lambda one: one.start_s), 2):
        way_s = way_between_m(earlier.shot.place, later.shot.place) / pace_m_s
        if earlier.shot.id == later.shot.id or later.start_s - set_up_s - way_s >= earlier.end_s:
            continue
        ids = {one.id for one in later.shot.kit.pieces}
        shared = sorted(one.name for one in earlier.shot.kit.pieces if one.id in ids)
        if shared:
            found.append(Clash(tuple(shared), earlier, later, earlier.end_s, later.start_s - set_up_s))
    return tuple(found)
