"""Shots with power, heaters and cables, for tests of what feeds what and of rigging up."""

from uuid import UUID

from revani.core.documents import Load, Shot, SmallPart, Source
from tests.conftest import make_kit, make_shot

BODY = UUID(int=99)


def gear(kind: type, i: int, **values: object) -> dict[str, object]:
    return kind.model_validate({"id": UUID(int=i), "name": f"{kind.__name__} {i}"} | values).model_dump()


BANK = gear(Source, 1, capacity_wh=60, sockets="USB-C, USB-A", most_w=18)
CELLS = gear(Source, 2, gives="cells to change", capacity_wh=16, count=3, swap_s=90)
STRAP = gear(Load, 3, draws_w=4, sockets="USB-A plug")
LEAD = gear(SmallPart, 4, end_a="USB-C, bank", end_b="barrel")


def shot_with(*extras: dict[str, object], wires: list[dict[str, object]] | None = None, **body: object) -> Shot:
    kit = make_kit(body={"id": BODY, "battery_wh": 16, "sockets": "barrel, 2.5 mm jack"} | body).model_dump()
    kit |= {"extras": extras, "wires": wires or []}
    night: dict[str, object] = {"timing": {"fps": 30, "interval_s": 30, "event_s": 14 * 3600}, "kit": kit}
    return Shot.model_validate(make_shot().model_dump() | night)
