"""The moments between which a move may go straight, so that it nowhere leaves the plan."""

import numpy as np

from revani.core.move.axes import Motion
from revani.core.move.path import driven_units
from revani.core.quantities.arrays import Array
from revani.core.quantities.refusal import Refusal

# What nobody sees and no rig keeps, in mm, degrees and marks of a lens's scale: finer is not asked for.
_FINEST = {"mm": 0.005, "deg": 0.001}
_COARSEST = {"mm": 0.05, "deg": 0.01}
_TURNS = ("pan", "tilt", "roll")
# The rest of an axis's share is for the rounding of what is written.
_SHARE = 0.8
_PARTS = np.array([0.25, 0.5, 0.75])
_LEAST_S = 1e-3
_AT_FIRST = 12
MOST_PIECES = 400_000


def tolerance(motion: Motion, axis: str) -> float:
    """How far straight pieces may be from the plan: one smallest step of the axis, within reason."""
    unit = "deg" if axis in _TURNS else "mm"
    step = next(one.step for name, one in motion.axes.items() if name == axis)
    return min(max(step, _FINEST[unit]), _COARSEST[unit])


def pieces_s(motion: Motion) -> Array:
    """The ends of the straight pieces of a continuous move (n,), seconds from the start, from 0 to the event's end.

    Between two of them every axis may go evenly, and stays within its tolerance of the plan. A move that
    repeats is looked at once. Raises Refusal("move") where it falls into too many pieces, and
    Refusal("move.repeat") for a loop that jumps.
    """
    path, event_s = motion.path, motion.event_s
    repeats = path.move.repeat != "once" and path.pass_s > 0
    until = min(path.begins_s + path.pass_s, event_s) if repeats else event_s
    if repeats and path.move.repeat == "loop" and _jumps(motion):
        raise Refusal(
            "move.repeat",
            "A loop that jumps back in no time cannot be followed: go back and forth, or end where it begins.",
        )
    first = _refined(motion, _corners(motion, until))
    if not repeats or until == event_s:
        return np.append(first, event_s) if first[-1] < event_s else first
    rounds = int(np.ceil((event_s - path.begins_s) / path.pass_s - 1e-9))
    inside = first[first >= path.begins_s] - path.begins_s
    if rounds * (inside.size - 1) > MOST_PIECES:
        raise _too_many(rounds * (inside.size - 1))
    back = path.pass_s - inside[::-1] if path.move.repeat == "ping-pong" else inside
    ways = [path.begins_s + k * path.pass_s + (back if k % 2 else inside)[1:] for k in range(rounds)]
    at = np.concatenate([first[first < path.begins_s], [path.begins_s], *ways])
    return np.append(at[at < event_s - _LEAST_S], event_s)


def _jumps(motion: Motion) -> bool:
    return any(abs(float(v[-1] - v[0])) > 1e-6 for v in motion.path.knots.positions.values())


def _too_many(pieces: int) -> Refusal:
    allowed = (
        f"Written out it takes {pieces:,} lines; at most {MOST_PIECES:,} can be. "
        "A shorter shot or fewer repeats take fewer."
    )
    return Refusal("move", allowed, pieces)


def _corners(motion: Motion, until: float) -> Array:
    """Where keys are reached and left, where eases end, and a few places in between."""
    knots, legs = motion.path.knots, motion.path.legs
    at = [0.0, until, *knots.arrives_s, *knots.leaves_s]
    for i, leg in enumerate(legs):
        begin = float(knots.leaves_s[i])
        at += [begin + leg.up.s, begin + leg.duration_s - leg.down.s]
        at += list(np.linspace(begin, begin + leg.duration_s, _AT_FIRST))
    return np.unique(np.clip(np.round(at, 9), 0.0, until))


def _refined(motion: Motion, at: Array) -> Array:
    """Pieces halved until every axis is within its tolerance at a quarter, a half and three quarters of each."""
    open_from, open_to, kept = at[:-1], at[1:], [at[:1]]
    while open_from.size:
        long = open_to - open_from
        off = np.zeros(open_from.size)
        begin, end = _units(motion, open_from), _units(motion, open_to)
        for part in _PARTS:
            there = _units(motion, open_from + part * long)
            for name, values in there.items():
                straight = begin[name] + part * (end[name] - begin[name])
                off = np.maximum(off, np.abs(values - straight) / (tolerance(motion, name) * _SHARE))
        done = (off <= 1) | (long < _LEAST_S)
        kept.append(open_to[done])
        middle = (open_from[~done] + open_to[~done]) / 2
        open_from, open_to = (
            np.concatenate([open_from[~done], middle]), np.concatenate([middle, open_to[~done]])
        )  # fmt: skip
        if open_from.size + sum(piece.size for piece in kept) > MOST_PIECES:
            raise _too_many(open_from.size + sum(piece.size for piece in kept))
    return np.sort(np.concatenate(kept))


def _units(motion: Motion, at: Array) -> dict[str, Array]:
    """Positions as the axes count them; the end of a loop is not yet its beginning."""
    path = motion.path
    if path.move.repeat == "loop" and path.pass_s > 0:
        at = np.minimum(at, path.begins_s + path.pass_s * (1 - 1e-12))
    return {name: driven_units(motion.shot.kit, name, values) for name, values in motion.at(at).items()}
