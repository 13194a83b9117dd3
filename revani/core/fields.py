"""How each value of a shot is named, shown, read as it is typed, and nudged."""

import re
from bisect import bisect_left, bisect_right
from collections.abc import Callable, Mapping
from dataclasses import dataclass
from datetime import date, datetime
from fractions import Fraction
from itertools import combinations
from typing import Any, get_args
from uuid import UUID
from zoneinfo import ZoneInfo

from revani.core.documents import (
    AXES,
    FIRST_YEAR,
    LAST_YEAR,
    AfterStart,
    AxisName,
    Cloud,
    Move,
    MoveKey,
    Pace,
    Shot,
    SunStart,
)
from revani.core.exposure import APERTURES, ISOS, SHUTTERS, show_shutter
from revani.core.keyedit import LightKeyEdit, apply_light_key
from revani.core.movewords import key_part, read_key_part, show_key_part
from revani.core.pace import solved as timing_of
from revani.core.refusal import Refusal
from revani.core.schools import SCHOOL_NAMES
from revani.core.start import parse_clock, parse_start, show_start, start_s
from revani.core.timing import Quantity, Solution, Timing
from revani.core.units import MINUS, count, decimals, duration, exact, parse_duration, plain_rate, rate, stops


@dataclass(frozen=True)
class Field:
    """How one value of a shot is named, shown, read and nudged."""

    label: str
    show: Callable[[Shot, Solution], str]
    read: Callable[[Shot, str], Shot]
    nudge: Callable[[Shot, Solution, int], Shot]
    choices: tuple[str, ...] | Callable[[Shot], tuple[str, ...]] = ()

    def choices_for(self, shot: Shot) -> tuple[str, ...]:
        """All that may be typed, if few."""
        return self.choices(shot) if callable(self.choices) else self.choices


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


def _paced(shot: Shot, pace: Pace | None) -> Shot:
    return shot.model_copy(update={"pace": pace})


_PACES = ("the same throughout", "longer by night")


def _read_pace(shot: Shot, text: str) -> Shot:
    if text.strip().lower() not in _PACES:
        raise Refusal("", f"Choose one of: {', '.join(_PACES)}.", text)
    return _paced(shot, None if text.strip().lower() == _PACES[0] else shot.pace or Pace.model_validate({}))


def _night_s(shot: Shot, solved: Solution) -> Fraction:
    return solved.interval_s * (shot.pace.night_factor if shot.pace else 1)


def _by_night(shot: Shot, solved: Solution, night_s: Fraction) -> Shot:
    pace = shot.pace or Pace.model_validate({})
    return _paced(shot, Pace.model_validate(pace.model_dump() | {"night_factor": night_s / solved.interval_s}))


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


def read_aperture(text: str) -> float:
    """An f-number from `f/2.8` or `2.8`. Raises Refusal("")."""
    try:
        return float(exact(text.lower().strip().removeprefix("f").removeprefix("/").strip()))
    except ValueError as error:
        raise Refusal("", "Type an f-number such as 2.8.", text) from error


def _read_stops(text: str) -> float:
    try:
        return float(exact(text.lower().replace(MINUS, "-").replace("stops", "").replace("stop", "").strip()))
    except ValueError as error:
        raise Refusal("", "Type a number of stops such as 0.3 or −1.", text) from error


def _stops_field(label: str, name: str, step: float) -> Field:
    return Field(
        label,
        lambda shot, _: f"{decimals(getattr(shot.light, name), 2)} stops",
        lambda shot, text: _lit(shot, **{name: _read_stops(text)}),
        lambda shot, _, n: _lit(shot, **{name: round(getattr(shot.light, name) + n * step, 3)}),
    )


def _kelvin_field(label: str, name: str) -> Field:
    return Field(
        label,
        lambda shot, _: f"{getattr(shot.light, name):,} K",
        lambda shot, text: _lit(shot, **{name: _whole(text, "k", "Type a temperature such as 4800 K.")}),
        lambda shot, _, n: _lit(shot, **{name: _along(_KELVINS, getattr(shot.light, name), n)}),
    )


