"""Moments: when a shot starts, and when something is in it."""

from typing import Annotated, Literal

from pydantic import Field

from revani.core.documents.base import Document

TimeOfDay = Annotated[str, Field(pattern=r"^([01]\d|2[0-3]):[0-5]\d(:[0-5]\d)?$")]


SunEventName = Literal[
    "sunrise", "sunset", "civil dawn", "civil dusk", "nautical dawn", "nautical dusk",
    "astronomical dawn", "astronomical dusk", "low sun", "blue hour", "dark", "moonrise", "moonset",
]  # fmt: skip


class ClockStart(Document):
    """Start at a time on the place's clock, on the shot's date."""

    by: Literal["clock"] = "clock"
    time: TimeOfDay


class SunStart(Document):
    """Start at, before or after what the sun or moon does on the shot's date.

    `low sun` is when the evening's sun comes down to +6°, `blue hour` to −4°, `dark` to −18° (−12°
    where it never gets there); those three are of the evening, however late it comes.
    """

    by: Literal["sun"] = "sun"
    event: SunEventName
    offset_s: int = Field(0, ge=-86_400, le=86_400)


class AltitudeStart(Document):
    """Start when the sun's middle comes down, or up, to an altitude (without refraction) on the shot's date."""

    by: Literal["altitude"] = "altitude"
    goes: Literal["down", "up"]
    altitude_deg: float = Field(ge=-60, le=90)


class InstantStart(Document):
    """Start at one instant, in seconds since 1970 (UTC); how a run that was started now is kept."""

    by: Literal["instant"] = "instant"
    epoch_s: float = Field(ge=-2_300_000_000, le=2_600_000_000)


class RidgeEvent(Document):
    """When the sun goes behind, or comes over, the raised horizon of the place.

    As a start it is the first time on the shot's date, else the first during the shot.
    """

    by: Literal["ridge"] = "ridge"
    event: Literal["sun behind the ridge", "sun over the ridge"] = "sun behind the ridge"


Start = Annotated[ClockStart | SunStart | AltitudeStart | RidgeEvent | InstantStart, Field(discriminator="by")]


class AfterStart(Document):
    """A moment so many seconds after the start, on the wall's clock."""

    by: Literal["after"] = "after"
    after_s: float = Field(ge=0, le=40_000_000)


class FilmTime(Document):
    """A moment of the film."""

    by: Literal["film"] = "film"
    film_s: float = Field(ge=0, le=1e6)


class FrameNumber(Document):
    """The moment at which a frame is due."""

    by: Literal["frame"] = "frame"
    number: int = Field(ge=1, le=1_000_000)


Moment = Annotated[
    AfterStart | FilmTime | FrameNumber | RidgeEvent | ClockStart | SunStart | AltitudeStart, Field(discriminator="by")
]
