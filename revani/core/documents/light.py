"""How a shot is exposed, and paced by the light."""

from fractions import Fraction
from typing import Literal, Self
from uuid import UUID

from pydantic import Field, model_validator

from revani.core.documents.base import Document
from revani.core.documents.moment import Start
from revani.core.quantities.measures import (
    Degrees,
    FNumber,
    Frames,
    Iso,
    Kelvins,
    Shutter,
    Stops,
    StopsAMinute,
    Thirds,
)
from revani.core.quantities.units import Exact

Cloud = Literal["clear", "haze", "light cloud", "overcast"]


School = Literal["fixed", "automatic", "aperture priority", "stepped", "continuous"]


class Reading(Document):
    """One meter reading of the scene, which calibrates its light: settings that were right, or lux.

    `at_s` is when it was taken, `cloud` what the sky was then, `by` who took it and with what.
    """

    at_s: float = Field(ge=-2_300_000_000, le=2_600_000_000, description="Seconds since 1970, UTC.")
    aperture: float | None = Field(None, ge=0.7, le=128)
    shutter_s: Exact | None = Field(None, gt=0, le=7_200)
    iso: int | None = Field(None, ge=6, le=3_276_800)
    illuminance_lx: float | None = Field(None, gt=0, le=200_000)
    cloud: Cloud = "clear"
    by: str = Field("", max_length=120)

    @model_validator(mode="after")
    def _whole(self) -> Self:
        settings = (self.aperture, self.shutter_s, self.iso)
        if self.illuminance_lx is None and None in settings:
            raise ValueError("Give aperture, shutter and ISO of the reading, or its lux.")
        if self.illuminance_lx is not None and settings != (None, None, None):
            raise ValueError("Give either aperture, shutter and ISO, or lux.")
        return self


class LightKey(Document):
    """A wish on the light layer: so many stops brighter than the scene asks for, at a moment of the shot."""

    after_s: float = Field(ge=0, le=40_000_000, description="Seconds from the start.")
    bias_stops: float = Field(ge=-6, le=6, description="Positive is brighter.")


class Light(Document):
    """How the shot is exposed.

    `fixed` holds shutter_s, aperture and iso. `stepped` and `continuous` are ramps that a controller
    plans: shutter up to shutter_s, then ISO from iso up to iso_ceiling, then the aperture to
    aperture_open where that is given. `automatic` and `aperture priority` leave it to the body.
    """

    school: School = Field("continuous", title="Way of exposing")
    shutter_s: Shutter = Field(title="Shutter", gt=0, le=7_200, default=Fraction(20))
    aperture: FNumber = Field(4.0, title="Aperture", ge=0.7, le=128)
    iso: Iso = Field(100, title="ISO", ge=6, le=3_276_800)
    iso_ceiling: Iso = Field(3_200, title="ISO ceiling", ge=6, le=3_276_800)
    aperture_open: FNumber | None = Field(
        None, title="Aperture that a ramp opens to", ge=0.7, le=128, description="How far a ramp may open the aperture."
    )
    compensation_stops: Thirds = Field(
        0.0, title="Compensation", ge=-5, le=5, description="In automatic modes; positive is brighter."
    )
    dead_band_stops: Stops = Field(
        0.25, title="Dead band", ge=0.05, le=3, description="What a stepped ramp lets pass before it steps."
    )
    hysteresis_stops: Stops = Field(
        0.2, title="Turning round", ge=0, le=3, description="As much more before it turns round."
    )
    first_frames: Frames = Field(
        5,
        title="Frames looked at first",
        ge=2,
        le=60,
        description="Their files, before it is said whether one may go.",
    )
    hold_frames: Frames = Field(4, title="Least number of frames between two steps", ge=1, le=10_000)
    rate_stops_per_min: StopsAMinute = Field(
        2.0, title="Fastest change a minute", gt=0, le=100, description="Fastest change that a ramp makes."
    )
    keys: tuple[LightKey, ...] = Field((), max_length=200)
    noise_reduction: bool = Field(
        False, title="Noise reduction", description="A dark frame as long as the shutter follows."
    )
    white_balance: Literal["fixed", "ramp", "automatic"] = Field("fixed", title="White balance")
    white_balance_k: Kelvins = Field(
        4_800, title="White balance, kelvin", ge=1_500, le=15_000, description="Held, or by day where it ramps."
    )
    white_balance_night_k: Kelvins = Field(3_900, title="White balance by night", ge=1_500, le=15_000)
    white_balance_step_k: Kelvins = Field(50, title="Steps of the white balance", ge=1, le=2_000)
    filters: tuple[UUID, ...] = Field(
        (), title="Filter", max_length=4, description="Filters of the kit that begin on the lens."
    )
    filters_off: Start | None = Field(None, title="Filter taken off", description="When they are taken off.")
    angle_deg: Degrees | None = Field(
        None, title="Wanted shutter angle", gt=0, le=360, description="None: blur, if any, is added later."
    )
    night_stops: Thirds = Field(
        0.0,
        title="The night against the meter",
        ge=-5,
        le=2,
        description="A meter makes the night grey; −2 is usual once the sun is under −12° (common practice).",
    )
    scene: Literal["sky", "ground"] = Field(
        "sky", title="What fills the picture", description="A bright sky reads above the light on the ground."
    )
    scene_offset_stops: Stops | None = Field(None, ge=-15, le=15, description="Replaces the usual offset of the scene.")
    reading: Reading | None = Field(None, description="A meter reading, which replaces any other offset.")
    cloud: Cloud = Field("clear", title="Cloud")

    @model_validator(mode="after")
    def _ordered(self) -> Self:
        moments = [key.after_s for key in self.keys]
        if moments != sorted(set(moments)):
            raise ValueError("Wishes must stand at different moments, in order.")
        return self

    @property
    def automatic(self) -> bool:
        """Whether the body chooses the exposure by itself."""
        return self.school in ("automatic", "aperture priority")


class Pace(Document):
    """An interval that is longer by night: the sentence's by day, `night_factor` times it by night.

    In between it follows the sun, even steps of the logarithm against the sun's altitude.
    """

    night_factor: Exact = Field(ge=Fraction(1, 100), le=100, default=Fraction(3))
    day_above_deg: float = Field(6.0, ge=-18, le=60)
    night_below_deg: float = Field(-12.0, ge=-30, le=30)

    @model_validator(mode="after")
    def _ordered(self) -> Self:
        if self.day_above_deg <= self.night_below_deg:
            raise ValueError("Day must begin at a higher sun than night.")
        return self
