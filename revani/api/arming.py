"""Arming: what stands against a shot, when the rig is free, and putting it before the runner."""

import asyncio
import time
from dataclasses import replace
from datetime import timedelta
from typing import Literal
from uuid import UUID

from fastapi import APIRouter
from pydantic import BaseModel, Field

from revani.api.deps import Db
from revani.api.rigup import list_of
from revani.api.runs import program_of_run, view_of
from revani.api.which_rig import which_rig
from revani.core.arming.booking import Booking, against, fastest, free_from, in_the_way, speeds
from revani.core.arming.rigs import other_gear
from revani.core.documents import Shot
from revani.core.documents.rig import Rig, RigKey
from revani.core.documents.run import CLOCK_RIG, Run, RunnerSign
from revani.core.edit.fitting import compile_fitted
from revani.core.findings.finding import Finding, Severity
from revani.core.light.firing import by_the_clock
from revani.core.program.compiled import Program, compile_shot
from revani.core.quantities.refusal import Refusal
from revani.core.quantities.units import gigabytes
from revani.core.rehearsal.outcome import rehearse
from revani.core.rigup.listed import RigUp
from revani.core.shown.run import RunView
from revani.core.timing.start import started_now
from revani.core.timing.waiting import at_the_latest
from revani.rig.known import reached
from revani.rig.stage import FASTEST, StageClock
from revani.settings import settings
from revani.store import records, rigs, runs, shots
from revani.store.pool import Connection

router = APIRouter(prefix="/api")

_LEAD_S = 3.0
# A frame's notes in the runner's spool, generously; and what a machine wants free besides.
_NOTE_BYTES, _SPARE_BYTES = 4_000, 50_000_000


class Arm(BaseModel):
    """How a shot is to be run: on which rig (where none is named, on the one that has the shot's body), when, and how
    fast the stage clock goes (simulated gear alone).

    `version` is the version that was seen: another one is not armed. `anyway` arms it although something
    will fail; `queue` lets it wait where the rig is busy. On `nights` it is armed once for each date from its own on.
    """

    shot_id: UUID
    version: int | None = Field(None, ge=1, le=2_000_000_000)
    rig: RigKey | None = None
    when: Literal["now", "planned"] = "now"
    speed: float = Field(1.0, ge=1, le=FASTEST, allow_inf_nan=False)
    anyway: bool = False
    queue: bool = False
    nights: int = Field(1, ge=1, le=31)


class Against(BaseModel):
    """A finding that stands against arming."""

    severity: Severity
    sentence: str
    figures: str


class RigChoice(BaseModel):
    """A rig that a shot may be armed on."""

    key: str
    name: str


class Arming(BaseModel):
    """What is to be known before a shot is armed on `rig`, one of `rigs`.

    `stops` tells that arming is refused without `anyway`; `busy` what has the rig, and until when, if
    anything has; `speeds` are those of the stage clock that can be had. `open` are steps of the rig-up list that
    nobody has ticked; `as_it_stands` is what it would come to.
    """

    rig: str
    rigs: list[RigChoice]
    findings: list[Against]
    stops: bool
    speeds: list[int]
    busy: str
    open: list[str]
    steps: str
    as_it_stands: str


@router.get("/shots/{id}/arming")
async def before_arming(
    id: UUID, db: Db, when: Literal["now", "planned"] = "planned", speed: float = 1.0, rig: RigKey = ""
) -> Arming:
    """What stands against running a shot, how fast a simulated stage may go, and whether the rig is free."""
    program = await _to_run(Shot.model_validate((await shots.read(db, id)).document), when)
    latest = await _latest(program)
    its = await which_rig(db, program.shot, rig)
    found = (*await _other_gear(db, program.shot, its), *await _found(program, latest))
    others = [] if by_the_clock(program.shot) else await runs.on_rig(db, its.key)
    blocked = in_the_way(_booking(program, speed, latest), await _bookings(others))
    rigged = await list_of(db, program, its.key)
    hurries = not by_the_clock(program.shot) and reached(settings(), its.key).may_hurry
    return Arming(
        rig=its.key,
        rigs=[RigChoice(key=one.key, name=one.name) for one in (await rigs.driven(db)).values()],
        findings=[Against(severity=one.severity, sentence=one.sentence, figures=one.figures) for one in found],
        stops=any(one.severity == "stop" for one in found),
        speeds=sorted({*speeds(program)} & {*speeds(latest)}) if hurries else [1],
        busy=_busy_told(blocked, program) if blocked else "",
        open=list(rigged.open),
        steps=rigged.told,
        as_it_stands=rehearse(program).told,
    )


