"""Will the frames be exposed as wanted?"""

from collections.abc import Callable
from dataclasses import replace
from fractions import Fraction
from math import ceil, floor

import numpy as np
from numpy.typing import NDArray

from revani.core.documents import FIRST_YEAR, LAST_YEAR, ClockStart, InstantStart, Light, Shot, Start, SunStart
from revani.core.edit.retime import price, retimed
from revani.core.findings.finding import Finding, Fix, finding, usable
from revani.core.light.dials import APERTURES, ISOS, marked_iso, show_shutter, true_aperture, true_iso
from revani.core.light.enough import hours_of_light
from revani.core.light.exposing import USUAL_NIGHT_STOPS, expose
from revani.core.light.firing import interval_over_s, recording_rates
from revani.core.program.compiled import Program, compile_shot
from revani.core.quantities.refusal import Refusal
from revani.core.quantities.units import count, decimals, duration, in_stops, plain_rate
from revani.core.sky.sun_and_moon import sun_events_of
from revani.core.timing.law import budget_s
from revani.core.timing.start import next_s

# From one stop on a frame is badly exposed.
BAD_STOPS = 1.0
# By how much a raw frame that is short of light may be lifted (common practice).
RAW_LIFTS_STOPS = 2.0
# The longest that a document can hold.
LONGEST_SHUTTER_S = Fraction(7_200)


def lit(shot: Shot, **change: object) -> Shot:
    """The shot with other light settings."""
    light = Light.model_validate(shot.light.model_dump() | change)
    return shot.model_copy(update={"light": light})


def helping(
    program: Program, amount: Callable[[Program], float], *fixes: Fix | None, room_helps: bool = False
) -> tuple[Fix, ...]:
    """The fixes that can be planned, and that make what is amiss clearly less, of a frame in the mean.

    Where `room_helps`, a longer interval mends it whatever the settings are, and is not tried out.
    """
    now = amount(program) / program.frame_count

    def left(shot: Shot) -> float:
        try:
            changed = _exposed(program, shot)
        except Refusal:
            return now
        return amount(changed) / changed.frame_count

    return tuple(
        fix
        for fix in usable(*fixes)
        if (room_helps and fix.shot.timing != program.shot.timing) or left(fix.shot) < now * 0.98
    )


def _exposed(program: Program, shot: Shot) -> Program:
    """The program of a shot with other light; only exposed anew where nothing but settings have changed."""
    old, new = program.shot.light, shot.light
    same_light = old.filters == new.filters and old.filters_off == new.filters_off
    old_time, new_time = ((one.start, one.date, one.timing) for one in (program.shot, shot))
    if same_light and old_time == new_time and old.noise_reduction == new.noise_reduction:
        return replace(program, shot=shot, exposures=expose(shot, program.light_on))
    return compile_shot(shot)


def _roomier(program: Program, shutter_s: Fraction, label: str) -> Fix | None:
    """A longer interval over the same hours, in which a shutter fits."""
    body, timing = program.shot.body, program.timing
    interval = interval_over_s(program.shot, budget_s(shutter_s, body.overhead_s, program.shot.held_times))
    if program.shot.pace is not None or not timing.interval_s < interval <= timing.event_s:
        return None
    light = program.shot.light
    wanted = light.shutter_s if light.automatic else max(shutter_s, light.shutter_s)
    shot = retimed(
        lit(program.shot, shutter_s=wanted), fps=timing.fps,
        interval_s=interval, event_s=timing.event_s, frame_count=None, playback_s=None,
    )  # fmt: skip
    return Fix(id="longer-interval", label=label.format(duration(interval)), price=price(timing, shot), shot=shot)


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
        _roomier(program, longest, "A frame every {}"),
        Fix(
            id="shutter-stops",
            label=f"Let the shutter stop at {show_shutter(float(stay))}",
            price="the frames stay as they are; the sentence says what happens",
            shot=lit(program.shot, shutter_s=stay),
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
            shot=lit(program.shot, shutter_s=limit, iso=iso),
        )
    plain = Fix(
        id="shorter-shutter",
        label=f"Up to {show_shutter(float(limit))}",
        price="the frames stay as they are; the sentence says what happens",
        shot=lit(program.shot, shutter_s=limit),
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
            _follow_the_light(program, True) if light.school == "fixed" else _open_iso(program, worst, bad),
            _open_aperture(program, worst),
            _darker_night(program),
            None if light.school == "fixed" else _longer_shutter(program, worst),
            _in_the_light(program),
            _less_slowed(program, worst),
        ),
        from_s=float(program.at_s[first]),
        to_s=float(program.at_s[last]),
    )


def _darker_night(program: Program) -> Fix | None:
    """A night that looks like one: darker than a meter would have it."""
    light = program.shot.light
    if light.night_stops <= USUAL_NIGHT_STOPS:
        return None
    return Fix(
        id="darker-night",
        label="Let the night be dark",
        price=f"{in_stops(-USUAL_NIGHT_STOPS)} under the meter once the sun is under −12°",
        shot=lit(program.shot, night_stops=USUAL_NIGHT_STOPS),
    )


