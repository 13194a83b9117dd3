"""Whether one may go: what was found of the first frames of runs."""

from uuid import UUID

from psycopg.types.json import Jsonb

from revani.core.documents.run import CLOCK_RIG
from revani.core.watch.first_frames import GoVerdict
from revani.store.pool import Connection


async def keep(conn: Connection, run_id: UUID, verdict: GoVerdict) -> None:
    """Keep what was found after so many frames; what was found first stays."""
    await conn.execute(
        "INSERT INTO first_frames (run_id, after, verdict) VALUES (%s, %s, %s) ON CONFLICT DO NOTHING",
        [run_id, verdict.after, Jsonb(verdict.model_dump(mode="json"))],
    )


async def of_run(conn: Connection, run_id: UUID) -> list[GoVerdict]:
    """All that was found of a run, in order."""
    cursor = await conn.execute("SELECT verdict FROM first_frames WHERE run_id = %s ORDER BY after", [run_id])
    return [GoVerdict.model_validate(row["verdict"]) for row in await cursor.fetchall()]


async def waiting(conn: Connection) -> list[UUID]:
    """Runs that are being shot, or have ended just now, and have a frame at least; of linked cameras alone."""
    cursor = await conn.execute(
        """
        SELECT run.id FROM run
        WHERE (state = 'running' OR (ended_at > now() - interval '5 minutes' AND state IN ('finished', 'stopped')))
            AND rig <> %s
            AND EXISTS (SELECT FROM journal_frame WHERE run_id = run.id)
        """,
        [CLOCK_RIG],
    )
    return [row["id"] for row in await cursor.fetchall()]
