"""Moves made afterwards: rolls, push-ins, pictures cut out of spheres; and cards that are read by the camera."""

from typing import Annotated

from pydantic import Field

from revani.core.calculators.registry import (
    Answer,
    Ask,
    FocalLength,
    Metres,
    Micrometres,
    Millimetres,
    Pixels,
    Seconds,
    SecondsOrNone,
    calculator,
)
from revani.core.optics.code_card import READABLE_PX, module_px
from revani.core.reframe import crop as reframe

Side = Annotated[float, Field(gt=0, le=1_000_000)]
Zoom = Annotated[float, Field(gt=0, le=1_000)]


class RollAsk(Ask):
    """A roll, and the shape of the picture."""

    roll_deg: Annotated[float, Field(ge=-90, le=90)]
    width: Side
    height: Side


class ZoomAnswer(Answer):
    """The zoom that it needs."""

    zoom: float


@calculator
def roll_room(ask: RollAsk) -> ZoomAnswer:
    """The zoom that a roll needs, so that no corner is black."""
    return ZoomAnswer(zoom=reframe.roll_room(ask.roll_deg, ask.width, ask.height))


class PushAsk(Ask):
    """A push-in, and for how long it goes on in the next cut."""

    zoom_from: Zoom
    zoom_to: Zoom
    duration_s: Seconds
    continued_s: SecondsOrNone


class PushAnswer(Answer):
    """How fast it goes, ln zoom a second, and how far it goes on, from 1."""

    rate_per_s: float
    zoom_continued: float


@calculator
def push_in(ask: PushAsk) -> PushAnswer:
    """The even rate of a push-in, and how far it goes in the next cut."""
    rate = reframe.push_rate_per_s(ask.zoom_from, ask.zoom_to, ask.duration_s)
    return PushAnswer(rate_per_s=rate, zoom_continued=reframe.pushed_on(rate, ask.continued_s))


class SphereAsk(Ask):
    """A straight picture that is cut out of a sphere."""

    source_width_px: Pixels
    output_width_px: Pixels
    view_deg: Annotated[float, Field(gt=0, lt=180)]


class SphereAnswer(Answer):
    """Pixels of the output for a degree in the middle, and against those of the source."""

    px_per_deg: float
    ratio: float


@calculator
def sphere_density(ask: SphereAsk) -> SphereAnswer:
    """How much a picture cut out of a sphere is enlarged in its middle."""
    px = reframe.sphere_px_per_deg(ask.output_width_px, ask.view_deg)
    return SphereAnswer(px_per_deg=px, ratio=px / (ask.source_width_px / 360))


class CodeCardAsk(Ask):
    """A card with a code before a lens."""

    focal_length_mm: FocalLength
    pixel_pitch_um: Micrometres
    module_mm: Millimetres
    distance_m: Metres


class CodeCardAnswer(Answer):
    """How large a module of the code is, and whether it can be read: from three pixels on."""

    module_px: float
    readable: bool


@calculator
def code_card(ask: CodeCardAsk) -> CodeCardAnswer:
    """Whether a code card can be read at a distance."""
    px = module_px(ask.focal_length_mm, ask.pixel_pitch_um, ask.module_mm, ask.distance_m)
    return CodeCardAnswer(module_px=px, readable=px >= READABLE_PX)
