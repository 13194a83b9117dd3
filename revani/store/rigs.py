"""Rigs: kept under the key that their runs are kept under, versioned as other records are."""

import asyncio

from psycopg.rows import DictRow
from psycopg.types.json import Jsonb

from revani.core.documents.rig import KeptRig, Rig
from revani.rig.known import Known, keep, own
from revani.settings import Settings
from revani.store.pool import Connection, Pool
from revani.store.records import NotThere, StaleVersion, Stands


async def everything(conn: Connection) -> list[KeptRig]:
    """All rigs in the order in which they were made, those that are put away last."""
    cursor = await conn.execute("SELECT version, archived, document FROM rig ORDER BY archived, made_at, key")
    return [_kept(row) for row in await cursor.fetchall()]


async def read(conn: Connection, key: str) -> KeptRig:
    """One rig. Raises NotThere."""
    row = await (await conn.execute("SELECT version, archived, document FROM rig WHERE key = %s", [key])).fetchone()
    if row is None:
        raise NotThere("There is no such rig.")
    return _kept(row)


def _kept(row: DictRow) -> KeptRig:
    return KeptRig(Rig.model_validate(row["document"]), row["version"], row["archived"])


async def driven(conn: Connection) -> dict[str, Rig]:
    """The rigs that may be given something to do, by key: those that are not put away."""
    return {one.rig.key: one.rig for one in await everything(conn) if not one.archived}


async def hold(conn: Connection) -> None:
    """Let nobody else add a rig, or copy them, until the transaction ends."""
    await conn.execute("SELECT pg_advisory_xact_lock(hashtext('rigs'))")


async def insert(conn: Connection, rig: Rig) -> bool:
    """Keep a new rig; False where its key is taken."""
    cursor = await conn.execute(
        "INSERT INTO rig (key, document) VALUES (%s, %s) ON CONFLICT (key) DO NOTHING",
        [rig.key, Jsonb(rig.model_dump(mode="json"))],
    )
    return cursor.rowcount == 1


async def save(conn: Connection, rig: Rig, over: int, archived: bool = False) -> KeptRig:
    """Save over the version that was read. Raises StaleVersion, or NotThere."""
    cursor = await conn.execute(
        """
        UPDATE rig SET document = %(document)s, version = version + 1, archived = %(archived)s, saved_at = now()
        WHERE key = %(key)s AND version = %(over)s
        """,
        {"key": rig.key, "document": Jsonb(rig.model_dump(mode="json")), "over": over, "archived": archived},
    )
    now = await read(conn, rig.key)
    if cursor.rowcount == 0:
        raise StaleVersion(Stands(rig.key, now.version, now.archived, now.rig.model_dump(mode="json")))
    return now


async def delete(conn: Connection, key: str) -> bool:
    """Delete a rig that has no runs; False where it has some. What its sensors may and said goes with it."""
    cursor = await conn.execute(
        "DELETE FROM rig WHERE key = %(key)s AND NOT EXISTS (SELECT FROM run WHERE run.rig = %(key)s)", {"key": key}
    )
    if cursor.rowcount == 0:
        return False
    for query in (
        "DELETE FROM sensor_token WHERE rig = %s", "DELETE FROM heard WHERE rig = %s",
        "DELETE FROM runner_sign WHERE rig = %s",
    ):  # fmt: skip
        await conn.execute(query, [key])
    return True


async def copy(pool: Pool, here: Settings) -> None:
    """Put what the database has into the data folder, for those that wait for none; the own rig is kept first."""
    async with pool.connection() as conn:
        # One after the other, so that the copy that is written last is the newest.
        await hold(conn)
        await insert(conn, own(here))
        found = await everything(conn)
        away = frozenset(one.rig.key for one in found if one.archived)
        await asyncio.to_thread(keep, here, Known(rigs=tuple(one.rig for one in found), away=away))
