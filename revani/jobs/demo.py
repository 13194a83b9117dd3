"""The demo data: the sample documents, and a run that the real runner makes at high speed."""

import asyncio
import time
from datetime import date

import httpx
import psycopg
import structlog
from procrastinate import RetryStrategy
from psycopg_pool import PoolTimeout

from revani.core.documents import Shot, said
from revani.core.documents.rig import SIMULATED_BODY, Rig
from revani.core.program.compiled import compile_shot
from revani.core.quantities.units import plain_rate
from revani.jobs import assemble as assembling
from revani.jobs.queue import queue
from revani.jobs.sample import GEAR, sample_sequence, sample_shots
from revani.rig.known import free_ports, reached
from revani.settings import settings
from revani.store import films, records, rigs, runs, shots
from revani.store.pool import Pool, open_pool

log = structlog.get_logger()

SPEED = 480.0
FILM_SPEED = 20.0
_PATIENCE_S = 300


@queue.task(
    name="demo", queue="demo", queueing_lock="demo", lock="demo",
    retry=RetryStrategy(max_attempts=100, wait=5, retry_exceptions={psycopg.Error, PoolTimeout}),
)  # fmt: skip
async def make_demo() -> None:
    """Save what is missing of the sample documents, and have some shots run and assembled; goes on where it was."""
    async with open_pool(settings().database, most=2) as pool:
        made = await seed(pool, date.today())
        await _another_rig(pool)
        for shot, fault_after in ((made[0], None), (made[2], 140), (made[6], None)):
            async with pool.connection() as conn:
                there = {saved.id for saved in await shots.everything(conn)}
            if shot.id in there:
                await run_and_assemble(pool, shot, fault_after)


async def _another_rig(pool: Pool) -> None:
    """A second rig, whose simulated camera is asked as a body on a network is."""
    async with pool.connection() as conn:
        await rigs.hold(conn)
        there = await rigs.everything(conn)
        if any(one.rig.camera == SIMULATED_BODY for one in there):
            return
        ports = await asyncio.to_thread(free_ports, settings().port, {one.rig.ports for one in there})
        await rigs.insert(conn, Rig(key="by-the-wall", name="By the wall", camera=SIMULATED_BODY, ports=ports))
    await rigs.copy(pool, settings())


async def seed(pool: Pool, today: date) -> list[Shot]:
    """Save the sample documents unless there are shots already; returns the sample shots."""
    made = sample_shots(today)
    async with pool.connection() as conn:
        if await shots.everything(conn):
            return made
        async with conn.transaction():
            for shot in made:
                await shots.bring_in(conn, shot)
            film = sample_sequence(made)
            await records.insert(conn, "sequence", film.id, film.model_dump(mode="json"))
            known = {saved.id for saved in await records.everything(conn, "gear")}
            for piece in GEAR:
                if piece.id not in known:
                    await records.insert(conn, "gear", piece.id, said(piece))
    log.info("sample data saved", shots=len(made))
    return made


async def run_and_assemble(pool: Pool, shot: Shot, fault_after: int | None = None) -> None:
    """Have the runner shoot a shot at high speed, unless it has a run, and order its film, unless it has one.

    With `fault_after` the simulated camera refuses frames for a while after that many.
    """
    program = compile_shot(shot)
    speed = FILM_SPEED if shot.live else min(SPEED, float(program.slot_s.min()) / 0.2)
    async with pool.connection() as conn:
        begun = await runs.of_shot(conn, shot.id)
        order = runs.Order(shot, settings().rig, speed, program.frames_to_take, program.start_s, program.end_s)
        run_id = begun[0] if begun else await runs.arm(conn, order)
    until = time.monotonic() + _PATIENCE_S
    while time.monotonic() < until:
        async with pool.connection() as conn:
            run = await runs.read(conn, run_id)
        if run.state not in ("armed", "running"):
            break
        if fault_after is not None and run.taken >= fault_after:
            await asyncio.to_thread(_refuse_for_a_while)
            fault_after = None
        await asyncio.sleep(0.2)
    log.info("sample run ended", state=run.state, taken=run.taken, missed=run.missed)
    async with pool.connection() as conn:
        if shot.live or not run.taken or await films.of_run(conn, run_id):
            return
        fps = plain_rate(program.timing.fps)
        made = (None, *shot.outputs[:1])
        ordered = [await films.order(conn, run_id, run.taken, fps, output) for output in made]
    for film_id in ordered:
        await assembling.assemble.defer_async(film_id=str(film_id))


def _refuse_for_a_while() -> None:
    fault = {"kind": "refuse", "count": 9}
    httpx.put(f"{reached(settings(), settings().rig).stage}/fault", json=fault, trust_env=False).raise_for_status()
