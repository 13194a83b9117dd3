"""Code cards that were used."""

from revani.store.pool import Connection


async def use(conn: Connection, nonce: str) -> bool:
    """Note that a card is used; False where it was before."""
    cursor = await conn.execute("INSERT INTO code_used (nonce) VALUES (%s) ON CONFLICT DO NOTHING", [nonce])
    return cursor.rowcount == 1


async def was_used(conn: Connection, nonce: str) -> bool:
    """Whether a card was used."""
    cursor = await conn.execute("SELECT 1 FROM code_used WHERE nonce = %s", [nonce])
    return await cursor.fetchone() is not None
