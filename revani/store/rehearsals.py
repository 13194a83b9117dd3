"""Films of what shots would be, and how far they are."""

from dataclasses import dataclass
from typing import Any

from psycopg.types.json import Jsonb

from revani.store.pool import Connection


@dataclass(frozen=True)
class RehearsedPart:
    """A part of a film: its frames, what is in it by its hash, and how far it is."""

    number: int
    first: int
    count: int
    key: str
    done: int
    finished: bool


@dataclass(frozen=True)
class Rehearsed:
    """A film by what is in it; `elapsed_s` is how long it has been made.

    `beside` is None for the film of one shot; of ways beside each other it has their names and their cursor's lock.
    `output` is which output of its shot it is, counted from 0; None: its pictures as they are taken.
    """

    id: str
    shot: dict[str, Any]
    mishaps: list[Any]
    width: int
    state: str
    reason: str
    total: int
    elapsed_s: float | None
    parts: list[RehearsedPart]
    beside: dict[str, Any] | None = None
    output: int | None = None


async def read(conn: Connection, id: str) -> Rehearsed | None:
    """A film; None where nobody has asked for it."""
    cursor = await conn.execute(
        """
        SELECT id, shot, mishaps, beside, output, width, state, reason, total,
               extract(epoch FROM coalesce(ended_at, now()) - started_at)::float8 AS elapsed_s
        FROM rehearsed WHERE id = %s
        """,
        [id],
    )
    row = await cursor.fetchone()
    if row is None:
        return None
    cursor = await conn.execute(
        "SELECT number, first, count, key, done, finished FROM rehearsed_part WHERE film_id = %s ORDER BY number", [id]
    )
    return Rehearsed(**row, parts=[RehearsedPart(**part) for part in await cursor.fetchall()])


async def want(conn: Connection, film: Rehearsed) -> bool:
    """Note that a film is wanted; True where it has to be made, False where it is there or being made already."""
    cursor = await conn.execute(
        """
        INSERT INTO rehearsed (id, shot, mishaps, beside, output, width, total) VALUES (%s, %s, %s, %s, %s, %s, %s)
        ON CONFLICT (id) DO UPDATE SET state = 'waiting', reason = '', cancel_wanted = false, started_at = NULL,
            ended_at = NULL, asked_at = now()
        WHERE rehearsed.state IN ('failed', 'cancelled')
        """,
        [
            film.id,
            Jsonb(film.shot),
            Jsonb(film.mishaps),
            Jsonb(film.beside) if film.beside else None,
            film.output,
            film.width,
            film.total,
        ],
    )
    if cursor.rowcount == 0:
        return False
    for part in film.parts:
        await conn.execute(
            """
            INSERT INTO rehearsed_part (film_id, number, first, count, key) VALUES (%s, %s, %s, %s, %s)
            ON CONFLICT (film_id, number) DO UPDATE SET done = 0, finished = false
            """,
            [film.id, part.number, part.first, part.count, part.key],
        )
    return True


async def begun(conn: Connection, id: str) -> None:
    """Note that it is worked on."""
    await conn.execute(
        "UPDATE rehearsed SET state = 'working', started_at = coalesce(started_at, now()) "
        "WHERE id = %s AND state = 'waiting'",
        [id],
    )


async def part_done(conn: Connection, id: str, number: int, done: int, finished: bool = False) -> bool:
    """Note how far a part is; False where the film is not wanted any more."""
    await conn.execute(
        "UPDATE rehearsed_part SET done = %s, finished = finished OR %s WHERE film_id = %s AND number = %s",
        [done, finished, id, number],
    )
    row = await (await conn.execute("SELECT cancel_wanted FROM rehearsed WHERE id = %s", [id])).fetchone()
    return row is not None and not row["cancel_wanted"]


async def finish(conn: Connection, id: str, state: str, reason: str = "") -> None:
    """Note how it ended; what has ended stays so."""
    await conn.execute(
        "UPDATE rehearsed SET state = %s, reason = %s, ended_at = now() "
        "WHERE id = %s AND state IN ('waiting', 'working')",
        [state, reason, id],
    )


async def cancel(conn: Connection, id: str) -> None:
    """Ask that it be made no further; one that nobody has begun is ended at once."""
    await conn.execute("UPDATE rehearsed SET cancel_wanted = true WHERE id = %s", [id])
    await conn.execute(
        "UPDATE rehearsed SET state = 'cancelled', reason = 'Cancelled.', ended_at = now() "
        "WHERE id = %s AND state = 'waiting'",
        [id],
    )


async def again(conn: Connection, id: str) -> None:
    """Note that its file is gone, so that it is made anew."""
    await conn.execute("UPDATE rehearsed SET state = 'cancelled' WHERE id = %s AND state = 'done'", [id])
