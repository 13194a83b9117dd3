"""The recording modes of a body: what it makes in each, and what it offers there."""

from fractions import Fraction
from typing import Literal, Self

from pydantic import Field, field_validator, model_validator

from revani.core.documents.base import Document, Name
from revani.core.quantities.measures import (
    Gigabytes,
    MegabitsASecond,
    Part,
    Pixels,
    Seconds,
    Shutter,
    Watts,
)
from revani.core.quantities.units import Rate

# How a direction becomes a place in the picture: the lens's projection, or what the body makes of it.
# A sphere is all round, unrolled: twice as wide as it is high.
Projection = Literal["straight", "equidistant", "stereographic", "equisolid", "sphere"]
# Its own interval timer, its own lapse film; a controller that knows only when; linked: Revani sets every frame.
Fires = Literal["linked", "controller", "own timer", "own lapse film", "by hand"]
Keeps = Literal["raw", "JPEG", "both"]
Makes = Literal["stills", "film", "own lapse film"]


class Mode(Document):
    """A recording mode: a row of a body's table. What is left empty is as the body has it.

    `part` is how much of the sensor's width is used, `crop` how much of that width stabilisation takes away.
    `intervals` and `lengths` are those on its own menu where it fires itself; none: any.
    """

    name: Name = Field(title="mode")
    makes: Makes = Field("stills", title="makes")
    pixels_wide: Pixels = Field(6000, title="wide, px", ge=320, le=30_000)
    pixels_high: Pixels = Field(4000, title="high, px", ge=240, le=30_000)
    part: Part = Field(1.0, title="part of the sensor", ge=0.05, le=1, description="Of its width.")
    projection: Projection = Field("straight", title="projection")
    crop: Part = Field(0.0, title="stabilising takes", ge=0, lt=0.9, description="Of the picture's width.")
    rates: tuple[Rate, ...] = Field((), title="rates, fps", max_length=20, description="Such as 24 25 30 120.")
    film_mbps: MegabitsASecond | None = Field(None, title="Mbit/s", gt=0, le=20_000)
    chapter_gb: Gigabytes | None = Field(None, title="chapter, GB", gt=0, le=10_000)
    drain_w: Watts | None = Field(None, title="draws, W", gt=0, le=500, description="While it records.")
    waits_w: Watts | None = Field(
        None, title="waits with, W", gt=0, le=500, description="Between frames, or while a ring buffer is kept full."
    )
    intervals: tuple[Seconds, ...] = Field(
        (), title="own intervals, s", max_length=60, description="On its own menu, such as 0.5 1 2 5 10 30."
    )
    lengths: tuple[Seconds, ...] = Field((), title="own lengths, s", max_length=60)
    shutter_min_s: Shutter | None = Field(None, title="shortest shutter", ge=Fraction(1, 100_000), le=1)
    manual_shutter_max_s: Shutter | None = Field(None, title="longest, manual", gt=0, le=7_200)
    automatic_shutter_max_s: Shutter | None = Field(None, title="longest, automatic", gt=0, le=7_200)
    manual: bool = Field(True, title="manual exposure")
    raw: bool = Field(True, title="raw")
    tracks: bool = Field(True, title="follows a face", description="Focus that stays on one.")
    afar: bool = Field(True, title="can be linked", description="It is set and fired from afar.")
    forgets: str = Field("", title="forgets when off", max_length=200, description="Settings that are lost then.")

    @model_validator(mode="after")
    def _all_round(self) -> Self:
        if self.projection == "sphere" and self.pixels_wide != 2 * self.pixels_high:
            raise ValueError("A sphere that is unrolled is twice as wide as it is high.")
        return self

    @field_validator("rates", "intervals", "lengths")
    @classmethod
    def _climbing(cls, given: tuple[Fraction, ...]) -> tuple[Fraction, ...]:
        if any(value <= 0 for value in given):
            raise ValueError("Each must be more than 0.")
        if list(given) != sorted(set(given)):
            raise ValueError("Each once, from the least to the most.")
        return given
