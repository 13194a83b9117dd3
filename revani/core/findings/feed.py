"""Will battery and card last, and will anybody know?"""

from fractions import Fraction
from math import ceil, floor

import numpy as np

from revani.core.edit.retime import price, retimed
from revani.core.edit.slower import milder
from revani.core.feed.battery import MARGIN
from revani.core.feed.battery import cold_factor as cold
from revani.core.feed.card import RESERVE, chapter_count, chapter_duration_s
from revani.core.findings.finding import Finding, Fix, finding, usable
from revani.core.light.firing import interval_over_s
from revani.core.program.compiled import Program, card_capacity_bytes
from revani.core.quantities.measures import TEMPERATURE
from revani.core.quantities.units import count, decimals, duration, gigabytes


def _fewer_frames(program: Program, frames: int, label: str) -> tuple[Fix | None, Fix | None]:
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
    sooner, wider = _fewer_frames(program, kept, "Stop while the card has room")
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


@finding(
    "feed", "feed.battery-short", source="arithmetic; what cold leaves of a battery, and a margin of a fifth: memory"
)
def battery_too_short(program: Program) -> Finding | None:
    """The battery ends before the shot does, or with less than the margin that weather takes."""
    left = float(program.battery_left[-1])
    if left >= MARGIN:
        return None
    empty = left < 0
    body = program.shot.body
    enough = program.battery_left >= MARGIN
    frames = int(enough.sum())
    ends = int(np.argmax(program.battery_left < 0)) if empty else program.frame_count - 1
    spare = ceil((1 - left) / (1 - MARGIN)) - 1
    clock = f"{program.local(float(program.at_s[ends])):%H:%M}"
    coldest_c = float(program.temperature_c.min())
    chill = float(cold(coldest_c))
    sooner, _ = _fewer_frames(program, frames, "Stop with the margin")
    wider = _wider_for_battery(program)
    return Finding(
        severity="fix" if empty else "mind",
        turns=f"It is quiet while {MARGIN:.0%} are left at the end; here {left:.0%} are.",
        sentence=f"The battery of {body.name} ends at {clock}."
        if empty
        else "The battery lasts, but without its margin.",
        figures=f"{decimals(body.battery_wh, 1)} Wh give {chill:.0%} at {TEMPERATURE.show(coldest_c, 0)}; "
        + (
            f"{spare} more would carry it to the end."
            if empty
            else f"{left:.0%} is left, and {MARGIN:.0%} is what cold and age may take."
        ),
        offer=lambda: usable(sooner, wider),
        from_s=float(program.at_s[ends]) if empty else None,
        to_s=program.end_s if empty else None,
    )


def _wider_for_battery(program: Program) -> Fix | None:
    """A longer interval over the same hours, where the frames and not the waiting empty the battery."""
    body, timing, shot = program.shot.body, program.timing, program.shot
    used_j = float(1 - program.battery_left[-1])
    whole_j = float(body.idle_w) * float(timing.event_s) + body.frame_j * timing.frame_count
    allowed_j = whole_j / used_j * (1 - MARGIN)
    for_frames = allowed_j - body.idle_w * float(timing.event_s)
    frames = floor(for_frames / body.frame_j) if body.frame_j else 0
    if shot.pace is not None or shot.live or not timing.frame_count / 4 <= frames < timing.frame_count:
        return None
    interval = interval_over_s(shot, Fraction(timing.event_s, frames))
    if interval <= timing.interval_s:
        return None
    wider = retimed(
        shot, fps=timing.fps, interval_s=interval, event_s=timing.event_s, frame_count=None, playback_s=None
    )
    return Fix(id="further-apart", label="Further apart, same hours", price=price(timing, wider), shot=wider)


