"""Presets."""

from uuid import UUID

from psycopg.errors import UniqueViolation
from psycopg.types.json import Jsonb

from revani.core.documents.preset import Preset
from revani.core.quantities.refusal import Refusal
from revani.store.pool import Connection
from revani.store.records import NotThere


async def everything(conn: Connection) -> list[Preset]:
    """All presets by name."""
    cursor = await conn.execute("SELECT document FROM preset ORDER BY name")
    return [Preset.model_validate(row["document"]) for row in await cursor.fetchall()]


async def read(conn: Connection, id: UUID) -> Preset:
    """One preset. Raises NotThere."""
    row = await (await conn.execute("SELECT document FROM preset WHERE id = %s", [id])).fetchone()
    if row is None:
        raise NotThere("There is no such preset.")
    return Preset.model_validate(row["document"])


async def keep(conn: Connection, preset: Preset) -> None:
    """Keep a preset. Raises Refusal("name") where another one is called so."""
    try:
        async with conn.transaction():
            await conn.execute(
                "INSERT INTO preset (id, name, document) VALUES (%s, %s, %s)",
                [preset.id, preset.name, Jsonb(preset.model_dump(mode="json"))],
            )
    except UniqueViolation:
        raise Refusal("name", "Another preset is called so: choose another name, or delete that one.") from None


async def delete(conn: Connection, id: UUID) -> None:
    """Delete a preset. Raises NotThere."""
    cursor = await conn.execute("DELETE FROM preset WHERE id = %s", [id])
    if cursor.rowcount == 0:
        raise NotThere("There is no such preset.")
