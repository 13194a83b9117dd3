"""What is made of a shot afterwards: an output of its own size, with keys that move the frame within the picture."""

from collections.abc import Iterable
from fractions import Fraction
from itertools import pairwise
from typing import Any, Literal, Self

import numpy as np
from numpy.typing import ArrayLike
from pydantic import Field, field_validator, model_validator

from revani.core.documents.base import Document, Name
from revani.core.documents.move import Ease
from revani.core.quantities.arrays import Array
from revani.core.quantities.measures import Angle, Frames, Hertz, Number, Part, Pixels, PlainSeconds, Times
from revani.core.quantities.units import Rate

Becomes = Literal["a film", "a blended film", "a comet film", "a trail picture", "a still"]
Enlarging = Literal["never", "by a fifth"]
Lock = Literal["the world", "the way ahead"]
Turning = Literal["shorter", "longer"]
MOST_KEYS, MOST_OUTPUTS, MOST_MEASURED = 200, 8, 6_000
CLOSEST = 40.0
# Keys nearer to each other than this stand at one moment.
_APART_S = 0.005


def most_view_deg(curve: ArrayLike) -> Array:
    """How wide a picture out of a sphere may see, a little less than where it would reach to infinity: 170° to 340°.

    `curve` may have any shape.
    """
    return np.asarray(17 / 9 * np.degrees(np.arccos(-np.asarray(curve, dtype=np.float64))))


class FilmKey(Document):
    """Where the frame of an output stands at a moment of the film, and how it arrives there and leaves."""

    at_s: PlainSeconds = Field(0.0, title="At", ge=0, le=1e6)
    arrive: Ease = Ease.model_validate({})
    leave: Ease = Ease.model_validate({})


class CropKey(FilmKey):
    """A crop: zoom 1 is the largest of the output's shape; its middle stands across and down, parts of the picture.

    A positive roll turns the frame clockwise, so that what is in it turns the other way.
    """

    zoom: Times = Field(1.0, title="Zoom", ge=1, le=CLOSEST)
    across: Part = Field(0.5, title="Across", ge=0, le=1)
    down: Part = Field(0.5, title="Down", ge=0, le=1)
    roll_deg: Angle = Field(0.0, title="Roll", ge=-180, le=180)


class SphereKey(FilmKey):
    """A picture out of a sphere: where it looks, how wide, and how far the eye stands behind the sphere's middle.

    `curve` 0 is a straight picture, 1 a little planet. Turns go the shorter way unless the key says otherwise.
    """

    yaw_deg: Angle = Field(0.0, title="Yaw", ge=-3_600, le=3_600)
    pitch_deg: Angle = Field(0.0, title="Pitch", ge=-90, le=90)
    roll_deg: Angle = Field(0.0, title="Roll", ge=-3_600, le=3_600)
    view_deg: Angle = Field(90.0, title="View", ge=5, le=340)
    curve: Part = Field(0.0, title="Curve", ge=0, le=1)
    turns: Turning = Field("shorter", title="Turns the … way")

    @model_validator(mode="after")
    def _seen(self) -> Self:
        most = float(most_view_deg(self.curve))
        if self.view_deg > most + 1e-6:
            raise ValueError(f"With a curve of {self.curve:g}, at most {most:.0f}° can be seen.")
        return self


class Section(Document):
    """From this moment of the shot's film on, the output plays so many times as fast."""

    from_s: PlainSeconds = Field(0.0, title="From", ge=0, le=1e6)
    factor: Times = Field(1.0, title="Faster", ge=1, le=1_000)


class FilmOutput(Document):
    """One thing that is made of a shot: its size and rate, what becomes of the frames, and its keys.

    `frames` is how many a blended film takes the mean of, and over how many a comet fades. `measured` is a shake as
    it was measured of a clip, in parts of the width and degrees, at `measured_fps`.
    """

    name: Name = Field("Film", title="Name")
    becomes: Becomes = Field("a film", title="Becomes")
    pixels_wide: Pixels = Field(1920, title="Wide", ge=64, le=16_384)
    pixels_high: Pixels = Field(1080, title="High", ge=64, le=16_384)
    fps: Rate | None = Field(None, title="Rate", gt=0, le=240, description="None: as the shot plays.")
    frames: Frames = Field(1, title="Over", ge=1, le=500)
    enlarging: Enlarging = Field("never", title="Enlarged")
    sections: tuple[Section, ...] = Field((), max_length=40)
    keys: tuple[CropKey, ...] = Field((), max_length=MOST_KEYS)
    sphere: tuple[SphereKey, ...] = Field((), max_length=MOST_KEYS)
    lock: Lock = Field("the world", title="Yaw follows")
    shake_part: Part = Field(0.0, title="Shake", ge=0, le=0.1, description="Of the picture's width.")
    shake_roll_deg: Angle = Field(0.0, title="Shake, roll", ge=0, le=20)
    shake_hz: Hertz = Field(2.0, title="Shake, rate", ge=0.1, le=15)
    shake_seed: Number = Field(1, title="Shake, seed", ge=0, le=1_000_000)
    measured: tuple[tuple[float, ...], ...] = Field((), max_length=MOST_MEASURED)
    measured_fps: Rate = Field(Fraction(30), gt=0, le=240)

    @field_validator("keys", "sphere")
    @classmethod
    def _in_order(cls, keys: tuple[FilmKey, ...]) -> tuple[FilmKey, ...]:
        for a, b in pairwise(keys):
            if b.at_s < a.at_s + _APART_S:
                raise ValueError("Keys stand one after the other; no two at one moment.")
        return keys

    @field_validator("sections")
    @classmethod
    def _climbing(cls, sections: tuple[Section, ...]) -> tuple[Section, ...]:
        if any(b.from_s < a.from_s + _APART_S for a, b in pairwise(sections)):
            raise ValueError("Sections stand one after the other.")
        return sections

    @field_validator("measured")
    @classmethod
    def _small(cls, rows: tuple[tuple[float, ...], ...]) -> tuple[tuple[float, ...], ...]:
        if any(len(row) != 3 or max(abs(row[0]), abs(row[1])) > 1 or abs(row[2]) > 180 for row in rows):
            raise ValueError("Rows of three: shifts of at most 1 of the width, a roll of at most 180°.")
        return rows

    @field_validator("pixels_wide", "pixels_high")
    @classmethod
    def _even(cls, side: int) -> int:
        if side % 2:
            raise ValueError("An even number of pixels, which films have.")
        return side

    @property
    def shape(self) -> float:
        """Width over height."""
        return self.pixels_wide / self.pixels_high

    @property
    def shaken(self) -> bool:
        """Whether it is shaken."""
        return self.shake_part > 0 or self.shake_roll_deg > 0

    @property
    def unshaken(self) -> Self:
        """It without its shake."""
        return self.model_copy(update={"shake_part": 0.0, "shake_roll_deg": 0.0})

    def with_keys(self, keys: Iterable[FilmKey | dict[str, Any]], sphere: bool) -> Self:
        """It with other keys, of a crop or of a picture out of a sphere. Raises ValidationError."""
        written = [one.model_dump() if isinstance(one, FilmKey) else one for one in keys]
        return self.model_validate(self.model_dump() | {"sphere" if sphere else "keys": written})

    @property
    def is_film(self) -> bool:
        """Whether it plays; a still or a trail picture does not."""
        return self.becomes not in ("a trail picture", "a still")
