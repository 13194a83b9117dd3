"""The quantities that documents are declared in: how each is shown, and read as it is typed.

Documents hold one unit of each kind, whatever is chosen: a number is in that unit, a text says its own
(`3 ft 6 in`, `12"`, `41 °F`), and one that says none is in the document's. Metric or imperial changes what is
shown, which is the choice of the request that is being answered, and what a person's typing means, which
`read` is told.
Source of the factors: the international yard and pound of 1959 (1 in = 25.4 mm, 1 lb = 0.45359237 kg).
"""

import re
from collections.abc import Iterator, Mapping
from contextlib import contextmanager
from contextvars import ContextVar
from dataclasses import dataclass, replace
from fractions import Fraction
from math import floor, log10
from typing import Annotated, Any, Literal, get_args

from pydantic import BeforeValidator, WithJsonSchema
from pydantic.fields import FieldInfo

from revani.core.quantities.refusal import Refusal
from revani.core.quantities.units import MINUS, Exact, decimals, exact, parse_duration

System = Literal["metric", "imperial"]
SYSTEMS: tuple[System, ...] = get_args(System)

_chosen: ContextVar[System] = ContextVar("measures", default="metric")


@contextmanager
def measured_in(system: System) -> Iterator[None]:
    """Show and read in these measures inside the `with`."""
    before = _chosen.set(system)
    try:
        yield
    finally:
        _chosen.reset(before)


def chosen() -> System:
    """The measures that are shown now."""
    return _chosen.get()


@dataclass(frozen=True, eq=False)
class Measure:
    """One kind of quantity. `unit` is that of the documents, `imperial` the other one that is shown.

    `units` are all that may be typed, each with its size in documents' units; `zero` is where the
    zero of a unit lies in them, for temperatures. `finer` is how many decimals more the imperial
    unit is shown with, `step` and `imperial_step` one nudge of a key, each in its own unit. `one` is the name of
    the unit where there is one of it.
    """

    kind: str
    unit: str
    imperial: str
    units: Mapping[str, Fraction]
    zero: Mapping[str, Fraction]
    finer: int
    step: float
    imperial_step: float
    such_as: str
    one: str = ""

    @property
    def shown_unit(self) -> str:
        """The unit that is shown now; a typed number without one is in it."""
        return self.imperial if chosen() == "imperial" else self.unit

    @property
    def settled(self) -> bool:
        """Whether its unit is the same in either world, so that it need not stand beside every number."""
        return self.unit == self.imperial

    @property
    def nudge(self) -> float:
        """One step of an arrow key, in documents' units."""
        return self.imperial_step * self._size if chosen() == "imperial" else self.step

    @property
    def _size(self) -> float:
        return float(self.units[self.shown_unit.lower()])

    def show(self, value: float, digits: int = 2, per: str = "") -> str:
        """A value for reading, to `digits` decimals of the documents' unit or about as fine: `212.4 mm`."""
        return self._worded(decimals(self._shown(value), digits + self.finer * (chosen() == "imperial")), per)

    def between(self, low: float, high: float, digits: int = 2) -> str:
        """Two values with one unit: `20 – 1,180 mm`."""
        number = self.show(low, digits).removesuffix(self.shown_unit).rstrip()
        return f"{number} – {self.show(high, digits)}"

    def show_fine(self, value: float, per: str = "") -> str:
        """The same to one decimal from 1 on, to three below that, and to two figures where it is tiny."""
        shown = self._shown(value)
        tiny = 0 < abs(shown) < 0.01
        return self._worded(f"{shown:.2g}" if tiny else decimals(shown, 1 if abs(shown) >= 1 else 3), per)

    def show_whole(self, value: float, per: str = "") -> str:
        """The same to a thousandth of the documents' unit, finer where it is tiny, and to four figures in the other."""
        shown = self._shown(value)
        if chosen() == "metric" or not shown:
            return self._worded(decimals(shown, 3 if abs(shown) >= 0.1 else 6), per)
        return self._worded(decimals(shown, max(0, 3 - floor(log10(abs(shown))))), per)

    def _shown(self, value: float) -> float:
        return (value - float(self.zero.get(self.shown_unit.lower(), 0))) / self._size

    def _worded(self, number: str, per: str) -> str:
        unit = self.one if self.one and number == "1" else self.shown_unit
        return f"{number}{'' if unit in ('', '°') else ' '}{unit}{per}"

    def read(self, text: str, system: System = "metric") -> float:
        """A value as it is typed: `1.2 m`, `3 ft 6 in`, `5' 10"`, `7 1/2 in`, `−3`. Raises Refusal("").

        A number without a unit is in that of `system`.
        """
        clean = text.strip().replace(MINUS, "-").replace("′", "'").replace("″", '"')
        sign = -1 if clean.startswith("-") else 1
        clean = _THOUSANDS.sub("", clean).removeprefix("-").removeprefix("+")
        pieces = _PIECE.findall(clean)
        if not 1 <= len(pieces) <= 2 or _PIECE.sub("", clean).strip():
            raise self._refusal(text)
        # Two pieces are feet and inches, where the inches need not be named.
        if len(pieces) == 2 and not (pieces[0][1].lower() in _FEET and pieces[1][1].lower() in ("", *_INCHES)):
            raise self._refusal(text)
        # Exact, so that 48 in are 1219.2 mm and not a hair less.
        total = zero = Fraction(0)
        bare = (self.imperial if system == "imperial" else self.unit).lower()
        for number, named in pieces:
            unit = named.lower() or (_INCHES[0] if total else bare)
            if unit not in self.units:
                raise self._refusal(text)
            total += self._number(number, text) * self.units[unit]
            zero = self.zero.get(unit, Fraction(0))
        return float(zero + sign * total)

    def _number(self, number: str, text: str) -> Fraction:
        try:
            return sum((exact(part.replace(",", ".")) for part in number.split()), Fraction(0))
        except ValueError:
            raise self._refusal(text) from None

    def _refusal(self, text: str) -> Refusal:
        return Refusal("", f"Type a {self.kind} such as {self.such_as}.", text)


