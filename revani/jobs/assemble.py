"""From a run's frames to a film: fetched from the camera, verified, encoded at the exact rate."""

import asyncio
import hashlib
import shutil
from collections.abc import Callable
from fractions import Fraction
from pathlib import Path
from uuid import UUID

import av
import numpy as np
from PIL import Image

from revani.core.documents import Shot
from revani.core.pace import solved
from revani.jobs.queue import queue
from revani.rig.drivers.http_camera import HttpCamera
from revani.rig.ports import CameraError
from revani.settings import settings
from revani.store import films, runs
from revani.store.pool import Pool, open_pool
from revani.store.runs import JournalFrame

_NOTE_EVERY = 20


class Cancelled(Exception):
    """The film is not wanted any more."""


def frames_folder(run_id: UUID) -> Path:
    """Where the frames of a run lie once they are home."""
    return settings().runs_dir / str(run_id) / "frames"


def frame_path(run_id: UUID, number: int) -> Path:
    """Where one frame lies once it is home."""
    return frames_folder(run_id) / f"{number:06d}.jpg"


def film_path(run_id: UUID, film_id: UUID) -> Path:
    """Where a film lies."""
    return settings().runs_dir / str(run_id) / f"{film_id}.mp4"


@queue.task(name="assemble", queue="long")
async def assemble(film_id: str) -> None:
    """Make one film."""
    id = UUID(film_id)
    async with open_pool(settings().database, most=2) as pool:
        try:
            count, size = await _make(pool, id)
        except Cancelled:
            async with pool.connection() as conn:
                await films.give_up(conn, id, "cancelled", "Cancelled.")
        except Exception as error:
            async with pool.connection() as conn:
                await films.give_up(conn, id, "failed", str(error))
            raise
        else:
            async with pool.connection() as conn:
                await films.finish(conn, id, count, size)


async def _make(pool: Pool, film_id: UUID) -> tuple[int, int]:
    async with pool.connection() as conn:
        film = await films.read(conn, film_id)
        if film.state == "cancelled":
            raise Cancelled
        run = await runs.read(conn, film.run_id)
        taken = [frame for frame in await runs.journal(conn, run.id) if frame.outcome == "taken"]
    loop = asyncio.get_running_loop()

    def tell(step: str) -> Callable[[int], None]:
        async def note(done: int) -> bool:
            async with pool.connection() as conn:
                return await films.progress(conn, film_id, step, done)

        def told(done: int) -> None:
            if done % _NOTE_EVERY == 0 and asyncio.run_coroutine_threadsafe(note(done), loop).result():
                raise Cancelled

        return told

    await asyncio.to_thread(bring_home, run.id, taken, tell("Fetching the frames"))
    shot = Shot.model_validate(run.shot)
    fps = solved(shot).fps
    target = film_path(run.id, film_id)
    paths = [frame_path(run.id, frame.number) for frame in taken]
    size = await asyncio.to_thread(encode, paths, fps, target, tell("Making the film"))
    return len(paths), size


def bring_home(run_id: UUID, frames: list[JournalFrame], tell: Callable[[int], None]) -> None:
    """Fetch the frames that are not home yet, each kept only if its SHA-256 is the camera's.

    Raises CameraError where one cannot be fetched or came over damaged.
    """
    frames_folder(run_id).mkdir(parents=True, exist_ok=True)
    camera = HttpCamera(settings().camera)
    try:
        for done, frame in enumerate(frames):
            tell(done)
            target = frame_path(run_id, frame.number)
            if target.exists() or frame.file is None:
                continue
            partial = target.with_suffix(".part")
            digest = hashlib.sha256()
            with camera.fetch(frame.file) as pieces, partial.open("wb") as out:
                for piece in pieces:
                    digest.update(piece)
                    out.write(piece)
            if digest.hexdigest() != frame.sha256:
                partial.unlink()
                raise CameraError("refused", f"Frame {frame.number} came over damaged; try again.")
            partial.rename(target)
    finally:
        camera.close()


def encode(frames: list[Path], fps: Fraction, target: Path, tell: Callable[[int], None]) -> int:
    """Encode pictures to an H.264 film at exactly `fps` frames a second; returns its size in bytes.

    The film appears under its name only when it is whole. Raises ValueError for no frames.
    """
    if not frames:
        raise ValueError("There are no frames to make a film of.")
    if shutil.disk_usage(target.parent).free < 200_000_000:
        raise ValueError("Under 200 MB are free on the disk: make room, then try again.")
    partial = target.with_suffix(".part.mp4")
    try:
        with av.open(str(partial), "w", format="mp4", options={"movflags": "faststart"}) as film:
            stream = film.add_stream("libx264", rate=fps, options={"preset": "veryfast", "crf": "20"})
            stream.time_base = 1 / fps
            stream.pix_fmt = "yuv420p"
            for number, path in enumerate(frames):
                tell(number)
                with Image.open(path) as image:
                    if number == 0:
                        # H.264 in 4:2:0 has even sides.
                        stream.width, stream.height = image.width // 2 * 2, image.height // 2 * 2
                    pixels = np.asarray(image.convert("RGB"))[: stream.height, : stream.width]
                picture = av.VideoFrame.from_ndarray(pixels, format="rgb24")
                picture.pts, picture.time_base = number, 1 / fps
                for packet in stream.encode(picture):
                    film.mux(packet)
            for packet in stream.encode():
                film.mux(packet)
        partial.rename(target)
    finally:
        partial.unlink(missing_ok=True)
    return target.stat().st_size