@router.post("/runs", status_code=201)
async def arm(order: Arm, db: Db) -> RunView:
    """Put a shot before the rig's runner."""
    saved = await shots.read(db, order.shot_id)
    if order.version is not None and saved.version != order.version:
        raise records.StaleVersion(saved)
    planned = Shot.model_validate(saved.document)
    if order.nights > 1 and (order.when == "now" or order.speed > 1):
        raise Refusal("nights", "Several nights are armed at their own starts, by the wall's clock.", order.nights)
    views = [
        await _armed(db, planned.model_copy(update={"date": planned.date + timedelta(days=night)}), order)
        for night in range(order.nights)
    ]
    return views[0]


async def _armed(db: Connection, planned: Shot, order: Arm) -> RunView:
    """Arm one shot. Raises Refusal, which names the date where it is one of several."""
    try:
        return await _arm_one(db, planned, order)
    except Refusal as refusal:
        if order.nights == 1:
            raise
        raise Refusal(refusal.path, f"{planned.date:%-d %b}: {refusal.allowed}", refusal.value) from None


async def _arm_one(db: Connection, planned: Shot, order: Arm) -> RunView:
    program = await _to_run(planned, order.when)
    latest = await _latest(program)
    if order.speed == 1 and program.start_s < time.time() - 1:
        clock = f"{program.local(program.start_s):%H:%M on %-d %b}"
        raise Refusal("when", f"Its start, {clock}, has passed: start now, or choose another date.", order.when)
    most = min(fastest(program), fastest(latest))
    if order.speed > most:
        allowed = f"At most × {most:.0f}: between two frames of this shot the simulated camera has no time for more."
        raise Refusal("speed", allowed, order.speed)
    its = await which_rig(db, program.shot, order.rig or "")
    found = (*await _other_gear(db, program.shot, its), *await _found(program, latest))
    overridden = (*(one.sentence for one in found), *_left_open(await list_of(db, program, its.key)))
    stopping = [one for one in found if one.severity == "stop"]
    if stopping and not order.anyway:
        told = " ".join(one.sentence for one in stopping)
        raise Refusal("anyway", f"{told} Mend it on the desk, or arm it anyway.", False)
    if by_the_clock(program.shot):
        return await view_of(db, await runs.read(db, await _by_the_clock(db, program, order, overridden)))
    if order.speed > 1 and not reached(settings(), its.key).may_hurry:
        raise Refusal("speed", "× 1: the gear of this rig is real, and its clock goes as it goes.", order.speed)
    if (full := _no_room(program, await runs.signs(db), its.key)) is not None:
        raise Refusal("shot_id", full, str(order.shot_id))
    await runs.hold_rig(db, its.key)
    others, wanted = await _bookings(await runs.on_rig(db, its.key)), _booking(program, order.speed, latest)
    blocked = in_the_way(wanted, others)
    if blocked is not None and not order.queue:
        raise Refusal("queue", f"{_busy_told(blocked, program)} Stop that run, or let this one wait for it.", False)
    shot = program.shot
    if blocked is not None and order.speed == 1:
        # It begins when the rig is free, whenever it was meant to.
        shot = started_now(shot, round(free_from(wanted, others), 3))
        program = await asyncio.to_thread(compile_shot, shot)
        latest = await _latest(program)
    id = await runs.arm(
        db,
        runs.Order(
            shot=shot, rig=its.key, speed=order.speed, planned_start_s=program.start_s,
            planned_end_s=latest.end_s,
            frame_count=latest.frames_to_take,
            overridden=overridden, waits_for=_waits_for(blocked, program) if blocked else "",
        ),
    )  # fmt: skip
    return await view_of(db, await runs.read(db, id))


