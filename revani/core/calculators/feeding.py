"""Cards, chapters and batteries."""

from typing import Annotated

from pydantic import Field

from revani.core.calculators.registry import Answer, Ask, ExactSeconds, calculator
from revani.core.feed import battery as energy
from revani.core.feed import card as cards
from revani.core.feed import dew
from revani.core.quantities.units import Exact


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


@calculator
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


@calculator
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


@calculator
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


class DewAsk(Ask):
    """The air about a lens."""

    temperature_c: Annotated[float, Field(ge=-60, le=60)]
    humidity_percent: Annotated[float, Field(gt=0, le=100)]


class DewAnswer(Answer):
    """Where it falls out."""

    dew_point_c: float


@calculator
def dew_point(ask: DewAsk) -> DewAnswer:
    """The dew point: a lens that is colder than that gets wet."""
    return DewAnswer(dew_point_c=float(dew.dew_point_c(ask.temperature_c, ask.humidity_percent)))


class BankAsk(Ask):
    """A power bank and what hangs on it."""

    capacity_wh: Annotated[float, Field(gt=0, le=1e6)]
    conversion: Annotated[float, Field(gt=0, le=1)]
    temperature_factor: Annotated[float, Field(gt=0, le=1)]
    load_w: Annotated[float, Field(ge=0, le=1e6)]
    cut_off_w: Annotated[float, Field(ge=0, le=1e6)]


class BankAnswer(Answer):
    """How long it lasts, or would, and whether it switches off because too little is drawn."""

    runtime_s: float | None
    switches_off: bool


@calculator
def power_bank(ask: BankAsk) -> BankAnswer:
    """How long a power bank feeds a load, and whether it switches off under it."""
    runtime = energy.bank_runtime_s(ask.capacity_wh, ask.conversion, ask.temperature_factor, ask.load_w)
    return BankAnswer(runtime_s=runtime, switches_off=ask.load_w < ask.cut_off_w)
