"""Does the shot fit into the dark, and into the hours of its place?"""

from datetime import datetime, timedelta
from fractions import Fraction
from math import floor

from revani.core.documents import ClockStart, Shot
from revani.core.findings.finding import Finding, Fix, finding, usable
from revani.core.findings.price import price, retimed
from revani.core.findings.timing import shortest_possible_s
from revani.core.night import dark_windows
from revani.core.pace import solved
from revani.core.program import Program, Window
from revani.core.timing import ceil_to
from revani.core.units import count, duration


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


def _into(window: Window, program: Program, name: str) -> tuple[Fix, ...]:
    """Fixes that bring a shot into a window: move it, shorten the film, or take frames faster."""
    timing, shot = program.timing, program.shot
    length = window.to_s - window.from_s
    start_in = max(window.from_s, min(program.start_s, window.to_s))
    moved = _starting(shot, program, max(window.from_s, min(program.start_s, window.to_s - float(timing.event_s))))
    room_s = length if float(timing.event_s) > length else window.to_s - start_in
    begin = window.from_s if float(timing.event_s) > length else start_in
    frames = floor(Fraction(int(room_s)) / timing.interval_s)
    fits = float(timing.event_s) <= length
    fixes: list[Fix | None] = []
    if fits:
        when = f"{program.local(max(window.from_s, min(program.start_s, window.to_s - float(timing.event_s)))):%H:%M}"
        fixes.append(Fix(label=f"Start at {when}", price="the film stays as it is", shot=moved))
    if 1 <= frames < timing.frame_count:
        shorter = retimed(
            _starting(shot, program, begin), fps=timing.fps, interval_s=timing.interval_s, frame_count=frames,
            playback_s=None, event_s=None,
        )  # fmt: skip
        fixes.append(Fix(label=f"Stop when {name} ends", price=price(timing, solved(shorter)), shot=shorter))
    tick = shot.kit.body.controller_tick_s
    denser = floor(Fraction(int(room_s)) / timing.frame_count / tick) * tick
    if denser >= max(shortest_possible_s(program), ceil_to(tick, tick)) and denser < timing.interval_s:
        faster = retimed(
            _starting(shot, program, begin), fps=timing.fps, interval_s=denser, frame_count=timing.frame_count,
            playback_s=None, event_s=None,
        )  # fmt: skip
        fixes.append(
            Fix(
                label=f"A frame every {duration(denser)}",
                price=price(timing, solved(faster)),
                shot=faster,
            )
        )
    return usable(*fixes)


def _starting(shot: Shot, program: Program, at_s: float) -> Shot:
    """The shot started at an instant, by the place's clock; unchanged where it starts there already."""
    if abs(at_s - program.start_s) < 60:
        return shot
    # The next whole minute, so that the start lies inside the window.
    local = program.local(-(-at_s // 60) * 60)
    return shot.model_copy(update={"date": local.date(), "start": ClockStart(time=f"{local:%H:%M}")})


@finding
def longer_than_the_dark(program: Program) -> Finding | None:
    """A shot of stars reaches into twilight, or needs more dark than any night there has."""
    if not program.shot.needs_dark:
        return None
    window = _best(dark_windows(program, program.shot.moonlight_up_to), program) or _best(
        dark_windows(program), program
    )
    if window is None:
        return Finding(
            id="time.no-dark",
            severity="stop",
            lens="time",
            sentence="It does not get dark here on this date.",
            figures=f"The sun goes down to {program.sky.sun(program.sky.grid_s).altitude_deg.min():.1f}° "
            "at its lowest; stars need −12° or less. Choose another date.",
        )
    early, late = window.from_s - program.start_s, program.end_s - window.to_s
    outside = int(((program.at_s < window.from_s) | (program.at_s > window.to_s)).sum())
    if not outside:
        return None
    parts = [
        f"{duration(round(over))} {word} the dark" for over, word in ((early, "before"), (late, "after")) if over > 30
    ]
    return Finding(
        id="time.longer-than-dark",
        severity="fix",
        lens="time",
        sentence=f"{count(outside, 'frame')} fall outside the dark.",
        figures=f"Dark from {program.local(window.from_s):%H:%M} to {program.local(window.to_s):%H:%M}, "
        f"{duration(round(window.to_s - window.from_s))}; the shot runs {' and '.join(parts)}.",
        fixes=_into(window, program, "the dark"),
        from_s=program.start_s if early > 30 else window.to_s,
        to_s=program.end_s if late > 30 else window.from_s,
    )


@finding
def longer_than_the_window(program: Program) -> Finding | None:
    """The place is open to people for certain hours only."""
    window = _best(place_windows(program), program)
    if window is None or (program.start_s >= window.from_s and program.end_s <= window.to_s):
        return None
    reason = program.shot.place.window.reason if program.shot.place.window else ""
    return Finding(
        id="time.outside-window",
        severity="fix",
        lens="time",
        sentence=f"The shot does not fit into the hours of {program.shot.place.name}.",
        figures=f"Open {program.local(window.from_s):%H:%M} to {program.local(window.to_s):%H:%M}"
        + (f" ({reason})" if reason else "")
        + f"; the shot runs {program.local(program.start_s):%H:%M} to {program.local(program.end_s):%H:%M}.",
        fixes=_into(window, program, "the window"),
        from_s=window.to_s if program.end_s > window.to_s else program.start_s,
        to_s=program.end_s if program.end_s > window.to_s else window.from_s,
    )
