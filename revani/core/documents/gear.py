"""Bodies, lenses, cards, filters."""

from fractions import Fraction
from math import log
from typing import Literal, TypeVar

from pydantic import Field, ValidationInfo, field_validator

from revani.core.documents.base import Document, Gear
from revani.core.quantities.measures import Distance, Weight
from revani.core.quantities.units import Exact

N = TypeVar("N", int, float, Fraction)


def at_least(value: N, info: ValidationInfo, name: str, words: str) -> N:
    """A value that must not lie under another one of its document. Raises ValueError that says the other in words."""
    other = info.data.get(name)
    if other is not None and value < other:
        raise ValueError(f"At least {words.format(other)}.")
    return value


class Body(Gear):
    """A camera body, with the limits that decide what it can do unattended."""

    kind: Literal["body"] = "body"
    sensor_width_mm: float = Field(36.0, ge=2, le=70)
    sensor_height_mm: float = Field(24.0, ge=2, le=70)
    pixels_wide: int = Field(6000, ge=320, le=30_000)
    pixels_high: int = Field(4000, ge=240, le=30_000)
    iso_min: int = Field(100, ge=6, le=3_276_800, description="Base ISO.")
    iso_max: int = Field(12_800, validate_default=True, ge=6, le=3_276_800)
    shutter_min_s: Exact = Field(ge=Fraction(1, 100_000), le=1, default=Fraction(1, 4000))
    manual_shutter_max_s: Exact = Field(
        validate_default=True, gt=0, le=7_200, default=Fraction(30), description="Longest shutter in manual."
    )
    automatic_shutter_max_s: Exact = Field(
        validate_default=True, gt=0, le=7_200, default=Fraction(30), description="Longest shutter in automatic."
    )
    automatic_order: Literal["ISO first", "shutter first"] = Field(
        "ISO first", description="What its automatic program raises first when it gets dark."
    )
    automatic_knee_s: Exact = Field(
        gt=0, le=60, default=Fraction(1, 60), description="Shutter that an ISO-first body holds while ISO rises."
    )
    metering_scatter_stops: float = Field(
        0.1, ge=0, le=2, description="Standard deviation of its meter from frame to frame."
    )
    clips_over_stops: float = Field(3.0, gt=0, le=10, description="A frame that is more over is white.")
    clips_under_stops: float = Field(5.0, gt=0, le=15, description="A frame that is more under is black.")
    bulb: bool = Field(True, description="Can be held open for any time of 1/10 s and over.")
    minimum_interval_s: Exact = Field(gt=0, le=3_600, default=Fraction(1))
    overhead_s: Exact = Field(ge=0, le=600, default=Fraction(1, 2), description="Read-out and write, a frame.")
    controller_tick_s: Exact = Field(gt=0, le=60, default=Fraction(1, 10), description="Finest step of the trigger.")
    bytes_per_frame: int = Field(25_000_000, ge=1_000, le=2_000_000_000)
    buffer_frames: int = Field(20, ge=1, le=10_000, description="Frames held while the card is written.")
    clock_offset_s: float = Field(
        0.0, ge=-86_400, le=86_400, description="How far its own clock is ahead of the true time."
    )
    battery_wh: float = Field(16.0, gt=0, le=2_000)
    battery_usable: float = Field(0.9, gt=0, le=1, description="Fraction that can be taken out.")
    idle_w: float = Field(1.5, ge=0, le=500)
    frame_j: float = Field(6.0, ge=0, le=10_000)
    weight_kg: Weight = Field(0.7, gt=0, le=100, description="With its battery.")
    film_mbps: float = Field(100.0, gt=0, le=20_000, description="Bit rate of its own film, Mbit/s.")
    reports_recording: bool = Field(True, description="Says over its link whether it is really taking frames.")

    @field_validator("iso_max")
    @classmethod
    def _over_base(cls, value: int, info: ValidationInfo) -> int:
        return at_least(value, info, "iso_min", "the base ISO, {:,}")

    @field_validator("manual_shutter_max_s", "automatic_shutter_max_s")
    @classmethod
    def _over_shortest(cls, value: Fraction, info: ValidationInfo) -> Fraction:
        return at_least(value, info, "shutter_min_s", "the shortest shutter, {} s")


