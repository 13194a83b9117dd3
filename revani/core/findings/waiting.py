"""Can what a shot waits for come at all, and can it begin by it?"""

from revani.core.findings.finding import Finding, Fix, finding
from revani.core.light.firing import by_the_clock
from revani.core.program.compiled import Program
from revani.core.quantities.arrays import Window
from revani.core.quantities.units import duration
from revani.core.sky.sun_and_moon import sky_over
from revani.core.timing.trigger_words import show_condition
from revani.core.timing.triggers import can_come
from revani.core.timing.waiting import closes_s


@finding("time", "waiting.nobody-begins", source="common practice, no source: only a linked camera is begun from here")
def nobody_can_begin_it(program: Program) -> Finding | None:
    """It waits for something, but nobody is linked to the camera who could begin it then."""
    shot = program.shot
    if shot.waits is None or not by_the_clock(shot):
        return None
    return Finding(
        "stop",
        "It waits for something, and nobody is linked to the camera to begin it then.",
        figures=f"Fired {shot.fires}: the camera begins by its own clock or by a hand, whatever comes.",
        offer=lambda: (
            Fix(
                id="begin-at-start", label="Begin at its start", price="what it waits for is dropped",
                shot=shot.model_copy(update={"waits": None}),
            ),
        ),
    )  # fmt: skip


@finding("time", "waiting.sun-not-there", source="JPL DE421 through Skyfield: the sun's altitude over the wait")
def the_sun_is_never_there(program: Program) -> Finding | None:
    """A condition on the sun's altitude, or on the clock, holds at no instant of the wait."""
    shot = program.shot
    if shot.waits is None or by_the_clock(shot):
        return None
    ends_s = closes_s(shot)
    sky = sky_over(shot.place, program.start_s, ends_s)
    over = Window(program.start_s, ends_s)
    never = [[one for one in way if not can_come(one, sky, program.zone, over)] for way in shot.waits.ways]
    dead = [way[0] for way in never if way]
    if not dead:
        return None
    from_to = f"from {program.local(program.start_s):%H:%M} to {program.local(ends_s):%H:%M}"
    whole = len(dead) == len(shot.waits.ways)
    first = show_condition(dead[0])
    heights = sky.sun([program.start_s, ends_s]).altitude_deg
    return Finding(
        "stop" if whole else "mind",
        f"What it waits for cannot come: {from_to} it is never so that {first}."
        if whole
        else f"One of the ways cannot come: {from_to} it is never so that {first}.",
        figures=f"It waits {duration(shot.waits.for_s)}; the sun goes from {heights[0]:.1f}° to {heights[1]:.1f}°.",
    )
