"""Who fires, and in which mode: what a camera that fires itself offers, and what it cannot be told."""

from fractions import Fraction

from revani.core.documents import Fires, Mode, School, Shot
from revani.core.light.exposing import SCHOOL_NAMES
from revani.core.quantities.refusal import Refusal
from revani.core.quantities.units import duration, plain_rate
from revani.core.timing.law import Solution, ceil_to

FIRES_WORDS: dict[Fires, str] = {
    "linked": "linked: Revani sets every frame",
    "controller": "by a controller: it knows only when",
    "own timer": "by its own timer",
    "own lapse film": "by itself, into its own lapse film",
    "by hand": "by hand",
}
_ALL: tuple[School, ...] = ("fixed", "automatic", "aperture priority", "stepped", "continuous")


def fires_itself(shot: Shot) -> bool:
    """Whether the body fires by itself, so that it can only be told before."""
    return shot.fires in ("own timer", "own lapse film")


def by_the_clock(shot: Shot) -> bool:
    """Whether nobody is linked to the camera: what happens is known by the clock alone."""
    return shot.fires != "linked"


def made_by(shot: Shot) -> str:
    """What the mode of a shot must make: film at speed, the body's own lapse film, or stills."""
    return "film" if shot.live else "own lapse film" if shot.fires == "own lapse film" else "stills"


def modes_for(shot: Shot) -> tuple[Mode, ...]:
    """The modes of the body in which a shot can be taken; all that there is, of a body without a table."""
    body = shot.kit.body
    linked = shot.fires == "linked"
    made = tuple(mode for mode in body.table if mode.makes == made_by(shot)) if body.modes else body.table
    return tuple(mode for mode in made if mode.afar or not linked)


def schools_for(shot: Shot) -> tuple[School, ...]:
    """The ways of exposing that whoever fires can be told."""
    if shot.live or shot.fires == "linked":
        return _ALL
    manual = shot.recording.manual or not shot.kit.body.modes
    if shot.fires == "controller":
        # A controller that times the shutter holds a bulb open; it turns no dial.
        timed: tuple[School, ...] = ("continuous",) if shot.body.bulb and manual else ()
        return (*(("fixed",) if manual else ()), "automatic", "aperture priority", *timed)
    return (*(("fixed",) if manual else ()), "automatic", "aperture priority")


def check_firing(shot: Shot) -> None:
    """Refuse a mode that the body has not, and what whoever fires cannot be told or does not offer."""
    body, offered = shot.kit.body, modes_for(shot)
    made = {"film": "film", "own lapse film": "its own lapse film", "stills": "stills"}[made_by(shot)]
    if not offered:
        linked = " when it is linked" if shot.fires == "linked" and body.modes else ""
        raise Refusal("fires" if not shot.live else "move.kind", f"{body.name} has no mode that makes {made}{linked}.")
    names = [mode.name for mode in offered]
    if shot.recording.name not in names or (shot.mode and body.modes and body.mode(shot.mode) is None):
        raise Refusal("mode", f"{body.name} makes {made} in: {', '.join(names)}.", shot.mode)
    if shot.light.school not in schools_for(shot):
        who = "A body that fires itself" if fires_itself(shot) else "A controller" if shot.fires == "controller" else ""
        who = who or "A hand on the button"
        offered_ways = ", ".join(SCHOOL_NAMES[school] for school in schools_for(shot))
        allowed = f"{who} cannot be told that, but to {offered_ways}."
        raise Refusal("light.school", allowed, shot.light.school)
    if shot.light.white_balance == "ramp" and by_the_clock(shot):
        allowed = "A camera that nobody is linked to holds its white balance, or chooses it by itself."
        raise Refusal("light.white_balance", allowed, "ramp")
    if shot.keeps != "JPEG" and not shot.live and shot.fires != "own lapse film" and not shot.recording.raw:
        raise Refusal("keeps", f"{shot.recording.name} makes JPEG alone.", shot.keeps)
    if shot.pace is not None and fires_itself(shot):
        raise Refusal("pace", "A body that fires itself keeps one interval throughout.")


def recording_rates(shot: Shot, fps: Fraction) -> tuple[Fraction, ...]:
    """The rates at which a film can be recorded that is played at one: that rate, or a higher one that slows it.

    None where the mode records no film that fast; a body that says no rates records as it is played.
    """
    rates = shot.recording.rates or (fps,)
    return tuple(rate for rate in rates if rate >= fps)


def check_offered(shot: Shot, timing: Solution) -> None:
    """Refuse an interval, a length or a recording rate that the body does not offer."""
    if shot.live and not recording_rates(shot, timing.fps):
        rates = ", ".join(plain_rate(rate) for rate in shot.recording.rates)
        raise Refusal("timing.fps", f"{shot.recording.name} records at {rates} fps.", plain_rate(timing.fps))
    if shot.live and 1 / timing.interval_s not in recording_rates(shot, timing.fps):
        rates = ", ".join(plain_rate(rate) for rate in recording_rates(shot, timing.fps))
        allowed = f"Played at {plain_rate(timing.fps)} fps, it can be recorded at {rates} fps."
        raise Refusal("recording", allowed, plain_rate(1 / timing.interval_s))
    if not fires_itself(shot):
        return
    mode, interval_s, event_s = shot.recording, timing.interval_s, timing.event_s
    if mode.intervals and interval_s not in mode.intervals:
        offered = ", ".join(duration(one) for one in mode.intervals)
        raise Refusal("timing.interval_s", f"In {mode.name} its timer offers {offered}.", float(interval_s))
    if mode.lengths and event_s not in mode.lengths:
        offered = ", ".join(duration(one) for one in mode.lengths)
        raise Refusal("timing.event_s", f"In {mode.name} it offers lengths of {offered}.", float(event_s))


def interval_over_s(shot: Shot, least_s: Fraction) -> Fraction:
    """The shortest interval that can be set and is no shorter than so much.

    On the menu of a body that fires itself, its longest where none is long enough; else on the trigger's tick.
    """
    offered = shot.recording.intervals if fires_itself(shot) else ()
    if offered:
        return next((one for one in offered if one >= least_s), offered[-1])
    return ceil_to(least_s, shot.body.controller_tick_s)


def nearest_interval_s(shot: Shot, interval_s: Fraction) -> Fraction:
    """The interval on the body's own menu that is nearest; of two as near the shorter."""
    return min(shot.recording.intervals, key=lambda one: (abs(one - interval_s), one))
