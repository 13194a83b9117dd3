"""The journals of runs, and the pictures of their frames."""

import asyncio
from typing import Annotated
from uuid import UUID

from fastapi import APIRouter, Path
from fastapi.responses import FileResponse, Response

from revani.api.deps import Db
from revani.api.runs import program_of_run
from revani.core.shown.run import FrameView, frame_view
from revani.jobs.assemble import frame_path
from revani.rig.drivers import camera_at
from revani.rig.ports import CameraError
from revani.settings import settings
from revani.store import records, runs

router = APIRouter(prefix="/api")

FrameNumber = Annotated[int, Path(ge=1, le=2_000_000_000)]


@router.get("/runs/{id}/frames")
async def frames(id: UUID, db: Db) -> list[FrameView]:
    """The journal, planned beside actual."""
    run = await runs.read(db, id)
    program = await program_of_run(run)
    return [frame_view(run, program, frame) for frame in await runs.journal(db, id)]


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
    camera = camera_at(settings().camera)
    try:
        return camera.live()
    except CameraError as error:
        raise records.NotThere(str(error)) from error
    finally:
        camera.close()


def _from_camera(file: str) -> bytes:
    camera = camera_at(settings().camera)
    try:
        with camera.fetch(file) as pieces:
            return b"".join(pieces)
    except CameraError as error:
        raise records.NotThere(str(error)) from error
    finally:
        camera.close()
