"""Interval, frame count, playback length and event length: one law, solved exactly.

`frame_count = playback_s × fps`, `event_s = frame_count × interval_s`: each frame owns one
interval slot, so the last shutter opens at `(frame_count − 1) × interval_s`.
Source: common practice; the handbook of any interval controller states the same law.
"""

from fractions import Fraction
from math import ceil, floor

import numpy as np
from numpy.typing import NDArray
from pydantic import BaseModel, ConfigDict, Field

from revani.core.documents.timing import LONGEST_EVENT_S, MOST_FRAMES, Quantity, Timing
from revani.core.quantities.refusal import Refusal
from revani.core.quantities.units import Exact, Rate, count, duration, plain_rate

# What is held when a quantity is freed, and what is freed when a solved one is typed over:
# the film wanted and the time that is there matter more than the number that links them.
_HELD_FIRST: tuple[Quantity, ...] = ("event_s", "playback_s", "interval_s", "frame_count", "fps")
_FREED_FIRST: dict[Quantity, tuple[Quantity, ...]] = {
    "event_s": ("interval_s", "playback_s", "frame_count", "fps"),
    "interval_s": ("event_s", "playback_s", "frame_count", "fps"),
    "frame_count": ("playback_s", "event_s", "interval_s", "fps"),
    "playback_s": ("frame_count", "event_s", "interval_s", "fps"),
    "fps": ("frame_count", "playback_s", "interval_s", "event_s"),
}


class Stretch:
    """How wall time is shared out to frames; here evenly. A changing pace overrides this.

    Effective seconds are those that an even interval would have needed.
    """

    def effective_s(self, event_s: Fraction) -> Fraction:
        """What an event is worth, in effective seconds."""
        return event_s

    def event_s(self, effective_s: Fraction) -> Fraction:
        """How long an event of so many effective seconds takes."""
        return effective_s

    def interval_s(self, event_s: Fraction, frame_count: int) -> Fraction:
        """The interval that shares an event out to so many frames."""
        return event_s / frame_count

    def times_s(self, solved: "Solution") -> NDArray[np.float64]:
        """When each frame is due, seconds from the start (n,)."""
        # From the exact fraction, not by repeated addition: frame k stands at k · interval.
        number = np.arange(solved.frame_count, dtype=np.float64)
        return np.asarray(number * solved.interval_s.numerator / solved.interval_s.denominator)


EVEN = Stretch()


class Solution(BaseModel):
    """All of a shot's timing, consistent with itself; `told` says what rounding changed."""

    model_config = ConfigDict(frozen=True)

    fps: Rate
    interval_s: Exact
    frame_count: int
    playback_s: Exact
    event_s: Exact
    speed_up: Exact = Field(description="Seconds of the event shown in a second of film.")
    last_frame_at_s: Exact = Field(description="When the last shutter opens, from the start.")
    told: dict[str, str] = Field(description="By quantity: how it differs from what was asked.")


def solve(timing: Timing, stretch: Stretch = EVEN) -> Solution:
    """Everything from what is wanted; the interval is that of the day where `stretch` changes it.

    Frame counts from playback are rounded to the nearest whole frame (half up), from event
    and interval they are floored, and what was rounded re-derives the rest. Raises Refusal
    naming the field that is missing, contradictory or absurd.
    """
    frame_count = _frames(timing, stretch)
    if not 1 <= frame_count <= MOST_FRAMES:
        path = "playback_s" if timing.playback_s is not None and timing.fps is not None else "event_s"
        allowed = f"Between one frame and {MOST_FRAMES:,} frames are possible, not {frame_count:,}."
        raise Refusal(path, allowed, frame_count)
    if timing.fps is not None:
        fps = timing.fps
    elif timing.playback_s is not None:
        fps = frame_count / timing.playback_s
        if not Fraction(1, 100) <= fps <= 1_000:
            raise Refusal("playback_s", "That would need a playback rate outside 0.01 to 1,000 fps.")
    else:
        raise Refusal("fps", "A playback rate or a playback length is needed.")
    if timing.interval_s is not None:
        interval_s = timing.interval_s
    elif timing.event_s is not None:
        interval_s = stretch.interval_s(timing.event_s, frame_count)
    else:
        raise Refusal("interval_s", "An interval or an event length is needed.")
    event_s = stretch.event_s(frame_count * interval_s)
    solution = Solution(
        fps=fps,
        interval_s=interval_s,
        frame_count=frame_count,
        playback_s=frame_count / fps,
        event_s=event_s,
        speed_up=interval_s * fps,
        last_frame_at_s=stretch.event_s((frame_count - 1) * interval_s),
        told={},
    )
    if solution.event_s > LONGEST_EVENT_S:
        raise Refusal("event_s", f"At most {duration(Fraction(LONGEST_EVENT_S))} can be planned.")
    return solution.model_copy(update={"told": _told(timing, solution, stretch)})


