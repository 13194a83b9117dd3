"""The stage clock: the time that runner and stand-ins share, which may go faster than the wall's.

At speed 1 it is real time. At speed 600 ten minutes pass in a second, by the same code.
"""

import time
from collections.abc import Callable
from threading import Event
from typing import Annotated, Self

from pydantic import BaseModel, ConfigDict, Field

FASTEST = 3600
# A wait is looked at again so often: what is slept through counts.
_LONGEST_WAIT_S = 0.5


def steady_s() -> float:
    """Seconds that nobody sets, a sleep of the machine included. Source: clock_gettime(2), CLOCK_BOOTTIME."""
    return time.clock_gettime(time.CLOCK_BOOTTIME)


def awake_s() -> float:
    """Seconds that nobody sets, as long as the machine is awake. Source: clock_gettime(2), CLOCK_MONOTONIC."""
    return time.monotonic()


def wall_s() -> float:
    """The clock on the wall, seconds since 1970 UTC: it may be set, forward and back."""
    return time.time()


class StageClock(BaseModel):
    """Stage time in seconds since 1970 UTC: `stage_s` when the machine's steady clock showed `steady_s`.

    The steady clock is that of the machine since it was started, so every process on it reads the same stage
    time; `boot` tells one start of the machine from another.
    """

    model_config = ConfigDict(frozen=True, extra="ignore", allow_inf_nan=False)

    speed: Annotated[float, Field(ge=1, le=FASTEST)] = 1.0
    stage_s: float
    steady_s: float
    boot: str = ""

    @classmethod
    def starting(cls, stage_s: float, speed: float, boot: str = "") -> Self:
        """A clock that shows `stage_s` now."""
        return cls(speed=speed, stage_s=stage_s, steady_s=steady_s(), boot=boot)

    @classmethod
    def real(cls, boot: str = "") -> Self:
        """The clock on the wall; steady from now on, even when the wall's is set."""
        return cls.starting(wall_s(), 1.0, boot)

    def now_s(self) -> float:
        """Stage time now."""
        return self.stage_s + (steady_s() - self.steady_s) * self.speed

    def wait_s(self, stage_s: float) -> float:
        """Real seconds until a stage time; negative where it has passed."""
        return (stage_s - self.now_s()) / self.speed

    def wait(self, stage_s: float, ahead_s: float, halt: Event, news: Callable[[], bool] | None = None) -> bool:
        """Wait until `ahead_s` real seconds before a stage time; True where `halt` came first.

        The time that the machine sleeps counts. Where there is `news`, the wait is over, too.
        """
        while (left := self.wait_s(stage_s) - ahead_s) > 0 and not (news and news()):
            if halt.wait(min(left, _LONGEST_WAIT_S)):
                return True
        return halt.is_set()


class Disturbances:
    """What happens to the machine's clocks while a run goes on: it sleeps, or its wall clock is set."""

    _LEAST_S = 1.0

    def __init__(self) -> None:
        self._asleep_s = steady_s() - awake_s()
        self._wall_s = wall_s() - steady_s()

    def news(self) -> tuple[float, float]:
        """Seconds slept, and seconds by which the wall clock was set forward, since the last call; 0 under one."""
        asleep_s, wall_ahead_s = steady_s() - awake_s(), wall_s() - steady_s()
        slept, set_by = asleep_s - self._asleep_s, wall_ahead_s - self._wall_s
        if abs(slept) >= self._LEAST_S:
            self._asleep_s = asleep_s
        if abs(set_by) >= self._LEAST_S:
            self._wall_s = wall_ahead_s
        return (slept if slept >= self._LEAST_S else 0.0), (set_by if abs(set_by) >= self._LEAST_S else 0.0)
