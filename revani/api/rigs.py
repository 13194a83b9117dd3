"""Rigs: what is linked, what it says, and faults of simulated gear to practise with."""

import asyncio
import json
import socket
from typing import Annotated
from urllib.parse import urlsplit

import httpx
from fastapi import APIRouter
from pydantic import BaseModel, Field

from revani.api.deps import Db
from revani.core.quantities.refusal import Refusal
from revani.core.shown.rigs import RigView, rig_view
from revani.core.watch.drill import DRILLS, Drill, DrillName, drill
from revani.rig.drivers import stage_of
from revani.settings import settings
from revani.store import runs

router = APIRouter(prefix="/api")


@router.get("/rigs")
async def list_rigs(db: Db) -> list[RigView]:
    """Every rig whose runner has ever given a sign, as it told of itself last."""
    return [rig_view(sign) for sign in await runs.signs(db)]


class DrillOrder(BaseModel):
    """A fault to switch on, and who does."""

    name: DrillName
    by: Annotated[str, Field(min_length=1, max_length=60, pattern=r"^[^\x00-\x1f\x7f]*$")] = "someone at the page"


@router.get("/drills")
async def list_drills() -> list[Drill]:
    """The faults that simulated gear can show."""
    return list(DRILLS)


@router.post("/drills")
async def begin_drill(order: DrillOrder, db: Db) -> Drill:
    """Switch a fault on, on simulated gear; the run that goes on notes that it is a drill."""
    chosen = drill(order.name)
    await asyncio.to_thread(_camera_shows if chosen.gear == "camera" else _mover_shows, chosen.order)
    await runs.note_on_rig(db, settings().rig, f"A drill: {order.by} switched “{chosen.name}” on.")
    return chosen


@router.delete("/drills")
async def end_drill(db: Db) -> dict[str, str]:
    """Mend everything."""
    await asyncio.to_thread(_camera_shows, None)
    await asyncio.to_thread(_mover_shows, None)
    await runs.note_on_rig(db, settings().rig, "The drill is over: all faults are switched off.")
    return {"faults": "none"}


def _camera_shows(fault: dict[str, str | int | float] | None) -> None:
    here = settings()
    address = stage_of(here.camera_url) or here.camera
    try:
        if fault is None:
            answer = httpx.delete(f"{address}/fault", timeout=5, trust_env=False)
        else:
            answer = httpx.put(f"{address}/fault", json=fault, timeout=5, trust_env=False)
    except httpx.HTTPError as error:
        raise Refusal("name", "The camera does not answer: it can show nothing.", "") from error
    if answer.status_code != 200:
        raise Refusal("name", "Only simulated gear shows faults to order; this camera is none.", "")


def _mover_shows(fault: dict[str, str | int | float] | None) -> None:
    parts = urlsplit(settings().mover)
    if parts.scheme != "gcode" or not parts.hostname or not parts.port:
        raise Refusal("name", "Only simulated gear shows faults to order; this mover is none.", "")
    try:
        with socket.create_connection((parts.hostname, parts.port), 5) as link:
            link.sendall(f"%{json.dumps({'fault': fault})}\n".encode())
            said = link.makefile().readline()
    except OSError as error:
        raise Refusal("name", "The mover does not answer: it can show nothing.", "") from error
    if not said.startswith("ok"):
        raise Refusal("name", "Only simulated gear shows faults to order, and this mover has no such axis.", "")
