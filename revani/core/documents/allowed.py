"""What a document's rules say in the words of the job, where a value breaks one of them."""

import re
from collections.abc import Callable, Mapping
from fractions import Fraction
from typing import Any

from revani.core.quantities.measures import ANGLE, DISTANCE, LENGTH, SPEED, TEMPERATURE, WEIGHT
from revani.core.quantities.units import decimals, duration, gigabytes, in_stops

# By the end of a field's name: how a bound of it is shown.
_SHOWN: dict[str, Callable[[float], str]] = {
    "_mm": lambda value: LENGTH.show(value),
    "_m": lambda value: DISTANCE.show(value),
    "_m_s": lambda value: SPEED.show(value),
    "_kg": lambda value: WEIGHT.show(value),
    "_c": lambda value: TEMPERATURE.show(value, 0),
    "_deg": lambda value: ANGLE.show(value),
    "_s": lambda value: duration(value) if value >= 0.001 else f"1/{round(1 / value):,} s" if value > 0 else "0 s",
    "_bytes": gigabytes,
    "bytes_per_frame": gigabytes,
    "_stops": lambda value: f"{in_stops(value, 2)}",
    "_wh": lambda value: f"{decimals(value, 2)} Wh",
    "_w": lambda value: f"{decimals(value, 2)} W",
    "_j": lambda value: f"{decimals(value, 2)} J",
    "_px": lambda value: f"{decimals(value, 1)} px",
    "_gb": lambda value: f"{decimals(value, 2)} GB",
    "_mb_s": lambda value: f"{decimals(value, 2)} MB/s",
    "_mbps": lambda value: f"{decimals(value, 2)} Mbit/s",
    "_k": lambda value: f"{decimals(value, 0)} K",
}
_PATTERNS = {
    r"^([01]\d|2[0-3]):[0-5]\d(:[0-5]\d)?$": "Type a clock time such as 19:50.",
    r"\S": "A name is needed.",
}


def allowed_of(error: Mapping[str, Any]) -> str:
    """One sentence that says what would be accepted; `error` is one of those that Pydantic lists."""
    kind, about = str(error["type"]), error.get("ctx") or {}
    if kind in _BOUNDS:
        word, name = _BOUNDS[kind]
        return f"{word} {_figure(error['loc'], about[name])}."
    if kind == "string_pattern_mismatch":
        return _PATTERNS.get(str(about.get("pattern")), "That cannot be read.")
    if kind == "literal_error":
        return f"One of: {str(about['expected']).replace(chr(39), '').replace(' or ', ', ')}."
    if kind in ("union_tag_invalid", "union_tag_not_found"):
        return f"One of: {str(about.get('expected_tags', '')).replace(chr(39), '')}." if about else _SAID["missing"]
    if kind in ("too_long", "too_short", "string_too_long", "string_too_short"):
        return _counted(kind, about)
    return _SAID.get(kind, str(error["msg"]).removeprefix("Value error, "))


_BOUNDS = {
    "greater_than": ("More than", "gt"), "greater_than_equal": ("At least", "ge"), "less_than": ("Less than", "lt"),
    "less_than_equal": ("At most", "le"), "multiple_of": ("A multiple of", "multiple_of"),
}  # fmt: skip
_NUMBER = "Type a number."
_WHOLE = "Type a whole number."
_SAID = {
    "missing": "This is needed.",
    "extra_forbidden": "There is no such field.",
    "float_parsing": _NUMBER, "float_type": _NUMBER, "finite_number": _NUMBER, "decimal_parsing": _NUMBER,
    "int_parsing": _WHOLE, "int_type": _WHOLE, "int_from_float": _WHOLE, "int_parsing_size": _WHOLE,
    "bool_parsing": "Yes or no.", "bool_type": "Yes or no.",
    "date_parsing": "Type a date such as 2026-11-24.", "date_type": "Type a date such as 2026-11-24.",
    "date_from_datetime_parsing": "Type a date such as 2026-11-24.",
    "date_from_datetime_inexact": "Type a date such as 2026-11-24.",
    "string_type": "Type a text.", "uuid_parsing": "An id is needed.", "uuid_type": "An id is needed.",
    "dict_type": "An object is needed.", "model_type": "An object is needed.",
    "model_attributes_type": "An object is needed.",
    "tuple_type": "A list is needed.", "list_type": "A list is needed.",
    "json_invalid": "A JSON document is needed.", "json_type": "A JSON document is needed.",
}  # fmt: skip


def _counted(kind: str, about: Mapping[str, Any]) -> str:
    if kind == "string_too_short":
        return "This must not be empty."
    if kind == "string_too_long":
        return f"At most {about['max_length']:,} characters."
    if kind == "too_short":
        return f"At least {about['min_length']:,} needed."
    return f"At most {about['max_length']:,} can be had."


def _figure(location: tuple[int | str, ...], bound: Any) -> str:
    """A bound in the unit of its field."""
    names = [part for part in location if isinstance(part, str) and not part.startswith(("function-", "lax-", "json-"))]
    name = names[-1] if names else ""
    ending = max((one for one in _SHOWN if name.endswith(one)), key=len, default=None)
    value = float(_number(bound))
    return _SHOWN[ending](value) if ending else decimals(value, 6)


def _number(bound: Any) -> Any:
    """A bound as a number; exact ones come as the text of a fraction."""
    if isinstance(bound, str) and bound.startswith("Fraction("):
        over, under = re.findall(r"-?\d+", bound)
        return Fraction(int(over), int(under))
    return bound
