"""What the moments of a shot are told by."""

from dataclasses import dataclass

import numpy as np

from revani.core.documents import AltitudeStart, ClockStart, FilmTime, FrameNumber, Moment, RidgeEvent, Shot, SunStart
from revani.core.quantities.arrays import Array
from revani.core.quantities.refusal import Refusal
from revani.core.quantities.units import count, duration
from revani.core.sky.skyline import ridge_crossings
from revani.core.sky.sun_and_moon import Sky
from revani.core.timing.law import Solution
from revani.core.timing.start import next_s

_TOGETHER_S = 1e-3


@dataclass(frozen=True)
class ShotClock:
    """What the moments of a shot are told by: its start, the times of its frames from there, and its film rate."""

    start_s: float
    t_s: Array
    event_s: float
    film_per_frame_s: float
    sky: Sky

    def after_s(self, moment: Moment, shot: Shot, path: str) -> float:
        """Seconds from the start of a moment. Raises Refusal(path) for one outside the shot, or that is not."""
        if isinstance(moment, FilmTime):
            film_s = self.t_s.size * self.film_per_frame_s
            if moment.film_s > film_s + _TOGETHER_S:
                raise Refusal(path, f"The film lasts {duration(round(film_s, 3))}.", moment.film_s)
            return self._at_frame(moment.film_s / self.film_per_frame_s)
        if isinstance(moment, FrameNumber):
            if moment.number > self.t_s.size:
                raise Refusal(path, f"The shot has {count(self.t_s.size, 'frame')}.", moment.number)
            return float(self.t_s[moment.number - 1])
        if isinstance(moment, RidgeEvent):
            for event in ridge_crossings(self.sky, shot.place):
                if event.name == moment.event and 0 <= event.at_s - self.start_s <= self.event_s:
                    return event.at_s - self.start_s
            raise Refusal(path, f"The {moment.event} does not happen during this shot.", moment.event)
        if isinstance(moment, ClockStart | SunStart | AltitudeStart):
            return max(next_s(moment, shot.place, self.start_s, path) - self.start_s, 0.0)
        return moment.after_s

    def _at_frame(self, index: float) -> float:
        ends = np.append(self.t_s, self.event_s)
        return float(np.interp(index, np.arange(ends.size), ends))


def clock_of(start_s: float, t_s: Array, timing: Solution, sky: Sky) -> ShotClock:
    """The clock of a shot that begins at `start_s` and whose frames are due at `t_s` (n,)."""
    return ShotClock(start_s, t_s, float(timing.event_s), float(1 / timing.fps), sky)
