"""What to bring over several shots: gear, what is booked twice, what to charge and in which order, cards, cables."""

from collections.abc import Iterator, Sequence
from math import ceil
from typing import Literal
from uuid import UUID

from pydantic import BaseModel, ConfigDict

from revani.core.documents import Gear, SmallPart, Source
from revani.core.documents.kit import weight_of_kg
from revani.core.feed.battery import MARGIN
from revani.core.feed.card import RESERVE, capacity_bytes, offload_s
from revani.core.program.compiled import Program
from revani.core.quantities.measures import WATT_HOURS, WEIGHT
from revani.core.quantities.units import count, duration, gigabytes
from revani.core.sequence.day import clashes

Doing = Literal["Charge", "Empty", "Bring", "Plug"]
# Charging takes so much longer than capacity over power says: the last part goes slowly (memory).
_CHARGING = 1.3


class Packed(BaseModel):
    """One thing of the list: what is done with it, what it is, what to mind, and for which shots."""

    model_config = ConfigDict(frozen=True)

    what: Doing
    thing: str
    mind: str = ""
    shots: tuple[str, ...] = ()


class PackTrouble(BaseModel):
    """What stands against all shots together, and the shot at which it is mended."""

    model_config = ConfigDict(frozen=True)

    shot_id: UUID
    shot: str
    severe: bool
    sentence: str
    figures: str


class Packing(BaseModel):
    """The whole list, in the order in which it is worked off, and its troubles."""

    model_config = ConfigDict(frozen=True)

    rows: tuple[Packed, ...]
    troubles: tuple[PackTrouble, ...]
    weight: str


def packing(programs: Sequence[Program]) -> Packing:
    """What all these shots want together, each thing once."""
    shown = sorted(programs, key=lambda one: one.start_s)
    pieces: dict[UUID, Gear] = {piece.id: piece for program in shown for piece in program.shot.kit.pieces}
    users = {id: tuple(one.shot.name for one in shown if any(p.id == id for p in one.shot.kit.pieces)) for id in pieces}
    limits = [most for one in shown if (most := one.shot.kit.carries_at_most_kg) is not None]
    weighs = sum(weight_of_kg(one) for one in pieces.values())
    most = min(limits, default=None)
    return Packing(
        rows=(
            *_charged(shown, pieces, users), *_emptied(shown, users), *_brought(pieces, users), *_plugged(shown),
        ),
        troubles=(*_twice(shown), *_overfull(shown), *_too_heavy(shown, weighs, most)),
        weight=f"{WEIGHT.show(weighs, 1)} in all",
    )  # fmt: skip


def _charged(
    shown: Sequence[Program], pieces: dict[UUID, Gear], users: dict[UUID, tuple[str, ...]]
) -> Iterator[Packed]:
    """Batteries in the order in which they are wanted, and how long each is on the charger."""
    chargers = [one for one in pieces.values() if isinstance(one, SmallPart) and one.is_a == "charger"]
    power_w = max((one.charges_w or 0.0 for one in chargers), default=0.0)

    def takes(wh: float) -> str:
        return f"about {duration(ceil(round(wh / power_w * _CHARGING * 60, 6)) * 60)}" if power_w else ""

    # A battery that is fed from outside is full when that ends; of another what all shots draw is counted together.
    drawn: dict[UUID, float] = {}
    for program in shown:
        for supply in program.supplies:
            if not program.shot.kit.feeding(supply.id):
                drawn[supply.id] = drawn.get(supply.id, 0.0) + float(1 - supply.left[-1])
    seen: set[UUID] = set()
    for program in shown:
        first = f"first wanted {program.local(program.start_s):%a %H:%M}"
        for piece in program.shot.kit.fed:
            if piece.battery_wh and piece.id not in seen:
                seen.add(piece.id)
                wanted = max(1, ceil(drawn.get(piece.id, 0.0) * (1 + MARGIN)))
                yield Packed(
                    what="Charge", thing=f"{wanted} × battery of {piece.name}",
                    mind="; ".join(filter(None, (first, takes(wanted * piece.battery_wh)))), shots=users[piece.id],
                )  # fmt: skip
        for source in program.shot.kit.sources:
            if source.gives != "the mains" and source.id not in seen:
                seen.add(source.id)
                whole_wh = source.capacity_wh * source.count
                yield Packed(
                    what="Charge", thing=_counted(source),
                    mind="; ".join(filter(None, (WATT_HOURS.show(whole_wh, 0), takes(whole_wh)))),
                    shots=users[source.id],
                )  # fmt: skip


