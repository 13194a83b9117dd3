"""Edits of a move's keys: set, drag, duplicate, mirror, reverse, stretch, snap."""

from typing import Literal

import numpy as np
from pydantic import Field

from revani.core.documents import (
    MOST_THINGS,
    AfterStart,
    AxisName,
    Document,
    FrameNumber,
    Move,
    MoveKey,
    Position,
    Shot,
    Thing,
)
from revani.core.move.axes import middle_mm, pose_of
from revani.core.move.key import key_at, rekeyed
from revani.core.optics.focus import circle_mm
from revani.core.optics.projection import hyperfocal_mm
from revani.core.program.compiled import Program
from revani.core.quantities.refusal import Refusal
from revani.core.quantities.units import duration, parse_duration

_NEAR_PART = 0.5


class MoveEdit(Document):
    """One change of a move. `at_s` is an instant, seconds since 1970 UTC.

    `set` puts positions at a moment, into the key that stands there or a new one; `aim` turns pan and
    tilt there so that what is `across`, `down` parts of the picture away comes to its middle, or, where
    the aim is locked, keeps its target so much to the left and higher. `drag` moves a key in time and
    its axes to positions. `duplicate` and `remove` take an index, or the key that is nearest to `at_s`.
    `pull` pulls focus from where it is to the thing of the index, within `over` of the film (`2 s`).
    `add thing` puts one more thing on the move table, `remove thing` takes that of the index away. The
    others work on all keys: `mirror` turns positions about the middle of their travel, `reverse` time.
    """

    track: Literal["move"] = "move"
    action: Literal[
        "set", "aim", "drag", "duplicate", "remove", "mirror", "reverse", "stretch", "snap", "pull", "add thing",
        "remove thing",
    ]  # fmt: skip
    index: int | None = None
    at_s: float | None = None
    positions: dict[AxisName, Position] = Field(default={})
    across: float = 0.0
    down: float = 0.0
    over: str = Field("", max_length=40)


def apply_move_edit(program: Program, edit: MoveEdit) -> Shot:
    """The shot of a program after an edit of its move. Raises Refusal("move.keys") for one that cannot be made."""
    shot = program.shot
    move = shot.move or Move.model_validate({})
    if edit.action == "add thing":
        return _with_thing(shot)
    if edit.action == "remove thing":
        return _without_thing(shot, edit.index)
    if edit.action == "aim" and move.aim is not None:
        # The picture is dragged, and its locked target with it.
        across, down = move.aim.across - edit.across, move.aim.down - edit.down
        place = {"across": round(min(max(across, 0.0), 1.0), 4), "down": round(min(max(down, 0.0), 1.0), 4)}
        return shot.with_move(aim=move.aim.model_dump() | place)
    keys = list(move.keys)
    if edit.action in ("duplicate", "remove") and edit.index is None and edit.at_s is not None and keys:
        after = _inside(program, edit.at_s)
        apart = [abs(_after_s(program, key) - after) for key in keys]
        edit = edit.model_copy(update={"index": apart.index(min(apart))})
    if edit.action in ("drag", "duplicate", "remove") and not (edit.index is not None and 0 <= edit.index < len(keys)):
        raise Refusal("move.keys", f"From 0 to {len(keys) - 1}." if keys else "There is none yet.", edit.index)
    for name in edit.positions:
        if name not in shot.kit.axes:
            raise Refusal("move.keys", f"No mover of this kit has {name}.", name)
    if edit.action in ("set", "aim"):
        keys = _set(program, keys, edit)
    elif edit.action == "pull":
        keys = _pulled(program, keys, edit)
    elif edit.action == "drag":
        keys[edit.index or 0] = _dragged(program, keys[edit.index or 0], edit)
    elif edit.action == "remove":
        keys.pop(edit.index or 0)
    elif edit.action == "duplicate":
        keys = _duplicated(program, keys, edit.index or 0)
    elif keys:
        keys = _ALL[edit.action](program, keys)
    return shot.with_keys(_in_order(program, keys))


def _after_s(program: Program, key: MoveKey) -> float:
    if program.motion is not None:
        return program.clock.after_s(key.at, program.shot, "move.keys")
    return key.at.after_s if isinstance(key.at, AfterStart) else 0.0


def _in_order(program: Program, keys: list[MoveKey]) -> list[MoveKey]:
    return sorted(keys, key=lambda key: _after_s(program, key))


