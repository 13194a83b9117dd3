"""How loud the sound of what runs filmed is, measured once."""

from typing import NamedTuple
from uuid import UUID

from psycopg.types.json import Jsonb

from revani.core.watch.loudness import Loudness
from revani.store.pool import Connection


class Sound(NamedTuple):
    """The sound of a file that was measured; `loudness` is None where it has none."""

    loudness: Loudness | None


async def keep(conn: Connection, run_id: UUID, found: Loudness | None) -> None:
    """Keep what was measured; what was measured first stays."""
    await conn.execute(
        "INSERT INTO sound_of_film (run_id, loudness) VALUES (%s, %s) ON CONFLICT DO NOTHING",
        [run_id, None if found is None else Jsonb(found._asdict())],
    )


async def of_run(conn: Connection, run_id: UUID) -> Sound | None:
    """What was measured of a run; None where nothing was yet."""
    rows = await conn.execute("SELECT loudness FROM sound_of_film WHERE run_id = %s", [run_id])
    row = await rows.fetchone()
    return None if row is None else Sound(None if row["loudness"] is None else Loudness(**row["loudness"]))
