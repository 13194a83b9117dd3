"""The shot in words, with every number editable in place.

The interface draws the words that it is given, sends back what was typed, and knows no rule.
"""

import re
from typing import Literal, get_args

from pydantic import BaseModel, ConfigDict

from revani.core.documents import School, Shot, Step, Walk
from revani.core.documents.timing import QUANTITIES
from revani.core.documents.walk import WalkQuantity
from revani.core.edit.fields import field_of
from revani.core.edit.fields.movefields import THING_PARTS
from revani.core.edit.walking import length_m
from revani.core.light.firing import by_the_clock, recording_rates
from revani.core.quantities.units import count, decimals, duration, plain_rate
from revani.core.timing.law import Solution
from revani.core.timing.pace import solved as timing_of
from revani.core.timing.start import offered_starts
from revani.core.walk.film import film_s


class Offered(BaseModel):
    """Something that may be typed, and what it means now."""

    model_config = ConfigDict(frozen=True)

    text: str
    told: str


class Word(BaseModel):
    """A stretch of text, or a value when `field` is set.

    `state` is wanted (typed by the person), solved (follows from the others) or plain (no law
    binds it). `note` tells what rounding changed, or what limits the value, `known` how a solved one
    follows; `choices` are all that may
    be typed, if few, `offers` some of many.
    """

    model_config = ConfigDict(frozen=True)

    text: str
    field: str | None = None
    label: str = ""
    state: Literal["wanted", "solved", "plain"] = "plain"
    note: str = ""
    known: str = ""
    choices: tuple[str, ...] = ()
    offers: tuple[Offered, ...] = ()


Line = tuple[Word, ...]


def sentence(shot: Shot, solved: Solution | None = None) -> tuple[Line, ...]:
    """The shot in words, a tuple a line. Raises Refusal where the timing cannot be solved."""
    solved = solved or timing_of(shot)
    if shot.walk is not None:
        return (told(shot, _walk_line(shot.walk), solved), _light_told(shot, solved))
    if shot.live:
        slows = max(recording_rates(shot, solved.fps), default=solved.fps) > solved.fps
        slowed = ", slowed [slowed]" if slows else ""
        line = (
            f"Film [timing.event_s] at [recording], played at [timing.fps]{slowed}, from [start], "
            "so [timing.playback_s] and [timing.frame_count]."
        )
        return (told(shot, line, solved), _light_told(shot, solved))
    night = " by day and [pace.night_s] by night" if shot.pace else ""
    return (
        told(
            shot,
            f"Film [timing.playback_s] at [timing.fps], a frame every [timing.interval_s]{night}"
            " from [start], so [timing.event_s] and [timing.frame_count].",
            solved,
        ),
        _light_told(shot, solved),
    )


def _walk_line(walk: Walk) -> str:
    if walk.filmed:
        return (
            "Walk [walk.length_m] at [walk.pace_m_s], so [walk.walk_s]; [walk.factor] with [walk.head_s] as it was at "
            "the beginning and [walk.tail_s] at the end, so [walk.film_s] at [timing.fps], from [start]."
        )
    return (
        "Walk [walk.length_m] at [walk.pace_m_s] with [walk.stations], a still every [timing.interval_s], from "
        "[start], so [timing.event_s] and [timing.playback_s] at [timing.fps]."
    )


def _light_told(shot: Shot, solved: Solution) -> Line:
    light = f"[light.school]{_LIGHT_LINES[shot.light.school]}"
    white = f"[light.white_balance]{_WHITE_LINES[shot.light.white_balance]}"
    return told(shot, f"For the light, {light}, white {white}.", solved)


def aside(shot: Shot, solved: Solution | None = None) -> dict[Step, Line]:
    """What the sentence leaves out, for the step of the job that it belongs to."""
    solved = solved or timing_of(shot)
    light = shot.light
    parts = ["The sky is [light.cloud]; the wanted shutter angle [light.angle_deg]"]
    if light.school in ("stepped", "continuous") and shot.kit.lens.electronic_aperture:
        parts.append("the ramp may open to [light.aperture_open]")
    if light.school == "stepped":
        parts.append("it steps past [light.dead_band_stops], and stands for [light.hold_frames] at least")
    if shot.kit.filters:
        parts.append("begins with [light.filters]" + (", off at [light.filters_off]" if light.filters else ""))
    if light.reading is None and light.scene_offset_stops is None:
        parts.append("the picture is mostly [light.scene]")
    if shot.needs_dark or light.night_stops:
        parts.append("the night is wanted [light.night_stops] against the meter")
    if light.keys:
        parts.append("wishes: " + ", ".join(f"[light.keys.{i}]" for i in range(len(light.keys))))
    parts.append("a dark frame after each: [light.noise_reduction]")
    if shot.fires == "linked" and not shot.makes_film:
        parts.append("whether one may go is said after [light.first_frames]")
    waits = ""
    if not by_the_clock(shot):
        waits = "It begins [waits]"
        if shot.waits is not None:
            dead = ", at least [waits.dead_s] apart" if shot.waits.times > 1 else ""
            waits += (
                ", waiting for [waits.for_s] at most from its start, and [waits.lead_in_s] after that; what is over in "
                f"an instant counts for [waits.together_s]; of what the camera saw before, [waits.before_s] are kept; "
                f"begun [waits.times] × at most{dead}; if nothing comes, [waits.otherwise]"
            )
        waits += ". "
    stars = "; moonlight up to [moonlight_up_to]; trails are wanted: [trails]" if shot.needs_dark else ""
    pace = "It ends [until]. " if shot.live else "It ends [until]; the interval is [pace]. "
    pace = "" if shot.walk is not None else pace
    use = " The film: [take.use]."
    return {
        "time": told(shot, f"{_firing_line(shot)}{waits}{pace}Stars are [needs_dark]{stars}.{use}", solved),
        "light": told(shot, "; ".join(parts) + ".", solved),
        "move": told(shot, _move_line(shot), solved),
        "feed": told(shot, _taken_line(shot), solved),
        "after": told(shot, _afterwards_line(shot), solved),
    }


