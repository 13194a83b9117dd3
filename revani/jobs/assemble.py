"""From a run's frames to a film: fetched from the camera, verified, encoded at the exact rate."""

import asyncio
import hashlib
import os
import shutil
import time
from collections.abc import Callable
from fractions import Fraction
from pathlib import Path
from uuid import UUID

import av
import numpy as np
import psycopg
import structlog
from PIL import Image
from procrastinate import RetryStrategy
from psycopg_pool import PoolTimeout

from revani.core.documents import Shot
from revani.core.documents.run import JournalFrame
from revani.core.timing.pace import solved
from revani.jobs.queue import queue
from revani.rig.drivers import camera_at
from revani.rig.ports import Camera, CameraError
from revani.settings import settings
from revani.store import films, runs
from revani.store.pool import Pool, open_pool

_NOTE_EVERY_S = 0.5
_ATTEMPTS = 3
_HEARD_WITHIN_S = 30.0
_FETCH_TIMEOUT_S = 5.0

log = structlog.get_logger()


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


class NotMade(Exception):
    """Why a film cannot be made, in words for whoever ordered it."""


@queue.task(
    name="assemble", queue="long",
    retry=RetryStrategy(max_attempts=100, wait=5, retry_exceptions={psycopg.Error, PoolTimeout}),
)  # fmt: skip
async def assemble(film_id: str) -> None:
    """Make one film. Done again, it begins with the frames that are home already."""
    id = UUID(film_id)
    async with open_pool(settings().database, most=2) as pool:
        try:
            made = await _make(pool, id)
        except Cancelled:
            async with pool.connection() as conn:
                await films.give_up(conn, id, "cancelled", "Cancelled.")
        except (NotMade, CameraError) as error:
            async with pool.connection() as conn:
                await films.give_up(conn, id, "failed", str(error))
        except (psycopg.Error, PoolTimeout):
            # The database is away: it is taken up again.
            raise
        except Exception:
            log.exception("film not made", film=film_id)
            async with pool.connection() as conn:
                await films.give_up(conn, id, "failed", "The film could not be made; the worker's log says why.")
        else:
            async with pool.connection() as conn:
                await films.finish(conn, id, *made)


async def _make(pool: Pool, film_id: UUID) -> tuple[int, int, int]:
    """Frames in the film, frames of the run that it has no picture for, and its size in bytes."""
    async with pool.connection() as conn:
        film = await films.read(conn, film_id)
        run = await runs.read(conn, film.run_id)
        journal = await runs.journal(conn, run.id)
    taken = [frame for frame in journal if frame.outcome == "taken"]
    loop = asyncio.get_running_loop()

    def tell(step: str) -> Callable[[int], None]:
        told_s = -1.0

        async def note(done: int) -> bool:
            async with pool.connection() as conn:
                return await films.progress(conn, film_id, step, done)

        def told(done: int) -> None:
            nonlocal told_s
            if time.monotonic() - told_s < _NOTE_EVERY_S:
                return
            told_s = time.monotonic()
            if asyncio.run_coroutine_threadsafe(note(done), loop).result(_HEARD_WITHIN_S):
                raise Cancelled

        return told

    home = await asyncio.to_thread(bring_home, run.id, taken, tell("Fetching the frames"), str(film_id))
    fps = solved(Shot.model_validate(run.shot)).fps
    paths = [frame_path(run.id, number) for number in home]
    size = await asyncio.to_thread(encode, paths, fps, film_path(run.id, film_id), tell("Making the film"))
    return len(home), len(journal) - len(home), size


def bring_home(run_id: UUID, frames: list[JournalFrame], tell: Callable[[int], None], who: str) -> list[int]:
    """Fetch the frames that are not home whole, each kept only if its SHA-256 is the camera's.

    Gives the numbers that are home then; one that the camera has no more, or gives damaged every time, is left out.
    `who` names whoever fetches, so that two do not write one file. Raises CameraError where the camera is away.
    """
    frames_folder(run_id).mkdir(parents=True, exist_ok=True)
    camera = camera_at(settings().camera, timeout_s=_FETCH_TIMEOUT_S)
    home = []
    try:
        for done, frame in enumerate(frames):
            if _is_whole(frame_path(run_id, frame.number), frame) or _fetched(camera, run_id, frame, done, tell, who):
                home.append(frame.number)
    finally:
        camera.close()
    if not home:
        raise NotMade("None of the frames could be fetched whole from the camera.")
    return home


def _is_whole(path: Path, frame: JournalFrame) -> bool:
    """Whether a frame is home, and is what the camera stored."""
    try:
        if path.stat().st_size != frame.size_bytes:
            return False
        with path.open("rb") as file:
            return hashlib.file_digest(file, "sha256").hexdigest() == frame.sha256
    except FileNotFoundError:
        return False


def _fetched(
    camera: Camera, run_id: UUID, frame: JournalFrame, done: int, tell: Callable[[int], None], who: str
) -> bool:
    target = frame_path(run_id, frame.number)
    partial = target.with_suffix(f".{who}.part")
    for attempt in range(_ATTEMPTS):
        digest, size = hashlib.sha256(), 0
        try:
            with camera.fetch(frame.file or "") as pieces, partial.open("wb") as out:
                for piece in pieces:
                    tell(done)
                    size += len(piece)
                    if size > (frame.size_bytes or 0):
                        break
                    digest.update(piece)
                    out.write(piece)
                out.flush()
                os.fsync(out.fileno())
            if digest.hexdigest() == frame.sha256:
                partial.rename(target)
                return True
        except CameraError as error:
            if error.trouble == "unreachable" and attempt == _ATTEMPTS - 1:
                raise
        finally:
            partial.unlink(missing_ok=True)
        tell(done)
    log.warning("frame not brought home", run=str(run_id), frame=frame.number)
    return False


def encode(frames: list[Path], fps: Fraction, target: Path, tell: Callable[[int], None]) -> int:
    """Encode pictures to an H.264 film at exactly `fps` frames a second; returns its size in bytes.

    The film appears under its name only when it is whole. Raises NotMade for no frames, or no room.
    """
    if not frames:
        raise NotMade("There are no frames to make a film of.")
    if shutil.disk_usage(target.parent).free < 200_000_000:
        raise NotMade("Under 200 MB are free on the disk: make room, then try again.")
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
        with partial.open("rb") as written:
            os.fsync(written.fileno())
        partial.rename(target)
    finally:
        partial.unlink(missing_ok=True)
    return target.stat().st_size