def _counted(piece: Gear) -> str:
    return f"{piece.count} × {piece.name}" if isinstance(piece, Source) and piece.count > 1 else piece.name


def _wanted(shown: Sequence[Program]) -> dict[UUID, float]:
    wanted: dict[UUID, float] = {}
    for program in shown:
        card = program.shot.kit.card.id
        wanted[card] = wanted.get(card, 0.0) + float(program.card_bytes[-1])
    return wanted


def _emptied(shown: Sequence[Program], users: dict[UUID, tuple[str, ...]]) -> Iterator[Packed]:
    cards = {one.shot.kit.card.id: one.shot.kit.card for one in shown}
    for id, size in _wanted(shown).items():
        away = offload_s(size, cards[id].reads_mb_s)
        yield Packed(
            what="Empty", thing=f"{cards[id].name}, {gigabytes(size)} wanted",
            mind=f"copied and compared in {duration(max(round(away), 1))} afterwards", shots=users[id],
        )  # fmt: skip


def _brought(pieces: dict[UUID, Gear], users: dict[UUID, tuple[str, ...]]) -> Iterator[Packed]:
    for id, piece in pieces.items():
        yield Packed(what="Bring", thing=_counted(piece), mind=piece.note, shots=users[id])


def _plugged(shown: Sequence[Program]) -> Iterator[Packed]:
    seen: set[tuple[str, ...]] = set()
    for program in shown:
        kit = program.shot.kit
        names = {one.id: one.name for one in kit.pieces}
        for wire in kit.wires:
            way = (names[wire.source], *(names[one] for one in wire.by), names[wire.to])
            if len(way) > 2 and way not in seen:
                seen.add(way)
                yield Packed(what="Plug", thing=" → ".join(way), shots=(program.shot.name,))


def _twice(shown: Sequence[Program]) -> Iterator[PackTrouble]:
    for one in clashes(shown):
        yield PackTrouble(
            shot_id=one.later.shot.id,
            shot=one.later.shot.name,
            severe=True,
            sentence=f"{' and '.join(one.names)} in two shots at once",
            figures=f"{one.earlier.shot.name} ends {one.earlier.local(one.free_s):%H:%M}; "
            f"{one.later.shot.name} begins {one.later.local(one.wanted_s):%H:%M}.",
        )


def _overfull(shown: Sequence[Program]) -> Iterator[PackTrouble]:
    cards = {one.shot.kit.card.id: one.shot.kit.card for one in shown}
    for id, size in _wanted(shown).items():
        card = cards[id]
        on_it = [one for one in shown if one.shot.kit.card.id == id]
        room = capacity_bytes(card.capacity_gb)
        if len(on_it) < 2 or size <= room * (1 - float(RESERVE)):
            continue
        between = offload_s(float(on_it[0].card_bytes[-1]), card.reads_mb_s)
        last = on_it[-1].shot
        yield PackTrouble(
            shot_id=last.id,
            shot=last.name,
            severe=size > room,
            sentence=f"{card.name} is too small for {count(len(on_it), 'shot')} together",
            figures=f"{gigabytes(size)} of {gigabytes(room)}: it is copied off after the first, in "
            f"{duration(max(round(between), 1))}, or another card comes along.",
        )


def _too_heavy(shown: Sequence[Program], weighs: float, most: float | None) -> Iterator[PackTrouble]:
    if most is not None and weighs > most and len(shown) > 1:
        yield PackTrouble(
            shot_id=shown[0].shot.id,
            shot=shown[0].shot.name,
            severe=False,
            sentence="It is more than you carry",
            figures=f"{WEIGHT.show(weighs, 1)} together, and {WEIGHT.show(most, 1)} at most: go twice, or leave some.",
        )


def packing_text(packed: Packing) -> str:
    """The list as text to be printed, a box before each line."""
    lines = [f"! {one.sentence}. {one.figures}" for one in packed.troubles]
    for what in ("Charge", "Empty", "Bring", "Plug"):
        rows = [row for row in packed.rows if row.what == what]
        if rows:
            lines += ["", what.upper()]
        for row in rows:
            mind = f"  ({row.mind})" if row.mind else ""
            lines.append(f"[ ] {row.thing}{mind}")
    return "\n".join([*lines, "", packed.weight, ""]).lstrip("\n")
