"""Where shots are taken."""

from typing import Annotated
from uuid import UUID, uuid4
from zoneinfo import available_timezones

from pydantic import AfterValidator, Field

from revani.core.documents.base import Document, Name
from revani.core.documents.moment import TimeOfDay
from revani.core.quantities.measures import Distance, Temperature

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

    azimuth_deg: float = Field(ge=0, lt=360)
    altitude_deg: float = Field(ge=-5, le=80)


class Place(Document):
    """Where a shot is taken."""

    id: UUID = Field(default_factory=uuid4)
    name: Name
    latitude_deg: float = Field(ge=-90, le=90, description="North positive.")
    longitude_deg: float = Field(ge=-180, le=180, description="East positive.")
    elevation_m: Distance = Field(0.0, ge=-500, le=9_000)
    time_zone: Annotated[str, AfterValidator(_known_zone)] = "UTC"
    horizon: tuple[HorizonPoint, ...] = Field((), max_length=72)
    sky_brightness: float = Field(
        21.0, ge=14, le=22.5, description="Night sky at the zenith, mag/arcsec²; 21.7 is natural."
    )
    temperature_c: Temperature = Field(10.0, ge=-60, le=60, description="Coldest that is expected.")
    window: Window | None = None
    note: str = Field("", max_length=2_000)
