"""Every way to change a walk. One writer: what follows from a walk is the timing of its shot, and stands there."""

from fractions import Fraction
from typing import Literal

from pydantic import ValidationError

from revani.core.documents import Document, Move, PathPoint, Shot, Walk
from revani.core.documents.allowed import allowed_of
from revani.core.documents.timing import MOST_FRAMES, Timing
from revani.core.documents.walk import MOST_POINTS, WalkQuantity
from revani.core.edit.retime import with_film_shutter
from revani.core.light.firing import modes_for, schools_for
from revani.core.quantities.refusal import Refusal
from revani.core.quantities.units import decimals
from revani.core.timing.pace import solved as timing_of
from revani.core.walk.film import film_s, solved
from revani.core.walk.path import Leg, points_of, stretched, track_of

_FIRST_M = 144
_STATIONS = 240


class WalkEdit(Document):
    """A change of a path: a point put, added at the end, or taken out. Points count from 0."""

    track: Literal["walk"] = "walk"
    do: Literal["put", "add", "take out"]
    index: int = 0
    x_mm: float = 0.0
    y_mm: float = 0.0


def apply_walk_edit(shot: Shot, edit: WalkEdit) -> Shot:
    """The shot with another path; its pace stays, so that it takes longer or less long. Raises Refusal."""
    if shot.walk is None:
        raise Refusal("walk", "This shot is no walk.")
    points = list(shot.walk.points)
    try:
        if edit.do == "add":
            points.append(PathPoint(x_mm=edit.x_mm, y_mm=edit.y_mm))
        elif not 0 <= edit.index < len(points):
            raise Refusal("walk.points", f"A point from 0 to {len(points) - 1}.", edit.index)
        elif edit.do == "put":
            points[edit.index] = PathPoint(x_mm=edit.x_mm, y_mm=edit.y_mm)
        else:
            points.pop(edit.index)
        if len(points) > MOST_POINTS:
            raise Refusal("walk.points", f"At most {MOST_POINTS} points.")
        return with_points(shot, tuple(points))
    except ValidationError as error:
        raise Refusal("walk.points", allowed_of(error.errors()[0])) from None


def begun(shot: Shot, way: str = "filmed and sped up") -> Shot:
    """A walk straight ahead in place of what the shot was; the things on its table stay. Its time follows from it."""
    points = (PathPoint(x_mm=0, y_mm=0), PathPoint(x_mm=0, y_mm=_FIRST_M * 1000))
    walk = Walk.model_validate({"way": way, "points": points})
    things = shot.things
    kind = "live" if walk.filmed else "continuous"
    move = Move.model_validate({"kind": kind, "things": [one.model_dump() for one in things]})
    fps = timing_of(shot).fps
    now = shot.model_copy(update={"walk": walk, "move": move, "pace": None, "until": None})
    if not walk.filmed:
        now = now.model_copy(update={"fires": "by hand"})
    offered = [mode.name for mode in modes_for(now)]
    if now.kit.body.modes and offered and now.recording.name not in offered:
        now = now.model_copy(update={"mode": offered[0]})
    if walk.filmed:
        now = with_film_shutter(now, fps)
        event_s = Fraction(_FIRST_M) / Fraction(str(walk.pace_m_s))
        timing = {"fps": fps, "interval_s": 1 / fps, "event_s": event_s}
        return now.model_copy(update={"timing": Timing.model_validate(timing)})
    if now.light.school not in schools_for(now):
        now = now.with_light(school="automatic")
    return _stationed(now, _STATIONS)


def ended(shot: Shot) -> Shot:
    """The shot without its walk, on a stand."""
    return shot.model_copy(update={"walk": None})


def with_points(shot: Shot, points: tuple[PathPoint, ...]) -> Shot:
    """The shot on another path, at its pace. Raises ValidationError, or Refusal for a path that takes too long."""
    free = shot.walk and shot.walk.free
    # A path that is drawn is as long as it is drawn.
    now = shot.with_walk(points=points, free="film_s" if free == "length_m" else free)
    assert now.walk is not None
    walk = now.walk
    if not walk.filmed:
        return _stationed(now, timing_of(shot).frame_count)
    return _settled(_taking(now, walk_s(walk)), wanted_film(shot))


def walk_s(walk: Walk) -> Fraction:
    """How long a path takes at its pace, to the millimetre."""
    return length_m(walk) / Fraction(str(walk.pace_m_s))


def length_m(walk: Walk) -> Fraction:
    """How long a path is, to the millimetre."""
    return Fraction(max(round(track_of(walk.points).length_m * 1000), 1), 1000)


def _taking(shot: Shot, event_s: Fraction) -> Shot:
    now = timing_of(shot)
    if event_s / now.interval_s > MOST_FRAMES:
        raise Refusal("walk", f"At most {MOST_FRAMES:,} frames can be recorded.", float(event_s))
    timing = {"fps": now.fps, "interval_s": now.interval_s, "event_s": event_s}
    return shot.model_copy(update={"timing": Timing.model_validate(timing), "until": None})


