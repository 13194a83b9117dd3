"""A value of a shot: how it is named, shown, read as it is typed, and nudged."""

from bisect import bisect_left, bisect_right
from collections.abc import Callable, Mapping
from dataclasses import dataclass
from fractions import Fraction
from typing import Any, TypeVar

from revani.core.documents import Shot
from revani.core.quantities.refusal import Refusal
from revani.core.quantities.units import decimals, exact
from revani.core.timing.law import Solution

T = TypeVar("T")


@dataclass(frozen=True)
class Field:
    """How one value of a shot is named, shown, read and nudged."""

    label: str
    show: Callable[[Shot, Solution], str]
    read: Callable[[Shot, str], Shot]
    nudge: Callable[[Shot, Solution, int], Shot]
    choices: tuple[str, ...] | Callable[[Shot, Solution], tuple[str, ...]] = ()

    def choices_for(self, shot: Shot, solved: Solution) -> tuple[str, ...]:
        """All that may be typed, if few."""
        return self.choices(shot, solved) if callable(self.choices) else self.choices


def along(ladder: tuple[Any, ...], value: Any, steps: int) -> Any:
    """The rung `steps` away from a value, which itself need not stand on the ladder."""
    at = bisect_right(ladder, value) - 1 if steps > 0 else bisect_left(ladder, value)
    return ladder[min(max(at + steps, 0), len(ladder) - 1)]


def by(value: Fraction, step: Fraction, steps: int) -> Fraction:
    """The next whole multiple of `step` in a direction; never under one step."""
    at = value / step
    whole = at.__floor__() if steps > 0 else at.__ceil__()
    return max(step, (whole + steps) * step)


def length_step(seconds: Fraction) -> Fraction:
    """A sensible step for a length of time of this size."""
    for limit, step in ((10, "0.5"), (60, "1"), (600, "10"), (3_600, "60"), (14_400, "300"), (172_800, "900")):
        if seconds < limit:
            return Fraction(step)
    return Fraction(3_600)


def read_count(text: str) -> int:
    """A number of frames. Raises Refusal("")."""
    clean = text.lower().replace("frames", "").replace("frame", "").replace(",", "").strip()
    if not clean.isdecimal():
        raise Refusal("", "Type a whole number of frames.", text)
    return int(clean)


def whole(text: str, unit: str, allowed: str) -> int:
    """A whole number, with its unit or without. Raises Refusal("")."""
    clean = text.strip().lower().replace(",", "").removesuffix(unit.lower()).removeprefix(unit.lower()).strip()
    if not clean.isdecimal() or len(clean) > 9:
        raise Refusal("", allowed, text)
    return int(clean)


def read_share(text: str, allowed: str) -> float:
    """A part of a whole, 0 to 1, from `33 %` or `0.33`. Raises Refusal("")."""
    clean = text.strip()
    try:
        share = float(exact(clean.removesuffix("%").strip())) / (100 if clean.endswith("%") else 1)
    except ValueError as error:
        raise Refusal("", allowed, text) from error
    if not 0 <= share <= 1:
        raise Refusal("", "Between 0 % and 100 % can be had.", text)
    return share


def share_field(label: str, now: Callable[[Shot], float], put: Callable[[Shot, float], Shot]) -> Field:
    """A part of the picture's width or height, in percent: `now` tells the present one, `put` another."""
    return Field(
        label,
        lambda shot, _: f"{decimals(now(shot) * 100, 1)} %",
        lambda shot, text: put(shot, round(read_share(text, "Type a part of the picture such as 33 %."), 4)),
        lambda shot, _, n: put(shot, min(1.0, max(0.0, round(now(shot) + n * 0.05, 4)))),
    )


def words_field(
    label: str, words: Mapping[T, str], stands: Callable[[Shot], T], put: Callable[[Shot, T], Shot]
) -> Field:
    """A choice from a few words: `words` names each value, `stands` tells the present one, `put` another."""
    values = list(words)

    def read(shot: Shot, text: str) -> Shot:
        for value, word in words.items():
            if text.strip().lower() in (word.lower(), str(value).lower()):
                return put(shot, value)
        raise Refusal("", f"Choose one of: {', '.join(words.values())}.", text)

    return Field(
        label,
        lambda shot, _: words[stands(shot)],
        read,
        lambda shot, _, n: put(shot, values[(values.index(stands(shot)) + n) % len(values)]),
        tuple(words.values()),
    )
