"""What came home against what was rehearsed, in words."""

from collections.abc import Sequence

import numpy as np
from pydantic import BaseModel, ConfigDict

from revani.core.quantities.units import count, decimals, in_stops

# Less than this is none that anybody sees, stops.
_SAME_STOPS = 0.05


class FrameAgainst(BaseModel):
    """A taken frame against the rehearsed one: how much brighter, how far shifted; None where it cannot be told."""

    model_config = ConfigDict(frozen=True)

    number: int
    stops: float | None
    right_px: float | None
    down_px: float | None
    told: str

    @property
    def shift_px(self) -> float | None:
        """How far it is shifted, whichever way."""
        return None if self.right_px is None or self.down_px is None else float(np.hypot(self.right_px, self.down_px))


class AgainstView(BaseModel):
    """Frames all through a run against its rehearsal, and what that comes to."""

    frames: list[FrameAgainst]
    told: str


def frame_against(
    number: int, stops: float | None, right_px: float | None, down_px: float | None, within_px: float
) -> FrameAgainst:
    """One frame, with its words; a shift is known to within so many pixels."""
    told = f"{_light_told(stops)}; {_shift_told(right_px, down_px, within_px)}."
    return FrameAgainst(number=number, stops=stops, right_px=right_px, down_px=down_px, told=told[0].upper() + told[1:])


def against_view(frames: Sequence[FrameAgainst]) -> AgainstView:
    """All that were looked at, and the middle and the most of them."""
    if not frames:
        return AgainstView(frames=[], told="No still came home that could be held against the rehearsal.")
    said = [f"Of {count(len(frames), 'frame')} looked at"]
    lit = [(abs(one.stops), one.number) for one in frames if one.stops is not None]
    shifted = [(one.shift_px, one.number) for one in frames if one.shift_px is not None]
    if lit:
        said.append(f"half are within {_off(lit, 'stops', 2)} of the rehearsed light, {_most(lit, 'stops', 2)}")
    if shifted:
        said.append(f"half are within {_off(shifted, 'px', 1)} of the rehearsed place, {_most(shifted, 'px', 1)}")
    if not lit and not shifted:
        said.append("none can be held against it: they are black or white")
    return AgainstView(frames=list(frames), told=f"{said[0]}, {'; '.join(said[1:])}.")


def _off(found: Sequence[tuple[float, int]], unit: str, places: int) -> str:
    return f"{decimals(float(np.median([off for off, _ in found])), places)} {unit}"


def _most(found: Sequence[tuple[float, int]], unit: str, places: int) -> str:
    off, number = max(found)
    return f"the most is {decimals(off, places)} {unit} in frame {number:,}"


def _light_told(stops: float | None) -> str:
    if stops is None:
        return "its light cannot be told, it is black or white"
    if abs(stops) < _SAME_STOPS:
        return "as bright as rehearsed"
    return f"{in_stops(abs(stops), 2)} {'brighter' if stops > 0 else 'darker'} than rehearsed"


def _shift_told(right_px: float | None, down_px: float | None, within_px: float) -> str:
    if right_px is None or down_px is None:
        return "too little in it to tell whether it is shifted"
    ways = [(abs(right_px), "right" if right_px > 0 else "left"), (abs(down_px), "down" if down_px > 0 else "up")]
    said = [f"{decimals(off, 1)} px {way}" for off, way in ways if off > 1.5 * within_px]
    return f"shifted {' and '.join(said)}" if said else f"in its place within {decimals(1.5 * within_px, 1)} px"
