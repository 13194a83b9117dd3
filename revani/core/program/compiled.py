"""A shot compiled: one row a frame, as columns.

There is one compile function. The desk, the command line, the rehearsal and the runner all use it.
"""

from copy import copy
from dataclasses import dataclass
from datetime import datetime, timedelta
from fractions import Fraction
from functools import cached_property, lru_cache
from typing import NamedTuple
from zoneinfo import ZoneInfo

import numpy as np
from numpy.typing import ArrayLike, NDArray

from revani.core.documents import Place, Shot
from revani.core.feed.card import capacity_bytes
from revani.core.feed.energy import EXPECTED, Bank, Drain, Scope, Supply, spent
from revani.core.light.exposing import Exposures, LightOn, check_settings, expose, night_stops, shutter_room_s
from revani.core.light.filters import nd_stops
from revani.core.light.firing import check_firing, check_offered
from revani.core.light.scene import cloud_stops, scene_ev100, scene_offset_stops
from revani.core.light.white_balance import white_balance_k
from revani.core.move.axes import Motion, Pose, motion_of, pose_of
from revani.core.move.carried import Carried, carried_of
from revani.core.program.rigged import rigged
from revani.core.quantities.arrays import Array, Window
from revani.core.quantities.refusal import Refusal
from revani.core.sky.skyline import ridge_crossings
from revani.core.sky.sun_and_moon import HORIZON_DEG, Sky, SkyEvent, sky_over
from revani.core.sky.weather import temperature_c
from revani.core.timing.law import Solution
from revani.core.timing.moments import ShotClock, clock_of
from revani.core.timing.pace import solved, stretch_of
from revani.core.timing.start import start_s
from revani.core.walk.film import film_s as walked_film_s
from revani.core.walk.film import film_times_s


class Misfit(NamedTuple):
    """A value of a document that cannot be had: its field, what is allowed, and what is planned instead, in words."""

    path: str
    allowed: str
    instead: str


