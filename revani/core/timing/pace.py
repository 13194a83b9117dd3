"""The interval over a whole shot: one throughout, or short by day and long by night.

With `shape(t)` the factor by which the interval is longer at t seconds from the start (1 by day),
the law of timing stays what it is on *effective* seconds: `frame_count × interval_s = ∫ dt / shape`.
The frame times are that integral turned round, on the ticks of the controller.
"""

from collections.abc import Callable
from dataclasses import dataclass, field
from fractions import Fraction
from functools import lru_cache

import numpy as np

from revani.core.documents import Pace, Place, Shot
from revani.core.documents.timing import LONGEST_EVENT_S, Timing
from revani.core.quantities.arrays import Array
from revani.core.quantities.refusal import Refusal
from revani.core.sky.sun_and_moon import sky_over
from revani.core.timing.law import EVEN, Solution, Stretch, solve
from revani.core.timing.start import next_s, start_s

_STEP_S = 30.0
# An end is not the instant of the start itself.
_LEAST_EVENT_S = 2.0
_FIRST_LOOK_S = 2 * 86_400.0


def night_share(pace: Pace, sun_altitude_deg: Array) -> Array:
    """How far it is night for a pace, 0 to 1, at altitudes of the sun."""
    span = pace.day_above_deg - pace.night_below_deg
    return np.asarray(np.clip((pace.day_above_deg - sun_altitude_deg) / span, 0.0, 1.0))


@dataclass
class Paced(Stretch):
    """The stretch of a shot whose interval follows the sun."""

    shot: Shot
    pace: Pace
    begins_s: float
    _t: Array = field(default_factory=lambda: np.zeros(1))
    _effective: Array = field(default_factory=lambda: np.zeros(1))

    @property
    def _tick_s(self) -> Fraction:
        return self.shot.body.controller_tick_s

    def effective_s(self, event_s: Fraction) -> Fraction:
        """Seconds of day's pace that an event is worth; half a tick is forgiven, as its end was rounded."""
        self._look(lambda t, _: bool(t[-1] >= float(event_s) + _STEP_S))
        return Fraction(float(np.interp(float(event_s + self._tick_s / 2), self._t, self._effective)))

    def event_s(self, effective_s: Fraction) -> Fraction:
        """How long an event of so many effective seconds takes, on the tick."""
        return Fraction(int(self._ticks(np.array([float(effective_s)]))[0])) * self._tick_s

    def interval_s(self, event_s: Fraction, frame_count: int) -> Fraction:
        """The day's interval that shares an event out to so many frames, to the microsecond."""
        return Fraction(int(self.effective_s(event_s) / frame_count * 1_000_000), 1_000_000)

    def times_s(self, solved: Solution) -> Array:
        """When each frame is due, seconds from the start (n,). Raises Refusal for an interval under a tick."""
        if solved.interval_s * min(self.pace.night_factor, Fraction(1)) < self._tick_s:
            allowed = f"At least {float(self._tick_s):g} s, the tick of the trigger, by day and by night."
            raise Refusal("timing.interval_s", allowed, float(solved.interval_s))
        step = solved.interval_s
        number = np.arange(solved.frame_count, dtype=np.float64)
        ticks = self._ticks(number * step.numerator / step.denominator)
        return np.asarray(ticks * self._tick_s.numerator / self._tick_s.denominator)

    def _ticks(self, effective: Array) -> Array:
        self._look(lambda _, known: bool(known[-1] >= effective[-1]))
        return np.asarray(np.round(np.interp(effective, self._effective, self._t) / float(self._tick_s)))

    def _look(self, enough: Callable[[Array, Array], bool]) -> None:
        """Integrate the pace far enough ahead."""
        horizon = _FIRST_LOOK_S
        while not enough(self._t, self._effective):
            if self._t[-1] >= LONGEST_EVENT_S:
                raise Refusal("timing.event_s", "At most 400 days can be planned in one shot.")
            horizon = min(horizon * 2, LONGEST_EVENT_S + 2 * _STEP_S)
            place = self.shot.place
            where = place.latitude_deg, place.longitude_deg, place.elevation_m
            self._t = np.arange(0.0, horizon + _STEP_S, _STEP_S)
            self._effective = _worth(where, self.begins_s, horizon, self.pace)


@lru_cache(maxsize=8)
def _worth(where: tuple[float, float, float], begins_s: float, horizon_s: float, pace: Pace) -> Array:
    """What each step is worth, summed from the start, kept: a timing is solved again for every fix of a finding."""
    latitude, longitude, elevation = where
    place = Place(name="grid", latitude_deg=latitude, longitude_deg=longitude, elevation_m=elevation)
    t = np.arange(0.0, horizon_s + _STEP_S, _STEP_S)
    sky = sky_over(place, begins_s, begins_s + horizon_s + _STEP_S)
    speed = float(pace.night_factor) ** -night_share(pace, sky.sun(begins_s + t).altitude_deg)
    worth = np.concatenate([[0.0], np.cumsum((speed[1:] + speed[:-1]) / 2) * _STEP_S])
    worth.flags.writeable = False
    return worth


def stretch_of(shot: Shot) -> Stretch:
    """How a shot's wall time is stretched over its frames."""
    return EVEN if shot.pace is None else Paced(shot, shot.pace, start_s(shot))


def asked(shot: Shot) -> Timing:
    """What is asked of a shot's timing. Where its end hangs on a moment, the event reaches to it, to the second.

    A wanted interval stays, and the frames follow. Raises Refusal("until") for an end that does not come.
    """
    timing = shot.timing
    if shot.until is None:
        return timing
    begin_s = start_s(shot)
    event_s = round(next_s(shot.until, shot.place, begin_s + _LEAST_EVENT_S, "until") - begin_s)
    others: dict[str, object] = {"fps": timing.fps, "event_s": Fraction(event_s)}
    if timing.fps is None:
        others["playback_s"] = timing.playback_s
    if timing.interval_s is not None:
        others["interval_s"] = timing.interval_s
    else:
        others |= {"frame_count": timing.frame_count, "playback_s": timing.playback_s}
    return Timing.model_validate(others)


def solved(shot: Shot, stretch: Stretch | None = None) -> Solution:
    """A shot's timing, solved. Raises Refusal with the field's path in the shot."""
    stretch = stretch or stretch_of(shot)
    try:
        return solve(asked(shot), stretch)
    except Refusal as refusal:
        inside = "." in refusal.path or refusal.path in ("start", "until")
        raise refusal if inside else refusal.below("timing") from None
