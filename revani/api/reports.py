"""The morning report of a run: as JSON, as PDF."""

import asyncio
from uuid import UUID

from fastapi import APIRouter
from fastapi.responses import Response

from revani.api.deps import Costly, Db
from revani.api.named import named
from revani.api.runs import program_of_run
from revani.core.shown.report import Report, report
from revani.core.shown.sound import not_heard
from revani.exports.film_name import film_name
from revani.exports.report_sheet import as_sheet
from revani.exports.sheet import Paper, sheet_pdf
from revani.jobs.sound_track import NOT_HAD, sound_told
from revani.store import runs, verdicts
from revani.store.pool import Connection

router = APIRouter(prefix="/api/runs/{id}")


@router.get("/report", dependencies=[Costly])
async def morning_report(id: UUID, db: Db) -> Report:
    """What became of a run in ten lines, what to do before the next, and the details."""
    return await _report(db, id)


@router.get("/report.pdf", response_class=Response, dependencies=[Costly])
async def morning_report_as_pdf(id: UUID, db: Db, size: Paper = "a4") -> Response:
    """The same on paper."""
    told = await _report(db, id)
    pdf = await asyncio.to_thread(sheet_pdf, as_sheet(told), size)
    program = await program_of_run(await runs.read(db, id))
    name = film_name(program.shot, "the morning after", ".pdf")
    return Response(pdf, media_type="application/pdf", headers=named(name))


async def _report(db: Connection, id: UUID) -> Report:
    run = await runs.read(db, id)
    program, journal, found = await program_of_run(run), await runs.journal(db, id), await verdicts.of_run(db, id)
    try:
        sound = await sound_told(db, run, program)
    except NOT_HAD as error:
        # Told as not known: that a file cannot be had says nothing of its sound.
        sound = [not_heard(str(error))]
    return await asyncio.to_thread(report, run, program, journal, found, sound)