# Instants come from drawings, which are rounded; what is so near to a frame is meant to stand there.
_FRAME_NEAR_S = 0.1


def _inside(program: Program, at_s: float | None) -> float:
    """Seconds from the start, within the event, on a frame where one is next to it."""
    after = 0.0 if at_s is None else at_s - program.start_s
    after = min(max(after, 0.0), float(program.timing.event_s))
    frame_s = float(program.t_s[np.argmin(np.abs(program.t_s - after))])
    return frame_s if abs(frame_s - after) < _FRAME_NEAR_S else after


def _standing(program: Program, after_s: float) -> dict[AxisName, float]:
    """Where the axes stand at a moment; where nothing moves yet, in the middle of their ranges, zoom as framed."""
    if program.motion is not None:
        return {name: float(value) for name, value in program.motion.at(np.array(after_s)).items()}
    return {}


def _set(program: Program, keys: list[MoveKey], edit: MoveEdit) -> list[MoveKey]:
    after = _inside(program, edit.at_s)
    positions = dict(edit.positions)
    if edit.action == "aim":
        pose = pose_of(program.shot, {n: np.array(v) for n, v in _standing(program, after).items()}, np.array(after))
        body = program.shot.body
        width, height = body.sensor_width_mm / float(pose.focal_mm), body.sensor_height_mm / float(pose.focal_mm)
        turned = float(pose.heading_deg) - program.shot.framing.heading_deg + np.degrees(np.arctan(edit.across * width))
        lifted = float(pose.tilt_deg) - np.degrees(np.arctan(edit.down * height))
        axes = program.shot.kit.axes
        positions = {n: float(v) for n, v in (("pan", turned), ("tilt", lifted)) if n in axes}
    if not positions:
        positions = _standing(program, after)
    if not positions:
        name = next(iter(program.shot.kit.axes), None)
        if name is None:
            raise Refusal("move.keys", "No mover is in the kit: choose one first.")
        axis = program.shot.kit.axes[name]
        positions = {name: (axis.low + axis.high) / 2}
    near = float(np.median(program.slot_s)) * _NEAR_PART
    for i, key in enumerate(keys):
        if abs(_after_s(program, key) - after) <= near:
            keys[i] = rekeyed(key, positions=positions)
            return keys
    # A new key holds every axis that moves where it stands, so that the rest of the move stays as it is.
    full = {n: v for n, v in _standing(program, after).items() if _keyed(keys, n)} | positions
    return [*keys, key_at(after, full)]


def _pulled(program: Program, keys: list[MoveKey], edit: MoveEdit) -> list[MoveKey]:
    """Two keys: focus where it stands, and so much of the film later on the thing, as far as it is away by then."""
    shot = program.shot
    things = shot.things
    if "focus" not in shot.kit.axes:
        raise Refusal("move.pull", "No mover of this kit drives the focus.")
    if edit.index is None or not 0 <= edit.index < len(things):
        raise Refusal("move.pull", f"From 0 to {len(things) - 1}." if things else "Nothing stands there.", edit.index)
    try:
        over_s = float(parse_duration(edit.over))
    except Refusal as refusal:
        raise Refusal("move.pull", refusal.allowed, edit.over) from None
    begin_s = _inside(program, edit.at_s)
    film_s = float(np.interp(begin_s, program.t_s, program.film_s)) + over_s
    end_s = float(np.interp(film_s, program.film_s, program.t_s))
    if over_s <= 0 or film_s > float(program.film_s[-1]) + 1e-6 or end_s <= begin_s:
        left = float(program.film_s[-1]) - film_s + over_s
        raise Refusal("move.pull", f"Between 0 s and {duration(round(max(left, 0.0), 2))} are left there.", edit.over)
    after = np.array(end_s)
    pose = pose_of(shot, {name: np.array(value) for name, value in _standing(program, end_s).items()}, after)
    away_m = float(pose.sees(shot, middle_mm(things[edit.index]))[2]) / 1000
    if away_m <= 0:
        raise Refusal("move.pull", f"{things[edit.index].name} is behind the camera by then.")
    now_m = _standing(program, begin_s).get("focus") or _hyperfocal_m(program)
    for at_s, focus_m in ((begin_s, now_m), (end_s, away_m)):
        there = MoveEdit(action="set", at_s=program.start_s + at_s, positions={"focus": focus_m})
        keys = _set(program, keys, there)
    return keys


