"""Moves to begin with, computed from the rig and the length of the shot."""

from collections.abc import Callable

from pydantic import BaseModel, ConfigDict

from revani.core.documents import AXES, AimLock, Axis, AxisName, Move, Shot, Thing
from revani.core.move.key import key_at
from revani.core.quantities.measures import LENGTH
from revani.core.quantities.units import decimals, duration
from revani.core.timing.pace import solved

_PART = 0.9
"""How much of an axis's speed and range a preset uses at most."""
_SWEEP_DEG = 40.0
_RISE_MM = 600.0
_HOLD_PART = 0.25


class MovePreset(BaseModel):
    """A move with a name, what it does, and the shot that takes it; `missing` names an axis that it needs."""

    model_config = ConfigDict(frozen=True)

    name: str
    told: str
    missing: str = ""
    shot: Shot | None = None


def presets(shot: Shot) -> tuple[MovePreset, ...]:
    """All presets, in the order of their effort."""
    return tuple(_made(shot, name, needs, make) for name, needs, make in _PRESETS)


Made = tuple[str, dict[str, object]]


def _made(shot: Shot, name: str, needs: tuple[AxisName, ...], make: Callable[[Shot, float], Made]) -> MovePreset:
    lacking = [axis for axis in needs if axis not in shot.kit.axes]
    if lacking:
        return MovePreset(name=name, told="", missing=f"No mover of this kit has {' or '.join(lacking)}.")
    told, change = make(shot, float(solved(shot).event_s))
    now = shot.move or Move.model_validate({})
    # What is set up by hand, and what is judged, stays as it is.
    kept = now.model_dump(include={"kind", "things", "incline_deg", "on_stall", "afterwards", "blur_limit_px"})
    move = Move.model_validate({**kept, **change})
    return MovePreset(name=name, told=told, shot=shot.model_copy(update={"move": move}))


def _way(shot: Shot, axis: AxisName, most: float, seconds: float) -> tuple[float, float]:
    """From and to of an axis about its middle: no more than wanted, than it has, and than it does in the time."""
    limits: Axis = shot.kit.axes[axis]
    # A least-jerk leg peaks at 1.875 of its mean speed, and at 5.7735 d/T² of acceleration.
    fast = limits.speed * seconds / 1.875
    hard = limits.acceleration * seconds**2 / 5.7735
    length = min(most, (limits.high - limits.low) * _PART, fast * _PART, hard * _PART)
    middle = (limits.low + limits.high) / 2
    return round(middle - length / 2, 1), round(middle + length / 2, 1)


def _key(after_s: float, hold_s: float = 0.0, **positions: float) -> dict[str, object]:
    return key_at(after_s, {name: positions[name] for name in AXES if name in positions}, hold_s).model_dump()


def _pass(shot: Shot, event_s: float) -> Made:
    a, b = _way(shot, "slide", 1e9, event_s)
    return f"{LENGTH.show(b - a, 0)} over {duration(event_s)}", {"keys": [_key(0, slide=a), _key(event_s, slide=b)]}


def _locked(shot: Shot, event_s: float) -> Made:
    told, change = _pass(shot, event_s)
    things = list(shot.move.things) if shot.move else []
    if not things:
        things = [Thing(name="Subject", x_mm=sum(_way(shot, "slide", 1e9, event_s)) / 2, y_mm=3_000)]
    subject = next((thing for thing in things if thing.role == "subject"), things[0])
    dumped = [thing.model_dump() for thing in things]
    return f"{told}, looking at {subject.name}", change | {
        "things": dumped,
        "aim": AimLock(thing=subject.name).model_dump(),
    }


def _rise(shot: Shot, event_s: float) -> Made:
    a, b = _way(shot, "lift", _RISE_MM, event_s)
    down, up = _way(shot, "tilt", 15, event_s)
    keys = [_key(0, lift=a, tilt=up), _key(event_s, lift=b, tilt=down)]
    return f"{LENGTH.show(b - a, 0)} up while the camera looks down by {decimals(up - down, 0)}°", {"keys": keys}


def _sweep(shot: Shot, event_s: float) -> Made:
    a, b = _way(shot, "pan", _SWEEP_DEG, event_s)
    return f"{decimals(b - a, 0)}° of pan over {duration(event_s)}", {"keys": [_key(0, pan=a), _key(event_s, pan=b)]}


def _two_stop(shot: Shot, event_s: float) -> Made:
    hold = event_s * _HOLD_PART
    leg = (event_s - hold) / 2
    a, b = _way(shot, "slide", 1e9, leg)
    middle = round((a + b) / 2, 1)
    keys = [_key(0, slide=a), _key(leg, hold, slide=middle), _key(event_s, slide=b)]
    return f"stands for {duration(round(hold))} half way", {"keys": keys}


def _back_and_forth(shot: Shot, event_s: float) -> Made:
    one = min(20.0, event_s / 2)
    a, b = _way(shot, "slide", 1e9, one)
    change: dict[str, object] = {"keys": [_key(0, slide=a), _key(one, slide=b)], "repeat": "ping-pong"}
    return f"{LENGTH.show(b - a, 0)} each way, turning every {duration(one)}", change


_PRESETS: tuple[tuple[str, tuple[AxisName, ...], Callable[[Shot, float], Made]], ...] = (
    ("Straight pass", ("slide",), _pass),
    ("Pass with locked aim", ("slide", "pan"), _locked),
    ("Rise and reveal", ("lift", "tilt"), _rise),
    ("Sweep", ("pan",), _sweep),
    ("Two stops with a hold", ("slide",), _two_stop),
    ("Back and forth", ("slide",), _back_and_forth),
)
