"""The journals of runs, and the pictures of their frames."""

import asyncio
from contextlib import closing, suppress
from typing import Annotated, NamedTuple
from uuid import UUID

from fastapi import APIRouter, Depends, Path
from fastapi.responses import FileResponse, Response

from revani.api.deps import Costly, Db
from revani.api.looked import as_png, cut_out, offer_looks, picture_in
from revani.api.runs import program_of_run
from revani.core.picture.looked_at import horizon
from revani.core.picture.planned import picture_of
from revani.core.picture.skylight import Picture
from revani.core.program.compiled import Program
from revani.core.quantities.arrays import thinned
from revani.core.quantities.refusal import Refusal
from revani.core.shown.against import AgainstView, FrameAgainst, against_view, frame_against
from revani.core.shown.frames import BeforeView, FrameView, before_view, frame_view
from revani.core.shown.sound import SoundRow
from revani.jobs.assemble import frame_path
from revani.jobs.frame_file import content_of
from revani.jobs.reaching import camera_of
from revani.jobs.residual import residual
from revani.jobs.sound_track import NOT_HAD, sound_told
from revani.rig.ports import CameraError
from revani.store import befores, records, runs
from revani.store.pool import Connection

router = APIRouter(prefix="/api")

FrameNumber = Annotated[int, Path(ge=1, le=2_000_000_000)]
# So many frames all through a run are held against its rehearsal.
_AGAINST = 24
_WIDE = 480


@router.get("/runs/{id}/frames")
async def frames(id: UUID, db: Db) -> list[FrameView]:
    """The journal, planned beside actual."""
    run = await runs.read(db, id)
    program = await program_of_run(run)
    return [frame_view(run, program, frame) for frame in await runs.journal(db, id)]


@router.get("/runs/{id}/before")
async def before(id: UUID, db: Db) -> list[BeforeView]:
    """What is kept of what the camera saw before a run that waited began, in order."""
    await runs.read(db, id)
    return [before_view(one.number, one.ago_s) for one in await befores.of_run(db, id)]


@router.get("/runs/{id}/before/{number}/picture")
async def picture_before(id: UUID, number: FrameNumber, db: Db) -> Response:
    """One of these pictures."""
    content = await befores.picture(db, id, number)
    return Response(content, media_type="image/jpeg", headers={"Cache-Control": "max-age=86400"})


@router.get("/runs/{id}/frames/{number}/picture")
async def picture(id: UUID, number: FrameNumber, db: Db) -> Response:
    """A frame's picture, from home if it has been fetched, else from the camera."""
    home = frame_path(id, number)
    if home.exists():
        return FileResponse(home, media_type="image/jpeg", headers={"Cache-Control": "max-age=86400"})
    file = await _file_of(db, id, number)
    rig = (await runs.read(db, id)).rig
    content = await asyncio.to_thread(_content, rig, id, number, file)
    kind = "video/mp4" if file.endswith(".mp4") else "image/jpeg"
    return Response(content, media_type=kind, headers={"Cache-Control": "max-age=3600"})


@router.get("/runs/{id}/sound", dependencies=[Costly])
async def sound(id: UUID, db: Db) -> list[SoundRow]:
    """How loud the sound of what was filmed is, against what was wanted; nothing where nothing was filmed."""
    run = await runs.read(db, id)
    program = await program_of_run(run)
    try:
        return await sound_told(db, run, program)
    except NOT_HAD as error:
        raise records.NotThere(str(error)) from error


class Shown(NamedTuple):
    """A picture of a run: its pixels, the run's program, and the frame (from 0) as which the rig is posed."""

    pixels: Picture
    program: Program
    i: int

    def picture(self) -> Picture:
        """Its pixels."""
        return self.pixels

    def horizon(self) -> list[tuple[float, float]]:
        """Where the level horizon should lie in it."""
        return horizon(self.program, self.i)

    def piece(self, across: float, down: float) -> Picture:
        """A piece of it, the file's own pixels."""
        return cut_out(self.pixels, across, down)


async def _taken(id: UUID, number: FrameNumber, db: Db) -> Shown:
    """A frame that came home. Raises NotThere."""
    run = await runs.read(db, id)
    program = await program_of_run(run)
    if number > program.frame_count:
        raise records.NotThere("The run has no such frame.")
    content = await asyncio.to_thread(_content, run.rig, id, number, await _file_of(db, id, number))
    return Shown(await asyncio.to_thread(picture_in, content), program, number - 1)


async def _in_the_finder(id: UUID, db: Db) -> Shown:
    """What stands before the camera now, of a run that has not ended. Raises NotThere."""
    run = await runs.read(db, id)
    return Shown(picture_in(await asyncio.to_thread(_look, run.rig)), await program_of_run(run), 0)


offer_looks(router, "/runs/{id}/frames/{number}", _taken)
offer_looks(router, "/runs/{id}/live", _in_the_finder)


@router.get("/runs/{id}/frames/{number}/rehearsed", response_class=Response, dependencies=[Costly])
async def rehearsed_frame(id: UUID, number: FrameNumber, db: Db) -> Response:
    """The picture that a frame of the run was rehearsed to be."""
    program = await program_of_run(await runs.read(db, id))
    if number > program.frame_count:
        raise records.NotThere("The run has no such frame.")
    return as_png(await asyncio.to_thread(picture_of, program, number - 1, _WIDE))


@router.get("/runs/{id}/frames/{number}/against", dependencies=[Costly])
def hold_against(shown: Annotated[Shown, Depends(_taken)]) -> FrameAgainst:
    """A frame that came home against the rehearsed one: stops and pixels."""
    return frame_against(shown.i + 1, *residual(shown.program, shown.i, shown.pixels))


@router.get("/runs/{id}/against", dependencies=[Costly])
async def hold_all_against(id: UUID, db: Db) -> AgainstView:
    """Frames all through a run against its rehearsal; of one that is kept by the clock there are none."""
    run = await runs.read(db, id)
    program = await program_of_run(run)
    journal = await runs.journal(db, id)
    there = [one for one in journal if one.outcome == "taken" and one.file and not one.file.endswith(".mp4")]
    chosen = [there[k] for k in thinned(len(there), _AGAINST)]

    def held() -> list[FrameAgainst]:
        found = []
        for one in chosen:
            with suppress(records.NotThere):
                got = picture_in(_content(run.rig, id, one.number, one.file or ""))
                found.append(frame_against(one.number, *residual(program, one.number - 1, got)))
        return found

    return against_view(await asyncio.to_thread(held))


@router.get("/runs/{id}/live.jpg")
async def live(id: UUID, db: Db) -> Response:
    """What stands before the camera of a run now."""
    rig = (await runs.read(db, id)).rig
    return Response(await asyncio.to_thread(_look, rig), media_type="image/jpeg", headers={"Cache-Control": "no-store"})


async def _file_of(db: Connection, id: UUID, number: int) -> str:
    """The camera's name for a frame of a run. Raises NotThere."""
    found = await runs.frame(db, id, number)
    if found is None or found.file is None:
        raise records.NotThere("That frame was not taken.")
    return found.file


def _content(rig: str, id: UUID, number: int, file: str) -> bytes:
    """The file of a frame. Raises NotThere."""
    try:
        return content_of(rig, id, number, file)
    except (CameraError, Refusal) as error:
        raise records.NotThere(str(error)) from error


def _look(rig: str) -> bytes:
    try:
        with closing(camera_of(rig)) as camera:
            return camera.live()
    except (CameraError, Refusal) as error:
        raise records.NotThere(str(error)) from error
