"""Which rig a shot is for, and what of a rig's gear is not the shot's."""

from collections.abc import Mapping, Sequence
from uuid import UUID

from revani.core.documents import Shot
from revani.core.documents.rig import Rig
from revani.core.findings import Finding


def rig_for(shot: Shot, rigs: Sequence[Rig], own: str) -> str:
    """The key of the rig that has the shot's body, this machine's own first; its own where none has."""
    having = [rig.key for rig in rigs if rig.body == shot.kit.body.id]
    return own if own in having or not having else having[0]


def other_gear(shot: Shot, rig: Rig, names: Mapping[UUID, str]) -> tuple[Finding, ...]:
    """What the rig is made of that the shot is not planned for; nothing where nobody said what it is made of."""
    found = []
    if rig.body is not None and rig.body != shot.kit.body.id:
        has = names.get(rig.body, "another body")
        found.append(
            Finding(
                "fix", f"“{rig.name}” has {has}; this shot is planned for {shot.kit.body.name}.",
                "Its limits, its battery and its card are judged by the other.", id="rig-body",
            )
        )  # fmt: skip
    missing = [mover.name for mover in shot.kit.movers if rig.movers and mover.id not in rig.movers]
    if missing:
        has = ", ".join(names.get(id, "another") for id in rig.movers)
        told = f"“{rig.name}” has {has}; this shot is moved by {', '.join(missing)}."
        found.append(Finding("fix", told, "Its axes, ranges and speeds are those of the other.", id="rig-movers"))
    return tuple(found)