async def _by_the_clock(db: Connection, program: Program, order: Arm, overridden: tuple[str, ...]) -> UUID:
    """A run that nobody is linked to. Raises Refusal for a faster stage: the camera has only its own clock."""
    if order.speed != 1:
        raise Refusal("speed", "× 1: nobody is linked to this camera, and its clock goes as it goes.", order.speed)
    # It begins by its own clock, whatever it was to wait for.
    shot = program.shot.model_copy(update={"waits": None})
    return await runs.arm(
        db,
        runs.Order(
            shot=shot, rig=CLOCK_RIG, speed=1, planned_start_s=program.start_s, planned_end_s=program.end_s,
            frame_count=program.frames_to_take,
            overridden=overridden,
        ),
    )  # fmt: skip


def _left_open(rigged: RigUp) -> tuple[str, ...]:
    """What of the rig-up list was not done, in one line; nothing where all was."""
    if not rigged.open:
        return ()
    first = " ".join(rigged.open[:3])
    return (f"Rigged up: {rigged.told}; not ticked: {first}{' and others.' if len(rigged.open) > 3 else ''}",)


async def _latest(program: Program) -> Program:
    """The program as it is where what it waits for comes at the last moment. Raises Refusal."""
    if program.shot.waits is None:
        return program
    return await asyncio.to_thread(compile_shot, at_the_latest(program.shot))


async def _found(program: Program, latest: Program) -> tuple[Finding, ...]:
    """What will fail, be it begun at once or at the latest."""
    found = await asyncio.to_thread(against, program)
    if latest is program:
        return found
    known = {one.id for one in found}
    later = [one for one in await asyncio.to_thread(against, latest) if one.id not in known]
    at = f"{latest.local(latest.start_s):%H:%M}"
    return (*found, *(replace(one, sentence=f"If it begins at {at}: {one.sentence}") for one in later))


async def _to_run(shot: Shot, when: str) -> Program:
    """The program of a shot as it would be run, brought to what can be had. Raises Refusal."""
    if when == "now":
        shot = started_now(shot, round(time.time() + _LEAD_S, 3))
    return await asyncio.to_thread(compile_fitted, shot)


def _booking(program: Program, speed: float, latest: Program) -> Booking:
    if speed > 1:
        now = time.time()
        return Booking(program.shot.name, now, now + (latest.end_s - program.start_s) / speed, False)
    return Booking(program.shot.name, program.start_s, latest.end_s, True)


async def _bookings(live: list[Run]) -> list[Booking]:
    """When the runs that have a rig, or wait for it, are likely over; those that wait one after the other."""
    now, free_s = time.time(), time.time()
    found = []
    for run in live:
        program = await program_of_run(run)
        if run.speed == 1:
            from_s = min(run.planned_start_s, program.start_s)
            found.append(Booking(program.shot.name, from_s, program.end_s, True))
            continue
        clock = StageClock.model_validate(run.clock) if run.clock else None
        left = (program.end_s - (clock.now_s() if clock else run.planned_start_s)) / run.speed
        begins = now if run.state == "running" else free_s
        free_s = begins + max(left, 1.0)
        found.append(Booking(program.shot.name, begins, free_s, False))
    return found


async def _other_gear(db: Connection, shot: Shot, rig: Rig) -> tuple[Finding, ...]:
    """What the rig is made of that the shot is not planned for."""
    named = {one.id: one.document["name"] for one in await records.everything(db, "gear", archived=True)}
    return () if by_the_clock(shot) else other_gear(shot, rig, named)


def _no_room(program: Program, signs: list[RunnerSign], rig: str) -> str | None:
    """Why the runner's own disk has no room for its notes; None where it has, or nobody says."""
    said = (sign.camera for sign in signs if sign.rig == rig and sign.camera)
    free = next((camera.get("disk_free_bytes") for camera in said), None)
    wanted = _NOTE_BYTES * program.frame_count + _SPARE_BYTES
    if free is None or free > wanted:
        return None
    return f"The runner's disk has {gigabytes(free)} free, and its notes want {gigabytes(wanted)}: make room there."


def _busy_told(blocked: Booking, program: Program) -> str:
    return f"The rig is busy with “{blocked.name}” until about {program.local(blocked.to_s):%H:%M:%S}."


def _waits_for(blocked: Booking, program: Program) -> str:
    return f"“{blocked.name}”, until about {program.local(blocked.to_s):%H:%M:%S}"
