"""Watches every run that is live, raises what a person is called for, and lets it go out."""

import asyncio
import time
from uuid import UUID

import structlog

from revani.core.documents.run import CLOCK_RIG, ENDED, Run
from revani.core.program.compiled import Program, card_capacity_bytes
from revani.core.program.intervened import PASSED_OVER
from revani.core.shown.sound import sound_rows
from revani.core.shown.standing import Standing, watched
from revani.core.watch.alarm import Alarm
from revani.core.watch.alarms import alarms_of
from revani.core.watch.around import Around
from revani.core.watch.trends import Sample
from revani.exports.film_name import film_name
from revani.jobs.outlets import send
from revani.jobs.programs import Programs
from revani.rig.stage import StageClock
from revani.store import alarms, heard, runs, sounds, verdicts
from revani.store.pool import Connection, Pool, open_pool

log = structlog.get_logger()

_EVERY_S = 0.5
_SAMPLES = 120
# What a run that has ended is called for comes within this time, but for a verdict that is late.
_SETTLES_S, _SETTLED_EVERY_S = 4.0, 5.0
# One to come for is told again so often until somebody has acknowledged it; what is older than that is history.
_AGAIN_S, _OLD_S = 300.0, 6 * 3600.0


async def standing_of(conn: Connection, run: Run, program: Program) -> Standing:
    """All that a run stands on just now."""
    newest = await runs.journal(conn, run.id, after=max(0, run.taken + run.missed - 4))
    live = run.state not in ENDED
    words = {sign.rig: sign for sign in await runs.signs(conn)} if live else {}
    clock = StageClock.model_validate(run.clock) if run.clock else StageClock.real()
    # Before its first frame is due one may still set the camera up.
    since_s = -clock.wait_s(program.start_s)
    ended_s = run.ended_at.timestamp() if run.ended_at and run.rig == CLOCK_RIG else program.end_s
    found = await verdicts.of_run(conn, run.id)
    room = card_capacity_bytes(program.shot)
    heard_of = await sounds.of_run(conn, run.id) if program.shot.live and not live else None
    return Standing(
        run=run, program=program, newest=newest, word=words.get(run.rig), now_s=clock.now_s() if live else ended_s,
        film_name=film_name(program.shot), verdict=found[-1] if found else None,
        battery=[Sample(*one) for one in await runs.told_of(conn, run.id, "battery_left", _SAMPLES)] if live else (),
        card=[
            Sample(at_s, free / room) for at_s, free in await runs.told_of(conn, run.id, "card_free_bytes", _SAMPLES)
        ] if live else (),
        heard=await heard.newest(conn, run.rig) if run.state == "running" and run.begins_s is None else (),
        around=await heard.around(conn, run.rig, since_s) if run.state == "running" else Around(),
        alarms=await alarms.of_run(conn, run.id),
        passed_over=await runs.passed_over(conn, run.id, PASSED_OVER) if run.interventions else 0,
        sound=sound_rows(program.shot.take, heard_of.loudness) if heard_of is not None else (),
        settled=run.ended_at is not None and time.time() - run.ended_at.timestamp() > _SETTLES_S,
    )  # fmt: skip


async def keep_watch(database_url: str) -> None:
    """Watch runs for ever, through any outage."""
    while True:
        try:
            async with open_pool(database_url, most=3) as pool:
                await asyncio.gather(_watch(pool), _tell(pool))
        except Exception as error:
            log.warning("watch", error=str(error).split("\n")[0])
        await asyncio.sleep(_EVERY_S)


async def _watch(pool: Pool) -> None:
    programs, raised, left_until = Programs(), dict[UUID, list[Alarm]](), dict[UUID, float]()
    while True:
        async with pool.connection() as conn:
            there = await alarms.watched(conn)
        programs.keep(there)
        raised = {id: standing for id, standing in raised.items() if id in there}
        left_until = {id: until for id, until in left_until.items() if id in there}
        for id in there:
            if time.monotonic() < left_until.get(id, 0.0):
                continue
            async with pool.connection() as conn:
                run = await runs.read(conn, id)
                if (program := await programs.of(run)) is None:
                    continue
                stands = await standing_of(conn, run, program)
                if stands.settled:
                    left_until[id] = time.monotonic() + _SETTLED_EVERY_S
                standing = alarms_of(watched(stands))
                if standing != raised.get(id):
                    await alarms.stand(conn, id, standing)
                    raised[id] = standing
        await asyncio.sleep(_EVERY_S)


async def _tell(pool: Pool) -> None:
    """Let out what nobody has acknowledged; an address that cannot be reached says so, and is tried again."""
    while True:
        async with pool.connection() as conn:
            outlets = await alarms.outlets(conn)
            waiting = await alarms.to_tell(conn, _AGAIN_S, _OLD_S) if outlets else []
        if waiting:
            tried = reached = 0
            for outlet in outlets:
                meant = [(one, name) for one, name in waiting if outlet.from_level == "look" or one.level == "come"]
                lines = [f"{name}: {one.text} {one.advice}" for one, name in meant]
                if not lines:
                    continue
                urgent = any(one.level == "come" for one, _ in meant)
                failed = await asyncio.to_thread(send, outlet.address, "Come" if urgent else "Look", "\n".join(lines))
                tried, reached = tried + 1, reached + (not failed)
                async with pool.connection() as conn:
                    await alarms.outlet_failed(conn, outlet.id, failed)
            async with pool.connection() as conn:
                await alarms.told(conn, [one.id for one, _ in waiting], reached > 0 or not tried)
        await asyncio.sleep(_EVERY_S)
