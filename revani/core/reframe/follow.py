"""A frame that goes after something: held still while it may, moved no faster than is quiet."""

from math import copysign, sqrt
from typing import NamedTuple

import numpy as np

from revani.core.quantities.arrays import Array


class Limits(NamedTuple):
    """How a frame may go after a thing: still while it is within `dead` of the middle (part of the frame's width).

    Widths of the frame a second, and a second squared.
    """

    dead: float = 0.05
    speed: float = 0.25
    change: float = 0.5


def followed(target: Array, dt_s: float, limits: Limits) -> Array:
    """Where the frame's middle stands (n,) going after a target (n,), both in widths of the frame.

    It starts at the target, goes no faster than the limits, and brakes in time.
    """
    dead, most, change = limits
    at, speed, by = float(target[0]), 0.0, change * dt_s
    found = []
    for wanted in target.tolist():
        found.append(at)
        beyond = max(abs(wanted - at) - dead, 0.0)
        # As fast as it can still brake within what is left of the way.
        goes = copysign(min(most, sqrt(2 * change * beyond)), wanted - at)
        speed += min(max(goes - speed, -by), by)
        at += speed * dt_s
    return np.array(found)


def thinned_to(at_s: Array, values: Array, within: float) -> list[int]:
    """The indices that are needed for straight ways between them to stay `within` of values (n, k), first and last too.

    Source: Ramer (1972), Douglas & Peucker (1973), measured along the values.
    """
    kept = {0, len(at_s) - 1}
    waiting = [(0, len(at_s) - 1)]
    while waiting:
        a, b = waiting.pop()
        if b - a < 2:
            continue
        part = (at_s[a + 1 : b] - at_s[a]) / (at_s[b] - at_s[a])
        off = np.abs(values[a + 1 : b] - (values[a] + part[:, None] * (values[b] - values[a]))).max(axis=1)
        worst = int(off.argmax())
        if off[worst] > within:
            kept.add(a + 1 + worst)
            waiting += [(a, a + 1 + worst), (a + 1 + worst, b)]
    return sorted(kept)
