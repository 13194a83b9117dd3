"""Runs, their journals, and the sign of life of the runners."""

from collections.abc import Sequence
from dataclasses import dataclass
from typing import Any, Literal
from uuid import UUID, uuid4

from psycopg.types.json import Jsonb

from revani.core.documents import AxisName, Shot
from revani.core.documents.run import (
    CLOCK_RIG,
    EndState,
    Entry,
    Intervention,
    InterventionKind,
    JournalFrame,
    Run,
    RunnerSign,
)
from revani.store.pool import Connection
from revani.store.records import NotThere

LEASE_S = 15
# So long before its first frame a run on the wall's clock takes its rig.
CLAIM_LEAD_S = 45

_COLUMNS = """
    SELECT id, shot_id, shot, rig, state, reason, speed, frame_count, planned_start_s, stop_wanted, runner,
           clock, armed_at, started_at, ended_at, overridden, waits_for, fence, notes, begins_s,
           (SELECT document ->> 'name' FROM rig
            WHERE key = run.rig AND 1 < (SELECT count(*) FROM rig WHERE NOT archived)) AS rig_name,
           (SELECT count(*) FROM journal_frame WHERE run_id = run.id AND outcome = 'taken')
               + (SELECT count(*) FROM journal_amendment WHERE run_id = run.id) AS taken,
           (SELECT count(*) FROM journal_frame WHERE run_id = run.id AND outcome = 'missed')
               - (SELECT count(*) FROM journal_amendment WHERE run_id = run.id) AS missed,
           (SELECT coalesce(jsonb_agg(jsonb_build_object(
                'nth', nth, 'kind', kind, 'amount', amount, 'axis', axis, 'by', ordered_by,
                'at_s', extract(epoch FROM ordered_at), 'from_number', from_number, 'refused', refused
            ) ORDER BY nth), '[]') FROM intervention WHERE run_id = run.id) AS interventions
    FROM run
"""


async def on_rig(conn: Connection, rig: str) -> list[Run]:
    """The runs that have a rig or wait for it, in the order in which they were armed."""
    cursor = await conn.execute(_COLUMNS + "WHERE rig = %s AND state IN ('armed', 'running') ORDER BY armed_at", [rig])
    return [Run(**row) for row in await cursor.fetchall()]


async def of_shot(conn: Connection, shot_id: UUID) -> list[UUID]:
    """The runs of a shot."""
    cursor = await conn.execute("SELECT id FROM run WHERE shot_id = %s", [shot_id])
    return [row["id"] for row in await cursor.fetchall()]


async def known(conn: Connection) -> set[UUID]:
    """The ids of all runs."""
    cursor = await conn.execute("SELECT id FROM run")
    return {row["id"] for row in await cursor.fetchall()}


async def hold_rig(conn: Connection, rig: str) -> None:
    """Let nobody else book a rig until the transaction ends."""
    await conn.execute("SELECT pg_advisory_xact_lock(hashtext(%s))", [f"rig {rig}"])


@dataclass(frozen=True)
class Order:
    """A shot to be run as it stands now: where, how fast, from when, against what, after whom."""

    shot: Shot
    rig: str
    speed: float
    frame_count: int
    planned_start_s: float
    planned_end_s: float
    overridden: tuple[str, ...] = ()
    waits_for: str = ""


async def arm(conn: Connection, order: Order) -> UUID:
    """Put a shot before the runner of a rig; returns the run's id."""
    id = uuid4()
    await conn.execute(
        """
        INSERT INTO run (id, shot_id, shot, rig, speed, frame_count, planned_start_s, planned_end_s, overridden,
                         waits_for)
        VALUES (%(id)s, %(shot_id)s, %(shot)s, %(rig)s, %(speed)s, %(frame_count)s, %(planned_start_s)s,
                %(planned_end_s)s, %(overridden)s, %(waits_for)s)
        """,
        {
            "id": id, "shot_id": order.shot.id, "shot": Jsonb(order.shot.model_dump(mode="json")), "rig": order.rig,
            "speed": order.speed, "frame_count": order.frame_count, "planned_start_s": order.planned_start_s,
            "planned_end_s": order.planned_end_s, "overridden": Jsonb(list(order.overridden)),
            "waits_for": order.waits_for,
        },
    )  # fmt: skip
    return id


