"""Walking hyperlapses: how long the film of a walk becomes."""

from fractions import Fraction
from typing import NamedTuple

import numpy as np

from revani.core.documents import Walk as WalkDocument
from revani.core.quantities.arrays import Array
from revani.core.quantities.refusal import Refusal
from revani.core.quantities.units import plain


def sped_up_playback_s(walk_s: Fraction, speed_up: Fraction, head_s: Fraction, tail_s: Fraction) -> Fraction:
    """Film of a walk sped up between a head and a tail at normal speed."""
    return head_s + tail_s + (walk_s - head_s - tail_s) / speed_up


class Walk(NamedTuple):
    """A walk filmed and sped up: how long it is, how often faster, and its film."""

    length_m: Fraction
    factor: Fraction
    playback_s: Fraction
    walk_s: Fraction


def solved(
    pace_m_s: Fraction,
    ends_s: Fraction,
    length_m: Fraction | None = None,
    factor: Fraction | None = None,
    playback_s: Fraction | None = None,
) -> Walk:
    """The walk that two of length, factor and film make; `ends_s` of it stay at normal speed.

    Raises Refusal at a field that is missing, one too many, or has no walk.
    """
    given = {"length_m": length_m, "factor": factor, "playback_s": playback_s}
    missing = [name for name, value in given.items() if value is None]
    if len(missing) != 1:
        path = missing[0] if missing else "playback_s"
        raise Refusal(path, "Give just two of length_m, factor and playback_s.", given[path])
    if playback_s is not None and playback_s <= ends_s:
        raise Refusal("playback_s", f"More than its ends at normal speed, {plain(ends_s)} s.", playback_s)
    if length_m is None:
        assert factor is not None and playback_s is not None
        walk_s = ends_s + (playback_s - ends_s) * factor
        return Walk(walk_s * pace_m_s, factor, playback_s, walk_s)
    walk_s = length_m / pace_m_s
    if ends_s > walk_s:
        raise Refusal("length_m", f"At least {plain(ends_s * pace_m_s)} m, which the ends take.", length_m)
    if factor is not None:
        return Walk(length_m, factor, ends_s + (walk_s - ends_s) / factor, walk_s)
    assert playback_s is not None
    if playback_s > walk_s:
        raise Refusal("playback_s", f"At most the walk itself, {plain(walk_s)} s.", playback_s)
    return Walk(length_m, (walk_s - ends_s) / (playback_s - ends_s), playback_s, walk_s)


def film_times_s(walk_s: Array, whole_s: float, factor: float, head_s: float, tail_s: float) -> Array:
    """Where moments of a walk (any shape), seconds from its start, stand in its film.

    The head plays as it was, what lies between is sped up, the tail plays as it was. A walk that is shorter than
    both ends plays as it was throughout.
    """
    sped = max(whole_s - head_s - tail_s, 0.0)
    begins = min(head_s, whole_s)
    knots = [0.0, begins, begins + sped, whole_s]
    return np.asarray(np.interp(walk_s, knots, [0.0, begins, begins + sped / factor, whole_s - sped + sped / factor]))


def film_s(walk: WalkDocument, whole_s: Fraction) -> Fraction:
    """How long the film of a filmed walk of so many seconds is."""
    ends = min(walk.head_s + walk.tail_s, whole_s)
    return ends + (whole_s - ends) / walk.factor
