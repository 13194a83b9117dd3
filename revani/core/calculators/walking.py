"""The walk: its film, its stations, and what an unsteady hand costs."""

from fractions import Fraction
from math import radians, tan
from typing import Annotated

from pydantic import Field

from revani.core.calculators.registry import Answer, Ask, ExactOrNone, ExactSeconds, FocalLength, Pixels, calculator
from revani.core.optics.projection import focal_pixels
from revani.core.quantities.units import Exact
from revani.core.walk import film

Pace = Annotated[Exact, Field(gt=0, le=1_000)]
ExactMetres = Annotated[Exact, Field(gt=0, le=10**9)]


class HyperlapseAsk(Ask):
    """A walk that is filmed and sped up, by two of its length, its factor and its film."""

    pace_m_s: Pace = Fraction(6, 5)
    head_s: ExactOrNone = Fraction(0)
    tail_s: ExactOrNone = Fraction(0)
    length_m: ExactMetres | None = None
    factor: Annotated[Exact, Field(ge=1, le=100_000)] | None = None
    playback_s: ExactSeconds | None = None


class HyperlapseAnswer(Answer):
    """All three, and how long the walk takes."""

    length_m: float
    factor: float
    playback_s: float
    walk_s: float


@calculator
def walk(ask: HyperlapseAsk) -> HyperlapseAnswer:
    """Length, factor and film of a walk that is sped up, from two of them."""
    found = film.solved(ask.pace_m_s, ask.head_s + ask.tail_s, ask.length_m, ask.factor, ask.playback_s)
    return HyperlapseAnswer(**{name: float(value) for name, value in found._asdict().items()})


class StationsAsk(Ask):
    """A path that is walked still by still."""

    length_m: ExactMetres
    frame_count: Annotated[int, Field(ge=1, le=10**9)]
    pause_s: ExactOrNone
    pace_m_s: Pace


class StationsAnswer(Answer):
    """How far apart the stations are, and how long it takes."""

    step_m: float
    total_s: float


@calculator
def stations(ask: StationsAsk) -> StationsAnswer:
    """The step between the stations of a hyperlapse of stills, and how long it takes."""
    step = ask.length_m / ask.frame_count
    return StationsAnswer(step_m=float(step), total_s=float(ask.frame_count * (ask.pause_s + step / ask.pace_m_s)))


class AimErrorAsk(Ask):
    """A lens whose aim is off."""

    focal_length_mm: FocalLength
    sensor_width_mm: Annotated[float, Field(gt=0, le=1_000)]
    pixels_wide: Pixels
    error_deg: Annotated[float, Field(gt=-90, lt=90)]


class ShiftAnswer(Answer):
    """How far the picture is shifted."""

    shift_px: float


@calculator
def aim_error(ask: AimErrorAsk) -> ShiftAnswer:
    """How many pixels an aim that is off by an angle shifts the picture."""
    focal_px = focal_pixels(ask.focal_length_mm, ask.sensor_width_mm, ask.pixels_wide)
    return ShiftAnswer(shift_px=focal_px * tan(radians(abs(ask.error_deg))))
