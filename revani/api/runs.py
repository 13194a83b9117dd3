"""Runs and their journals."""

import asyncio
from collections import OrderedDict
from collections.abc import AsyncIterator
from datetime import datetime
from typing import Annotated, Any, Literal
from uuid import UUID

from fastapi import APIRouter, HTTPException, Path, Query, Request
from fastapi.responses import FileResponse, Response
from pydantic import BaseModel
from sse_starlette import EventSourceResponse

from revani.api.deps import Db
from revani.api.following import Following, TooMany
from revani.core.documents import Shot, driven_measure
from revani.core.light.dials import marked_aperture, marked_iso, show_shutter
from revani.core.picture.render import light_strip
from revani.core.program import Program, compile_shot
from revani.core.quantities.units import duration, gigabytes, stops
from revani.core.shown.loom_move import turning_points
from revani.core.watch import Seen, gaps_told, sign_of
from revani.exports.film_name import film_name
from revani.jobs.assemble import frame_path
from revani.rig.drivers.http_camera import HttpCamera
from revani.rig.ports import CameraError
from revani.rig.stage import StageClock
from revani.settings import settings
from revani.store import records, runs
from revani.store.pool import Pool
from revani.store.runs import JournalFrame, Run

router = APIRouter(prefix="/api")

_SLACK_REAL_S = 3.0
_MOST_PROGRAMS = 40
FrameNumber = Annotated[int, Path(ge=1, le=2_000_000_000)]


class Figure(BaseModel):
    """A figure to be read from five metres."""

    label: str
    text: str
    state: Literal["good", "mind", "bad"] = "good"


class RunView(BaseModel):
    """A run as the Run page shows it."""

    id: UUID
    shot_id: UUID
    rig: str
    name: str
    place: str
    state: str
    headline: str
    reason: str
    speed: float
    frame_count: int
    taken: int
    missed: int
    next_number: int | None
    next_in_s: float | None
    next_in: str
    progress: float
    film_so_far: str
    last_frame_clock: str
    left: str
    newest_number: int | None
    newest_settings: str
    picture_age: str
    figures: list[Figure]
    armed_clock: str
    start_clock: str
    end_clock: str
    start_s: float
    end_s: float
    now_s: float
    sky_colours: list[str]
    live: bool
    turns: list[str]
    zone: str
    sign: str
    sign_tone: Literal["good", "mind", "bad"]
    overridden: list[str]
    notes: list[str]
    gaps: str
    gaps_tone: Literal["good", "bad"]
    film_name: str


class FrameView(BaseModel):
    """One journal entry for reading."""

    number: int
    clock: str
    outcome: str
    reason: str
    settings: str
    planned: str
    late_s: float | None
    size: str
    rig: str


@router.get("/runs")
async def list_runs(db: Db, most: Annotated[int, Query(ge=1, le=200)] = 30) -> list[RunView]:
    """The newest runs, newest first."""
    return [await run_view(db, run) for run in await runs.latest(db, most)]


@router.get("/runs/{id}")
async def read_run(id: UUID, db: Db) -> RunView:
    """One run as it stands."""
    return await run_view(db, await runs.read(db, id))


@router.post("/runs/{id}/stop")
async def stop(id: UUID, db: Db) -> RunView:
    """Ask for a safe stop: the frame that is being taken is finished and stored first."""
    return await run_view(db, await runs.want_stop(db, id))


@router.get("/runs/{id}/events")
async def follow(id: UUID, db: Db, request: Request) -> EventSourceResponse:
    """The run's view as server-sent events: as it stands, and whenever it changes, until the run has ended."""
    following: Following = request.app.state.following
    try:
        following.make_room()
    except TooMany:
        raise HTTPException(503, "So many pages watch already that one more is not served.") from None
    first = (await run_view(db, await runs.read(db, id))).model_dump_json()

    async def events() -> AsyncIterator[dict[str, str]]:
        async for text in following.follow(id, first):
            yield {"event": "run", "data": text}

    return EventSourceResponse(events())


async def look(pool: Pool, id: UUID) -> tuple[str, bool]:
    """A run's view as JSON, and whether the run has ended."""
    async with pool.connection(timeout=2) as conn:
        view = await run_view(conn, await runs.read(conn, id))
    return view.model_dump_json(), view.state in runs.ENDED


@router.get("/runs/{id}/frames")
async def frames(id: UUID, db: Db) -> list[FrameView]:
    """The journal, planned beside actual."""
    run = await runs.read(db, id)
    program = await program_of_run(run)
    return [_frame_view(program, frame, _set_up_for(run, frame)) for frame in await runs.journal(db, id)]


