"""The values of a walk: its length, pace, factor and film, its ends, its legs, and what it looks at."""

import re
from collections.abc import Callable
from fractions import Fraction
from typing import get_args

from revani.core.documents import Shot, Walk
from revani.core.documents.walk import WalkQuantity, Way
from revani.core.edit.fields.derived import label_of
from revani.core.edit.fields.field import Field, by, read_count, share_field, words_field
from revani.core.edit.walking import (
    begun,
    length_m,
    wanted_film,
    with_ends,
    with_leg,
    with_pace,
    with_points,
    with_quantity,
    with_stations,
)
from revani.core.quantities.measures import ANGLE, DISTANCE, SPEED, chosen
from revani.core.quantities.refusal import Refusal
from revani.core.quantities.units import count, decimals, duration, exact, parse_duration
from revani.core.timing.law import Solution
from revani.core.timing.pace import solved as timing_of
from revani.core.walk.film import film_s
from revani.core.walk.path import track_of

_AHEAD, _TO = "the way ahead", "towards "


def _walk(shot: Shot) -> Walk:
    assert shot.walk is not None
    return shot.walk


def _metres(text: str) -> Fraction:
    return exact(DISTANCE.read(text, chosen())).limit_denominator(1000)


def _quantity(
    quantity: WalkQuantity, label: str, show: Callable[[Walk, Solution], str], read: Callable[[str], Fraction],
    now: Callable[[Shot], Fraction], step: Callable[[Fraction], Fraction],
) -> Field:  # fmt: skip
    def nudged(shot: Shot, _: Solution, n: int) -> Shot:
        return with_quantity(shot, quantity, by(now(shot), step(now(shot)), n))

    return Field(
        label,
        lambda shot, solved: show(_walk(shot), solved),
        lambda shot, text: with_quantity(shot, quantity, read(text)),
        nudged,
    )


def _read_factor(text: str) -> Fraction:
    try:
        factor = exact(text.replace("×", "").replace("x", "").strip())
    except ValueError:
        raise Refusal("", "Type how many times faster it plays, such as 16.", text) from None
    if not 1 <= factor <= 1_000:
        raise Refusal("", "From 1 to 1,000 times.", text)
    return factor


def _seconds(name: str) -> Field:
    return Field(
        label_of(f"walk.{name}"),
        lambda shot, _: duration(getattr(_walk(shot), name)),
        lambda shot, text: with_ends(shot, **{name: parse_duration(text)}),
        lambda shot, _, n: with_ends(shot, **{name: max(Fraction(0), getattr(_walk(shot), name) + Fraction(n, 2))}),
    )


def _share(name: str) -> Field:
    return share_field(
        label_of(f"walk.{name}"), lambda shot: float(getattr(_walk(shot), name)),
        lambda shot, part: shot.with_walk(**{name: part}),
    )  # fmt: skip


def _aims(shot: Shot) -> tuple[str, ...]:
    things = shot.things
    return (_AHEAD, *(one.name for one in things), _show_direction(shot))


def _show_direction(shot: Shot) -> str:
    return f"{_TO}{decimals(_walk(shot).direction_deg, 0)}°"


def _show_aim(shot: Shot, _: Solution) -> str:
    walk = _walk(shot)
    if walk.towards == "a thing":
        return walk.thing or _AHEAD
    return _AHEAD if walk.towards == "the way ahead" else _show_direction(shot)


def _read_aim(shot: Shot, text: str) -> Shot:
    clean = text.strip()
    if clean.lower() in ("", _AHEAD):
        return shot.with_walk(towards="the way ahead")
    things = shot.things
    if clean in [one.name for one in things]:
        return shot.with_walk(towards="a thing", thing=clean)
    direction = clean.removeprefix(_TO)
    if not re.fullmatch(r"[\d.,\s°−-]+", direction):
        raise Refusal("", "The way ahead, a thing of the table, or a direction such as towards 240°.", text)
    return shot.with_walk(towards="a direction", direction_deg=ANGLE.read(direction, chosen()) % 360)


def _next_aim(shot: Shot, solved: Solution, steps: int) -> Shot:
    aims = _aims(shot)
    return _read_aim(shot, aims[(aims.index(_show_aim(shot, solved)) + steps) % len(aims)])


def _put_way(shot: Shot, way: str) -> Shot:
    """The other way of walking the same path, aimed alike."""
    old = _walk(shot)
    if way == old.way:
        return shot
    now = begun(shot, way)
    kept = {name: getattr(old, name) for name in Walk.model_fields if name not in ("way", "free", "points", "pace_m_s")}
    return with_points(now.with_walk(**kept, pace_m_s=old.pace_m_s), old.points)


