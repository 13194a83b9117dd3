"""Will the film of a walk hold together: long enough, aimed, seen, steady, in even light?"""

from fractions import Fraction
from math import ceil

import numpy as np
from numpy.typing import NDArray
from pydantic import ValidationError

from revani.core.documents import Shot, Thing
from revani.core.edit.slower import milder
from revani.core.edit.walking import pause_s, with_ends, with_points, with_quantity
from revani.core.findings.finding import Finding, Fix, finding, usable
from revani.core.move.axes import middle_mm
from revani.core.optics.lens import focal_px
from revani.core.program.compiled import Program
from revani.core.quantities.arrays import Array
from revani.core.quantities.measures import DISTANCE
from revani.core.quantities.refusal import Refusal
from revani.core.quantities.units import count, decimals, duration, in_stops
from revani.core.reframe.crop import hand_zoom
from revani.core.walk.path import cut

_SHORTEST_S = Fraction(15, 2)
_SWINGS_PART, _STROBES_PART = 0.02, 0.04
_PUMPS_PART = 0.015
_AT_THE_TURN_M = 4.0
_WANDERS_DEG = 60.0
_CHANGES_STOPS = 1.0
_END_S, _QUICK = Fraction(1), Fraction(2)
_WIDE_PX = 1_920


def sped_up_to(program: Program, film: Fraction) -> Fix | None:
    """A filmed walk sped up until its film is so long."""
    walk = program.shot.walk
    assert walk is not None
    ends = walk.head_s + walk.tail_s
    if film <= ends:
        return None
    factor = Fraction(ceil((program.timing.event_s - ends) / (film - ends) * 10), 10)
    try:
        shot = with_quantity(program.shot.with_walk(free="film_s"), "factor", factor)
    except (Refusal, ValueError):
        return None
    return Fix(
        id="faster", label=f"{decimals(factor, 1)} ×", price=f"the film becomes {duration(round(film, 1))}", shot=shot
    )


def film_frames(program: Program) -> tuple[Array, Array]:
    """Seconds from the start of the walk at which each frame of its film is taken, and the way to it, metres."""
    assert program.carried is not None
    if not program.carried.walk.filmed:
        return program.t_s, program.carried.along_m(program.t_s)
    n = max(int(program.film_length_s * program.timing.fps), 1)
    at = np.arange(n) * program.timing.fps.denominator / program.timing.fps.numerator
    after = np.interp(at, program.film_s, program.t_s)
    return after, program.carried.along_m(after)


@finding("time", "walk.too-short", source="under 7.5 s of sped-up film a walk is not read: common practice")
def too_short_a_walk(program: Program) -> Finding | None:
    """A walk whose film is over before one has seen where it goes."""
    walk, film = program.shot.walk, program.film_length_s
    if walk is None or film >= _SHORTEST_S:
        return None
    return Finding(
        severity="fix",
        turns=f"From {duration(_SHORTEST_S)} on nothing is said; {duration(_SHORTEST_S - film)} are missing.",
        sentence=f"The film of this walk lasts {duration(round(film, 2))}: too short to read.",
        figures=f"{DISTANCE.show(program.carried.track.length_m if program.carried else 0, 0)} in "
        f"{duration(round(program.timing.event_s))}"
        + (f", {decimals(walk.factor, 1)} ×." if walk.filmed else f", {count(program.frame_count, 'station')}."),
        offer=lambda: usable(_further(program), _slower(program)) if walk.filmed else (),
    )


def _further(program: Program) -> Fix | None:
    """A filmed walk that goes on until its film can be read."""
    walk = program.shot.walk
    assert walk is not None
    ends, pace = walk.head_s + walk.tail_s, Fraction(str(walk.pace_m_s))
    metres = (ends + (_SHORTEST_S - ends) * walk.factor) * pace
    # A hundredth more, for points stand on whole tenths of a millimetre.
    shot = _on_path(program.shot.with_walk(free="film_s"), float(metres) + 0.01)
    if shot is None:
        return None
    return Fix(
        id="further", label=f"Walk {DISTANCE.show(float(metres), 0)}",
        price=f"{duration(round(metres / pace))} instead of {duration(round(program.timing.event_s))}", shot=shot,
    )  # fmt: skip


