"""Durations, rates, shutters and counts: read as people type them, printed as people read them.

Quantities that are solved for are exact fractions, so that 0.1 s is one tenth and 23.976 fps is
24000/1001.
"""

import re
from decimal import Decimal, InvalidOperation
from fractions import Fraction
from typing import Annotated, Any

from pydantic import BeforeValidator, PlainSerializer, WithJsonSchema

from revani.core.quantities.refusal import Refusal

MINUS = "−"
_UNIT_S: dict[str, Fraction | int] = {
    "d": 86_400, "day": 86_400, "days": 86_400,
    "h": 3_600, "hr": 3_600, "hrs": 3_600, "hour": 3_600, "hours": 3_600,
    "m": 60, "min": 60, "mins": 60, "minute": 60, "minutes": 60,
    "s": 1, "sec": 1, "secs": 1, "second": 1, "seconds": 1,
    "ms": Fraction(1, 1000),
}  # fmt: skip
_PIECE = re.compile(r"(\d+(?:[.,]\d+)?)\s*([a-z]*)\s*")
_NTSC = {"23.976": 24, "23.98": 24, "29.97": 30, "47.952": 48, "59.94": 60, "119.88": 120}
_DURATION_ALLOWED = "Type a length of time such as 5h, 2m30, 1:30, 90s or 1 h 16 min."


def exact(value: object) -> Fraction:
    """A number as the decimal that was typed: 4.1 is 41/10, "38/15" is 38/15.

    Raises ValueError for anything that is not a finite number.
    """
    if isinstance(value, bool):
        raise ValueError("A number is needed.")
    if isinstance(value, int | Fraction):
        return Fraction(value)
    text = repr(value) if isinstance(value, float) else str(value).strip()
    if len(text) > 60:
        raise ValueError("A number of at most 60 characters is needed.")
    try:
        if "/" in text:
            over, under = text.split("/")
            return Fraction(int(over), int(under))
        number = Decimal(text)
        if not number.is_finite() or abs(number.adjusted()) > 30:
            raise ValueError("A finite number is needed.")
        return Fraction(number)
    except (InvalidOperation, ZeroDivisionError, ValueError):
        raise ValueError("A finite number is needed.") from None


def plain(value: Fraction) -> float | str:
    """The JSON form of an exact number: a number where that loses nothing, else "38/15"."""
    number = float(value)
    return number if Fraction(repr(number)) == value else f"{value.numerator}/{value.denominator}"


Exact = Annotated[
    Fraction,
    BeforeValidator(exact),
    PlainSerializer(plain, return_type=Any),
    WithJsonSchema({"anyOf": [{"type": "number"}, {"type": "string", "pattern": r"^\d+(\.\d+)?(/\d+)?$"}]}),
]


def rate(value: object) -> Fraction:
    """A playback rate in frames a second; the broadcast rates are what they really are.

    "23.976" is 24000/1001, "29.97" is 30000/1001, "59.94" is 60000/1001.
    """
    text = repr(value) if isinstance(value, float) else str(value).strip().lower()
    text = text.removesuffix("fps").strip()
    if text in _NTSC:
        return Fraction(_NTSC[text] * 1000, 1001)
    return exact(text)


def plain_rate(value: Fraction) -> str:
    """A playback rate as text that `rate` reads back exactly: "30", "23.976", "12.5"."""
    for text, whole in _NTSC.items():
        if value == Fraction(whole * 1000, 1001):
            return text
    decimal = decimals(value, 3).replace(",", "")
    return decimal if exact(decimal) == value else f"{value.numerator}/{value.denominator}"


Rate = Annotated[
    Fraction,
    BeforeValidator(rate),
    PlainSerializer(plain_rate, return_type=str),
    WithJsonSchema({"anyOf": [{"type": "number"}, {"type": "string"}]}),
]


