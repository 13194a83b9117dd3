"""When a shot begins: a time on the place's clock, or what the sun does there that day."""

import re
from datetime import date, datetime, time, timedelta
from functools import lru_cache
from math import ceil, floor
from typing import get_args
from zoneinfo import ZoneInfo

from pydantic import ValidationError

from revani.core.documents import (
    AltitudeStart,
    ClockStart,
    InstantStart,
    Place,
    RidgeEvent,
    Shot,
    Start,
    SunEventName,
    SunStart,
)
from revani.core.quantities.refusal import Refusal
from revani.core.quantities.units import MINUS, decimals, duration, parse_duration
from revani.core.sky.skyline import ridge_crossings
from revani.core.sky.sun_and_moon import day_event, day_events, local_midnight_s, sky_over

_SUN_EVENTS: tuple[str, ...] = get_args(SunEventName)
_RIDGE_EVENTS: tuple[str, ...] = get_args(RidgeEvent.model_fields["event"].annotation)
_Dated = ClockStart | SunStart | AltitudeStart | RidgeEvent
_ALLOWED = (
    "Type a clock time such as 19:50 or 6 pm, an event such as sunset − 40 min, moonrise or dark, or an altitude such "
    "as sun down to 6°."
)
# A moment that falls together with the start is meant to be there, whatever was rounded.
_TOGETHER_S = 1.0
# An offset may reach a day back or ahead.
_DAYS_ABOUT = 2


def start_s(shot: Shot) -> float:
    """The instant at which the first shutter opens, seconds since 1970 UTC.

    Raises Refusal("start") for a clock time that the date skips, or an event that the date lacks.
    """
    start, place = shot.start, shot.place
    if isinstance(start, InstantStart):
        return start.epoch_s
    found = _on(start, place, shot.date)
    if not found:
        raise Refusal("start", _why_not(start, place, shot.date), show_start(start, place))
    return found[0]


def next_s(moment: Start, place: Place, begin_s: float, path: str) -> float:
    """A moment of a shot that began at `begin_s`: the next of its kind from there, seconds since 1970 UTC.

    A clock time is that of the place, whatever the clocks do that night. Raises Refusal(path) for an
    event that does not come, and for a clock time that is skipped just then.
    """
    if isinstance(moment, InstantStart):
        return moment.epoch_s
    begins = datetime.fromtimestamp(begin_s, ZoneInfo(place.time_zone)).date()
    before = _DAYS_ABOUT if isinstance(moment, SunStart) else 0
    for day in (begins + timedelta(days=n) for n in range(-before, _DAYS_ABOUT + 1)):
        coming = [at for at in _on(moment, place, day) if at >= begin_s - _TOGETHER_S]
        if coming:
            return min(coming)
        if isinstance(moment, ClockStart) and _skips(moment, place, day) and _after(moment, place, day) >= begin_s:
            raise Refusal(path, _why_not(moment, place, day), moment.time)
    raise Refusal(path, _why_not(moment, place, begins), show_start(moment, place))


def started_now(shot: Shot, now_s: float) -> Shot:
    """The shot begun at an instant, and dated so."""
    day = datetime.fromtimestamp(now_s, ZoneInfo(shot.place.time_zone)).date()
    return shot.model_copy(update={"start": InstantStart(epoch_s=now_s), "date": day})