def _slower(program: Program) -> Fix | None:
    """A filmed walk sped up less, until its film can be read."""
    walk = program.shot.walk
    assert walk is not None
    ends = walk.head_s + walk.tail_s
    if ends >= _SHORTEST_S:
        return None
    factor = Fraction(int((program.timing.event_s - ends) / (_SHORTEST_S - ends) * 10), 10)
    if factor < 1:
        return None
    return Fix(
        id="slower", label=f"{decimals(factor, 1)} × instead of {decimals(walk.factor, 1)} ×",
        price="what passes is slower", shot=with_quantity(program.shot.with_walk(free="film_s"), "factor", factor),
    )  # fmt: skip


def _on_path(shot: Shot, length_m: float) -> Shot | None:
    """The shot on so many metres of its path; None where it would go further than any table, or take too long."""
    assert shot.walk is not None
    try:
        return with_points(shot, cut(shot.walk.points, length_m))
    except (Refusal, ValidationError):
        return None


@finding("move", "walk.ends", source="first and last second at normal speed: common practice")
def ends_cut_off(program: Program) -> Finding | None:
    """A sped-up walk that begins or ends at once in full speed has no moment to come in or to leave by."""
    walk = program.shot.walk
    if walk is None or not walk.filmed or walk.factor <= _QUICK or min(walk.head_s, walk.tail_s) >= _END_S:
        return None
    cut = [word for word, end in (("beginning", walk.head_s), ("end", walk.tail_s)) if end < _END_S]
    return Finding(
        severity="mind",
        turns=f"With {duration(_END_S)} as it was at each end nothing is said.",
        sentence=f"The {' and the '.join(cut)} of the walk {'is' if len(cut) == 1 else 'are'} cut off.",
        figures=f"At {decimals(walk.factor, 1)} × from the first frame to the last there is nothing to cut on: "
        f"{duration(walk.head_s)} and {duration(walk.tail_s)} play as they were.",
        offer=lambda: usable(_with_ends(program)),
    )


def _with_ends(program: Program) -> Fix | None:
    """A second as it was at each end; the film becomes longer."""
    walk = program.shot.walk
    assert walk is not None
    try:
        ends = {"head_s": max(walk.head_s, _END_S), "tail_s": max(walk.tail_s, _END_S)}
        shot = with_ends(program.shot.with_walk(free="film_s"), **ends)
    except Refusal:
        return None
    return Fix(id="ends", label="A second as it was at each end", price="the film is a little longer", shot=shot)


@finding("move", "walk.no-aim", source="a hyperlapse needs an aim: common practice")
def wanders(program: Program) -> Finding | None:
    """A walk that turns about without anything to look at wanders aimlessly."""
    carried = program.carried
    if carried is None or carried.walk.towards != "the way ahead" or program.round:
        return None
    turned = sum(abs(turn) for _, turn in carried.track.turns)
    if turned <= _WANDERS_DEG:
        return None
    shot = program.shot
    things = shot.things
    subject = shot.subject or (things[0] if things else None)
    fixes = (
        Fix(
            id="aim", label=f"Look at {subject.name}", price="it stays in its place while the rest passes",
            shot=shot.with_walk(towards="a thing", thing=subject.name),
        ),
    ) if subject else ()  # fmt: skip
    return Finding(
        severity="mind",
        turns=f"Up to {_WANDERS_DEG:.0f}° of turns in all nothing is said.",
        sentence="The walk has no aim.",
        figures=f"It turns by {turned:.0f}° in all, and the picture with it: one thing that is kept in its place holds "
        "a hyperlapse together." + ("" if subject else " Put one on the table."),
        offer=lambda: usable(*fixes),
    )