def _walk_time(shot: Shot, text: str) -> Shot:
    return with_quantity(shot, "length_m", parse_duration(text) * Fraction(str(_walk(shot).pace_m_s)))


WALK_FIELDS: dict[str, Field] = {
    "walk.way": words_field(
        label_of("walk.way"), {way: way for way in get_args(Way)}, lambda shot: _walk(shot).way, _put_way,
    ),
    "walk.length_m": _quantity(
        "length_m", "Length of the walk", lambda walk, _: DISTANCE.show(float(length_m(walk)), 1), _metres,
        lambda shot: length_m(_walk(shot)), lambda value: Fraction(1 if value < 100 else 10),
    ),
    "walk.pace_m_s": Field(
        label_of("walk.pace_m_s"), lambda shot, _: SPEED.show(_walk(shot).pace_m_s, 1),
        lambda shot, text: with_pace(shot, SPEED.read(text, chosen())),
        lambda shot, _, n: with_pace(shot, max(0.1, round(_walk(shot).pace_m_s + n * 0.1, 2))),
    ),
    "walk.walk_s": Field(
        "Time of the walk", lambda _, solved: duration(solved.event_s), _walk_time,
        lambda shot, _, n: with_quantity(
            shot, "length_m", max(Fraction(1), timing_of(shot).event_s + 10 * n) * Fraction(str(_walk(shot).pace_m_s))
        ),
    ),
    "walk.factor": _quantity(
        "factor", label_of("walk.factor"), lambda walk, _: f"{decimals(walk.factor, 2)} ×", _read_factor,
        lambda shot: _walk(shot).factor, lambda value: Fraction(1 if value < 20 else 4),
    ),
    "walk.film_s": _quantity(
        "film_s", "Film of the walk", lambda walk, solved: duration(round(film_s(walk, solved.event_s), 3)),
        parse_duration, wanted_film, lambda value: Fraction(1, 2) if value < 20 else Fraction(1),
    ),
    "walk.head_s": _seconds("head_s"),
    "walk.tail_s": _seconds("tail_s"),
    "walk.stations": Field(
        "Stations", lambda shot, solved: count(solved.frame_count, "station"),
        lambda shot, text: with_stations(shot, read_count(text.lower().replace("stations", "").replace("station", ""))),
        lambda shot, solved, n: with_stations(shot, max(2, solved.frame_count + 10 * n)),
    ),
    "walk.settle_s": Field(
        label_of("walk.settle_s"), lambda shot, _: duration(_walk(shot).settle_s),
        lambda shot, text: with_pace(shot.with_walk(settle_s=parse_duration(text)), _walk(shot).pace_m_s),
        lambda shot, _, n: with_pace(
            shot.with_walk(settle_s=max(Fraction(0), _walk(shot).settle_s + Fraction(n, 2))), _walk(shot).pace_m_s
        ),
    ),
    "walk.aim": Field(label_of("walk.towards"), _show_aim, _read_aim, _next_aim, lambda shot, _: _aims(shot)),
    "walk.across": _share("across"),
    "walk.down": _share("down"),
}  # fmt: skip


def leg_field(name: str, shot: Shot) -> Field | None:
    """The field of a leg of a walk's path, `walk.legs.0.bearing`; None where there is none."""
    found = re.fullmatch(r"walk\.legs\.(\d+)\.(bearing|length)", name)
    if found is None or shot.walk is None:
        return None
    index, part = int(found.group(1)), found.group(2)
    if index >= len(shot.walk.points) - 1:
        return None

    def leg(one: Shot) -> tuple[float, float]:
        at = track_of(_walk(one).points).legs[index]
        return (at.bearing_deg + one.framing.heading_deg) % 360, at.length_m

    if part == "bearing":
        return Field(
            f"Bearing of leg {index + 1}", lambda one, _: ANGLE.show(leg(one)[0], 0),
            lambda one, text: with_leg(one, index, ANGLE.read(text, chosen()), None),
            lambda one, _, n: with_leg(one, index, leg(one)[0] + 5 * n, None),
        )  # fmt: skip
    return Field(
        f"Length of leg {index + 1}", lambda one, _: DISTANCE.show(leg(one)[1], 1),
        lambda one, text: with_leg(one, index, None, DISTANCE.read(text, chosen())),
        lambda one, _, n: with_leg(one, index, None, max(0.1, leg(one)[1] + n)),
    )  # fmt: skip
