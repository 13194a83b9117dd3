"""The named calculators: one registry, from which the command line, the API and the reference page come."""

from collections.abc import Callable
from dataclasses import dataclass
from datetime import UTC, date, datetime
from fractions import Fraction
from math import log2, log10
from typing import Annotated, Any

from pydantic import AwareDatetime, BaseModel, ConfigDict, Field, ValidationError

from revani.core import card as cards
from revani.core import energy, night, optics, reframe, walk
from revani.core import exposure as exposures
from revani.core.documents import FIRST_YEAR, LAST_YEAR, Document, Place
from revani.core.light import ev100_of_illuminance, illuminance_lx, scene_ev100, sun_illuminance_lx
from revani.core.motion import Trapezoid, aim_pan_deg, minimum_jerk_peaks
from revani.core.refusal import Refusal
from revani.core.sky import sky_over, sun_events_of
from revani.core.timing import QUANTITIES, Timing
from revani.core.units import Exact, plain, plain_rate


class Ask(Document):
    """Base of what is asked; unknown fields and numbers that are none are refused."""


class Answer(BaseModel):
    """Base of what is answered."""

    model_config = ConfigDict(frozen=True)


@dataclass(frozen=True)
class Calculator:
    """A name, what it asks, what it answers, and the pure function between."""

    name: str
    summary: str
    ask: type[BaseModel]
    answer: type[BaseModel]
    work: Callable[[Any], BaseModel]


CALCULATORS: dict[str, Calculator] = {}


def _calculator(work: Callable[[Any], BaseModel]) -> Callable[[Any], BaseModel]:
    """Register a function by its name and its annotations."""
    hints = work.__annotations__
    summary = (work.__doc__ or "").split("\n")[0]
    CALCULATORS[work.__name__] = Calculator(work.__name__, summary, hints["ask"], hints["return"], work)
    return work


def calculate(name: str, given: dict[str, Any]) -> dict[str, Any]:
    """The answer of a calculator as plain JSON values. Raises Refusal at the field at fault."""
    calculator = CALCULATORS.get(name)
    if calculator is None:
        raise Refusal("name", f"One of: {', '.join(CALCULATORS)}.", name)
    try:
        return calculator.work(calculator.ask.model_validate(given)).model_dump(mode="json")
    except ValidationError as error:
        fault = error.errors()[0]
        path = ".".join(str(part) for part in fault["loc"])
        raise Refusal(path, fault["msg"].removeprefix("Value error, "), fault.get("input")) from None
    except OverflowError:
        raise Refusal("", "These numbers are too large together.") from None


# The bounds keep every answer finite and within what a rig on this planet could mean.
Seconds = Annotated[float, Field(gt=0, le=1e9)]
SecondsOrNone = Annotated[float, Field(ge=0, le=1e9)]
Millimetres = Annotated[float, Field(gt=0, le=1e7)]
Place1D = Annotated[float, Field(ge=-1e7, le=1e7)]
Metres = Annotated[float, Field(gt=0, le=1e9)]
FocalLength = Annotated[float, Field(gt=0, le=20_000)]
FNumber = Annotated[float, Field(gt=0, le=1_000)]
Micrometres = Annotated[float, Field(gt=0, le=1_000)]
Pixels = Annotated[int, Field(ge=1, le=1_000_000)]
Declination = Annotated[float, Field(gt=-90, lt=90)]
Latitude = Annotated[float, Field(ge=-90, le=90)]
Longitude = Annotated[float, Field(ge=-180, le=180)]
ExactSeconds = Annotated[Exact, Field(gt=0, le=10**9)]
ExactOrNone = Annotated[Exact, Field(ge=0, le=10**9)]


class TimingAnswer(Answer):
    """Interval, frames, playback and event, consistent with each other."""

    fps: float
    fps_text: str
    interval_s: float
    frame_count: int
    playback_s: float
    event_s: float
    speed_up: float
    last_frame_at_s: float
    told: dict[str, str]


@_calculator
def timing(ask: Timing) -> TimingAnswer:
    """All of a shot's timing from any quantities that determine it."""
    solved = ask.solve()
    numbers = {name: getattr(solved, name) for name in (*QUANTITIES, "speed_up", "last_frame_at_s")}
    exact = {name: float(value) for name, value in numbers.items() if name != "frame_count"}
    return TimingAnswer(frame_count=solved.frame_count, fps_text=plain_rate(solved.fps), told=solved.told, **exact)


class MoveAsk(Ask):
    """A move with even speed ramps."""

    distance_mm: Millimetres
    duration_s: Seconds
    ramp_up_s: SecondsOrNone
    ramp_down_s: SecondsOrNone
    positions_at_s: list[Annotated[float, Field(ge=0, le=1e9)]] = Field([], max_length=10_000)