@router.get("/runs/{id}/frames/{number}/picture")
async def picture(id: UUID, number: FrameNumber, db: Db) -> Response:
    """A frame's picture, from home if it has been fetched, else from the camera."""
    found = [frame for frame in await runs.journal(db, id, after=number - 1) if frame.number == number]
    home = frame_path(id, number)
    if home.exists():
        return FileResponse(home, media_type="image/jpeg", headers={"Cache-Control": "max-age=86400"})
    if not found or found[0].file is None:
        raise records.NotThere("That frame was not taken.")
    content = await asyncio.to_thread(_from_camera, found[0].file)
    kind = "video/mp4" if found[0].file.endswith(".mp4") else "image/jpeg"
    return Response(content, media_type=kind, headers={"Cache-Control": "max-age=3600"})


@router.get("/rig/live.jpg")
async def live() -> Response:
    """What stands before the rig's camera now."""
    return Response(await asyncio.to_thread(_look), media_type="image/jpeg", headers={"Cache-Control": "no-store"})


def _look() -> bytes:
    camera = HttpCamera(settings().camera)
    try:
        return camera.live()
    except CameraError as error:
        raise records.NotThere(str(error)) from error
    finally:
        camera.close()


def _from_camera(file: str) -> bytes:
    camera = HttpCamera(settings().camera)
    try:
        with camera.fetch(file) as pieces:
            return b"".join(pieces)
    except CameraError as error:
        raise records.NotThere(str(error)) from error
    finally:
        camera.close()


_HEADLINES = {
    "armed": "Armed", "running": "Running", "finished": "Finished", "stopped": "Stopped", "failed": "Broken off",
    "missed": "Missed its start",
}  # fmt: skip


_programs: OrderedDict[UUID, Program] = OrderedDict()


async def program_of_run(run: Run) -> Program:
    """The program of a run, compiled once: the shot of a run never changes."""
    if (found := _programs.get(run.id)) is None:
        found = await asyncio.to_thread(compile_shot, Shot.model_validate(run.shot))
        while len(_programs) >= _MOST_PROGRAMS:
            _programs.popitem(last=False)
    _programs[run.id] = found
    _programs.move_to_end(run.id)
    return found


