"""Rehearsed films: every picture that a shot would give, in parts on the queue, each kept by what is in it."""

import asyncio
from collections.abc import Callable, Iterator, Sequence
from contextlib import suppress
from pathlib import Path

import cv2
import psycopg
import structlog
from procrastinate import RetryStrategy
from procrastinate.exceptions import AlreadyEnqueued
from psycopg_pool import PoolTimeout

from revani.core.documents import Shot
from revani.core.edit.fitting import compile_fitted
from revani.core.picture.planned import picture_of
from revani.core.program.compiled import Program
from revani.core.quantities.refusal import Refusal
from revani.core.rehearsal.film import RehearsedFilm, rehearsed
from revani.core.rehearsal.practice import Mishap
from revani.core.ways.lockstep import Lock
from revani.core.ways.split import SplitFilm, split
from revani.jobs.beside import beside_each_other, film_file
from revani.jobs.encode import PART_FRAMES, NotMade, encode, join
from revani.jobs.queue import queue
from revani.jobs.resample import Picture
from revani.settings import settings
from revani.store import rehearsals
from revani.store.pool import open_pool
from revani.store.rehearsals import Rehearsed, RehearsedPart

__all__ = ["NotMade", "film_file", "made_anew", "make_part", "order", "order_beside", "write_film", "write_frame"]

log = structlog.get_logger()

_AGAIN = RetryStrategy(max_attempts=100, wait=5, retry_exceptions={psycopg.Error, PoolTimeout})
# So many pictures are made between two looks whether the film is still wanted.
_LOOK_EVERY = 10


class _Unwanted(Exception):
    """Nobody wants the film any more."""


def _part_file(key: str) -> Path:
    return settings().rehearsed_dir / f"part-{key}.mp4"


def order(shot: Shot, width: int, mishaps: Sequence[Mishap] = ()) -> tuple[RehearsedFilm, Rehearsed]:
    """The film of a shot, and what is noted of it when it is wanted. Raises Refusal."""
    film = rehearsed(compile_fitted(shot), width, mishaps)
    if not len(film.frames):
        raise Refusal("shot", "No frame would be taken, so there is no film.")
    cut = [
        RehearsedPart(n, first, count, key, 0, False) for n, (first, count, key) in enumerate(film.parts(PART_FRAMES))
    ]
    noted = Rehearsed(
        film.key, shot.model_dump(mode="json"), list(mishaps), film.width, "waiting", "", len(film.frames), None, cut
    )
    return film, noted


def order_beside(shot: Shot, names: Sequence[str], lock: Lock) -> tuple[SplitFilm, Rehearsed]:
    """The film of ways beside each other, and what is noted of it when it is wanted. Raises Refusal("names")."""
    film = split(shot, names, lock)
    cut = [
        RehearsedPart(n, first, count, key, 0, False) for n, (first, count, key) in enumerate(film.parts(PART_FRAMES))
    ]
    beside = {"names": list(names), "lock": lock}
    width = film.sides[0].size[0]
    return film, Rehearsed(
        film.key, shot.model_dump(mode="json"), [], width, "waiting", "", film.length, None, cut, beside
    )  # fmt: skip


@queue.task(name="rehearse part", queue="long", retry=_AGAIN)
async def rehearse_part(film_id: str, number: int) -> None:
    """Make one part of a film, unless its like is there; whoever finds all of them there joins them. Can be redone."""
    async with open_pool(settings().database, most=2) as pool:
        async with pool.connection() as conn:
            film = await rehearsals.read(conn, film_id)
            if film is None or film.state not in ("waiting", "working"):
                return
            await rehearsals.begun(conn, film_id)
        part = film.parts[number]
        loop = asyncio.get_running_loop()

        def told(done: int) -> None:
            async def note() -> bool:
                async with pool.connection() as conn:
                    return await rehearsals.part_done(conn, film_id, number, done)

            if not asyncio.run_coroutine_threadsafe(note(), loop).result(30):
                raise _Unwanted

        try:
            await asyncio.to_thread(make_part, film, part, told)
            async with pool.connection() as conn:
                await rehearsals.part_done(conn, film_id, number, part.count, finished=True)
                there = await rehearsals.read(conn, film_id)
            if there is not None and all(one.finished for one in there.parts):
                await asyncio.to_thread(_join, there)
                async with pool.connection() as conn:
                    await rehearsals.finish(conn, film_id, "done")
        except _Unwanted:
            async with pool.connection() as conn:
                await rehearsals.finish(conn, film_id, "cancelled", "Cancelled.")
        except (NotMade, Refusal, OSError) as error:
            why = error.allowed if isinstance(error, Refusal) else str(error)
            async with pool.connection() as conn:
                await rehearsals.finish(conn, film_id, "failed", why)


async def put_on_queue(film: Rehearsed) -> None:
    """Have all parts of a film made that are not."""
    for part in film.parts:
        with suppress(AlreadyEnqueued):
            lock = f"rehearse {film.id} {part.number}"
            await rehearse_part.configure(queueing_lock=lock).defer_async(film_id=film.id, number=part.number)


def make_part(film: Rehearsed, part: RehearsedPart, told: Callable[[int], None]) -> None:
    """Make a part, unless one with the same in it is there."""
    target = _part_file(part.key)
    if target.exists():
        return
    if film.beside:
        both = split_anew(film)
        encode(_telling(beside_each_other(both, part.first, part.count), told), both.fps, target, threads=1)
        return
    made = made_anew(film)
    encode(_telling(made.pictures(part.first, part.count), told), made.fps, target, threads=1)


def made_anew(film: Rehearsed) -> RehearsedFilm:
    """A film as it was wanted. Raises Refusal for a shot that fits no more."""
    return rehearsed(compile_fitted(Shot.model_validate(film.shot)), film.width, film.mishaps)


def split_anew(film: Rehearsed) -> SplitFilm:
    """A film of ways beside each other as it was wanted. Raises Refusal."""
    assert film.beside
    return split(Shot.model_validate(film.shot), film.beside["names"], film.beside["lock"])


def _telling(pictures: Iterator[Picture], told: Callable[[int], None]) -> Iterator[Picture]:
    for n, picture in enumerate(pictures):
        if n % _LOOK_EVERY == 0:
            told(n)
        yield picture[..., ::-1]


def _join(film: Rehearsed) -> None:
    target = film_file(film.id)
    if not target.exists():
        fps = split_anew(film).fps if film.beside else made_anew(film).fps
        join([_part_file(part.key) for part in film.parts], fps, target)


def write_film(program: Program, width: int, target: Path) -> None:
    """The whole film of a program as one file. Raises NotMade; leaves no half file."""
    film = rehearsed(program, width)
    encode((one[..., ::-1] for one in film.pictures(0, len(film.frames))), film.fps, target)


def write_frame(program: Program, width: int, number: int, target: Path) -> None:
    """One frame, counted from 1, as PNG. Raises Refusal("frame")."""
    if not 1 <= number <= program.frame_count:
        raise Refusal("frame", f"From 1 to {program.frame_count:,}.", number)
    ok, packed = cv2.imencode(".png", picture_of(program, number - 1, width)[..., ::-1])
    if not ok:
        raise NotMade("The picture could not be written.")
    target.write_bytes(packed.tobytes())