class MoveAnswer(Answer):
    """Peaks of the move, and where it stands at the times asked for; null: no ramp, so no finite figure."""

    peak_speed_mm_s: float
    acceleration_mm_s2: float | None
    deceleration_mm_s2: float | None
    positions_mm: list[float]


@_calculator
def move_profile(ask: MoveAsk) -> MoveAnswer:
    """Peak speed, acceleration and positions of a move with linear speed ramps."""
    move = Trapezoid(ask.distance_mm, ask.duration_s, ask.ramp_up_s, ask.ramp_down_s)
    return MoveAnswer(
        peak_speed_mm_s=move.peak_speed_mm_s, acceleration_mm_s2=move.acceleration_mm_s2,
        deceleration_mm_s2=move.deceleration_mm_s2, positions_mm=move.position_mm(ask.positions_at_s).tolist(),
    )  # fmt: skip


class JerkAsk(Ask):
    """A move of minimum jerk."""

    distance_mm: Millimetres
    duration_s: Annotated[float, Field(ge=1e-3, le=1e9)]


class JerkAnswer(Answer):
    """Peaks of the move."""

    peak_speed_mm_s: float
    peak_acceleration_mm_s2: float


@_calculator
def minimum_jerk(ask: JerkAsk) -> JerkAnswer:
    """Peak speed and acceleration of a minimum-jerk move."""
    speed, acceleration = minimum_jerk_peaks(ask.distance_mm, ask.duration_s)
    return JerkAnswer(peak_speed_mm_s=speed, peak_acceleration_mm_s2=acceleration)


class AimAsk(Ask):
    """A target in the slider's plan view and places along the slider; y is straight ahead."""

    target_x_mm: Place1D
    target_y_mm: Place1D
    x_mm: list[Place1D] = Field(min_length=1, max_length=10_000)


class AimAnswer(Answer):
    """Pan a place, clockwise from straight ahead."""

    pan_deg: list[float]


@_calculator
def aim(ask: AimAsk) -> AimAnswer:
    """The pan that keeps a target in the middle from every place along a slider."""
    if ask.target_y_mm == 0 and ask.target_x_mm in ask.x_mm:
        raise Refusal("target_y_mm", "The target must not stand where the camera does.", ask.target_y_mm)
    return AimAnswer(pan_deg=aim_pan_deg(ask.target_x_mm, ask.target_y_mm, ask.x_mm).tolist())


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


@_calculator
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


@_calculator
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


@_calculator
def parallax(ask: ParallaxAsk) -> ParallaxAnswer:
    """How far near and far things shift in the picture in one step of a slider."""
    if ask.far_m < ask.near_m:
        raise Refusal("far_m", f"At least near_m, {ask.near_m:g} m.", ask.far_m)
    near, far = optics.parallax_px(
        ask.focal_length_mm, ask.pixel_pitch_um, ask.slider_step_mm, [ask.near_m, ask.far_m]
    ).tolist()
    return ParallaxAnswer(near_px=near, far_px=far, difference_px=near - far)


class StarAsk(Ask):
    """A lens on the stars."""

    focal_length_mm: FocalLength
    aperture: FNumber
    pixel_pitch_um: Micrometres
    declination_deg: Declination
    crop_factor: Annotated[float, Field(gt=0, le=100)]


class StarAnswer(Answer):
    """How long stars stay points, by both rules, and their drift."""

    rule_500_s: float
    npf_s: float
    drift_px_per_s: float


@_calculator
def star_limit(ask: StarAsk) -> StarAnswer:
    """The longest shutter that keeps stars points, by both rules, and how fast they drift."""
    return StarAnswer(
        rule_500_s=night.rule_500_s(ask.focal_length_mm, ask.crop_factor),
        npf_s=night.npf_s(ask.focal_length_mm, ask.aperture, ask.pixel_pitch_um, ask.declination_deg),
        drift_px_per_s=night.drift_px_per_s(ask.focal_length_mm, ask.pixel_pitch_um, ask.declination_deg),
    )


class TrailAsk(Ask):
    """An arc that trails shall cover."""

    arc_deg: Annotated[float, Field(gt=0, le=3_600)]


class DurationAnswer(Answer):
    """How long it takes."""

    duration_s: float


@_calculator
def star_trail(ask: TrailAsk) -> DurationAnswer:
    """How long stars take to draw an arc."""
    return DurationAnswer(duration_s=night.trail_duration_s(ask.arc_deg))


class ExposureAsk(Ask):
    """Camera settings, taken at their face."""

    aperture: FNumber
    shutter_s: Annotated[Exact, Field(ge=Fraction(1, 10**9), le=10**7)]
    iso: Annotated[float, Field(ge=0.01, le=1e9)]