def _angle(text: str) -> float | None:
    clean = text.strip().removesuffix("°").strip()
    if clean.lower() in ("", "none", "no"):
        return None
    try:
        return float(exact(clean))
    except ValueError as error:
        raise Refusal("", "Type an angle up to 360° such as 180, or none.", text) from error


def read_shutter(text: str) -> Fraction:
    """Seconds from `1/125`, `2.5s`, `26 s`. Raises Refusal("")."""
    try:
        return parse_duration(text)
    except Refusal:
        raise Refusal("", "Type a shutter time such as 1/125, 2.5s or 26s.", text) from None


def _choice_field(label: str, name: str, words: Mapping[Any, str]) -> Field:
    def read(shot: Shot, text: str) -> Shot:
        for value, word in words.items():
            if text.strip().lower() in (word.lower(), value.lower()):
                return _lit(shot, **{name: value})
        raise Refusal("", f"Choose one of: {', '.join(words.values())}.", text)

    def nudge(shot: Shot, _solved: Solution, steps: int) -> Shot:
        values = list(words)
        return _lit(shot, **{name: values[(values.index(getattr(shot.light, name)) + steps) % len(values)]})

    return Field(label, lambda shot, _: words[getattr(shot.light, name)], read, nudge, tuple(words.values()))


_NO_FILTER = "no filter"


def _stacks(shot: Shot) -> dict[str, tuple[UUID, ...]]:
    """What may be on the lens, by name: nothing, a filter, or two."""
    filters = shot.kit.filters
    stacks = [(), *((one,) for one in filters), *combinations(filters, 2)]
    return {" + ".join(one.name for one in stack) or _NO_FILTER: tuple(one.id for one in stack) for stack in stacks}


def _show_filter(shot: Shot, _solved: Solution) -> str:
    on = set(shot.light.filters)
    return next((name for name, stack in _stacks(shot).items() if set(stack) == on), f"{len(on)} filters")


def _read_filter(shot: Shot, text: str) -> Shot:
    stacks = _stacks(shot)
    if text not in stacks:
        raise Refusal("", f"Choose one of: {', '.join(stacks)}.", text)
    return _lit(shot, filters=list(stacks[text]))


def _nudge_filter(shot: Shot, solved: Solution, steps: int) -> Shot:
    names = list(_stacks(shot))
    shown = _show_filter(shot, solved)
    return _read_filter(shot, names[((names.index(shown) if shown in names else 0) + steps) % len(names)])


def _read_filter_off(shot: Shot, text: str) -> Shot:
    if text.strip().lower() in ("", "never", "stays on"):
        return _lit(shot, filters_off=None)
    return _lit(shot, filters_off=parse_start(text).model_dump())


def _nudge_filter_off(shot: Shot, _solved: Solution, steps: int) -> Shot:
    off = shot.light.filters_off or SunStart(event="sunset")
    if not isinstance(off, SunStart):
        return shot
    return _lit(shot, filters_off=off.model_copy(update={"offset_s": off.offset_s + 300 * steps}).model_dump())


def _yes_field(label: str, no: str, yes: str, part: str, name: str) -> Field:
    """A choice of two words that stands for false and true, of the shot or of its light."""
    words = (no, yes)

    def stands(shot: Shot) -> bool:
        return bool(getattr(shot.light if part else shot, name))

    def put(shot: Shot, value: bool) -> Shot:
        return _lit(shot, **{name: value}) if part else shot.model_copy(update={name: value})

    def read(shot: Shot, text: str) -> Shot:
        if text.strip().lower() not in words:
            raise Refusal("", f"Choose one of: {', '.join(words)}.", text)
        return put(shot, text.strip().lower() == yes)

    return Field(
        label,
        lambda shot, _: words[stands(shot)],
        read,
        lambda shot, _, n: put(shot, (stands(shot) + n) % 2 == 1),
        words,
    )


def _share(text: str) -> float:
    clean = text.lower().replace("of a moon", "").strip()
    try:
        share = float(exact(clean.removesuffix("%").strip())) / (100 if clean.endswith("%") else 1)
    except ValueError as error:
        raise Refusal("", "Type a part of the disc such as 25 %.", text) from error
    if not 0 <= share <= 1:
        raise Refusal("", "Between 0 % and 100 % of the disc can be lit.", text)
    return share


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


