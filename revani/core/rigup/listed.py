"""The rig-up list as it is shown: each step with who says that it is done, and when."""

from collections.abc import Mapping
from datetime import datetime
from typing import Any, Literal, NamedTuple

from pydantic import BaseModel, ConfigDict

from revani.core.program.compiled import Program
from revani.core.quantities.units import count
from revani.core.rigup.answers import answered
from revani.core.rigup.cautions import cautions
from revani.core.rigup.step import Phase
from revani.core.rigup.steps import rig_up

PHASES: dict[Phase, str] = {
    "stand": "Stand", "camera": "Set the camera", "connect": "Connect", "check": "Check", "leave": "Leave",
    "afterwards": "Afterwards",
}  # fmt: skip


TickedOn = Literal["laptop", "phone"]


class Ticked(NamedTuple):
    """When a person ticked a step, and on what."""

    at: datetime
    on: TickedOn


class RigRow(BaseModel):
    """A step: `by` says who has it done (a person, the device; nobody yet), `clock` when it was ticked.

    `refused` tells that it was ticked and that the device says otherwise.
    """

    model_config = ConfigDict(frozen=True)

    id: str
    phase: str
    says: str
    why: str
    otherwise: str
    done: bool
    by: Literal["nobody", "you", "the device"]
    clock: str
    refused: bool = False


class CautionRow(BaseModel):
    """A caution as it is shown."""

    model_config = ConfigDict(frozen=True)

    id: str
    title: str
    says: str
    defers: str


class RigUp(BaseModel):
    """The whole list, and what is still open of what comes before arming."""

    model_config = ConfigDict(frozen=True)

    shot: str
    where: str
    begins: str
    rows: tuple[RigRow, ...]
    cautions: tuple[CautionRow, ...]
    open: tuple[str, ...]
    told: str


def listed(program: Program, ticks: Mapping[str, Ticked], camera: Mapping[str, Any] | None) -> RigUp:
    """The list with its ticks; `camera` is what the camera that answers says of itself, None where none does."""
    shot = program.shot
    # What another camera says is nothing to this shot.
    says = camera if camera is not None and camera.get("name") == shot.kit.body.name else None
    rows = []
    for step in rig_up(program):
        tick = ticks.get(step.id)
        known = answered(step, program, says) if says is not None else None
        done = tick is not None if known is None else known
        rows.append(
            RigRow(
                id=step.id, phase=PHASES[step.phase], says=step.says, why=step.why, otherwise=step.otherwise, done=done,
                by="the device" if known is not None else "you" if tick else "nobody",
                clock="" if tick is None or known is not None
                else f"{tick.at.astimezone(program.zone):%a %H:%M} on the {tick.on}",
                refused=known is False and tick is not None,
            )
        )  # fmt: skip
    before = [row for row in rows if row.phase != PHASES["afterwards"] and row.id != "arm"]
    left = tuple(row.says for row in before if not row.done)
    return RigUp(
        shot=shot.name,
        where=f"{shot.kit.body.name} at {shot.place.name}",
        begins=f"{program.local(program.start_s):%a %-d %b, %H:%M}",
        rows=tuple(rows),
        cautions=tuple(CautionRow(id=one.id, title=one.title, says=one.says, defers=one.defers)
                       for one in cautions(program)),
        open=left,
        told=f"{len(before) - len(left)} of {count(len(before), 'step')} before it is left alone",
    )  # fmt: skip
