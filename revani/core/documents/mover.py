"""Movers, and the axes that they have."""

import re
from typing import Literal

from pydantic import Field, ValidationInfo, field_validator

from revani.core.documents.base import Document, Gear
from revani.core.quantities.measures import ANGLE, DISTANCE, FOCAL_LENGTH, LENGTH, SCALE, Measure, Weight
from revani.core.quantities.refusal import Refusal
from revani.core.quantities.units import parse_duration

AxisName = Literal["slide", "lift", "pan", "tilt", "roll", "zoom", "focus"]
AXES: tuple[AxisName, ...] = ("slide", "lift", "pan", "tilt", "roll", "zoom", "focus")
AXIS_MEASURES: dict[AxisName, Measure] = {
    "slide": LENGTH, "lift": LENGTH, "pan": ANGLE, "tilt": ANGLE, "roll": ANGLE, "zoom": FOCAL_LENGTH,
    "focus": DISTANCE,
}  # fmt: skip


def driven_measure(axis: AxisName) -> Measure:
    """What the motor of an axis counts in: as keys are given, but focus on the lens's own scale."""
    return SCALE if axis == "focus" else AXIS_MEASURES[axis]


class Axis(Document):
    """What one axis of a mover can do; in mm, or degrees for pan, tilt and roll, and seconds.

    Zoom is in mm of focal length; focus in units of the lens's own scale.
    """

    name: AxisName
    low: float = Field(ge=-1e6, le=1e6)
    high: float = Field(ge=-1e6, le=1e6)
    speed: float = Field(gt=0, le=1e5, description="Fastest, a second.")
    acceleration: float = Field(gt=0, le=1e6, description="Strongest, a second squared.")
    step: float = Field(gt=0, le=100, description="Smallest step.")
    backlash: float = Field(0.0, ge=0, le=1_000, description="Lost when it turns round.")
    settle_s: float = Field(0.5, ge=0, le=60, description="Until it stands still after a move.")

    @field_validator("low", "high", "speed", "acceleration", "step", "backlash", mode="before")
    @classmethod
    def _typed(cls, value: object, info: ValidationInfo) -> object:
        # What a figure may be typed in depends on the axis, whose name is read before.
        if not isinstance(value, str) or "name" not in info.data:
            return value
        try:
            return driven_measure(info.data["name"]).read(re.sub(r"\s*/\s*s(²|2|\^2|/s)?$", "", value.strip()))
        except Refusal as refusal:
            raise ValueError(refusal.allowed) from None

    @field_validator("settle_s", mode="before")
    @classmethod
    def _seconds(cls, value: object) -> object:
        try:
            return float(parse_duration(value)) if isinstance(value, str) else value
        except Refusal as refusal:
            raise ValueError(refusal.allowed) from None

    @field_validator("high")
    @classmethod
    def _over_low(cls, value: float, info: ValidationInfo) -> float:
        if "low" in info.data and value <= info.data["low"]:
            raise ValueError("It must lie above where the axis begins.")
        return value


class Mover(Gear):
    """A slider, a lift, a head, a motor on a ring: axes that move together."""

    kind: Literal["mover"] = "mover"
    axes: tuple[Axis, ...] = Field(min_length=1, max_length=7)
    weight_kg: Weight = Field(2.0, ge=0, le=500)
    payload_kg: Weight = Field(4.0, gt=0, le=1_000, description="What it may carry.")
    incline_deg: float = Field(0.0, ge=0, le=90, description="Steepest slope that it climbs with its payload.")
    moving_w: float = Field(12.0, ge=0, le=5_000)
    idle_w: float = Field(1.0, ge=0, le=5_000)
    battery_wh: float | None = Field(None, gt=0, le=5_000, description="Of its own; none: it needs not last.")

    @field_validator("axes")
    @classmethod
    def _once_each(cls, axes: tuple[Axis, ...]) -> tuple[Axis, ...]:
        names = [axis.name for axis in axes]
        if len(set(names)) < len(names):
            raise ValueError("Each axis can be there only once.")
        return axes
