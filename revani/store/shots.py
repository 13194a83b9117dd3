"""Shots: their documents, with the kit and the place as these stand now."""

from collections.abc import Collection, Iterable
from datetime import date, datetime
from typing import Any, NamedTuple
from uuid import UUID

from pydantic import BaseModel, ValidationError

from revani.core.documents import Gear, Shot, said
from revani.core.findings.finding import Severity
from revani.core.quantities.refusal import Refusal
from revani.store import records
from revani.store.pool import Connection
from revani.store.records import NotThere, Saved

# Parts of a kit of which there are many, each in its order.
_MANY = ("filters", "movers", "extras")
_CARRIED = ",\n".join(
    f"""
           (SELECT coalesce(jsonb_agg(piece.document ORDER BY carried.place), '[]')
            FROM jsonb_array_elements(shot.document #> '{{kit,{many}}}') WITH ORDINALITY AS carried (document, place)
            JOIN gear AS piece ON piece.id = (carried.document ->> 'id')::uuid) AS {many}"""
    for many in _MANY
)
_CURRENT = f"""
    SELECT shot.id, shot.version, shot.archived, shot.document,
           body.document AS body, lens.document AS lens, card.document AS card, place.document AS place,
           {_CARRIED}
    FROM shot
    JOIN gear AS body ON body.id = body_id
    JOIN gear AS lens ON lens.id = lens_id
    JOIN gear AS card ON card.id = card_id
    JOIN place ON place.id = place_id
"""


def _assembled(row: dict[str, Any]) -> Saved:
    kit = {name: row[name] for name in ("body", "lens", "card", *_MANY)}
    document = row["document"] | {"kit": row["document"]["kit"] | kit, "place": row["place"]}
    try:
        Shot.model_validate(document)
    except ValidationError:
        # The gear was changed so that it does not go together any more; the shot keeps what it was planned with.
        document = row["document"] | {"place": row["place"]}
    return Saved(row["id"], row["version"], row["archived"], document)


async def read(conn: Connection, id: UUID) -> Saved:
    """One shot with its current kit and place. Raises NotThere."""
    row = await (await conn.execute(_CURRENT + "WHERE shot.id = %s", [id])).fetchone()
    if row is None:
        raise NotThere("There is no such shot.")
    return _assembled(row)


async def everything(conn: Connection, archived: bool = False) -> list[Saved]:
    """All shots by date and name; those that are put away only where asked for."""
    cursor = await conn.execute(_CURRENT + "WHERE %s OR NOT shot.archived ORDER BY shot.date, shot.name", [archived])
    return [_assembled(row) for row in await cursor.fetchall()]


class Verdict(BaseModel):
    """What is wrong with a shot at worst, and how much; no severity where nothing is."""

    severity: Severity | None
    fails: int
    minds: int


class ListedShot(BaseModel):
    """A shot as a list shows it; `used` are the ids of its gear and its place, `verdict` what is known to be wrong."""

    id: UUID
    version: int
    archived: bool
    name: str
    date: date
    place: str
    body: str
    lens: str
    runs: int
    saved_at: datetime
    used: list[str]
    verdict: Verdict | None


async def rows(conn: Connection, rules: str = "") -> list[ListedShot]:
    """All shots as a list shows them, those that are put away too, by date and name.

    `rules` stands for those by which shots are judged: a verdict by others is none; without any, none is told.
    """
    cursor = await conn.execute(
        """
        SELECT shot.id, shot.version, shot.archived, shot.name, shot.date, place.name AS place, body.name AS body,
               lens.name AS lens, (SELECT count(*) FROM run WHERE run.shot_id = shot.id) AS runs, shot.saved_at,
               (gear_ids || place_id)::text[] AS used,
               CASE WHEN verdict.shot_id IS NOT NULL THEN
                   jsonb_build_object('severity', severity, 'fails', fails, 'minds', minds) END AS verdict
        FROM shot
        JOIN gear AS body ON body.id = body_id
        JOIN gear AS lens ON lens.id = lens_id
        JOIN place ON place.id = place_id
        JOIN shot_made_of AS made ON made.shot_id = shot.id
        LEFT JOIN verdict ON verdict.shot_id = shot.id AND verdict.stamp = made.stamp || %s
        ORDER BY shot.date, shot.name
        """,
        [rules],
    )
    return [ListedShot(**row) for row in await cursor.fetchall()]


class Stamped(NamedTuple):
    """A shot with the stamp of all that it is made of, and what is known of it."""

    shot: Shot
    stamp: str
    verdict: Verdict | None


