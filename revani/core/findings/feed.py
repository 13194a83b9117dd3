"""Will battery and card last, and will anybody know?"""

from fractions import Fraction
from math import ceil, floor

import numpy as np

from revani.core.card import RESERVE, frames_that_fit
from revani.core.energy import MARGIN
from revani.core.energy import cold_factor as cold
from revani.core.findings.finding import Finding, Fix, finding, usable
from revani.core.findings.price import price, retimed
from revani.core.measures import TEMPERATURE
from revani.core.pace import solved
from revani.core.program import Program
from revani.core.timing import ceil_to
from revani.core.units import count, decimals, duration, gigabytes


def _fewer_frames(program: Program, frames: int, label: str) -> tuple[Fix | None, Fix | None]:
    """Two ways to take at most so many frames: stop sooner, or take them further apart."""
    timing, shot = program.timing, program.shot
    if frames < 1:
        return None, None
    sooner = retimed(
        shot, fps=timing.fps, interval_s=timing.interval_s, frame_count=frames, playback_s=None, event_s=None
    )
    wider_s = ceil_to(timing.event_s / frames, shot.kit.body.controller_tick_s)
    wider = retimed(shot, fps=timing.fps, interval_s=wider_s, event_s=timing.event_s, frame_count=None, playback_s=None)
    return (
        Fix(label=label, price=price(timing, solved(sooner)), shot=sooner),
        Fix(label="Further apart, same hours", price=price(timing, solved(wider)), shot=wider),
    )


@finding
def card_too_small(program: Program) -> Finding | None:
    """The frames do not fit on the card, or leave less than its reserve."""
    kit = program.shot.kit
    whole = frames_that_fit(kit.body.bytes_per_frame, kit.card.capacity_gb)
    kept = frames_that_fit(kit.body.bytes_per_frame, kit.card.capacity_gb, RESERVE)
    if program.frame_count <= kept:
        return None
    full = program.frame_count > whole
    sooner, wider = _fewer_frames(program, kept, "Stop while the card has room")
    at = f"{program.local(float(program.at_s[min(whole, program.frame_count - 1)])):%H:%M}"
    return Finding(
        id="feed.card-small",
        severity="fix" if full else "mind",
        lens="feed",
        sentence=f"{kit.card.name} is full at {at}." if full else f"{kit.card.name} keeps under a tenth free.",
        figures=f"{count(program.frame_count, 'frame')} of {gigabytes(kit.body.bytes_per_frame)} are "
        f"{gigabytes(float(program.card_bytes[-1]))}; {whole:,} fit.",
        fixes=usable(sooner, wider),
        from_s=float(program.at_s[whole]) if full else None,
        to_s=program.end_s if full else None,
    )


@finding
def battery_too_short(program: Program) -> Finding | None:
    """The battery ends before the shot does, or with less than the margin that weather takes."""
    left = float(program.battery_left[-1])
    if left >= MARGIN:
        return None
    empty = left < 0
    body, place = program.shot.kit.body, program.shot.place
    enough = program.battery_left >= MARGIN
    frames = int(enough.sum())
    ends = int(np.argmax(program.battery_left < 0)) if empty else program.frame_count - 1
    spare = ceil((1 - left) / (1 - MARGIN)) - 1
    clock = f"{program.local(float(program.at_s[ends])):%H:%M}"
    chill = float(cold(place.temperature_c))
    sooner, _ = _fewer_frames(program, frames, "Stop with the margin")
    wider = _wider_for_battery(program)
    return Finding(
        id="feed.battery-short",
        severity="fix" if empty else "mind",
        lens="feed",
        sentence=f"The battery of {body.name} ends at {clock}."
        if empty
        else "The battery lasts, but without its margin.",
        figures=f"{decimals(body.battery_wh, 1)} Wh give {chill:.0%} at {TEMPERATURE.show(place.temperature_c, 0)}; "
        + (
            f"{spare} more would carry it to the end."
            if empty
            else f"{left:.0%} is left, and {MARGIN:.0%} is what cold and age may take."
        ),
        fixes=usable(sooner, wider),
        from_s=float(program.at_s[ends]) if empty else None,
        to_s=program.end_s if empty else None,
    )


