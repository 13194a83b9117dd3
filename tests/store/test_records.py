import asyncio
from uuid import uuid4

import psycopg
import pytest

from revani.core.quantities.refusal import Refusal
from revani.store import records, shots
from revani.store.pool import migrate, open_pool
from revani.store.records import NotThere, StaleVersion
from tests.conftest import Database, make_place, make_shot
from tests.store.within import within


def test_migrations_can_be_applied_again(database: Database) -> None:
    migrate(database.url)
    with psycopg.connect(database.url) as conn:
        row = conn.execute(
            "SELECT count(*) FROM information_schema.tables WHERE table_name = 'journal_frame'"
        ).fetchone()
    assert row == (1,)


def test_a_shot_comes_back_as_it_was_saved(database: Database) -> None:
    shot = make_shot()
    saved = within(database, lambda conn: shots.bring_in(conn, shot))
    assert saved.version == 1
    again = within(database, lambda conn: shots.read(conn, shot.id))
    assert type(shot).model_validate(again.document) == shot


def test_every_save_keeps_what_it_replaces_and_a_stale_one_changes_nothing(database: Database) -> None:
    shot = make_shot()
    within(database, lambda conn: shots.bring_in(conn, shot))
    renamed = shot.model_copy(update={"name": "second"})
    assert within(database, lambda conn: shots.save(conn, shot.id, renamed, over=1)).version == 2
    with pytest.raises(StaleVersion) as stale:
        within(database, lambda conn: shots.save(conn, shot.id, shot.model_copy(update={"name": "third"}), over=1))
    assert stale.value.current.version == 2 and stale.value.current.document["name"] == "second"
    kept = within(database, lambda conn: records.earlier(conn, "shot", shot.id))
    assert [(one["version"], one["document"]["name"]) for one in kept] == [(1, "Test shot")]


def test_of_two_saves_at_once_one_wins_and_the_other_is_told(database: Database) -> None:
    place = make_place()
    document = place.model_dump(mode="json")
    within(database, lambda conn: records.insert(conn, "place", place.id, document))

    async def race() -> list[object]:
        async with open_pool(database.url, most=8) as pool:

            async def one(name: str) -> object:
                async with pool.connection() as conn:
                    return await records.save(conn, "place", place.id, document | {"name": name}, over=1)

            return await asyncio.gather(*(one(f"n{i}") for i in range(8)), return_exceptions=True)

    outcomes = asyncio.run(race())
    assert sum(isinstance(outcome, records.Saved) for outcome in outcomes) == 1
    assert sum(isinstance(outcome, StaleVersion) for outcome in outcomes) == 7
    assert within(database, lambda conn: records.read(conn, "place", place.id)).version == 2


def test_a_shot_shows_its_kit_as_the_kit_stands_now(database: Database) -> None:
    shot = make_shot()
    within(database, lambda conn: shots.bring_in(conn, shot))
    body = shot.kit.body.model_copy(update={"battery_wh": 33.0})
    within(database, lambda conn: records.save(conn, "gear", body.id, body.model_dump(mode="json"), over=1))
    assert within(database, lambda conn: shots.read(conn, shot.id)).document["kit"]["body"]["battery_wh"] == 33


def test_a_shot_that_refers_to_gear_put_away_is_refused_at_that_field(database: Database) -> None:
    shot = make_shot()
    within(database, lambda conn: shots.bring_in(conn, shot))
    lens = shot.kit.lens
    within(database, lambda conn: records.save(conn, "gear", lens.id, lens.model_dump(mode="json"), 1, archived=True))
    with pytest.raises(Refusal) as refusal:
        within(database, lambda conn: shots.save(conn, shot.id, shot, over=1))
    assert refusal.value.path == "kit.lens"


def test_a_refused_shot_brings_none_of_its_gear_in(database: Database) -> None:
    known = make_shot()
    within(database, lambda conn: shots.bring_in(conn, known))
    place = known.place
    within(
        database, lambda conn: records.save(conn, "place", place.id, place.model_dump(mode="json"), 1, archived=True)
    )
    newcomer = make_shot(place=place)
    with pytest.raises(Refusal):
        within(database, lambda conn: shots.bring_in(conn, newcomer))
    with pytest.raises(NotThere):
        within(database, lambda conn: records.read(conn, "gear", newcomer.kit.body.id))


def test_a_taken_id_and_a_foreign_id_are_refused(database: Database) -> None:
    place = make_place()
    document = place.model_dump(mode="json")
    within(database, lambda conn: records.insert(conn, "place", place.id, document))
    with pytest.raises(Refusal):
        within(database, lambda conn: records.insert(conn, "place", place.id, document))
    with pytest.raises(Refusal):
        within(database, lambda conn: records.save(conn, "place", uuid4(), document, over=1))


def test_the_database_itself_holds_what_must_hold(connection: psycopg.Connection) -> None:
    id = uuid4()
    with pytest.raises(psycopg.errors.CheckViolation):
        connection.execute("INSERT INTO place (id, name, document) VALUES (%s, 'x', '{\"id\": \"other\"}')", [id])
    with pytest.raises(psycopg.errors.CheckViolation):
        connection.execute(
            "INSERT INTO gear (id, kind, name, document) VALUES (%s, 'lens', 'x', jsonb_build_object('id', %s::text))",
            [id, str(id)],
        )
