"""The documents that people own: gear, places and shots.

They are the open JSON formats: a shot carries its kit and its place, so that the file alone
compiles anywhere. All are frozen; an edit makes a new one.
"""

from datetime import date
from fractions import Fraction
from math import log
from typing import Annotated, Literal, Self
from uuid import UUID, uuid4
from zoneinfo import available_timezones

from pydantic import AfterValidator, BaseModel, ConfigDict, Field, field_validator, model_validator

from revani.core.timing import Timing
from revani.core.units import Exact

Name = Annotated[str, Field(min_length=1, max_length=80, pattern=r"\S")]
# The years that the ephemeris covers whole.
FIRST_YEAR, LAST_YEAR = 1900, 2050


class Document(BaseModel):
    """What all documents share: frozen, no unknown fields, no NaN."""

    model_config = ConfigDict(frozen=True, extra="forbid", allow_inf_nan=False)

    @field_validator("*")
    @classmethod
    def _storable(cls, value: object) -> object:
        # PostgreSQL cannot keep it, and nobody types it on purpose.
        if isinstance(value, str) and "\x00" in value:
            raise ValueError("A text without the character NUL is needed.")
        return value


class Gear(Document):
    """Anything owned that is carried to a shot."""

    id: UUID = Field(default_factory=uuid4)
    name: Name
    note: str = Field("", max_length=2_000)