def _wider_for_battery(program: Program) -> Fix | None:
    """A longer interval over the same hours, where the frames and not the waiting empty the battery."""
    body, timing, shot = program.shot.kit.body, program.timing, program.shot
    used_j = float(1 - program.battery_left[-1])
    whole_j = float(body.idle_w) * float(timing.event_s) + body.frame_j * timing.frame_count
    allowed_j = whole_j / used_j * (1 - MARGIN)
    for_frames = allowed_j - body.idle_w * float(timing.event_s)
    frames = floor(for_frames / body.frame_j) if body.frame_j else 0
    if not timing.frame_count / 4 <= frames < timing.frame_count:
        return None
    interval = ceil_to(Fraction(timing.event_s, frames), body.controller_tick_s)
    wider = retimed(
        shot, fps=timing.fps, interval_s=interval, event_s=timing.event_s, frame_count=None, playback_s=None
    )
    return Fix(label="Further apart, same hours", price=price(timing, solved(wider)), shot=wider)


@finding
def mover_battery_too_short(program: Program) -> Finding | None:
    """A mover's own battery ends before the shot does, or with less than the margin."""
    shot, motion, event_s = program.shot, program.motion, float(program.timing.event_s)
    for mover in shot.kit.movers:
        if mover.battery_wh is None:
            continue
        moving_s = motion.moving_s([axis.name for axis in mover.axes]) if motion else 0.0
        needs_wh = (mover.idle_w * (event_s - moving_s) + mover.moving_w * moving_s) / 3600
        chill = float(cold(shot.place.temperature_c))
        gives_wh = mover.battery_wh * chill
        if needs_wh <= gives_wh * (1 - MARGIN):
            continue
        empty = needs_wh > gives_wh
        stepwise = Fix(
            label="Shoot, move, settle",
            price="it moves between frames alone; travel and settling are taken from the shutter",
            shot=shot.with_move(kind="stepwise"),
        ) if motion and motion.path.move.kind == "continuous" else None  # fmt: skip
        return Finding(
            id="feed.mover-battery",
            severity="fix" if empty else "mind",
            lens="feed",
            sentence=f"The battery of {mover.name} ends before the shot does."
            if empty
            else f"The battery of {mover.name} lasts, but without its margin.",
            figures=f"{decimals(needs_wh, 1)} Wh are drawn, {duration(round(moving_s))} moving and "
            f"{duration(round(event_s - moving_s))} holding; {decimals(mover.battery_wh, 1)} Wh give {chill:.0%} "
            f"at {TEMPERATURE.show(shot.place.temperature_c, 0)}.",
            fixes=usable(stepwise),
        )
    return None


@finding
def card_too_slow_for_the_film(program: Program) -> Finding | None:
    """A film at live speed is written as it comes; a card that is slower than its bit rate breaks it off."""
    kit = program.shot.kit
    needs = kit.body.film_mbps / 8
    if not program.shot.live or needs <= kit.card.write_mb_s:
        return None
    return Finding(
        id="feed.card-slow",
        severity="stop",
        lens="feed",
        sentence=f"{kit.card.name} is too slow for this film.",
        figures=f"{decimals(kit.body.film_mbps, 0)} Mbit/s are {decimals(needs, 1)} MB/s; it writes "
        f"{decimals(kit.card.write_mb_s, 1)} MB/s. The recording breaks off after seconds: take a faster card.",
    )


@finding
def nobody_knows(program: Program) -> Finding | None:
    """The body does not say whether it is really taking frames."""
    body = program.shot.kit.body
    if body.reports_recording:
        return None
    return Finding(
        id="feed.no-sign",
        severity="mind",
        lens="feed",
        sentence=f"{body.name} does not say whether it really records.",
        figures="After the first frames, look at its card or its screen before you leave; "
        "a controller cannot know that a picture was kept.",
    )