WHITES = {"fixed": "held at", "ramp": "going from", "automatic": "left to the body"}

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
    "pace": Field(
        "Pace",
        lambda shot, _: _PACES[shot.pace is not None],
        _read_pace,
        lambda shot, _, n: _read_pace(shot, _PACES[((shot.pace is not None) + n) % 2]),
        _PACES,
    ),
    "pace.night_s": Field(
        "Interval by night",
        lambda shot, solved: duration(_night_s(shot, solved)),
        lambda shot, text: _by_night(shot, timing_of(shot), parse_duration(text)),
        lambda shot, solved, n: _by_night(shot, solved, _along(_INTERVALS_S, _night_s(shot, solved), n)),
    ),
    "start": Field(
        "Start",
        lambda shot, _: show_start(shot.start, shot.place),
        lambda shot, text: shot.model_copy(update={"start": parse_start(text)}),
        _nudge_start,
    ),
    "date": Field("Date", lambda shot, _: shot.date.isoformat(), _read_date, _nudge_date),
    "light.school": _choice_field("Way of exposing", "school", SCHOOL_NAMES),
    "light.shutter_s": Field(
        "Shutter",
        lambda shot, _: show_shutter(float(shot.light.shutter_s)),
        lambda shot, text: _lit(shot, shutter_s=read_shutter(text)),
        lambda shot, _, n: _lit(shot, shutter_s=_along(SHUTTERS, shot.light.shutter_s, n)),
    ),
    "light.iso": _iso_field("ISO", "iso"),
    "light.iso_ceiling": _iso_field("ISO ceiling", "iso_ceiling"),
    "light.aperture": Field(
        "Aperture",
        lambda shot, _: f"f/{shot.light.aperture:g}",
        lambda shot, text: _lit(shot, aperture=read_aperture(text)),
        lambda shot, _, n: _lit(shot, aperture=_along(APERTURES, shot.light.aperture, n)),
    ),
    "light.aperture_open": Field(
        "Aperture that a ramp opens to",
        lambda shot, _: f"f/{shot.light.aperture_open or shot.light.aperture:g}",
        lambda shot, text: _lit(shot, aperture_open=read_aperture(text)),
        lambda shot, _, n: _lit(
            shot, aperture_open=_along(APERTURES, shot.light.aperture_open or shot.light.aperture, n)
        ),
    ),
    "light.compensation_stops": _stops_field("Compensation", "compensation_stops", 1 / 3),
    "light.dead_band_stops": _stops_field("Dead band", "dead_band_stops", 0.05),
    "light.hold_frames": Field(
        "Least number of frames between two steps",
        lambda shot, _: count(shot.light.hold_frames, "frame"),
        lambda shot, text: _lit(shot, hold_frames=_count(text)),
        lambda shot, _, n: _lit(shot, hold_frames=max(1, shot.light.hold_frames + n)),
    ),
    "light.white_balance": _choice_field("White balance", "white_balance", WHITES),
    "light.white_balance_k": _kelvin_field("White balance, kelvin", "white_balance_k"),
    "light.white_balance_night_k": _kelvin_field("White balance by night", "white_balance_night_k"),
    "light.angle_deg": Field(
        "Wanted shutter angle",
        lambda shot, _: "none" if shot.light.angle_deg is None else f"{decimals(shot.light.angle_deg, 0)}°",
        lambda shot, text: _lit(shot, angle_deg=_angle(text)),
        lambda shot, _, n: _lit(shot, angle_deg=min(360.0, max(15.0, (shot.light.angle_deg or 0) + 15 * n))),
    ),
    "light.filters": Field("Filter", _show_filter, _read_filter, _nudge_filter, lambda shot: tuple(_stacks(shot))),
    "light.filters_off": Field(
        "Filter taken off",
        lambda shot, _: show_start(shot.light.filters_off, shot.place) if shot.light.filters_off else "never",
        _read_filter_off,
        _nudge_filter_off,
    ),
    "light.scene": _choice_field("What fills the picture", "scene", {"sky": "sky", "ground": "ground"}),
    "light.noise_reduction": _yes_field("Noise reduction", "no", "yes", "light", "noise_reduction"),
    "needs_dark": _yes_field("Stars", "not filmed", "filmed", "", "needs_dark"),
    "moonlight_up_to": Field(
        "Moonlight that is let pass",
        lambda shot, _: f"{shot.moonlight_up_to:.0%} of a moon",
        lambda shot, text: shot.model_copy(update={"moonlight_up_to": _share(text)}),
        lambda shot, _, n: shot.model_copy(
            update={"moonlight_up_to": min(1.0, max(0.0, round(shot.moonlight_up_to + n * 0.05, 2)))}
        ),
    ),
    "light.cloud": _choice_field("Cloud", "cloud", {cloud: cloud for cloud in get_args(Cloud)}),
}  # fmt: skip


