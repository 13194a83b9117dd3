"""From a run's frames to films: fetched from the camera, verified, aligned, made in parts and joined."""

import asyncio
import hashlib
import os
import shutil
import time
from collections.abc import Awaitable, Callable
from contextlib import closing, suppress
from fractions import Fraction
from pathlib import Path
from typing import Any
from uuid import UUID, uuid4

import cv2
import numpy as np
import psycopg
import structlog
from procrastinate import RetryStrategy
from procrastinate.exceptions import AlreadyEnqueued
from psycopg_pool import PoolTimeout

from revani.core.documents import FilmOutput, Shot
from revani.core.documents.run import JournalFrame, Run
from revani.core.edit.fitting import compile_fitted
from revani.core.program.compiled import Program
from revani.core.program.intervened import intervened
from revani.core.quantities.refusal import Refusal
from revani.jobs.align import Aligned, brought_together
from revani.jobs.encode import PART_FRAMES, NotMade, encode, join
from revani.jobs.queue import queue
from revani.jobs.reaching import camera_of
from revani.jobs.render import Recipe
from revani.jobs.resample import Picture
from revani.jobs.source import Clip, Source, Stills, Unreadable, files_of, is_clip, own_folder
from revani.rig.ports import Camera, CameraError
from revani.settings import settings
from revani.store import films, runs
from revani.store.films import Film
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


def film_path(film: Film) -> Path:
    """Where a film, or the picture that is made instead of one, lies."""
    ending = "mp4" if film.output is None or FilmOutput.model_validate(film.output).is_film else "png"
    return settings().runs_dir / str(film.run_id) / f"{film.id}.{ending}"


def parts_folder(film: Film) -> Path:
    """Where the parts of a film lie until they are joined."""
    return settings().runs_dir / str(film.run_id) / f"{film.id}.parts"


_AGAIN = RetryStrategy(max_attempts=100, wait=5, retry_exceptions={psycopg.Error, PoolTimeout})


@queue.task(name="assemble", queue="long", retry=_AGAIN)
async def assemble(film_id: str) -> None:
    """Bring home what a film is made of, and part the work. Done again, it begins with the frames that are home."""
    await _answering(UUID(film_id), _prepare)


@queue.task(name="render part", queue="long", retry=_AGAIN)
async def render_part(film_id: str, number: int) -> None:
    """Make one part of a film; done again, it is the same part. Whoever finds that all are there has them joined."""

    async def work(pool: Pool, film: Film, tell: Tell) -> None:
        async with pool.connection() as conn:
            run = await runs.read(conn, film.run_id)
            wanted = {one.number: one for one in await films.parts(conn, film.id)}
        part = wanted[number]
        if not part.finished:
            await asyncio.to_thread(_make_part, film, run, part, tell(number))
            async with pool.connection() as conn:
                if await films.part_done(conn, film.id, number, part.count, finished=True):
                    raise Cancelled
        async with pool.connection() as conn:
            ready = all(one.finished for one in await films.parts(conn, film.id))
        if ready:
            with suppress(AlreadyEnqueued):
                await join_film.configure(queueing_lock=f"join {film.id}").defer_async(film_id=film_id)

    await _answering(UUID(film_id), work)


@queue.task(name="join film", queue="long", retry=_AGAIN)
async def join_film(film_id: str) -> None:
    """Join the parts of a film. Done again, it does nothing to what is joined."""

    async def work(pool: Pool, film: Film, tell: Tell) -> None:
        del tell
        async with pool.connection() as conn:
            run = await runs.read(conn, film.run_id)
            cut = await films.parts(conn, film.id)
        size = await asyncio.to_thread(_join_parts, film, run, [one.number for one in cut])
        frames = len(film.frames or [])
        lost = 0 if film.own or Shot.model_validate(run.shot).live else max(run.taken + run.missed - frames, 0)
        # Told first: one who is still at a part must not find its folder gone and call the film failed.
        async with pool.connection() as conn:
            await films.finish(conn, film.id, sum(one.count for one in cut), lost, size)
        shutil.rmtree(parts_folder(film), ignore_errors=True)

    await _answering(UUID(film_id), work)


Tell = Callable[[int | str], Callable[[int], None]]


