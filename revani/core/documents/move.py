"""How a shot's rig moves, and what stands before it."""

from typing import Annotated, Literal, Self

from pydantic import Field, field_validator, model_validator

from revani.core.documents.base import Document, Name
from revani.core.documents.moment import Moment
from revani.core.documents.mover import AxisName
from revani.core.quantities.measures import Degrees, Part, PartPixels, Room


class Ease(Document):
    """How a leg begins or ends: at once, by an even ramp of so many seconds, or with least jerk.

    Least jerk without seconds takes half of the leg.
    """

    kind: Literal["none", "linear", "jerk"] = "jerk"
    s: float | None = Field(None, gt=0, le=1e6)

    @model_validator(mode="after")
    def _whole(self) -> Self:
        if self.kind == "linear" and self.s is None:
            raise ValueError("How many seconds the ramp takes is needed.")
        return self


# In mm or degrees; focus in m. Farther than any rig goes, and near enough to be computed with.
FARTHEST = 1e6
Position = Annotated[float, Field(ge=-FARTHEST, le=FARTHEST)]
_OPTICS: dict[AxisName, tuple[float, str]] = {
    "zoom": (2_000.0, "zoom must be a focal length of more than 0 mm, at most 2,000 mm."),
    "focus": (100_000.0, "focus must be a distance of more than 0 m, at most 100 km."),
}


class MoveKey(Document):
    """Where the axes stand at a moment; they stay for `hold_s`, then leave for the next key.

    Focus is a distance in metres; an axis that is not named stays where the key before had it.
    """

    at: Moment
    positions: dict[AxisName, Position] = Field(min_length=1)
    hold_s: float = Field(0.0, ge=0, le=40_000_000)
    arrive: Ease = Ease.model_validate({})
    leave: Ease = Ease.model_validate({})

    @field_validator("positions")
    @classmethod
    def _before_the_lens(cls, positions: dict[AxisName, float]) -> dict[AxisName, float]:
        for name, (most, allowed) in _OPTICS.items():
            if name in positions and not 0 < positions[name] <= most:
                raise ValueError(allowed)
        return positions


class Thing(Document):
    """Something before the camera, on the move table: mm to the right of the slider's zero, mm ahead.

    `base_mm` is its foot above (or below) the lens when the lift stands at zero.
    """

    name: Name
    role: Literal["subject", "foreground", "background"] = "subject"
    x_mm: Room = Field(ge=-1e7, le=1e7)
    y_mm: Room = Field(ge=-1e7, le=1e7)
    width_mm: Room = Field(600.0, gt=0, le=1e6)
    height_mm: Room = Field(1_700.0, gt=0, le=1e6)
    base_mm: Room = Field(-1_200.0, ge=-1e6, le=1e6)


class AimLock(Document):
    """A thing that pan and tilt keep at one place of the picture, parts from its left and top."""

    thing: Name
    across: Part = Field(0.5, title="Target kept across", ge=0, le=1)
    down: Part = Field(0.5, title="Target kept down", ge=0, le=1)


MOST_BLUR_PX = 10_000
MOST_THINGS = 40


class Move(Document):
    """How the rig moves: shoot–move–settle, continuously, or at live speed (filmed as it happens)."""

    kind: Literal["stepwise", "continuous", "live"] = Field("continuous", title="Kind of move")
    path: Literal["legs", "smooth"] = Field(
        "legs", title="Way through the keys", description="Leg by leg with eases, or one path through all keys."
    )
    keys: tuple[MoveKey, ...] = Field((), max_length=200)
    repeat: Literal["once", "loop", "ping-pong"] = Field("once", title="Repeats")
    aim: AimLock | None = Field(None, title="Aim locked on")
    things: tuple[Thing, ...] = Field((), max_length=MOST_THINGS)
    blur_limit_px: PartPixels = Field(6.0, title="Blur that is let pass", gt=0, le=MOST_BLUR_PX)
    incline_deg: Degrees = Field(
        0.0, title="Slope of the slider", ge=0, le=90, description="How steeply the slider stands."
    )
    on_stall: Literal["end", "hold"] = Field(
        "end", title="A stalled axis", description="End the run, or go on shooting where the rig stands."
    )
    afterwards: Literal["stays", "start"] = Field(
        "stays", title="Afterwards the rig", description="Stay where it is, or go back to its first key."
    )

    @model_validator(mode="after")
    def _known(self) -> Self:
        names = [thing.name for thing in self.things]
        if len(set(names)) < len(names):
            raise ValueError("Each thing needs a name of its own.")
        if self.aim is not None and self.aim.thing not in names:
            raise ValueError("The aim must be one of the things.")
        return self
