"""What a finding is, and the register of the rules that make them."""

from collections.abc import Callable
from dataclasses import dataclass, replace
from fractions import Fraction
from functools import cached_property, wraps
from typing import Literal

from revani.core.documents import AfterStart, Document, Shot, Step
from revani.core.light.exposing import check_settings
from revani.core.light.firing import check_firing, check_offered
from revani.core.program.compiled import Program, compile_shot
from revani.core.quantities.refusal import Refusal
from revani.core.timing.pace import solved

Severity = Literal["stop", "fix", "mind", "good"]
WORST_FIRST: tuple[Severity, ...] = ("stop", "fix", "mind", "good")


class Fix(Document):
    """A changed shot, the words on its button, and what it costs. `id` is its own among those of its finding."""

    id: str
    label: str
    price: str
    shot: Shot


@dataclass(frozen=True)
class Finding:
    """A judgement: a plain sentence, the figures behind it, and fixes where there are any.

    `id` and `step`, the step of the job that it belongs to, are those of its rule. `offer` works the fixes out,
    which is done when they are asked for; `turns` says what would change the verdict and how far off that is,
    `rule` and `source` are what the rule says of itself and where it has that from; `from_s`, `to_s` is the part
    of the shot that it speaks of (seconds since 1970 UTC), where it is not the whole.
    """

    severity: Severity
    sentence: str
    figures: str = ""
    offer: Callable[[], tuple[Fix, ...]] = tuple
    from_s: float | None = None
    to_s: float | None = None
    turns: str = ""
    id: str = ""
    step: Step = "time"
    rule: str = ""
    source: str = ""

    @property
    def fails(self) -> bool:
        """Whether something fails where it stands."""
        return self.severity in ("stop", "fix")

    @cached_property
    def fixes(self) -> tuple[Fix, ...]:
        """What can be done about it, each with an id of its own."""
        return self.offer()


class FixEdit(Document):
    """Taking a fix: that of a finding, by its id."""

    track: Literal["fix"] = "fix"
    finding: str
    fix: str


Judge = Callable[[Program], Finding | None]


@dataclass(frozen=True)
class Rule:
    """A registered rule: what it may say, for which step of the job."""

    step: Step
    ids: tuple[str, ...]
    judge: Judge
    said: str
    source: str


RULES: list[Rule] = []


def named(step: Step, ids: tuple[str, ...], found: Finding | None, said: str = "", source: str = "") -> Finding | None:
    """A finding with the step and the id of its rule, the first where it names none."""
    if found is None:
        return None
    if found.id and found.id not in ids:
        raise ValueError(f"{found.id} is none of {', '.join(ids)}")
    return replace(found, id=found.id or ids[0], step=step, rule=said, source=source)


def finding(step: Step, *ids: str, source: str) -> Callable[[Judge], Judge]:
    """Register a rule, its step of the job, the ids of what it may say, and where it has that from.

    The first id is said where a finding names none. What the rule says of itself is its docstring.
    """

    def register(judge: Judge) -> Judge:
        said = (judge.__doc__ or "").strip()

        @wraps(judge)
        def judged(program: Program) -> Finding | None:
            return named(step, ids, judge(program), said, source)

        RULES.append(Rule(step, ids, judged, said, source))
        return judged

    return register


def judge_alone(program: Program) -> list[Finding]:
    """What the registered rules say of a program, in the order of the rules."""
    return [result for rule in RULES if (result := rule.judge(program)) is not None]


def usable(*fixes: Fix | None) -> tuple[Fix, ...]:
    """The fixes that are there and whose shots can be planned."""
    return tuple(fix for fix in fixes if fix is not None and _plannable(fix.shot))


def _plannable(shot: Shot) -> bool:
    """Whether a plan of a shot would not be refused; without making it, where that can be told."""
    try:
        timing = solved(shot)
        check_firing(shot)
        check_offered(shot, timing)
        check_settings(shot)
        keys = shot.move.keys if shot.move else ()
        if keys and not all(isinstance(key.at, AfterStart) for key in keys):
            # What the clock and the sun say of a changed shot only its plan knows.
            compile_shot(shot)
    except Refusal:
        return False
    if any(isinstance(key.at, AfterStart) and key.at.after_s > timing.event_s for key in keys):
        return False
    if shot.live:
        return shot.pace is None
    shortest = timing.interval_s * (min(shot.pace.night_factor, Fraction(1)) if shot.pace else 1)
    body = shot.body
    return shortest > body.overhead_s and (shot.pace is None or shortest >= body.controller_tick_s)
