"""Rigs: what is linked, what it says, and faults of simulated gear to practise with."""

import asyncio
import json
import socket
import sys
from pathlib import Path
from typing import Annotated
from urllib.parse import urlsplit

import httpx
from fastapi import APIRouter
from pydantic import BaseModel, Field

from revani.api.deps import Db
from revani.api.who import Plain, Who
from revani.core.quantities.refusal import Refusal
from revani.core.shown.rigs import RigView, rig_view
from revani.core.watch.drill import DRILLS, Drill, DrillName, drill
from revani.rig.drivers import stage_of
from revani.rig.tried import Found, Tried
from revani.settings import settings
from revani.store import runs

router = APIRouter(prefix="/api")

_PATIENCE_S = 60.0


@router.get("/rigs")
async def list_rigs(db: Db) -> list[RigView]:
    """Every rig whose runner has ever given a sign, as it told of itself last."""
    return [rig_view(sign) for sign in await runs.signs(db)]


Address = Annotated[Plain, Field(max_length=300)]


class TryOrder(BaseModel):
    """What to try: the addresses (this rig's, where none is given), a test frame, a dry move."""

    camera: Address = ""
    mover: Address = ""
    frame: bool = False
    move: bool = False


@router.get("/rigs/found")
async def find_gear() -> list[Found]:
    """What is on this machine's sockets: bodies, and ports that a mover may be at."""
    return [Found.model_validate_json(line) for line in await _asked("--find")]


@router.post("/rigs/try")
async def try_gear(order: TryOrder, db: Db) -> list[Tried]:
    """What answers at an address. Refused while a run has the rig: its gear is not to be asked for anything else."""
    busy = [run for run in await runs.on_rig(db, settings().rig) if run.state == "running"]
    if busy and (order.frame or order.move):
        raise Refusal("move" if order.move else "frame", "Not while a run has the rig.", True)
    words = [f"--camera={order.camera}", f"--mover={order.mover}"]
    words += [f"--{name}" for name in ("frame", "move") if getattr(order, name)]
    return [Tried.model_validate_json(line) for line in await _asked(*words)]


async def _asked(*words: str) -> list[str]:
    """What `revani rigs` says, in a process of its own: a driver that hangs or falls takes nothing with it."""
    command = str(Path(sys.executable).parent / "revani")
    process = await asyncio.create_subprocess_exec(
        command, "rigs", "--json", *words, stdout=asyncio.subprocess.PIPE, stderr=asyncio.subprocess.DEVNULL
    )
    try:
        said, _ = await asyncio.wait_for(process.communicate(), _PATIENCE_S)
    except TimeoutError:
        process.kill()
        raise Refusal("camera", "Nothing came to its end within a minute.", "") from None
    return [line for line in said.decode().splitlines() if line.startswith("{")]


class DrillOrder(BaseModel):
    """A fault to switch on, and who does."""

    name: DrillName
    by: Who = Field("", validate_default=True)


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
