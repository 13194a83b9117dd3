"""The pictures that a camera saw just before the run that it waited for began."""

from uuid import UUID

from pydantic import BaseModel

from revani.store.pool import Connection
from revani.store.records import NotThere


class Before(BaseModel):
    """One of them, by its number in order (from 1): how many stage seconds before what was waited for came."""

    number: int
    ago_s: float


async def put(conn: Connection, run_id: UUID, one: Before, picture: bytes) -> None:
    """Keep a picture, once."""
    await conn.execute(
        "INSERT INTO seen_before (run_id, number, ago_s, picture) VALUES (%s, %s, %s, %s) ON CONFLICT DO NOTHING",
        [run_id, one.number, one.ago_s, picture],
    )


async def of_run(conn: Connection, run_id: UUID) -> list[Before]:
    """Those of a run, in order."""
    rows = await conn.execute("SELECT number, ago_s FROM seen_before WHERE run_id = %s ORDER BY number", [run_id])
    return [Before(**row) for row in await rows.fetchall()]


async def picture(conn: Connection, run_id: UUID, number: int) -> bytes:
    """One of them, a JPEG. Raises NotThere."""
    rows = await conn.execute("SELECT picture FROM seen_before WHERE run_id = %s AND number = %s", [run_id, number])
    if (row := await rows.fetchone()) is None:
        raise NotThere("No such picture is kept from before the run began.")
    return bytes(row["picture"])
