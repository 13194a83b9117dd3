"""Will the card take it, and will anybody know?"""

from fractions import Fraction

import numpy as np

from revani.core.edit.retime import price, retimed
from revani.core.feed.card import (
    FAT32_BYTES,
    RESERVE,
    chapter_bytes,
    chapter_count,
    chapter_duration_s,
    promised_mb_s,
    wraps_at,
)
from revani.core.feed.heat import inside_c
from revani.core.findings.finding import Finding, Fix, finding, usable
from revani.core.light.firing import interval_over_s
from revani.core.program.compiled import Program, card_capacity_bytes
from revani.core.quantities.measures import TEMPERATURE
from revani.core.quantities.units import count, decimals, duration, gigabytes

# The estimate may be off by so much; beyond it is more than a caution (memory).
_SURE_C = 12.0


def fewer_frames(program: Program, frames: int, label: str) -> tuple[Fix | None, Fix | None]:
    """Two ways to take at most so many frames: stop sooner, or take them further apart."""
    timing, shot = program.timing, program.shot
    if frames < 1:
        return None, None
    sooner = retimed(
        shot, fps=timing.fps, interval_s=timing.interval_s, frame_count=frames, playback_s=None, event_s=None
    )
    first = Fix(id="stop-sooner", label=label, price=price(timing, sooner), shot=sooner)
    if shot.pace is not None or shot.live:
        return first, None
    wider_s = interval_over_s(shot, timing.event_s / frames)
    if wider_s < timing.event_s / frames:
        return first, None
    wider = retimed(shot, fps=timing.fps, interval_s=wider_s, event_s=timing.event_s, frame_count=None, playback_s=None)
    return first, Fix(id="further-apart", label="Further apart, same hours", price=price(timing, wider), shot=wider)


@finding("feed", "feed.card-small", source="arithmetic; a tenth is kept free: common practice")
def card_too_small(program: Program) -> Finding | None:
    """What is written does not fit on the card, or leaves less than its reserve."""
    kit, n, live = program.shot.kit, program.frame_count, program.shot.live
    # What the program writes: frames, or a stream that grows with every picture of the film.
    written = program.card_bytes
    capacity = card_capacity_bytes(program.shot)
    kept = int((written <= capacity * float(1 - RESERVE)).sum())
    if kept == n:
        return None
    whole = int((written <= capacity).sum())
    full = whole < n
    sooner, wider = fewer_frames(program, kept, "Stop while the card has room")
    at = f"{program.local(float(program.at_s[min(whole, n - 1)])):%H:%M}"
    per_frame = float(written[0])
    what = (
        f"{duration(program.timing.event_s)} at {decimals(program.shot.body.film_mbps, 0)} Mbit/s"
        if live
        else f"{count(n, 'frame')} of {gigabytes(per_frame)}"
    )
    fits = duration(round(whole * float(program.timing.interval_s))) if live else f"{whole:,}"
    return Finding(
        severity="fix" if full else "mind",
        turns=f"It is quiet while {float(RESERVE):.0%} stay free: {gigabytes(capacity * float(1 - RESERVE))} of "
        f"{gigabytes(float(capacity))}.",
        sentence=f"{kit.card.name} is full at {at}." if full else f"{kit.card.name} keeps under a tenth free.",
        figures=f"{what} are {gigabytes(float(written[-1]))}; {fits} fit.",
        offer=lambda: usable(sooner, wider),
        from_s=float(program.at_s[whole]) if full else None,
        to_s=program.end_s if full else None,
    )


@finding("feed", "feed.card-slow", "feed.card-class", source="arithmetic; SD Association, speed classes")
def card_too_slow_for_the_film(program: Program) -> Finding | None:
    """A film at live speed is written as it comes; a card that is slower than its bit rate breaks it off."""
    card, needs = program.shot.kit.card, program.shot.body.film_mbps / 8
    sure = promised_mb_s(card)
    if not program.shot.live or needs <= sure:
        return None
    stream = f"{decimals(program.shot.body.film_mbps, 0)} Mbit/s are {decimals(needs, 1)} MB/s"
    if needs > card.write_mb_s:
        return Finding(
            severity="stop",
            turns=f"From {decimals(needs, 1)} MB/s on; {decimals(needs - card.write_mb_s, 1)} are missing.",
            sentence=f"{card.name} is too slow for this film.",
            figures=f"{stream}; it writes {decimals(card.write_mb_s, 1)} MB/s. The recording breaks off after "
            "seconds: take a faster card.",
        )
    return Finding(
        id="feed.card-class",
        severity="mind",
        turns="It is quiet with a class that promises as much as the film wants.",
        sentence=f"{card.name} is not sure to be fast enough for this film.",
        figures=f"{stream}; its class, {card.speed_class}, promises {decimals(sure, 0)} MB/s, although "
        f"{decimals(card.write_mb_s, 1)} MB/s were measured. Full and warm cards write slower.",
    )