class FocusMark(Document):
    """A point on a focus scale, and the distance that is sharp there."""

    scale: float = Field(ge=-1e6, le=1e6)
    distance_m: Distance = Field(gt=0, le=100_000)


class Lens(Gear):
    """A lens; a prime has one focal length at both ends."""

    kind: Literal["lens"] = "lens"
    focal_length_min_mm: float = Field(24.0, ge=1, le=2_000)
    focal_length_max_mm: float = Field(24.0, validate_default=True, ge=1, le=2_000)
    aperture_widest: float = Field(2.8, ge=0.7, le=64)
    aperture_narrowest: float = Field(16.0, validate_default=True, ge=0.7, le=128)
    aperture_widest_long: float | None = Field(
        None, ge=0.7, le=64, description="At the longest focal length, where it differs."
    )
    aperture_narrowest_long: float | None = Field(
        None, validate_default=True, ge=0.7, le=128, description="The same, stopped down."
    )
    electronic_aperture: bool = True
    weight_kg: Weight = Field(0.4, gt=0, le=50)
    closest_m: Distance = Field(0.25, gt=0, le=100, description="Nearest that it focuses.")
    focus_marks: tuple[FocusMark, ...] = Field(
        (), max_length=40, description="Points on its own scale whose distance is known; three at least, or none."
    )

    @field_validator("focal_length_max_mm")
    @classmethod
    def _over_shortest(cls, value: float, info: ValidationInfo) -> float:
        return at_least(value, info, "focal_length_min_mm", "the shortest focal length, {:g} mm")

    @field_validator("aperture_narrowest")
    @classmethod
    def _over_widest(cls, value: float, info: ValidationInfo) -> float:
        return at_least(value, info, "aperture_widest", "the widest aperture, f/{:g}")

    @field_validator("aperture_narrowest_long")
    @classmethod
    def _over_widest_long(cls, value: float | None, info: ValidationInfo) -> float | None:
        widest = info.data.get("aperture_widest_long") or info.data.get("aperture_widest")
        narrowest = value or info.data.get("aperture_narrowest")
        if widest is not None and narrowest is not None and narrowest < widest:
            raise ValueError(f"At least the widest aperture there, f/{widest:g}.")
        return value

    @field_validator("focus_marks")
    @classmethod
    def _one_way(cls, given: tuple[FocusMark, ...]) -> tuple[FocusMark, ...]:
        marks = sorted(given, key=lambda mark: mark.scale)
        if marks and len(marks) < 3:
            raise ValueError("Three marks at least, or none.")
        distances = [mark.distance_m for mark in marks]
        if distances != sorted(set(distances)) and distances != sorted(set(distances), reverse=True):
            raise ValueError("Distances must go one way along the scale, each mark at one of its own.")
        return given

    def widest_at(self, focal_length_mm: float) -> float:
        """The widest aperture at a focal length; between the ends it follows log f (common practice)."""
        return self._between(self.aperture_widest, self.aperture_widest_long, focal_length_mm)

    def narrowest_at(self, focal_length_mm: float) -> float:
        """The narrowest aperture at a focal length."""
        return self._between(self.aperture_narrowest, self.aperture_narrowest_long, focal_length_mm)

    def _between(self, short: float, long: float | None, focal_length_mm: float) -> float:
        low, high = self.focal_length_min_mm, self.focal_length_max_mm
        if long is None or high == low:
            return short
        share = min(max(log(focal_length_mm / low) / log(high / low), 0.0), 1.0)
        return round(float(short * (long / short) ** share), 1)


class Card(Gear):
    """A memory card."""

    kind: Literal["card"] = "card"
    capacity_gb: float = Field(128.0, gt=0, le=100_000, description="Decimal gigabytes, as sold.")
    write_mb_s: float = Field(90.0, gt=0, le=100_000)


class Filter(Gear):
    """A neutral-density filter. ND8 is 3 stops."""

    kind: Literal["filter"] = "filter"
    stops: float = Field(3.0, gt=0, le=24, description="By how much it darkens.")
