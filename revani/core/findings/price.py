"""What a change of a shot costs, in words, before it is made."""

from fractions import Fraction

from revani.core.documents import Shot
from revani.core.timing import Solution, Timing
from revani.core.units import count, duration


def retimed(shot: Shot, **quantities: Fraction | int | None) -> Shot:
    """The shot with other quantities wanted; None frees one."""
    wanted = shot.timing.model_dump() | quantities
    return shot.model_copy(update={"timing": Timing.model_validate(wanted)})


def price(before: Solution, after: Solution) -> str:
    """How film and event differ afterwards: `the film becomes 9 s (270 frames), the event stays 4 h 30 min`."""
    parts = []
    if after.playback_s != before.playback_s or after.frame_count != before.frame_count:
        parts.append(f"the film becomes {duration(after.playback_s)}, {count(after.frame_count, 'frame')}")
    if after.event_s != before.event_s:
        more = after.event_s > before.event_s
        parts.append(f"you stay {duration(after.event_s)}" + ("" if more else f", not {duration(before.event_s)}"))
    if after.interval_s != before.interval_s:
        parts.append(f"every {duration(after.interval_s)} instead of {duration(before.interval_s)}")
    return "; ".join(parts) or "nothing else changes"
