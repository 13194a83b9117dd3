"""The shot in words, with every number editable in place.

The interface draws the words that it is given, sends back what was typed, and knows no rule.
"""

from bisect import bisect_left, bisect_right
from collections.abc import Callable
from dataclasses import dataclass
from datetime import date
from fractions import Fraction
from typing import Any, Literal, get_args

from pydantic import BaseModel, ConfigDict, ValidationError

from revani.core.documents import FIRST_YEAR, LAST_YEAR, Cloud, Document, Shot, SunStart
from revani.core.exposure import APERTURES, ISOS, SHUTTERS, show_shutter
from revani.core.refusal import Refusal
from revani.core.start import parse_start, show_start
from revani.core.timing import QUANTITIES, Quantity, Solution
from revani.core.units import count, decimals, duration, exact, parse_duration, plain_rate, rate


class Word(BaseModel):
    """A stretch of text, or a value when `field` is set.

    `state` is wanted (typed by the person), solved (follows from the others) or plain (no law
    binds it). `note` tells what rounding changed; `choices` are all that may be typed, if few.
    """

    model_config = ConfigDict(frozen=True)

    text: str
    field: str | None = None
    label: str = ""
    state: Literal["wanted", "solved", "plain"] = "plain"
    note: str = ""
    choices: tuple[str, ...] = ()


@dataclass(frozen=True)
class Field:
    """How one value of a shot is named, shown, read and nudged."""

    label: str
    show: Callable[[Shot, Solution], str]
    read: Callable[[Shot, str], Shot]
    nudge: Callable[[Shot, Solution, int], Shot]
    choices: tuple[str, ...] = ()


_INTERVALS_S = tuple(
    Fraction(text)
    for text in (
        "0.5 1 1.5 2 2.5 3 4 5 6 8 10 12 15 20 25 30 40 45 60 90 120 180 240 300 420 600 900 1200 1800 3600"
    ).split()
)
_RATES = tuple(rate(text) for text in "12 15 23.976 24 25 29.97 30 48 50 59.94 60 100 120".split())
_KELVINS = tuple(range(2_000, 10_100, 100))


def _along(ladder: tuple[Any, ...], value: Any, steps: int) -> Any:
    """The rung `steps` away from a value, which itself need not stand on the ladder."""
    at = bisect_right(ladder, value) - 1 if steps > 0 else bisect_left(ladder, value)
    return ladder[min(max(at + steps, 0), len(ladder) - 1)]


def _by(value: Fraction, step: Fraction, steps: int) -> Fraction:
    """The next whole multiple of `step` in a direction; never under one step."""
    at = value / step
    whole = at.__floor__() if steps > 0 else at.__ceil__()
    return max(step, (whole + steps) * step)


def _length_step(seconds: Fraction) -> Fraction:
    """A sensible step for a length of time of this size."""
    for limit, step in ((10, "0.5"), (60, "1"), (600, "10"), (3_600, "60"), (14_400, "300"), (172_800, "900")):
        if seconds < limit:
            return Fraction(step)
    return Fraction(3_600)


def _timed(shot: Shot, quantity: Quantity, value: Fraction | int) -> Shot:
    timing = shot.timing.with_value(quantity, value)
    return shot.model_copy(update={"timing": timing})


def _count(text: str) -> int:
    clean = text.lower().replace("frames", "").replace("frame", "").replace(",", "").strip()
    if not clean.isdecimal():
        raise Refusal("", "Type a whole number of frames.", text)
    return int(clean)


def _whole(text: str, unit: str, allowed: str) -> int:
    clean = text.strip().lower().replace(",", "").removesuffix(unit.lower()).removeprefix(unit.lower()).strip()
    if not clean.isdecimal() or len(clean) > 9:
        raise Refusal("", allowed, text)
    return int(clean)


def _rate(text: str) -> Fraction:
    try:
        return rate(text)
    except ValueError:
        raise Refusal("", "Type frames a second, such as 30 or 23.976.", text) from None


def _timing_field(
    label: str, quantity: Quantity, show: Callable[[Solution], str],
    read: Callable[[str], Fraction | int], step: Callable[[Any, int], Any],
) -> Field:  # fmt: skip
    return Field(
        label=label,
        show=lambda _shot, solved: show(solved),
        read=lambda shot, text: _timed(shot, quantity, read(text)),
        nudge=lambda shot, solved, n: _timed(shot, quantity, step(getattr(solved, quantity), n)),
    )


def _lit(shot: Shot, **change: object) -> Shot:
    return shot.model_copy(update={"light": type(shot.light).model_validate(shot.light.model_dump() | change)})


def _read_aperture(shot: Shot, text: str) -> Shot:
    try:
        return _lit(shot, aperture=float(exact(text.lower().removeprefix("f").removeprefix("/").strip())))
    except ValueError as error:
        raise Refusal("", "Type an f-number such as 2.8.", text) from error