@finding("move", "walk.aim-lost", source="arithmetic: the line of sight from above, and heights")
def aim_is_lost(program: Program) -> Finding | None:
    """What it looks at goes behind something nearer, or one walks into it."""
    carried, shot = program.carried, program.shot
    if carried is None or carried.walk.towards != "a thing" or carried.thing is None:
        return None
    after, along = film_frames(program)
    target, things = carried.thing, shot.things
    places = carried.track.place_mm(along)
    hidden, by = hidden_from(places, target, things)
    lost = hidden | _under_foot(places, target)
    if not lost.any():
        return None
    # The longest stretch is told of.
    edges = np.flatnonzero(np.diff(np.concatenate([[False], lost, [False]])))
    first, last = max(zip(edges[::2], edges[1::2] - 1, strict=True), key=lambda one: one[1] - one[0])
    where = f"behind {by}" if hidden[first : last + 1].any() else "under one's feet"
    film = float(lost.mean()) * float(program.film_length_s)
    return Finding(
        severity="fix",
        turns=f"Quiet while {target.name} is seen from the whole path.",
        sentence=f"{target.name} is lost {where} for {DISTANCE.show(float(along[last] - along[first]), 0)}.",
        figures=f"From {DISTANCE.show(float(along[first]), 0)} to {DISTANCE.show(float(along[last]), 0)} of the way; "
        f"in the film, {duration(round(film, 1))} in all.",
        offer=lambda: usable(*_seen_again(program, places, target)[:3]),
        from_s=program.start_s + float(after[first]),
        to_s=program.start_s + float(after[last]),
    )


def _seen_again(program: Program, places: Array, target: Thing) -> list[Fix]:
    """The path beside where it is, and other things that are seen from all of it."""
    shot = program.shot
    things = shot.things
    return [
        *_beside(program, places, target),
        *(
            Fix(
                id=f"aim-at-{one.name}", label=f"Look at {one.name}", price="another thing is kept in its place",
                shot=shot.with_walk(thing=one.name),
            )
            for one in things
            if one.name != target.name and _is_seen(places, one, things)
        ),
    ]  # fmt: skip


def _is_seen(places: Array, thing: Thing, things: tuple[Thing, ...]) -> bool:
    """Whether a thing is seen from all places (n, 2), mm, and not walked into."""
    return not (hidden_from(places, thing, things)[0] | _under_foot(places, thing)).any()


def _under_foot(places: Array, thing: Thing) -> NDArray[np.bool_]:
    """From which places (n, 2), mm, one is too near to a thing to keep it in the picture."""
    away = np.hypot(places[:, 0] - thing.x_mm, places[:, 1] - thing.y_mm)
    return np.asarray(away < max(thing.width_mm / 2, 500.0))


_ASIDE_M = (1, 2, 4, 8, 16)


def _beside(program: Program, places: Array, target: Thing) -> list[Fix]:
    """The same path walked to one side of where it is, the least of some distances from which the aim is seen."""
    walk, things = program.shot.walk, program.shot.things
    assert walk is not None
    along = places[-1] - places[0]
    across = np.array([along[1], -along[0]]) / max(float(np.hypot(*along)), 1.0)
    for metres in _ASIDE_M:
        for side, word in ((1, "right"), (-1, "left")):
            shift = across * side * metres * 1000
            moved = places + shift
            if _is_seen(moved, target, things):
                points = [{"x_mm": one.x_mm + shift[0], "y_mm": one.y_mm + shift[1]} for one in walk.points]
                try:
                    shot = program.shot.with_walk(points=points)
                except ValidationError:
                    return []
                return [
                    Fix(
                        id="walk-beside", label=f"Walk {DISTANCE.show(metres, 0)} further to the {word}",
                        price="as long, beside where it was", shot=shot,
                    )
                ]  # fmt: skip
    return []


def hidden_from(places: Array, target: Thing, things: tuple[Thing, ...]) -> tuple[NDArray[np.bool_], str]:
    """From which places (n, 2), mm, the middle of a thing is hidden, and by which thing first."""
    lost = np.zeros(len(places), dtype=bool)
    by = ""
    towards = np.array([target.x_mm, target.y_mm]) - places
    away = np.maximum(np.hypot(towards[:, 0], towards[:, 1]), 1.0)
    middle = float(middle_mm(target)[2])
    for thing in things:
        if thing.name == target.name:
            continue
        to = np.array([thing.x_mm, thing.y_mm]) - places
        part = (to * towards).sum(axis=1) / away**2
        beside = np.abs(to[:, 0] * towards[:, 1] - to[:, 1] * towards[:, 0]) / away
        # How high the line of sight is where it passes.
        height = middle * part
        covers = (thing.base_mm <= height) & (height <= thing.base_mm + thing.height_mm)
        found = (part > 0) & (part < 1) & (beside < thing.width_mm / 2) & covers
        if found.any() and not by:
            by = thing.name
        lost |= found
    return lost, by