_FEET, _INCHES = ("ft", "'"), ("in", '"')
_THOUSANDS = re.compile(r"(?<=\d),(?=\d{3}(?!\d))")
_NUMBER = r"\d+\s+\d+/\d+|\d+/\d+|\d*[.,]?\d+|\d+[.,]"
_PIECE = re.compile(rf"\s*({_NUMBER})\s*(°?[a-zA-Z]+(?:/[a-z]+)?|['\"°%×])?\s*")


def _sizes(**units: str) -> dict[str, Fraction]:
    return {name: Fraction(size) for name, size in units.items()}


def _inches(inch: str) -> dict[str, Fraction]:
    size = Fraction(inch)
    return {"in": size, '"': size, "ft": 12 * size, "'": 12 * size}


_POUND = Fraction("0.45359237")
_FAHRENHEIT, _FREEZING = Fraction(5, 9), Fraction(-160, 9)

LENGTH = Measure(
    "length", "mm", "in", _sizes(mm="1", cm="10", m="1000") | _inches("25.4"), {}, 1, 10.0, 0.5,
    "1200 mm, 1.2 m, 3 ft 6 in or 12\"",
)  # fmt: skip
# What stands about a rig: as lengths are, but in feet where those are shown.
ROOM = Measure(
    "length", "mm", "ft", LENGTH.units, {}, 2, 100.0, 0.5, "1800 mm, 1.8 m or 5 ft 10 in",
)  # fmt: skip
DISTANCE = Measure(
    "distance", "m", "ft", _sizes(m="1", mm="0.001", cm="0.01", km="1000") | _inches("0.0254"), {}, 0, 0.1, 0.5,
    "2.5 m, 8 ft or 5 ft 10 in",
)  # fmt: skip
WEIGHT = Measure(
    "weight", "kg", "lb", _sizes(kg="1", g="0.001") | {"lb": _POUND, "oz": _POUND / 16}, {}, 0, 0.1, 0.25,
    "1.4 kg, 900 g or 3 lb",
)  # fmt: skip
SPEED = Measure(
    "speed", "m/s", "mph",
    _sizes(mph="0.44704") | {"m/s": Fraction(1), "km/h": Fraction(10, 36), "ft/s": Fraction("0.3048")}, {}, 0, 0.5, 1.0,
    "1.5 m/s, 5 km/h or 3 mph",
)  # fmt: skip
TEMPERATURE = Measure(
    "temperature", "°C", "°F", _sizes(c="1") | {"°c": Fraction(1), "°f": _FAHRENHEIT, "f": _FAHRENHEIT},
    {"°f": _FREEZING, "f": _FREEZING}, 0, 1.0, 1.0, "−3 °C or 26 °F",
)  # fmt: skip
ANGLE = Measure("angle", "°", "°", {"°": Fraction(1), "deg": Fraction(1)}, {}, 0, 1.0, 1.0, "12.5°")
# Focal lengths are in millimetres in either world; a lens's own scale has no unit.
FOCAL_LENGTH = Measure("focal length", "mm", "mm", _sizes(mm="1"), {}, 0, 1.0, 1.0, "35 mm")
SCALE = Measure("place on the scale", "", "", {"": Fraction(1)}, {}, 0, 1.0, 1.0, "120")


