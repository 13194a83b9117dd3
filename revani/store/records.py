"""Gear, places, shots and sequences: saved whole, versioned, never lost.

Saving carries the version that was read; a stale one is refused with what stands there now. Every
save keeps the version that it replaces.
"""

from dataclasses import dataclass
from datetime import datetime
from typing import Any, Literal, LiteralString, get_args
from uuid import UUID

from psycopg import sql
from psycopg.types.json import Jsonb

from revani.core.quantities.refusal import Refusal
from revani.store.pool import Connection

Record = Literal["gear", "place", "shot", "sequence"]


@dataclass(frozen=True)
class Stands:
    """What stands in the database of a record, by its id; a rig is known by its key."""

    id: UUID | str
    version: int
    archived: bool
    document: dict[str, Any]


@dataclass(frozen=True)
class Saved(Stands):
    """A document as it stands in the database."""

    id: UUID
    saved_at: datetime | None = None


class StaleVersion(Exception):
    """Somebody saved in between; `current` is what stands there now."""

    def __init__(self, current: Stands) -> None:
        super().__init__(f"version {current.version} stands there now")
        self.current = current


class NotThere(LookupError):
    """No such record."""


def _each(query: LiteralString) -> dict[Record, sql.Composed]:
    """A statement for every kind of record: `{table}` is its table, `{kind}` its name as a value."""
    return {
        kind: sql.SQL(query).format(table=sql.Identifier(kind), kind=sql.Literal(kind)) for kind in get_args(Record)
    }


_SELECT = _each("SELECT id, version, archived, document, saved_at FROM {table} WHERE id = %(id)s")
_ORDERS: dict[Record, LiteralString] = {
    "gear": "kind, name", "place": "name", "shot": "date, name", "sequence": "name",
}  # fmt: skip
_LIST = {
    kind: sql.SQL(
        "SELECT id, version, archived, document, saved_at FROM {} WHERE archived <= %(archived)s ORDER BY {}"
    ).format(sql.Identifier(kind), sql.SQL(order))
    for kind, order in _ORDERS.items()
}
_INSERT: dict[Record, LiteralString] = {
    "gear": """
        INSERT INTO gear (id, kind, name, document)
        VALUES (%(id)s, %(document)s ->> 'kind', %(document)s ->> 'name', %(document)s)
        ON CONFLICT (id) DO NOTHING
        """,
    "place": """
        INSERT INTO place (id, name, document) VALUES (%(id)s, %(document)s ->> 'name', %(document)s)
        ON CONFLICT (id) DO NOTHING
        """,
    "sequence": """
        INSERT INTO sequence (id, name, document) VALUES (%(id)s, %(document)s ->> 'name', %(document)s)
        ON CONFLICT (id) DO NOTHING
        """,
    "shot": """
        INSERT INTO shot (id, name, date, body_id, lens_id, card_id, place_id, document)
        VALUES (%(id)s, %(document)s ->> 'name', (%(document)s ->> 'date')::date,
                (%(document)s #>> '{kit,body,id}')::uuid, (%(document)s #>> '{kit,lens,id}')::uuid,
                (%(document)s #>> '{kit,card,id}')::uuid, (%(document)s #>> '{place,id}')::uuid, %(document)s)
        ON CONFLICT (id) DO NOTHING
        """,
}
_UPDATE: dict[Record, LiteralString] = {
    "gear": """
        UPDATE gear SET name = %(document)s ->> 'name', document = %(document)s,
               version = version + 1, archived = %(archived)s, saved_at = now()
        WHERE id = %(id)s AND version = %(over)s
        """,
    "place": """
        UPDATE place SET name = %(document)s ->> 'name', document = %(document)s,
               version = version + 1, archived = %(archived)s, saved_at = now()
        WHERE id = %(id)s AND version = %(over)s
        """,
    "sequence": """
        UPDATE sequence SET name = %(document)s ->> 'name', document = %(document)s,
               version = version + 1, archived = %(archived)s, saved_at = now()
        WHERE id = %(id)s AND version = %(over)s
        """,
    "shot": """
        UPDATE shot SET name = %(document)s ->> 'name', date = (%(document)s ->> 'date')::date,
               body_id = (%(document)s #>> '{kit,body,id}')::uuid,
               lens_id = (%(document)s #>> '{kit,lens,id}')::uuid,
               card_id = (%(document)s #>> '{kit,card,id}')::uuid,
               place_id = (%(document)s #>> '{place,id}')::uuid, document = %(document)s,
               version = version + 1, archived = %(archived)s, saved_at = now()
        WHERE id = %(id)s AND version = %(over)s
        """,
}
# Held until the save is done: two that save at once come one after the other, and none is kept twice or not at all.
_HOLD = _each("SELECT 1 FROM {table} WHERE id = %(id)s FOR UPDATE")
_KEEP = _each(
    """
    INSERT INTO earlier_version (record, id, version, document, saved_at)
    SELECT {kind}, id, version, document, saved_at FROM {table} WHERE id = %(id)s AND version = %(over)s
    ON CONFLICT DO NOTHING
    """
)
_DELETE = _each("DELETE FROM {table} WHERE id = %(id)s")