async def stamped(conn: Connection, ids: Collection[UUID], rules: str) -> list[Stamped]:
    """Those of some shots that are there, each with its stamp, and its verdict where that is fresh."""
    cursor = await conn.execute(
        """
        SELECT made.shot_id AS id, made.stamp || %(rules)s AS stamp, verdict.stamp AS judged, severity, fails, minds
        FROM shot_made_of AS made LEFT JOIN verdict USING (shot_id) WHERE made.shot_id = ANY(%(ids)s)
        """,
        {"ids": list(ids), "rules": rules},
    )
    known = {row["id"]: row for row in await cursor.fetchall()}
    found = []
    for saved in await chosen(conn, ids):
        row = known[saved.id]
        fresh = row["judged"] == row["stamp"]
        verdict = Verdict(**{name: row[name] for name in Verdict.model_fields}) if fresh else None
        found.append(Stamped(Shot.model_validate(saved.document), row["stamp"], verdict))
    return found


async def keep_verdicts(conn: Connection, judged: Iterable[tuple[UUID, str, Verdict]]) -> None:
    """Keep what was found wrong with shots, by the stamps that they were judged at."""
    async with conn.cursor() as cursor:
        await cursor.executemany(
            """
            INSERT INTO verdict (shot_id, stamp, severity, fails, minds)
            SELECT id, %(stamp)s, %(severity)s, %(fails)s, %(minds)s FROM shot WHERE id = %(id)s
            ON CONFLICT (shot_id) DO UPDATE
            SET stamp = excluded.stamp, severity = excluded.severity, fails = excluded.fails, minds = excluded.minds
            """,
            [{"id": id, "stamp": stamp, **verdict.model_dump()} for id, stamp, verdict in judged],
        )


async def delete(conn: Connection, id: UUID) -> None:
    """Delete a shot that was never run, with its earlier versions. Raises NotThere or Refusal."""
    found = await conn.execute("SELECT (SELECT count(*) FROM run WHERE shot_id = %s) AS runs", [id])
    row = await found.fetchone()
    if row and row["runs"]:
        raise Refusal("id", "It was run: what was taken belongs to it. Put it away instead.", str(id))
    await records.delete(conn, "shot", id)


async def chosen(conn: Connection, ids: Collection[UUID]) -> list[Saved]:
    """Those of some shots that are there, those that are put away too, with their current kit and place."""
    cursor = await conn.execute(_CURRENT + "WHERE shot.id = ANY(%s)", [list(ids)])
    return [_assembled(row) for row in await cursor.fetchall()]


async def names(conn: Connection) -> dict[UUID, str]:
    """What every shot is called, those that are put away too."""
    cursor = await conn.execute("SELECT id, name FROM shot")
    return {row["id"]: row["name"] for row in await cursor.fetchall()}


async def insert(conn: Connection, shot: Shot) -> Saved:
    """Save a new shot. Raises Refusal where its kit or place is not there or put away."""
    await _check_references(conn, shot)
    await records.insert(conn, "shot", shot.id, shot.model_dump(mode="json"))
    return await read(conn, shot.id)


async def save(conn: Connection, id: UUID, shot: Shot, over: int, archived: bool | None = None) -> Saved:
    """Save over the version that was read; put away or taken back where that is said.

    Raises Refusal, StaleVersion or NotThere.
    """
    await _check_references(conn, shot)
    if archived is None:
        archived = (await read(conn, id)).archived
    try:
        await records.save(conn, "shot", id, shot.model_dump(mode="json"), over, archived)
    except records.StaleVersion as stale:
        raise records.StaleVersion(await read(conn, id)) from stale
    return await read(conn, id)


async def bring_in(conn: Connection, shot: Shot) -> Saved:
    """Save a shot that came from outside, and with it the gear and the place that are not known here."""
    async with conn.transaction():
        for piece in shot.kit.pieces:
            if not await _there(conn, "gear", piece.id):
                await records.insert(conn, "gear", piece.id, said(piece))
        if not await _there(conn, "place", shot.place.id):
            await records.insert(conn, "place", shot.place.id, said(shot.place))
        return await insert(conn, shot)


async def _there(conn: Connection, record: records.Record, id: UUID) -> bool:
    try:
        await records.read(conn, record, id)
    except NotThere:
        return False
    return True


async def _check_references(conn: Connection, shot: Shot) -> None:
    kit = shot.kit
    pieces: list[tuple[str, Gear]] = [("kit.body", kit.body), ("kit.lens", kit.lens), ("kit.card", kit.card)]
    pieces += [(f"kit.{many}.{at}", one) for many in _MANY for at, one in enumerate(getattr(kit, many))]
    references: list[tuple[str, records.Record, UUID, str]] = [
        *((path, "gear", piece.id, str(piece.model_dump()["kind"])) for path, piece in pieces),
        ("place", "place", shot.place.id, ""),
    ]
    for path, record, id, kind in references:
        try:
            saved = await records.read(conn, record, id)
        except NotThere:
            raise Refusal(path, "Save it first, or choose one that is there.", str(id)) from None
        if saved.archived:
            raise Refusal(path, f"{saved.document['name']} is put away; choose another.", str(id))
        if record == "gear" and saved.document["kind"] != kind:
            raise Refusal(path, f"{saved.document['name']} is a {saved.document['kind']}.", str(id))