def _frames(timing: Timing, stretch: Stretch) -> int:
    if timing.frame_count is not None:
        return timing.frame_count
    if timing.playback_s is not None and timing.fps is not None:
        return floor(timing.playback_s * timing.fps + Fraction(1, 2))
    if timing.event_s is not None and timing.interval_s is not None:
        return floor(stretch.effective_s(timing.event_s) / timing.interval_s)
    raise Refusal(
        "frame_count",
        "Give a frame count, or a playback length and rate, or an event length and interval.",
    )


def _told(timing: Timing, solved: Solution, stretch: Stretch) -> dict[str, str]:
    told: dict[str, str] = {}
    frames = count(solved.frame_count, "frame")
    if timing.playback_s is not None and timing.playback_s != solved.playback_s:
        if floor(timing.playback_s * solved.fps + Fraction(1, 2)) != solved.frame_count:
            raise Refusal(
                "playback_s",
                f"{frames} at {plain_rate(solved.fps)} fps play for "
                f"{duration(solved.playback_s)}. Leave one of the three out.",
                timing.playback_s,
            )
        told["playback_s"] = (
            f"{duration(timing.playback_s)} at {plain_rate(solved.fps)} fps is {frames}, {duration(solved.playback_s)}"
        )
    if timing.event_s is not None and timing.event_s != solved.event_s:
        if floor(stretch.effective_s(timing.event_s) / solved.interval_s) != solved.frame_count:
            raise Refusal(
                "event_s",
                f"{frames} every {duration(solved.interval_s)} take "
                f"{duration(solved.event_s)}. Leave one of the three out.",
                timing.event_s,
            )
        told["event_s"] = (
            f"{duration(timing.event_s)} holds {frames} every {duration(solved.interval_s)}: {duration(solved.event_s)}"
        )
    return told


def freed(timing: Timing, quantity: Quantity, stretch: Stretch = EVEN) -> Timing:
    """The same timing with `quantity` solved for, and one that was solved held instead."""
    if getattr(timing, quantity) is None:
        return timing
    solved = solve(timing, stretch)
    rest: set[Quantity] = set(timing.wanted()) - {quantity}
    for held in (None, *_HELD_FIRST):
        kept = rest | {held} if held else rest
        if held != quantity and _determines(kept):
            # What was asked for may have been rounded: hold what it became.
            return Timing.model_validate({name: getattr(solved, name) for name in kept})
    raise Refusal(quantity, "This one cannot be solved from the others.")


def with_value(timing: Timing, quantity: Quantity, value: Fraction | int) -> Timing:
    """The same timing with `quantity` wanted; where it was solved, another is freed for it."""
    update: dict[str, object] = {quantity: value}
    rest: set[Quantity] = set(timing.wanted())
    if quantity not in rest and _determines(rest):
        for freed in _FREED_FIRST[quantity]:
            if freed in rest and _determines(rest - {freed} | {quantity}):
                update[freed] = None
                break
    return Timing.model_validate(timing.model_dump(mode="python") | update)


def _determines(wanted: set[Quantity]) -> bool:
    """Whether these quantities determine all five."""
    frames = "frame_count" in wanted or {"playback_s", "fps"} <= wanted or {"event_s", "interval_s"} <= wanted
    return frames and bool({"fps", "playback_s"} & wanted) and bool({"interval_s", "event_s"} & wanted)


def ceil_to(value: Fraction, tick: Fraction) -> Fraction:
    """`value` rounded up to a whole number of ticks."""
    return ceil(value / tick) * tick


def budget_s(
    shutter_s: Fraction,
    overhead_s: Fraction,
    held_times: Fraction | int = 1,
    travel_and_settle_s: Fraction = Fraction(0),
) -> Fraction:
    """Seconds that one frame takes: shutter, so many times, read-out and write, travel and settling."""
    return shutter_s * held_times + overhead_s + travel_and_settle_s


def shortest_interval_s(camera_minimum_s: Fraction, budget: Fraction, tick_s: Fraction) -> Fraction:
    """The shortest interval that body, controller and exposure allow, rounded up once to the tick.

    Whatever this announces is accepted: the judgement compares with the unrounded need.
    """
    return ceil_to(max(camera_minimum_s, budget, tick_s), tick_s)
