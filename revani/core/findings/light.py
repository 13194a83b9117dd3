"""Will the frames be exposed as wanted?"""

from fractions import Fraction
from math import ceil, floor

import numpy as np
from numpy.typing import NDArray

from revani.core.findings.finding import Finding, Fix, finding, usable
from revani.core.findings.relit import (
    LONGEST_SHUTTER_S,
    close_aperture,
    darker_night,
    filter_on,
    follow_the_light,
    helping,
    in_the_light,
    less_slowed,
    longer_shutter,
    lower_iso,
    open_aperture,
    open_iso,
    roomier,
)
from revani.core.light.dials import ISOS, marked_iso, show_shutter, true_iso
from revani.core.program.compiled import Program
from revani.core.quantities.units import count, duration, in_stops

# From one stop on a frame is badly exposed.
BAD_STOPS = 1.0
# By how much a raw frame that is short of light may be lifted (common practice).
RAW_LIFTS_STOPS = 2.0


def _cut(program: Program) -> float:
    """By how many stops, over all frames, the interval cuts the shutters that are wanted."""
    cut = np.log2(program.exposures.wanted_shutter_s / program.shutter_room_s)
    return float(cut[cut > 0.0015].sum())


@finding("light", "exposure.shutter-capped", source="arithmetic: the shutter never exceeds interval − overhead")
def shutter_capped_by_interval(program: Program) -> Finding | None:
    """The interval leaves no room for the shutter that the light asks for."""
    if program.shot.light.school == "fixed":
        return None
    wanted = program.exposures.wanted_shutter_s
    short = wanted > program.shutter_room_s * 1.001
    if not short.any():
        return None
    at = int(np.argmin(np.where(short, program.shutter_room_s, np.inf)))
    room = float(program.shutter_room_s[at])
    longest = min(Fraction(ceil(float(wanted.max()) * 10), 10), LONGEST_SHUTTER_S)
    rise = float(np.log2(program.exposures.iso.max() / program.exposures.iso.min()))
    stay = min(Fraction(floor(room * 10), 10), LONGEST_SHUTTER_S)
    fixes = helping(
        program,
        _cut,
        roomier(program, longest, "A frame every {}"),
        Fix(
            id="shutter-stops",
            label=f"Let the shutter stop at {show_shutter(float(stay))}",
            price="the frames stay as they are; the sentence says what happens",
            shot=program.shot.with_light(shutter_s=stay),
        )
        if stay > 0 and not program.shot.light.automatic
        else None,
        room_helps=True,
    )
    return Finding(
        severity="mind",
        turns=f"{duration(round(float(wanted.max()) - room, 2))} more room and nothing is said.",
        sentence=f"The interval cuts the shutter at {show_shutter(room)}.",
        figures=f"{count(int(short.sum()), 'frame')} want up to {show_shutter(float(wanted.max()))}, but every "
        f"{duration(round(float(program.slot_s[at]), 3))} leaves {show_shutter(room)}"
        + (f"; ISO rises by {in_stops(rise)}." if rise >= 0.05 else "."),
        offer=lambda: fixes,
        from_s=float(program.at_s[np.argmax(short)]),
        to_s=float(program.at_s[program.frame_count - 1 - np.argmax(short[::-1])]),
    )


@finding("light", "exposure.manual-limit", source="the body's own figure")
def manual_shutter_limit(program: Program) -> Finding | None:
    """The body cannot hold its shutter as long as the sentence says."""
    body, light = program.shot.body, program.shot.light
    held_open = body.bulb and light.school in ("continuous", "stepped")
    limit = body.manual_shutter_max_s
    # Where the body exposes by itself, its automatic limit counts and not this one.
    if held_open or light.automatic or program.shot.live or light.shutter_s <= limit:
        return None
    if not (program.exposures.wanted_shutter_s > float(limit) * 1.001).any():
        return None
    lost = float(np.log2(float(light.shutter_s / limit)))
    iso = next((one for one in ISOS if true_iso(one) >= true_iso(light.iso) * 2**lost * 0.99), body.iso_max)
    brighter = None
    if light.school == "fixed" and light.iso < body.iso_max:
        iso = min(iso, body.iso_max)
        brighter = Fix(
            id="shorter-and-iso",
            label=f"{show_shutter(float(limit))} at ISO {iso}",
            price=f"{in_stops(np.log2(iso / light.iso))} more grain",
            shot=program.shot.with_light(shutter_s=limit, iso=iso),
        )
    plain = Fix(
        id="shorter-shutter",
        label=f"Up to {show_shutter(float(limit))}",
        price="the frames stay as they are; the sentence says what happens",
        shot=program.shot.with_light(shutter_s=limit),
    )
    return Finding(
        severity="fix" if light.school == "fixed" else "mind",
        turns=f"Up to {show_shutter(float(limit))} nothing is said.",
        sentence=f"{body.name} holds its shutter for {show_shutter(float(limit))} at most in manual.",
        figures=f"{show_shutter(float(light.shutter_s))} are wanted: {in_stops(lost)} less light a frame.",
        offer=lambda: usable(brighter, plain),
    )