@finding("feed", "feed.counter", source="arithmetic; names of four digits: DCF, JEITA CP-3461 (memory)")
def counter_begins_anew(program: Program) -> Finding | None:
    """The body's counter passes 9999 within the shot, and names begin anew."""
    shot = program.shot
    before = None if shot.makes_film else wraps_at(shot.kit.body.next_number, program.frame_count * shot.take.brackets)
    if before is None:
        return None
    at = min(before // shot.take.brackets, program.frame_count - 1)
    return Finding(
        severity="mind",
        turns=f"Quiet for {before:,} frames and fewer.",
        sentence=f"After 9999 the names of frames begin anew, at {program.local(float(program.at_s[at])):%H:%M}.",
        figures=f"The next is {shot.kit.body.next_number:04d}, so that {count(before, 'name')} are left. Sort by the "
        "time of taking, not by name, or set the counter back before it begins.",
        from_s=float(program.at_s[at]),
        to_s=program.end_s,
    )


@finding("feed", "feed.heat", source="air, sun and its own power; memory")
def it_gets_too_hot(program: Program) -> Finding | None:
    """A body that records for long in the sun gets so hot that it stops itself."""
    shot, body = program.shot, program.shot.body
    power = program.drains[0][0].watts
    warm = inside_c(program.temperature_c, program.sun_altitude_deg, power, body.heats_c_per_w, body.sealed)
    hot = warm >= body.stops_at_c
    if not hot.any():
        return None
    first = int(np.argmax(hot))
    most = float(warm.max())
    return Finding(
        severity="fix" if most >= body.stops_at_c + _SURE_C else "mind",
        turns=f"Under {TEMPERATURE.show(body.stops_at_c, 0)} inside nothing is said; here it comes to "
        f"{TEMPERATURE.show(most, 0)}.",
        sentence=f"{body.name} may get too hot and stop from {program.local(float(program.at_s[first])):%H:%M} on.",
        figures=f"Air {TEMPERATURE.show(float(program.temperature_c[first]), 0)}, the sun "
        f"{decimals(float(program.sun_altitude_deg[first]), 0)}° up, {decimals(float(power[first]), 1)} W of its own"
        f"{', and no air through a sealed case' if body.sealed else ''}. Shade, radios and screen off, and pauses "
        f"keep it cooler.{' Film is recorded all the time.' if shot.live else ''}",
        from_s=float(program.at_s[first]),
        to_s=program.end_s,
    )


@finding("feed", "feed.no-sign", source="the body's own figure; common practice")
def nobody_knows(program: Program) -> Finding | None:
    """The body does not say whether it is really taking frames."""
    body = program.shot.body
    if body.reports_recording:
        return None
    return Finding(
        severity="mind",
        turns="Quiet with a body that reports that it records, as its own figure under Kit says.",
        sentence=f"{body.name} does not say whether it really records.",
        figures="After the first frames, look at its card or its screen before you leave; "
        "a controller cannot know that a picture was kept.",
    )


@finding("feed", "feed.chapters", source="arithmetic: bit rate, chapter size; large or small is a matter of schools")
def film_in_chapters(program: Program) -> Finding | None:
    """The body, or the card's file system, ends a file at a size, and begins the next."""
    shot, mode, card = program.shot, program.shot.recording, program.shot.kit.card
    size, whole = chapter_bytes(card, mode), float(program.card_bytes[-1])
    if size is None or not shot.makes_film or whole <= size:
        return None
    by = mode.name if mode.chapter_gb is not None and size < FAT32_BYTES else f"{card.name}, which is FAT32,"
    rate = Fraction(shot.body.film_mbps).limit_denominator(1000)
    each_s = chapter_duration_s(rate, size)
    length = program.timing.event_s if shot.live else program.timing.playback_s
    steadied = shot.take.stabilising == "afterwards" and shot.live
    wants = "what stabilises afterwards wants them joined" if steadied else "join them before anything else is done"
    in_the_body = Fix(
        id="steady-in-the-body", label="Stabilise in the body", price=f"{mode.crop:.0%} of the picture's width",
        shot=shot.with_take(stabilising="on"),
    )  # fmt: skip
    return Finding(
        severity="fix" if steadied else "mind",
        offer=lambda: usable(in_the_body if steadied and mode.crop else None),
        turns=f"Up to {duration(round(float(each_s)))} of film nothing is said.",
        sentence=f"The film comes in {count(chapter_count(length, each_s), 'file')}.",
        figures=f"{by} ends a file at {gigabytes(size)}, {duration(round(float(each_s)))}. "
        f"Large files suit later tools, small ones play in the camera; {wants}.",
    )