@dataclass(frozen=True, eq=False)
class Program:
    """A compiled shot. Every array is a column with one value a frame, in order.

    `at_s` is when the shutter is due to open (seconds since 1970, UTC), `t_s` the same from the
    start, `film_s` where the frame stands in the film, `slot_s` how long until the next is due.
    `scene_ev` is what the scene asks for, `nd_stops` what filters take away, `shutter_room_s` the
    longest shutter that the slot leaves, `exposures` what the camera does about it, `card_bytes` what is
    written after the frame.
    """

    shot: Shot
    timing: Solution
    start_s: float
    end_s: float
    sky: Sky
    at_s: Array
    t_s: Array
    film_s: Array
    slot_s: Array
    sun_altitude_deg: Array
    moon_altitude_deg: Array
    scene_offset_stops: float
    scene_ev: Array
    nd_stops: Array
    shutter_room_s: Array
    exposures: Exposures
    white_balance_k: Array
    card_bytes: Array
    wish_stops: Array
    motion: Motion | None = None
    carried: Carried | None = None
    misfits: tuple[Misfit, ...] = ()

    @property
    def frame_count(self) -> int:
        """Number of frames."""
        return self.timing.frame_count

    @property
    def frames_to_take(self) -> int:
        """How many files a run of it takes: a film at live speed is one, however many pictures are in it."""
        return 1 if self.shot.live else self.frame_count

    def due_by(self, at_s: float) -> int:
        """How many of them are due by an instant."""
        return min(int(np.searchsorted(self.at_s, at_s, side="right")), self.frames_to_take)

    @property
    def film_length_s(self) -> Fraction:
        """How long the film is that comes of it: a walk's is sped up, whatever was recorded."""
        walk = self.shot.walk
        return walked_film_s(walk, self.timing.event_s) if walk and walk.filmed else self.timing.playback_s

    @property
    def round(self) -> bool:
        """Whether a sphere is recorded."""
        return self.shot.recording.projection == "sphere"

    def with_shot(self, shot: Shot) -> "Program":
        """The program of a shot that differs in what is made of it afterwards alone."""
        # Copied, so that what was found out of it already stays found.
        other = copy(self)
        object.__setattr__(other, "shot", shot)
        return other

    def pose(self, after_s: ArrayLike) -> Pose:
        """How the camera stands and looks at seconds from the start (any shape): carried, moved, or on a stand."""
        after = np.asarray(after_s, dtype=np.float64)
        if self.carried is not None:
            return self.carried.pose(after)
        return pose_of(self.shot, self.motion.at(after) if self.motion else {}, after)

    @property
    def zone(self) -> ZoneInfo:
        """The place's time zone."""
        return ZoneInfo(self.shot.place.time_zone)

    @cached_property
    def events(self) -> tuple[SkyEvent, ...]:
        """What sun and moon do over the nights around the shot."""
        found = (
            *self.sky.sun_crossings,
            *self.sky.moon_crossings,
            *ridge_crossings(self.sky, self.shot.place),
        )
        return tuple(sorted(found, key=lambda event: event.at_s))

    @cached_property
    def temperature_c(self) -> Array:
        """How cold it is at each frame."""
        return temperature_c(self.shot.place, self.at_s)

    def energy(self, scope: Scope = EXPECTED) -> tuple[Supply, ...]:
        """What is left for everything that draws energy, the body first, and in every bank, slot by slot."""
        waited_s = float(self.shot.waits.waited_s) if self.shot.waits else 0.0
        return spent(*self.drains, self.slot_s, self.temperature_c, scope, waited_s)

    @cached_property
    def drains(self) -> tuple[tuple[Drain, ...], tuple[Bank, ...]]:
        """All that draws energy, the body first, and the banks that feed it."""
        night = np.asarray(self.sun_altitude_deg < HORIZON_DEG, dtype=np.float64)
        return rigged(self.shot, self.slot_s, self.t_s + self.slot_s, night, self.motion)

    @cached_property
    def supplies(self) -> tuple[Supply, ...]:
        """The same, as it is expected."""
        return self.energy()

    @cached_property
    def changing(self) -> NDArray[np.bool_]:
        """The frames (n,) that are lost because somebody changes the body's battery."""
        lost, swap_s = np.zeros(self.frame_count, dtype=bool), self.drains[0][0].swap_s
        for slot in self.supplies[0].swaps:
            begins = float(self.t_s[slot])
            lost |= (self.t_s > begins) & (self.t_s < begins + swap_s)
        return lost

    @property
    def battery_left(self) -> Array:
        """What is left for the body after each frame's slot (n,), as a fraction of all that it has; below 0: empty."""
        return self.supplies[0].left

    @property
    def clock(self) -> ShotClock:
        """What the moments of the shot are told by."""
        return clock_of(self.start_s, self.t_s, self.timing, self.sky)

    @cached_property
    def key_moments_s(self) -> tuple[float, ...]:
        """When each key of the move is reached, seconds from the start, in the order of the document."""
        keys = self.shot.move.keys if self.shot.move else ()
        return tuple(self.clock.after_s(key.at, self.shot, f"move.keys.{i}.at") for i, key in enumerate(keys))

    @property
    def light_on(self) -> LightOn:
        """The light that the frames are exposed to."""
        night = night_stops(self.shot.light, self.sun_altitude_deg)
        return LightOn(self.t_s, self.scene_ev, self.nd_stops, self.shutter_room_s, night)

    @property
    def shutter_angle_deg(self) -> Array:
        """How much of each slot the shutter is open, as an angle: 360 is all of it."""
        return np.asarray(self.exposures.shutter_s / self.slot_s * 360)

    def local(self, at_s: float) -> datetime:
        """An instant on the place's clock."""
        return datetime.fromtimestamp(at_s, self.zone)

    def clock_told(self, at_s: float, form: str) -> str:
        """An instant on the place's clock, with the days that have gone by since the start: `01:10 +1 d`."""
        at = self.local(at_s)
        days = (at.date() - self.local(self.start_s).date()) // timedelta(days=1)
        return f"{at:{form}}" + (f" +{days} d" if days else "")

    def columns(self) -> dict[str, Array]:
        """All columns by name, in the order in which they are written out."""
        return {
            "number": np.arange(1.0, self.frame_count + 1),
            "at_s": self.at_s,
            "t_s": self.t_s,
            "film_s": self.film_s,
            "sun_altitude_deg": self.sun_altitude_deg,
            "moon_altitude_deg": self.moon_altitude_deg,
            "scene_ev": self.scene_ev,
            "wanted_shutter_s": self.exposures.wanted_shutter_s,
            "shutter_s": self.exposures.shutter_s,
            "aperture": self.exposures.aperture,
            "iso": self.exposures.iso,
            "error_stops": self.exposures.error_stops,
            "nd_stops": self.nd_stops,
            "white_balance_k": self.white_balance_k,
            **{str(name): values for name, values in (self.motion.positions if self.motion else {}).items()},
            "battery_left": self.battery_left,
            "card_bytes": self.card_bytes,
        }