def _one(kind: str, unit: str, such_as: str, **others: str) -> Measure:
    """A quantity whose unit is the same in either world."""
    return Measure(kind, unit, unit, {unit.lower(): Fraction(1)} | _sizes(**others), {}, 0, 1.0, 1.0, such_as)


MILLIMETRES = _one("length", "mm", "36 mm", cm="10")
PIXELS = _one("number of pixels", "px", "6")
STOPS = replace(_one("number of stops", "stops", "0.3 or −1", stop="1"), one="stop", step=0.05)
THIRDS = replace(STOPS, step=1 / 3)
STOPS_A_MINUTE = replace(
    _one("change", "stops", "2 stops", stop="1"), one="stop", step=0.1, such_as="2 stops, in a minute"
)
FRAMES = replace(_one("number of frames", "frames", "4", frame="1"), one="frame")
KELVINS = replace(_one("temperature", "K", "4800 K"), step=100.0)
WATT_HOURS = _one("capacity", "Wh", "16 Wh", kwh="1000")
WATTS = _one("power", "W", "1.5 W", mw="0.001")
JOULES = _one("energy", "J", "6 J", kj="1000")
BYTES = _one("size", "bytes", "25 MB or 25,000,000", byte="1", kb="1e3", mb="1e6", gb="1e9")
GIGABYTES = _one("size", "GB", "128 GB", tb="1000", mb="0.001")
MEGABYTES_A_SECOND = _one("speed", "MB/s", "90 MB/s")
MEGABITS_A_SECOND = _one("bit rate", "Mbit/s", "100 Mbit/s", mbps="1")
F_NUMBER = _one("f-number", "", "2.8")
ISO = _one("speed", "", "800")
NUMBER = _one("number", "", "20")
PART = replace(_one("part", "", "0.9 or 90 %"), units={"": Fraction(1), "%": Fraction(1, 100)}, step=0.01)
TIMES = replace(_one("number of times", "×", "1.4", x="1"), step=0.05)
HERTZ = _one("rate", "Hz", "2 Hz")
PLAIN_SECONDS = _one("number of seconds", "s", "2.5")
MAGNITUDES = _one("brightness", "", "21.7")
DECIBELS = _one("level", "dBFS", "−9 dBFS", db="1")


