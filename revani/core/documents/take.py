"""What is decided on the body beside its exposure: focus, stabilising, picture style, brackets, sound, and the use."""

from fractions import Fraction
from typing import Literal

from pydantic import Field

from revani.core.documents.base import Document
from revani.core.quantities.measures import Decibels, Stops

Focus = Literal["manual", "single", "continuous on a face"]
Stabilising = Literal["off", "on", "strong", "afterwards"]
Sound = Literal["off", "its own microphone", "a microphone on it", "a recorder beside it"]
Use = Literal["for oneself", "part of a longer film", "a feed", "an upright reel", "a talk"]


class Take(Document):
    """Decisions that have consequences of their own, each with its findings; all of them stand on the dial card."""

    focus: Focus = Field("manual", title="Focus")
    stabilising: Stabilising = Field("off", title="Stabilising")
    profile: Literal["as it comes", "flat", "finished"] = Field("as it comes", title="Profile")
    sharpness: Literal["as it comes", "low", "high"] = Field("as it comes", title="Sharpness")
    codec: str = Field("", title="Codec", max_length=40, description="As its menu calls it.")
    brackets: Literal[1, 3, 5, 7, 9] = Field(1, title="Frames a bracket")
    bracket_stops: Stops = Field(1.0, title="Bracketed by", ge=1 / 3, le=4)
    sound: Sound = Field("off", title="Sound")
    wind_filter: bool = Field(False, title="Wind filter")
    level_dbfs: Decibels = Field(-9.0, title="Level wanted", ge=-60, le=0, description="Of the peaks of speech.")
    use: Use = Field("for oneself", title="The film is for")
    dewarp: bool = Field(False, title="De-warped", description="Made straight by the body; the edge is lost.")
    upright: bool = Field(False, title="Held upright")
    when_over: Literal["stays on", "switches off"] = Field(
        "stays on", title="When it is over the camera",
        description="Once its file is closed and the rig parked. What is not home by then waits until it is on again.",
    )  # fmt: skip

    @property
    def stabilised(self) -> bool:
        """Whether the body steadies the picture while it records."""
        return self.stabilising in ("on", "strong")

    @property
    def held_times(self) -> Fraction:
        """How many times the shutter of the middle frame a bracket is open in all; 1 without brackets."""
        step, half = 2.0**self.bracket_stops, self.brackets // 2
        return Fraction(sum(step**k for k in range(-half, half + 1))).limit_denominator(10_000)

    @property
    def hears(self) -> bool:
        """Whether the camera itself records sound."""
        return self.sound not in ("off", "a recorder beside it")
