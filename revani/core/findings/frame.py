"""What stands in the picture, and on the lens, that one should know of."""

import numpy as np
from numpy.typing import NDArray

from revani.core.edit.slower import milder
from revani.core.findings.finding import Finding, Fix, finding, usable
from revani.core.findings.relit import moment_at
from revani.core.light.dials import show_shutter
from revani.core.light.filters import CHANGE_S, advise, off_at_s, stack_stops, wanted_nd_stops
from revani.core.picture.passages import passages
from revani.core.program.compiled import Program
from revani.core.quantities.units import count, decimals, duration, in_stops
from revani.core.timing.start import show_start

_LONG_S = 1_800.0
_HALF_STOP = 0.5
# A filter comes off so long before it is too dark for it.
_BEFORE_S = 300.0


@finding(
    "light", "light.sun-in-frame", source="sun from JPL's DE421 through Skyfield; the lens's projection (textbook)"
)
def sun_in_the_frame(program: Program) -> Finding | None:
    """The sun stands in the picture, and so on the sensor."""
    # A sphere has the sun in it whenever it is up.
    if program.round:
        return None
    if program.shot.light.cloud == "overcast" or program.sun_altitude_deg.max() < -1:
        return None
    stays = passages(program, ("sun",))
    if not stays:
        return None
    total = sum(one.to_s - one.from_s for one in stays)
    nd = stack_stops(program.shot)
    return Finding(
        severity="mind",
        turns="Quiet under an overcast sky, with the sun behind the ridge, or beside the picture.",
        sentence=f"The sun stands in the picture from {program.local(stays[0].from_s):%H:%M} "
        f"to {program.local(stays[-1].to_s):%H:%M}.",
        figures=f"{duration(round(total / 60) * 60)} on the sensor"
        + (" through a filter" if nd else "")
        + ("; for so long, close the aperture or cover the lens between frames." if total > _LONG_S else ".")
        + " Never look at it through a finder; with a long lens use a certified solar filter.",
        from_s=stays[0].from_s,
        to_s=stays[-1].to_s,
    )


@finding("light", "light.filter-change", source="arithmetic over the plan")
def filter_comes_off(program: Program) -> Finding | None:
    """Hands are in the picture while a filter is taken off."""
    off = off_at_s(program.shot, program.start_s)
    if off is None or not program.start_s < off < program.end_s:
        return None
    hurt = int(((program.at_s + program.exposures.shutter_s > off) & (program.at_s < off + CHANGE_S)).sum())
    if not hurt:
        return None
    return Finding(
        severity="mind",
        turns="Quiet where no frame falls into the time that it takes.",
        sentence=f"Taking the filter off at {program.local(off):%H:%M} spoils {count(hurt, 'frame')}.",
        figures=f"It takes about {duration(CHANGE_S)} with cold hands; the framing must not move. "
        "Cut them out, or let the film have them.",
        from_s=off,
        to_s=off + CHANGE_S,
    )


@finding("light", "light.filter-too-long", source="arithmetic over the plan")
def filter_stays_too_long(program: Program) -> Finding | None:
    """A filter is still on when the light has become too little for it."""
    shot = program.shot
    stops = stack_stops(shot)
    if not stops:
        return None
    short = (program.nd_stops > 0) & (program.exposures.error_stops < -_HALF_STOP)
    if not short.any():
        return None
    first = int(np.argmax(short))
    off_s = float(program.at_s[first]) - _BEFORE_S
    if off_s <= program.start_s:
        fix = Fix(
            id="without",
            label="Begin without it",
            price="nothing is taken away from the light, by day neither",
            shot=shot.with_light(filters=[], filters_off=None),
        )
    else:
        when = moment_at(program, off_s)
        fix = Fix(
            id="off-earlier",
            label=f"Take it off at {program.local(off_s):%H:%M}",
            price=f"somebody must be there, {show_start(when, shot.place)}",
            shot=shot.with_light(filters_off=when.model_dump()),
        )
    return Finding(
        severity="fix",
        turns=f"Up to {in_stops(_HALF_STOP)} short nothing is said.",
        sentence=f"With the filter on, {count(int(short.sum()), 'frame')} come out too dark.",
        figures=f"From {program.local(float(program.at_s[first])):%H:%M}, up to "
        f"{in_stops(-float(program.exposures.error_stops[short].min()))} short.",
        offer=lambda: usable(fix),
        from_s=float(program.at_s[first]),
        to_s=float(program.at_s[program.frame_count - 1 - int(np.argmax(short[::-1]))]),
    )


