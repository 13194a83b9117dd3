"""Judgements over a program: what will go wrong, why, and what can be done about it.

A rule is one small function that takes the program and returns a Finding or None. Importing this
package gathers all rules.
"""

from collections.abc import Sequence

from revani.core.documents import STEPS, Shot
from revani.core.edit.apply import ShotEdit, apply
from revani.core.edit.fitting import compile_fitted
from revani.core.findings import (
    crop,
    energy,
    feed,
    fit,
    frame,
    length,
    light,
    mechanics,
    move,
    night,
    schools,
    seen,
    sphere,
    take,
    timing,
    waiting,
    walk,
    weather,
)
from revani.core.findings.company import Neighbour, playback_rate_unlike
from revani.core.findings.finding import WORST_FIRST, Finding, Fix, FixEdit, judge_alone
from revani.core.program.compiled import Program
from revani.core.quantities.refusal import Refusal

__all__ = [
    "AnyEdit", "Finding", "Fix", "FixEdit", "Neighbour", "apply_any", "apply_fix", "crop", "energy", "feed", "fit",
    "frame", "judge", "length", "light", "mechanics", "move", "night", "schools", "seen", "sphere", "take", "timing",
    "waiting", "walk", "weather",
]  # fmt: skip


def judge(program: Program, neighbours: Sequence[Neighbour] = ()) -> tuple[Finding, ...]:
    """All that is to be said of a program, worst first; of one severity in the order of the steps of the job.

    `neighbours` are the other shots that it will be cut with.
    """
    found = [*judge_alone(program)]
    if (unlike := playback_rate_unlike(program, neighbours)) is not None:
        found.append(unlike)
    return tuple(sorted(found, key=lambda one: (WORST_FIRST.index(one.severity), STEPS.index(one.step))))


def apply_fix(program: Program, edit: FixEdit, neighbours: Sequence[Neighbour] = ()) -> Shot:
    """The shot with a fix taken. Raises Refusal where what is to be said of the program offers none of that id."""
    offered = [fix for one in judge(program, neighbours) if one.id == edit.finding for fix in one.fixes]
    for fix in offered:
        if fix.id == edit.fix:
            return fix.shot
    allowed = "That is not offered any more: the shot has changed since."
    raise Refusal("fix", allowed if not offered else f"One of: {', '.join(fix.id for fix in offered)}.", edit.fix)


AnyEdit = ShotEdit | FixEdit


def apply_any(shot: Shot, edit: AnyEdit, neighbours: Sequence[Neighbour] = ()) -> Shot:
    """The shot after an edit, or with a fix taken. Raises Refusal whose path is the field at fault."""
    if isinstance(edit, FixEdit):
        return apply_fix(compile_fitted(shot), edit, neighbours)
    return apply(shot, edit)
