"""Alarms of runs, and where they go out to."""

from collections.abc import Sequence
from typing import Literal
from uuid import UUID

from pydantic import BaseModel

from revani.core.documents.run import CLOCK_RIG
from revani.core.watch.alarm import Alarm, AlarmLevel
from revani.core.watch.alarms import KeptAlarm
from revani.store.pool import Connection
from revani.store.records import NotThere


class Outlet(BaseModel):
    """Where alarms from a level on go out to; `failed` is what the last attempt met."""

    id: UUID
    name: str
    address: str
    from_level: AlarmLevel
    failed: str


_COLUMNS = """
    SELECT id, run_id, key, level, text, advice, raised_at, over_at, acknowledged_at, acknowledged_by, told_at,
           told_count
    FROM alarm
"""


async def of_run(conn: Connection, run_id: UUID) -> list[KeptAlarm]:
    """All alarms of a run, the newest first."""
    cursor = await conn.execute(_COLUMNS + "WHERE run_id = %s ORDER BY raised_at DESC, key", [run_id])
    return [KeptAlarm.model_validate(row) for row in await cursor.fetchall()]


async def stand(conn: Connection, run_id: UUID, standing: Sequence[Alarm]) -> None:
    """What stands of a run now: what is new is raised, what changed its words has them, what is gone is over."""
    keys = [one.key for one in standing]
    await conn.execute(
        "UPDATE alarm SET over_at = now() WHERE run_id = %s AND over_at IS NULL AND key <> ALL(%s)", [run_id, keys]
    )
    for one in standing:
        await conn.execute(
            """
            INSERT INTO alarm (run_id, key, level, text, advice)
            SELECT %(run)s, %(key)s, %(level)s, %(text)s, %(advice)s FROM run WHERE id = %(run)s
            ON CONFLICT (run_id, key) WHERE over_at IS NULL
            DO UPDATE SET level = excluded.level, text = excluded.text
            WHERE alarm.level <> excluded.level OR alarm.text <> excluded.text
            """,
            {"run": run_id, "key": one.key, "level": one.level, "text": one.text, "advice": one.advice},
        )


async def acknowledge(conn: Connection, id: UUID, by: str) -> UUID:
    """A person has seen it; the first who did stays named. Returns the run. Raises NotThere."""
    cursor = await conn.execute(
        """
        UPDATE alarm SET acknowledged_by = CASE WHEN acknowledged_at IS NULL THEN %s ELSE acknowledged_by END,
                         acknowledged_at = coalesce(acknowledged_at, now())
        WHERE id = %s RETURNING run_id
        """,
        [by, id],
    )
    row = await cursor.fetchone()
    if row is None:
        raise NotThere("There is no such alarm.")
    found: UUID = row["run_id"]
    return found


async def to_tell(conn: Connection, again_after_s: float, most_old_s: float) -> list[tuple[KeptAlarm, str]]:
    """The alarms that are to go out now, each with the name of its shot: of runs on the wall's clock, unacknowledged.

    One to come for is told again and again, one to look at once; one that reached nobody is tried again sooner. What
    comes and goes is not told of each time.
    """
    cursor = await conn.execute(
        """
        SELECT alarm.id, run_id, key, level, text, advice, raised_at, over_at, acknowledged_at, acknowledged_by,
               told_at, told_count, run.shot->>'name' AS name
        FROM alarm JOIN run ON run.id = run_id
        WHERE acknowledged_at IS NULL AND run.speed = 1 AND raised_at > now() - make_interval(secs => %(old)s)
              AND (told_at IS NULL
                   OR (told_count = 0 AND told_at < now() - make_interval(secs => %(retry)s))
                   OR (level = 'come' AND over_at IS NULL AND told_at < now() - make_interval(secs => %(again)s)))
              AND NOT EXISTS (
                  SELECT FROM alarm AS other
                  WHERE other.run_id = alarm.run_id AND other.key = alarm.key AND other.id <> alarm.id
                        AND other.told_count > 0 AND other.told_at > now() - make_interval(secs => %(again)s))
        ORDER BY raised_at
        """,
        {"again": again_after_s, "retry": again_after_s / 5, "old": most_old_s},
    )
    return [(KeptAlarm.model_validate(row), row["name"] or "a run") for row in await cursor.fetchall()]


async def told(conn: Connection, ids: Sequence[UUID], reached: bool) -> None:
    """These were to go out just now, and did where somebody was reached."""
    await conn.execute(
        "UPDATE alarm SET told_at = now(), told_count = told_count + %s WHERE id = ANY(%s)", [int(reached), list(ids)]
    )


async def outlets(conn: Connection) -> list[Outlet]:
    """Where alarms go out to."""
    cursor = await conn.execute("SELECT id, name, address, from_level, failed FROM outlet ORDER BY made_at")
    return [Outlet.model_validate(row) for row in await cursor.fetchall()]


async def outlet(conn: Connection, id: UUID) -> Outlet:
    """One address. Raises NotThere."""
    found = [one for one in await outlets(conn) if one.id == id]
    if not found:
        raise NotThere("There is no such address.")
    return found[0]


async def add_outlet(conn: Connection, name: str, address: str, from_level: Literal["look", "come"]) -> UUID:
    """Let alarms go out to one more address; returns its id."""
    cursor = await conn.execute(
        "INSERT INTO outlet (name, address, from_level) VALUES (%s, %s, %s) RETURNING id", [name, address, from_level]
    )
    row = await cursor.fetchone()
    assert row is not None
    found: UUID = row["id"]
    return found


async def remove_outlet(conn: Connection, id: UUID) -> None:
    """Let none go there any more. Raises NotThere."""
    if (await conn.execute("DELETE FROM outlet WHERE id = %s", [id])).rowcount == 0:
        raise NotThere("There is no such address.")


async def outlet_failed(conn: Connection, id: UUID, why: str) -> None:
    """What the last attempt to reach an address met; nothing where it was reached."""
    await conn.execute("UPDATE outlet SET failed = %s WHERE id = %s", [why, id])


async def watched(conn: Connection) -> list[UUID]:
    """The runs that are watched: live ones, and those that ended, or whose sound was measured, a moment ago.

    Of linked cameras alone.
    """
    cursor = await conn.execute(
        """
        SELECT id FROM run
        WHERE rig <> %s AND (state IN ('armed', 'running') OR ended_at > now() - interval '1 minute' OR id IN
            (SELECT run_id FROM sound_of_film WHERE measured_at > now() - interval '1 minute'
             AND ended_at > now() - interval '1 hour'))
        ORDER BY armed_at
        """,
        [CLOCK_RIG],
    )
    return [row["id"] for row in await cursor.fetchall()]
