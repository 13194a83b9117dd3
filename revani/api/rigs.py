"""Rigs: what is linked, what it says, and faults of simulated gear to practise with."""

import asyncio
import json
import socket
import sys
from pathlib import Path
from urllib.parse import urlsplit

import httpx
from fastapi import APIRouter
from pydantic import BaseModel, Field

from revani.api.deps import Db, Over, Pooled
from revani.api.who import Who
from revani.core.documents.rig import LINK, Address, Rig, RigKey, RigSaid
from revani.core.quantities.refusal import Refusal
from revani.core.shown.rigs import RigView, rig_views
from revani.core.watch.drill import DRILLS, Drill, DrillName, drill
from revani.rig.known import Reached, check_addresses, free_ports, plain_key, reached
from revani.rig.tried import Found, Tried
from revani.settings import settings
from revani.store import records, rigs, runs
from revani.store.pool import Connection, Pool

router = APIRouter(prefix="/api")

_PATIENCE_S = 60.0


@router.get("/rigs")
async def list_rigs(db: Db) -> list[RigView]:
    """Every rig, those that are put away last, with what its runner and its camera said last."""
    return await _views(db)


class RigEdit(RigSaid):
    """A rig as it is to be kept, or put away."""

    archived: bool = False


@router.post("/rigs", status_code=201)
async def add_rig(order: RigEdit, pool: Pooled) -> list[RigView]:
    """Add a rig; its processes begin within a second."""
    async with pool.connection() as db:
        await rigs.hold(db)
        taken = {one.rig.ports for one in await rigs.everything(db)}
        key = plain_key(order.name)
        ports = await asyncio.to_thread(free_ports, settings().port, taken)
        rig = Rig(key=key, ports=ports, **order.model_dump(exclude={"archived"}))
        await _check(db, rig)
        if not await rigs.insert(db, rig):
            raise Refusal("name", "Another rig has that name already.", order.name)
    return await _told(pool)


@router.put("/rigs/{key}")
async def save_rig(key: RigKey, order: RigEdit, over: Over, pool: Pooled) -> list[RigView]:
    """Change a rig, or put it away; not where a run has it."""
    async with pool.connection() as db:
        now = await rigs.read(db, key)
        rig = now.rig.model_copy(update=order.model_dump(exclude={"archived"}))
        if order.archived and key == settings().rig:
            raise Refusal("archived", "This machine's own rig stays: give it another name or other gear.", True)
        if order.archived != now.archived or rig.link() != now.rig.link():
            await runs.hold_rig(db, key)
            if await runs.on_rig(db, key):
                path = next((name for name in LINK if getattr(rig, name) != getattr(now.rig, name)), "archived")
                raise Refusal(path, "Not while a run has the rig or waits for it.", str(getattr(order, path)))
        await _check(db, rig)
        await rigs.save(db, rig, over, order.archived)
    return await _told(pool)


@router.delete("/rigs/{key}")
async def delete_rig(key: RigKey, pool: Pooled) -> list[RigView]:
    """Delete a rig that never ran."""
    async with pool.connection() as db:
        await rigs.read(db, key)
        if key == settings().rig:
            raise Refusal("key", "This machine's own rig stays.", key)
        if not await rigs.delete(db, key):
            raise Refusal("key", "It has runs: put it away instead.", key)
    return await _told(pool)


async def _told(pool: Pool) -> list[RigView]:
    """The rigs as they stand now, told to those that drive gear, too."""
    await rigs.copy(pool, settings())
    async with pool.connection() as db:
        return await _views(db)


async def _views(db: Connection) -> list[RigView]:
    named = {saved.document["id"]: saved.document["name"] for saved in await records.everything(db, "gear", True)}
    return rig_views(await rigs.everything(db), await runs.signs(db), named, settings().rig)


async def _check(db: Connection, rig: Rig) -> None:
    """Whether a rig can be kept so. Raises Refusal."""
    others = await rigs.driven(db)
    check_addresses(rig, [other for key, other in others.items() if key != rig.key])
    kinds = {saved.id: saved.document["kind"] for saved in await records.everything(db, "gear", True)}
    if rig.body is not None and kinds.get(rig.body) != "body":
        raise Refusal("body", "One of the bodies that are kept.", str(rig.body))
    if any(kinds.get(mover) != "mover" for mover in rig.movers):
        raise Refusal("movers", "Movers that are kept.", "")


class TryOrder(BaseModel):
    """What to try: the addresses (the rig's, where none is given), a test frame, a dry move."""

    rig: RigKey = Field(default_factory=lambda: settings().rig)
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
    await rigs.read(db, order.rig)
    busy = [run for run in await runs.on_rig(db, order.rig) if run.state == "running"]
    if busy and (order.frame or order.move):
        raise Refusal("move" if order.move else "frame", "Not while a run has the rig.", True)
    words = [f"--rig={order.rig}", f"--camera={order.camera}", f"--mover={order.mover}"]
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
    """A fault to switch on, at which rig, and who does."""

    name: DrillName
    rig: RigKey = Field(default_factory=lambda: settings().rig)
    by: Who = Field("", validate_default=True)


@router.get("/drills")
async def list_drills() -> list[Drill]:
    """The faults that simulated gear can show."""
    return list(DRILLS)


@router.post("/drills")
async def begin_drill(order: DrillOrder, db: Db) -> Drill:
    """Switch a fault on, on simulated gear; the run that goes on notes that it is a drill."""
    chosen, its = drill(order.name), reached(settings(), order.rig)
    await asyncio.to_thread(_camera_shows if chosen.gear == "camera" else _mover_shows, its, chosen.order)
    await runs.note_on_rig(db, order.rig, f"A drill: {order.by} switched “{chosen.name}” on.")
    return chosen


@router.delete("/drills")
async def end_drill(db: Db, rig: RigKey = "") -> dict[str, str]:
    """Mend everything at a rig; at this machine's own, where none is named."""
    its = reached(settings(), rig or settings().rig)
    await asyncio.to_thread(_camera_shows, its, None)
    await asyncio.to_thread(_mover_shows, its, None)
    await runs.note_on_rig(db, its.rig.key, "The drill is over: all faults are switched off.")
    return {"faults": "none"}


def _camera_shows(its: Reached, fault: dict[str, str | int | float] | None) -> None:
    if not its.stage.startswith("http"):
        raise Refusal("name", "Only simulated gear shows faults to order; this camera is none.", "")
    try:
        if fault is None:
            answer = httpx.delete(f"{its.stage}/fault", timeout=5, trust_env=False)
        else:
            answer = httpx.put(f"{its.stage}/fault", json=fault, timeout=5, trust_env=False)
    except httpx.HTTPError as error:
        raise Refusal("name", "The camera does not answer: it can show nothing.", "") from error
    if answer.status_code != 200:
        raise Refusal("name", "Only simulated gear shows faults to order; this camera is none.", "")


def _mover_shows(its: Reached, fault: dict[str, str | int | float] | None) -> None:
    parts = urlsplit(its.mover)
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