@dataclass(frozen=True, eq=False)
class Span:
    """A length of time, exact: a shutter, an interval."""

    kind: str
    such_as: str
    parts: bool = True
    unit: str = "s"
    settled: bool = True

    def show_whole(self, value: Fraction | float, per: str = "") -> str:
        """In seconds: `2.5`; where it is one that is told in parts of a second, as on a dial: `1/4000`."""
        exactly = exact(value)
        if not self.parts and exactly * 1000 == int(exactly * 1000):
            return f"{decimals(value, 3)}{per}"
        return f"{exactly if exactly < 1 and exactly.numerator == 1 else decimals(value, 6)}{per}"

    def read(self, text: str, system: System = "metric") -> Fraction:
        """A length of time as it is typed. Raises Refusal("")."""
        del system
        return parse_duration(text)


SECONDS = Span("length of time", "0.5 s", parts=False)
SHUTTER = Span("shutter", "1/4000")

Quantity = Measure | Span


def _typed(quantity: Quantity) -> BeforeValidator:
    def read(value: Any) -> Any:
        if not isinstance(value, str):
            return value
        try:
            return quantity.read(value)
        except Refusal as refusal:
            raise ValueError(refusal.allowed) from None

    return BeforeValidator(read)


_NUMBER_OR_TEXT = WithJsonSchema({"anyOf": [{"type": "number"}, {"type": "string"}]})

# What documents are declared with. A number in the document's unit, or a text that says its own:
Room = Annotated[float, ROOM, _typed(ROOM), _NUMBER_OR_TEXT]
Distance = Annotated[float, DISTANCE, _typed(DISTANCE), _NUMBER_OR_TEXT]
Weight = Annotated[float, WEIGHT, _typed(WEIGHT), _NUMBER_OR_TEXT]
Temperature = Annotated[float, TEMPERATURE, _typed(TEMPERATURE), _NUMBER_OR_TEXT]
Angle = Annotated[float, ANGLE, _typed(ANGLE), _NUMBER_OR_TEXT]
Speed = Annotated[float, SPEED, _typed(SPEED), _NUMBER_OR_TEXT]
# A number:
Millimetres = Annotated[float, MILLIMETRES]
Pixels = Annotated[int, PIXELS]
PartPixels = Annotated[float, PIXELS]
Stops = Annotated[float, STOPS]
Thirds = Annotated[float, THIRDS]
StopsAMinute = Annotated[float, STOPS_A_MINUTE]
Frames = Annotated[int, FRAMES]
Kelvins = Annotated[int, KELVINS]
WattHours = Annotated[float, WATT_HOURS]
Watts = Annotated[float, WATTS]
Joules = Annotated[float, JOULES]
Bytes = Annotated[int, BYTES]
Gigabytes = Annotated[float, GIGABYTES]
MegabytesASecond = Annotated[float, MEGABYTES_A_SECOND]
MegabitsASecond = Annotated[float, MEGABITS_A_SECOND]
FNumber = Annotated[float, F_NUMBER]
Iso = Annotated[int, ISO]
Number = Annotated[int, NUMBER]
Part = Annotated[float, PART]
Degrees = Annotated[float, ANGLE]
Times = Annotated[float, TIMES]
Hertz = Annotated[float, HERTZ]
OnScale = Annotated[float, SCALE]
Magnitudes = Annotated[float, MAGNITUDES]
PlainSeconds = Annotated[float, PLAIN_SECONDS]
PlainNumber = Annotated[float, NUMBER]
Decibels = Annotated[float, DECIBELS]
# Exact:
Seconds = Annotated[Exact, SECONDS]
Shutter = Annotated[Exact, SHUTTER]


def quantity_of(field: FieldInfo) -> Quantity | None:
    """What a value of a document is counted in; None where it is no quantity."""
    # Of `Watts | None` the quantity stands within.
    parts = get_args(field.annotation)
    within = [one for part in parts if ... not in parts for one in getattr(part, "__metadata__", ())]
    return next((one for one in (*field.metadata, *within) if isinstance(one, Measure | Span)), None)