def parse_duration(text: str) -> Fraction:
    """Seconds from text such as `5h`, `1:30`, `90s`, `2m30`, `1 h 16 min`, `0.5`.

    One colon parts minutes from seconds, two part hours, minutes and seconds. A number after
    a unit and without one of its own takes the next smaller unit. Raises Refusal("") otherwise.
    """
    clean = text.strip().lower().replace(MINUS, "-")
    if ":" in clean:
        parts = clean.split(":")
        if len(parts) > 3 or not all(re.fullmatch(r"\d+(\.\d+)?", part) for part in parts):
            raise Refusal("", _DURATION_ALLOWED, text)
        seconds = Fraction(0)
        for part in parts:
            seconds = seconds * 60 + exact(part)
        return seconds
    if re.fullmatch(r"\d+/\d+\s*s?", clean):
        return _exact_or_refuse(clean.rstrip("s ").strip(), text)
    seconds, at = Fraction(0), 0
    smallest: Fraction | int = 10**9
    pieces = 0
    while at < len(clean):
        piece = _PIECE.match(clean, at)
        unit_name = piece.group(2) if piece else ""
        if piece is None or (unit_name and unit_name not in _UNIT_S):
            raise Refusal("", _DURATION_ALLOWED, text)
        unit = _UNIT_S[unit_name] if unit_name else _next_smaller(smallest)
        if unit >= smallest:
            raise Refusal("", _DURATION_ALLOWED, text)
        smallest = unit
        seconds += _exact_or_refuse(piece.group(1).replace(",", "."), text) * unit
        at = piece.end()
        pieces += 1
    if not pieces:
        raise Refusal("", _DURATION_ALLOWED, text)
    return seconds


def _next_smaller(unit: int | Fraction) -> int:
    """The unit that a bare number means after one in `unit`; alone it means seconds."""
    return {86_400: 3_600, 3_600: 60}.get(int(unit), 1)


def _exact_or_refuse(number: str, whole: str) -> Fraction:
    try:
        return exact(number)
    except ValueError:
        raise Refusal("", _DURATION_ALLOWED, whole) from None


def decimals(value: Fraction | float, most: int) -> str:
    """A number with at most `most` decimals and no trailing zeros, thousands parted by commas."""
    text = f"{float(value):,.{most}f}"
    text = text.rstrip("0").rstrip(".") if "." in text else text
    return text.replace("-", MINUS) if text not in ("-0", "0") else "0"


def duration(seconds: Fraction | float) -> str:
    """A length of time for reading: `20 s`, `2.533 s`, `1 min 30 s`, `5 h 00 min`, `3 d 4 h`."""
    value = Fraction(seconds) if isinstance(seconds, Fraction) else exact(float(seconds))
    sign, value = (MINUS, -value) if value < 0 else ("", value)
    if value < 60:
        most = 3 if value < 10 else 2
        if float(f"{float(value):.{most}f}") < 60:
            return f"{sign}{decimals(value, most)} s"
    if value < 3_600:
        tenths = int(value * 10 + Fraction(1, 2))
        minutes, rest = divmod(tenths, 600)
        if minutes < 60:
            return f"{sign}{minutes} min" + (f" {decimals(Fraction(rest, 10), 1)} s" if rest else "")
    whole = int(value + Fraction(1, 2))
    minutes, rest = divmod(whole, 60)
    hours, minutes = divmod(minutes, 60)
    if hours >= 72:
        days, hours = divmod(hours, 24)
        return f"{sign}{days} d {hours} h" + (f" {minutes:02d} min" if minutes else "")
    return f"{sign}{hours} h {minutes:02d} min" + (f" {rest:02d} s" if rest else "")


def count(number: int, thing: str) -> str:
    """`1 frame`, `1,200 frames`."""
    return f"{number:,} {thing}{'' if number == 1 else 's'}"


def gigabytes(size_bytes: float) -> str:
    """A size in decimal units, as cards are sold: `36 GB`, `240 MB`, `38 kB`."""
    if abs(size_bytes) < 1e6:
        return f"{decimals(size_bytes / 1e3, 0)} kB"
    if abs(size_bytes) < 1e9:
        return f"{decimals(size_bytes / 1e6, 0)} MB"
    return f"{decimals(size_bytes / 1e9, 1)} GB"


def in_stops(value: float, most: int = 1) -> str:
    """A number of stops: `1 stop`, `2.4 stops`."""
    number = decimals(value, most)
    return f"{number} stop{'' if number == '1' else 's'}"


def stops(value: float) -> str:
    """A difference in stops, signed: `+0.3`, `−2.4`."""
    rounded = round(value, 1)
    return f"{'+' if rounded > 0 else MINUS if rounded < 0 else ''}{abs(rounded):.1f}"
