"""Neutral-density filters: what they take away, which one gives a wanted blur, and when to take it off."""

from dataclasses import dataclass
from itertools import combinations

import numpy as np

from revani.core.documents import Filter, Shot
from revani.core.light.dials import shutter_for, true_aperture, true_iso
from revani.core.light.exposing import LightOn
from revani.core.quantities.arrays import Array
from revani.core.timing.start import next_s

# Common practice, no source: unscrewing one in the dark with cold hands.
CHANGE_S = 30.0
_STACK = 2
_NEAR_STOPS = 0.5


def off_at_s(shot: Shot, begin_s: float) -> float | None:
    """When the filters come off, seconds since 1970: the next such moment of a shot that began at `begin_s`.

    None where they stay on or there are none. Raises Refusal("light.filters_off") for one that does not come.
    """
    moment = shot.light.filters_off
    if not shot.light.filters or moment is None:
        return None
    return next_s(moment, shot.place, begin_s, "light.filters_off")


def stack_stops(shot: Shot) -> float:
    """What the filters that begin on the lens take away together; stacked ones add up in stops."""
    on = set(shot.light.filters)
    return sum(one.stops for one in shot.kit.filters if one.id in on)


def nd_stops(shot: Shot, at_s: Array) -> Array:
    """Stops that filters take away from each frame."""
    off = off_at_s(shot, float(at_s[0]))
    stops = np.full_like(at_s, stack_stops(shot))
    return stops if off is None else np.where(at_s < off, stops, 0.0)


@dataclass(frozen=True)
class StackAdvice:
    """A filter, or a stack of two: over which part of the shot it gives the wanted angle within half a stop.

    `frames_near` counts those frames; `off_frame` is the index of the first frame that is better
    without it (None: never).
    """

    filters: tuple[Filter, ...]
    stops: float
    frames_near: int
    off_frame: int | None


def wanted_nd_stops(shot: Shot, on: LightOn, slot_s: Array) -> Array:
    """Stops of filter a frame that would give the shot's wanted shutter angle at its aperture and base ISO.

    Negative where even the open lens is too dark for so short a shutter. The wanted shutter is
    `angle/360 × interval`, and never more than the interval leaves.
    """
    wanted = np.minimum((shot.light.angle_deg or 180.0) / 360 * slot_s, on.room_s)
    open_lens = shutter_for(on.scene_ev, true_aperture(shot.light.aperture), true_iso(shot.light.iso))
    return np.asarray(np.log2(wanted / open_lens))


def advise(shot: Shot, on: LightOn, slot_s: Array) -> tuple[StackAdvice, ...]:
    """Every filter of the kit, and every two stacked, the one that serves most frames first."""
    wanted = wanted_nd_stops(shot, on, slot_s)
    found = []
    for count in range(1, _STACK + 1):
        for stack in combinations(shot.kit.filters, count):
            stops = sum(one.stops for one in stack)
            better_without = np.flatnonzero(wanted < stops / 2)
            near = int((np.abs(wanted - stops) <= _NEAR_STOPS).sum())
            off = int(better_without[0]) if better_without.size else None
            found.append(StackAdvice(stack, stops, near, off))
    return tuple(sorted(found, key=lambda one: (-one.frames_near, abs(one.stops - float(wanted[0])))))
