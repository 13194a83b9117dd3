"""The interval from the subject: how far may it move in the picture between two frames?"""

from fractions import Fraction
from typing import Literal

import numpy as np
from pydantic import BaseModel, ConfigDict, Field

from revani.core.documents import Document, Shot
from revani.core.documents.timing import QUANTITIES, Timing
from revani.core.light.dials import SHUTTERS, show_shutter
from revani.core.light.firing import interval_over_s
from revani.core.optics.lens import focal_px
from revani.core.quantities.measures import Distance, Speed
from revani.core.quantities.units import decimals, duration
from revani.core.timing.pace import solved

# Common practice, no source: shortest and longest interval in seconds by kind of subject.
KINDS: dict[str, tuple[float, float]] = {
    "people, traffic, running water": (1, 3),
    "fast clouds, boats": (3, 5),
    "slow clouds, shadows, crowds from afar": (5, 10),
    "the sun's path, tides": (10, 30),
    "stars": (15, 40),
    "plants, building sites": (120, 600),
}
# Common practice, no source: parts of the frame's width a frame that read as smooth, and that strobe.
SMOOTH_FROM, SMOOTH_TO, STROBES_FROM = 0.002, 0.02, 0.04
_ANGLE_DEG = 180


class Moving(Document):
    """What moves: a kind of subject, or a speed across the view at a distance."""

    kind: str | None = None
    speed_m_s: Speed | None = Field(None, gt=0, le=10_000)
    distance_m: Distance | None = Field(None, gt=0, le=1_000_000)


class Suggestion(BaseModel):
    """An interval and a shutter for a subject, what they mean in the picture, and the shot that takes them."""

    model_config = ConfigDict(frozen=True)

    reads: Literal["slow", "smooth", "lively"]
    interval: str
    shutter: str
    told: str
    px_per_frame: float | None
    shot: Shot


def px_per_frame(shot: Shot, speed_m_s: float, distance_m: float, interval_s: float) -> float:
    """Pixels that a subject moves between two frames: speed × interval × f / (distance × pitch)."""
    return speed_m_s * interval_s * focal_px(shot) / distance_m


def suggest(shot: Shot, moving: Moving) -> tuple[Suggestion, ...]:
    """Three intervals, from slow to lively; with speed and distance from geometry, else by the kind.

    The shutter is half the interval, as far as the body's overhead leaves room for that.
    """
    if moving.speed_m_s and moving.distance_m:
        unit = px_per_frame(shot, moving.speed_m_s, moving.distance_m, 1.0) / shot.body.pixels_wide
        low, high = SMOOTH_FROM / unit, SMOOTH_TO / unit
    else:
        low, high = KINDS[moving.kind or next(iter(KINDS))]
    middle = float(np.sqrt(low * high))
    reads: tuple[Literal["slow", "smooth", "lively"], ...] = ("slow", "smooth", "lively")
    return tuple(_suggestion(shot, moving, word, s) for word, s in zip(reads, (low, middle, high), strict=True))


def _suggestion(shot: Shot, moving: Moving, reads: Literal["slow", "smooth", "lively"], wanted_s: float) -> Suggestion:
    body = shot.body
    shortest = max(body.minimum_interval_s, body.overhead_s + body.shutter_min_s)
    interval = interval_over_s(shot, max(Fraction(round(wanted_s, 2)), shortest))
    room = min(interval * _ANGLE_DEG / 360, interval - body.overhead_s)
    shutter = max((one for one in SHUTTERS if one <= room), default=body.shutter_min_s)
    px = None
    told = f"shutter {show_shutter(float(shutter))}"
    if moving.speed_m_s and moving.distance_m:
        px = px_per_frame(shot, moving.speed_m_s, moving.distance_m, float(interval))
        part = px / body.pixels_wide
        told += f"; {decimals(px, 0)} px a frame, {part:.1%} of the width"
        if part > STROBES_FROM:
            told += ", which strobes"
    # The film keeps its length; what may go is the event.
    now = solved(shot)
    keep = {"fps": now.fps, "frame_count": now.frame_count, "interval_s": interval}
    timing = Timing.model_validate({name: keep.get(name) for name in QUANTITIES})
    light = shot.light.model_copy(update={"shutter_s": shutter})
    changed = shot.model_copy(update={"timing": timing, "light": light})
    told += f"; you stay {duration(solved(changed).event_s)}"
    return Suggestion(
        reads=reads, interval=duration(interval), shutter=show_shutter(float(shutter)), told=told, px_per_frame=px,
        shot=changed,
    )  # fmt: skip