@finding("move", "walk.swings", source="over 4 % of the width a film frame strobes: common practice")
def picture_swings(program: Program) -> Finding | None:
    """The picture swings with a turn of the path, or with a thing that one passes near by."""
    carried = program.carried
    if carried is None or program.frame_count < 3 or program.round:
        return None
    after, along = film_frames(program)
    if after.size < 3:
        return None
    parts = _swings(program)
    at = int(np.argmax(parts))
    worst = float(parts[at])
    if worst <= _SWINGS_PART:
        return None
    turns = [(abs(where - float(along[at])), where, turn) for where, turn in carried.track.turns]
    nearest = min(turns, default=None)
    because = (
        f"The path turns by {abs(nearest[2]):.0f}° at {DISTANCE.show(nearest[1], 0)}: walk the bend wider."
        if nearest and nearest[0] < _AT_THE_TURN_M
        else "What is looked at is near there: pass it further away."
    )
    return Finding(
        severity="fix" if worst > _STROBES_PART else "mind",
        turns=f"Up to {_SWINGS_PART:.0%} of the width a film frame nothing is said; over {_STROBES_PART:.0%} it "
        "strobes.",
        sentence=f"The picture swings by {worst:.1%} of its width a film frame.",
        figures=because,
        offer=lambda: usable(_calmer(program, worst) if carried.walk.filmed else None),
        from_s=program.start_s + float(after[at]),
        to_s=program.start_s + float(after[at + 1]),
    )


@finding("move", "walk.pumps", source="over 1.5 % in scale a film frame pumps: common practice")
def aim_pumps(program: Program) -> Finding | None:
    """What is looked at grows in jumps, because one comes near it."""
    carried, shot = program.carried, program.shot
    if carried is None or carried.walk.towards != "a thing" or carried.thing is None:
        return None
    after, along = film_frames(program)
    if after.size < 3:
        return None
    places = carried.track.place_mm(along)
    away = np.hypot(places[:, 0] - carried.thing.x_mm, places[:, 1] - carried.thing.y_mm)
    grows = np.abs(np.diff(np.log(np.maximum(away, 1.0))))
    at = int(np.argmax(grows))
    if float(grows[at]) <= _PUMPS_PART:
        return None

    def sooner() -> Fix | None:
        metres = float(along[int(np.argmax(grows > _PUMPS_PART))]) - 0.5
        shorter = _on_path(shot, metres) if metres > carried.track.length_m / 2 else None
        if shorter is None:
            return None
        return Fix(
            id="stop-sooner", label=f"Stop at {DISTANCE.show(metres, 0)} of the way",
            price=f"{DISTANCE.show(carried.track.length_m - metres, 0)} less", shot=shorter,
        )  # fmt: skip

    return Finding(
        severity="mind",
        turns=f"Up to {_PUMPS_PART:.1%} a film frame nothing is said; this is {float(grows[at]):.1%}.",
        sentence=f"{carried.thing.name} grows by {float(grows[at]):.1%} a film frame: it pumps.",
        figures=f"At {DISTANCE.show(float(along[at]), 0)} it is {DISTANCE.show(float(away[at]) / 1000, 1)} away; stop "
        "further from it, or walk slower there.",
        offer=lambda: usable(sooner()),
        from_s=program.start_s + float(after[at]),
        to_s=program.start_s + float(after[at + 1]),
    )


def _swings(program: Program) -> Array:
    """How far the picture swings from each frame of the film to the next, parts of its width."""
    assert program.carried is not None
    heading = program.carried.pose(film_frames(program)[0]).heading_deg
    swing = np.abs((np.diff(heading) + 180) % 360 - 180)
    return np.asarray(
        focal_px(program.shot) * np.tan(np.radians(np.minimum(swing, 80))) / program.shot.body.pixels_wide
    )