@finding("light", "light.filter-stays", source="arithmetic over the plan")
def filter_off_at_no_time(program: Program) -> Finding | None:
    """The filter is meant to come off, but only after the shot."""
    off = off_at_s(program.shot, program.start_s)
    if off is None or off < program.end_s:
        return None
    return Finding(
        severity="mind",
        turns="Quiet where it comes off before the end.",
        sentence="The filter stays on for the whole shot.",
        figures=f"It would come off at {program.local(off):%H:%M on %-d %b}; the shot ends at "
        f"{program.local(program.end_s):%H:%M on %-d %b}.",
        offer=lambda: usable(
            Fix(
                id="stays-on",
                label="It stays on",
                price="nothing changes but what is said",
                shot=program.shot.with_light(filters_off=None),
            )
        ),
    )


def _too_short(program: Program) -> NDArray[np.bool_]:
    """Which frames are a stop or more shorter than the wanted angle, for want of a filter."""
    if program.shot.light.angle_deg is None:
        return np.zeros(program.frame_count, dtype=bool)
    wanted = wanted_nd_stops(program.shot, program.light_on, program.slot_s)
    return np.asarray((wanted - program.nd_stops > 1) & (wanted > 1))


@finding("light", "light.angle", source="shutter = angle / 360 × interval (textbook)")
def angle_not_reached(program: Program) -> Finding | None:
    """The wanted shutter angle is not reached by day without a filter, or with the one that is on."""
    shot = program.shot
    if shot.light.angle_deg is None:
        return None
    wanted = wanted_nd_stops(shot, program.light_on, program.slot_s)
    short = _too_short(program)
    if not short.any():
        return None
    best = next(iter(advise(shot, program.light_on, program.slot_s)), None)
    fix = None
    if best is not None and best.frames_near and best.stops != stack_stops(shot):
        change: dict[str, object] = {"filters": [one.id for one in best.filters], "filters_off": None}
        words = "it stays on"
        if best.off_frame:
            when = moment_at(program, float(program.at_s[best.off_frame]))
            change["filters_off"] = when.model_dump()
            words = f"off again at {program.local(float(program.at_s[best.off_frame])):%H:%M}"
        names = " and ".join(one.name for one in best.filters)
        fix = Fix(
            id="filters",
            label=f"Begin with {names}",
            price=f"{in_stops(best.stops)}; right for {count(best.frames_near, 'frame')}; {words}",
            shot=shot.with_light(**change),
        )
        if not milder(fix.shot, lambda one: float(_too_short(one).sum()), float(short.sum())):
            fix = None
    later = Fix(
        id="blur-later",
        label="Add blur later, in software",
        price="short shutters stay as they are",
        shot=shot.with_light(angle_deg=None),
    )
    first = int(np.argmax(short))
    return Finding(
        severity="mind",
        turns="Quiet within a stop of the angle.",
        sentence=f"A shutter angle of {decimals(shot.light.angle_deg, 0)}° wants "
        f"{in_stops(float(wanted[short].max()))} of filter.",
        figures=f"Without, {count(int(short.sum()), 'frame')} are as short as "
        f"{show_shutter(float(program.exposures.shutter_s[short].min()))}: moving things will stutter.",
        offer=lambda: usable(fix, later),
        from_s=float(program.at_s[first]),
        to_s=float(program.at_s[program.frame_count - 1 - int(np.argmax(short[::-1]))]),
    )