_WISH = re.compile(r"([+-]?[\d.]+)\s*(?:stops?)?\s*(?:at\s+(\d{1,2}:\d{2}))?")


def _wish_field(index: int) -> Field:
    """One wish of the light layer: `+0.7 at 21:30`; `none` takes it away."""

    def show(shot: Shot, _solved: Solution) -> str:
        key = shot.light.keys[index]
        at = datetime.fromtimestamp(start_s(shot) + key.after_s, ZoneInfo(shot.place.time_zone))
        return f"{stops(key.bias_stops)} at {at:%H:%M}"

    def read(shot: Shot, text: str) -> Shot:
        event_s = float(timing_of(shot).event_s)
        if text.strip().lower() in ("", "none"):
            return apply_light_key(shot, LightKeyEdit(action="remove", index=index), event_s)
        found = _WISH.fullmatch(text.lower().replace(MINUS, "-").strip())
        if found is None:
            raise Refusal("", "Type stops and a time such as +0.7 at 21:30, or none.", text)
        at = None
        if found.group(2):
            begin = datetime.fromtimestamp(start_s(shot), ZoneInfo(shot.place.time_zone))
            clock = datetime.combine(begin.date(), parse_clock(found.group(2)), begin.tzinfo)
            at = clock.timestamp() + (86_400 if clock < begin else 0)
        edit = LightKeyEdit(action="move", index=index, at_s=at, bias_stops=_read_stops(found.group(1)))
        return apply_light_key(shot, edit, event_s)

    def nudge(shot: Shot, _solved: Solution, steps: int) -> Shot:
        bias = shot.light.keys[index].bias_stops + steps / 3
        edit = LightKeyEdit(action="move", index=index, bias_stops=bias)
        return apply_light_key(shot, edit, float(timing_of(shot).event_s))

    return Field(f"Wish {index + 1}", show, read, nudge)


def _key_field(index: int, part: str) -> Field:
    """A part of a key of the move: its moment, its hold, an ease, or an axis."""
    label = f"Key {index + 1}, {'ease away' if part == 'leave' else 'ease in' if part == 'arrive' else part}"

    def nudge(shot: Shot, _solved: Solution, steps: int) -> Shot:
        assert shot.move
        key = shot.move.keys[index]
        axis = next((name for name in AXES if name == part), None)
        if axis is None or axis not in key.positions:
            return shot
        positions = dict(key.positions) | {axis: round(key.positions[axis] + steps * _NUDGES.get(axis, 1.0), 3)}
        keys = (*shot.move.keys[:index], key.model_copy(update={"positions": positions}), *shot.move.keys[index + 1 :])
        return shot.model_copy(update={"move": shot.move.model_copy(update={"keys": keys})})

    return Field(
        label,
        lambda shot, _: show_key_part(shot, index, part),
        lambda shot, text: read_key_part(shot, index, part, text),
        nudge,
    )


_NUDGES: dict[AxisName, float] = {"slide": 10.0, "lift": 10.0, "focus": 0.1}

MOVE_KINDS = {"stepwise": "shoot, move, settle", "continuous": "without stopping", "live": "at live speed"}
_PATHS = {"legs": "leg by leg", "smooth": "as one smooth way"}
_REPEATS = {"once": "once", "loop": "in a loop", "ping-pong": "back and forth"}
_STALLS = {"end": "ends the run", "hold": "leaves the rig where it stands"}
_NO_AIM = "nothing"
_LIVE_S, _LEAST_INTERVAL_S = Fraction(60), Fraction(2)


