"""What a change of a shot costs, in words, before it is made."""

from fractions import Fraction
from math import floor

from pydantic import ValidationError

from revani.core.documents import AfterStart, MoveKey, Shot
from revani.core.documents.timing import Timing
from revani.core.move.key import rekeyed
from revani.core.quantities.refusal import Refusal
from revani.core.quantities.units import count, duration
from revani.core.timing.law import Solution
from revani.core.timing.pace import solved
from revani.core.walk.path import cut, track_of


def retimed(shot: Shot, **quantities: Fraction | int | None) -> Shot:
    """The shot with other quantities wanted; None frees one. A move that would reach past the end is fitted in."""
    wanted = shot.timing.model_dump() | quantities
    timed = shot.model_copy(update={"timing": Timing.model_validate(wanted), "until": None})
    return _walk_cut(shot, _move_fitted(timed))


def with_film_shutter(shot: Shot, fps: Fraction) -> Shot:
    """The shot with a shutter that fits into a picture of a film: as it is, else half of one."""
    longest = 1 / fps
    return shot if shot.light.shutter_s <= longest else shot.with_light(shutter_s=longest / 2)


def _walk_cut(before: Shot, shot: Shot) -> Shot:
    """A filmed walk of another length of time, at the pace that it had: its path ends sooner, or goes on."""
    if shot.walk is None or not shot.walk.filmed:
        return shot
    try:
        factor = float(solved(shot).event_s / solved(before).event_s)
    except Refusal:
        return shot
    try:
        points = cut(shot.walk.points, track_of(shot.walk.points).length_m * factor)
        return shot.with_walk(points=points)
    except ValidationError:
        # Further than any table reaches: the same path, at another pace.
        return shot


def _move_fitted(shot: Shot) -> Shot:
    """Keys by seconds from the start, and their holds, sped up alike until the last one is reached in time."""
    keys = shot.move.keys if shot.move else ()
    last = max((key.at.after_s for key in keys if isinstance(key.at, AfterStart)), default=0.0)
    try:
        event_s = float(solved(shot).event_s)
    except Refusal:
        return shot
    if shot.move is None or last <= event_s:
        return shot
    factor = event_s / last

    def sooner(key: MoveKey) -> MoveKey:
        if not isinstance(key.at, AfterStart):
            return key
        return rekeyed(key, after_s=floor(key.at.after_s * factor * 1000) / 1000, hold_s=key.hold_s * factor)

    return shot.with_keys(map(sooner, keys))


def price(before: Solution, shot: Shot) -> str:
    """How film and event differ in a changed shot: `the film becomes 9 s, 270 frames; you stay 4 h 30 min`.

    Nothing is said of one that cannot be timed, which is no fix either.
    """
    try:
        after = solved(shot)
    except Refusal:
        return ""
    parts = []
    if after.playback_s != before.playback_s or after.frame_count != before.frame_count:
        parts.append(f"the film becomes {duration(after.playback_s)}, {count(after.frame_count, 'frame')}")
    if after.event_s != before.event_s:
        more = after.event_s > before.event_s
        parts.append(f"you stay {duration(after.event_s)}" + ("" if more else f", not {duration(before.event_s)}"))
    if after.interval_s != before.interval_s:
        parts.append(f"every {duration(after.interval_s)} instead of {duration(before.interval_s)}")
    return "; ".join(parts) or "nothing else changes"
