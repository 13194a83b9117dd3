"""Presets: parts of a shot kept, looked at and laid over another."""

import asyncio
from uuid import UUID

from fastapi import APIRouter
from pydantic import BaseModel, Field

from revani.api.deps import Costly, Db
from revani.core.documents import Shot
from revani.core.documents.preset import Preset, PresetPart
from revani.core.edit.differing import differences_told
from revani.core.edit.fitting import compile_fitted
from revani.core.edit.presets import laid, preset_of
from revani.store import presets

router = APIRouter(prefix="/api/presets")


class KeepOrder(BaseModel):
    """Which parts of a shot are kept, and under which name."""

    shot: Shot
    name: str = Field(max_length=80)
    surroundings: str = Field("", max_length=200)
    parts: list[PresetPart] = Field(max_length=20)


class Laid(BaseModel):
    """A shot with a preset laid over it, and what that changes, in words."""

    shot: Shot
    changed: list[str]


@router.get("")
async def list_presets(db: Db) -> list[Preset]:
    """All presets by name."""
    return await presets.everything(db)


@router.post("", status_code=201)
async def keep_preset(order: KeepOrder, db: Db) -> Preset:
    """Keep parts of a shot."""
    preset = preset_of(order.shot, order.name, order.surroundings, order.parts)
    await presets.keep(db, preset)
    return preset


@router.post("/file", status_code=201)
async def bring_in_preset(preset: Preset, db: Db) -> Preset:
    """Keep a preset that comes from a file."""
    await presets.keep(db, preset)
    return preset


@router.get("/{id}")
async def read_preset(id: UUID, db: Db) -> Preset:
    """One preset, as a file has it."""
    return await presets.read(db, id)


@router.delete("/{id}", status_code=204)
async def delete_preset(id: UUID, db: Db) -> None:
    """Delete a preset; shots that it was laid over stay as they are."""
    await presets.delete(db, id)


@router.post("/{id}/laid", dependencies=[Costly])
async def lay_preset(id: UUID, shot: Shot, db: Db) -> Laid:
    """What a shot would be with a preset laid over it; nothing is saved."""
    preset = await presets.read(db, id)

    def look() -> Laid:
        found = laid(shot, preset)
        return Laid(shot=found, changed=list(differences_told(compile_fitted(shot), compile_fitted(found))))

    return await asyncio.to_thread(look)
