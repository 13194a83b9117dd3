"""Pictures out of a sphere: straight, little planets, and all between them."""

from collections.abc import Sequence

import numpy as np
from numpy.typing import ArrayLike

from revani.core.quantities.arrays import Array


def out_of(angle: ArrayLike, curve: ArrayLike) -> Array:
    """How far from the middle an angle from the axis falls (radians; both broadcast), in the straight picture's unit.

    The eye stands `curve` behind the middle of the sphere: (1 + c) sin θ / (c + cos θ). For 0 that is tan θ, the
    straight picture; for 1 it is 2 tan(θ/2), the stereographic one (the perspective projections of a sphere, textbook).
    """
    theta, c = np.asarray(angle, dtype=np.float64), np.asarray(curve, dtype=np.float64)
    return np.asarray((1 + c) * np.sin(theta) / (c + np.cos(theta)))


def angle_at(out: ArrayLike, curve: ArrayLike) -> Array:
    """The angle from the axis, radians, that falls so far from the middle; the inverse of `out_of`."""
    c = np.asarray(curve, dtype=np.float64)
    k = np.asarray(out, dtype=np.float64) / (1 + c)
    return np.asarray(np.arctan(k) + np.arcsin(np.clip(k * c / np.sqrt(1 + k * k), -1, 1)))


def ray_of(right: ArrayLike, up: ArrayLike, curve: float) -> Array:
    """Unit vectors (…, 3) of places in such a picture, in the straight picture's unit; they broadcast."""
    x, y = np.broadcast_arrays(np.asarray(right, dtype=np.float64), np.asarray(up, dtype=np.float64))
    out = np.hypot(x, y)
    angle = angle_at(out, curve)
    part = np.where(out > 1e-12, np.sin(angle) / np.where(out > 1e-12, out, 1.0), 1.0)
    return np.stack([x * part, y * part, np.cos(angle)], axis=-1)


def unwound(angles_deg: ArrayLike, longer: Sequence[bool]) -> Array:
    """Angles of keys (n,) as they are turned through: each next the shorter way round, or the longer where it says so.

    Half a turn goes the way that is written: −180° → 0 is one of +180°.
    """
    given = np.asarray(angles_deg, dtype=np.float64)
    turned = [float(given[0])] if len(given) else []
    for i in range(1, len(given)):
        by = float(given[i] - given[i - 1])
        if abs(by) > 180:
            by = (by + 180) % 360 - 180
        if longer[i] and by:
            by -= np.copysign(360, by)
        turned.append(turned[-1] + by)
    return np.array(turned)


def px_per_deg(width: ArrayLike, view_deg: ArrayLike, curve: ArrayLike) -> Array:
    """Pixels a degree in the middle of a picture out of a sphere; all broadcast."""
    return np.asarray(np.asarray(width) / 2 / out_of(np.radians(view_deg) / 2, curve) * np.pi / 180)
