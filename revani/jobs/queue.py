"""The task queue in PostgreSQL."""

import asyncio
from collections.abc import AsyncIterator
from contextlib import asynccontextmanager, suppress

import structlog
from procrastinate import App, PsycopgConnector
from procrastinate.exceptions import ConnectorException, UniqueViolation
from procrastinate.jobs import Status
from procrastinate.schema import SchemaManager

from revani.store.pool import alone

log = structlog.get_logger()

_PAUSE_S = 3.0
# A worker that says nothing for so long is dead; it says something every two seconds.
_DEAD_AFTER_S = 12.0

queue = App(
    connector=PsycopgConnector(),
    import_paths=[
        "revani.jobs.assemble",
        "revani.jobs.demo",
        "revani.jobs.rehearse",
        "revani.jobs.tidy",
    ],
)


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
    """Work on the queue for ever, through any outage of the database.

    A signal ends the process as it stands: what it was working on is taken up again, by the same way as after a kill.
    """
    while True:
        try:
            await _work_once(database_url)
        except Exception as error:
            log.warning("queue away", error=str(error).split("\n")[0])
        await asyncio.sleep(_PAUSE_S)


async def _work_once(database_url: str) -> None:
    async with open_queue(database_url) as app:
        taking_up = asyncio.create_task(_take_up_again(app))
        try:
            await app.run_worker_async(
                concurrency=2, fetch_job_polling_interval=1.0, install_signal_handlers=False,
                update_heartbeat_interval=2.0, stalled_worker_timeout=_DEAD_AFTER_S,
            )  # fmt: skip
        finally:
            taking_up.cancel()


async def _take_up_again(app: App) -> None:
    """Put the jobs of workers that were killed on the queue again; every job may be done twice."""
    while True:
        with suppress(ConnectorException):
            for job in await app.job_manager.get_stalled_jobs(seconds_since_heartbeat=_DEAD_AFTER_S):
                log.warning("job taken up again", task=job.task_name, job=job.id)
                try:
                    await app.job_manager.retry_job(job)
                except UniqueViolation:
                    # Its like is on the queue already, and waits for this one to be over.
                    await app.job_manager.finish_job(job, status=Status.FAILED, delete_job=True)
        await asyncio.sleep(_PAUSE_S)
