"""Stars: how long they stay points, and how long they draw."""

from typing import Annotated

from pydantic import Field

from revani.core.calculators.registry import Answer, Ask, Declination, FNumber, FocalLength, Micrometres, calculator
from revani.core.rehearsal import night


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
        rule_500_s=night.rule_500_s(ask.focal_length_mm, ask.crop_factor),
        npf_s=night.npf_s(ask.focal_length_mm, ask.aperture, ask.pixel_pitch_um, ask.declination_deg),
        drift_px_per_s=night.drift_px_per_s(ask.focal_length_mm, ask.pixel_pitch_um, ask.declination_deg),
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
    return DurationAnswer(duration_s=night.trail_duration_s(ask.arc_deg))
