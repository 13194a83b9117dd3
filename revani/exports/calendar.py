"""Nights and instants as iCalendar. Source: RFC 5545."""

from collections.abc import Sequence
from datetime import UTC, datetime
from typing import NamedTuple
from uuid import NAMESPACE_URL, uuid5


class Entry(NamedTuple):
    """Something in a calendar: what it is, from when to when (seconds since 1970 UTC), where, and why.

    `alarm_s` is how long before it a calendar rings; None: not at all.
    """

    summary: str
    from_s: float
    to_s: float
    location: str
    description: str = ""
    alarm_s: float | None = None


def calendar(entries: Sequence[Entry], now_s: float) -> str:
    """A calendar of entries, each with an id that is the same whenever it is written again."""
    lines = ["BEGIN:VCALENDAR", "VERSION:2.0", "PRODID:-//Revani//EN", "CALSCALE:GREGORIAN"]
    for one in entries:
        begins, ends = _stamp(one.from_s), _stamp(one.to_s)
        uid = uuid5(NAMESPACE_URL, f"{one.summary}|{begins}|{one.location}")
        lines += ["BEGIN:VEVENT", f"UID:{uid}", f"DTSTAMP:{_stamp(now_s)}", f"DTSTART:{begins}", f"DTEND:{ends}"]
        lines += [f"SUMMARY:{_escaped(one.summary)}", f"LOCATION:{_escaped(one.location)}"]
        if one.description:
            lines.append(f"DESCRIPTION:{_escaped(one.description)}")
        if one.alarm_s is not None:
            lines += ["BEGIN:VALARM", "ACTION:DISPLAY", f"DESCRIPTION:{_escaped(one.summary)}"]
            lines += [f"TRIGGER:-PT{round(one.alarm_s)}S", "END:VALARM"]
        lines.append("END:VEVENT")
    return "".join(f"{folded}\r\n" for line in [*lines, "END:VCALENDAR"] for folded in _folded(line))


def _stamp(at_s: float) -> str:
    return f"{datetime.fromtimestamp(round(at_s), UTC):%Y%m%dT%H%M%SZ}"


def _escaped(text: str) -> str:
    for plain, written in (("\\", "\\\\"), (";", "\\;"), (",", "\\,"), ("\n", "\\n")):
        text = text.replace(plain, written)
    return text


_MOST_OCTETS = 75


def _folded(line: str) -> list[str]:
    """A line in pieces of at most 75 octets, every one after the first begun with a space."""
    pieces, now = [], ""
    for letter in line:
        if len((now + letter).encode()) > _MOST_OCTETS:
            pieces.append(now)
            now = " "
        now += letter
    return [*pieces, now]
