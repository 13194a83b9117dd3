"""Where shots are taken."""

from collections.abc import Mapping
from typing import Annotated, ClassVar
from zoneinfo import available_timezones

from pydantic import AfterValidator, Field, field_validator

from revani.core.documents.base import Document, KindWords, Record
from revani.core.documents.moment import TimeOfDay
from revani.core.quantities.measures import Degrees, Distance, Magnitudes, Part, Speed, Temperature

# Gathering the names reads a whole folder tree, so it is done once.
_ZONES = frozenset(available_timezones())


def _known_zone(name: str) -> str:
    if name not in _ZONES:
        raise ValueError("An IANA time zone such as Europe/London is needed.")
    return name


class Window(Document):
    """The hours, on the place's clock, in which one may be there; it may cross midnight."""

    opens: TimeOfDay
    closes: TimeOfDay
    reason: str = Field("", max_length=200)


class HorizonPoint(Document):
    """The height of the skyline in one direction; between points it is a straight line."""

    azimuth_deg: Degrees = Field(title="Azimuth", ge=0, lt=360)
    altitude_deg: Degrees = Field(title="Height", ge=-5, le=80)


class WeatherHour(Document):
    """What is forecast, or was measured, at an instant; what is not known stays empty."""

    at_s: float = Field(ge=-2_300_000_000, le=2_600_000_000, description="Seconds since 1970, UTC.")
    temperature_c: Temperature | None = Field(None, ge=-60, le=60)
    humidity_percent: float | None = Field(None, gt=0, le=100)
    cloud: Part | None = Field(None, ge=0, le=1, description="Part of the sky.")
    wind_m_s: Speed | None = Field(None, ge=0, le=120)


class Place(Record):
    """Where a shot is taken."""

    said_of: ClassVar[KindWords] = KindWords(
        "Places", "Add a place", "Add the place where you film: its sky, clock and cold are computed from then on."
    )

    latitude_deg: Degrees = Field(title="Latitude", ge=-90, le=90, description="North positive.")
    longitude_deg: Degrees = Field(title="Longitude", ge=-180, le=180, description="East positive.")
    elevation_m: Distance = Field(0.0, title="Elevation", ge=-500, le=9_000)
    time_zone: Annotated[str, AfterValidator(_known_zone)] = Field(
        "UTC", title="Time zone", description="An IANA name such as Europe/London."
    )
    sky_brightness: Magnitudes = Field(
        21.0, title="Night sky", ge=14, le=22.5, description="At the zenith, mag/arcsec²; 21.7 is natural."
    )
    temperature_c: Temperature = Field(10.0, title="Coldest expected", ge=-60, le=60)
    horizon: tuple[HorizonPoint, ...] = Field(
        (), title="Raised horizon", max_length=72,
        description="Azimuth:height … such as 235:4 262:6. Straight from point to point; flat beyond the outermost "
        "ones, unless they go all round with no gap of 180° or more.",
    )  # fmt: skip
    window: Window | None = Field(None, title="Open hours", description="Such as 15:00-23:30 tide.")

    weather: tuple[WeatherHour, ...] = Field(
        (), max_length=240, description="By the hour, in order of time; it replaces the usual values where it is known."
    )

    @field_validator("weather")
    @classmethod
    def _in_order(cls, hours: tuple[WeatherHour, ...]) -> tuple[WeatherHour, ...]:
        instants = [one.at_s for one in hours]
        if instants != sorted(set(instants)):
            raise ValueError("Each hour once, in order of time.")
        return hours

    def in_short(self, words: Mapping[str, str]) -> str:
        """Where it is, its clock and its cold."""
        where = f"{self.latitude_deg:.3f}° {self.longitude_deg:.3f}°"
        return f"{where} · {self.time_zone} · down to {words['temperature_c']}"