def _move_of(shot: Shot) -> Move:
    return shot.move or Move.model_validate({})


def _moved(shot: Shot, **change: object) -> Shot:
    move = Move.model_validate(_move_of(shot).model_dump() | change)
    return shot.model_copy(update={"move": move})


def _move_choice(label: str, name: str, words: Mapping[str, str]) -> Field:
    def put(shot: Shot, value: str) -> Shot:
        was_live, now = shot.live, _moved(shot, **{name: value})
        return _retimed_for(now) if name == "kind" and was_live != now.live else now

    def read(shot: Shot, text: str) -> Shot:
        for value, said in words.items():
            if text.strip().lower() in (value, said):
                return put(shot, value)
        raise Refusal("", f"Choose one of: {', '.join(words.values())}.", text)

    def nudge(shot: Shot, _solved: Solution, steps: int) -> Shot:
        values = list(words)
        return put(shot, values[(values.index(getattr(_move_of(shot), name)) + steps) % len(values)])

    return Field(label, lambda shot, _: words[getattr(_move_of(shot), name)], read, nudge, tuple(words.values()))


def _retimed_for(shot: Shot) -> Shot:
    """A shot that has just become live, or ceased to be: a frame every 1/fps, or one that the body can take."""
    timing = shot.timing.solve()
    if shot.live:
        fixed: dict[str, object] = {
            "fps": timing.fps,
            "interval_s": 1 / timing.fps,
            "event_s": min(timing.event_s, _LIVE_S),
        }
    else:
        interval = max(shot.kit.body.minimum_interval_s, _LEAST_INTERVAL_S)
        fixed = {"fps": timing.fps, "interval_s": interval, "frame_count": timing.frame_count}
    retimed = Timing.model_validate(fixed)
    # The keys keep their places within the event, which is another one now.
    factor = float(retimed.solve().event_s / timing.event_s)
    keys = tuple(_sooner(key, factor) for key in _move_of(shot).keys)
    move = _move_of(shot).model_copy(update={"keys": keys})
    return shot.model_copy(update={"timing": retimed, "move": move})


def _sooner(key: MoveKey, factor: float) -> MoveKey:
    if not isinstance(key.at, AfterStart):
        return key
    at = AfterStart(after_s=round(key.at.after_s * factor, 3))
    return key.model_copy(update={"at": at, "hold_s": round(key.hold_s * factor, 3)})


def _read_aim(shot: Shot, text: str) -> Shot:
    if text.strip().lower() in ("", _NO_AIM):
        return _moved(shot, aim=None)
    if text not in [thing.name for thing in _move_of(shot).things]:
        raise Refusal("", "Choose one of the things on the move table, or nothing.", text)
    return _moved(shot, aim={"thing": text})


def _aims(shot: Shot) -> tuple[str, ...]:
    return (_NO_AIM, *(thing.name for thing in _move_of(shot).things))


def _show_aim(shot: Shot, _solved: Solution) -> str:
    aim = _move_of(shot).aim
    return aim.thing if aim else _NO_AIM


def _nudge_aim(shot: Shot, solved: Solution, steps: int) -> Shot:
    names = _aims(shot)
    return _read_aim(shot, names[(names.index(_show_aim(shot, solved)) + steps) % len(names)])


FIELDS |= {
    "move.kind": _move_choice("Kind of move", "kind", MOVE_KINDS),
    "move.path": _move_choice("Way through the keys", "path", _PATHS),
    "move.repeat": _move_choice("Repeats", "repeat", _REPEATS),
    "move.on_stall": _move_choice("A stalled axis", "on_stall", _STALLS),
    "move.aim": Field("Aim locked on", _show_aim, _read_aim, _nudge_aim, _aims),
}


def field_of(name: str, shot: Shot) -> Field | None:
    """How a value of a shot is edited; None where it has none of that name."""
    if (part := key_part(shot, name)) is not None:
        return _key_field(*part)
    index = name.removeprefix("light.keys.")
    if name.startswith("light.keys.") and index.isdecimal() and int(index) < len(shot.light.keys):
        return _wish_field(int(index))
    return FIELDS.get(name)