class EvAnswer(Answer):
    """An exposure value at ISO 100."""

    ev100: float


@_calculator
def exposure(ask: ExposureAsk) -> EvAnswer:
    """The exposure value, at ISO 100, of camera settings."""
    return EvAnswer(ev100=float(exposures.ev100(ask.aperture, float(ask.shutter_s), ask.iso)))


class NdAsk(Ask):
    """Neutral-density filters, stacked, by their factors."""

    factors: list[Annotated[float, Field(ge=1, le=1e9)]] = Field(min_length=1, max_length=10)


class NdAnswer(Answer):
    """What the stack takes away."""

    stops: float
    density: float
    combined_factor: float


@_calculator
def nd(ask: NdAsk) -> NdAnswer:
    """Stops, density and factor of stacked neutral-density filters."""
    factor = 1.0
    for one in ask.factors:
        factor *= one
    return NdAnswer(stops=log2(factor), density=log10(factor), combined_factor=factor)


class LuxAsk(Ask):
    """Light on a surface."""

    illuminance_lx: Annotated[float, Field(ge=1e-9, le=1e9)]


@_calculator
def illuminance_to_ev(ask: LuxAsk) -> EvAnswer:
    """The exposure value of an incident illuminance."""
    return EvAnswer(ev100=float(ev100_of_illuminance(ask.illuminance_lx)))


class AltitudeAsk(Ask):
    """How high the sun stands."""

    sun_altitude_deg: Annotated[float, Field(ge=-90, le=90)]


class LuxAnswer(Answer):
    """Light on level ground."""

    illuminance_lx: float


@_calculator
def illuminance(ask: AltitudeAsk) -> LuxAnswer:
    """The sun's light on level ground at an altitude."""
    return LuxAnswer(illuminance_lx=float(sun_illuminance_lx(ask.sun_altitude_deg)))


class SkyAsk(Ask):
    """A place, east positive, and an instant with its offset."""

    latitude_deg: Latitude
    longitude_deg: Longitude
    elevation_m: Annotated[float, Field(ge=-500, le=9_000)]
    at: AwareDatetime


class SkyAnswer(Answer):
    """Sun and moon, airless and topocentric, and the light of both and the night."""

    sun_altitude_deg: float
    sun_azimuth_deg: float
    moon_altitude_deg: float
    moon_azimuth_deg: float
    moon_illuminated_fraction: float
    illuminance_lx: float
    ev100: float


def _in_range(path: str, year: int) -> None:
    if not FIRST_YEAR <= year <= LAST_YEAR:
        raise Refusal(path, f"A date from {FIRST_YEAR} to {LAST_YEAR}, the years of the ephemeris.", year)


@_calculator
def sky(ask: SkyAsk) -> SkyAnswer:
    """Where sun and moon stand, and how much light there is under a clear natural sky."""
    _in_range("at", ask.at.year)
    place = Place(
        name="here", latitude_deg=ask.latitude_deg, longitude_deg=ask.longitude_deg, elevation_m=ask.elevation_m,
        sky_brightness=21.7,
    )  # fmt: skip
    at = ask.at.timestamp()
    over = sky_over(place, at, at + 60)
    sun, moon = over.sun(at), over.moon(at)
    return SkyAnswer(
        sun_altitude_deg=float(sun.altitude_deg), sun_azimuth_deg=float(sun.azimuth_deg),
        moon_altitude_deg=float(moon.altitude_deg), moon_azimuth_deg=float(moon.azimuth_deg),
        moon_illuminated_fraction=float(over.moon_illuminated_fraction(at)),
        illuminance_lx=float(illuminance_lx(over, at, place.sky_brightness)),
        ev100=float(scene_ev100(over, at, place.sky_brightness, "clear", 0.0)),
    )  # fmt: skip


class TwilightAsk(Ask):
    """A place and a civil date on its clock."""

    latitude_deg: Latitude
    longitude_deg: Longitude
    date: date
    time_zone: str


class TwilightAnswer(Answer):
    """UTC instants on that civil date, or null where there is none."""

    sunrise: datetime | None
    sunset: datetime | None
    civil_dawn: datetime | None
    civil_dusk: datetime | None
    nautical_dawn: datetime | None
    nautical_dusk: datetime | None
    astronomical_dawn: datetime | None
    astronomical_dusk: datetime | None


@_calculator
def twilight(ask: TwilightAsk) -> TwilightAnswer:
    """Rise, set and twilights of a civil date."""
    _in_range("date", ask.date.year)
    place = Place.model_validate(
        {"name": "here"} | {name: getattr(ask, name) for name in ("latitude_deg", "longitude_deg", "time_zone")}
    )
    events = sun_events_of(place, ask.date)
    return TwilightAnswer.model_validate(
        {name.replace(" ", "_"): at and datetime.fromtimestamp(at, UTC) for name, at in events.items()}
    )


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