async def keep_by_the_clock(conn: Connection) -> None:
    """Runs that nobody is linked to begin and end when the clock says so, whoever is there."""
    await conn.execute(
        """
        UPDATE run SET
            state = CASE WHEN planned_end_s <= extract(epoch FROM now()) THEN 'finished' ELSE 'running' END,
            started_at = coalesce(started_at, to_timestamp(planned_start_s)),
            ended_at = CASE WHEN planned_end_s <= extract(epoch FROM now()) THEN to_timestamp(planned_end_s) END,
            reason = CASE WHEN planned_end_s <= extract(epoch FROM now()) THEN %(reason)s ELSE '' END
        WHERE rig = %(rig)s AND state IN ('armed', 'running') AND planned_start_s <= extract(epoch FROM now())
          AND (state = 'armed' OR planned_end_s <= extract(epoch FROM now()))
        """,
        {"rig": CLOCK_RIG, "reason": "Kept by the clock alone: what the card holds is known when it is looked at."},
    )


async def read(conn: Connection, id: UUID) -> Run:
    """One run. Raises NotThere."""
    await keep_by_the_clock(conn)
    row = await (await conn.execute(_COLUMNS + "WHERE id = %s", [id])).fetchone()
    if row is None:
        raise NotThere("There is no such run.")
    return Run(**row)


async def latest(conn: Connection, most: int = 50) -> list[Run]:
    """The newest runs, newest first."""
    await keep_by_the_clock(conn)
    rows = await (await conn.execute(_COLUMNS + "ORDER BY armed_at DESC LIMIT %s", [most])).fetchall()
    return [Run(**row) for row in rows]


async def claim(conn: Connection, rig: str, runner: str) -> UUID | None:
    """Take the next run of a rig: one whose runner's lease has run out, or one that is armed.

    One on the wall's clock is taken shortly before its start, so that the rig is free for others until then.
    Each taking up gives the run a new, higher fence.
    """
    await _miss_what_is_over(conn, rig)
    cursor = await conn.execute(
        """
        UPDATE run SET state = 'running', runner = %(runner)s, started_at = coalesce(started_at, now()),
               lease_until = now() + make_interval(secs => %(lease)s),
               -- Higher than all before, in other databases, too, that the same gear was used with.
               fence = greatest((SELECT max(fence) + 1 FROM run), floor(extract(epoch FROM clock_timestamp()) * 1000))
        WHERE id = (
            SELECT id FROM run
            WHERE rig = %(rig)s
              AND (state = 'running' AND (lease_until < now() OR runner = %(runner)s)
                   OR state = 'armed'
                      AND (speed > 1 OR planned_start_s < extract(epoch FROM now()) + %(lead)s)
                      AND NOT EXISTS
                      (SELECT FROM run AS other WHERE other.rig = %(rig)s AND other.state = 'running'))
            ORDER BY state DESC, speed = 1 DESC, CASE WHEN speed = 1 THEN planned_start_s END, armed_at LIMIT 1
            FOR UPDATE SKIP LOCKED
        )
        RETURNING id
        """,
        {"rig": rig, "runner": runner, "lease": LEASE_S, "lead": CLAIM_LEAD_S},
    )
    row = await cursor.fetchone()
    return row["id"] if row else None


async def _miss_what_is_over(conn: Connection, rig: str) -> None:
    """A run on the wall's clock whose time has passed before anybody took it has missed its start."""
    await conn.execute(
        """
        UPDATE run SET state = 'missed', ended_at = now(), reason = CASE
            WHEN EXISTS (SELECT FROM run AS other WHERE other.rig = run.rig AND other.id <> run.id
                         AND other.started_at < to_timestamp(run.planned_end_s)
                         AND coalesce(other.ended_at, now()) > to_timestamp(run.planned_start_s))
            THEN 'Its time passed while the rig was busy with another run.'
            ELSE 'Its time passed and no runner was there to begin it.' END
        WHERE rig = %s AND state = 'armed' AND speed = 1 AND planned_end_s < extract(epoch FROM now())
        """,
        [rig],
    )


