"""The values of a shot's move: its kind, its keys, the things before the camera."""

import re
from fractions import Fraction
from math import ceil, floor
from typing import Literal

from revani.core.documents import (
    AXES,
    AXIS_MEASURES,
    AfterStart,
    AimLock,
    Ease,
    FilmTime,
    FrameNumber,
    Moment,
    Move,
    MoveKey,
    Place,
    RidgeEvent,
    Shot,
)
from revani.core.documents.timing import MOST_FRAMES, Timing
from revani.core.edit.fields.derived import chosen_field, label_of
from revani.core.edit.fields.field import Field, share_field, words_field
from revani.core.edit.retime import with_film_shutter
from revani.core.edit.walking import begun, ended
from revani.core.move.key import rekeyed
from revani.core.move.overload import least_factor
from revani.core.move.words import key_part, read_key_part, show_key_part
from revani.core.program.compiled import compile_shot
from revani.core.quantities.measures import ROOM, chosen
from revani.core.quantities.refusal import Refusal
from revani.core.timing.law import Solution
from revani.core.timing.pace import solved as timing_of
from revani.core.timing.start import later_start

MOVE_KINDS = {"stepwise": "shoot, move, settle", "continuous": "without stopping", "live": "at live speed"}
_PATHS = {"legs": "leg by leg", "smooth": "as one smooth way"}
_REPEATS = {"once": "once", "loop": "in a loop", "ping-pong": "back and forth"}
_STALLS = {"end": "ends the run", "hold": "leaves the rig where it stands"}
_AFTERWARDS = {"stays": "stays where it is", "start": "goes back to its start"}
_NO_AIM = "nothing"
_LIVE_S, _LEAST_INTERVAL_S = Fraction(60), Fraction(2)


def _key_field(index: int, part: str) -> Field:
    """A part of a key of the move: its moment, its hold, an ease, or an axis."""
    label = f"Key {index + 1}, {'ease away' if part == 'leave' else 'ease in' if part == 'arrive' else part}"

    def nudge(shot: Shot, solved: Solution, steps: int) -> Shot:
        assert shot.move
        key = shot.move.keys[index]
        axis = next((name for name in AXES if name == part), None)
        if axis is not None and axis in key.positions:
            key = rekeyed(key, positions={axis: key.positions[axis] + steps * AXIS_MEASURES[axis].nudge})
        elif part == "at":
            key = key.model_copy(update={"at": _later(key.at, shot.place, solved, steps)})
        elif part == "hold":
            key = rekeyed(key, hold_s=max(0.0, key.hold_s + steps * float(solved.interval_s)))
        return shot.with_keys((*shot.move.keys[:index], key, *shot.move.keys[index + 1 :]))

    return Field(
        label,
        lambda shot, _: show_key_part(shot, index, part),
        lambda shot, text: read_key_part(shot, index, part, text),
        nudge,
    )


def _later(moment: Moment, place: Place, solved: Solution, steps: int) -> Moment:
    """A moment so many frames later; one that is bound to the sun or the clock goes by five minutes."""
    if isinstance(moment, AfterStart):
        return AfterStart(after_s=round(max(0.0, moment.after_s + steps * float(solved.interval_s)), 3))
    if isinstance(moment, FrameNumber):
        return FrameNumber(number=max(1, moment.number + steps))
    if isinstance(moment, FilmTime):
        return FilmTime(film_s=round(max(0.0, moment.film_s + steps / float(solved.fps)), 4))
    return moment if isinstance(moment, RidgeEvent) else later_start(moment, place, steps)


def _move_of(shot: Shot) -> Move:
    return shot.move or Move.model_validate({})


def _put_kind(shot: Shot, kind: str) -> Shot:
    return _other_speed(shot, kind) if shot.live != (kind == "live") else shot.with_move(kind=kind)


def _other_speed(shot: Shot, kind: str) -> Shot:
    """A shot that becomes a film at live speed, or ceases to be one, its keys in their places within the event.

    A film has a frame every 1/fps, one interval throughout and a shutter that fits; it is as long as the
    rig needs for its legs. A lapse has an interval that the body can take, and as many frames.
    """
    timing = timing_of(shot)
    now = shot.with_move(kind=kind)
    if kind == "live":
        factor, event_s = _film_of(shot, timing)
        fixed: dict[str, object] = {"fps": timing.fps, "interval_s": 1 / timing.fps, "event_s": event_s}
        now = with_film_shutter(now, timing.fps).model_copy(update={"pace": None})
    else:
        interval = max(shot.body.minimum_interval_s, _LEAST_INTERVAL_S)
        fixed = {"fps": timing.fps, "interval_s": interval, "frame_count": timing.frame_count}
        factor = float(interval * timing.frame_count / timing.event_s)
    keys = tuple(
        _moved(key, after_s, factor) for key, after_s in zip(_move_of(shot).keys, _moments_s(shot), strict=True)
    )
    move = _move_of(now).model_copy(update={"keys": keys})
    return now.model_copy(update={"timing": Timing.model_validate(fixed), "until": None, "move": move})


def _film_of(shot: Shot, timing: Solution) -> tuple[float, Fraction]:
    """By how much a move is sped up for a film, no more than its rig can do, and how long the film is."""
    event_s = min(timing.event_s, _LIVE_S)
    factor = float(event_s / timing.event_s)
    keys = _move_of(shot).keys
    if keys:
        factor = max(factor, least_factor(compile_shot(shot).motion))
        ends = max(at + key.hold_s for at, key in zip(_moments_s(shot), keys, strict=True)) * factor
        event_s = max(event_s, Fraction(ceil(round(ends, 3))))
    return factor, min(event_s, floor(MOST_FRAMES / timing.fps) * Fraction(1))


