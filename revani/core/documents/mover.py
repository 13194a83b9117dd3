"""Movers, and the axes that they have."""

import re
from collections.abc import Mapping
from typing import ClassVar, Literal

from pydantic import Field, ValidationInfo, field_validator

from revani.core.documents.base import Document, Gear, KindWords
from revani.core.documents.sockets import Sockets
from revani.core.quantities.measures import (
    ANGLE,
    DISTANCE,
    FOCAL_LENGTH,
    LENGTH,
    SCALE,
    Degrees,
    Measure,
    System,
    WattHours,
    Watts,
    Weight,
)
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


def read_of_axis(axis: AxisName, text: str, system: System = "metric") -> float:
    """A place, a speed or an acceleration of an axis as it is typed: `1.2 m`, `40 mm/s`. Raises Refusal("")."""
    return driven_measure(axis).read(re.sub(r"\s*/\s*s(²|2|\^2|/s)?$", "", text.strip()), system)


class Axis(Document):
    """What one axis of a mover can do; in mm, or degrees for pan, tilt and roll, and seconds.

    Zoom is in mm of focal length; focus in units of the lens's own scale.
    """

    name: AxisName = Field(title="axis")
    low: float = Field(title="from", ge=-1e6, le=1e6)
    high: float = Field(title="to", ge=-1e6, le=1e6)
    speed: float = Field(title="fastest", gt=0, le=1e5, description="A second.")
    acceleration: float = Field(title="greatest acceleration", gt=0, le=1e6, description="A second squared.")
    step: float = Field(title="smallest step", gt=0, le=100)
    backlash: float = Field(0.0, title="play", ge=0, le=1_000, description="Lost when it turns round.")
    settle_s: float = Field(0.5, title="settles in", ge=0, le=60, description="Until it stands still after a move.")

    @field_validator("low", "high", "speed", "acceleration", "step", "backlash", mode="before")
    @classmethod
    def _typed(cls, value: object, info: ValidationInfo) -> object:
        # What a figure may be typed in depends on the axis, whose name is read before.
        if not isinstance(value, str) or "name" not in info.data:
            return value
        try:
            return read_of_axis(info.data["name"], value)
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

    said_of: ClassVar[KindWords] = KindWords(
        "Movers", "Add a mover",
        "Add the slider, lift or head that carries the camera; its limits decide which moves can be had.",
    )  # fmt: skip

    kind: Literal["mover"] = "mover"
    weight_kg: Weight = Field(2.0, title="Weighs", ge=0, le=500)
    payload_kg: Weight = Field(4.0, title="Carries at most", gt=0, le=1_000)
    incline_deg: Degrees = Field(
        0.0, title="Climbs at most", ge=0, le=90, description="Steepest slope that it climbs with its payload."
    )
    moving_w: Watts = Field(12.0, title="Draws while moving", ge=0, le=5_000)
    idle_w: Watts = Field(1.0, title="Draws while holding", ge=0, le=5_000)
    battery_wh: WattHours | None = Field(
        None, title="Its own battery, if any", gt=0, le=5_000, description="None: it needs not last."
    )
    sockets: Sockets = Field("", title="Sockets", description="Such as USB-C, barrel 5.5 mm.")
    axes: tuple[Axis, ...] = Field(title="Axes", min_length=1, max_length=7)

    def in_short(self, words: Mapping[str, str]) -> str:
        """Its axes and what it carries."""
        return f"{', '.join(axis.name for axis in self.axes)} · carries {words['payload_kg']}"

    @field_validator("axes")
    @classmethod
    def _once_each(cls, axes: tuple[Axis, ...]) -> tuple[Axis, ...]:
        names = [axis.name for axis in axes]
        if len(set(names)) < len(names):
            raise ValueError("Each axis can be there only once.")
        return axes