async def reached(conn: Connection, name: str, than: UUID) -> Run | None:
    """The newest other run of a shot of this name that has begun, and had not ended when run `than` was taken up."""
    await keep_by_the_clock(conn)
    row = await (
        await conn.execute(
            _COLUMNS
            + """WHERE shot->>'name' = %(name)s AND id <> %(than)s AND state NOT IN ('armed', 'missed')
                 AND (ended_at IS NULL OR ended_at > (SELECT started_at FROM run WHERE id = %(than)s))
                 ORDER BY started_at DESC LIMIT 1""",
            {"name": name, "than": than},
        )
    ).fetchone()
    return None if row is None else Run(**row)


async def renew(conn: Connection, id: UUID, fence: int) -> bool | None:
    """Renew the lease. True where a stop is wanted, False where not, None where it is another's now, or over."""
    cursor = await conn.execute(
        """
        UPDATE run SET lease_until = now() + make_interval(secs => %(lease)s)
        WHERE id = %(id)s AND fence = %(fence)s AND state = 'running'
        RETURNING stop_wanted
        """,
        {"id": id, "fence": fence, "lease": LEASE_S},
    )
    row = await cursor.fetchone()
    return row["stop_wanted"] if row else None


async def set_clock(conn: Connection, id: UUID, clock: dict[str, Any]) -> None:
    """Note on which stage clock a run goes, so that whoever resumes it goes on with the same."""
    await conn.execute("UPDATE run SET clock = %s WHERE id = %s", [Jsonb(clock), id])


async def want_stop(conn: Connection, id: UUID) -> Run:
    """Ask for a safe stop; a run that has not begun, or that no runner has any more, is ended at once."""
    await conn.execute(
        """
        UPDATE run SET stop_wanted = true,
               state = CASE WHEN state = 'armed' OR lease_until < now() OR rig = %(clock)s THEN 'stopped'
                            ELSE state END,
               reason = CASE WHEN state = 'armed' THEN 'Stopped before it began.'
                             WHEN rig = %(clock)s THEN 'Not followed any more; the camera itself was not told.'
                             WHEN lease_until < now() THEN 'Stopped by hand while no runner had it.'
                             ELSE reason END,
               ended_at = CASE WHEN state = 'armed' OR lease_until < now() OR rig = %(clock)s THEN now()
                               ELSE ended_at END
        WHERE id = %(id)s AND state IN ('armed', 'running')
        """,
        {"id": id, "clock": CLOCK_RIG},
    )
    return await read(conn, id)


async def end(conn: Connection, id: UUID, fence: int, state: EndState, reason: str) -> None:
    """Close a run, if it is still that of whoever asks."""
    await conn.execute(
        """
        UPDATE run SET state = %(state)s, reason = %(reason)s, ended_at = now(), lease_until = NULL
        WHERE id = %(id)s AND state = 'running' AND fence = %(fence)s
        """,
        {"id": id, "fence": fence, "state": state, "reason": reason},
    )


async def append(conn: Connection, run_id: UUID, fence: int, entries: Sequence[Entry]) -> bool:
    """Append what a spool holds; what is there already is left as it is (a spool is replayed).

    False, and nothing is appended, where another has taken the run up since.
    """
    async with conn.transaction():
        # Held, so that nobody takes it up in between.
        cursor = await conn.execute("SELECT 1 FROM run WHERE id = %s AND fence = %s FOR SHARE", [run_id, fence])
        if await cursor.fetchone() is None:
            return False
        frames = [entry.frame for entry in entries if entry.frame is not None]
        async with conn.cursor() as rows:
            await rows.executemany(_APPEND, [_row(run_id, frame) for frame in frames if not frame.first_said])
            await rows.executemany(_AMEND, [_row(run_id, frame) for frame in frames if frame.first_said])
        for told in (entry.told for entry in entries if entry.told is not None):
            await _taken_up(conn, run_id, told)
        for begun in (entry.begun for entry in entries if entry.begun is not None):
            await conn.execute(
                """
                UPDATE run SET begins_s = %(begins_s)s, shot = %(shot)s, frame_count = %(frame_count)s,
                       planned_start_s = %(begins_s)s, planned_end_s = %(end_s)s
                WHERE id = %(id)s AND begins_s IS NULL
                """,
                begun.model_dump(exclude={"told", "shot"}) | {"shot": Jsonb(begun.shot), "id": run_id},
            )
        for note in (entry.note for entry in entries if entry.note):
            await conn.execute(
                "UPDATE run SET notes = notes || %(note)s WHERE id = %(id)s AND NOT notes @> %(note)s",
                {"note": Jsonb([note]), "id": run_id},
            )
    return True