async def _answering(id: UUID, work: Callable[[Pool, Film, Tell], Awaitable[None]]) -> None:
    """Do a piece of work on a film that is still wanted; what goes wrong with it is written down with the film."""
    async with open_pool(settings().database, most=2) as pool:
        async with pool.connection() as conn:
            film = await films.read(conn, id)
        if film.state not in ("waiting", "working"):
            return
        loop = asyncio.get_running_loop()

        def tell(step: int | str) -> Callable[[int], None]:
            """How far a step in words is, or a part by its number."""
            told_s = -1.0

            async def note(done: int) -> bool:
                async with pool.connection() as conn:
                    if isinstance(step, int):
                        return await films.part_done(conn, id, step, done)
                    return await films.progress(conn, id, step, done)

            def told(done: int) -> None:
                nonlocal told_s
                if time.monotonic() - told_s < _NOTE_EVERY_S:
                    return
                told_s = time.monotonic()
                if asyncio.run_coroutine_threadsafe(note(done), loop).result(_HEARD_WITHIN_S):
                    raise Cancelled

            return told

        try:
            await work(pool, film, tell)
        except Cancelled:
            await _give_up(pool, film, "cancelled", "Cancelled.")
        except (NotMade, CameraError, Unreadable, Refusal) as error:
            await _give_up(pool, film, "failed", error.allowed if isinstance(error, Refusal) else str(error))
        except (psycopg.Error, PoolTimeout):
            # The database is away: it is taken up again.
            raise
        except Exception:
            log.exception("film not made", film=str(id))
            await _give_up(pool, film, "failed", "The film could not be made; the worker's log says why.")


async def _give_up(pool: Pool, film: Film, state: str, reason: str) -> None:
    async with pool.connection() as conn:
        await films.give_up(conn, film.id, state, reason)
    shutil.rmtree(parts_folder(film), ignore_errors=True)


async def _prepare(pool: Pool, film: Film, tell: Tell) -> None:
    """What a film is made of brought home, looked through, aligned; then its parts put on the queue."""
    async with pool.connection() as conn:
        run = await runs.read(conn, film.run_id)
        journal = await runs.journal(conn, run.id)
    taken = [frame for frame in journal if frame.outcome == "taken"]
    there: list[int] = []
    if not film.own:
        fetching = tell("Fetching the frames")
        there = await asyncio.to_thread(bring_home, run, taken, fetching, str(film.id))
    recipe, frames, rows = await asyncio.to_thread(_looked_through, film, run, there, tell("Aligning the stills"))
    count = len(recipe.film_frames())
    if not count:
        raise NotMade("There are no frames to make a film of.")
    cut = [
        films.Part(n, first, min(PART_FRAMES, count - first), False)
        for n, first in enumerate(range(0, count, PART_FRAMES))
    ]
    parts_folder(film).mkdir(parents=True, exist_ok=True, mode=0o700)
    async with pool.connection() as conn:
        if not await films.lay_out(conn, film.id, frames, rows, cut):
            raise Cancelled
    for one in cut:
        with suppress(AlreadyEnqueued):
            lock = f"part {one.number} of {film.id}"
            await render_part.configure(queueing_lock=lock).defer_async(film_id=str(film.id), number=one.number)


def _looked_through(
    film: Film, run: Run, there: list[int], tell: Callable[[int], None]
) -> tuple[Recipe, list[int], list[list[Any]]]:
    """The recipe of a film, the frames of the run that go into it (from 1), and its aligned stills as they are kept."""
    shot = Shot.model_validate(run.shot)
    program = intervened(compile_fitted(shot), run.interventions)
    if film.own:
        files = _own_files(film)
        there = list(range(1, min(len(files), program.frame_count) + 1))
        if is_clip(files):
            with closing(Clip(files[0])):
                return _recipe(program, film, None, {}), [], []
    elif shot.live:
        return _recipe(program, film, None, {}), [], []
    found: dict[int, Aligned] = {}
    if film.output is not None and shot.walk is not None and not shot.walk.filmed:
        with closing(Stills(_paths(film, run, there))) as stills:
            place = (shot.walk.across, shot.walk.down)
            found = brought_together(((n - 1, stills.picture(n - 1, 0.0)) for n in there), place, tell)
    rows: list[list[Any]] = [[index + 1, *one] for index, one in found.items()]
    return _recipe(program, film, tuple(number - 1 for number in there), found), there, rows


def _recipe(program: Program, film: Film, there: tuple[int, ...] | None, found: dict[int, Aligned]) -> Recipe:
    output = None if film.output is None else FilmOutput.model_validate(film.output)
    return Recipe(program, output, there, found)


