"""Weather by the hour as it is typed, pasted or read from CSV."""

import csv
import io
import re
from datetime import date, datetime, timedelta
from itertools import pairwise
from zoneinfo import ZoneInfo

from pydantic import ValidationError

from revani.core.documents import Place, WeatherHour
from revani.core.documents.allowed import allowed_of
from revani.core.quantities.measures import SPEED, TEMPERATURE, System
from revani.core.quantities.refusal import Refusal
from revani.core.quantities.units import count
from revani.core.timing.start import parse_clock

_USUAL = ("hour", "temperature", "humidity", "cloud", "wind")
_MOST_LINES, _MOST_KEPT = 200, 240
_HOUR_S = 3_600.0


def with_weather(place: Place, day: date, text: str, system: System) -> tuple[Place, str]:
    """The place with the weather of a text, beginning on a date, and what was read and is missing, in words.

    A line an hour: hour, temperature, humidity, cloud, wind, or as a heading names them; an hour that is earlier than
    the one before is of the next day. What was noted of those hours before goes. Raises Refusal("line n").
    """
    rows = _rows(text)
    hours: dict[float, WeatherHour] = {}
    before: datetime | None = None
    for line, cells in rows:
        at = _instant(line, cells.pop("hour", ""), place, day, before)
        before = at
        hours[at.timestamp()] = _hour(line, at.timestamp(), cells, system)
    if not hours:
        raise Refusal("line 1", "An hour a line is needed, such as 21:00, 4, 88 %, 40 %, 3 m/s.")
    first, last = min(hours), max(hours)
    kept = [one for one in place.weather if not first <= one.at_s <= last]
    weather = sorted([*kept, *hours.values()], key=lambda one: one.at_s)[-_MOST_KEPT:]
    return place.model_copy(update={"weather": tuple(weather)}), _told(sorted(hours), place)


def _rows(text: str) -> list[tuple[int, dict[str, str]]]:
    """The cells of each line by their names, with the line's number."""
    if len(text.splitlines()) > _MOST_LINES:
        raise Refusal(f"line {_MOST_LINES + 1}", f"At most {_MOST_LINES} lines can be read.")
    names: tuple[str, ...] = _USUAL
    rows: list[tuple[int, dict[str, str]]] = []
    for line, content in enumerate(text.splitlines(), 1):
        if not content.strip():
            continue
        mark = next((one for one in (";", "\t") if one in content), ",")
        cells = [cell.strip() for cell in next(csv.reader(io.StringIO(content), delimiter=mark))]
        if not rows and not re.match(r"\d", cells[0]):
            names = tuple(cell.lower().split(" ")[0] for cell in cells)
            unknown = [name for name in names if name not in _USUAL]
            if unknown or "hour" not in names:
                raise Refusal(f"line {line}", f"The heading may name {', '.join(_USUAL)}; hour must be there.", content)
            continue
        if len(cells) > len(names):
            raise Refusal(f"line {line}", f"At most {len(names)} values: {', '.join(names)}.", content)
        rows.append((line, dict(zip(names, cells, strict=False))))
    return rows


def _instant(line: int, text: str, place: Place, day: date, before: datetime | None) -> datetime:
    zone = ZoneInfo(place.time_zone)
    try:
        if "T" in text or "-" in text:
            at = datetime.fromisoformat(text)
            return at if at.tzinfo else at.replace(tzinfo=zone)
        clock = parse_clock(text if ":" in text or text.lower().endswith("m") else f"{int(text)}:00")
    except (ValueError, Refusal):
        raise Refusal(f"line {line}", "An hour such as 21, 21:00, 9 pm or 2026-11-29T21:00.", text) from None
    at = datetime.combine(day if before is None else before.date(), clock, zone)
    if before is not None and at.timestamp() <= before.timestamp():
        at += timedelta(days=1)
    return at


def _hour(line: int, at_s: float, cells: dict[str, str], system: System) -> WeatherHour:
    values: dict[str, float] = {}
    try:
        if cells.get("temperature"):
            values["temperature_c"] = TEMPERATURE.read(cells["temperature"], system)
        if cells.get("wind"):
            values["wind_m_s"] = SPEED.read(cells["wind"], system)
        if cells.get("humidity"):
            values["humidity_percent"] = _percent(cells["humidity"])
        if cells.get("cloud"):
            values["cloud"] = _percent(cells["cloud"]) / 100
        return WeatherHour.model_validate({"at_s": at_s, **values})
    except Refusal as refusal:
        raise Refusal(f"line {line}", refusal.allowed, ", ".join(cells.values())) from None
    except ValidationError as error:
        first = error.errors()[0]
        name = str(first["loc"][-1]).split("_")[0] if first["loc"] else ""
        raise Refusal(f"line {line}", f"{name}: {allowed_of(first)}", ", ".join(cells.values())) from None


def _percent(text: str) -> float:
    """Percent, with the sign or without."""
    try:
        return float(text.removesuffix("%").strip().replace(",", "."))
    except ValueError:
        raise Refusal("", "Type percent such as 88 %.", text) from None


def _told(instants: list[float], place: Place) -> str:
    zone = ZoneInfo(place.time_zone)
    first, last = (f"{datetime.fromtimestamp(at, zone):%a %H:%M}" for at in (instants[0], instants[-1]))
    told = f"{count(len(instants), 'hour')} read, {first} to {last}."
    holes = [a for a, b in pairwise(instants) if b - a > _HOUR_S * 1.01]
    if holes:
        after = ", ".join(f"{datetime.fromtimestamp(at, zone):%H:%M}" for at in holes[:6])
        told += f" Hours are missing after {after}: straight between their neighbours, as far as six hours."
    return told
