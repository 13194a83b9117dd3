"""Films: being made or made of a run's frames."""

from dataclasses import dataclass
from typing import Any
from uuid import UUID, uuid4

from psycopg.types.json import Jsonb

from revani.core.documents import FilmOutput
from revani.store.pool import Connection
from revani.store.records import NotThere


@dataclass(frozen=True)
class Film:
    """A film as it stands; `done` of `total` frames in the present `step`.

    `output` is the recipe that it is made by, none where the frames are shown as they are; `frames` the frames of the
    run that go into it, in their order, once they are known.
    """

    id: UUID
    run_id: UUID
    state: str
    reason: str
    step: str
    done: int
    total: int
    fps: str
    frame_count: int | None
    closed_over: int
    size_bytes: int | None
    cancel_wanted: bool
    elapsed_s: float | None
    made_at: Any
    output: dict[str, Any] | None
    own: str
    frames: list[int] | None
    aligned: list[list[Any]] | None


# A worker that lives says something every second.
_SILENCE_S = 5


_COLUMNS = """
    SELECT id, run_id, state, reason, step, done, total, fps, frame_count, closed_over, size_bytes, cancel_wanted,
           extract(epoch FROM coalesce(ended_at, now()) - started_at)::float8 AS elapsed_s, made_at,
           output, own, frames, aligned
    FROM film
"""


async def order(
    conn: Connection, run_id: UUID, total: int, fps: str, output: FilmOutput | None = None, own: str = ""
) -> UUID:
    """Note that a film is wanted, as an output or of the frames as they are; returns its id."""
    id = uuid4()
    recipe = None if output is None else Jsonb(output.model_dump(mode="json"))
    await conn.execute(
        "INSERT INTO film (id, run_id, total, fps, output, own) VALUES (%s, %s, %s, %s, %s, %s)",
        [id, run_id, total, fps, recipe, own],
    )
    return id


@dataclass(frozen=True)
class Part:
    """A part of a film: which of its frames it holds, and whether it is made."""

    number: int
    first: int
    count: int
    finished: bool


async def lay_out(conn: Connection, id: UUID, frames: list[int], aligned: list[list[Any]], cut: list[Part]) -> bool:
    """Note what a film is made of and in which parts; False where it is not wanted any more. Done again, it stays."""
    cursor = await conn.execute(
        "UPDATE film SET frames = %s, aligned = %s, total = greatest(%s, 1), done = 0, step = 'Making the film' "
        "WHERE id = %s AND state IN ('waiting', 'working') RETURNING id",
        [frames, Jsonb(aligned) if aligned else None, sum(one.count for one in cut), id],
    )
    if await cursor.fetchone() is None:
        return False
    for one in cut:
        await conn.execute(
            "INSERT INTO film_part (film_id, number, first, count) VALUES (%s, %s, %s, %s) ON CONFLICT DO NOTHING",
            [id, one.number, one.first, one.count],
        )
    return True


async def parts(conn: Connection, id: UUID) -> list[Part]:
    """The parts of a film, in order."""
    cursor = await conn.execute(
        "SELECT number, first, count, finished FROM film_part WHERE film_id = %s ORDER BY number", [id]
    )
    return [Part(**row) for row in await cursor.fetchall()]


async def part_done(conn: Connection, id: UUID, number: int, done: int, finished: bool = False) -> bool:
    """Note how far a part is; True where the film is to be cancelled, or has been."""
    await conn.execute(
        "UPDATE film_part SET done = %s, finished = finished OR %s WHERE film_id = %s AND number = %s",
        [done, finished, id, number],
    )
    row = await (await conn.execute("SELECT sum(done)::int AS done FROM film_part WHERE film_id = %s", [id])).fetchone()
    return await progress(conn, id, "Making the film", (row or {}).get("done") or 0)


async def read(conn: Connection, id: UUID) -> Film:
    """One film. Raises NotThere."""
    row = await (await conn.execute(_COLUMNS + "WHERE id = %s", [id])).fetchone()
    if row is None:
        raise NotThere("There is no such film.")
    return Film(**row)


async def of_run(conn: Connection, run_id: UUID) -> list[Film]:
    """The films of a run, newest first."""
    rows = await (await conn.execute(_COLUMNS + "WHERE run_id = %s ORDER BY made_at DESC", [run_id])).fetchall()
    return [Film(**row) for row in rows]


async def current(conn: Connection) -> set[UUID]:
    """The films that are kept: being made, or the newest finished one of an output of their run."""
    cursor = await conn.execute(
        """
        SELECT id FROM film WHERE state IN ('waiting', 'working')
        UNION (SELECT DISTINCT ON (run_id, output ->> 'name') id FROM film WHERE state = 'finished'
               ORDER BY run_id, output ->> 'name', made_at DESC)
        """
    )
    return {row["id"] for row in await cursor.fetchall()}


async def progress(conn: Connection, id: UUID, step: str, done: int) -> bool:
    """Note how far it is; True where it is to be cancelled, or has been."""
    cursor = await conn.execute(
        """
        UPDATE film SET state = 'working', step = %(step)s, done = %(done)s, noted_at = now(),
               started_at = coalesce(started_at, now())
        WHERE id = %(id)s AND state IN ('waiting', 'working') RETURNING cancel_wanted
        """,
        {"id": id, "step": step, "done": done},
    )
    row = await cursor.fetchone()
    return row is None or row["cancel_wanted"]


async def finish(conn: Connection, id: UUID, frame_count: int, closed_over: int, size_bytes: int) -> None:
    """Note a film that is whole, and how many frames of its run it has no picture for."""
    await conn.execute(
        """
        UPDATE film SET state = 'finished', step = '', done = total, frame_count = %(frame_count)s,
               closed_over = %(closed_over)s, size_bytes = %(size_bytes)s, ended_at = now()
        WHERE id = %(id)s AND state = 'working'
        """,
        {"id": id, "frame_count": frame_count, "closed_over": closed_over, "size_bytes": size_bytes},
    )


async def give_up(conn: Connection, id: UUID, state: str, reason: str) -> None:
    """Note a film that was cancelled or failed."""
    await conn.execute(
        "UPDATE film SET state = %s, reason = %s, ended_at = now() WHERE id = %s AND state IN ('waiting', 'working')",
        [state, reason, id],
    )


async def want_cancel(conn: Connection, id: UUID) -> Film:
    """Ask for a film to be given up; one that waits, or of which no worker says anything, is given up at once."""
    await conn.execute(
        """
        UPDATE film SET cancel_wanted = true,
               state = CASE WHEN state = 'waiting' OR silent THEN 'cancelled' ELSE state END,
               reason = CASE WHEN state = 'waiting' OR silent THEN 'Cancelled.' ELSE reason END,
               ended_at = CASE WHEN state = 'waiting' OR silent THEN now() ELSE ended_at END
        FROM (SELECT noted_at < now() - make_interval(secs => %(silence)s) AS silent
              FROM film WHERE id = %(id)s) AS heard
        WHERE id = %(id)s AND state IN ('waiting', 'working')
        """,
        {"id": id, "silence": _SILENCE_S},
    )
    return await read(conn, id)
