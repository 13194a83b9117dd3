"""A shot with its move made shorter, slower or otherwise: what fixes are made of."""

from collections.abc import Callable
from fractions import Fraction
from math import ceil

import numpy as np

from revani.core.documents import AfterStart, AxisName, MoveKey, Shot, driven_measure
from revani.core.documents.timing import LONGEST_EVENT_S, MOST_FRAMES
from revani.core.edit.retime import retimed
from revani.core.move.key import rekeyed
from revani.core.program.compiled import Program, compile_shot
from revani.core.quantities.refusal import Refusal
from revani.core.timing.law import ceil_to


def with_keys(shot: Shot, change: Callable[[MoveKey], MoveKey]) -> Shot:
    """The shot with every key changed."""
    assert shot.move
    return shot.with_keys(map(change, shot.move.keys))


def show(axis: AxisName, value: float, per: str = "") -> str:
    """A position or a speed of a motor with its unit: `212.4 mm`, `−3.6°/s`."""
    return driven_measure(axis).show_fine(value, per)


def narrowed(shot: Shot, axis: AxisName, factor: float) -> Shot:
    """The travel of one axis made shorter about where it begins."""
    first = next(key.positions[axis] for key in (shot.move.keys if shot.move else ()) if axis in key.positions)

    def shorter(key: MoveKey) -> MoveKey:
        if axis not in key.positions:
            return key
        return rekeyed(key, positions={axis: first + (key.positions[axis] - first) * factor})

    return with_keys(shot, shorter)


def slower(program: Program, factor: float) -> Shot | None:
    """The whole shot so many times slower, keys and all, where they stand by seconds."""
    shot, timing = program.shot, program.timing
    if not shot.move or not all(isinstance(key.at, AfterStart) for key in shot.move.keys):
        return None
    if not np.isfinite(factor) or float(timing.event_s) * factor * 2 > LONGEST_EVENT_S:
        return None
    if shot.live and timing.frame_count * factor * 2 > MOST_FRAMES:
        return None
    if shot.live:
        frames = ceil(timing.frame_count * factor)
        longer = retimed(
            shot, fps=timing.fps, interval_s=timing.interval_s, frame_count=frames, event_s=None, playback_s=None
        )
        true = frames / timing.frame_count
    else:
        interval = ceil_to(timing.interval_s * Fraction(factor).limit_denominator(1000), shot.body.controller_tick_s)
        longer = retimed(
            shot, fps=timing.fps, interval_s=interval, frame_count=timing.frame_count, event_s=None, playback_s=None
        )
        true = float(interval / timing.interval_s)

    def later(key: MoveKey) -> MoveKey:
        after = key.at.after_s if isinstance(key.at, AfterStart) else 0.0
        return rekeyed(key, after_s=after * true, hold_s=key.hold_s * true)

    return with_keys(longer, later)


def narrowable(program: Program, axis: AxisName, factor: float) -> Shot | None:
    """Shorter travel of one axis, where it goes as the keys say."""
    move = program.shot.move
    if move is None or (move.aim is not None and axis in ("pan", "tilt")):
        return None
    named = any(axis in key.positions for key in move.keys)
    return narrowed(program.shot, axis, factor * 0.999) if named else None


def milder(shot: Shot, measure: Callable[[Program], float], than: float) -> bool:
    """Whether what is measured of a changed shot is clearly less than it was; not where it cannot be had."""
    try:
        return measure(compile_shot(shot)) < than * 0.99
    except Refusal:
        return False