def _in_the_light(program: Program) -> Fix | None:
    """A film begun when there is light enough for its rate: the nearest hours that hold all of it."""
    if not program.shot.live:
        return None
    length_s = float(program.timing.event_s)
    starts = [
        min(max(program.start_s, one.from_s), one.to_s - length_s)
        for one in hours_of_light(program.shot, program.timing, program.sky)
        if one.to_s - one.from_s > length_s + 120
    ]
    if not starts:
        return None
    at_s = min(starts, key=lambda one: abs(one - program.start_s))
    whole = program.local(-(-at_s // 60) * 60)
    if not FIRST_YEAR <= whole.year <= LAST_YEAR:
        return None
    return Fix(
        id="in-the-light",
        label=f"Start at {whole:%H:%M}",
        price=f"light enough for {plain_rate(1 / program.timing.interval_s)} fps; "
        f"{duration(abs(round((whole.timestamp() - program.start_s) / 60) * 60))} "
        f"{'later' if whole.timestamp() > program.start_s else 'sooner'}",
        shot=program.shot.model_copy(update={"date": whole.date(), "start": ClockStart(time=f"{whole:%H:%M}")}),
    )


def _less_slowed(program: Program, stops: float) -> Fix | None:
    """A film recorded at a lower rate, whose pictures are open for longer."""
    shot, timing = program.shot, program.timing
    now = 1 / timing.interval_s
    lower = [rate for rate in recording_rates(shot, timing.fps) if rate < now]
    if not shot.live or not lower:
        return None
    rate = next((one for one in reversed(lower) if float(np.log2(float(now / one))) >= stops), lower[0])
    gain = float(np.log2(float(now / rate)))
    # A shutter that is held goes with the rate, as its angle stays.
    slower = retimed(shot, fps=timing.fps, interval_s=1 / rate, event_s=timing.event_s, frame_count=None,
                     playback_s=None)  # fmt: skip
    return Fix(
        id="less-slowed",
        label=f"Record at {plain_rate(rate)} fps",
        price=f"{in_stops(gain)} more light; slowed {decimals(float(rate / timing.fps), 1)} ×",
        shot=lit(slower, shutter_s=shot.light.shutter_s * now / rate),
    )


def _follow_the_light(program: Program, brighter: bool) -> Fix | None:
    """An exposure a frame, where that reaches further than the held one does."""
    body, light = program.shot.body, program.shot.light
    room = Fraction(floor(float(program.shutter_room_s.min()) * 10), 10)
    longest = max(min(room, Fraction(30)), Fraction(1, 10))
    if program.shot.live:
        longest = program.timing.interval_s
    ceiling = min(body.iso_max, max(3_200, light.iso))
    if brighter and longest * ceiling <= light.shutter_s * light.iso:
        return None
    return Fix(
        id="follow-the-light",
        label="Let the shutter follow the light",
        price=f"every frame has its own exposure, up to {show_shutter(float(longest))} and ISO {ceiling}",
        shot=lit(
            program.shot,
            school="continuous",
            shutter_s=longest,
            iso=body.iso_min,
            iso_ceiling=ceiling,
            aperture_open=None,
        ),
    )


def _open_iso(program: Program, stops: float, bad: NDArray[np.bool_]) -> Fix | None:
    """A higher ISO: the ceiling of what may rise, or the ISO itself where that is held."""
    light, body = program.shot.light, program.shot.body
    held = light.school == "aperture priority"
    now = light.iso if held else light.iso_ceiling
    wanted = true_iso(now) * 2**stops
    iso = next((iso for iso in ISOS if true_iso(iso) >= wanted * 0.99 and iso <= body.iso_max), body.iso_max)
    if iso <= now:
        return None
    grain = float(np.log2(iso / now))
    return Fix(
        id="more-iso",
        label=f"Hold ISO {iso}" if held else f"Open ISO to {iso}",
        price=f"{in_stops(grain)} more grain in {count(int(bad.sum()), 'frame')}",
        shot=lit(program.shot, iso=iso, iso_ceiling=max(iso, light.iso_ceiling))
        if held
        else lit(program.shot, iso_ceiling=iso),
    )


def _open_aperture(program: Program, stops: float) -> Fix | None:
    light, lens = program.shot.light, program.shot.kit.lens
    wanted = true_aperture(light.aperture) / 2 ** (stops / 2)
    widest = lens.widest_at(program.shot.focal_length_mm)
    choices = [one for one in APERTURES if widest <= one < light.aperture]
    # Where the body drives the aperture it has opened it already.
    if not choices or (light.school == "automatic" and lens.electronic_aperture):
        return None
    aperture = next((one for one in reversed(choices) if true_aperture(one) <= wanted * 1.01), choices[0])
    gain = 2 * float(np.log2(true_aperture(light.aperture) / true_aperture(aperture)))
    return Fix(
        id="open-aperture",
        label=f"Open to f/{aperture:g}",
        price=f"{in_stops(gain)}; less is sharp in depth",
        shot=lit(program.shot, aperture=aperture, aperture_open=_no_wider(light, aperture)),
    )


def _no_wider(light: Light, aperture: float) -> float | None:
    """What a ramp opens to, where it begins at an aperture."""
    return None if light.aperture_open is None else min(light.aperture_open, aperture)


def _longer_shutter(program: Program, stops: float) -> Fix | None:
    """A longer shutter: of the ramp, up to what the body can hold, or of a body that exposes by itself."""
    body, light = program.shot.body, program.shot.light
    now = float(program.exposures.shutter_s.max())
    longest = Fraction(ceil(now * 2**stops))
    if light.automatic:
        longest = min(longest, body.automatic_shutter_max_s)
        if float(longest) <= now * 1.05:
            return None
        # It takes by itself what the interval leaves.
        return _roomier(program, longest, "A frame every {}, with a longer shutter")
    if not body.bulb:
        longest = min(longest, body.manual_shutter_max_s)
    if longest <= light.shutter_s or longest > 600:
        return None
    if float(longest) <= float(program.shutter_room_s.min()):
        return Fix(
            id="longer-shutter",
            label=f"Let the shutter go to {show_shutter(float(longest))}",
            price="stars trail further in each frame",
            shot=lit(program.shot, shutter_s=longest),
        )
    return _roomier(program, longest, "A frame every {}, with a longer shutter")


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
        _follow_the_light(program, False) if program.shot.light.school == "fixed" else None,
        _lower_iso(program, worst),
        _close_aperture(program, worst),
        _filter_on(program, worst, bad),
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


def _lower_iso(program: Program, stops: float) -> Fix | None:
    light, body = program.shot.light, program.shot.body
    if light.iso <= body.iso_min:
        return None
    wanted = true_iso(light.iso) / 2**stops
    lower = [iso for iso in ISOS if body.iso_min <= iso < light.iso]
    iso = next((one for one in reversed(lower) if true_iso(one) <= wanted * 1.01), body.iso_min)
    return Fix(
        id="less-iso",
        label=f"{'Hold' if light.school in ('fixed', 'aperture priority') else 'Begin at'} ISO {iso}",
        price=f"{in_stops(float(np.log2(light.iso / iso)))} less light is wanted, and less grain",
        shot=lit(program.shot, iso=iso),
    )


def _close_aperture(program: Program, stops: float) -> Fix | None:
    """A narrower aperture: what is needed, or as far as the lens goes."""
    light, lens = program.shot.light, program.shot.kit.lens
    if light.school == "automatic" and lens.electronic_aperture:
        return None
    narrowest = lens.narrowest_at(program.shot.focal_length_mm)
    narrower = [one for one in APERTURES if light.aperture < one <= narrowest]
    if not narrower:
        return None
    wanted = true_aperture(light.aperture) * 2 ** (stops / 2)
    aperture = next((one for one in narrower if true_aperture(one) >= wanted * 0.99), narrower[-1])
    lost = 2 * float(np.log2(true_aperture(aperture) / true_aperture(light.aperture)))
    return Fix(
        id="close-aperture",
        label=f"Close to f/{aperture:g}",
        price=f"the dark end loses {in_stops(lost)} too",
        shot=lit(program.shot, aperture=aperture),
    )


def _filter_on(program: Program, stops: float, bad: NDArray[np.bool_]) -> Fix | None:
    """A filter of the kit from the start, off again once it is not needed."""
    shot = program.shot
    if shot.light.filters or not shot.kit.filters or not bad[0]:
        return None
    by_stops = sorted(shot.kit.filters, key=lambda one: one.stops)
    one = next((one for one in by_stops if one.stops >= stops - 0.5), by_stops[-1])
    last = program.frame_count - 1 - int(np.argmax(bad[::-1]))
    off = None if last == program.frame_count - 1 else moment_at(program, float(program.at_s[last + 1]))
    return Fix(
        id="filter-on",
        label=f"Begin with {one.name}",
        price=f"{in_stops(one.stops)}"
        + (f"; off again at {program.local(float(program.at_s[last + 1])):%H:%M}" if off else "; it stays on"),
        shot=lit(shot, filters=[one.id], filters_off=off.model_dump() if off else None),
    )


def moment_at(program: Program, at_s: float) -> Start:
    """An instant of the shot by what the sun does that evening or morning, else by the clock, to the minute."""
    place = program.shot.place
    events = sun_events_of(place, program.local(program.start_s).date())
    for event in ("sunset", "civil dusk", "sunrise"):
        base = events[event]
        if base is not None and abs(offset := round((at_s - base) / 60) * 60) <= 86_400:
            moment = SunStart.model_validate({"event": event, "offset_s": offset})
            if abs(next_s(moment, place, program.start_s, "") - at_s) <= 60:
                return moment
    return InstantStart(epoch_s=round(at_s))