def wanted_film(shot: Shot) -> Fraction:
    """The film that a filmed walk makes now."""
    assert shot.walk is not None
    return film_s(shot.walk, timing_of(shot).event_s)


def _settled(shot: Shot, film: Fraction) -> Shot:
    """What is free made to follow: `film` is the film that was wanted before."""
    walk = shot.walk
    assert walk is not None
    ends, pace = walk.head_s + walk.tail_s, Fraction(str(walk.pace_m_s))
    if walk.free == "factor":
        found = solved(pace, ends, length_m(walk), None, film)
        return shot.with_walk(factor=found.factor)
    if walk.free == "length_m":
        found = solved(pace, ends, None, walk.factor, film)
        points = stretched(walk.points, float(found.length_m))
        return _taking(shot.with_walk(points=points), found.walk_s)
    return shot


def with_quantity(shot: Shot, quantity: WalkQuantity, value: Fraction) -> Shot:
    """The shot with another length, factor or film; what is free follows, and is the film where it was this one.

    A film that is typed while the film is free makes the factor follow. Raises Refusal.
    """
    walk = shot.walk
    assert walk is not None
    film = value if quantity == "film_s" else wanted_film(shot)
    free = walk.free
    if free == quantity:
        free = "factor" if quantity == "film_s" else "film_s"
    if quantity == "length_m":
        if not value > 0:
            raise Refusal("", "More than 0 m.")
        now = shot.with_walk(free=free, points=stretched(walk.points, float(value)))
        assert now.walk is not None
        now = _taking(now, value / Fraction(str(walk.pace_m_s)))
    elif quantity == "factor":
        now = shot.with_walk(free=free, factor=value)
    else:
        now = shot.with_walk(free=free)
    return _settled(now, film)


def freed(shot: Shot, quantity: WalkQuantity) -> Shot:
    """The shot with another of length, factor and film following from the two others; nothing changes yet."""
    return shot.with_walk(free=quantity)


def with_ends(shot: Shot, **ends: Fraction) -> Shot:
    """The shot with another head or tail at normal speed. Raises Refusal where the walk is shorter."""
    walk = shot.walk
    assert walk is not None
    film = wanted_film(shot)
    now = shot.with_walk(**ends)
    assert now.walk is not None
    whole = timing_of(shot).event_s
    if now.walk.free != "length_m" and now.walk.head_s + now.walk.tail_s > whole:
        raise Refusal("", f"The walk takes {decimals(whole, 1)} s; its ends cannot be longer.")
    return _settled(now, film)


def with_pace(shot: Shot, pace_m_s: float) -> Shot:
    """The shot at another pace on the same path."""
    film = wanted_film(shot) if shot.walk and shot.walk.filmed else Fraction(0)
    now = shot.with_walk(pace_m_s=pace_m_s)
    assert now.walk is not None
    if not now.walk.filmed:
        return _stationed(now, timing_of(shot).frame_count)
    return _settled(_taking(now, walk_s(now.walk)), film)


def _stationed(shot: Shot, stations: int) -> Shot:
    """A walk by stations: an interval for the pause at each and the way to the next, on the trigger's tick."""
    walk = shot.walk
    assert walk is not None
    step_s = length_m(walk) / stations / Fraction(str(walk.pace_m_s))
    tick = shot.body.controller_tick_s
    interval = pause_s(shot) + step_s
    interval = -(-interval // tick) * tick
    timing = {"fps": timing_of(shot).fps, "interval_s": interval, "frame_count": stations}
    return shot.model_copy(update={"timing": Timing.model_validate(timing), "until": None})


def pause_s(shot: Shot) -> Fraction:
    """How long one stands at a station: shutter, storing, settling."""
    walk = shot.walk
    assert walk is not None
    return shot.light.shutter_s * shot.held_times + shot.body.overhead_s + walk.settle_s


def with_stations(shot: Shot, stations: int) -> Shot:
    """The shot with so many stations on its path."""
    if not 2 <= stations <= 100_000:
        raise Refusal("", "From 2 to 100,000 stations.", stations)
    return _stationed(shot, stations)


def with_leg(shot: Shot, index: int, bearing_deg: float | None, leg_m: float | None) -> Shot:
    """The shot with a leg of its path turned or longer; those after it move along with it. Raises Refusal."""
    walk = shot.walk
    assert walk is not None
    legs = list(track_of(walk.points).legs)
    old = legs[index]
    bearing = old.bearing_deg if bearing_deg is None else bearing_deg - shot.framing.heading_deg
    legs[index] = Leg(bearing % 360, old.length_m if leg_m is None else leg_m)
    if leg_m is not None and leg_m < 0.05:
        raise Refusal("", "At least 5 cm.", leg_m)
    return with_points(shot, points_of(legs, walk.points[0]))