async def _taken_up(conn: Connection, run_id: UUID, told: Intervention) -> None:
    """Note that a change was taken up, once; a run that is longer or shorter by it has so many frames from now on."""
    cursor = await conn.execute(
        """
        UPDATE intervention SET from_number = %s, refused = %s
        WHERE run_id = %s AND nth = %s AND from_number IS NULL AND refused = ''
        RETURNING kind, amount
        """,
        [told.from_number, told.refused, run_id, told.nth],
    )
    if await cursor.fetchone() is None or told.refused:
        return
    if told.kind == "extend":
        await conn.execute("UPDATE run SET frame_count = frame_count + %s WHERE id = %s", [round(told.amount), run_id])
    elif told.kind == "end early":
        await conn.execute("UPDATE run SET frame_count = %s WHERE id = %s", [round(told.amount), run_id])


async def intervene(
    conn: Connection, run_id: UUID, kind: InterventionKind, amount: float, axis: AxisName | None, by: str
) -> Intervention:
    """Order a change of a run; its runner takes it up. Orders of one run are numbered one after the other."""
    async with conn.transaction():
        await conn.execute("SELECT 1 FROM run WHERE id = %s FOR UPDATE", [run_id])
        cursor = await conn.execute(
            """
            INSERT INTO intervention (run_id, nth, kind, amount, axis, ordered_by)
            SELECT %(run)s, 1 + (SELECT count(*) FROM intervention WHERE run_id = %(run)s), %(kind)s, %(amount)s,
                   %(axis)s, %(by)s
            RETURNING nth, kind, amount, axis, ordered_by AS by, extract(epoch FROM ordered_at)::float8 AS at_s
            """,
            {"run": run_id, "kind": kind, "amount": amount, "axis": axis, "by": by},
        )
        return Intervention.model_validate(await cursor.fetchone())


async def interventions(conn: Connection, run_id: UUID, after: int) -> list[Intervention]:
    """The changes that were ordered after the first so many."""
    cursor = await conn.execute(
        """
        SELECT nth, kind, amount, axis, ordered_by AS by, extract(epoch FROM ordered_at)::float8 AS at_s, from_number,
               refused
        FROM intervention WHERE run_id = %s AND nth > %s ORDER BY nth
        """,
        [run_id, after],
    )
    return [Intervention.model_validate(row) for row in await cursor.fetchall()]


async def note_on_rig(conn: Connection, rig: str, note: str) -> None:
    """Note something about the run that a rig shoots just now, if any, with the time of day in UTC."""
    await conn.execute(
        """
        UPDATE run SET notes = notes || jsonb_build_array(to_char(now() AT TIME ZONE 'UTC', 'HH24:MI:SS" UTC: "') || %s)
        WHERE rig = %s AND state = 'running'
        """,
        [note, rig],
    )


async def passed_over(conn: Connection, run_id: UUID, reason: str) -> int:
    """How many frames of a run were missed for a reason that begins so."""
    cursor = await conn.execute(
        "SELECT count(*) AS many FROM journal WHERE run_id = %s AND outcome = 'missed' AND starts_with(reason, %s)",
        [run_id, reason],
    )
    row = await cursor.fetchone()
    return int(row["many"]) if row else 0


