"""Does the shot fit into the dark, and into the hours of its place?"""

from collections.abc import Callable
from datetime import datetime, timedelta
from fractions import Fraction
from math import ceil, floor

from revani.core.documents import FIRST_YEAR, LAST_YEAR, ClockStart, Shot
from revani.core.edit.retime import price, retimed
from revani.core.edit.slower import milder
from revani.core.findings.finding import Finding, Fix, finding, usable
from revani.core.findings.timing import shortest_possible_s
from revani.core.light.firing import interval_over_s
from revani.core.program.compiled import Program
from revani.core.quantities.arrays import Window
from revani.core.quantities.units import count, duration
from revani.core.sky.dark import dark_windows
from revani.core.timing.law import ceil_to


def place_windows(program: Program) -> list[Window]:
    """The hours in which one may be at the place, around the shot, in order."""
    window = program.shot.place.window
    if window is None:
        return []
    found = []
    day = program.local(program.start_s).date() - timedelta(days=1)
    while day <= program.local(program.end_s).date():
        opens = datetime.fromisoformat(f"{day}T{window.opens}").replace(tzinfo=program.zone)
        closing_day = day if window.closes > window.opens else day + timedelta(days=1)
        closes = datetime.fromisoformat(f"{closing_day}T{window.closes}").replace(tzinfo=program.zone)
        found.append(Window(opens.timestamp(), closes.timestamp()))
        day += timedelta(days=1)
    return found


def _best(windows: list[Window], program: Program) -> Window | None:
    """The window that shares most with the shot; where none does, the nearest."""

    def shared(window: Window) -> float:
        return min(window.to_s, program.end_s) - max(window.from_s, program.start_s)

    return max(windows, key=shared, default=None)


def _into(window: Window, program: Program, name: str, outside: Callable[[Program], float]) -> tuple[Fix, ...]:
    """Fixes that bring a shot into a window: move it, shorten the film, or take frames faster.

    Those are left out that leave as much outside as before; the night of another date may be another one.
    """
    timing, shot = program.timing, program.shot
    length = window.to_s - window.from_s
    start_in = max(window.from_s, min(program.start_s, window.to_s))
    moved = _starting(shot, program, max(window.from_s, min(program.start_s, window.to_s - float(timing.event_s))))
    room_s = length if float(timing.event_s) > length else window.to_s - start_in
    begin = window.from_s if float(timing.event_s) > length else start_in
    fits = float(timing.event_s) <= length
    fixes: list[Fix | None] = []
    if fits:
        when = f"{program.local(max(window.from_s, min(program.start_s, window.to_s - float(timing.event_s)))):%H:%M}"
        fixes.append(Fix(id="start-then", label=f"Start at {when}", price="the film stays as it is", shot=moved))
    if timing.interval_s <= room_s < timing.event_s:
        # A minute less, for the start is on a whole one.
        shorter = retimed(
            _starting(shot, program, begin), fps=timing.fps, interval_s=timing.interval_s,
            event_s=Fraction(max(int(room_s) - 60, ceil(timing.interval_s))), playback_s=None, frame_count=None,
        )  # fmt: skip
        fixes.append(Fix(id="stop-then", label=f"Stop when {name} ends", price=price(timing, shorter), shot=shorter))
    tick = shot.body.controller_tick_s
    denser = floor(Fraction(max(int(room_s) - 60, 0)) / timing.frame_count / tick) * tick
    possible = denser >= max(shortest_possible_s(program), ceil_to(tick, tick))
    if shot.pace is None and possible and denser < timing.interval_s:
        faster = retimed(
            _starting(shot, program, begin), fps=timing.fps, interval_s=denser, frame_count=timing.frame_count,
            playback_s=None, event_s=None,
        )  # fmt: skip
        fixes.append(
            Fix(
                id="denser",
                label=f"A frame every {duration(denser)}",
                price=price(timing, faster),
                shot=faster,
            )
        )
    now = outside(program)
    return tuple(fix for fix in usable(*fixes) if milder(fix.shot, outside, now))


