"""Sequences as a list shows them; they are kept as all records are."""

from datetime import datetime
from uuid import UUID

from pydantic import BaseModel

from revani.store.pool import Connection


class ListedSequence(BaseModel):
    """A sequence as a list shows it."""

    id: UUID
    version: int
    archived: bool
    name: str
    use: str
    cuts: int
    saved_at: datetime


async def rows(conn: Connection) -> list[ListedSequence]:
    """All sequences by name, those that are put away too."""
    cursor = await conn.execute(
        """
        SELECT id, version, archived, name, document ->> 'use' AS use, jsonb_array_length(document -> 'cuts') AS cuts,
               saved_at
        FROM sequence ORDER BY name
        """
    )
    return [ListedSequence(**row) for row in await cursor.fetchall()]