def _hyperfocal_m(program: Program) -> float:
    shot = program.shot
    f, aperture = shot.focal_length_mm, float(program.exposures.aperture[0])
    return float(hyperfocal_mm(f, aperture, circle_mm(shot.body))) / 1000


def _keyed(keys: list[MoveKey], name: AxisName) -> bool:
    return any(name in key.positions for key in keys)


def _dragged(program: Program, key: MoveKey, edit: MoveEdit) -> MoveKey:
    after = None if edit.at_s is None else _inside(program, edit.at_s)
    return rekeyed(key, after_s=after, positions=edit.positions)


def _duplicated(program: Program, keys: list[MoveKey], index: int) -> list[MoveKey]:
    """The key again, half way to the next one, or to the end."""
    after = _after_s(program, keys[index]) + keys[index].hold_s
    later = [at for key in keys if (at := _after_s(program, key)) > after + 1e-6]
    until = min(later, default=float(program.timing.event_s))
    if until - after < 1e-3:
        raise Refusal("move.keys", "There is no time left after this key.", index)
    return [*keys, rekeyed(keys[index], after_s=(after + until) / 2, hold_s=0.0)]


def _mirrored(_program: Program, keys: list[MoveKey]) -> list[MoveKey]:
    """Every axis turned about the middle of its travel."""
    ends: dict[AxisName, tuple[float, float]] = {}
    for key in keys:
        for name, value in key.positions.items():
            low, high = ends.get(name, (value, value))
            ends[name] = (min(low, value), max(high, value))
    return [rekeyed(key, positions={n: sum(ends[n]) - v for n, v in key.positions.items()}) for key in keys]


def _reversed(program: Program, keys: list[MoveKey]) -> list[MoveKey]:
    """The same way backwards, between the same first and last moment."""
    arrives = [_after_s(program, key) for key in keys]
    first, last = min(arrives), max(at + key.hold_s for at, key in zip(arrives, keys, strict=True))
    return [
        rekeyed(key, after_s=first + last - at - key.hold_s).model_copy(
            update={"arrive": key.leave, "leave": key.arrive}
        )
        for at, key in zip(arrives, keys, strict=True)
    ]


def _stretched(program: Program, keys: list[MoveKey]) -> list[MoveKey]:
    """First key at the first frame, last key (and its hold) at the end; the rest in proportion."""
    arrives = [_after_s(program, key) for key in keys]
    first, last = min(arrives), max(at + key.hold_s for at, key in zip(arrives, keys, strict=True))
    factor = float(program.timing.event_s) / (last - first) if last > first else 0.0
    return [
        rekeyed(key, after_s=(at - first) * factor, hold_s=key.hold_s * factor)
        for at, key in zip(arrives, keys, strict=True)
    ]


def _snapped(program: Program, keys: list[MoveKey]) -> list[MoveKey]:
    """Every key at the nearest frame."""
    return [
        key.model_copy(
            update={"at": FrameNumber(number=int(np.argmin(np.abs(program.t_s - _after_s(program, key)))) + 1)}
        )
        for key in keys
    ]


_ALL = {"mirror": _mirrored, "reverse": _reversed, "stretch": _stretched, "snap": _snapped}


def _with_thing(shot: Shot) -> Shot:
    """One thing more on the table, three metres ahead of the slider's middle."""
    things = shot.things
    if len(things) >= MOST_THINGS:
        raise Refusal("move.things", f"At most {MOST_THINGS} can stand before the camera.")
    taken = {thing.name for thing in things}
    name = next(name for n in range(1, MOST_THINGS + 2) if (name := f"Thing {n}") not in taken)
    slide = shot.kit.axes.get("slide")
    x = (slide.low + slide.high) / 2 if slide else 0.0
    return shot.with_move(
        things=[*(one.model_dump() for one in things), Thing(name=name, x_mm=x, y_mm=3_000).model_dump()]
    )


def _without_thing(shot: Shot, index: int | None) -> Shot:
    """Without a thing; an aim that was locked on it is let go."""
    things = shot.things
    if shot.move is None or index is None or not 0 <= index < len(things):
        raise Refusal("move.things", f"From 0 to {len(things) - 1}." if things else "There is none yet.", index)
    aim = shot.move.aim
    left = [one.model_dump() for i, one in enumerate(things) if i != index]
    return shot.with_move(things=left, aim=None if aim is None or aim.thing == things[index].name else aim.model_dump())
