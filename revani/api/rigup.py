"""Rigging up: the ordered list with its ticks, cautions, and what to bring."""

import asyncio
import time
from typing import Any
from uuid import UUID

from fastapi import APIRouter
from fastapi.responses import PlainTextResponse
from pydantic import BaseModel

from revani.api.deps import Db
from revani.api.tonight import compiled, planned
from revani.api.which_rig import which_rig
from revani.core.documents import Shot
from revani.core.documents.sequence import ShotSequence
from revani.core.edit.fitting import compile_fitted
from revani.core.program.compiled import Program
from revani.core.quantities.refusal import Refusal
from revani.core.rigup.listed import RigUp, TickedOn, listed
from revani.core.rigup.packing import Packing, packing, packing_text
from revani.core.rigup.steps import rig_up
from revani.core.shown.tonight import ahead
from revani.store import records, rig_ticks, runs, shots
from revani.store.pool import Connection

router = APIRouter(prefix="/api")

# A camera that has said nothing for so long does not answer.
_FRESH_S = 10.0


class TickOrder(BaseModel):
    """That a step is done, or not, and what it is said on."""

    done: bool
    on: TickedOn = "laptop"


@router.get("/shots/{id}/rig-up")
async def rig_list(id: UUID, db: Db) -> RigUp:
    """What is done for a shot, in order, what of it is done, and what to take care of."""
    return await list_of(db, await _program(db, id))


@router.put("/shots/{id}/rig-up/{step}")
async def tick_step(id: UUID, step: str, order: TickOrder, db: Db) -> RigUp:
    """Tick a step, or take its tick off."""
    program = await _program(db, id)
    steps = [one.id for one in await asyncio.to_thread(rig_up, program)]
    if step not in steps:
        raise Refusal("step", f"One of: {', '.join(steps)}.", step)
    if order.done:
        await rig_ticks.tick(db, id, step, order.on)
    else:
        await rig_ticks.untick(db, id, step)
    return await list_of(db, program)


@router.delete("/shots/{id}/rig-up")
async def begin_anew(id: UUID, db: Db) -> RigUp:
    """Take off all ticks, for another evening."""
    await rig_ticks.untick(db, id, None)
    return await list_of(db, await _program(db, id))


async def list_of(db: Connection, program: Program, rig: str = "") -> RigUp:
    """The list of a program with the ticks of its shot; on the rig that has the shot's body, if none is named."""
    ticks = await rig_ticks.ticks(db, program.shot.id)
    its = await which_rig(db, program.shot, rig)
    return await asyncio.to_thread(listed, program, ticks, await _camera(db, its.key))


async def _camera(db: Connection, rig: str) -> dict[str, Any] | None:
    """What the rig's camera said of itself lately; None where it did not answer."""
    sign = next((one for one in await runs.signs(db) if one.rig == rig), None)
    if sign is None or sign.age_s > _FRESH_S or sign.camera is None or sign.camera.get("trouble"):
        return None
    return sign.camera


@router.get("/packing")
async def what_to_bring(db: Db, place: UUID | None = None, sequence: UUID | None = None) -> Packing:
    """What the shots of the next day (at a place, if one is named), or those of a sequence, want together."""
    return await _packed(db, place, sequence)


@router.get("/packing/text", response_class=PlainTextResponse)
async def what_to_bring_as_text(db: Db, place: UUID | None = None, sequence: UUID | None = None) -> str:
    """The same as text, to be printed."""
    return packing_text(await _packed(db, place, sequence))


async def _packed(db: Connection, place: UUID | None, sequence: UUID | None) -> Packing:
    if sequence is None:
        return await asyncio.to_thread(packing, ahead(await planned(db, place), time.time()))
    document = ShotSequence.model_validate((await records.read(db, "sequence", sequence)).document)
    kept = await shots.chosen(db, list(dict.fromkeys(cut.shot for cut in document.cuts)))
    return await asyncio.to_thread(packing, await compiled(kept))


async def _program(db: Connection, id: UUID) -> Program:
    return await asyncio.to_thread(compile_fitted, Shot.model_validate((await shots.read(db, id)).document))
