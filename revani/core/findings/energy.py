"""Will what feeds the rig last as long as it runs, and can it be connected at all?"""

from collections.abc import Callable
from fractions import Fraction
from math import ceil, floor
from uuid import UUID

import numpy as np

from revani.core.documents import Body, Load, Mover, Source, Wire
from revani.core.documents.sockets import connects
from revani.core.edit.retime import price, retimed
from revani.core.edit.slower import milder
from revani.core.feed.battery import MARGIN
from revani.core.feed.battery import cold_factor as cold
from revani.core.feed.energy import Supply
from revani.core.findings.feed import fewer_frames
from revani.core.findings.finding import Finding, Fix, finding, usable
from revani.core.light.firing import interval_over_s
from revani.core.program.compiled import Program
from revani.core.program.rigged import cells_can_be_changed, unfed
from revani.core.quantities.measures import TEMPERATURE, WATT_HOURS, WATTS
from revani.core.quantities.units import count, decimals, duration

_ENERGY = "arithmetic; what cold leaves of a battery, and a margin of a fifth: memory"


def _clock(program: Program, slot: int) -> str:
    return f"{program.local(float(program.at_s[slot])):%H:%M}"


def _piece(program: Program, supply: Supply) -> Body | Mover | Load:
    return next(one for one in program.shot.kit.fed if one.id == supply.id)


def _named(program: Program, supply: Supply) -> str:
    piece = _piece(program, supply)
    if piece.battery_wh:
        return f"The battery of {supply.name}"
    return f"What feeds {supply.name}"


def _has(program: Program, supply: Supply) -> str:
    """All that a piece of gear is fed from, and what the coldest hour leaves of it."""
    piece, kit = _piece(program, supply), program.shot.kit
    parts = [f"its own {WATT_HOURS.show(piece.battery_wh, 1)}"] if piece.battery_wh else []
    of_use = piece.id != kit.body.id or cells_can_be_changed(program.shot)
    parts += [_given(one) for one in kit.feeding(piece.id) if of_use or not one.cells]
    coldest_c = float(program.temperature_c.min())
    held = parts[0].removeprefix("its own ") if len(parts) == 1 else " and ".join(parts)
    return f"{held} give {float(cold(coldest_c)):.0%} at {TEMPERATURE.show(coldest_c, 0)}"


def _given(source: Source) -> str:
    if source.gives == "the mains":
        return source.name
    each = f"{WATT_HOURS.show(source.capacity_wh, 1)} of {source.name}"
    return f"{source.count} × {each}" if source.count > 1 else each


def _others(program: Program, supply: Supply, draws: Callable[[Program], float]) -> list[Fix]:
    """What else of the kit could feed it: power that feeds nothing else, and banks that it can be connected to."""
    kit, piece = program.shot.kit, _piece(program, supply)
    now = {one.id for one in kit.feeding(piece.id)}
    taken = {wire.source for wire in kit.wires}
    free = [one for one in kit.parts if one.is_a in ("cable", "adapter") and all(one.ends)]
    free = [one for one in free if not any(one.id in wire.by for wire in kit.wires)]
    found = []
    for source in kit.sources:
        if source.id in now or (source.cells and source.id in taken):
            continue
        by: tuple[UUID, ...] = ()
        if not source.cells:
            leads = [one for one in free if connects(source.sockets, [one.ends], piece.sockets)]
            if not leads and connects(source.sockets, [], piece.sockets) is False:
                continue
            by = (leads[0].id,) if leads else ()
        wires = (*kit.wires, Wire(source=source.id, to=piece.id, by=by))
        with_it = kit.model_copy(update={"wires": wires})
        shot = program.shot.model_copy(update={"kit": with_it})
        if milder(shot, draws, draws(program)):
            how = f"changed by hand, {duration(source.swap_s)} each" if source.cells else "plugged in before it begins"
            found.append(Fix(id=f"feed-from-{source.id}", label=f"Feed it from {source.name}", price=how, shot=shot))
    return found


def _wants(program: Program, supply: Supply) -> str:
    """What more it would take to last to the end with the margin, in watt-hours and in batteries like its own."""
    short_wh = (MARGIN - float(supply.left[-1])) / (1 - MARGIN) * supply.gives_wh
    chill = float(cold(program.temperature_c.min()))
    piece = _piece(program, supply)
    own = (piece.battery_wh or 0.0) * (piece.battery_usable if isinstance(piece, Body) else 1.0)
    more = ceil(short_wh / (own * chill)) if own else 0
    cells = f", {'a battery' if more == 1 else f'{more} batteries'} like its own," if own else ""
    until = f"{program.local(program.end_s):%H:%M}"
    return f"To last until {until} with a fifth to spare it wants {WATT_HOURS.show(short_wh, 1)} more{cells} or a bank."


