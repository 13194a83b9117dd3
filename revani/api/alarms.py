"""Alarms: seen by a person; and where they go out to."""

import asyncio
from typing import Annotated
from uuid import UUID

from fastapi import APIRouter
from pydantic import BaseModel, Field

from revani.api.deps import Db
from revani.api.runs import view_of
from revani.api.who import Name, Plain, Who
from revani.core.shown.run import RunView
from revani.core.watch.alarm import AlarmLevel
from revani.jobs.outlets import send, shown
from revani.store import alarms, runs

router = APIRouter(prefix="/api")


class SeenBy(BaseModel):
    """Who has seen an alarm."""

    by: Who = Field("", validate_default=True)


class OutletOrder(BaseModel):
    """An address that alarms are to go out to: those to come for, or all from those to look at."""

    name: Name
    address: Annotated[Plain, Field(min_length=3, max_length=500)]
    from_level: AlarmLevel = "come"


class OutletView(BaseModel):
    """An address without its secrets; `failed` is what the last message met there."""

    id: UUID
    name: str
    address: str
    from_level: AlarmLevel
    failed: str


class Sent(BaseModel):
    """What became of a message: nothing said where it went out."""

    failed: str


@router.post("/alarms/{id}/seen")
async def seen(id: UUID, by: SeenBy, db: Db) -> RunView:
    """A person has seen an alarm: it is not repeated any more. The first who says so stays named."""
    run_id = await alarms.acknowledge(db, id, by.by)
    return await view_of(db, await runs.read(db, run_id))


@router.get("/outlets")
async def list_outlets(db: Db) -> list[OutletView]:
    """Where alarms go out to."""
    return [await _view(one) for one in await alarms.outlets(db)]


@router.post("/outlets", status_code=201)
async def add_outlet(order: OutletOrder, db: Db) -> list[OutletView]:
    """Let alarms go out to one more address."""
    await asyncio.to_thread(shown, order.address)
    await alarms.add_outlet(db, order.name, order.address, order.from_level)
    return await list_outlets(db)


@router.delete("/outlets/{id}")
async def remove_outlet(id: UUID, db: Db) -> list[OutletView]:
    """Let none go there any more."""
    await alarms.remove_outlet(db, id)
    return await list_outlets(db)


@router.post("/outlets/{id}/try")
async def try_outlet(id: UUID, db: Db) -> Sent:
    """Send a message there that says that it is none."""
    outlet = await alarms.outlet(db, id)
    failed = await asyncio.to_thread(send, outlet.address, "Try", f"“{outlet.name}” is reached. Nothing has happened.")
    await alarms.outlet_failed(db, id, failed)
    return Sent(failed=failed)


async def _view(outlet: alarms.Outlet) -> OutletView:
    address = await asyncio.to_thread(shown, outlet.address)
    return OutletView(**outlet.model_dump(exclude={"address"}), address=address)