class Body(Gear):
    """A camera body, with the limits that decide what it can do unattended."""

    kind: Literal["body"] = "body"
    sensor_width_mm: float = Field(36.0, ge=2, le=70)
    sensor_height_mm: float = Field(24.0, ge=2, le=70)
    pixels_wide: int = Field(6000, ge=320, le=30_000)
    pixels_high: int = Field(4000, ge=240, le=30_000)
    iso_min: int = Field(100, ge=6, le=3_276_800, description="Base ISO.")
    iso_max: int = Field(12_800, ge=6, le=3_276_800)
    shutter_min_s: Exact = Field(ge=0, le=1, default=Fraction(1, 4000))
    manual_shutter_max_s: Exact = Field(gt=0, le=7_200, default=Fraction(30), description="Longest shutter in manual.")
    automatic_shutter_max_s: Exact = Field(
        gt=0, le=7_200, default=Fraction(30), description="Longest shutter in automatic."
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
    weight_kg: float = Field(0.7, gt=0, le=100, description="With its battery.")
    film_mbps: float = Field(100.0, gt=0, le=20_000, description="Bit rate of its own film, Mbit/s.")
    reports_recording: bool = Field(True, description="Says over its link whether it is really taking frames.")

    @model_validator(mode="after")
    def _ordered(self) -> Self:
        if self.iso_max < self.iso_min:
            raise ValueError("iso_max must be at least iso_min.")
        if self.manual_shutter_max_s < self.shutter_min_s:
            raise ValueError("manual_shutter_max_s must be at least shutter_min_s.")
        return self


class FocusMark(Document):
    """A point on a focus scale, and the distance that is sharp there."""

    scale: float = Field(ge=-1e6, le=1e6)
    distance_m: float = Field(gt=0, le=100_000)


class Lens(Gear):
    """A lens; a prime has one focal length at both ends."""

    kind: Literal["lens"] = "lens"
    focal_length_min_mm: float = Field(24.0, ge=1, le=2_000)
    focal_length_max_mm: float = Field(24.0, ge=1, le=2_000)
    aperture_widest: float = Field(2.8, ge=0.7, le=64)
    aperture_narrowest: float = Field(16.0, ge=0.7, le=128)
    aperture_widest_long: float | None = Field(
        None, ge=0.7, le=64, description="At the longest focal length, where it differs."
    )
    aperture_narrowest_long: float | None = Field(None, ge=0.7, le=128, description="The same, stopped down.")
    electronic_aperture: bool = True
    weight_kg: float = Field(0.4, gt=0, le=50)
    closest_m: float = Field(0.25, gt=0, le=100, description="Nearest that it focuses.")
    focus_marks: tuple[FocusMark, ...] = Field(
        (), max_length=40, description="Points on its own scale whose distance is known; three at least, or none."
    )

    @model_validator(mode="after")
    def _ordered(self) -> Self:
        if self.focal_length_max_mm < self.focal_length_min_mm:
            raise ValueError("focal_length_max_mm must be at least focal_length_min_mm.")
        if self.aperture_narrowest < self.aperture_widest:
            raise ValueError("aperture_narrowest must be at least aperture_widest.")
        if (self.aperture_narrowest_long or self.aperture_narrowest) < (
            self.aperture_widest_long or self.aperture_widest
        ):
            raise ValueError("aperture_narrowest_long must be at least aperture_widest_long.")
        marks = sorted(self.focus_marks, key=lambda mark: mark.scale)
        if marks and len(marks) < 3:
            raise ValueError("focus_marks must be three at least, or none.")
        distances = [mark.distance_m for mark in marks]
        if distances != sorted(set(distances)) and distances != sorted(set(distances), reverse=True):
            raise ValueError("focus_marks must go one way along the scale, each at a distance of its own.")
        return self

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


AxisName = Literal["slide", "lift", "pan", "tilt", "roll", "zoom", "focus"]
AXES: tuple[AxisName, ...] = ("slide", "lift", "pan", "tilt", "roll", "zoom", "focus")
AXIS_UNITS: dict[AxisName, str] = {
    "slide": "mm", "lift": "mm", "pan": "°", "tilt": "°", "roll": "°", "zoom": "mm", "focus": "m",
}  # fmt: skip


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

    @model_validator(mode="after")
    def _ordered(self) -> Self:
        if self.high <= self.low:
            raise ValueError("high must lie above low.")
        return self


class Mover(Gear):
    """A slider, a lift, a head, a motor on a ring: axes that move together."""

    kind: Literal["mover"] = "mover"
    axes: tuple[Axis, ...] = Field(min_length=1, max_length=7)
    weight_kg: float = Field(2.0, ge=0, le=500)
    payload_kg: float = Field(4.0, gt=0, le=1_000, description="What it may carry.")
    incline_deg: float = Field(0.0, ge=0, le=90, description="Steepest slope that it climbs with its payload.")
    moving_w: float = Field(12.0, ge=0, le=5_000)
    idle_w: float = Field(1.0, ge=0, le=5_000)

    @model_validator(mode="after")
    def _once_each(self) -> Self:
        names = [axis.name for axis in self.axes]
        if len(set(names)) < len(names):
            raise ValueError("Each axis can be there only once.")
        return self


class Kit(Document):
    """The gear of one shot. `movers` stand on each other, from the ground up; the body on the last."""

    body: Body
    lens: Lens
    card: Card
    filters: tuple[Filter, ...] = Field((), max_length=8, description="Filters that are carried.")
    movers: tuple[Mover, ...] = Field((), max_length=5)

    @model_validator(mode="after")
    def _once_each(self) -> Self:
        ids = [piece.id for piece in self.pieces]
        if len(set(ids)) < len(ids):
            raise ValueError("Each piece of gear can be carried only once.")
        names = [axis.name for mover in self.movers for axis in mover.axes]
        if len(set(names)) < len(names):
            raise ValueError("movers must not have an axis twice.")
        return self

    @property
    def axes(self) -> dict[AxisName, Axis]:
        """All axes of the rig by name, in their usual order."""
        found = {axis.name: axis for mover in self.movers for axis in mover.axes}
        return {name: found[name] for name in AXES if name in found}

    @property
    def pieces(self) -> tuple[Gear, ...]:
        """All gear of the shot."""
        return (self.body, self.lens, self.card, *self.filters, *self.movers)


# Gathering the names reads a whole folder tree, so it is done once.
_ZONES = frozenset(available_timezones())


def _known_zone(name: str) -> str:
    if name not in _ZONES:
        raise ValueError("An IANA time zone such as Europe/London is needed.")
    return name


TimeOfDay = Annotated[str, Field(pattern=r"^([01]\d|2[0-3]):[0-5]\d(:[0-5]\d)?$")]


class Window(Document):
    """The hours, on the place's clock, in which one may be there; it may cross midnight."""

    opens: TimeOfDay
    closes: TimeOfDay
    reason: str = Field("", max_length=200)


class HorizonPoint(Document):
    """The height of the skyline in one direction; between points it is a straight line."""

    azimuth_deg: float = Field(ge=0, lt=360)
    altitude_deg: float = Field(ge=-5, le=80)


class Place(Document):
    """Where a shot is taken."""

    id: UUID = Field(default_factory=uuid4)
    name: Name
    latitude_deg: float = Field(ge=-90, le=90, description="North positive.")
    longitude_deg: float = Field(ge=-180, le=180, description="East positive.")
    elevation_m: float = Field(0.0, ge=-500, le=9_000)
    time_zone: Annotated[str, AfterValidator(_known_zone)] = "UTC"
    horizon: tuple[HorizonPoint, ...] = Field((), max_length=72)
    sky_brightness: float = Field(
        21.0, ge=14, le=22.5, description="Night sky at the zenith, mag/arcsec²; 21.7 is natural."
    )
    temperature_c: float = Field(10.0, ge=-60, le=60, description="Coldest that is expected.")
    window: Window | None = None
    note: str = Field("", max_length=2_000)


SunEventName = Literal[
    "sunrise", "sunset", "civil dawn", "civil dusk", "nautical dawn", "nautical dusk",
    "astronomical dawn", "astronomical dusk",
]  # fmt: skip


class ClockStart(Document):
    """Start at a time on the place's clock, on the shot's date."""

    by: Literal["clock"] = "clock"
    time: TimeOfDay


class SunStart(Document):
    """Start at, before or after what the sun does on the shot's date."""

    by: Literal["sun"] = "sun"
    event: SunEventName
    offset_s: int = Field(0, ge=-86_400, le=86_400)


class InstantStart(Document):
    """Start at one instant, in seconds since 1970 (UTC); how a run that was started now is kept."""

    by: Literal["instant"] = "instant"
    epoch_s: float = Field(ge=-2_200_000_000, le=2_500_000_000)


Start = Annotated[ClockStart | SunStart | InstantStart, Field(discriminator="by")]


class Framing(Document):
    """Where the camera looks and how wide."""

    heading_deg: float = Field(270.0, ge=0, lt=360, description="Azimuth, clockwise from north.")
    tilt_deg: float = Field(8.0, ge=-90, le=90, description="Up is positive.")
    focal_length_mm: float | None = Field(None, ge=1, le=2_000, description="On a zoom; else the lens's shortest.")


Cloud = Literal["clear", "haze", "light cloud", "overcast"]


School = Literal["fixed", "automatic", "aperture priority", "stepped", "continuous"]


class Reading(Document):
    """One meter reading of the scene, which calibrates its light: settings that were right, or lux.

    `at_s` is when it was taken, `cloud` what the sky was then, `by` who took it and with what.
    """

    at_s: float = Field(ge=-2_200_000_000, le=2_500_000_000, description="Seconds since 1970, UTC.")
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

    school: School = "continuous"
    shutter_s: Exact = Field(gt=0, le=7_200, default=Fraction(20))
    aperture: float = Field(4.0, ge=0.7, le=128)
    iso: int = Field(100, ge=6, le=3_276_800)
    iso_ceiling: int = Field(3_200, ge=6, le=3_276_800)
    aperture_open: float | None = Field(None, ge=0.7, le=128, description="How far a ramp may open the aperture.")
    compensation_stops: float = Field(0.0, ge=-5, le=5, description="In automatic modes; positive is brighter.")
    dead_band_stops: float = Field(0.25, ge=0.05, le=3, description="What a stepped ramp lets pass before it steps.")
    hysteresis_stops: float = Field(0.2, ge=0, le=3, description="As much more before it turns round.")
    hold_frames: int = Field(4, ge=1, le=10_000, description="Least number of frames between two steps.")
    rate_stops_per_min: float = Field(2.0, gt=0, le=100, description="Fastest change that a ramp makes.")
    keys: tuple[LightKey, ...] = Field((), max_length=200)
    noise_reduction: bool = Field(False, description="A dark frame as long as the shutter follows.")
    white_balance: Literal["fixed", "ramp", "automatic"] = "fixed"
    white_balance_k: int = Field(4_800, ge=1_500, le=15_000, description="Held, or by day where it ramps.")
    white_balance_night_k: int = Field(3_900, ge=1_500, le=15_000)
    white_balance_step_k: int = Field(50, ge=1, le=2_000)
    filters: tuple[UUID, ...] = Field((), max_length=4, description="Filters of the kit that begin on the lens.")
    filters_off: Start | None = Field(None, description="When they are taken off.")
    angle_deg: float | None = Field(
        None, gt=0, le=360, description="Wanted shutter angle; none: blur, if any, is added later."
    )
    scene: Literal["sky", "ground"] = Field(
        "sky", description="A bright sky in the frame reads above the light on the ground."
    )
    scene_offset_stops: float | None = Field(None, ge=-15, le=15, description="Replaces the usual offset of the scene.")
    reading: Reading | None = Field(None, description="A meter reading, which replaces any other offset.")
    cloud: Cloud = "clear"

    @model_validator(mode="after")
    def _ordered(self) -> Self:
        moments = [key.after_s for key in self.keys]
        if moments != sorted(set(moments)):
            raise ValueError("keys must stand at different moments, in order.")
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
            raise ValueError("day_above_deg must lie above night_below_deg.")
        return self


class Ease(Document):
    """How a leg begins or ends: at once, by an even ramp of so many seconds, or with least jerk.

    Least jerk without seconds takes half of the leg.
    """

    kind: Literal["none", "linear", "jerk"] = "jerk"
    s: float | None = Field(None, gt=0, le=1e6)

    @model_validator(mode="after")
    def _whole(self) -> Self:
        if self.kind == "linear" and self.s is None:
            raise ValueError("s is needed: how many seconds the ramp takes.")
        return self


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


class RidgeEvent(Document):
    """When the sun goes behind, or comes over, the raised horizon of the place during the shot."""

    by: Literal["ridge"] = "ridge"
    event: Literal["sun behind the ridge", "sun over the ridge"] = "sun behind the ridge"


Moment = Annotated[AfterStart | FilmTime | FrameNumber | RidgeEvent | ClockStart | SunStart, Field(discriminator="by")]


class MoveKey(Document):
    """Where the axes stand at a moment; they stay for `hold_s`, then leave for the next key.

    Focus is a distance in metres; an axis that is not named stays where the key before had it.
    """

    at: Moment
    positions: dict[AxisName, float] = Field(min_length=1)
    hold_s: float = Field(0.0, ge=0, le=40_000_000)
    arrive: Ease = Ease.model_validate({})
    leave: Ease = Ease.model_validate({})


class Thing(Document):
    """Something before the camera, on the move table: mm to the right of the slider's zero, mm ahead.

    `base_mm` is its foot above (or below) the lens when the lift stands at zero.
    """

    name: Name
    role: Literal["subject", "foreground", "background"] = "subject"
    x_mm: float = Field(ge=-1e7, le=1e7)
    y_mm: float = Field(ge=-1e7, le=1e7)
    width_mm: float = Field(600.0, gt=0, le=1e6)
    height_mm: float = Field(1_700.0, gt=0, le=1e6)
    base_mm: float = Field(-1_200.0, ge=-1e6, le=1e6)


class AimLock(Document):
    """A thing that pan and tilt keep at one place of the picture, parts from its left and top."""

    thing: Name
    across: float = Field(0.5, ge=0, le=1)
    down: float = Field(0.5, ge=0, le=1)


MOST_THINGS = 40


class Move(Document):
    """How the rig moves: shoot–move–settle, continuously, or at live speed (filmed as it happens)."""

    kind: Literal["stepwise", "continuous", "live"] = "continuous"
    path: Literal["legs", "smooth"] = Field("legs", description="Leg by leg with eases, or one path through all keys.")
    keys: tuple[MoveKey, ...] = Field((), max_length=200)
    repeat: Literal["once", "loop", "ping-pong"] = "once"
    aim: AimLock | None = None
    things: tuple[Thing, ...] = Field((), max_length=MOST_THINGS)
    blur_limit_px: float = Field(6.0, gt=0, le=10_000)
    incline_deg: float = Field(0.0, ge=0, le=90, description="How steeply the slider stands.")
    on_stall: Literal["end", "hold"] = Field("end", description="End the run, or go on shooting where the rig stands.")

    @model_validator(mode="after")
    def _known(self) -> Self:
        names = [thing.name for thing in self.things]
        if len(set(names)) < len(names):
            raise ValueError("things must have names of their own.")
        if self.aim is not None and self.aim.thing not in names:
            raise ValueError("aim.thing must name one of the things.")
        return self


class Shot(Document):
    """What is planned, with all that is needed to compile it."""

    format: Literal["revani.shot/1"] = "revani.shot/1"
    id: UUID = Field(default_factory=uuid4)
    name: Name
    date: date
    start: Start
    timing: Timing
    pace: Pace | None = Field(None, description="None: one interval throughout.")
    light: Light = Light.model_validate({})
    framing: Framing = Framing.model_validate({})
    move: Move | None = None
    needs_dark: bool = Field(False, description="Stars or aurora: only the astronomical night counts.")
    moonlight_up_to: float = Field(
        0.25, ge=0, le=1, description="Lit part of the moon that may be up while stars are filmed."
    )
    trails: bool = Field(False, description="Star trails are wanted: stars may move within a frame.")
    kit: Kit
    place: Place
    note: str = Field("", max_length=10_000)

    @model_validator(mode="after")
    def _plannable(self) -> Self:
        if not FIRST_YEAR <= self.date.year <= LAST_YEAR:
            raise ValueError(f"date must lie from {FIRST_YEAR} to {LAST_YEAR}, the years of the ephemeris.")
        carried = {one.id for one in self.kit.filters}
        if not set(self.light.filters) <= carried:
            raise ValueError("light.filters must name filters of the kit.")
        return self

    @property
    def live(self) -> bool:
        """Whether it is filmed at real speed rather than frame by frame."""
        return self.move is not None and self.move.kind == "live"

    @property
    def focal_length_mm(self) -> float:
        """The focal length that is used."""
        return self.framing.focal_length_mm or self.kit.lens.focal_length_min_mm