async def run_view(conn: Any, run: Run) -> RunView:
    """A run as it stands now, in words."""
    program = await program_of_run(run)
    shot = program.shot
    used = run.taken + run.missed
    newest = await runs.journal(conn, run.id, after=max(0, used - 3))
    last_taken = next((frame for frame in reversed(newest) if frame.outcome == "taken"), None)
    live = run.state in ("armed", "running")
    clock = StageClock.model_validate(run.clock) if run.clock else StageClock.real()
    now_s = clock.now_s() if live else program.end_s
    next_number = used + 1 if live and used < run.frame_count else None
    next_in_s = max(0.0, float(program.at_s[used]) - now_s) if next_number else None
    head = "Waiting" if run.state == "running" and used == 0 and (next_in_s or 0) > 5 else _HEADLINES[run.state]
    if run.state == "running" and shot.live and (next_in_s or 0) <= 0:
        # A film is one take: nothing more is due once it has begun.
        next_number = next_in_s = None
        head = "Filming"
    age_s = now_s - last_taken.fired_s if last_taken and last_taken.fired_s and live else None
    signs = {sign["rig"]: sign for sign in await runs.signs(conn)} if live else {}
    word = signs.get(run.rig)
    camera = (word["camera"] or {}) if word else {}
    slot_s = float(program.slot_s[min(used, program.frame_count - 1)])
    sign = sign_of(
        Seen(
            state=run.state, live=shot.live, reports=shot.kit.body.reports_recording, taken=run.taken,
            missed=run.missed, word_age_s=word["age_s"] if word else None, trouble=str(camera.get("trouble", "")),
            picture_age_s=age_s, next_in_s=next_in_s, slot_s=slot_s + float(program.exposures.shutter_s.max()),
            starts=f"{program.local(program.start_s):%H:%M}", waits_for=run.waits_for,
            slack_s=_SLACK_REAL_S * run.speed, overdue_s=now_s - program.start_s if run.speed == 1 else None,
        )
    )  # fmt: skip
    gaps, gaps_tone = gaps_told(run.state, run.frame_count, run.taken, run.missed, run.reason)
    return RunView(
        id=run.id,
        shot_id=run.shot_id,
        rig=run.rig,
        name=shot.name,
        place=shot.place.name,
        state=run.state,
        headline="Stopping" if run.stop_wanted and run.state == "running" else head,
        reason=run.reason,
        speed=run.speed,
        frame_count=run.frame_count,
        taken=run.taken,
        missed=run.missed,
        next_number=next_number,
        next_in_s=next_in_s,
        next_in=duration(round(next_in_s)) if next_in_s is not None else "",
        progress=used / run.frame_count,
        film_so_far=duration(round(_film_so_far_s(run, program, now_s), 1)),
        last_frame_clock=f"{program.local(float(program.at_s[-1])):%H:%M}",
        left=duration(max(0, round(float(program.at_s[-1]) - now_s))) if live else "",
        newest_number=last_taken.number if last_taken else None,
        newest_settings=_settings_text(last_taken.settings) if last_taken else "",
        picture_age=f"{duration(max(0, round(age_s)))} ago" if age_s is not None else "",
        figures=_figures(run, last_taken, camera),
        armed_clock=f"{datetime.fromtimestamp(run.armed_at.timestamp(), program.zone):%a %-d %b, %H:%M %Z}",
        start_clock=f"{program.local(program.start_s):%H:%M}",
        end_clock=f"{program.local(program.end_s):%H:%M}",
        start_s=program.start_s,
        end_s=program.end_s,
        now_s=now_s,
        sky_colours=light_strip(program.sun_altitude_deg[:: max(1, program.frame_count // 60)]),
        live=shot.live,
        turns=_turns(program, last_taken),
        zone=f"{program.local(program.start_s):%Z}",
        sign=sign.text if sign else "",
        sign_tone=sign.tone if sign else "good",
        overridden=run.overridden,
        notes=run.notes,
        gaps=gaps,
        gaps_tone=gaps_tone,
        film_name=film_name(shot),
    )


def _film_so_far_s(run: Run, program: Program, now_s: float) -> float:
    """How much film there is: of the frames that are taken, or of a film that is being made."""
    if program.shot.live and run.state == "running" and not run.taken:
        return min(max(now_s - program.start_s, 0.0), float(program.timing.event_s))
    return float(program.timing.playback_s * run.taken if program.shot.live else run.taken / program.timing.fps)


def _turns(program: Program, taken: JournalFrame | None) -> list[str]:
    """The turning points of a filmed move: those that the rig reported, else those that are planned."""
    motion = program.motion
    if not program.shot.live or motion is None:
        return []
    reported = (taken.rig or {}).get("turns", []) if taken else []
    if reported:
        return [f"{duration(round(turn['due_s'] - program.start_s, 1))}: {_rig_text(turn)}" for turn in reported]
    return [f"{at}: planned" for at in turning_points(program)]


def _set_up_for(run: Run, frame: JournalFrame) -> bool:
    """Whether a frame is the first of a run that was started at once: it comes when the camera is set up."""
    return frame.number == 1 and run.shot["start"]["by"] == "instant"


def _figures(run: Run, newest: JournalFrame | None, camera: dict[str, Any]) -> list[Figure]:
    ahead = camera.get("clock_ahead_s")
    says = (newest.camera or {}) if newest else {}
    battery, free = says.get("battery_left"), says.get("card_free_bytes")
    late_s = None
    if newest and newest.fired_s and not _set_up_for(run, newest):
        late_s = (newest.fired_s - newest.planned_s) / run.speed
    late = "–" if late_s is None else f"{late_s * 1000:.0f} ms" if late_s < 1 else f"{late_s:.1f} s"
    return [
        Figure(
            label="battery", text="–" if battery is None else f"{battery:.0%}",
            state="good" if battery is None or battery > 0.2 else "mind" if battery > 0.05 else "bad",
        ),
        Figure(
            label="card left", text="–" if free is None else gigabytes(free),
            state="good" if free is None or free > 4e9 else "mind",
        ),
        Figure(label="missed", text=f"{run.missed:,}", state="bad" if run.missed else "good"),
        Figure(
            label="late", text=late, state="good" if late_s is None or late_s < 0.1 else "mind",
        ),
        *(
            [Figure(label="camera clock", text=f"{ahead:+.1f} s", state="good" if abs(ahead) < 0.5 else "mind")]
            if ahead is not None
            else []
        ),
    ]  # fmt: skip


def _settings_text(taken: dict[str, Any] | None) -> str:
    if not taken:
        return ""
    aperture = marked_aperture(taken["aperture"])
    return f"{show_shutter(taken['shutter_s'])} · f/{aperture:g} · ISO {marked_iso(taken['iso'])}"


def _rig_text(rig: dict[str, Any] | None) -> str:
    """Where the axes were, and how far off that was: `slide 1,000.1 mm (0.07 mm off)`."""
    if not rig or "reached" not in rig:
        return ""
    return ", ".join(
        f"{name} {measure.show(value, 1)} ({measure.show(value - rig['planned'][name])} off)"
        for name, value in rig["reached"].items()
        if name in rig["planned"] and (measure := driven_measure(name))
    )


def _frame_view(program: Program, frame: JournalFrame, set_up: bool) -> FrameView:
    at = frame.number - 1
    planned = {
        "shutter_s": float(program.exposures.shutter_s[at]),
        "aperture": float(program.exposures.aperture[at]),
        "iso": float(program.exposures.iso[at]),
    }
    return FrameView(
        number=frame.number,
        clock=f"{program.local(frame.fired_s or frame.planned_s):%H:%M:%S}",
        outcome=frame.outcome,
        reason=frame.reason,
        settings=_settings_text(frame.settings),
        planned=f"{_settings_text(planned)} · {stops(float(program.exposures.error_stops[at]))}",
        late_s=None if frame.fired_s is None or set_up else round(frame.fired_s - frame.planned_s, 3),
        size=gigabytes(frame.size_bytes) if frame.size_bytes else "",
        rig=_rig_text(frame.rig),
    )