def _afterwards_line(shot: Shot) -> str:
    if not shot.outputs:
        return "Nothing is made of it afterwards but the film itself."
    return f"Made of it afterwards: {', '.join(one.name for one in shot.outputs)}. The film: [take.use]."


def _taken_line(shot: Shot) -> str:
    """What is decided on the body beside its exposure."""
    parts = ["Focus is [take.focus]; stabilising [take.stabilising]; held upright [take.upright]"]
    if (shot.kit.body.mode(shot.mode) or shot.recording).projection != "straight":
        parts.append("de-warped [take.dewarp]")
    if not shot.live and shot.fires != "own lapse film":
        stops = " at ± [take.bracket_stops]" if shot.take.brackets > 1 else ""
        parts.append(f"frames a bracket: [take.brackets]{stops}")
    parts.append("profile [take.profile], sharpness [take.sharpness], codec [take.codec]")
    if shot.live:
        sound = "; peaks at [take.level_dbfs]; a wind filter: [take.wind_filter]" if shot.take.sound != "off" else ""
        parts.append(f"sound: [take.sound]{sound}")
    if not by_the_clock(shot):
        parts.append("when it is over the camera [take.when_over]")
    return "; ".join(parts) + "."


def _firing_line(shot: Shot) -> str:
    lens = shot.kit.lens
    mode = " in [mode]" if shot.kit.body.modes else ""
    if lens.focal_length_min_mm < lens.focal_length_max_mm:
        mode += ", at [framing.focal_length_mm]"
    if shot.live:
        return f"It is [made], fired [fires]{mode}. "
    kept = "" if shot.fires == "own lapse film" else ", kept as [keeps]"
    return f"It is [made], fired [fires]{mode}{kept}. "


def key_words(shot: Shot, index: int) -> list[Word]:
    """The values of a key of the move: moment, every axis of the rig, hold, and the eases in and away."""
    parts = ("at", *shot.kit.axes, "hold", "arrive", "leave")
    return list(told(shot, "".join(f"[move.keys.{index}.{part}]" for part in parts), timing_of(shot)))


def leg_words(shot: Shot, index: int) -> list[Word]:
    """The values of a leg of a walk's path: its bearing and its length."""
    return list(told(shot, "".join(f"[walk.legs.{index}.{part}]" for part in ("bearing", "length")), timing_of(shot)))


def thing_words(shot: Shot, index: int) -> list[Word]:
    """The values of a thing on the move table: name, role, place and size."""
    return list(told(shot, "".join(f"[move.things.{index}.{part}]" for part in THING_PARTS), timing_of(shot)))


def _carried_line(walk: Walk) -> str:
    """What a walk looks at, how it is carried, and what that costs."""
    stick = " of [walk.stick_m]" if walk.support == "on a stick" else ""
    settle = "" if walk.filmed else "; [walk.settle_s] to settle at each"
    return (
        f"It is [walk.way]; it looks at [walk.aim], kept at [walk.across] across and [walk.down] down; carried "
        f"[walk.support]{stick}; hands are off by [walk.hand_deg] and roll by [walk.roll_deg]{settle}."
    )


def _move_line(shot: Shot) -> str:
    if shot.walk is not None:
        return _carried_line(shot.walk)
    if not shot.kit.movers:
        return _NO_MOVER
    parts = ["The rig moves [move.kind], [move.path], [move.repeat]"]
    if shot.move and shot.move.kind == "continuous":
        parts.append("blur up to [move.blur_limit_px] passes")
    locked = " at [move.aim.across] across, [move.aim.down] down" if shot.move and shot.move.aim else ""
    parts.append(f"aim locked on [move.aim]{locked}")
    if "slide" in shot.kit.axes:
        parts.append("slope [move.incline_deg]")
    return "; ".join(parts) + "; a stalled axis [move.on_stall]; afterwards the rig [move.afterwards]."


