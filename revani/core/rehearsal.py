"""A program against a modelled rig, in no time: what is left at the end, where it would have stopped."""

from typing import Literal

import numpy as np
from pydantic import BaseModel, ConfigDict, Field

from revani.core.program import Program, card_capacity_bytes
from revani.core.units import count, duration, gigabytes

End = Literal["whole", "battery empty", "card full"]


class Outcome(BaseModel):
    """What a program would come to. Fractions are of what the battery gives at the place's temperature."""

    model_config = ConfigDict(frozen=True)

    end: End
    frame_count: int
    frames_taken: int
    frames_blocked: int = Field(description="Frames that found the camera still writing, its buffer full.")
    ends_at_s: float = Field(description="When the last frame's slot is over, seconds since 1970 UTC.")
    film_s: float
    battery_left: float
    card_free_bytes: int
    most_in_buffer: int
    told: str


def rehearse(program: Program) -> Outcome:
    """Run a program against the modelled battery, card and buffer of its kit.

    The camera stops for good with an empty battery or a full card; with a full buffer it lets
    frames go by until the card has taken one. A frame is written as fast as the card can; a film at
    live speed is one stream, which waits for no buffer.
    """
    shot, n = program.shot, program.frame_count
    number = np.arange(n)
    frame_bytes = float(program.card_bytes[0])
    write_s = 0.0 if shot.live else frame_bytes / (shot.kit.card.write_mb_s * 1e6)
    # By frame k the card has taken ⌊t_k / write_s⌋, and as many more as the buffer holds are in hand.
    written = np.floor(program.t_s / write_s) if write_s else number + 1.0
    room = shot.kit.body.buffer_frames + written
    stored = np.minimum(number + 1, room).astype(np.int64)
    taken = np.diff(stored, prepend=0) > 0
    capacity = card_capacity_bytes(shot)
    full = np.cumsum(taken) * frame_bytes > capacity
    empty = program.battery_left < 0
    card_at = int(np.argmax(full)) if full.any() else n
    battery_at = int(np.argmax(empty)) if empty.any() else n
    stop = min(card_at, battery_at)
    end: End = "whole" if stop == n else "card full" if card_at <= battery_at else "battery empty"
    got = int(taken[:stop].sum())
    last = max(stop - 1, 0)
    in_buffer = stored[:stop] - np.minimum(stored[:stop], written[:stop])
    ends_at = float(program.at_s[last] + program.slot_s[last])
    outcome = Outcome(
        end=end,
        frame_count=n,
        frames_taken=got,
        frames_blocked=stop - got,
        ends_at_s=ends_at,
        film_s=float(got / program.timing.fps),
        battery_left=float(max(program.battery_left[last], 0.0)) if stop else 0.0,
        card_free_bytes=capacity - round(got * frame_bytes),
        most_in_buffer=int(in_buffer.max()) if stop else 0,
        told="",
    )
    return outcome.model_copy(update={"told": _told(outcome, f"{program.local(ends_at):%H:%M}")})


def _told(outcome: Outcome, clock: str) -> str:
    frames = f"{outcome.frames_taken:,} of {count(outcome.frame_count, 'frame')}"
    if outcome.end == "whole" and not outcome.frames_blocked:
        return (
            f"It would end at {clock} with all {count(outcome.frame_count, 'frame')}, "
            f"{outcome.battery_left:.0%} of the battery and {gigabytes(outcome.card_free_bytes)} of the card left."
        )
    why = {
        "battery empty": f"the battery is empty at {clock}",
        "card full": f"the card is full at {clock}",
        "whole": f"{count(outcome.frames_blocked, 'frame')} find the buffer full",
    }[outcome.end]
    return f"It would come to {frames}, {duration(round(outcome.film_s, 1))} of film: {why}."