def _at(supply: Supply) -> Callable[[Program], float]:
    """The less is left of a supply at the end, the more."""

    def draws(program: Program) -> float:
        return next((-float(one.left[-1]) for one in program.supplies if one.id == supply.id), -1.0)

    return draws


def _ends(program: Program, supply: Supply, offer: Callable[[], tuple[Fix | None, ...]], more: str = "") -> Finding:
    """A supply that ends before the shot does, or with less than its margin."""
    ends = supply.ends_at
    left = max(float(supply.left[-1]), 0.0)
    if ends is None:
        what = f"{_named(program, supply)} lasts, but without its margin."
        tail = f"{left:.0%} is left, and {MARGIN:.0%} is what cold and age may take."
    else:
        what = f"{_named(program, supply)} ends at {_clock(program, ends)}."
        tail = _wants(program, supply)
    return Finding(
        severity="mind" if ends is None else "fix",
        turns=f"It is quiet while {MARGIN:.0%} are left at the end; here {left:.0%} are.",
        sentence=what,
        figures=f"{_has(program, supply)}. {more}{tail[0].upper()}{tail[1:]}",
        offer=lambda: usable(*offer()),
        from_s=None if ends is None else float(program.at_s[ends]),
        to_s=None if ends is None else program.end_s,
    )


@finding("feed", "feed.battery-short", source=_ENERGY)
def battery_too_short(program: Program) -> Finding | None:
    """What the body is fed from ends before the shot does, or with less than the margin that weather takes."""
    supply = program.supplies[0]
    if supply.left[-1] >= MARGIN:
        return None
    frames = int((supply.left >= MARGIN).sum())

    def offer() -> tuple[Fix | None, ...]:
        sooner, _ = fewer_frames(program, frames, "Stop with the margin")
        others = _others(program, supply, _at(supply))
        return (*others, sooner, _wider_for_battery(program))

    return _ends(program, supply, offer)


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


@finding("feed", "feed.mover-battery", source=_ENERGY)
def mover_battery_too_short(program: Program) -> Finding | None:
    """What a mover is fed from ends before the shot does, or with less than the margin."""
    shot, motion, event_s = program.shot, program.motion, float(program.timing.event_s)
    supply = min((one for one in program.supplies if one.carries), key=lambda one: float(one.left[-1]), default=None)
    if supply is None or supply.left[-1] >= MARGIN:
        return None
    mover = next(one for one in shot.kit.movers if one.id == supply.id)
    moving_s = float(motion.moving_s([axis.name for axis in mover.axes], event_s)) if motion else 0.0
    needs_wh = (1 - float(supply.left[-1])) * supply.gives_wh
    draws = _at(supply)

    def offer() -> tuple[Fix | None, ...]:
        stepwise = Fix(
            id="stepwise", label="Shoot, move, settle",
            price="it moves between frames alone; travel and settling are taken from the shutter",
            shot=shot.with_move(kind="stepwise"),
        ) if motion and motion.path.move.kind == "continuous" else None  # fmt: skip
        if stepwise and not milder(stepwise.shot, draws, draws(program)):
            stepwise = None
        sooner, _ = fewer_frames(program, int((supply.left >= MARGIN).sum()), "Stop with the margin")
        return (*_others(program, supply, draws), stepwise, sooner)

    drawn = (
        f"{decimals(needs_wh, 1)} Wh are drawn, {duration(round(moving_s))} moving and "
        f"{duration(round(event_s - moving_s))} holding. "
    )
    return _ends(program, supply, offer, drawn)


@finding("feed", "feed.load-ends", source=_ENERGY)
def load_ends(program: Program) -> Finding | None:
    """A heater, a recorder or a lamp goes out before the shot ends."""
    beside = [one for one in program.supplies if one.role == "beside it" and one.left[-1] < MARGIN]
    if not beside:
        return None
    supply = min(beside, key=lambda one: float(one.left[-1]))
    return _ends(program, supply, lambda: tuple(_others(program, supply, _at(supply))))


@finding("feed", "feed.unfed", source="common practice, no source")
def fed_by_nothing(program: Program) -> Finding | None:
    """Something that draws energy comes along, and nothing feeds it."""
    dark = unfed(program.shot.kit)
    if not dark:
        return None
    names = [one.name for one in dark]
    piece = dark[0]
    at = Supply(piece.id, piece.name, np.zeros(1), 0.0, "beside it")
    return Finding(
        severity="fix",
        turns="It is quiet once power is wired to it, or it has a battery of its own.",
        sentence=f"{' and '.join(names)}: nothing feeds {'it' if len(names) == 1 else 'them'}.",
        figures=f"{WATTS.show(piece.draws_w, 1)} are wanted; say under Feed what it is plugged into.",
        offer=lambda: usable(*_others(program, at, lambda other: float(len(unfed(other.shot.kit))))),
    )


