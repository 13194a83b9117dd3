"""The path of a walk from above: how long it is, where one is on it, which way one goes, and where it turns."""

from collections.abc import Sequence
from dataclasses import dataclass
from typing import NamedTuple

import numpy as np
from numpy.typing import ArrayLike

from revani.core.documents.walk import LEAST_LEG_MM, PathPoint
from revani.core.quantities.arrays import Array

# One turns over about three paces, not on the spot (from memory).
_TURNS_OVER_MM = 1_500.0
_LEAST_M = 0.5


class Leg(NamedTuple):
    """A straight part of the path: degrees clockwise from straight ahead on the table, and metres."""

    bearing_deg: float
    length_m: float


@dataclass(frozen=True, eq=False)
class Track:
    """A path as columns: points (n, 2) in mm to the right and ahead, and how far along each is (n,), mm."""

    points_mm: Array
    along_mm: Array

    @property
    def length_m(self) -> float:
        """How long the path is."""
        return float(self.along_mm[-1]) / 1000

    def place_mm(self, along_m: ArrayLike) -> Array:
        """Where one is after metres of path (any shape): (…, 2), mm to the right and ahead; held at both ends."""
        along = np.asarray(along_m, dtype=np.float64) * 1000
        return np.stack([np.interp(along, self.along_mm, self.points_mm[:, i]) for i in (0, 1)], axis=-1)

    def travel_deg(self, along_m: ArrayLike) -> Array:
        """Which way one goes after metres of path (any shape): degrees clockwise from straight ahead, −180 to 180.

        Turns are walked over about three paces.
        """
        along = np.asarray(along_m, dtype=np.float64) * 1000
        end = float(self.along_mm[-1])
        low, high = np.clip(along - _TURNS_OVER_MM, 0.0, end), np.clip(along + _TURNS_OVER_MM, 0.0, end)
        way = self.place_mm(high / 1000) - self.place_mm(low / 1000)
        # Where the path comes back on itself the two ends meet: then it is the leg's own way.
        leg = np.clip(np.searchsorted(self.along_mm, along, side="right") - 1, 0, self.along_mm.size - 2)
        step = np.diff(self.points_mm, axis=0)[leg]
        flat = np.hypot(way[..., 0], way[..., 1]) < LEAST_LEG_MM
        way = np.where(flat[..., None], step, way)
        return np.asarray(np.degrees(np.arctan2(way[..., 0], way[..., 1])))

    @property
    def legs(self) -> tuple[Leg, ...]:
        """The straight parts, in order."""
        steps = np.diff(self.points_mm, axis=0)
        return tuple(
            Leg(float(np.degrees(np.arctan2(x, y)) % 360), float(np.hypot(x, y)) / 1000) for x, y in steps.tolist()
        )

    @property
    def turns(self) -> tuple[tuple[float, float], ...]:
        """Where the path turns, metres along, and by how many degrees: to the right is positive."""
        legs = self.legs
        return tuple(
            (float(at) / 1000, float((b.bearing_deg - a.bearing_deg + 180) % 360 - 180))
            for at, a, b in zip(self.along_mm[1:-1], legs, legs[1:], strict=False)
        )


def track_of(points: Sequence[PathPoint]) -> Track:
    """The track of a path's points."""
    placed = np.array([[one.x_mm, one.y_mm] for one in points], dtype=np.float64)
    steps = np.hypot(*np.diff(placed, axis=0).T)
    return Track(placed, np.concatenate([[0.0], np.cumsum(steps)]))


def points_of(legs: Sequence[Leg], first: PathPoint) -> tuple[PathPoint, ...]:
    """The points that legs lead to from a first one."""
    found = [first]
    for leg in legs:
        turned, metres = np.radians(leg.bearing_deg), leg.length_m * 1000
        found.append(
            PathPoint(
                x_mm=round(found[-1].x_mm + float(np.sin(turned)) * metres, 1),
                y_mm=round(found[-1].y_mm + float(np.cos(turned)) * metres, 1),
            )
        )
    return tuple(found)


def stretched(points: Sequence[PathPoint], length_m: float) -> tuple[PathPoint, ...]:
    """The same path as long as this, stretched from where it begins."""
    factor = length_m / track_of(points).length_m
    x, y = points[0].x_mm, points[0].y_mm
    return tuple(
        PathPoint(x_mm=round(x + (one.x_mm - x) * factor, 1), y_mm=round(y + (one.y_mm - y) * factor, 1))
        for one in points
    )


def cut(points: Sequence[PathPoint], length_m: float) -> tuple[PathPoint, ...]:
    """The first metres of a path, a step at least; where it is shorter, its last leg goes on straight ahead."""
    track, length_m = track_of(points), max(length_m, _LEAST_M)
    if length_m >= track.length_m:
        *legs, last = track.legs
        longer = Leg(last.bearing_deg, last.length_m + length_m - track.length_m)
        return (*points[:-1], points_of([longer], points[-2])[-1]) if legs else points_of([longer], points[0])
    kept = [one for one, at in zip(points, track.along_mm, strict=True) if at / 1000 < length_m - LEAST_LEG_MM / 1000]
    x, y = track.place_mm(length_m)
    return (*kept, PathPoint(x_mm=round(float(x), 1), y_mm=round(float(y), 1)))
