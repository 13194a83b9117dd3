"""When a shot begins: a time on the place's clock, or what the sun does there that day."""

import re
from datetime import datetime, time
from typing import get_args
from zoneinfo import ZoneInfo

from revani.core.documents import ClockStart, InstantStart, Place, Shot, Start, SunEventName, SunStart
from revani.core.refusal import Refusal
from revani.core.sky import sun_events_of
from revani.core.units import MINUS, duration, parse_duration

_SUN_EVENTS: tuple[str, ...] = get_args(SunEventName)
_ALLOWED = "Type a clock time such as 19:50, or a sun event such as sunset − 40 min."


def start_s(shot: Shot) -> float:
    """The instant at which the first shutter opens, seconds since 1970 UTC.

    Raises Refusal("start") for a clock time that the date skips, or a sun event that the date lacks.
    """
    return instant_s(shot.start, shot, "start")


def instant_s(start: Start, shot: Shot, path: str) -> float:
    """A moment on a shot's date and at its place, seconds since 1970 UTC.

    Raises Refusal(path) for a clock time that the date skips, or a sun event that the date lacks.
    """
    place = shot.place
    if isinstance(start, InstantStart):
        return start.epoch_s
    if isinstance(start, SunStart):
        at = sun_events_of(place, shot.date)[start.event]
        if at is None:
            allowed = f"There is no {start.event} at {place.name} on {shot.date:%-d %b %Y}: give a clock time."
            raise Refusal(path, allowed, start.event)
        return at + start.offset_s
    zone = ZoneInfo(place.time_zone)
    local = datetime.fromisoformat(f"{shot.date.isoformat()}T{start.time}").replace(tzinfo=zone)
    if datetime.fromtimestamp(local.timestamp(), zone).replace(tzinfo=None) != local.replace(tzinfo=None):
        allowed = f"The clocks go forward over {start.time} on {shot.date:%-d %b %Y}: choose another time."
        raise Refusal(path, allowed, start.time)
    return local.timestamp()


def parse_clock(text: str) -> time:
    """A time on a clock from `7:05` or `19:50:30`. Raises Refusal("clock")."""
    try:
        return time.fromisoformat(_two_digits(text.strip()))
    except ValueError:
        raise Refusal("clock", "Type a clock time such as 19:50.", text) from None


def _two_digits(clock: str) -> str:
    return clock if clock.find(":") != 1 else f"0{clock}"


def parse_start(text: str) -> Start:
    """A start from `19:50`, `sunset`, `sunset − 40 min`, `civil dusk + 1h`. Raises Refusal("start")."""
    clean = " ".join(text.strip().lower().replace(MINUS, "-").replace("–", "-").split())
    if re.fullmatch(r"\d{1,2}:\d{2}(:\d{2})?", clean):
        try:
            parse_clock(clean)
        except Refusal:
            raise Refusal("start", _ALLOWED, text) from None
        return ClockStart(time=_two_digits(clean))
    sun = re.fullmatch(r"([a-z ]+?)\s*(?:([+-])\s*(.+))?", clean)
    if sun is None or sun.group(1) not in _SUN_EVENTS:
        raise Refusal("start", _ALLOWED, text)
    offset = 0
    if sun.group(2):
        try:
            # An offset without a unit is in minutes: "sunset − 40".
            amount = sun.group(3) + (" min" if re.fullmatch(r"[\d.]+", sun.group(3)) else "")
            offset = round(parse_duration(amount)) * (-1 if sun.group(2) == "-" else 1)
        except Refusal:
            raise Refusal("start", _ALLOWED, text) from None
    if abs(offset) > 86_400:
        raise Refusal("start", "An offset of at most 24 h can be used.", text)
    return SunStart(event=sun.group(1), offset_s=offset)


def show_start(start: Start, place: Place) -> str:
    """`19:50`, `sunset − 40 min`; what `parse_start` reads."""
    if isinstance(start, ClockStart):
        return start.time
    if isinstance(start, InstantStart):
        return f"{datetime.fromtimestamp(start.epoch_s, ZoneInfo(place.time_zone)):%H:%M:%S}"
    if not start.offset_s:
        return start.event
    return f"{start.event} {'+' if start.offset_s > 0 else MINUS} {duration(abs(start.offset_s))}"


_STEP_S = 300


def later_start(start: Start, place: Place, steps: int) -> ClockStart | SunStart:
    """A start so many steps of five minutes later, on whole ones; a time on the clock goes round at midnight."""
    if isinstance(start, SunStart):
        return start.model_copy(update={"offset_s": (start.offset_s // _STEP_S + steps) * _STEP_S})
    hours, minutes = show_start(start, place).split(":")[:2]
    total = ((int(hours) * 60 + int(minutes)) // 5 + steps) * 5 % 1440
    return ClockStart(time=f"{total // 60:02d}:{total % 60:02d}")
