"""A program against a modelled rig, in no time: what is left at the end, where it would have stopped."""

from typing import Literal, NamedTuple

import numpy as np
from numpy.typing import NDArray
from pydantic import BaseModel, ConfigDict, Field

from revani.core.feed.energy import Supply
from revani.core.program.compiled import Program, card_capacity_bytes
from revani.core.quantities.units import count, duration, gigabytes

End = Literal["whole", "battery empty", "card full"]


class Outcome(BaseModel):
    """What a program would come to. Fractions are of what the battery gives at the place's temperature."""

    model_config = ConfigDict(frozen=True)

    end: End
    emptied: str = Field(description="Whose battery is the first to be empty; none: every battery lasts.")
    frame_count: int
    frames_taken: int
    frames_blocked: int = Field(description="Frames that found the camera still writing, its buffer full.")
    frames_changing: int = Field(0, description="Frames that are lost while its battery is changed.")
    ends_at_s: float = Field(description="When the last frame's slot is over, seconds since 1970 UTC.")
    rig_stands_from_s: float | None = Field(description="From when a mover without power leaves the camera standing.")
    film_s: float
    battery_left: float
    card_free_bytes: int
    most_in_buffer: int
    told: str


class _Ran(NamedTuple):
    """What became of each frame: `taken` (n,) up to `stop`, where it ends and why; and what is in the buffer."""

    taken: NDArray[np.bool_]
    stop: int
    end: End
    ends: list[tuple[int, Supply]]
    in_buffer: NDArray[np.int64]


def taken_frames(program: Program) -> NDArray[np.bool_]:
    """Which frames (n,) would be taken: not those that are blocked, or come after battery or card has ended."""
    ran = _run(program)
    return ran.taken & (np.arange(program.frame_count) < ran.stop)


def stands_from(program: Program) -> int | None:
    """The first frame at which a mover without power leaves the camera standing; None where none does."""
    ran = _run(program)
    return min((at for at, one in ran.ends if one.carries and at < ran.stop), default=None)


def _run(program: Program) -> _Ran:
    shot, n = program.shot, program.frame_count
    number = np.arange(n)
    frame_bytes = float(program.card_bytes[0])
    write_s = 0.0 if shot.live else frame_bytes / (shot.kit.card.write_mb_s * 1e6)
    # By frame k the card has taken ⌊t_k / write_s⌋, and as many more as the buffer holds are in hand.
    written = np.floor(program.t_s / write_s) if write_s else number + 1.0
    stored = np.minimum(number + 1, shot.body.buffer_frames + written).astype(np.int64)
    taken = (np.diff(stored, prepend=0) > 0) & ~program.changing
    full = np.cumsum(taken) * frame_bytes > card_capacity_bytes(shot)
    card_at = int(np.argmax(full)) if full.any() else n
    # What goes out beside the camera ends nothing; what drives it may.
    needed = [one for one in program.supplies if one.role in ("records", "carries")]
    ends = [(at, one) for one in needed if (at := one.ends_at) is not None]
    goes_on = shot.move is None or shot.move.on_stall == "hold"
    battery_at = min((at for at, one in ends if not (one.carries and goes_on)), default=n)
    stop = min(card_at, battery_at)
    end: End = "whole" if stop == n else "card full" if card_at <= battery_at else "battery empty"
    return _Ran(taken, stop, end, ends, (stored - np.minimum(stored, written)).astype(np.int64))


def rehearse(program: Program) -> Outcome:
    """Run a program against the modelled batteries, card and buffer of its kit.

    The camera stops for good with an empty battery or a full card; with a full buffer it lets
    frames go by until the card has taken one. A mover with an empty battery ends the run, or leaves
    the camera standing, as the shot has it for a stalled axis. A frame is written as fast as the card
    can; a film at live speed is one stream, which waits for no buffer.
    """
    shot, n = program.shot, program.frame_count
    taken, stop, end, ends, buffered = _run(program)
    standing = stands_from(program)
    changing, frame_bytes = program.changing, float(program.card_bytes[0])
    capacity = card_capacity_bytes(shot)
    first = min(ends, key=lambda pair: pair[0], default=None)
    got = int(taken[:stop].sum())
    last = max(stop - 1, 0)
    ends_at = float(program.at_s[last] + program.slot_s[last])
    outcome = Outcome(
        end=end,
        emptied=first[1].name if first is not None and first[0] <= stop else "",
        frame_count=n,
        frames_taken=got,
        frames_blocked=stop - got - int(changing[:stop].sum()),
        frames_changing=int(changing[:stop].sum()),
        ends_at_s=ends_at,
        rig_stands_from_s=None if standing is None or shot.move is None else float(program.at_s[standing]),
        film_s=_film_s(program, got, stop),
        battery_left=float(max(program.battery_left[last], 0.0)) if stop else 0.0,
        card_free_bytes=capacity - round(got * frame_bytes),
        most_in_buffer=int(buffered[:stop].max()) if stop else 0,
        told="",
    )
    return outcome.model_copy(update={"told": _told(program, outcome)})


def _film_s(program: Program, got: int, stop: int) -> float:
    """How long the film of what was taken is."""
    if program.carried is None or not program.carried.walk.filmed:
        return float(got / program.timing.fps)
    return float(program.film_length_s if stop == program.frame_count else program.film_s[max(stop - 1, 0)])


def _lost(outcome: Outcome) -> str:
    """Why frames are missing of a shot that goes on to its end."""
    lost = (
        (outcome.frames_blocked, "find the buffer full"),
        (outcome.frames_changing, "come while the battery is changed"),
    )
    return ", ".join(f"{count(n, 'frame')} {why}" for n, why in lost if n)


def _told(program: Program, outcome: Outcome) -> str:
    clock = f"{program.local(outcome.ends_at_s):%H:%M}"
    frames = f"{outcome.frames_taken:,} of {count(outcome.frame_count, 'frame')}"
    if outcome.end == "whole" and outcome.frames_taken == outcome.frame_count:
        needed = [one for one in program.supplies if one.role in ("records", "carries")]
        least = min(needed, key=lambda one: float(one.left[-1]))
        other = f", {max(float(least.left[-1]), 0.0):.0%} of that of {least.name}" if least.carries else ""
        told = (
            f"It would end at {clock} with all {count(outcome.frame_count, 'frame')}, "
            f"{outcome.battery_left:.0%} of the camera's battery{other} and "
            f"{gigabytes(outcome.card_free_bytes)} of the card left."
        )
    else:
        why = {
            "battery empty": f"the battery of {outcome.emptied} is empty at {clock}",
            "card full": f"the card is full at {clock}",
            "whole": _lost(outcome),
        }[outcome.end]
        told = f"It would come to {frames}, {duration(round(outcome.film_s, 1))} of film: {why}."
    if outcome.rig_stands_from_s is not None:
        told += f" From {program.local(outcome.rig_stands_from_s):%H:%M} the rig stands still, its battery empty."
    return told
