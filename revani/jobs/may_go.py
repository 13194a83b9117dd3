"""Looks at the first frames of every run as they come, says whether one may go, and listens to what was filmed."""

import asyncio
from uuid import UUID

import structlog

from revani.core.documents.run import ENDED, JournalFrame, Run
from revani.core.program.compiled import Program
from revani.core.quantities.refusal import Refusal
from revani.core.watch.first_frames import GoVerdict, frames_looked_at, looked_after, may_go
from revani.jobs.frame_file import content_of
from revani.jobs.look import look
from revani.jobs.programs import Programs
from revani.jobs.sound_track import NOT_HAD, sound_of
from revani.rig.ports import CameraError
from revani.store import runs, verdicts
from revani.store.pool import Pool, open_pool

log = structlog.get_logger()

# So often it is looked whether there is something to look at.
_EVERY_S = 1.0
# So often files that cannot be had are asked for again.
_TRIES = 10


async def keep_looking(database_url: str) -> None:
    """Look at the first frames of runs for ever, through any outage."""
    while True:
        try:
            async with open_pool(database_url, most=2) as pool:
                await _look_on(pool)
        except Exception as error:
            log.warning("first frames", error=str(error).split("\n")[0])
        await asyncio.sleep(_EVERY_S)


async def _look_on(pool: Pool) -> None:
    programs = Programs()
    tries: dict[tuple[UUID, int], int] = {}
    done: set[UUID] = set()
    while True:
        async with pool.connection() as conn:
            there = await verdicts.waiting(conn)
        programs.keep(there)
        tries = {(id, after): count for (id, after), count in tries.items() if id in there}
        done.intersection_update(there)
        for id in set(there) - done:
            async with pool.connection() as conn:
                run = await runs.read(conn, id)
                known = {one.after for one in await verdicts.of_run(conn, id)}
            # What was changed meanwhile is judged as it was changed.
            if (program := await programs.of(run)) is None:
                continue
            if program.shot.live and run.state in ENDED:
                tries[id, 0] = tries.get((id, 0), 0) + 1
                if await _heard(pool, run, program) or tries[id, 0] >= _TRIES:
                    done.add(id)
                continue
            there_are = run.taken + run.missed
            wanted = [after for after in looked_after(program) if after <= there_are and after not in known]
            if run.state in ENDED and not wanted:
                done.add(id)
            for after in wanted:
                async with pool.connection() as conn:
                    rows = [await runs.frame(conn, id, number) for number in frames_looked_at(program, after)]
                tries[id, after] = tries.get((id, after), 0) + 1
                verdict = await asyncio.to_thread(judged, program, run, [row for row in rows if row], after)
                if verdict is None and tries[id, after] < _TRIES:
                    continue
                async with pool.connection() as conn:
                    await verdicts.keep(conn, id, verdict or may_go(program, after, []))
        await asyncio.sleep(_EVERY_S)


async def _heard(pool: Pool, run: Run, program: Program) -> bool:
    """Whether the sound of what was filmed is measured, or there is none to measure."""
    try:
        async with pool.connection() as conn:
            await sound_of(conn, run, program)
    except NOT_HAD as error:
        log.info("sound not measured", run=str(run.id), why=str(error))
        return False
    return True


def judged(program: Program, run: Run, rows: list[JournalFrame], after: int) -> GoVerdict | None:
    """The verdict after so many frames, by what became of those that are looked at; None where no file can be had."""
    taken = [frame for frame in rows if frame.outcome == "taken" and frame.file]
    files = [(frame.number, content) for frame in taken if (content := _content(run, frame)) is not None]
    if taken and not files:
        return None
    return may_go(program, after, look(program, files), len([frame for frame in rows if frame.outcome == "missed"]))


def _content(run: Run, frame: JournalFrame) -> bytes | None:
    """The file of a frame; None where it cannot be had."""
    try:
        return content_of(run.rig, run.id, frame.number, frame.file or "")
    except (CameraError, Refusal):
        return None
