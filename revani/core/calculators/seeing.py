"""Lenses: what they see, what is sharp, what shifts, what is cropped."""

from typing import Annotated

from pydantic import Field

from revani.core.calculators.registry import (
    Answer,
    Ask,
    FNumber,
    FocalLength,
    Metres,
    Micrometres,
    Millimetres,
    Pixels,
    calculator,
)
from revani.core.documents import Projection
from revani.core.optics import projection as optics
from revani.core.quantities.refusal import Refusal
from revani.core.quantities.units import Exact
from revani.core.reframe import crop as reframe


class ViewAsk(Ask):
    """A sensor and a lens."""

    sensor_width_mm: Annotated[float, Field(gt=0, le=1_000)]
    sensor_height_mm: Annotated[float, Field(gt=0, le=1_000)]
    focal_length_mm: FocalLength


class ViewAnswer(Answer):
    """Angles of view."""

    horizontal_deg: float
    vertical_deg: float
    diagonal_deg: float


@calculator
def field_of_view(ask: ViewAsk) -> ViewAnswer:
    """Angles of view of a rectilinear lens at infinity."""
    width, height, focal = ask.sensor_width_mm, ask.sensor_height_mm, ask.focal_length_mm
    return ViewAnswer(
        horizontal_deg=optics.field_of_view_deg(width, focal), vertical_deg=optics.field_of_view_deg(height, focal),
        diagonal_deg=optics.field_of_view_deg(optics.diagonal_mm(width, height), focal),
    )  # fmt: skip


class DepthAsk(Ask):
    """A lens focused on a subject."""

    focal_length_mm: FocalLength
    aperture: FNumber
    subject_distance_m: Metres
    circle_of_confusion_mm: Annotated[float, Field(gt=0, le=10)]


class DepthAnswer(Answer):
    """What is sharp; `far_m` is null where it reaches to infinity."""

    hyperfocal_m: float
    near_m: float
    far_m: float | None


@calculator
def depth_of_field(ask: DepthAsk) -> DepthAnswer:
    """Hyperfocal distance and the limits of sharpness."""
    sharp = optics.depth_of_field(ask.focal_length_mm, ask.aperture, ask.subject_distance_m, ask.circle_of_confusion_mm)
    return DepthAnswer(**sharp._asdict())


class ParallaxAsk(Ask):
    """A slide past something near and something far."""

    focal_length_mm: FocalLength
    pixel_pitch_um: Micrometres
    slider_step_mm: Millimetres
    near_m: Metres
    far_m: Metres


class ParallaxAnswer(Answer):
    """Image shifts."""

    near_px: float
    far_px: float
    difference_px: float


@calculator
def parallax(ask: ParallaxAsk) -> ParallaxAnswer:
    """How far near and far things shift in the picture in one step of a slider."""
    if ask.far_m < ask.near_m:
        raise Refusal("far_m", f"At least near_m, {ask.near_m:g} m.", ask.far_m)
    near, far = optics.parallax_px(
        ask.focal_length_mm, ask.pixel_pitch_um, ask.slider_step_mm, [ask.near_m, ask.far_m]
    ).tolist()
    return ParallaxAnswer(near_px=near, far_px=far, difference_px=near - far)


class CropAsk(Ask):
    """A source, an output, and how far the crop is zoomed."""

    source_width_px: Pixels
    source_height_px: Pixels
    output_width_px: Pixels
    output_height_px: Pixels
    zoom: Annotated[Exact, Field(ge=1, le=10_000)]


class CropAnswer(Answer):
    """The crop in source pixels, and what it costs."""

    crop_width_px: float
    crop_height_px: float
    max_lossless_zoom: float
    pan_room_each_side_fraction: float
    upscale_factor: float


@calculator
def crop(ask: CropAsk) -> CropAnswer:
    """Room and resolution of a crop; zoom 1 is the largest crop with the output's shape."""
    cut = reframe.crop(ask.source_width_px, ask.source_height_px, ask.output_width_px, ask.output_height_px, ask.zoom)
    return CropAnswer(
        crop_width_px=float(cut.width_px), crop_height_px=float(cut.height_px),
        max_lossless_zoom=float(cut.max_lossless_zoom), pan_room_each_side_fraction=float(cut.pan_room_each_side),
        upscale_factor=float(cut.upscale),
    )  # fmt: skip


class ProjectionAsk(Ask):
    """A lens of some projection on a sensor."""

    projection: Projection
    focal_length_mm: FocalLength
    sensor_width_mm: Annotated[float, Field(gt=0, le=1_000)]


class ProjectionAnswer(Answer):
    """What it sees across; null where the picture of the whole world is smaller than the sensor."""

    horizontal_deg: float | None


@calculator
def projection(ask: ProjectionAsk) -> ProjectionAnswer:
    """The angle that a straight or a fisheye lens sees across."""
    return ProjectionAnswer(horizontal_deg=optics.view_deg(ask.projection, ask.sensor_width_mm, ask.focal_length_mm))
