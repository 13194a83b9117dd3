"""What feeds what, and what the card takes: the step Feed of the desk."""

from uuid import UUID

import numpy as np
from pydantic import BaseModel, ConfigDict

from revani.core.documents import Kit, Load, SmallPart, Source
from revani.core.documents.sockets import connects
from revani.core.feed.battery import MARGIN
from revani.core.feed.card import chapter_bytes, offload_s
from revani.core.feed.energy import CAUTIOUS, OPTIMISTIC, Supply
from revani.core.program.compiled import Program, card_capacity_bytes
from revani.core.quantities.measures import WATT_HOURS, WATTS, WEIGHT
from revani.core.quantities.units import duration, gigabytes
from revani.core.shown.sentence import Word, word_of


class Row(BaseModel):
    """Base of what the step shows."""

    model_config = ConfigDict(frozen=True)


class Pluggable(Row):
    """A source, a cable or an adapter that may be chosen; `fits` is None where nobody has said which sockets it has."""

    id: UUID
    name: str
    fits: bool | None = None


class Fed(Row):
    """What a piece of gear is fed from, and through which cables."""

    source: UUID
    name: str
    by: list[Pluggable]
    fits: bool | None


class FedRow(Row):
    """A piece of gear that draws energy: how much, on average; what it has; how long it lasts, and at worst."""

    id: UUID
    name: str
    draws: str
    own: str
    fed: list[Fed]
    lasts: str
    worst: str
    fails: bool
    sources: list[Pluggable]


class FeedPanel(Row):
    """The whole step. `cables` are those that lead nowhere yet."""

    rows: list[FedRow]
    banks: list[str]
    cables: list[Pluggable]
    card: list[str]
    carried: str
    limit: Word
    too_heavy: bool


def feed_panel(program: Program) -> FeedPanel:
    """All that draws energy, what feeds it, what is left at its end, the card, and what it weighs."""
    kit = program.shot.kit
    expected = {one.id: one for one in program.supplies}
    band = [{one.id: one for one in program.energy(scope)} for scope in (CAUTIOUS, OPTIMISTIC)]
    drains = dict(zip([one.id for one in kit.fed], program.drains[0], strict=True))
    led = {id for wire in kit.wires for id in wire.by}
    rows = [
        FedRow(
            id=piece.id, name=piece.name,
            draws=WATTS.show(float(np.average(drains[piece.id].watts, weights=program.slot_s)), 1),
            own=WATT_HOURS.show(piece.battery_wh, 1) if piece.battery_wh else "none",
            fed=_fed(kit, piece.id), lasts=_lasts(program, expected.get(piece.id), isinstance(piece, Load)),
            worst=_worst(program, *(one.get(piece.id) for one in band)),
            fails=piece.id in expected and expected[piece.id].ends_at is not None,
            sources=_offered(kit, piece.id, piece.sockets),
        )
        for piece in kit.fed
    ]  # fmt: skip
    most = kit.carries_at_most_kg
    return FeedPanel(
        rows=rows,
        banks=[_bank_told(program, one) for one in program.supplies if one.role == "feeds"],
        cables=[Pluggable(id=one.id, name=one.name) for one in kit.parts if one.id not in led and _leads(one)],
        card=_card(program),
        carried=f"{WEIGHT.show(kit.weight_kg, 1)} to carry, at most",
        limit=word_of(program.shot, "kit.carries_at_most_kg", program.timing),
        too_heavy=most is not None and kit.weight_kg > most,
    )


def _leads(part: SmallPart) -> bool:
    return part.is_a in ("cable", "adapter")


def _fed(kit: Kit, id: UUID) -> list[Fed]:
    pieces = {one.id: one for one in kit.pieces}
    to = next(one for one in kit.fed if one.id == id)
    found = []
    for wire in (one for one in kit.wires if one.to == id):
        source = pieces[wire.source]
        parts = [part for one in wire.by for part in kit.parts if part.id == one]
        swapped = isinstance(source, Source) and source.cells
        fits = None if swapped else connects(getattr(source, "sockets", ""), [one.ends for one in parts], to.sockets)
        by = [Pluggable(id=one.id, name=one.name) for one in parts]
        found.append(Fed(source=source.id, name=source.name, by=by, fits=fits))
    return found


def _offered(kit: Kit, id: UUID, sockets: str) -> list[Pluggable]:
    """What could feed it besides: power, and for the body a controller that fires it."""
    now = {wire.source for wire in kit.wires if wire.to == id}
    taken = {wire.source for wire in kit.wires}
    found = [
        Pluggable(id=one.id, name=one.name, fits=None if one.cells else connects(one.sockets, [], sockets))
        for one in kit.sources
        if one.id not in now and not (one.cells and one.id in taken)
    ]
    if id == kit.body.id:
        found += [
            Pluggable(id=one.id, name=one.name) for one in kit.loads if one.is_a == "controller" and one.id not in now
        ]
    return found


def _clock(program: Program, slot: int) -> str:
    return f"{program.local(float(program.at_s[slot])):%H:%M}"


def _lasts(program: Program, supply: Supply | None, load: bool) -> str:
    if supply is None:
        return "fed by nothing" if load else "from the mains, it is taken"
    if supply.ends_at is not None:
        return f"until {_clock(program, supply.ends_at)}"
    left = float(supply.left[-1])
    mind = ", under the margin" if left < MARGIN else ""
    return f"to the end, {left:.0%} left{mind}"


def _worst(program: Program, cautious: Supply | None, kind: Supply | None) -> str:
    """The band that it may come to: measured figures are rarely further off."""
    if cautious is None or kind is None:
        return ""
    ends = [
        f"{max(float(one.left[-1]), 0):.0%}" if one.ends_at is None else _clock(program, one.ends_at)
        for one in (cautious, kind)
    ]
    return ends[0] if ends[0] == ends[1] else f"{ends[0]} – {ends[1]}"


def _bank_told(program: Program, supply: Supply) -> str:
    if supply.off_from is not None:
        return f"{supply.name} switches itself off at {_clock(program, supply.off_from)}."
    left = float(supply.left[-1])
    if left < 1e-6:
        empty = int(np.argmax(supply.left < 1e-6))
        return f"{supply.name} is empty at {_clock(program, empty)}; batteries go on from there."
    return f"{supply.name} has {left:.0%} left at the end."


def _card(program: Program) -> list[str]:
    card, written = program.shot.kit.card, float(program.card_bytes[-1])
    capacity = card_capacity_bytes(program.shot)
    away = offload_s(min(written, capacity), card.reads_mb_s)
    lines = [
        f"{gigabytes(written)} of {gigabytes(capacity)}, {min(written / capacity, 9.99):.0%}",
        f"copied and compared in {duration(max(round(away), 1))}",
    ]
    next_number = program.shot.kit.body.next_number
    if next_number is not None:
        lines.append(f"the next name is {next_number:04d}")
    if card.speed_class != "none":
        lines.append(f"class {card.speed_class}, {card.file_system}")
    return lines


def file_ends(program: Program) -> list[float]:
    """When a recording goes on in a new file, seconds since 1970 UTC; at most a hundred of them."""
    shot = program.shot
    size = chapter_bytes(shot.kit.card, shot.recording)
    if size is None or not shot.makes_film:
        return []
    whole = np.arange(1, min(int(program.card_bytes[-1] // size), 100) + 1) * size
    return [float(one) for one in np.interp(whole, program.card_bytes, program.at_s)]