def _shutter(text: str) -> Fraction:
    try:
        return parse_duration(text)
    except Refusal:
        raise Refusal("", "Type a shutter time such as 1/125, 2.5s or 26s.", text) from None


def _choice_field(label: str, name: str, words: dict[str, str]) -> Field:
    def read(shot: Shot, text: str) -> Shot:
        for value, word in words.items():
            if text.strip().lower() in (word.lower(), value.lower()):
                return _lit(shot, **{name: value})
        raise Refusal("", f"Choose one of: {', '.join(words.values())}.", text)

    def nudge(shot: Shot, _solved: Solution, steps: int) -> Shot:
        values = list(words)
        return _lit(shot, **{name: values[(values.index(getattr(shot.light, name)) + steps) % len(values)]})

    return Field(label, lambda shot, _: words[getattr(shot.light, name)], read, nudge, tuple(words.values()))


def _nudge_start(shot: Shot, _solved: Solution, steps: int) -> Shot:
    start = shot.start
    if isinstance(start, SunStart):
        moved = (start.offset_s // 300 + steps) * 300
        return shot.model_copy(update={"start": start.model_copy(update={"offset_s": moved})})
    hours, minutes = show_start(start, shot.place).split(":")[:2]
    total = ((int(hours) * 60 + int(minutes)) // 5 + steps) * 5 % 1440
    return shot.model_copy(update={"start": parse_start(f"{total // 60:02d}:{total % 60:02d}")})


def _dated(shot: Shot, day: date) -> Shot:
    if not FIRST_YEAR <= day.year <= LAST_YEAR:
        raise Refusal("", f"Choose a date from {FIRST_YEAR} to {LAST_YEAR}.", day.isoformat())
    return shot.model_copy(update={"date": day})


def _read_date(shot: Shot, text: str) -> Shot:
    try:
        day = date.fromisoformat(text.strip())
    except ValueError:
        raise Refusal("", "Type a date as year-month-day, such as 2026-11-24.", text) from None
    return _dated(shot, day)


def _nudge_date(shot: Shot, _solved: Solution, steps: int) -> Shot:
    return _dated(shot, date.fromordinal(shot.date.toordinal() + steps))


def _iso_field(label: str, name: str) -> Field:
    return Field(
        label,
        lambda shot, _: str(getattr(shot.light, name)),
        lambda shot, text: _lit(shot, **{name: _whole(text, "iso", "Type an ISO such as 800.")}),
        lambda shot, _, n: _lit(shot, **{name: _along(ISOS, getattr(shot.light, name), n)}),
    )


SCHOOLS = {"fixed": "hold the exposure", "continuous": "let the shutter follow the light"}

FIELDS: dict[str, Field] = {
    "timing.playback_s": _timing_field(
        "Film length", "playback_s", lambda solved: duration(solved.playback_s), parse_duration,
        lambda value, n: _by(value, _length_step(value), n),
    ),
    "timing.fps": _timing_field(
        "Playback rate", "fps", lambda solved: f"{plain_rate(solved.fps)} fps", _rate,
        lambda value, n: _along(_RATES, value, n),
    ),
    "timing.interval_s": _timing_field(
        "Interval", "interval_s", lambda solved: duration(solved.interval_s), parse_duration,
        lambda value, n: _along(_INTERVALS_S, value, n),
    ),
    "timing.event_s": _timing_field(
        "Event length", "event_s", lambda solved: duration(solved.event_s), parse_duration,
        lambda value, n: _by(value, _length_step(value), n),
    ),
    "timing.frame_count": _timing_field(
        "Frame count", "frame_count", lambda solved: count(solved.frame_count, "frame"), _count,
        lambda value, n: int(_by(Fraction(value), Fraction(10), n)),
    ),
    "start": Field(
        "Start",
        lambda shot, _: show_start(shot.start, shot.place),
        lambda shot, text: shot.model_copy(update={"start": parse_start(text)}),
        _nudge_start,
    ),
    "date": Field("Date", lambda shot, _: shot.date.isoformat(), _read_date, _nudge_date),
    "light.school": _choice_field("Way of exposing", "school", SCHOOLS),
    "light.shutter_s": Field(
        "Shutter",
        lambda shot, _: show_shutter(float(shot.light.shutter_s)),
        lambda shot, text: _lit(shot, shutter_s=_shutter(text)),
        lambda shot, _, n: _lit(shot, shutter_s=_along(SHUTTERS, shot.light.shutter_s, n)),
    ),
    "light.iso": _iso_field("ISO", "iso"),
    "light.iso_ceiling": _iso_field("ISO ceiling", "iso_ceiling"),
    "light.aperture": Field(
        "Aperture",
        lambda shot, _: f"f/{shot.light.aperture:g}",
        _read_aperture,
        lambda shot, _, n: _lit(shot, aperture=_along(APERTURES, shot.light.aperture, n)),
    ),
    "light.white_balance_k": Field(
        "White balance",
        lambda shot, _: f"{shot.light.white_balance_k:,} K",
        lambda shot, text: _lit(shot, white_balance_k=_whole(text, "k", "Type a temperature such as 4800 K.")),
        lambda shot, _, n: _lit(shot, white_balance_k=_along(_KELVINS, shot.light.white_balance_k, n)),
    ),
    "light.cloud": _choice_field("Cloud", "cloud", {cloud: cloud for cloud in get_args(Cloud)}),
}  # fmt: skip


class Edit(Document):
    """One change as a person makes it: a text typed, a nudge by steps, or a quantity freed with `=`."""

    field: str
    text: str | None = None
    nudge: int | None = None
    free: bool = False


def apply_edit(shot: Shot, edit: Edit) -> Shot:
    """The shot after an edit. Raises Refusal whose path is the field that was edited."""
    field = FIELDS.get(edit.field)
    if field is None:
        raise Refusal(edit.field, f"One of {', '.join(FIELDS)} can be edited.")
    if sum((edit.text is not None, edit.nudge is not None, edit.free)) != 1:
        raise Refusal(edit.field, "Give just one of text, nudge and free.")
    if edit.text is not None and len(edit.text) > 80:
        raise Refusal(edit.field, "Type at most 80 characters.")
    if edit.nudge is not None and not -1000 <= edit.nudge <= 1000:
        raise Refusal(edit.field, "Nudge by at most 1,000 steps.")
    quantity = edit.field.removeprefix("timing.")
    try:
        if edit.free:
            if quantity not in QUANTITIES:
                raise Refusal("", "Only a quantity of the timing can be freed.")
            return shot.model_copy(update={"timing": shot.timing.freed(quantity)})
        if edit.text is not None:
            # `=` typed in front frees the quantity, as the key does.
            if edit.text.strip() == "=":
                return apply_edit(shot, Edit(field=edit.field, free=True))
            return field.read(shot, edit.text)
        return field.nudge(shot, shot.timing.solve(), edit.nudge or 0)
    except Refusal as refusal:
        raise Refusal(edit.field, refusal.allowed, edit.text) from None
    except ValidationError as error:
        message = error.errors()[0]["msg"].removeprefix("Value error, ")
        raise Refusal(edit.field, message, edit.text) from None
    except (ValueError, OverflowError):
        raise Refusal(edit.field, "That is out of range.", edit.text) from None


def sentence(shot: Shot) -> tuple[tuple[Word, ...], ...]:
    """The shot in words, a tuple a line. Raises Refusal where the timing cannot be solved."""
    try:
        solved = shot.timing.solve()
    except Refusal as refusal:
        raise refusal.below("timing") from None
    wanted = shot.timing.wanted()

    def value(name: str) -> Word:
        field = FIELDS[name]
        quantity = name.removeprefix("timing.")
        state: Literal["wanted", "solved", "plain"] = "plain"
        if quantity in QUANTITIES:
            state = "wanted" if quantity in wanted else "solved"
        return Word(
            text=field.show(shot, solved), field=name, label=field.label, state=state,
            note=solved.told.get(quantity, ""), choices=field.choices,
        )  # fmt: skip

    first = [
        Word(text="Film "), value("timing.playback_s"), Word(text=" at "), value("timing.fps"),
        Word(text=", a frame every "), value("timing.interval_s"), Word(text=" from "), value("start"),
        Word(text=", so "), value("timing.event_s"), Word(text=" and "), value("timing.frame_count"), Word(text="."),
    ]  # fmt: skip
    if shot.light.school == "fixed":
        second = [
            Word(text="For the light, "), value("light.school"), Word(text=" at "), value("light.shutter_s"),
            Word(text=", ISO "), value("light.iso"), Word(text=", "), value("light.aperture"),
            Word(text=", white held at "), value("light.white_balance_k"), Word(text="; the sky is "),
            value("light.cloud"), Word(text="."),
        ]  # fmt: skip
    else:
        second = [
            Word(text="For the light, "), value("light.school"), Word(text=" up to "), value("light.shutter_s"),
            Word(text=", then ISO "), value("light.iso"), Word(text=" to "), value("light.iso_ceiling"),
            Word(text=", at "), value("light.aperture"), Word(text=", white held at "),
            value("light.white_balance_k"), Word(text="; the sky is "), value("light.cloud"), Word(text="."),
        ]  # fmt: skip
    return tuple(first), tuple(second)


def speed_up_text(solved: Solution) -> str:
    """`900 ×`: how many seconds of the event one second of film shows."""
    return f"{decimals(solved.speed_up, 1)} ×"
