"""What sensors and people have said that a run may wait for, and who may say so for a rig."""

import hashlib
import hmac
import secrets
from collections.abc import Sequence
from typing import NamedTuple
from uuid import UUID

from revani.core.timing.triggers import HeardAgo, HeardKind
from revani.core.watch.around import Around, Told
from revani.store.pool import Connection

# What is older than this is of no use to anybody.
_KEPT_HOURS = 26
_OF_SENSORS: tuple[HeardKind, ...] = ("code card", "level", "light", "motion", "sound", "temperature")
# So far back peaks of sound are of use.
_PEAKS_S = 15


class Said(NamedTuple):
    """One thing that is said now."""

    kind: HeardKind
    value: float = 0.0
    word: str = ""


async def put(conn: Connection, rig: str, said: Sequence[Said], run_id: UUID | None = None) -> None:
    """Keep what was said, for a rig or for one run of it."""
    async with conn.cursor() as rows:
        await rows.executemany(
            "INSERT INTO heard (rig, run_id, kind, value, word) VALUES (%s, %s, %s, %s, %s)",
            [(rig, run_id, one.kind, one.value, one.word) for one in said],
        )
    await conn.execute("DELETE FROM heard WHERE at < now() - make_interval(hours => %s)", [_KEPT_HOURS])


async def since(conn: Connection, rig: str, run_id: UUID, after: int) -> list[HeardAgo]:
    """What was said for a run since it was taken up, after the row of this id."""
    cursor = await conn.execute(
        """
        SELECT id, kind, value, word, extract(epoch FROM clock_timestamp() - at)::float8 AS ago_s FROM heard
        WHERE rig = %(rig)s AND (run_id IS NULL OR run_id = %(run)s) AND id > %(after)s
          AND at >= (SELECT started_at FROM run WHERE id = %(run)s)
        ORDER BY id
        """,
        {"rig": rig, "run": run_id, "after": after},
    )
    return [HeardAgo(**row) for row in await cursor.fetchall()]


async def newest(conn: Connection, rig: str) -> list[HeardAgo]:
    """The last that was said of each kind, of what sensors say."""
    cursor = await conn.execute(
        """
        SELECT last.id, kind, last.value, last.word,
               extract(epoch FROM clock_timestamp() - last.at)::float8 AS ago_s
        FROM unnest(%s::text[]) AS kind CROSS JOIN LATERAL (
            SELECT id, value, word, at FROM heard WHERE rig = %s AND heard.kind = kind.kind ORDER BY id DESC LIMIT 1
        ) AS last
        ORDER BY kind
        """,
        [list(_OF_SENSORS), rig],
    )
    return [HeardAgo(**row) for row in await cursor.fetchall()]


async def around(conn: Connection, rig: str, since_s: float) -> Around:
    """What the sensors of a rig told of its surroundings; how it stood, from so many real seconds ago on."""
    cursor = await conn.execute(
        """
        SELECT kind, value, extract(epoch FROM clock_timestamp() - at)::float8 AS ago_s FROM heard
        WHERE rig = %(rig)s AND (
            id = (SELECT max(id) FROM heard WHERE rig = %(rig)s AND kind = 'temperature')
            OR id = (SELECT max(id) FROM heard WHERE rig = %(rig)s AND kind = 'level')
            OR id = (SELECT min(id) FROM heard WHERE rig = %(rig)s AND kind = 'level'
                     AND at >= now() - make_interval(secs => %(since)s))
            OR kind = 'sound' AND at > now() - make_interval(secs => %(peaks)s))
        ORDER BY id DESC
        """,
        {"rig": rig, "since": since_s, "peaks": _PEAKS_S},
    )
    told: dict[str, list[Told]] = {}
    for row in await cursor.fetchall():
        told.setdefault(row["kind"], []).append(Told(row["value"], row["ago_s"]))
    warm, levels = told.get("temperature"), [one for one in told.get("level", []) if one.ago_s <= since_s]
    return Around(
        temperature=warm[0] if warm else None, level=levels[0] if levels else None,
        level_first=levels[-1] if levels else None, peaks=told.get("sound", []),
    )  # fmt: skip


async def new_token(conn: Connection, rig: str) -> str:
    """A new word by which sensors of a rig are known; the one before is void. It is kept as its digest alone."""
    token = secrets.token_urlsafe(24)
    await conn.execute(
        """
        INSERT INTO sensor_token (rig, sha256) VALUES (%s, %s)
        ON CONFLICT (rig) DO UPDATE SET sha256 = excluded.sha256, made_at = now()
        """,
        [rig, _digest(token)],
    )
    return token


async def rig_of(conn: Connection, token: str) -> str | None:
    """The rig whose sensors have this token; None where none has."""
    digest = _digest(token)
    rows = await (await conn.execute("SELECT rig, sha256 FROM sensor_token")).fetchall()
    return next((row["rig"] for row in rows if hmac.compare_digest(row["sha256"], digest)), None)


async def has_token(conn: Connection, rig: str) -> bool:
    """Whether sensors of a rig may say anything."""
    return await (await conn.execute("SELECT 1 FROM sensor_token WHERE rig = %s", [rig])).fetchone() is not None


def _digest(token: str) -> str:
    return hashlib.sha256(token.encode()).hexdigest()