def _longest_stretch(bad: NDArray[np.bool_]) -> tuple[int, int]:
    """First and last index of the longest run of true values."""
    padded = np.concatenate([[False], bad, [False]])
    edges = np.flatnonzero(padded[1:] != padded[:-1])
    begins, ends = edges[::2], edges[1::2]
    longest = int(np.argmax(ends - begins))
    return int(begins[longest]), int(ends[longest]) - 1


def _spoken(seconds: float) -> str:
    """A length of time to the minute, once it is longer than ten."""
    return duration(round(seconds / 60) * 60 if seconds >= 600 else round(seconds))


def _darkness(program: Program) -> float:
    """By how many stops, over all frames, the bad ones are too dark."""
    error = program.exposures.error_stops
    return float(-error[error <= -BAD_STOPS].sum())


def _keeps_raw(program: Program) -> bool:
    shot = program.shot
    return shot.keeps != "JPEG" and not shot.live and shot.fires != "own lapse film"


def _brightness(program: Program) -> float:
    """By how many stops, over all frames, the bad ones are too bright."""
    error = program.exposures.error_stops
    return float(error[error >= BAD_STOPS].sum())


@finding(
    "light",
    "exposure.too-dark",
    source="APEX (ISO 2720, Exif 2.3 annex); scene after the Explanatory Supplement (1992), 9.4, from memory; "
    "raw lifts 2 stops: common practice",
)
def frames_too_dark(program: Program) -> Finding | None:
    """Part of the shot comes out dark because shutter and ISO stand at their limits."""
    error = program.exposures.error_stops
    bad = error <= -BAD_STOPS
    if not bad.any():
        return None
    first, last = _longest_stretch(bad)
    worst = -float(error[first : last + 1].min())
    clipped = int((error < -program.shot.body.clips_under_stops).sum())
    interval = float(program.timing.interval_s)
    exposures, light = program.exposures, program.shot.light
    at = first + int(np.argmin(error[first : last + 1]))
    # Raw may be lifted by so much; black may not.
    lifted = _keeps_raw(program) and worst <= RAW_LIFTS_STOPS and not clipped
    return Finding(
        severity="stop" if clipped else "mind" if lifted else "fix",
        sentence=f"The darkest {_spoken((last - first + 1) * interval)} come out {in_stops(worst)} short.",
        figures=f"Shutter stands at {show_shutter(float(exposures.shutter_s[at]))}, "
        f"ISO at {marked_iso(float(exposures.iso[at]))}, from {program.local(float(program.at_s[first])):%H:%M} "
        f"to {program.local(float(program.at_s[last])):%H:%M}"
        + (
            f"; {count(clipped, 'frame')} will be black."
            if clipped
            else "; raw can be lifted by that."
            if lifted
            else "."
        ),
        turns=f"From {in_stops(BAD_STOPS)} short on; {in_stops(worst - BAD_STOPS)} more light in the worst frame, and "
        "nothing is said.",
        offer=lambda: helping(
            program,
            _darkness,
            follow_the_light(program, True) if light.school == "fixed" else open_iso(program, worst, bad),
            open_aperture(program, worst),
            darker_night(program),
            None if light.school == "fixed" else longer_shutter(program, worst),
            in_the_light(program),
            less_slowed(program, worst),
        ),
        from_s=float(program.at_s[first]),
        to_s=float(program.at_s[last]),
    )


@finding(
    "light",
    "exposure.too-bright",
    source="APEX (ISO 2720, Exif 2.3 annex); scene after the Explanatory Supplement (1992), 9.4, from memory",
)
def frames_too_bright(program: Program) -> Finding | None:
    """Part of the shot comes out bright: the shutter cannot be shorter, or the exposure is held."""
    error = program.exposures.error_stops
    bad = error >= BAD_STOPS
    if not bad.any():
        return None
    first, last = _longest_stretch(bad)
    worst = float(error[first : last + 1].max())
    clipped = int((error > program.shot.body.clips_over_stops).sum())
    fixes = helping(
        program,
        _brightness,
        follow_the_light(program, False) if program.shot.light.school == "fixed" else None,
        lower_iso(program, worst),
        close_aperture(program, worst),
        filter_on(program, worst, bad),
    )
    return Finding(
        severity="stop" if clipped > program.frame_count / 20 else "fix",
        turns=f"Up to {in_stops(BAD_STOPS)} over nothing is said; {in_stops(worst - BAD_STOPS)} less light.",
        sentence=f"The brightest {_spoken((last - first + 1) * float(program.timing.interval_s))} "
        f"come out {in_stops(worst)} over.",
        figures=f"From {program.local(float(program.at_s[first])):%H:%M} to "
        f"{program.local(float(program.at_s[last])):%H:%M}, "
        f"at {show_shutter(float(program.exposures.shutter_s[first]))}"
        + (f"; {count(clipped, 'frame')} will be white." if clipped else ".")
        + ("" if fixes else f" A filter of {ceil(worst)} stops would take it away."),
        offer=lambda: fixes,
        from_s=float(program.at_s[first]),
        to_s=float(program.at_s[last]),
    )
