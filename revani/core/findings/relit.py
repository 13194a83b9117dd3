"""More light, or less: the fixes of how a shot is exposed, each with its price."""

from collections.abc import Callable
from dataclasses import replace
from fractions import Fraction
from math import ceil, floor

import numpy as np
from numpy.typing import NDArray

from revani.core.documents import FIRST_YEAR, LAST_YEAR, ClockStart, InstantStart, Light, Shot, Start, SunStart
from revani.core.edit.retime import price, retimed
from revani.core.findings.finding import Fix, usable
from revani.core.light.dials import APERTURES, ISOS, show_shutter, true_aperture, true_iso
from revani.core.light.enough import hours_of_light
from revani.core.light.exposing import USUAL_NIGHT_STOPS, expose
from revani.core.light.firing import interval_over_s, recording_rates
from revani.core.program.compiled import Program, compile_shot
from revani.core.quantities.refusal import Refusal
from revani.core.quantities.units import count, decimals, duration, in_stops, plain_rate
from revani.core.sky.sun_and_moon import sun_events_of
from revani.core.timing.law import budget_s
from revani.core.timing.start import next_s

# The longest that a document can hold.
LONGEST_SHUTTER_S = Fraction(7_200)


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


def roomier(program: Program, shutter_s: Fraction, label: str) -> Fix | None:
    """A longer interval over the same hours, in which a shutter fits."""
    body, timing = program.shot.body, program.timing
    interval = interval_over_s(program.shot, budget_s(shutter_s, body.overhead_s, program.shot.held_times))
    if program.shot.pace is not None or not timing.interval_s < interval <= timing.event_s:
        return None
    light = program.shot.light
    wanted = light.shutter_s if light.automatic else max(shutter_s, light.shutter_s)
    shot = retimed(
        program.shot.with_light(shutter_s=wanted), fps=timing.fps,
        interval_s=interval, event_s=timing.event_s, frame_count=None, playback_s=None,
    )  # fmt: skip
    return Fix(id="longer-interval", label=label.format(duration(interval)), price=price(timing, shot), shot=shot)


def darker_night(program: Program) -> Fix | None:
    """A night that looks like one: darker than a meter would have it."""
    light = program.shot.light
    if light.night_stops <= USUAL_NIGHT_STOPS:
        return None
    return Fix(
        id="darker-night",
        label="Let the night be dark",
        price=f"{in_stops(-USUAL_NIGHT_STOPS)} under the meter once the sun is under −12°",
        shot=program.shot.with_light(night_stops=USUAL_NIGHT_STOPS),
    )


def in_the_light(program: Program) -> Fix | None:
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


def less_slowed(program: Program, stops: float) -> Fix | None:
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
        shot=slower.with_light(shutter_s=shot.light.shutter_s * now / rate),
    )


def follow_the_light(program: Program, brighter: bool) -> Fix | None:
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
        shot=program.shot.with_light(
            school="continuous",
            shutter_s=longest,
            iso=body.iso_min,
            iso_ceiling=ceiling,
            aperture_open=None,
        ),
    )


def open_iso(program: Program, stops: float, bad: NDArray[np.bool_]) -> Fix | None:
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
        shot=program.shot.with_light(iso=iso, iso_ceiling=max(iso, light.iso_ceiling))
        if held
        else program.shot.with_light(iso_ceiling=iso),
    )


def open_aperture(program: Program, stops: float) -> Fix | None:
    """A wider aperture, as far as it helps and the lens goes."""
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
        shot=program.shot.with_light(aperture=aperture, aperture_open=_no_wider(light, aperture)),
    )


def _no_wider(light: Light, aperture: float) -> float | None:
    """What a ramp opens to, where it begins at an aperture."""
    return None if light.aperture_open is None else min(light.aperture_open, aperture)


def longer_shutter(program: Program, stops: float) -> Fix | None:
    """A longer shutter: of the ramp, up to what the body can hold, or of a body that exposes by itself."""
    body, light = program.shot.body, program.shot.light
    now = float(program.exposures.shutter_s.max())
    longest = Fraction(ceil(now * 2**stops))
    if light.automatic:
        longest = min(longest, body.automatic_shutter_max_s)
        if float(longest) <= now * 1.05:
            return None
        # It takes by itself what the interval leaves.
        return roomier(program, longest, "A frame every {}, with a longer shutter")
    if not body.bulb:
        longest = min(longest, body.manual_shutter_max_s)
    if longest <= light.shutter_s or longest > 600:
        return None
    if float(longest) <= float(program.shutter_room_s.min()):
        return Fix(
            id="longer-shutter",
            label=f"Let the shutter go to {show_shutter(float(longest))}",
            price="stars trail further in each frame",
            shot=program.shot.with_light(shutter_s=longest),
        )
    return roomier(program, longest, "A frame every {}, with a longer shutter")


def lower_iso(program: Program, stops: float) -> Fix | None:
    """A lower ISO, as far as it helps and the body goes."""
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
        shot=program.shot.with_light(iso=iso),
    )


def close_aperture(program: Program, stops: float) -> Fix | None:
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
        shot=program.shot.with_light(aperture=aperture),
    )


def filter_on(program: Program, stops: float, bad: NDArray[np.bool_]) -> Fix | None:
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
        shot=shot.with_light(filters=[one.id], filters_off=off.model_dump() if off else None),
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