async def read(conn: Connection, record: Record, id: UUID) -> Saved:
    """One record. Raises NotThere."""
    row = await (await conn.execute(_SELECT[record], {"id": id})).fetchone()
    if row is None:
        raise NotThere(f"There is no such {record}.")
    return Saved(**row)


async def everything(conn: Connection, record: Record, archived: bool = False) -> list[Saved]:
    """All records of a kind by name, or by date for shots; with those put away where asked."""
    rows = await (await conn.execute(_LIST[record], {"archived": archived})).fetchall()
    return [Saved(**row) for row in rows]


async def insert(conn: Connection, record: Record, id: UUID, document: dict[str, Any]) -> Saved:
    """Save a new record. Raises Refusal("id") where the id is taken."""
    cursor = await conn.execute(_INSERT[record], {"id": id, "document": Jsonb(document)})
    if cursor.rowcount == 0:
        raise Refusal("id", f"This {record} is there already; save it over the version that was read.", str(id))
    return await read(conn, record, id)


async def save(
    conn: Connection, record: Record, id: UUID, document: dict[str, Any], over: int, archived: bool = False
) -> Saved:
    """Save over the version that was read. Raises StaleVersion, or NotThere."""
    if document["id"] != str(id):
        raise Refusal("id", "The document's id must be that of its address.", document["id"])
    values = {"id": id, "document": Jsonb(document), "over": over, "archived": archived}
    async with conn.transaction():
        await conn.execute(_HOLD[record], values)
        await conn.execute(_KEEP[record], values)
        cursor = await conn.execute(_UPDATE[record], values)
    if cursor.rowcount == 0:
        raise StaleVersion(await read(conn, record, id))
    return await read(conn, record, id)


async def earlier(conn: Connection, record: Record, id: UUID) -> list[dict[str, Any]]:
    """The versions that saves have replaced, newest first: version, document, saved_at."""
    cursor = await conn.execute(
        """
        SELECT version, document, saved_at FROM earlier_version
        WHERE record = %(record)s AND id = %(id)s ORDER BY version DESC
        """,
        {"record": record, "id": id},
    )
    return await cursor.fetchall()


async def delete(conn: Connection, record: Record, id: UUID) -> None:
    """Delete a record with its earlier versions. Raises NotThere."""
    async with conn.transaction():
        gone = await conn.execute(_DELETE[record], {"id": id})
        if not gone.rowcount:
            raise NotThere(f"There is no such {record}.")
        await conn.execute("DELETE FROM earlier_version WHERE record = %s AND id = %s", [record, id])


async def used_in(conn: Connection, id: UUID) -> list[str]:
    """The names of the shots, those that are put away too, that a piece of gear or a place belongs to."""
    cursor = await conn.execute(
        """
        SELECT name FROM shot JOIN shot_made_of ON shot_id = shot.id
        WHERE %(id)s = ANY (gear_ids) OR place_id = %(id)s ORDER BY date, name
        """,
        {"id": id},
    )
    return [row["name"] for row in await cursor.fetchall()]
