"""The stage clock: the time that runner and stand-ins share, which may go faster than the wall's.

At speed 1 it is real time. At speed 600 ten minutes pass in a second, by the same code.
"""

import time
from typing import Annotated, Self

from pydantic import BaseModel, ConfigDict, Field

FASTEST = 3600


class StageClock(BaseModel):
    """Stage time in seconds since 1970 UTC: `stage_s` when the monotonic clock showed `monotonic_s`.

    The monotonic clock is that of the machine, so every process on it reads the same stage time.
    """

    model_config = ConfigDict(frozen=True, extra="forbid", allow_inf_nan=False)

    speed: Annotated[float, Field(ge=1, le=FASTEST)] = 1.0
    stage_s: float
    monotonic_s: float

    @classmethod
    def starting(cls, stage_s: float, speed: float) -> Self:
        """A clock that shows `stage_s` now."""
        return cls(speed=speed, stage_s=stage_s, monotonic_s=time.monotonic())

    @classmethod
    def real(cls) -> Self:
        """The clock on the wall; steady, even when the wall's is corrected."""
        return cls.starting(time.time(), 1.0)

    def now_s(self) -> float:
        """Stage time now."""
        return self.stage_s + (time.monotonic() - self.monotonic_s) * self.speed

    def wait_s(self, stage_s: float) -> float:
        """Real seconds until a stage time; negative where it has passed."""
        return (stage_s - self.now_s()) / self.speed