@finding("feed", "feed.bank-off", source="the bank's own figure; common practice, no source")
def bank_switches_off(program: Program) -> Finding | None:
    """A power bank takes a small load for none, and switches itself off."""
    off = next((one for one in program.supplies if one.off_from is not None), None)
    if off is None or off.off_from is None:
        return None
    source = next(one for one in program.shot.kit.sources if one.id == off.id)
    later = any(one.role != "feeds" and one.left[-1] < MARGIN for one in program.supplies)
    return Finding(
        severity="fix" if later else "mind",
        turns=f"From {WATTS.show(source.cut_off_w, 2)} on it stays awake.",
        sentence=f"{source.name} switches itself off at {_clock(program, off.off_from)}.",
        figures=f"Less than {WATTS.show(source.cut_off_w, 2)} are asked of it then, which it takes for nothing; what "
        f"it fed goes on from its own battery{', which does not last' if later else ''}. Something that draws more, "
        "such as a heater, keeps it awake.",
        from_s=float(program.at_s[off.off_from]),
        to_s=program.end_s,
    )


@finding("feed", "feed.bank-weak", source="the bank's own figure")
def bank_too_weak(program: Program) -> Finding | None:
    """More is asked of a bank than it can give at once; the rest comes from the batteries."""
    weak = max(program.supplies, key=lambda one: one.short_w)
    if weak.short_w <= 1e-6:
        return None
    source = next(one for one in program.shot.kit.sources if one.id == weak.id)
    asked = source.most_w + weak.short_w
    return Finding(
        severity="mind",
        turns=f"Up to {WATTS.show(source.most_w, 1)} nothing is said.",
        sentence=f"{source.name} gives {WATTS.show(source.most_w, 1)}, and {WATTS.show(asked, 1)} are asked of it.",
        figures="What is missing comes from the batteries of what it feeds, which empty meanwhile; some banks switch "
        "off instead.",
    )


@finding("feed", "feed.cells-idle", source="common practice, no source")
def cells_that_cannot_be_changed(program: Program) -> Finding | None:
    """Spare cells are of no use to a body that fires or films by itself: it ends with its battery."""
    shot = program.shot
    idle = [one.name for one in shot.kit.feeding(shot.kit.body.id) if one.cells]
    if not idle or cells_can_be_changed(shot):
        return None
    what = "A film" if shot.live else "Its own timer"
    return Finding(
        severity="mind",
        turns="It is quiet where Revani, a controller or you fire each frame, or with a bank by a cable.",
        sentence=f"{' and '.join(idle)} cannot be changed while it runs.",
        figures=f"{what} ends with the battery, and what comes after a change is another recording; it is reckoned "
        "without them.",
    )


@finding("feed", "feed.cells-changed", source="arithmetic; the time of a change is the cells' own figure")
def cells_are_changed(program: Program) -> Finding | None:
    """Batteries are changed while it runs: somebody is there, and frames are lost."""
    changing = next((one for one in program.supplies if one.swaps and one.role == "records"), None)
    if changing is None:
        changing = next((one for one in program.supplies if one.swaps), None)
    if changing is None:
        return None
    clocks = [_clock(program, slot) for slot in changing.swaps]
    lost = int(program.changing.sum())
    told = ", ".join(clocks[:4]) + (" and later" if len(clocks) > 4 else "")
    return Finding(
        severity="mind",
        turns="A bank by a cable, or a larger battery, spares the change.",
        sentence=f"Somebody changes the battery of {changing.name} at {told}.",
        figures=f"{count(len(clocks), 'change')}; {count(lost, 'frame')} are lost meanwhile, and a camera that is "
        "touched moves."
        if changing.role == "records"
        else f"{count(len(clocks), 'change')}; no frame is lost.",
        from_s=float(program.at_s[changing.swaps[0]]),
        to_s=float(program.at_s[changing.swaps[-1]]),
    )


@finding("feed", "feed.cannot-connect", source="the gear's own figure: its sockets and ends")
def cannot_be_connected(program: Program) -> Finding | None:
    """A cable does not fit what it is to lead to."""
    kit = program.shot.kit
    pieces = {one.id: one for one in kit.pieces}
    wrong = []
    for wire in kit.wires:
        source, to = pieces[wire.source], pieces[wire.to]
        if isinstance(source, Source) and source.cells:
            continue
        ordered = [next(one.ends for one in kit.parts if one.id == id) for id in wire.by]
        if connects(getattr(source, "sockets", ""), ordered, getattr(to, "sockets", "")) is False:
            wrong.append((source, to, ordered))
    if not wrong:
        return None
    source, to, ordered = wrong[0]
    by = ", ".join(f"{a} to {b}" for a, b in ordered) or "no cable"
    return Finding(
        severity="stop" if isinstance(source, Load) else "fix",
        turns="It is quiet once a cable or an adapter leads from one to the other.",
        sentence=f"{source.name} cannot be connected to {to.name}.",
        figures=f"{source.name} has {getattr(source, 'sockets', '')}, {to.name} has {getattr(to, 'sockets', '')}; "
        f"between them: {by}.",
    )
