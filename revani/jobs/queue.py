"""The task queue in PostgreSQL."""

from collections.abc import AsyncIterator
from contextlib import asynccontextmanager

from procrastinate import App, PsycopgConnector
from procrastinate.schema import SchemaManager

from revani.store.pool import alone

queue = App(connector=PsycopgConnector(), import_paths=["revani.jobs.assemble", "revani.jobs.demo"])


def install(database_url: str) -> None:
    """Lay out the queue's own tables, unless they are there; several processes may try at once."""
    with alone(database_url) as conn:
        row = conn.execute("SELECT to_regclass('procrastinate_jobs') IS NULL").fetchone()
        if row and row[0]:
            conn.execute(SchemaManager.get_schema().encode())


@asynccontextmanager
async def open_queue(database_url: str) -> AsyncIterator[App]:
    """The queue on a database, for the time of a block; tasks may be deferred and worked on in it."""
    with queue.replace_connector(PsycopgConnector(conninfo=database_url)) as app:
        async with app.open_async():
            yield app


async def work(database_url: str) -> None:
    """Work on the queue for ever."""
    async with open_queue(database_url) as app:
        await app.run_worker_async(concurrency=2, fetch_job_polling_interval=1.0, install_signal_handlers=True)