def _calmer(program: Program, worst: float) -> Fix | None:
    """A lesser factor, at which the picture swings no more than is quiet."""
    walk = program.shot.walk
    assert walk is not None
    factor = Fraction(int(float(walk.factor) * _SWINGS_PART / worst * 10), 10)
    if factor < 1:
        return None
    shot = with_quantity(program.shot.with_walk(free="film_s"), "factor", factor)
    # Where the path turns on the spot no factor is small enough.
    if not milder(shot, lambda one: float(_swings(one).max()), worst):
        return None
    return Fix(
        id="slower", label=f"{decimals(factor, 1)} × instead of {decimals(walk.factor, 1)} ×",
        price="the film is longer, what passes is slower", shot=shot,
    )  # fmt: skip


@finding("move", "walk.no-room", source="f · tan e each side; cos θ + max(w/h, h/w) · sin θ (geometry)")
def no_room_for_hands(program: Program) -> Finding | None:
    """What an unsteady hand takes of the picture leaves too few pixels for the film."""
    carried, shot = program.carried, program.shot
    if carried is None or program.round:
        return None
    walk, body = carried.walk, shot.body
    zoom = hand_zoom(focal_px(shot), body.pixels_wide, body.pixels_high, walk.hand_deg, walk.roll_deg)
    room = body.pixels_wide / _WIDE_PX
    if zoom <= room:
        return None
    return Finding(
        severity="fix",
        turns=f"With {decimals(_WIDE_PX * zoom, 0)} px of width there is room; it has {body.pixels_wide:,}."
        if np.isfinite(zoom)
        else "Steadier hands alone leave room.",
        sentence=f"Steadying takes {decimals(zoom, 2)} ×; a film of {_WIDE_PX:,} px leaves {decimals(room, 2)} ×."
        if np.isfinite(zoom)
        else "Hands that are off by so much leave nothing of the picture.",
        figures=f"Hands are off by {decimals(walk.hand_deg, 1)}° and roll by {decimals(walk.roll_deg, 1)}°; a gimbal, "
        "or a mode of more pixels, leaves room.",
    )


@finding("light", "walk.light-changes", source="arithmetic over the scene's light")
def light_changes_on_the_way(program: Program) -> Finding | None:
    """The light changes while one walks, and the exposure is held."""
    carried = program.carried
    if carried is None or program.shot.light.school != "fixed":
        return None
    change = float(np.ptp(program.scene_ev))
    if change <= _CHANGES_STOPS:
        return None
    return Finding(
        severity="mind",
        turns=f"Up to {in_stops(_CHANGES_STOPS)} nothing is said.",
        sentence=f"The light changes by {in_stops(change)} on the way.",
        figures=f"In {duration(round(program.timing.event_s))}; the film grows darker or brighter as one walks.",
    )


@finding("time", "walk.no-time", source="arithmetic: shutter, storing, settling and the way share the interval")
def no_time_at_a_station(program: Program) -> Finding | None:
    """The interval leaves no time to settle between two stations."""
    carried, shot = program.carried, program.shot
    if carried is None or carried.walk.filmed:
        return None
    step_s = carried.track.length_m / program.frame_count / carried.walk.pace_m_s
    left = float(program.timing.interval_s) - step_s - float(pause_s(shot)) + float(carried.walk.settle_s)
    if left >= float(carried.walk.settle_s) - 1e-6:
        return None
    return Finding(
        severity="fix",
        turns=f"{duration(round(float(carried.walk.settle_s) - left, 2))} more a station.",
        sentence=f"A station has {duration(max(round(left, 2), 0))} to settle, not {duration(carried.walk.settle_s)}.",
        figures=f"Every {duration(program.timing.interval_s)}: {duration(round(step_s, 2))} of way, the rest to store "
        "and expose.",
        offer=lambda: usable(
            Fix(
                id="time-enough", label="As long as it takes", price="one walks longer",
                shot=with_points(shot, carried.walk.points),
            )
        ),
    )  # fmt: skip
