"""How far the rig is beside its plan, and how late frames are fired, by what the last few were noted with."""

from collections.abc import Mapping, Sequence
from itertools import pairwise

from revani.core.documents.mover import AXIS_MEASURES, AxisName, driven_measure
from revani.core.documents.run import JournalFrame
from revani.core.quantities.measures import ANGLE
from revani.core.quantities.units import duration

# So many frames in a row have to agree: one alone may be a gust, or a machine that stood still.
_AGREEING = 2
# What is worth a call: so many of the axis's smallest steps, and no less than can be seen in a film (memory).
_STEPS, _LEAST_MM, _LEAST_DEG = 5.0, 0.5, 0.1
# A frame that is so late, and by so much of its slot, is seen as a jolt (memory).
_LATE_S, _LATE_PART, _LATE_AGREEING = 0.5, 0.1, 3


def beside_told(frames: Sequence[JournalFrame], steps: Mapping[AxisName, float], stepwise: bool) -> str:
    """That an axis is beside its plan in each of the last frames, the furthest; nothing where none is, or nobody says.

    `steps` are the smallest of each axis. A rig that is under way while it is asked has gone on meanwhile: what
    lies within one frame's way of the plan says nothing there.
    """
    noted = [one for one in frames if one.outcome == "taken" and one.rig is not None and one.rig.reached]
    last = noted[-(_AGREEING + 1) :]
    if len(last) <= _AGREEING:
        return ""
    furthest, found = 1.0, ""
    for axis, step in steps.items():
        if axis == "focus":
            continue
        least = max(_STEPS * step, _LEAST_DEG if AXIS_MEASURES[axis] is ANGLE else _LEAST_MM)
        offs = []
        for before, one in pairwise(last):
            assert one.rig is not None and before.rig is not None
            if axis not in one.rig.planned or axis not in one.rig.reached or axis not in before.rig.planned:
                break
            way = 0.0 if stepwise else abs(one.rig.planned[axis] - before.rig.planned[axis])
            offs.append(abs(one.rig.reached[axis] - one.rig.planned[axis]) - way)
        if len(offs) == _AGREEING and min(offs) > furthest * least:
            furthest = min(offs) / least
            found = f"The {axis} stands {driven_measure(axis).show(min(offs), 1)} beside its plan."
    return found


def late_told(frames: Sequence[JournalFrame], slot_s: float) -> str:
    """That the last frames were all fired late, in words; nothing where they were not. Real seconds, at × 1."""
    fired = [one.fired_s - one.planned_s for one in frames if one.outcome == "taken" and one.fired_s is not None]
    last = fired[-_LATE_AGREEING:]
    if len(last) < _LATE_AGREEING or min(last) < max(_LATE_S, _LATE_PART * slot_s):
        return ""
    return f"The last {_LATE_AGREEING} frames were fired {duration(round(min(last), 1))} late, or more."
