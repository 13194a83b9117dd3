"""Stars: how long they stay points, and how long they draw."""

from fractions import Fraction
from math import log2
from typing import Annotated

from pydantic import Field

from revani.core.calculators.registry import Answer, Ask, Declination, FNumber, FocalLength, Micrometres, calculator
from revani.core.light import gathered, moonlit
from revani.core.optics import star_limits
from revani.core.quantities.refusal import Refusal
from revani.core.quantities.units import Exact


class StarAsk(Ask):
    """A lens on the stars."""

    focal_length_mm: FocalLength
    aperture: FNumber
    pixel_pitch_um: Micrometres
    declination_deg: Declination
    crop_factor: Annotated[float, Field(gt=0, le=100)]


class StarAnswer(Answer):
    """How long stars stay points, by both rules, and their drift."""

    rule_500_s: float
    npf_s: float
    drift_px_per_s: float


@calculator
def star_limit(ask: StarAsk) -> StarAnswer:
    """The longest shutter that keeps stars points, by both rules, and how fast they drift."""
    return StarAnswer(
        rule_500_s=star_limits.rule_500_s(ask.focal_length_mm, ask.crop_factor),
        npf_s=star_limits.npf_s(ask.focal_length_mm, ask.aperture, ask.pixel_pitch_um, ask.declination_deg),
        drift_px_per_s=star_limits.drift_px_per_s(ask.focal_length_mm, ask.pixel_pitch_um, ask.declination_deg),
    )


class TrailAsk(Ask):
    """An arc that trails shall cover."""

    arc_deg: Annotated[float, Field(gt=0, le=3_600)]


class DurationAnswer(Answer):
    """How long it takes."""

    duration_s: float


@calculator
def star_trail(ask: TrailAsk) -> DurationAnswer:
    """How long stars take to draw an arc."""
    return DurationAnswer(duration_s=star_limits.trail_duration_s(ask.arc_deg))


class GatheredAsk(Ask):
    """A frame of the night."""

    shutter_s: Annotated[Exact, Field(ge=Fraction(1, 10**9), le=10**7)]
    aperture: FNumber
    focal_length_mm: FocalLength


class GatheredAnswer(Answer):
    """Light gathered, in stops: of the sky over 1 s at f/1, of a star that stays a point over 1 s through 1 mm."""

    sky_stops: float
    star_stops: float


@calculator
def light_gathered(ask: GatheredAsk) -> GatheredAnswer:
    """How much light a frame gathers, of the sky and of stars, whatever its ISO."""
    shutter_s = float(ask.shutter_s)
    return GatheredAnswer(
        sky_stops=float(gathered.sky_stops(shutter_s, ask.aperture)),
        star_stops=float(gathered.star_stops(shutter_s, ask.aperture, ask.focal_length_mm)),
    )


class MoonlitAsk(Ask):
    """A direction of the sky, and the moon."""

    dark_sky_mag: Annotated[float, Field(ge=10, le=25)]
    phase_angle_deg: Annotated[float, Field(ge=-180, le=180)]
    separation_deg: Annotated[float, Field(ge=0, le=180)]
    moon_altitude_deg: Annotated[float, Field(ge=-90, le=90)]
    altitude_deg: Annotated[float, Field(ge=0, le=90)]


class MoonlitAnswer(Answer):
    """How bright the sky is there, and by how much that is over the dark one."""

    sky_mag: float
    brighter_stops: float


@calculator
def moonlit_sky(ask: MoonlitAsk) -> MoonlitAnswer:
    """How bright the moon makes the sky in a direction."""
    least = abs(ask.moon_altitude_deg - ask.altitude_deg)
    most = 180 - abs(ask.moon_altitude_deg + ask.altitude_deg)
    if not least - 1e-6 <= ask.separation_deg <= most + 1e-6:
        told = f"Of these altitudes it lies between {least:g}° and {most:g}°."
        raise Refusal("separation_deg", told, ask.separation_deg)
    added = moonlit.moonlit_nl(ask.phase_angle_deg, ask.separation_deg, ask.moon_altitude_deg, ask.altitude_deg)
    own = float(moonlit.nanolamberts(ask.dark_sky_mag))
    return MoonlitAnswer(
        sky_mag=float(moonlit.moonlit_mag(ask.dark_sky_mag, added)), brighter_stops=log2(1 + float(added) / own)
    )
