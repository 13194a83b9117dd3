"""Judgements over a program: what will go wrong, why, and what can be done about it.

A rule is one small function that takes the program and returns a Finding or None. Importing this
package gathers all rules.
"""

from collections.abc import Sequence

from revani.core.documents import Shot
from revani.core.findings import feed, fit, frame, length, light, mechanics, move, night, schools, seen, timing
from revani.core.findings.company import Neighbour, playback_rate_unlike
from revani.core.findings.finding import WORST_FIRST, Finding, Fix, FixEdit, judge_alone
from revani.core.program import Program
from revani.core.quantities.refusal import Refusal

__all__ = [
    "Finding", "Fix", "FixEdit", "Neighbour", "apply_fix", "feed", "fit", "frame", "judge", "length", "light",
    "mechanics", "move", "night", "schools", "seen", "timing",
]  # fmt: skip


def judge(program: Program, neighbours: Sequence[Neighbour] = ()) -> tuple[Finding, ...]:
    """All that is to be said of a program, worst first; rules of one severity in order of the job.

    `neighbours` are the other shots that it will be cut with.
    """
    found = [*judge_alone(program)]
    if (unlike := playback_rate_unlike(program, neighbours)) is not None:
        found.append(unlike)
    return tuple(sorted(found, key=lambda one: WORST_FIRST.index(one.severity)))


def apply_fix(program: Program, edit: FixEdit, neighbours: Sequence[Neighbour] = ()) -> Shot:
    """The shot with a fix taken. Raises Refusal where what is to be said of the program offers none of that name."""
    offered = [fix for one in judge(program, neighbours) if one.id == edit.finding for fix in one.fixes]
    for fix in offered:
        if fix.label == edit.label:
            return fix.shot
    allowed = "That is not offered any more: the shot has changed since."
    raise Refusal("fix", allowed if not offered else f"One of: {', '.join(fix.label for fix in offered)}.", edit.label)
