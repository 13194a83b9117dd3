"""Runs: as they stand, stopped, and followed."""

import asyncio
from collections.abc import AsyncIterator
from typing import Annotated, Any
from uuid import UUID

from fastapi import APIRouter, HTTPException, Query, Request
from pydantic import BaseModel, Field
from sse_starlette import EventSourceResponse

from revani.api.deps import Db
from revani.api.following import Following, TooMany
from revani.api.kept import Kept
from revani.api.who import Who
from revani.core.documents import AxisName, Shot
from revani.core.documents.run import CLOCK_RIG, Intervention, InterventionKind, Run
from revani.core.edit.apply import Edit, apply
from revani.core.edit.fitting import compile_fitted
from revani.core.program.compiled import Program
from revani.core.program.intervened import check_intervention, intervened, outlook_told, program_of, version_of
from revani.core.quantities.refusal import Refusal
from revani.core.shown.run import RunView, run_view
from revani.jobs.watch import standing_of
from revani.store import runs, shots, verdicts
from revani.store.pool import Connection, Pool

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


class RunChange(BaseModel):
    """What is changed of a run that goes on.

    `amount` is how many frames more, the last frame, stops brighter, or by how much the end of `axis` is moved.
    """

    kind: InterventionKind
    amount: float = Field(0.0, allow_inf_nan=False)
    axis: AxisName | None = None
    by: Who = Field("", validate_default=True)


class Outlook(BaseModel):
    """What a change would come to: the last frame and its clock, and how much film; in words."""

    told: str


async def _changed(conn: Connection, id: UUID, change: RunChange) -> tuple[Program, Program]:
    """The program of a run that goes on, and what a change would make of it. Raises Refusal."""
    run = await runs.read(conn, id)
    if run.state != "running" or run.rig == CLOCK_RIG:
        raise Refusal("kind", "Only a run that goes on, with a linked camera, is changed.", change.kind)
    program = await program_of_run(run)
    if program.shot.waits is not None and run.begins_s is None:
        raise Refusal("kind", "It waits still: what is left of it is changed once it has begun.", change.kind)
    number = run.taken + run.missed + 1
    order = Intervention(
        nth=1, kind=change.kind, amount=change.amount, axis=change.axis, from_number=min(number, program.frame_count)
    )
    check_intervention(program, order, number)
    return program, await asyncio.to_thread(intervened, program, [order])


@router.post("/runs/{id}/change")
async def change(id: UUID, order: RunChange, db: Db) -> RunView:
    """Change what is left of a run: its runner takes it up before its next frame, and notes who did it and when."""
    await _changed(db, id, order)
    await runs.intervene(db, id, order.kind, order.amount, order.axis, order.by)
    return await view_of(db, await runs.read(db, id))


@router.post("/runs/{id}/change/outlook")
async def outlook(id: UUID, order: RunChange, db: Db) -> Outlook:
    """What a change would come to, without making it."""
    before, after = await _changed(db, id, order)
    return Outlook(told=await asyncio.to_thread(outlook_told, before, after))


class MendOrder(BaseModel):
    """The field whose fix is taken, of the reasons of the newest verdict."""

    field: Annotated[str, Field(max_length=80)]


class Mended(BaseModel):
    """The shot that was changed, and what was done in words; the run goes on as it was armed."""

    shot_id: UUID
    told: str


@router.post("/runs/{id}/mend")
async def mend(id: UUID, order: MendOrder, db: Db) -> Mended:
    """Change the shot, as it is now, by the fix of a reason of the newest verdict. Raises Refusal without one."""
    run = await runs.read(db, id)
    found = await verdicts.of_run(db, id)
    reasons = found[-1].reasons if found else ()
    fix = next((one.fix for one in reasons if one.field == order.field and one.fix is not None), None)
    if fix is None:
        raise Refusal("field", "Only what the newest verdict offers a fix for is mended.", order.field)
    saved = await shots.read(db, run.shot_id)
    shot = apply(Shot.model_validate(saved.document), Edit(field=order.field, text=fix.typed))
    await asyncio.to_thread(compile_fitted, shot)
    await shots.save(db, run.shot_id, shot, saved.version)
    return Mended(shot_id=run.shot_id, told=f"{fix.label}: {fix.price}. This run goes on as it was armed.")


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
    """A run's view as JSON, and whether all is said of the run."""
    async with pool.connection(timeout=2) as conn:
        view = await view_of(conn, await runs.read(conn, id))
    return view.model_dump_json(), view.settled


_programs: Kept[tuple[UUID, tuple[bool, int]], Program] = Kept(40)


async def program_of_run(run: Run) -> Program:
    """The program of a run, compiled once, and once more for each change that its runner has taken up."""
    return await asyncio.to_thread(_programs.get, (run.id, version_of(run)), lambda: program_of(run))


async def view_of(conn: Any, run: Run) -> RunView:
    """A run as it stands now, in words."""
    return run_view(await standing_of(conn, run, await program_of_run(run)))