def _moments_s(shot: Shot) -> tuple[float, ...]:
    return compile_shot(shot).key_moments_s if _move_of(shot).keys else ()


def _moved(key: MoveKey, after_s: float, factor: float) -> MoveKey:
    """A key at its place in an event so many times as long; eases that are given in seconds fit again or are soft."""
    moved = rekeyed(key, after_s=after_s * factor, hold_s=key.hold_s * factor)
    soft = {side: Ease() for side in ("arrive", "leave") if getattr(key, side).s is not None}
    return moved.model_copy(update=soft) if factor < 1 else moved


def _read_aim(shot: Shot, text: str) -> Shot:
    if text.strip().lower() in ("", _NO_AIM):
        return shot.with_move(aim=None)
    if text not in [thing.name for thing in _move_of(shot).things]:
        raise Refusal("", "Choose one of the things on the move table, or nothing.", text)
    return shot.with_move(aim={"thing": text})


def _aims(shot: Shot) -> tuple[str, ...]:
    return (_NO_AIM, *(thing.name for thing in _move_of(shot).things))


def _show_aim(shot: Shot, _solved: Solution) -> str:
    aim = _move_of(shot).aim
    return aim.thing if aim else _NO_AIM


def _nudge_aim(shot: Shot, solved: Solution, steps: int) -> Shot:
    names = _aims(shot)
    return _read_aim(shot, names[(names.index(_show_aim(shot, solved)) + steps) % len(names)])


def _locked(shot: Shot) -> AimLock:
    aim = _move_of(shot).aim
    assert aim is not None
    return aim


def _part_field(name: Literal["across", "down"]) -> Field:
    """Where in the picture the locked target is kept, as a part of its width or height."""

    def put(shot: Shot, part: float) -> Shot:
        return shot.with_move(aim=_locked(shot).model_dump() | {name: part})

    return share_field(AimLock.model_fields[name].title or name, lambda shot: float(getattr(_locked(shot), name)), put)


_AIM_FIELDS = {
    "move.aim.across": _part_field("across"),
    "move.aim.down": _part_field("down"),
}


_MADE = {"lapse": "a lapse", "film": "a film at speed", "walk": "a walk"}


def _made(shot: Shot) -> str:
    return "walk" if shot.walk is not None else "film" if shot.live else "lapse"


def _put_made(shot: Shot, made: str) -> Shot:
    if made == _made(shot):
        return shot
    if made == "walk":
        return begun(shot)
    film, now = made == "film", ended(shot)
    return now if now.live == film else _other_speed(now, "live" if film else "continuous")


MOVE_FIELDS: dict[str, Field] = {
    "made": words_field("What is made", _MADE, _made, _put_made),
    "move.kind": words_field(label_of("move.kind"), MOVE_KINDS, lambda shot: _move_of(shot).kind, _put_kind),
    "move.path": chosen_field("move.path", _PATHS),
    "move.repeat": chosen_field("move.repeat", _REPEATS),
    "move.on_stall": chosen_field("move.on_stall", _STALLS),
    "move.afterwards": chosen_field("move.afterwards", _AFTERWARDS),
    "move.aim": Field(label_of("move.aim"), _show_aim, _read_aim, _nudge_aim, lambda shot, _: _aims(shot)),
}


_FIGURES = {
    "x_mm": "to the right", "y_mm": "ahead", "width_mm": "width", "height_mm": "height",
    "base_mm": "foot above the lens",
}  # fmt: skip
_ROLES = ("subject", "foreground", "background")
THING_PARTS = ("name", "role", *_FIGURES)


def move_field(name: str, shot: Shot) -> Field | None:
    """The field of a part of a key, of a thing on the move table, or of the locked aim; None where there is none.

    `move.keys.0.slide`, `move.things.0.x_mm`, `move.aim.across`.
    """
    if (part := key_part(shot, name)) is not None:
        return _key_field(*part)
    move = _move_of(shot)
    found = re.fullmatch(r"move\.things\.(\d+)\.(\w+)", name)
    if found and found.group(2) in THING_PARTS and int(found.group(1)) < len(move.things):
        return _thing_field(int(found.group(1)), found.group(2))
    return _AIM_FIELDS.get(name) if move.aim else None


def _thing_field(index: int, part: str) -> Field:
    label = f"{_FIGURES.get(part, part).capitalize()} of thing {index + 1}"

    def put(shot: Shot, value: object) -> Shot:
        move = _move_of(shot)
        old = move.things[index]
        things = [thing.model_dump() for thing in move.things]
        things[index][part] = value
        # An aim stays on its thing when that is named anew.
        follows = part == "name" and move.aim is not None and move.aim.thing == old.name
        aim = move.aim and move.aim.model_dump() | ({"thing": value} if follows else {})
        now = shot.with_move(things=things, aim=aim)
        looked_at = part == "name" and shot.walk is not None and shot.walk.thing == old.name
        return now.with_walk(thing=value) if looked_at else now

    def now(shot: Shot) -> object:
        return getattr(_move_of(shot).things[index], part)

    if part == "role":
        return words_field(label, {role: role for role in _ROLES}, lambda shot: str(now(shot)), put)
    if part == "name":
        return Field(
            label, lambda shot, _: str(now(shot)), lambda shot, text: put(shot, text.strip()), lambda shot, *_: shot
        )

    def figure(shot: Shot) -> float:
        return float(getattr(_move_of(shot).things[index], part))

    return Field(
        label,
        lambda shot, _: ROOM.show(figure(shot), 0),
        lambda shot, text: put(shot, ROOM.read(text, chosen())),
        lambda shot, _, n: put(shot, figure(shot) + n * ROOM.nudge),
    )