@_calculator
def crop(ask: CropAsk) -> CropAnswer:
    """Room and resolution of a crop; zoom 1 is the largest crop with the output's shape."""
    cut = reframe.crop(ask.source_width_px, ask.source_height_px, ask.output_width_px, ask.output_height_px, ask.zoom)
    return CropAnswer(
        crop_width_px=float(cut.width_px), crop_height_px=float(cut.height_px),
        max_lossless_zoom=float(cut.max_lossless_zoom), pan_room_each_side_fraction=float(cut.pan_room_each_side),
        upscale_factor=float(cut.upscale),
    )  # fmt: skip


class WalkAsk(Ask):
    """A walk filmed and sped up between its head and its tail."""

    walk_s: ExactSeconds
    speed_up: Annotated[Exact, Field(gt=0, le=10_000)]
    normal_head_s: ExactOrNone
    normal_tail_s: ExactOrNone


class PlaybackAnswer(Answer):
    """How long the film is."""

    playback_s: float


@_calculator
def speed_section(ask: WalkAsk) -> PlaybackAnswer:
    """The film of a sped-up walk with its ends at normal speed."""
    if ask.normal_head_s + ask.normal_tail_s > ask.walk_s:
        raise Refusal("normal_head_s", f"Head and tail together must fit into the walk, {plain(ask.walk_s)} s.")
    seconds = walk.sped_up_playback_s(ask.walk_s, ask.speed_up, ask.normal_head_s, ask.normal_tail_s)
    return PlaybackAnswer(playback_s=float(seconds))


class CardAsk(Ask):
    """Frames and a card, in decimal gigabytes, with the part that stays free."""

    bytes_per_frame: Annotated[int, Field(ge=1, le=10**12)]
    frame_count: Annotated[int, Field(ge=1, le=10**9)]
    card_gb: Annotated[Exact, Field(gt=0, le=10**6)]
    reserve_fraction: Annotated[Exact, Field(ge=0, lt=1)]


class CardAnswer(Answer):
    """Whether the frames fit."""

    total_bytes: int
    fits: bool
    frames_that_fit: int


@_calculator
def card(ask: CardAsk) -> CardAnswer:
    """Whether frames fit on a card with a reserve."""
    fit = cards.frames_that_fit(ask.bytes_per_frame, ask.card_gb, ask.reserve_fraction)
    return CardAnswer(
        total_bytes=ask.bytes_per_frame * ask.frame_count, fits=ask.frame_count <= fit, frames_that_fit=fit
    )


class ChaptersAsk(Ask):
    """A recording and the size at which its files end."""

    bitrate_mbps: Annotated[Exact, Field(gt=0, le=10**6)]
    duration_s: ExactSeconds
    chapter_bytes: Annotated[int, Field(ge=1_000_000, le=10**15)]


class ChaptersAnswer(Answer):
    """How the recording falls into files."""

    chapter_count: int
    chapter_duration_s: float


@_calculator
def chapters(ask: ChaptersAsk) -> ChaptersAnswer:
    """Into how many files a recording falls, and how long each is."""
    one = cards.chapter_duration_s(ask.bitrate_mbps, ask.chapter_bytes)
    return ChaptersAnswer(chapter_count=cards.chapter_count(ask.duration_s, one), chapter_duration_s=float(one))


class BatteryAsk(Ask):
    """A battery and a camera on an interval."""

    capacity_wh: Annotated[float, Field(gt=0, le=1e6)]
    usable_fraction: Annotated[float, Field(gt=0, le=1)]
    temperature_factor: Annotated[float, Field(gt=0, le=1.2)]
    idle_w: Annotated[float, Field(ge=0, le=1e5)]
    per_frame_j: Annotated[float, Field(ge=0, le=1e6)]
    interval_s: ExactSeconds


class BatteryAnswer(Answer):
    """How long the battery lasts; null where nothing is drawn."""

    average_w: float
    runtime_s: float | None
    frames: int | None


@_calculator
def battery(ask: BatteryAsk) -> BatteryAnswer:
    """How long, and for how many frames, a battery lasts."""
    interval = float(ask.interval_s)
    power = energy.average_w(ask.idle_w, ask.per_frame_j, interval)
    usable = ask.capacity_wh * ask.usable_fraction * ask.temperature_factor
    if power < 1e-12:
        return BatteryAnswer(average_w=power, runtime_s=None, frames=None)
    runtime = energy.runtime_s(usable, power)
    # A hair's breadth over a whole number of frames is float noise, not a frame less.
    return BatteryAnswer(average_w=power, runtime_s=runtime, frames=int(runtime / interval + 1e-9))
