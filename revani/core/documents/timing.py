"""What is asked of a shot's timing: the plain model. What follows from it is the law's, in `core.timing`."""

from fractions import Fraction
from typing import Literal

from pydantic import BaseModel, ConfigDict, Field

from revani.core.quantities.units import Exact, Rate

Quantity = Literal["fps", "interval_s", "frame_count", "playback_s", "event_s"]
QUANTITIES: tuple[Quantity, ...] = ("fps", "interval_s", "frame_count", "playback_s", "event_s")
MOST_FRAMES = 1_000_000
LONGEST_EVENT_S = 400 * 86_400


class Timing(BaseModel):
    """What the person asked for: just the quantities that are wanted; the rest is solved.

    Three quantities that determine the other two, at least; more only if they agree.
    """

    model_config = ConfigDict(frozen=True, extra="forbid")

    fps: Rate | None = Field(None, ge=Fraction(1, 100), le=1_000, description="Playback rate.")
    interval_s: Exact | None = Field(None, gt=0, le=LONGEST_EVENT_S)
    frame_count: int | None = Field(None, ge=1, le=MOST_FRAMES)
    playback_s: Exact | None = Field(None, gt=0, le=MOST_FRAMES * 100)
    event_s: Exact | None = Field(None, gt=0, le=LONGEST_EVENT_S)

    def wanted(self) -> tuple[Quantity, ...]:
        """The quantities that were asked for."""
        return tuple(name for name in QUANTITIES if getattr(self, name) is not None)
