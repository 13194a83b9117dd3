"""What a finding is, and the register of the rules that make them."""

from collections.abc import Callable
from fractions import Fraction
from typing import Literal

from revani.core.documents import AfterStart, Document, Shot
from revani.core.light.exposing import check_settings
from revani.core.program import Program, compile_shot
from revani.core.quantities.refusal import Refusal
from revani.core.timing.pace import solved

Severity = Literal["stop", "fix", "mind", "good"]
Lens = Literal["time", "light", "move", "feed"]
WORST_FIRST: tuple[Severity, ...] = ("stop", "fix", "mind", "good")


class Fix(Document):
    """A changed shot, the words on its button, and what it costs."""

    label: str
    price: str
    shot: Shot


class Finding(Document):
    """A judgement: a plain sentence, the figures behind it, and fixes where there are any.

    `lens` is the step of the job that it belongs to; `from_s`, `to_s` is the part of the shot that
    it speaks of (seconds since 1970 UTC), where it is not the whole.
    """

    id: str
    severity: Severity
    lens: Lens
    sentence: str
    figures: str = ""
    fixes: tuple[Fix, ...] = ()
    from_s: float | None = None
    to_s: float | None = None


class FixEdit(Document):
    """Taking a fix: that of a finding, by the words on its button."""

    track: Literal["fix"] = "fix"
    finding: str
    label: str


Rule = Callable[[Program], Finding | None]
_RULES: list[Rule] = []


def finding(rule: Rule) -> Rule:
    """Register a rule."""
    _RULES.append(rule)
    return rule


def judge_alone(program: Program) -> list[Finding]:
    """What the registered rules say of a program, in the order of the rules."""
    return [result for rule in _RULES if (result := rule(program)) is not None]


def usable(*fixes: Fix | None) -> tuple[Fix, ...]:
    """The fixes that are there and whose shots can be planned."""
    return tuple(fix for fix in fixes if fix is not None and _plannable(fix.shot))


def _plannable(shot: Shot) -> bool:
    """Whether a plan of a shot would not be refused; without making it, where that can be told."""
    try:
        timing = solved(shot)
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
        # A film has no other interval than that of its rate.
        return timing.interval_s * timing.fps == 1 and shot.pace is None
    shortest = timing.interval_s * (min(shot.pace.night_factor, Fraction(1)) if shot.pace else 1)
    body = shot.kit.body
    return shortest > body.overhead_s and (shot.pace is None or shortest >= body.controller_tick_s)
