"""The database as a runner meets it: asked where it is there, waited for where that has to be, and never a reason to
stop shooting."""

import asyncio
from collections.abc import AsyncIterator, Awaitable, Callable, Sequence
from contextlib import asynccontextmanager, suppress
from typing import TypeVar
from uuid import UUID

import psycopg
import structlog
from psycopg_pool import PoolClosed, PoolTimeout

from revani.core.documents.run import Entry, JournalFrame
from revani.rig.ports import printable
from revani.store import runs
from revani.store.pool import Connection, Pool

log = structlog.get_logger()

# Whatever the database says is no reason to stop shooting.
AWAY = (psycopg.Error, PoolTimeout, PoolClosed, OSError)
_AGAIN_S = 0.5
T = TypeVar("T")


class Home:
    """Where a runner's journal is brought."""

    def __init__(self, pool: Pool) -> None:
        self._pool = pool

    @asynccontextmanager
    async def connection(self, timeout_s: float | None = None) -> AsyncIterator[Connection]:
        """A connection, if one is to be had in time. Raises one of AWAY."""
        async with self._pool.connection(timeout=timeout_s) as conn:
            yield conn

    async def if_there(self, work: Callable[[Connection], Awaitable[T]]) -> T | None:
        """What the database says; None while it is away."""
        with suppress(*AWAY):
            async with self.connection(1) as conn:
                return await work(conn)
        return None

    async def patiently(self, work: Callable[[Connection], Awaitable[T]]) -> T:
        """What the database says, however long it is away."""
        while True:
            try:
                async with self.connection() as conn:
                    return await work(conn)
            except AWAY as error:
                log.warning("database away", error=printable(str(error)))
                await asyncio.sleep(_AGAIN_S)


async def append(conn: Connection, run_id: UUID, fence: int, entries: Sequence[Entry]) -> bool:
    """Append entries; what the database refuses is appended without what it may have refused it for.

    False where another has taken the run up.
    """
    if not entries:
        return await runs.append(conn, run_id, fence, [])
    try:
        async with conn.transaction():
            return await runs.append(conn, run_id, fence, entries)
    except (psycopg.DataError, psycopg.IntegrityError) as error:
        log.error("journal entries refused", error=printable(str(error)))
    for entry in entries:
        for form in (entry, _plainer(entry)):
            with suppress(psycopg.DataError, psycopg.IntegrityError):
                async with conn.transaction():
                    if not await runs.append(conn, run_id, fence, [form]):
                        return False
                break
    return True


def _plainer(entry: Entry) -> Entry:
    if entry.frame is None:
        return entry.model_copy(update={"note": printable(entry.note)})
    frame: JournalFrame = entry.frame.model_copy(
        update={"reason": printable(entry.frame.reason), "settings": None, "camera": None, "rig": None}
    )
    return Entry(frame=frame)
