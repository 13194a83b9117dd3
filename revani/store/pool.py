"""The way to the database: pool, migrations, and waiting for it to be there."""

import time
from collections.abc import AsyncIterator, Iterator
from contextlib import asynccontextmanager, contextmanager
from importlib.resources import as_file, files

import psycopg
from psycopg import AsyncConnection, sql
from psycopg.rows import DictRow, dict_row
from psycopg_pool import AsyncConnectionPool
from yoyo import get_backend, read_migrations

Connection = AsyncConnection[DictRow]
Pool = AsyncConnectionPool[Connection]
_OUR_LOCK = 8030


def make_pool(url: str, most: int = 10) -> Pool:
    """A closed pool of connections that give rows as dicts."""
    return AsyncConnectionPool(
        url, connection_class=Connection, kwargs={"row_factory": dict_row}, min_size=1, max_size=most,
        open=False, timeout=5, check=AsyncConnectionPool.check_connection, reconnect_timeout=0,
    )  # fmt: skip


@asynccontextmanager
async def open_pool(url: str, most: int = 10) -> AsyncIterator[Pool]:
    """A pool for the time of a block."""
    pool = make_pool(url, most)
    await pool.open()
    try:
        yield pool
    finally:
        await pool.close()


def wait_for_database(url: str, patience_s: float = 30.0) -> None:
    """Return when the database answers and exists; raise what it says when patience ends."""
    server, _, name = url.rpartition("/")
    until = time.monotonic() + patience_s
    while True:
        try:
            with _alone(f"{server}/postgres") as conn:
                row = conn.execute("SELECT 1 FROM pg_database WHERE datname = %s", [name]).fetchone()
                if row is None:
                    conn.execute(sql.SQL("CREATE DATABASE {}").format(sql.Identifier(name)))
                return
        except psycopg.OperationalError:
            if time.monotonic() > until:
                raise
            time.sleep(0.1)


def migrate(url: str) -> None:
    """Apply the migrations that are not applied yet; several processes may try at once."""
    with _alone(url), as_file(files("revani.store") / "migrations") as folder:
        backend = get_backend(url.replace("postgresql://", "postgresql+psycopg://", 1))
        backend.apply_migrations(backend.to_apply(read_migrations(str(folder))))


@contextmanager
def _alone(url: str) -> Iterator[psycopg.Connection]:
    """A connection, while no other process of ours is in such a block; ends with the process, too."""
    with psycopg.connect(url, connect_timeout=3, autocommit=True) as conn:
        conn.execute("SELECT pg_advisory_lock(%s)", [_OUR_LOCK])
        yield conn