_NO_MOVER = "Nothing moves: no mover is in the kit of this shot. Choose one under kit, place and framing."


def told(shot: Shot, text: str, solved: Solution) -> Line:
    """A line in which every `[field]` is that field's value."""
    pieces = re.split(r"(\[[^\]]+\])", text)
    return tuple(
        word_of(shot, piece[1:-1], solved) if piece.startswith("[") else Word(text=piece) for piece in pieces if piece
    )


def word_of(shot: Shot, name: str, solved: Solution) -> Word:
    """A value of a shot that can be edited in place."""
    field = field_of(name, shot)
    assert field
    quantity = name.removeprefix("timing.")
    state: Literal["wanted", "solved", "plain"] = "plain"
    if shot.walk is not None and shot.walk.filmed and name.removeprefix("walk.") in get_args(WalkQuantity):
        state = "solved" if name == f"walk.{shot.walk.free}" else "wanted"
    elif name == "walk.walk_s":
        state = "solved"
    elif quantity in QUANTITIES:
        state = "wanted" if quantity in shot.timing.wanted() else "solved"
    return Word(
        text=field.show(shot, solved), field=name, label=field.label, state=state,
        known=_working(shot, solved, name) if state == "solved" else "",
        note=solved.told.get(quantity, "") or _note(shot, solved, name), choices=field.choices_for(shot, solved),
        offers=tuple(Offered(text=text, told=told) for text, told in offered_starts(shot)) if name == "start" else (),
    )  # fmt: skip


def _working(shot: Shot, solved: Solution, name: str) -> str:
    if not name.startswith("walk."):
        return working(shot, solved, name.removeprefix("timing."))
    walk = shot.walk
    assert walk is not None
    event, ends = solved.event_s, walk.head_s + walk.tail_s
    if name == "walk.walk_s":
        return f"{decimals(length_m(walk), 1)} m / {decimals(walk.pace_m_s, 2)} m/s = {duration(event)}"
    return (
        f"{duration(ends)} + ({duration(event)} − {duration(ends)}) / {decimals(walk.factor, 2)} = "
        f"{duration(round(film_s(walk, event), 3))}"
    )


def working(shot: Shot, solved: Solution, quantity: str) -> str:
    """How a solved quantity follows from those that are wanted: the law with its numbers."""
    wanted = shot.timing.wanted()
    frames, rate = count(solved.frame_count, "frame"), f"{plain_rate(solved.fps)} fps"
    timing = shot.timing
    # As it was asked for: what was rounded then is told beside it.
    event, film = duration(timing.event_s or solved.event_s), duration(timing.playback_s or solved.playback_s)
    interval = duration(solved.interval_s)
    if quantity == "frame_count":
        by_film = "playback_s" in wanted
        return f"{film} × {rate} = {frames}" if by_film else f"{event} / {interval} = {frames}, whole ones"
    if quantity == "playback_s":
        return f"{frames} / {rate} = {duration(solved.playback_s)}"
    if quantity == "fps":
        return f"{frames} / {film} = {rate}"
    if quantity == "interval_s":
        return f"{event} / {frames} = {interval}"
    return f"{frames} × {interval} = {duration(solved.event_s)}" + (", longer by night" if shot.pace else "")


def _note(shot: Shot, solved: Solution, name: str) -> str:
    """What limits a value, told at its own field."""
    if name == "light.shutter_s" and shot.live and shot.light.shutter_s > solved.interval_s:
        rate = plain_rate(1 / solved.interval_s)
        return f"at most 1/{rate} s is used, for this is a film at {rate} fps"
    return ""


_LIGHT_LINES: dict[School, str] = {
    "fixed": " at [light.shutter_s], ISO [light.iso], [light.aperture]",
    "automatic": " from ISO [light.iso] to [light.iso_ceiling], at [light.aperture], "
    "[light.compensation_stops] brighter",
    "aperture priority": " at ISO [light.iso], [light.aperture], [light.compensation_stops] brighter",
    "stepped": " up to [light.shutter_s], then ISO [light.iso] to [light.iso_ceiling], at [light.aperture]",
    "continuous": " up to [light.shutter_s], then ISO [light.iso] to [light.iso_ceiling], at [light.aperture]",
}
_WHITE_LINES = {
    "fixed": " [light.white_balance_k]",
    "ramp": " [light.white_balance_k] to [light.white_balance_night_k]",
    "automatic": "",
}


def speed_up_text(shot: Shot, solved: Solution) -> str:
    """`900 ×`: how many seconds of the event one second of film shows; of a walk, between its ends."""
    walk = shot.walk
    if walk is None or not walk.filmed:
        return f"{decimals(solved.speed_up, 1)} ×"
    return f"{decimals(walk.factor, 1)} ×" + (", ends 1 ×" if walk.head_s or walk.tail_s else "")
