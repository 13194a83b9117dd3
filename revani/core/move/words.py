"""The values of a move as they are named, shown and typed: moments, positions, holds and eases."""

import re

from revani.core.documents import (
    AXES,
    AXIS_MEASURES,
    AfterStart,
    AxisName,
    Ease,
    FilmTime,
    FrameNumber,
    Moment,
    MoveKey,
    RidgeEvent,
    Shot,
)
from revani.core.quantities.measures import chosen
from revani.core.quantities.refusal import Refusal
from revani.core.quantities.units import duration, parse_duration
from revani.core.timing.start import parse_start, show_start

_MOMENT = "Type a moment: + 40 min, 21:30, sunset − 10 min, frame 120, film 4 s, or sun behind the ridge."


def show_moment(moment: Moment, shot: Shot) -> str:
    """`+ 40 min`, `frame 120`, `film 4 s`, `21:30`, `sunset − 10 min`; what `parse_moment` reads."""
    if isinstance(moment, AfterStart):
        return f"+ {duration(round(moment.after_s, 3))}"
    if isinstance(moment, FrameNumber):
        return f"frame {moment.number}"
    if isinstance(moment, FilmTime):
        return f"film {duration(round(moment.film_s, 3))}"
    if isinstance(moment, RidgeEvent):
        return moment.event
    return show_start(moment, shot.place)


def parse_moment(text: str) -> Moment:
    """A moment as it is typed. Raises Refusal("")."""
    clean = " ".join(text.strip().lower().split())
    try:
        if clean.startswith("frame"):
            return FrameNumber(number=int(clean.removeprefix("frame").replace(",", "")))
        if clean.startswith("film"):
            return FilmTime(film_s=float(parse_duration(clean.removeprefix("film"))))
        if clean.startswith("+") or re.fullmatch(r"[\d.]+\s*(s|min|h|m)?", clean):
            return AfterStart(after_s=float(parse_duration(clean.removeprefix("+"))))
        start = parse_start(text)
    except ValueError:
        raise Refusal("", _MOMENT, text) from None
    if start.by == "instant":
        raise Refusal("", _MOMENT, text)
    return start


def show_ease(ease: Ease) -> str:
    """`none`, `even 5 s`, `soft`, `soft 3 s`."""
    word = {"none": "none", "linear": "even", "jerk": "soft"}[ease.kind]
    return f"{word} {duration(ease.s)}" if ease.s is not None else word


def parse_ease(text: str) -> Ease:
    """An ease as it is typed. Raises Refusal("")."""
    word, _, length = text.strip().lower().partition(" ")
    kinds = {"none": "none", "even": "linear", "soft": "jerk"}
    try:
        s = float(parse_duration(length)) if length.strip() else None
        return Ease.model_validate({"kind": kinds[word], "s": s})
    except (KeyError, ValueError):
        raise Refusal("", "Type none, even and seconds (even 5 s), or soft (soft 3 s).", text) from None


def show_position(axis: AxisName, value: float) -> str:
    """`212.4 mm`, `−3.6°`, in the measures that are shown."""
    return AXIS_MEASURES[axis].show(value)


def parse_position(axis: AxisName, text: str) -> float:
    """A position as it is typed: `1.2 m`, `3 ft 6 in`, `−3.6°`. Raises Refusal("")."""
    return AXIS_MEASURES[axis].read(text, chosen())


def key_part(shot: Shot, name: str) -> tuple[int, str] | None:
    """Key and part that a field's name speaks of: `move.keys.2.slide`; None where there is none."""
    found = re.fullmatch(r"move\.keys\.(\d+)\.(at|hold|leave|arrive|[a-z]+)", name)
    if found is None or shot.move is None or int(found.group(1)) >= len(shot.move.keys):
        return None
    if found.group(2) not in ("at", "hold", "leave", "arrive", *AXES):
        return None
    return int(found.group(1)), found.group(2)


def show_key_part(shot: Shot, index: int, part: str) -> str:
    """A part of a key in words."""
    assert shot.move
    key = shot.move.keys[index]
    if part == "at":
        return show_moment(key.at, shot)
    if part == "hold":
        return duration(key.hold_s) if key.hold_s else "–"
    if part in ("leave", "arrive"):
        return show_ease(getattr(key, part))
    axis = next(name for name in AXES if name == part)
    return show_position(axis, key.positions[axis]) if axis in key.positions else "–"


def read_key_part(shot: Shot, index: int, part: str, text: str) -> Shot:
    """The shot with a part of a key typed anew; `–` takes an axis out of a key. Raises Refusal("")."""
    assert shot.move
    key = shot.move.keys[index]
    away = text.strip() in ("–", "-", "")
    change: dict[str, object]
    if part == "at":
        change = {"at": parse_moment(text).model_dump()}
    elif part == "hold":
        change = {"hold_s": 0.0 if away else float(parse_duration(text))}
    elif part in ("leave", "arrive"):
        change = {part: parse_ease(text).model_dump()}
    else:
        axis = next(name for name in AXES if name == part)
        positions = dict(key.positions)
        if away:
            positions.pop(axis, None)
        else:
            positions[axis] = parse_position(axis, text)
        if not positions:
            raise Refusal("", "A key names one axis at least; remove the key instead.", text)
        change = {"positions": positions}
    new = MoveKey.model_validate(key.model_dump() | change)
    keys = (*shot.move.keys[:index], new, *shot.move.keys[index + 1 :])
    return shot.with_keys(keys)
