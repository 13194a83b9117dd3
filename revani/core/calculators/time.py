"""Timing, and the film of a walk."""

from fractions import Fraction
from math import log2
from typing import Annotated

from pydantic import Field

from revani.core.calculators.registry import Answer, Ask, ExactOrNone, ExactSeconds, calculator
from revani.core.documents.timing import QUANTITIES, Timing
from revani.core.quantities.refusal import Refusal
from revani.core.quantities.units import Exact, Rate, plain, plain_rate
from revani.core.timing.law import solve
from revani.core.walk import film as walk


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


@calculator
def timing(ask: Timing) -> TimingAnswer:
    """All of a shot's timing from any quantities that determine it."""
    solved = solve(ask)
    numbers = {name: getattr(solved, name) for name in (*QUANTITIES, "speed_up", "last_frame_at_s")}
    exact = {name: float(value) for name, value in numbers.items() if name != "frame_count"}
    return TimingAnswer(frame_count=solved.frame_count, fps_text=plain_rate(solved.fps), told=solved.told, **exact)


class WalkAsk(Ask):
    """A walk filmed and sped up between its head and its tail."""

    walk_s: ExactSeconds
    speed_up: Annotated[Exact, Field(gt=0, le=10_000)]
    normal_head_s: ExactOrNone
    normal_tail_s: ExactOrNone


class PlaybackAnswer(Answer):
    """How long the film is."""

    playback_s: float


@calculator
def speed_section(ask: WalkAsk) -> PlaybackAnswer:
    """The film of a sped-up walk with its ends at normal speed."""
    if ask.normal_head_s + ask.normal_tail_s > ask.walk_s:
        raise Refusal("normal_head_s", f"Head and tail together must fit into the walk, {plain(ask.walk_s)} s.")
    seconds = walk.sped_up_playback_s(ask.walk_s, ask.speed_up, ask.normal_head_s, ask.normal_tail_s)
    return PlaybackAnswer(playback_s=float(seconds))


class SlowAsk(Ask):
    """A film that is recorded faster than it is played."""

    recording_fps: Annotated[Rate, Field(ge=Fraction(1, 100), le=100_000)]
    playback_fps: Annotated[Rate, Field(ge=Fraction(1, 100), le=100_000)]
    angle_deg: Annotated[float, Field(gt=0, le=360)]


class SlowAnswer(Answer):
    """By how much it is slowed, the shutter of that angle, and the light that it wants over the playback rate's."""

    factor: float
    shutter_s: float
    stops_needed: float


@calculator
def slow_motion(ask: SlowAsk) -> SlowAnswer:
    """Slow motion: factor, shutter, and how much more light it wants."""
    if ask.playback_fps > ask.recording_fps:
        raise Refusal("playback_fps", f"At most the recording rate, {plain_rate(ask.recording_fps)} fps.")
    factor = ask.recording_fps / ask.playback_fps
    return SlowAnswer(
        factor=float(factor), shutter_s=ask.angle_deg / 360 / float(ask.recording_fps), stops_needed=log2(factor)
    )