def starting_at(shot: Shot, now_s: float) -> Shot:
    """The shot planned for the next whole minute from an instant, on its date: what `now` means when it is typed."""
    at = datetime.fromtimestamp(-(-now_s // 60) * 60, ZoneInfo(shot.place.time_zone))
    return shot.model_copy(update={"start": ClockStart(time=f"{at:%H:%M}"), "date": at.date()})


def _on(moment: _Dated, place: Place, day: date) -> list[float]:
    """The instants of a date at which a moment is: none, one, or two where the clocks go back over it."""
    if isinstance(moment, SunStart):
        at = day_event(place, day, moment.event)
        return [] if at is None else [at + moment.offset_s]
    if isinstance(moment, AltitudeStart):
        begin, end = local_midnight_s(place, day), local_midnight_s(place, day + timedelta(days=1))
        passes = sky_over(place, begin, end).sun_passes(moment.altitude_deg)
        return [at for at, falls in passes if falls == (moment.goes == "down") and begin <= at < end]
    if isinstance(moment, RidgeEvent):
        begin, end = local_midnight_s(place, day), local_midnight_s(place, day + timedelta(days=1))
        crossings = ridge_crossings(sky_over(place, begin, end), place)
        return [one.at_s for one in crossings if one.name == moment.event and begin <= one.at_s < end]
    if _skips(moment, place, day):
        return []
    local = _local(moment, place, day)
    return sorted({local.timestamp(), local.replace(fold=1).timestamp()})


def _local(moment: ClockStart, place: Place, day: date) -> datetime:
    return datetime.combine(day, time.fromisoformat(moment.time), ZoneInfo(place.time_zone))


def _after(moment: ClockStart, place: Place, day: date) -> float:
    return _local(moment, place, day).timestamp()


def _skips(moment: ClockStart, place: Place, day: date) -> bool:
    """Whether the clocks go forward over a time."""
    local = _local(moment, place, day)
    again = datetime.fromtimestamp(local.timestamp(), ZoneInfo(place.time_zone))
    return again.replace(tzinfo=None) != local.replace(tzinfo=None)


def _why_not(moment: _Dated, place: Place, day: date) -> str:
    on = f"{day:%-d %b %Y}"
    if isinstance(moment, ClockStart):
        return f"The clocks go forward over {moment.time} on {on}: choose another time."
    if isinstance(moment, AltitudeStart):
        found = f"The sun does not come {moment.goes} to {_degrees(moment)} at {place.name} on {on}"
        return f"{found}: give another altitude, or a clock time."
    if isinstance(moment, RidgeEvent):
        horizon = "" if place.horizon else " no skyline is noted there;"
        return f"There is no {moment.event} at {place.name} on {on}:{horizon} give a clock time."
    return f"There is no {moment.event} at {place.name} on {on}: give a clock time."


_ALTITUDE = re.compile(r"sun (down|up) to ([+-]?\d+(?:\.\d+)?) ?°?")
_TWELVE = re.compile(r"(\d{1,2})(?::(\d{2}))?\s*([ap])\.?m\.?")


def parse_clock(text: str) -> time:
    """A time on a clock from `7:05`, `19:50:30`, `6 pm` or `6:30pm`. Raises Refusal("clock")."""
    clean = text.strip().lower()
    twelve = _TWELVE.fullmatch(clean)
    try:
        if twelve:
            hour, minute = int(twelve.group(1)), int(twelve.group(2) or 0)
            if not 1 <= hour <= 12:
                raise ValueError("no such hour")
            return time(hour % 12 + (12 if twelve.group(3) == "p" else 0), minute)
        if not re.fullmatch(r"\d{1,2}:\d{2}(:\d{2})?", clean):
            raise ValueError("no clock time")
        return time.fromisoformat(clean if clean.find(":") != 1 else f"0{clean}")
    except ValueError:
        raise Refusal("clock", "Type a clock time such as 19:50 or 6 pm.", text) from None


def parse_start(text: str) -> Start:
    """A start from `19:50`, `6 pm`, `sunset − 40 min`, `moonrise + 1h`, `dark`, `sun down to 6°`, `sun over the ridge`.

    Raises Refusal("start").
    """
    clean = " ".join(text.strip().lower().replace(MINUS, "-").replace("–", "-").split())
    if clean[:1].isdigit():
        try:
            clock = parse_clock(clean)
        except Refusal:
            raise Refusal("start", _ALLOWED, text) from None
        return ClockStart(time=f"{clock:%H:%M:%S}" if clock.second else f"{clock:%H:%M}")
    clean = clean.removeprefix("the ")
    if found := _ALTITUDE.fullmatch(clean):
        try:
            return AltitudeStart.model_validate({"goes": found[1], "altitude_deg": float(found[2])})
        except ValidationError:
            raise Refusal("start", f"An altitude from {MINUS}60° to 90°.", text) from None
    if clean in _RIDGE_EVENTS:
        return RidgeEvent.model_validate({"event": clean})
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


def offered_starts(shot: Shot) -> tuple[tuple[str, str], ...]:
    """What a start may be picked from: each event of the shot's date as it is typed, and its clock time."""
    return _offered(shot.place, shot.date)


@lru_cache(maxsize=16)
def _offered(place: Place, day: date) -> tuple[tuple[str, str], ...]:
    zone = ZoneInfo(place.time_zone)
    events = {name: at for name, at in day_events(place, day).items() if at is not None}
    begin, end = local_midnight_s(place, day), local_midnight_s(place, day + timedelta(days=1))
    for crossing in ridge_crossings(sky_over(place, begin, end), place):
        if begin <= crossing.at_s < end:
            events.setdefault(crossing.name, crossing.at_s)
    clocks = ((name, f"{datetime.fromtimestamp(at, zone):%H:%M}") for name, at in sorted(events.items(), key=_second))
    return (("now", ""), *clocks)


def _second(pair: tuple[str, float]) -> float:
    return pair[1]


def show_start(start: Start, place: Place) -> str:
    """`19:50`, `sunset − 40 min`; what `parse_start` reads."""
    if isinstance(start, ClockStart):
        return start.time
    if isinstance(start, InstantStart):
        return f"{datetime.fromtimestamp(start.epoch_s, ZoneInfo(place.time_zone)):%H:%M:%S}"
    if isinstance(start, AltitudeStart):
        return f"sun {start.goes} to {_degrees(start)}"
    if isinstance(start, RidgeEvent) or not start.offset_s:
        return start.event
    return f"{start.event} {'+' if start.offset_s > 0 else MINUS} {duration(abs(start.offset_s))}"


_STEP_S = 300


def _degrees(moment: AltitudeStart) -> str:
    return f"{decimals(moment.altitude_deg, 2)}°"


def later_start(start: Start, place: Place, steps: int) -> _Dated:
    """A start so many steps of five minutes later, on whole ones; a time on the clock goes round at midnight.

    An altitude goes by whole degrees, down for later where the sun falls. What the ridge does stands where it stands.
    """
    if isinstance(start, AltitudeStart):
        on = steps if start.goes == "up" else -steps
        whole = floor(start.altitude_deg) if on > 0 else ceil(start.altitude_deg)
        return start.model_copy(update={"altitude_deg": float(min(max(whole + on, -60), 90))})
    if isinstance(start, RidgeEvent):
        return start
    if isinstance(start, SunStart):
        return start.model_copy(update={"offset_s": (start.offset_s // _STEP_S + steps) * _STEP_S})
    hours, minutes = show_start(start, place).split(":")[:2]
    total = ((int(hours) * 60 + int(minutes)) // 5 + steps) * 5 % 1440
    return ClockStart(time=f"{total // 60:02d}:{total % 60:02d}")
