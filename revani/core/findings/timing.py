"""Is the interval possible on this body, and is there a film in it?"""

from fractions import Fraction
from math import ceil

from revani.core.edit.retime import price, retimed
from revani.core.findings.finding import Finding, Fix, finding, usable
from revani.core.light.dials import show_shutter
from revani.core.light.firing import interval_over_s
from revani.core.program.compiled import Program
from revani.core.quantities.units import count, duration, plain_rate
from revani.core.timing.law import budget_s, shortest_interval_s

SHORTEST_FILM_S = 3


def shortest_possible_s(program: Program) -> Fraction:
    """The shortest interval for the body and the longest shutter that the shot wants, on the tick."""
    body = program.shot.body
    return shortest_interval_s(body.minimum_interval_s, _need_s(program), body.controller_tick_s)


def _need_s(program: Program) -> Fraction:
    """Seconds a frame for the shutter that is held, not rounded to the tick.

    Where the shutter follows the light it also follows the interval: a short one is another judgement.
    """
    body, light = program.shot.body, program.shot.light
    held = min(light.shutter_s, body.manual_shutter_max_s) if light.school == "fixed" else body.shutter_min_s
    return budget_s(held, body.overhead_s, program.shot.held_times)


def _shortest_part(program: Program) -> Fraction:
    """What the shortest interval of the shot is of that by day."""
    return min(program.shot.pace.night_factor, Fraction(1)) if program.shot.pace else Fraction(1)


@finding("time", "timing.interval-too-short", source="arithmetic: the body's shortest interval, shutter and storing")
def interval_under_shortest(program: Program) -> Finding | None:
    """The body cannot take frames this fast at all, or not with the shutter that is asked for."""
    body, timing = program.shot.body, program.timing
    if program.shot.live:
        return None
    need = max(body.minimum_interval_s, _need_s(program))
    # Where the pace changes, the shortest interval counts, be it by day or by night.
    shortest = timing.interval_s * _shortest_part(program)
    if shortest >= need:
        return None
    announced = interval_over_s(program.shot, shortest_possible_s(program) / _shortest_part(program))
    slow_body = shortest < body.minimum_interval_s
    why = (
        f"{body.name} needs at least {duration(body.minimum_interval_s)} between frames"
        if body.minimum_interval_s >= _need_s(program)
        else f"A shutter of {show_shutter(float(program.shot.light.shutter_s))} and "
        f"{duration(body.overhead_s)} to store the frame need {duration(shortest_possible_s(program))}"
    )
    keep_film = retimed(
        program.shot, interval_s=announced, event_s=None, frame_count=timing.frame_count, playback_s=None,
        fps=timing.fps,
    )  # fmt: skip
    fixes = [
        Fix(
            id="interval-longer-stay",
            label=f"A frame every {duration(announced)}, stay longer",
            price=price(timing, keep_film),
            shot=keep_film,
        )
    ]
    if timing.event_s >= announced:
        keep_event = retimed(
            program.shot, interval_s=announced, event_s=timing.event_s, frame_count=None,
            playback_s=None, fps=timing.fps,
        )  # fmt: skip
        fixes.append(
            Fix(
                id="interval-same-hours",
                label=f"A frame every {duration(announced)}, same hours",
                price=price(timing, keep_event),
                shot=keep_event,
            )
        )
    return Finding(
        severity="stop" if slow_body else "fix",
        turns=f"From {duration(need)} on it is quiet; {duration(need - shortest)} are missing.",
        sentence=f"A frame every {duration(shortest)} is too fast for "
        + ("this exposure." if not slow_body else f"{body.name}."),
        figures=f"{why}; shorter frames will be cut or missed.",
        # On the body's own menu there may be none that is long enough.
        offer=lambda: usable(*fixes) if announced * _shortest_part(program) >= need else (),
    )


@finding("time", "timing.film-too-short", source="three seconds to read a picture: common practice")
def film_too_short(program: Program) -> Finding | None:
    """A film of under three seconds is over before it is read."""
    timing = program.timing
    if timing.playback_s >= SHORTEST_FILM_S:
        return None
    frames = ceil(SHORTEST_FILM_S * timing.fps)
    stay = retimed(
        program.shot, playback_s=None, event_s=None, frame_count=frames, interval_s=timing.interval_s,
        fps=timing.fps,
    )  # fmt: skip
    denser = interval_over_s(program.shot, timing.event_s / frames)
    tighter = None
    if denser >= shortest_possible_s(program) and denser * frames <= timing.event_s * Fraction(11, 10):
        shot = retimed(
            program.shot, playback_s=None, event_s=None, frame_count=frames, interval_s=denser, fps=timing.fps
        )
        tighter = Fix(id="denser", label=f"A frame every {duration(denser)}", price=price(timing, shot), shot=shot)
    stay_fix = Fix(id="stay-longer", label=f"Take {count(frames, 'frame')}", price=price(timing, stay), shot=stay)
    return Finding(
        severity="fix",
        turns=f"From {SHORTEST_FILM_S} s on it is quiet; {duration(SHORTEST_FILM_S - timing.playback_s)} are missing.",
        sentence=f"The film lasts {duration(timing.playback_s)}: too short to read.",
        figures=f"{count(timing.frame_count, 'frame')} at {plain_rate(timing.fps)} fps; under "
        f"{SHORTEST_FILM_S} s a viewer has not found the subject yet.",
        offer=lambda: usable(tighter, stay_fix),
    )