def _starting(shot: Shot, program: Program, at_s: float) -> Shot:
    """The shot started at an instant, by the place's clock; unchanged where it starts there already."""
    if abs(at_s - program.start_s) < 60:
        return shot
    # The next whole minute, so that the start lies inside the window.
    local = program.local(-(-at_s // 60) * 60)
    if not FIRST_YEAR <= local.year <= LAST_YEAR:
        return shot
    return shot.model_copy(update={"date": local.date(), "start": ClockStart(time=f"{local:%H:%M}")})


def _dark_of(program: Program) -> Window | None:
    """The dark that shares most with the shot, without a moon where there is one."""
    moonless = _best(dark_windows(program.sky, program.shot.moonlight_up_to), program)
    return moonless or _best(dark_windows(program.sky), program)


def _frames_beside(program: Program, window: Window | None) -> float:
    """How many frames fall outside a window; all of them where there is none."""
    if window is None:
        return float(program.frame_count)
    return float(((program.at_s < window.from_s) | (program.at_s > window.to_s)).sum())


def _time_beside(program: Program, window: Window | None) -> float:
    """For how long a shot runs outside a window, seconds."""
    if window is None:
        return 0.0
    return max(window.from_s - program.start_s, 0.0) + max(program.end_s - window.to_s, 0.0)


@finding(
    "time",
    "time.longer-than-dark",
    "time.no-dark",
    source="astronomical twilight at −18° (U.S. Naval Observatory); −12° where there is none",
)
def longer_than_the_dark(program: Program) -> Finding | None:
    """A shot of stars reaches into twilight, or needs more dark than any night there has."""
    if not program.shot.needs_dark:
        return None
    window = _dark_of(program)
    if window is None:
        return Finding(
            id="time.no-dark",
            severity="stop",
            turns="From −12° on; the date decides.",
            sentence="It does not get dark here on this date.",
            figures=f"The sun goes down to {program.sky.sun(program.sky.grid_s).altitude_deg.min():.1f}° "
            "at its lowest; stars need −12° or less. Choose another date.",
        )
    early, late = window.from_s - program.start_s, program.end_s - window.to_s
    outside = int(_frames_beside(program, window))
    if not outside:
        return None
    parts = [
        f"{duration(round(over))} {word} the dark" for over, word in ((early, "before"), (late, "after")) if over > 30
    ]
    return Finding(
        severity="fix",
        turns=f"Quiet between {program.local(window.from_s):%H:%M} and {program.local(window.to_s):%H:%M}.",
        sentence=f"{count(outside, 'frame')} fall outside the dark.",
        figures=f"Dark from {program.local(window.from_s):%H:%M} to {program.local(window.to_s):%H:%M}, "
        f"{duration(round(window.to_s - window.from_s))}; the shot runs {' and '.join(parts)}.",
        offer=lambda: _into(window, program, "the dark", lambda one: _frames_beside(one, _dark_of(one))),
        from_s=program.start_s if early > 30 else window.to_s,
        to_s=program.end_s if late > 30 else window.from_s,
    )


@finding("time", "time.outside-window", source="the place's own hours")
def longer_than_the_window(program: Program) -> Finding | None:
    """The place is open to people for certain hours only."""
    window = _best(place_windows(program), program)
    if window is None or (program.start_s >= window.from_s and program.end_s <= window.to_s):
        return None
    reason = program.shot.place.window.reason if program.shot.place.window else ""
    return Finding(
        severity="fix",
        turns=f"Quiet between {program.local(window.from_s):%H:%M} and {program.local(window.to_s):%H:%M}.",
        sentence=f"The shot does not fit into the hours of {program.shot.place.name}.",
        figures=f"Open {program.local(window.from_s):%H:%M} to {program.local(window.to_s):%H:%M}"
        + (f" ({reason})" if reason else "")
        + f"; the shot runs {_span(program)}.",
        offer=lambda: _into(
            window, program, "the window", lambda one: _time_beside(one, _best(place_windows(one), one))
        ),
        from_s=window.to_s if program.end_s > window.to_s else program.start_s,
        to_s=program.end_s if program.end_s > window.to_s else window.from_s,
    )


def _span(program: Program) -> str:
    start, end = program.local(program.start_s), program.local(program.end_s)
    days = (end.date() - start.date()).days
    return f"{start:%H:%M} to {end:%H:%M}" + (f", {count(days, 'day')} later" if days > 1 else "")


_MORNING_S = 3_600


@finding("time", "time.over-the-night", source="sunrise at −0.8333° (U.S. Naval Observatory)")
def longer_than_its_night(program: Program) -> Finding | None:
    """A shot that stands in a night and runs on into the next day, more than its dawn."""
    if program.timing.event_s > _A_DAY_S or program.sun_altitude_deg[0] > -12:
        return None
    rises = [one.at_s for one in program.sky.sun_crossings if one.name == "sunrise" and one.at_s > program.start_s]
    over_s = program.end_s - min(rises, default=program.end_s)
    if over_s < _MORNING_S:
        return None
    return Finding(
        severity="mind",
        turns=f"Up to {duration(_MORNING_S)} after sunrise nothing is said.",
        sentence=f"The shot runs {duration(round(over_s / 60) * 60)} past the end of its night.",
        figures=f"It begins in the dark; the sun is up at {program.local(min(rises)):%H:%M}, "
        f"the last frame is at {program.local(float(program.at_s[-1])):%H:%M}.",
        from_s=min(rises),
        to_s=program.end_s,
    )


_A_DAY_S = 86_400


@finding("time", "time.over-a-day", source="arithmetic")
def longer_than_a_day(program: Program) -> Finding | None:
    """An event over a day and a night is seldom meant, and never by those who type a film length."""
    timing = program.timing
    if timing.event_s <= _A_DAY_S:
        return None
    frames = floor(_A_DAY_S / timing.interval_s)
    denser = interval_over_s(program.shot, Fraction(_A_DAY_S, timing.frame_count))
    faster = shorter = None
    if program.shot.pace is None and denser >= shortest_possible_s(program) and denser * timing.frame_count <= _A_DAY_S:
        shot = retimed(
            program.shot, fps=timing.fps, interval_s=denser, frame_count=timing.frame_count, event_s=None,
            playback_s=None,
        )  # fmt: skip
        faster = Fix(id="denser", label=f"A frame every {duration(denser)}", price=price(timing, shot), shot=shot)
    if program.shot.pace is None and frames >= 1:
        shot = retimed(
            program.shot, fps=timing.fps, interval_s=timing.interval_s, frame_count=frames, event_s=None,
            playback_s=None,
        )  # fmt: skip
        shorter = Fix(id="stop-after-a-day", label="Stop after a day", price=price(timing, shot), shot=shot)
    return Finding(
        severity="mind",
        turns=f"Up to {duration(_A_DAY_S)}; this is {duration(timing.event_s - _A_DAY_S)} more.",
        sentence=f"This takes {duration(timing.event_s)}: more than a day and a night.",
        figures=f"{count(timing.frame_count, 'frame')}, one every {duration(timing.interval_s)}, from "
        f"{program.local(program.start_s):%H:%M on %-d %b} to {program.local(program.end_s):%H:%M on %-d %b}.",
        offer=lambda: usable(faster, shorter),
    )
