"""What is thrown away, and by which rule. Nothing that a run still needs, and no frame of a run that is known.

The rules: what was left half written, after a day; frames, films and cards of runs that nobody knows, after a day; all
but the newest film of a run, films that were given up, rehearsed films, spools that were set aside, turned-over logs
and finished jobs, after thirty days.
"""

import shutil
import time
from collections.abc import Iterator
from datetime import date
from pathlib import Path
from typing import NamedTuple
from uuid import UUID

import structlog

from revani.jobs.queue import queue
from revani.rig.known import Reached, everywhere
from revani.settings import Settings, settings
from revani.store import films, runs
from revani.store.pool import Pool, open_pool

log = structlog.get_logger()

_DAY_S = 86_400.0
_HALF_DONE_DAYS, _OLD_DAYS = 1, 30


class Rubbish(NamedTuple):
    """A file or folder that is thrown away, and why."""

    path: Path
    why: str
    size_bytes: int


# At noon: nights are for shooting.
@queue.periodic(cron="20 12 * * *")
@queue.task(name="tidy", queue="long", queueing_lock="tidy", pass_context=False)
async def tidy_daily(timestamp: int) -> None:
    """Throw away what the rules say, once a day."""
    async with open_pool(settings().database, most=2) as pool:
        thrown = await tidy(pool, settings())
    await queue.job_manager.delete_old_jobs(nb_hours=24 * _OLD_DAYS, include_failed=True)
    freed = sum(one.size_bytes for one in thrown)
    log.info("tidied", day=str(date.fromtimestamp(timestamp)), things=len(thrown), bytes=freed)


async def tidy(pool: Pool, here: Settings, for_real: bool = True) -> list[Rubbish]:
    """Throw away what the rules say; gives what was, or would be, thrown away."""
    async with pool.connection() as conn:
        known_runs = await runs.known(conn)
        current_films = await films.current(conn)
    places = everywhere(here).values()
    found = [
        *_half_written(here, [place.spool_dir for place in places]),
        *_of_nobody(here.runs_dir, known_runs),
        *_old_films(here.runs_dir, known_runs, current_films),
        *(one for place in places for one in _of_a_rig(place, known_runs)),
        *(
            _one(path, "a rehearsed film, which can be made again")
            for path in _old(here.rehearsed_dir, "*.mp4", _OLD_DAYS)
        ),
        *(_one(path, "an old log") for path in _old(here.log_dir, "*.log.[0-9]", _OLD_DAYS)),
    ]
    if for_real:
        for one in found:
            shutil.rmtree(one.path) if one.path.is_dir() else one.path.unlink(missing_ok=True)
    return found


def _of_a_rig(place: Reached, known: set[UUID]) -> Iterator[Rubbish]:
    yield from _cards_of_nobody(place.card_dir, known)
    for path in _old(place.spool_dir, "*.superseded", _OLD_DAYS):
        yield _one(path, "what a runner noted of a run that another took up")
    for path in _old(place.spool_dir, "*.damaged", _OLD_DAYS):
        yield _one(path, "damaged notes that were set aside")


def _half_written(here: Settings, spools: list[Path]) -> Iterator[Rubbish]:
    for folder in (here.runs_dir, *spools, here.rehearsed_dir):
        for pattern in ("**/*.part", "**/*.part.mp4", "*/*.parts"):
            yield from (_one(path, "left half written") for path in _old(folder, pattern, _HALF_DONE_DAYS))


def _of_nobody(folder: Path, known: set[UUID]) -> Iterator[Rubbish]:
    for path in _old(folder, "*", _HALF_DONE_DAYS):
        if path.is_dir() and (id := _uuid(path.name)) is not None and id not in known:
            yield _one(path, "of a run that nobody knows")


def _old_films(folder: Path, known: set[UUID], current: set[UUID]) -> Iterator[Rubbish]:
    for path in [*_old(folder, "*/*.mp4", _OLD_DAYS), *_old(folder, "*/*.png", _OLD_DAYS)]:
        run, film = _uuid(path.parent.name), _uuid(path.stem)
        if run in known and film is not None and film not in current:
            yield _one(path, "a film that a newer one has replaced, or that was given up")


def _cards_of_nobody(folder: Path, known: set[UUID]) -> Iterator[Rubbish]:
    from revani.rig.standins.camera import label_of_card

    for path in _old(folder, "[0-9]" * 4, _HALF_DONE_DAYS):
        if (id := _uuid(label_of_card(path))) is None or id not in known:
            yield _one(path, "a simulated card of a run that nobody knows")


def _uuid(text: str) -> UUID | None:
    try:
        return UUID(text)
    except ValueError:
        return None


def _old(folder: Path, pattern: str, days: float) -> list[Path]:
    """What matches and was not touched for so many days."""
    before_s = time.time() - days * _DAY_S
    return [path for path in sorted(folder.glob(pattern)) if path.lstat().st_mtime < before_s]


def _one(path: Path, why: str) -> Rubbish:
    parts = path.rglob("*") if path.is_dir() else [path]
    return Rubbish(path, why, sum(part.lstat().st_size for part in parts if part.is_file()))
