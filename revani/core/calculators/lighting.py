"""Exposure, filters and the light of the sky."""

from datetime import UTC, date, datetime
from fractions import Fraction
from math import log2, log10
from typing import Annotated

from pydantic import AwareDatetime, Field

from revani.core.calculators.registry import Answer, Ask, FNumber, Latitude, Longitude, calculator
from revani.core.documents import FIRST_YEAR, LAST_YEAR, Place
from revani.core.light import dials as exposures
from revani.core.light.scene import ev100_of_illuminance, illuminance_lx, scene_ev100, sun_illuminance_lx
from revani.core.quantities.refusal import Refusal
from revani.core.quantities.units import Exact
from revani.core.sky.sun_and_moon import sky_over, sun_events_of


class ExposureAsk(Ask):
    """Camera settings, taken at their face."""

    aperture: FNumber
    shutter_s: Annotated[Exact, Field(ge=Fraction(1, 10**9), le=10**7)]
    iso: Annotated[float, Field(ge=0.01, le=1e9)]


class EvAnswer(Answer):
    """An exposure value at ISO 100."""

    ev100: float


@calculator
def exposure(ask: ExposureAsk) -> EvAnswer:
    """The exposure value, at ISO 100, of camera settings."""
    return EvAnswer(ev100=float(exposures.ev100(ask.aperture, float(ask.shutter_s), ask.iso)))


class NdAsk(Ask):
    """Neutral-density filters, stacked, by their factors."""

    factors: list[Annotated[float, Field(ge=1, le=1e9)]] = Field(min_length=1, max_length=10)


class NdAnswer(Answer):
    """What the stack takes away."""

    stops: float
    density: float
    combined_factor: float


@calculator
def nd(ask: NdAsk) -> NdAnswer:
    """Stops, density and factor of stacked neutral-density filters."""
    factor = 1.0
    for one in ask.factors:
        factor *= one
    return NdAnswer(stops=log2(factor), density=log10(factor), combined_factor=factor)


class LuxAsk(Ask):
    """Light on a surface."""

    illuminance_lx: Annotated[float, Field(ge=1e-9, le=1e9)]


@calculator
def illuminance_to_ev(ask: LuxAsk) -> EvAnswer:
    """The exposure value of an incident illuminance."""
    return EvAnswer(ev100=float(ev100_of_illuminance(ask.illuminance_lx)))


class AltitudeAsk(Ask):
    """How high the sun stands."""

    sun_altitude_deg: Annotated[float, Field(ge=-90, le=90)]


class LuxAnswer(Answer):
    """Light on level ground."""

    illuminance_lx: float


@calculator
def illuminance(ask: AltitudeAsk) -> LuxAnswer:
    """The sun's light on level ground at an altitude."""
    return LuxAnswer(illuminance_lx=float(sun_illuminance_lx(ask.sun_altitude_deg)))


class SkyAsk(Ask):
    """A place, east positive, and an instant with its offset."""

    latitude_deg: Latitude
    longitude_deg: Longitude
    elevation_m: Annotated[float, Field(ge=-500, le=9_000)]
    at: AwareDatetime


class SkyAnswer(Answer):
    """Sun and moon, airless and topocentric, and the light of both and the night."""

    sun_altitude_deg: float
    sun_azimuth_deg: float
    moon_altitude_deg: float
    moon_azimuth_deg: float
    moon_illuminated_fraction: float
    illuminance_lx: float
    ev100: float


def _in_range(path: str, year: int) -> None:
    if not FIRST_YEAR <= year <= LAST_YEAR:
        raise Refusal(path, f"A date from {FIRST_YEAR} to {LAST_YEAR}, the years of the ephemeris.", year)


@calculator
def sky(ask: SkyAsk) -> SkyAnswer:
    """Where sun and moon stand, and how much light there is under a clear natural sky."""
    _in_range("at", ask.at.year)
    place = Place(
        name="here", latitude_deg=ask.latitude_deg, longitude_deg=ask.longitude_deg, elevation_m=ask.elevation_m,
        sky_brightness=21.7,
    )  # fmt: skip
    at = ask.at.timestamp()
    over = sky_over(place, at, at + 60)
    sun, moon = over.sun(at), over.moon(at)
    return SkyAnswer(
        sun_altitude_deg=float(sun.altitude_deg), sun_azimuth_deg=float(sun.azimuth_deg),
        moon_altitude_deg=float(moon.altitude_deg), moon_azimuth_deg=float(moon.azimuth_deg),
        moon_illuminated_fraction=float(over.moon_illuminated_fraction(at)),
        illuminance_lx=float(illuminance_lx(over, at, place.sky_brightness)),
        ev100=float(scene_ev100(over, at, place.sky_brightness, 0.0, 0.0)),
    )  # fmt: skip


class TwilightAsk(Ask):
    """A place and a civil date on its clock."""

    latitude_deg: Latitude
    longitude_deg: Longitude
    date: date
    time_zone: str


class TwilightAnswer(Answer):
    """UTC instants on that civil date, or null where there is none."""

    sunrise: datetime | None
    sunset: datetime | None
    civil_dawn: datetime | None
    civil_dusk: datetime | None
    nautical_dawn: datetime | None
    nautical_dusk: datetime | None
    astronomical_dawn: datetime | None
    astronomical_dusk: datetime | None


@calculator
def twilight(ask: TwilightAsk) -> TwilightAnswer:
    """Rise, set and twilights of a civil date."""
    _in_range("date", ask.date.year)
    place = Place.model_validate(
        {"name": "here"} | {name: getattr(ask, name) for name in ("latitude_deg", "longitude_deg", "time_zone")}
    )
    events = sun_events_of(place, ask.date)
    return TwilightAnswer.model_validate(
        {name.replace(" ", "_"): at and datetime.fromtimestamp(at, UTC) for name, at in events.items()}
    )
