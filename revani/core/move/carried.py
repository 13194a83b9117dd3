"""A camera that is carried along a path: where it is at each moment, and which way it is held."""

from dataclasses import dataclass
from functools import cached_property

import numpy as np
from numpy.typing import ArrayLike

from revani.core.documents import Shot, Thing, Walk
from revani.core.move.axes import Pose, middle_mm
from revani.core.optics.projection import ray
from revani.core.quantities.arrays import Array
from revani.core.quantities.refusal import Refusal
from revani.core.walk.path import Track, track_of


@dataclass(frozen=True, eq=False)
class Carried:
    """The way of a carried camera over a shot of `event_s` seconds."""

    shot: Shot
    walk: Walk
    track: Track
    event_s: float

    @property
    def pace_m_s(self) -> float:
        """How fast one goes: over the whole of a filmed walk, between the stations of one by stills."""
        return self.track.length_m / self.event_s if self.walk.filmed else self.walk.pace_m_s

    @cached_property
    def thing(self) -> Thing | None:
        """What it looks at, where that is a thing."""
        things = self.shot.things
        return next((one for one in things if one.name == self.walk.thing), None)

    def along_m(self, after_s: ArrayLike) -> Array:
        """How far one has come at seconds from the start (any shape); by stations, evenly from one to the next."""
        return np.clip(np.asarray(after_s, dtype=np.float64) / self.event_s, 0.0, 1.0) * self.track.length_m

    def pose(self, after_s: ArrayLike) -> Pose:
        """How the camera stands and looks at seconds from the start (any shape): what it looks at is in its place."""
        shot, walk = self.shot, self.walk
        along = self.along_m(after_s)
        place = self.track.place_mm(along)
        none = np.zeros_like(along)
        ahead = shot.framing.heading_deg
        aside_deg, above_deg = self._place_deg
        if walk.towards == "a thing" and self.thing is not None:
            away = middle_mm(self.thing) - np.stack([place[..., 0], place[..., 1], none], axis=-1)
            bearing = np.degrees(np.arctan2(away[..., 0], away[..., 1]))
            height = np.degrees(np.arctan2(away[..., 2], np.hypot(away[..., 0], away[..., 1])))
            heading, tilt = ahead + bearing - aside_deg, height - above_deg
        elif walk.towards == "a direction":
            heading, tilt = none + walk.direction_deg - aside_deg, none + shot.framing.tilt_deg
        else:
            heading, tilt = ahead + self.track.travel_deg(along) - aside_deg, none + shot.framing.tilt_deg
        return Pose(
            right_mm=place[..., 0], ahead_mm=place[..., 1], up_mm=none, heading_deg=heading, tilt_deg=tilt,
            roll_deg=none, focal_mm=none + shot.focal_length_mm,
        )  # fmt: skip

    @property
    def _place_deg(self) -> tuple[float, float]:
        """How far beside and above the middle of the picture the place lies that it is kept at, degrees."""
        body, walk = self.shot.body, self.walk
        right = (walk.across - 0.5) * body.sensor_width_mm / self.shot.focal_length_mm
        up = (0.5 - walk.down) * body.sensor_height_mm / self.shot.focal_length_mm
        x, y, z = ray(right, up, self.shot.recording.projection)
        return float(np.degrees(np.arctan2(x, z))), float(np.degrees(np.arctan2(y, np.hypot(x, z))))


def carried_of(shot: Shot, event_s: float) -> Carried | None:
    """How the camera of a shot is carried; None where it is not. Raises Refusal at the field at fault."""
    walk = shot.walk
    if walk is None:
        return None
    things = shot.things
    if shot.move is not None and shot.move.keys:
        raise Refusal("move.keys", "The camera is walked: a mover has no keys then.", len(shot.move.keys))
    if walk.towards == "a thing" and walk.thing not in [one.name for one in things]:
        raise Refusal("walk.thing", "One of the things on the table.", walk.thing)
    if walk.filmed != shot.live:
        made = "It is filmed at speed." if walk.filmed else "By stations, it is made of stills."
        raise Refusal("walk.way", made, walk.way)
    if shot.pace is not None:
        raise Refusal("pace", "A walk has the same interval throughout.")
    return Carried(shot, walk, track_of(walk.points), event_s)