def _own_files(film: Film) -> list[Path]:
    return files_of(own_folder(film.own))


def _paths(film: Film, run: Run, there: list[int]) -> dict[int, Path]:
    if film.own:
        return dict(zip((number - 1 for number in there), _own_files(film), strict=False))
    return {number - 1: frame_path(run.id, number) for number in there}


def _opened(film: Film, run: Run) -> Source:
    """The pictures that a film is made of."""
    if film.own:
        files = _own_files(film)
        return Clip(files[0]) if is_clip(files) else Stills(_paths(film, run, film.frames or []))
    if Shot.model_validate(run.shot).live:
        return Clip(frame_path(run.id, 1))
    return Stills(_paths(film, run, film.frames or []))


def _kept_recipe(film: Film, run: Run) -> Recipe:
    """The recipe as it was laid out: whichever worker asks, it is the same."""
    program = intervened(compile_fitted(Shot.model_validate(run.shot)), run.interventions)
    found = {int(row[0]) - 1: _unpacked(row[1:]) for row in film.aligned or []}
    there = tuple(number - 1 for number in film.frames or []) or None
    return _recipe(program, film, there, found)


def _unpacked(row: list[Any]) -> Aligned:
    right, down, roll, scale, left, (first, second) = row
    return Aligned(right, down, roll, scale, left, (tuple(first), tuple(second)))


def _make_part(film: Film, run: Run, part: films.Part, tell: Callable[[int], None]) -> None:
    recipe = _kept_recipe(film, run)
    every = recipe.film_frames()
    wanted = every[part.first : part.first + part.count]
    folder = parts_folder(film)
    folder.mkdir(parents=True, exist_ok=True, mode=0o700)
    with closing(_opened(film, run)) as source:
        if recipe.output is not None and recipe.output.becomes == "a trail picture":
            _save(recipe.brightest(source, wanted, tell), folder / f"{part.number}.png")
        elif recipe.output is not None and not recipe.output.is_film:
            _save(next(recipe.frames(source, wanted)), folder / f"{part.number}.png")
        else:
            told = (_after(tell, n, picture) for n, picture in enumerate(recipe.frames(source, wanted)))
            # Of several parts two are made at once.
            threads = 1 if len(every) > part.count else 2
            encode(told, Fraction(film.fps), folder / f"{part.number}.mp4", threads)


def _after(tell: Callable[[int], None], done: int, picture: Picture) -> Picture:
    tell(done)
    return picture


def _save(picture: Picture, target: Path) -> None:
    partial = target.with_suffix(f".{uuid4().hex[:8]}.part")
    ok, packed = cv2.imencode(".png", picture)
    if not ok:
        raise NotMade("The picture could not be written.")
    partial.write_bytes(packed.tobytes())
    partial.rename(target)


def _join_parts(film: Film, run: Run, numbers: list[int]) -> int:
    folder, target = parts_folder(film), film_path(film)
    if target.exists():
        # Joined already, by one who was ended before he could say so.
        return target.stat().st_size
    if target.suffix == ".mp4":
        return join([folder / f"{n}.mp4" for n in numbers], Fraction(film.fps), target)
    made: Picture | None = None
    for n in numbers:
        part = np.asarray(cv2.imread(str(folder / f"{n}.png")), dtype=np.uint8)
        made = part if made is None else np.maximum(made, part)
    assert made is not None
    recipe = _kept_recipe(film, run)
    assert recipe.output is not None
    _save(recipe.cut_once(made) if recipe.output.becomes == "a trail picture" else made, target)
    return target.stat().st_size


def bring_home(run: Run, frames: list[JournalFrame], tell: Callable[[int], None], who: str) -> list[int]:
    """Fetch the frames that are not home whole, each kept only if its SHA-256 is the camera's.

    Gives the numbers that are home then; one that the camera has no more, or gives damaged every time, is left out.
    `who` names whoever fetches, so that two do not write one file. Raises CameraError where the camera is away.
    """
    run_id = run.id
    frames_folder(run_id).mkdir(parents=True, exist_ok=True)
    camera = camera_of(run.rig, _FETCH_TIMEOUT_S)
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
        size = path.stat().st_size
        if size != frame.size_bytes:
            return False
        with path.open("rb") as file:
            return frame.is_file(size, hashlib.file_digest(file, "sha256").hexdigest())
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
            if frame.is_file(size, digest.hexdigest()):
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
