"""A shot made to work: the fixes of its findings and their combinations, searched for whole plans."""

from collections.abc import Callable
from heapq import heappop, heappush
from typing import Literal, NamedTuple

from pydantic import BaseModel, ConfigDict

from revani.core.documents import Shot
from revani.core.edit.differing import changes
from revani.core.edit.fitting import compile_fitted
from revani.core.edit.retime import price
from revani.core.findings import Finding, Neighbour, judge
from revani.core.light.dials import marked_aperture, marked_iso
from revani.core.program.compiled import Program
from revani.core.quantities.refusal import Refusal
from revani.core.quantities.units import duration, plain_rate

Promise = Literal["the film", "the hours", "the picture"]
# So many plans are tried for each promise; what is tried is the same whenever the shot is.
MOST_TRIED = 110
MOST_FURTHER = 16
MOST_MENDING = 10
_SAME_START_S = 1.0
_HARMS = ("stop", "fix")


class WholePlan(BaseModel):
    """A whole plan: what it keeps, in figures, what it changes, what that costs, and what is left to mind.

    `fails` are the findings that no fix takes away while that is kept: then one of the wishes must give way.
    """

    model_config = ConfigDict(frozen=True)

    keeps: Promise
    kept: str
    changes: tuple[str, ...]
    price: str
    minds: tuple[str, ...]
    fails: tuple[str, ...]
    shot: Shot

    @property
    def works(self) -> bool:
        """Whether nothing fails any more."""
        return not self.fails


class Resolved(BaseModel):
    """What was found: up to three plans, how many were tried, and what is amiss as the shot stands."""

    model_config = ConfigDict(frozen=True)

    fails: int
    minds: int
    tried: int
    plans: tuple[WholePlan, ...]
    gives_way: str


class _State(NamedTuple):
    program: Program
    found: tuple[Finding, ...]

    @property
    def rank(self) -> tuple[int, int, int]:
        """The less fails, and then the less there is to mind, the better."""
        return (*self.harms, sum(one.severity == "mind" for one in self.found))

    @property
    def harms(self) -> tuple[int, int]:
        """How many findings stop it, and how many want fixing."""
        severities = [one.severity for one in self.found]
        return severities.count("stop"), severities.count("fix")


def keeps_film(before: Program, after: Program) -> bool:
    """Whether a film is as long as it was, at the same rate."""
    old, new = before.timing, after.timing
    return (old.frame_count, old.fps, before.film_length_s) == (new.frame_count, new.fps, after.film_length_s)


def keeps_hours(before: Program, after: Program) -> bool:
    """Whether a shot begins when it did, and ends within a frame of when it did."""
    slot_s = float(max(before.timing.interval_s, after.timing.interval_s))
    return abs(before.start_s - after.start_s) <= _SAME_START_S and abs(before.end_s - after.end_s) <= slot_s


def keeps_picture(before: Program, after: Program) -> bool:
    """Whether it is the same picture: as it is framed, through the same lens, as sharp in depth, no grainier."""
    old, new = before.shot, after.shot
    same = (old.framing, old.kit.lens, old.take.upright, old.take.dewarp, old.recording.name) == (
        new.framing, new.kit.lens, new.take.upright, new.take.dewarp, new.recording.name,
    )  # fmt: skip
    aperture = abs(float(after.exposures.aperture.min()) - float(before.exposures.aperture.min())) < 1e-6
    return same and aperture and float(after.exposures.iso.max()) <= float(before.exposures.iso.max()) * 1.01


_PROMISES: dict[Promise, Callable[[Program, Program], bool]] = {
    "the film": keeps_film,
    "the hours": keeps_hours,
    "the picture": keeps_picture,
}


def resolve(shot: Shot, neighbours: tuple[Neighbour, ...] = ()) -> Resolved:
    """Up to three plans of a shot in which nothing fails, each of which keeps one thing. Raises Refusal.

    The search is the same for the same shot: it takes the plan on which least fails, and tries each fix there.
    """
    tries = _Tries(neighbours)
    first = tries.of(shot)
    assert first is not None
    plans = []
    for keeps in _PROMISES:
        best = _search(first, _PROMISES[keeps], tries)
        if best.program is not first.program or not any(first.harms):
            plans.append(_plan(first, best, keeps))
    found = tuple(_distinct(plans))
    harmed = [one for one in first.found if one.severity in _HARMS]
    return Resolved(
        fails=len(harmed), minds=sum(one.severity == "mind" for one in first.found), tried=tries.count,
        plans=found, gives_way=_gives_way(first, found),
    )  # fmt: skip


