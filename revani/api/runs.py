"""Runs: as they stand, stopped, and followed."""

import asyncio
from collections.abc import AsyncIterator
from typing import Annotated, Any
from uuid import UUID

from fastapi import APIRouter, HTTPException, Query, Request
from sse_starlette import EventSourceResponse

from revani.api.deps import Db
from revani.api.following import Following, TooMany
from revani.api.kept import Kept
from revani.core.documents import Shot
from revani.core.documents.run import CLOCK_RIG, ENDED, Run
from revani.core.program.compiled import Program, compile_shot
from revani.core.shown.run import RunView, Standing, run_view
from revani.exports.film_name import film_name
from revani.rig.stage import StageClock
from revani.store import runs, verdicts
from revani.store.pool import Pool

router = APIRouter(prefix="/api")


@router.get("/runs")
async def list_runs(db: Db, most: Annotated[int, Query(ge=1, le=200)] = 30) -> list[RunView]:
    """The newest runs, newest first."""
    return [await view_of(db, run) for run in await runs.latest(db, most)]


@router.get("/runs/{id}")
async def read_run(id: UUID, db: Db) -> RunView:
    """One run as it stands."""
    return await view_of(db, await runs.read(db, id))


@router.post("/runs/{id}/stop")
async def stop(id: UUID, db: Db) -> RunView:
    """Ask for a safe stop: the frame that is being taken is finished and stored first."""
    return await view_of(db, await runs.want_stop(db, id))


@router.get("/runs/{id}/events")
async def follow(id: UUID, db: Db, request: Request) -> EventSourceResponse:
    """The run's view as server-sent events: as it stands, and whenever it changes, until the run has ended."""
    following: Following = request.app.state.following
    try:
        following.make_room()
    except TooMany:
        raise HTTPException(503, "So many pages watch already that one more is not served.") from None
    first = (await view_of(db, await runs.read(db, id))).model_dump_json()

    async def events() -> AsyncIterator[dict[str, str]]:
        async for text in following.follow(id, first):
            yield {"event": "run", "data": text}

    return EventSourceResponse(events())


async def look(pool: Pool, id: UUID) -> tuple[str, bool]:
    """A run's view as JSON, and whether the run has ended."""
    async with pool.connection(timeout=2) as conn:
        view = await view_of(conn, await runs.read(conn, id))
    return view.model_dump_json(), view.state in ENDED


_programs: Kept[UUID, Program] = Kept(40)


async def program_of_run(run: Run) -> Program:
    """The program of a run, compiled once: the shot of a run never changes."""
    return await asyncio.to_thread(_programs.get, run.id, lambda: compile_shot(Shot.model_validate(run.shot)))


async def view_of(conn: Any, run: Run) -> RunView:
    """A run as it stands now, in words."""
    program = await program_of_run(run)
    newest = await runs.journal(conn, run.id, after=max(0, run.taken + run.missed - 3))
    live = run.state not in ENDED
    words = {sign.rig: sign for sign in await runs.signs(conn)} if live else {}
    clock = StageClock.model_validate(run.clock) if run.clock else StageClock.real()
    ended_s = run.ended_at.timestamp() if run.ended_at and run.rig == CLOCK_RIG else program.end_s
    now_s = clock.now_s() if live else ended_s
    found = await verdicts.of_run(conn, run.id)
    verdict = found[-1] if found else None
    return run_view(Standing(run, program, newest, words.get(run.rig), now_s, film_name(program.shot), verdict))