def compile_shot(shot: Shot) -> Program:
    """Compile a shot to its program. Raises Refusal naming the field that cannot be used."""
    return _kept(shot.model_dump_json())


@lru_cache(maxsize=48)
def _kept(document: str) -> Program:
    shot = Shot.model_validate_json(document)
    if shot.outputs:
        # What is made of it afterwards changes nothing before.
        return _kept(shot.model_copy(update={"outputs": ()}).model_dump_json()).with_shot(shot)
    return _compile(shot)


def _compile(shot: Shot) -> Program:
    if shot.live and shot.pace is not None:
        raise Refusal("pace", "A film at live speed has the same interval throughout.")
    stretch = stretch_of(shot)
    timing = solved(shot, stretch=stretch)
    check_firing(shot)
    check_offered(shot, timing)
    check_settings(shot)
    start = start_s(shot)
    number = np.arange(timing.frame_count, dtype=np.float64)
    t = stretch.times_s(timing)
    at = start + t
    end = start + float(timing.event_s)
    slot = np.diff(t, append=float(timing.event_s))
    if shutter_room_s(shot, slot).min() <= 0:
        allowed = f"{shot.body.name} needs longer than that to store a frame."
        raise Refusal("timing.interval_s", allowed, float(timing.interval_s))
    sky = sky_over(shot.place, *nights_around(shot.place, start, end))
    carried = carried_of(shot, float(timing.event_s))
    motion = motion_of(shot, clock_of(start, t, timing, sky))
    # Where travelling leaves no time at all a finding says so; the frame is then a short one.
    moving = 0.0 if motion is None else motion.travel_s + motion.settle_s
    room = np.maximum(shutter_room_s(shot, slot, moving), float(shot.body.shutter_min_s) or 1e-4)
    offset = scene_offset_stops(shot.light, shot.place)
    scene_ev = scene_ev100(sky, at, shot.place.sky_brightness, cloud_stops(shot.place, shot.light.cloud, at), offset)
    nd = nd_stops(shot, at)
    sun = sky.sun(at).altitude_deg
    body = shot.body
    # A film of its own is as long as it plays; one at speed as long as it is recorded.
    film_s = float(timing.interval_s if shot.live else 1 / timing.fps)
    film_bytes = body.film_mbps * 1e6 / 8 * film_s
    return Program(
        shot=shot,
        timing=timing,
        start_s=start,
        end_s=end,
        sky=sky,
        at_s=at,
        t_s=t,
        film_s=_film_times_s(shot, timing, t, number),
        slot_s=slot,
        sun_altitude_deg=sun,
        moon_altitude_deg=sky.moon(at).altitude_deg,
        scene_offset_stops=offset,
        scene_ev=scene_ev,
        nd_stops=nd,
        shutter_room_s=room,
        exposures=expose(shot, LightOn(t, scene_ev, nd, room, night_stops(shot.light, sun))),
        white_balance_k=white_balance_k(shot.light, sun, shot.id.int & 0xFFFFFFFF),
        card_bytes=(number + 1) * (film_bytes if shot.makes_film else body.bytes_per_frame),
        wish_stops=np.zeros(timing.frame_count),
        motion=motion,
        carried=carried,
    )


def _film_times_s(shot: Shot, timing: Solution, t_s: Array, number: Array) -> Array:
    """Where each frame stands in the film."""
    walk = shot.walk
    if walk is None or not walk.filmed:
        return number * timing.fps.denominator / timing.fps.numerator
    return film_times_s(t_s, float(timing.event_s), float(walk.factor), float(walk.head_s), float(walk.tail_s))


def nights_around(place: Place, from_s: float, to_s: float) -> Window:
    """The whole noon-to-noon days of a place that hold a span of time.

    They change seldom while a shot is edited, so the sky over them can be kept.
    """
    zone = ZoneInfo(place.time_zone)
    first = datetime.fromtimestamp(from_s, zone) - timedelta(hours=12)
    noon = datetime(first.year, first.month, first.day, 12, tzinfo=zone)
    last = noon
    while last.timestamp() < to_s:
        last += timedelta(days=1)
    return Window(noon.timestamp(), last.timestamp())


def card_capacity_bytes(shot: Shot) -> int:
    """What the shot's card holds, in bytes."""
    return capacity_bytes(shot.kit.card.capacity_gb)