@finding(
    "feed", "feed.mover-battery", source="arithmetic; what cold leaves of a battery, and a margin of a fifth: memory"
)
def mover_battery_too_short(program: Program) -> Finding | None:
    """A mover's own battery ends before the shot does, or with less than the margin."""
    shot, motion, event_s = program.shot, program.motion, float(program.timing.event_s)
    supply = min((one for one in program.supplies if one.carries), key=lambda one: float(one.left[-1]), default=None)
    if supply is None or supply.left[-1] >= MARGIN:
        return None
    mover = next(one for one in shot.kit.movers if one.name == supply.name)
    moving_s = float(motion.moving_s([axis.name for axis in mover.axes], event_s)) if motion else 0.0
    ends, coldest_c = supply.ends_at, float(program.temperature_c.min())
    needs_wh = (1 - float(supply.left[-1])) * supply.gives_wh
    stepwise = Fix(
        id="stepwise", label="Shoot, move, settle",
        price="it moves between frames alone; travel and settling are taken from the shutter",
        shot=shot.with_move(kind="stepwise"),
    ) if motion and motion.path.move.kind == "continuous" else None  # fmt: skip
    sooner, _ = _fewer_frames(program, int((supply.left >= MARGIN).sum()), "Stop with the margin")
    return Finding(
        severity="mind" if ends is None else "fix",
        turns=f"It is quiet while {MARGIN:.0%} are left at the end; here {max(float(supply.left[-1]), 0):.0%} are.",
        sentence=f"The battery of {mover.name} lasts, but without its margin."
        if ends is None
        else f"The battery of {mover.name} ends at {program.local(float(program.at_s[ends])):%H:%M}.",
        figures=f"{decimals(needs_wh, 1)} Wh are drawn, {duration(round(moving_s))} moving and "
        f"{duration(round(event_s - moving_s))} holding; {decimals(float(mover.battery_wh or 0), 1)} Wh give "
        f"{float(cold(coldest_c)):.0%} at {TEMPERATURE.show(coldest_c, 0)}.",
        offer=lambda: usable(
            stepwise if stepwise and milder(stepwise.shot, _mover_draws, -float(supply.left[-1])) else None, sooner
        ),
        from_s=None if ends is None else float(program.at_s[ends]),
        to_s=None if ends is None else program.end_s,
    )


def _mover_draws(program: Program) -> float:
    """The less is left in the emptiest battery of a mover, the more."""
    return max(-float(one.left[-1]) for one in program.supplies if one.carries)


@finding("feed", "feed.card-slow", source="arithmetic: bit rate against what the card writes")
def card_too_slow_for_the_film(program: Program) -> Finding | None:
    """A film at live speed is written as it comes; a card that is slower than its bit rate breaks it off."""
    kit = program.shot.kit
    needs = program.shot.body.film_mbps / 8
    if not program.shot.live or needs <= kit.card.write_mb_s:
        return None
    return Finding(
        severity="stop",
        turns=f"From {decimals(needs, 1)} MB/s on; {decimals(needs - kit.card.write_mb_s, 1)} are missing.",
        sentence=f"{kit.card.name} is too slow for this film.",
        figures=f"{decimals(program.shot.body.film_mbps, 0)} Mbit/s are {decimals(needs, 1)} MB/s; it writes "
        f"{decimals(kit.card.write_mb_s, 1)} MB/s. The recording breaks off after seconds: take a faster card.",
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
    """The body ends a file at a size, and begins the next."""
    shot, mode = program.shot, program.shot.recording
    if mode.chapter_gb is None or not (shot.live or shot.fires == "own lapse film"):
        return None
    chapter_bytes, whole = mode.chapter_gb * 1e9, float(program.card_bytes[-1])
    if whole <= chapter_bytes:
        return None
    rate = Fraction(shot.body.film_mbps).limit_denominator(1000)
    each_s = chapter_duration_s(rate, int(chapter_bytes))
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
        figures=f"{mode.name} ends a file at {decimals(mode.chapter_gb, 1)} GB, {duration(round(float(each_s)))}. "
        f"Large files suit later tools, small ones play in the camera; {wants}.",
    )
