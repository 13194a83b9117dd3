"""What is chosen once for the whole of this Revani."""

from typing import Any

from psycopg.types.json import Jsonb

from revani.store.pool import Connection


async def read(conn: Connection, name: str) -> Any:
    """The value of a preference; None where nothing was chosen."""
    row = await (await conn.execute("SELECT value FROM preference WHERE name = %s", [name])).fetchone()
    return row and row["value"]


async def write(conn: Connection, name: str, value: Any) -> None:
    """Choose anew."""
    await conn.execute(
        "INSERT INTO preference (name, value) VALUES (%s, %s) ON CONFLICT (name) DO UPDATE SET value = excluded.value",
        [name, Jsonb(value)],
    )
