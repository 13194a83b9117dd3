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
from revani.core.rehearsal.output import RehearsedOutput, rehearsed_output
from revani.core.rehearsal.practice import Mishap
from revani.core.ways.lockstep import Lock
from revani.core.ways.split import SplitFilm, split
from revani.jobs.beside import beside_each_other, film_file
from revani.jobs.encode import PART_FRAMES, NotMade, encode, join
from revani.jobs.made_of import pictures_of
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


# What can be made: the pictures of a shot, of an output of it, of ways beside each other.
Film = RehearsedFilm | RehearsedOutput
Made = Film | SplitFilm


def pictures(film: Made, first: int, count: int) -> Iterator[Picture]:
    """Some of the pictures (RGB) of a film, in order. Raises NotMade."""
    if isinstance(film, RehearsedFilm):
        return film.pictures(first, count)
    return (
        pictures_of(film, first, count) if isinstance(film, RehearsedOutput) else beside_each_other(film, first, count)
    )


def film_of(shot: Shot, width: int, mishaps: Sequence[Mishap] = (), output: int | None = None) -> Film:
    """The film of a shot, or of an output of it. Raises Refusal."""
    program = compile_fitted(shot)
    if output is not None:
        return rehearsed_output(program, output, width, mishaps)
    film = rehearsed(program, width, mishaps)
    if not film.length:
        raise Refusal("shot", "No frame would be taken, so there is no film.")
    return film


def order(shot: Shot, width: int, mishaps: Sequence[Mishap] = (), output: int | None = None) -> tuple[str, Rehearsed]:
    """The film of a shot, or of an output of it: what is in it, in words, and what is noted of it. Raises Refusal."""
    film = film_of(shot, width, mishaps, output)
    return film.told, _noted(film, shot, width=film.width, mishaps=list(mishaps), output=output)


def order_beside(shot: Shot, names: Sequence[str], lock: Lock) -> tuple[SplitFilm, Rehearsed]:
    """The film of ways beside each other, and what is noted of it when it is wanted. Raises Refusal("names")."""
    film = split(shot, names, lock)
    beside: dict[str, object] = {"names": list(names), "lock": lock}
    return film, _noted(film, shot, width=film.sides[0].size[0], beside=beside)


def _noted(
    film: Made, shot: Shot, *, width: int, mishaps: list[Mishap] | None = None,
    beside: dict[str, object] | None = None, output: int | None = None,
) -> Rehearsed:  # fmt: skip
    cut = [
        RehearsedPart(n, first, count, key, 0, False) for n, (first, count, key) in enumerate(film.parts(PART_FRAMES))
    ]
    return Rehearsed(
        id=film.key, shot=shot.model_dump(mode="json"), mishaps=list(mishaps or []), width=width, state="waiting",
        reason="", total=sum(one.count for one in cut), elapsed_s=None, parts=cut, beside=beside, output=output,
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
    made = _made_anew(film)
    encode(_telling(pictures(made, part.first, part.count), told), made.fps, target, threads=1)


def made_anew(film: Rehearsed) -> Film:
    """The film of one shot as it was wanted. Raises Refusal for a shot that fits no more."""
    return film_of(Shot.model_validate(film.shot), film.width, film.mishaps, film.output)


def _made_anew(film: Rehearsed) -> Made:
    if film.beside:
        return split(Shot.model_validate(film.shot), film.beside["names"], film.beside["lock"])
    return made_anew(film)


def _telling(pictures: Iterator[Picture], told: Callable[[int], None]) -> Iterator[Picture]:
    for n, picture in enumerate(pictures):
        if n % _LOOK_EVERY == 0:
            told(n)
        yield picture[..., ::-1]


def _join(film: Rehearsed) -> None:
    target = film_file(film.id)
    if not target.exists():
        join([_part_file(part.key) for part in film.parts], _made_anew(film).fps, target)


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