def mended(shot: Shot) -> tuple[Shot, tuple[str, ...]]:
    """A shot without what stops it, as far as a short search gets, and what that took in words."""
    tries = _Tries(())
    first = tries.of(shot)
    if first is None or not first.harms[0]:
        return shot, ()
    best = _search(first, lambda _before, _after: True, tries, MOST_MENDING, lambda state: state.harms[0])
    return best.program.shot, changes(first.program, best.program)


class _Tries:
    """Plans that were made, each once."""

    def __init__(self, neighbours: tuple[Neighbour, ...]) -> None:
        self._neighbours = neighbours
        self._kept: dict[str, _State | None] = {}

    @property
    def count(self) -> int:
        return len(self._kept)

    def of(self, shot: Shot) -> _State | None:
        name = shot.model_dump_json()
        if name not in self._kept:
            try:
                program = compile_fitted(shot)
                self._kept[name] = _State(program, judge(program, self._neighbours))
            except Refusal:
                self._kept[name] = None
        return self._kept[name]


def _search(
    first: _State,
    held: Callable[[Program, Program], bool],
    tries: _Tries,
    most: int = MOST_TRIED,
    amiss: Callable[[_State], int] = lambda state: sum(state.harms),
) -> _State:
    """The plan that holds a promise and on which least fails, of those that were tried."""
    best, serial = first, 0
    open_: list[tuple[tuple[int, int], int, int, _State]] = [(first.harms, 0, serial, first)]
    seen: set[str] = set()
    left = most
    # Once nothing fails, a few more are tried: one with less to mind may be as near.
    spare = MOST_FURTHER
    while open_ and left > 0 and spare > 0:
        _, depth, _, state = heappop(open_)
        for finding in (one for one in state.found if one.severity in _HARMS):
            for fix in finding.fixes:
                name = fix.shot.model_dump_json()
                if name in seen or left <= 0 or spare <= 0:
                    continue
                seen.add(name)
                left -= 1
                spare -= not amiss(best)
                now = tries.of(fix.shot)
                if now is None or not held(first.program, now.program):
                    continue
                if now.rank < best.rank:
                    best = now
                serial += 1
                heappush(open_, (now.harms, depth + 1, serial, now))
    return best


def _distinct(plans: list[WholePlan]) -> list[WholePlan]:
    """Each plan once, under the first promise that it keeps."""
    found: list[WholePlan] = []
    for plan in plans:
        if plan.shot not in [one.shot for one in found]:
            found.append(plan)
    return found


def _plan(first: _State, best: _State, keeps: Promise) -> WholePlan:
    program, shot = best.program, best.program.shot
    cost = price(first.program.timing, shot)
    return WholePlan(
        keeps=keeps, kept=_kept_in_words(first.program, keeps), changes=changes(first.program, program), price=cost,
        minds=tuple(one.sentence for one in best.found if one.severity == "mind"),
        fails=tuple(one.sentence for one in best.found if one.severity in _HARMS), shot=shot,
    )  # fmt: skip


def _kept_in_words(program: Program, keeps: Promise) -> str:
    timing, start, end = program.timing, program.local(program.start_s), program.local(program.end_s)
    if keeps == "the film":
        return f"{duration(program.film_length_s)} at {plain_rate(timing.fps)} fps stay"
    if keeps == "the hours":
        return f"{duration(timing.event_s)} stay, {start:%H:%M} – {end:%H:%M}"
    iso = marked_iso(float(program.exposures.iso.max()))
    aperture = marked_aperture(float(program.exposures.aperture.min()))
    return f"f/{aperture:g}, ISO {iso:,} at most and the framing stay"


# Follow from others that are told.
def _gives_way(first: _State, plans: tuple[WholePlan, ...]) -> str:
    """Which wish must give way, where no plan keeps all three."""
    if not any(first.harms):
        return "Nothing fails: there is nothing to make work."
    timing = first.program.timing
    film, stay = duration(first.program.film_length_s), duration(timing.event_s)
    wishes = f"{film} of film, {stay} on the clock and the picture as it is"
    if not any(plan.works for plan in plans):
        left = sorted({one for plan in plans for one in plan.fails}) or [one.sentence for one in first.found[:1]]
        return f"No plan was found in which nothing fails. What stands in the way: {' '.join(left[:3])}"
    every = all(held(first.program, compile_fitted(plan.shot)) for plan in plans[:1] for held in _PROMISES.values())
    return "" if every else f"No plan keeps all three: {wishes}. Which wish gives way is yours."