_APPEND = """
    INSERT INTO journal_frame
        (run_id, number, planned_s, fired_s, outcome, reason, file, size_bytes, sha256, settings, camera, rig)
    VALUES (%(run_id)s, %(number)s, %(planned_s)s, %(fired_s)s, %(outcome)s, %(reason)s, %(file)s,
            %(size_bytes)s, %(sha256)s, %(settings)s, %(camera)s, %(rig)s)
    ON CONFLICT (run_id, number) DO NOTHING
"""
_AMEND = """
    INSERT INTO journal_amendment
        (run_id, number, reason, fired_s, file, size_bytes, sha256, settings, camera)
    SELECT run_id, number, %(reason)s, %(fired_s)s, %(file)s, %(size_bytes)s, %(sha256)s, %(settings)s, %(camera)s
    FROM journal_frame WHERE run_id = %(run_id)s AND number = %(number)s AND outcome = 'missed'
    ON CONFLICT (run_id, number) DO NOTHING
"""


def _row(run_id: UUID, frame: JournalFrame) -> dict[str, Any]:
    return frame.model_dump() | {
        "run_id": run_id,
        "settings": Jsonb(frame.settings.model_dump()) if frame.settings else None,
        "rig": Jsonb(frame.rig.model_dump(mode="json", exclude_defaults=True)) if frame.rig else None,
        "camera": Jsonb(frame.camera.model_dump()) if frame.camera else None,
    }


_JOURNAL = """
    SELECT number, planned_s, fired_s, outcome, reason, file, size_bytes, sha256, settings, camera, rig, first_said
    FROM journal
"""


async def journal(conn: Connection, run_id: UUID, after: int = 0) -> list[JournalFrame]:
    """The journal in order of frame number, from the one after `after`, with what was found out later."""
    cursor = await conn.execute(_JOURNAL + "WHERE run_id = %s AND number > %s ORDER BY number", [run_id, after])
    return [JournalFrame(**row) for row in await cursor.fetchall()]


async def frame(conn: Connection, run_id: UUID, number: int) -> JournalFrame | None:
    """What became of one frame; None where nothing is known of it."""
    cursor = await conn.execute(_JOURNAL + "WHERE run_id = %s AND number = %s", [run_id, number])
    row = await cursor.fetchone()
    return JournalFrame(**row) if row else None


async def told_of(
    conn: Connection, run_id: UUID, what: Literal["battery_left", "card_free_bytes"], most: int
) -> list[tuple[float, float]]:
    """What the camera told of itself with so many frames at most, all through a run: when, and how much."""
    cursor = await conn.execute(
        """
        WITH told AS (
            SELECT number, fired_s, (camera->>%(what)s)::float8 AS left_over,
                   row_number() OVER (ORDER BY number) AS nth, count(*) OVER () AS many
            FROM journal_frame
            WHERE run_id = %(run)s AND outcome = 'taken' AND camera->>%(what)s IS NOT NULL AND fired_s IS NOT NULL
        )
        SELECT fired_s, left_over FROM told WHERE nth %% ceil(many / %(most)s::float8)::int = 0 OR nth = many
        ORDER BY number
        """,
        {"what": what, "run": run_id, "most": most},
    )
    return [(row["fired_s"], row["left_over"]) for row in await cursor.fetchall()]


async def sign(conn: Connection, rig: str, runner: str, camera: dict[str, Any] | None) -> None:
    """The runner of a rig says that it is alive, and what its camera says."""
    await conn.execute(
        """
        INSERT INTO runner_sign (rig, runner, seen_at, camera) VALUES (%(rig)s, %(runner)s, now(), %(camera)s)
        ON CONFLICT (rig) DO UPDATE SET runner = %(runner)s, seen_at = now(), camera = %(camera)s
        """,
        {"rig": rig, "runner": runner, "camera": Jsonb(camera) if camera else None},
    )


async def signs(conn: Connection) -> list[RunnerSign]:
    """Each rig's runner: rig, runner, age_s since its sign, camera."""
    cursor = await conn.execute(
        """
        SELECT rig, runner, extract(epoch FROM now() - seen_at)::float8 AS age_s, camera
        FROM runner_sign ORDER BY rig
        """
    )
    return [RunnerSign.model_validate(row) for row in await cursor.fetchall()]
