"""Which night, and when something stands behind something."""

from datetime import UTC, date, datetime, time, timedelta
from typing import Annotated, Literal
from zoneinfo import ZoneInfo

from pydantic import Field

from revani.core.calculators.registry import Answer, Ask, Latitude, Longitude, calculator
from revani.core.documents import FIRST_YEAR, LAST_YEAR, Place
from revani.core.quantities.refusal import Refusal
from revani.core.sky import alignment as alignments
from revani.core.sky import nights as evenings


class PlaceAsk(Ask):
    """A place, east positive, with its clock."""

    latitude_deg: Latitude
    longitude_deg: Longitude
    elevation_m: Annotated[float, Field(ge=-500, le=9_000)]
    time_zone: str
    from_date: date


def _place(ask: PlaceAsk, days: int) -> Place:
    last = ask.from_date + timedelta(days=days)
    if ask.from_date.year < FIRST_YEAR or last.year > LAST_YEAR:
        allowed = f"Dates from {FIRST_YEAR} to {LAST_YEAR}, the years of the ephemeris."
        raise Refusal("from_date", allowed, ask.from_date.isoformat())
    values = {name: getattr(ask, name) for name in ("latitude_deg", "longitude_deg", "elevation_m", "time_zone")}
    return Place.model_validate({"name": "here"} | values)


def _utc(at_s: float | None) -> datetime | None:
    return None if at_s is None else datetime.fromtimestamp(at_s, UTC)


class NightsAsk(PlaceAsk):
    """So many evenings, and what counts as dark."""

    count: Annotated[int, Field(ge=1, le=400)]
    sun_below_deg: Annotated[float, Field(ge=-90, le=90)] = -18.0
    moonlight_up_to: Annotated[float, Field(ge=0, le=1)] = 0.0


class NightRow(Answer):
    """The longest dark of an evening's night: UTC instants, or null where it is never dark."""

    date: date
    dark_s: float
    from_: datetime | None = Field(serialization_alias="from")
    to: datetime | None
    moon_illuminated_fraction: float


class NightsAnswer(Answer):
    """A row an evening."""

    nights: list[NightRow]


@calculator
def nights(ask: NightsAsk) -> NightsAnswer:
    """How long each night is dark, and without how much of a moon."""
    found = evenings.nights(
        _place(ask, ask.count - 1), ask.from_date, ask.count, ask.sun_below_deg, ask.moonlight_up_to
    )
    rows = [
        NightRow(
            date=one.date, dark_s=one.dark_s, from_=_utc(one.from_s), to=_utc(one.to_s),
            moon_illuminated_fraction=one.moon_fraction,
        )
        for one in found
    ]  # fmt: skip
    return NightsAnswer(nights=rows)


class AlignmentAsk(PlaceAsk):
    """A point of the sky, and sun or moon."""

    body: Literal["sun", "moon"]
    azimuth_deg: Annotated[float, Field(ge=0, lt=360)]
    altitude_deg: Annotated[float, Field(ge=-5, le=90)]
    within_deg: Annotated[float, Field(gt=0, le=180)]
    days: Annotated[int, Field(ge=1, le=400)]


class PassRow(Answer):
    """The nearest instant of a pass, UTC, and how near its centre comes."""

    at: datetime
    separation_deg: float


class AlignmentAnswer(Answer):
    """A row a pass, in order of time."""

    passes: list[PassRow]


@calculator
def alignment(ask: AlignmentAsk) -> AlignmentAnswer:
    """When sun or moon stand within a distance of a point."""
    place, zone = _place(ask, ask.days - 1), ZoneInfo(ask.time_zone)
    from_s, to_s = (
        datetime.combine(ask.from_date + timedelta(days=days), time.min, zone).timestamp() for days in (0, ask.days)
    )
    found = alignments.passes(place, ask.body, ask.azimuth_deg, ask.altitude_deg, ask.within_deg, from_s, to_s)
    rows = [PassRow(at=datetime.fromtimestamp(one.at_s, UTC), separation_deg=one.separation_deg) for one in found]
    return AlignmentAnswer(passes=rows)
