import time
from uuid import UUID

import psycopg
import pytest

from revani.core.documents import Shot
from revani.store import runs, shots
from revani.store.pool import Connection
from revani.store.runs import JournalFrame
from tests.conftest import Database, make_shot
from tests.store.within import within


async def armed(conn: Connection, shot: Shot, rig: str) -> UUID:
    await shots.bring_in(conn, shot)
    return await runs.arm(conn, runs.Order(shot, rig, speed=60, frame_count=10, planned_start_s=0))


def frame(number: int, **change: object) -> JournalFrame:
    values = {"number": number, "planned_s": 1.0, "fired_s": 1.0, "outcome": "taken", "file": f"{number}.jpg"}
    return JournalFrame.model_validate(values | change)


def test_of_two_runners_one_claims_and_a_lease_that_ran_out_is_taken_over(database: Database) -> None:
    async def story(conn: Connection) -> None:
        run_id = await armed(conn, make_shot(), "rig-lease")
        assert await runs.claim(conn, "rig-lease", "one") == run_id
        assert await runs.claim(conn, "rig-lease", "two") is None
        assert await runs.renew(conn, run_id, "two") is None
        assert await runs.renew(conn, run_id, "one") is False
        await conn.execute("UPDATE run SET lease_until = now() - interval '1 second' WHERE id = %s", [run_id])
        assert await runs.claim(conn, "rig-lease", "two") == run_id
        assert await runs.renew(conn, run_id, "one") is None

    within(database, story)


def test_a_restarted_runner_finds_its_own_run_again_at_once(database: Database) -> None:
    async def story(conn: Connection) -> None:
        run_id = await armed(conn, make_shot(), "rig-again")
        await runs.claim(conn, "rig-again", "same")
        assert await runs.claim(conn, "rig-again", "same") == run_id

    within(database, story)


def test_a_rig_runs_one_run_at_a_time(database: Database) -> None:
    async def story(conn: Connection) -> None:
        first = await armed(conn, make_shot(), "rig-single")
        second = await armed(conn, make_shot(), "rig-single")
        assert await runs.claim(conn, "rig-single", "one") == first
        assert await runs.claim(conn, "rig-single", "two") is None
        await runs.end(conn, first, "finished", "")
        assert await runs.claim(conn, "rig-single", "one") == second

    within(database, story)


def test_a_spool_that_is_emptied_twice_leaves_each_frame_once(database: Database) -> None:
    async def story(conn: Connection) -> None:
        run_id = await armed(conn, make_shot(), "rig-spool")
        await runs.append_frames(conn, run_id, [frame(1), frame(2)])
        await runs.append_frames(conn, run_id, [frame(1, file="other.jpg"), frame(2), frame(3)])
        journal = await runs.journal(conn, run_id)
        assert [(one.number, one.file) for one in journal] == [(1, "1.jpg"), (2, "2.jpg"), (3, "3.jpg")]
        assert await runs.last_number(conn, run_id) == 3

    within(database, story)


def test_the_journal_can_neither_be_changed_nor_shortened(database: Database, connection: psycopg.Connection) -> None:
    async def story(conn: Connection) -> UUID:
        run_id = await armed(conn, make_shot(), "rig-append")
        await runs.append_frames(conn, run_id, [frame(1)])
        return run_id

    run_id = within(database, story)
    for statement in (
        "UPDATE journal_frame SET number = 5 WHERE run_id = %s",
        "DELETE FROM journal_frame WHERE run_id = %s",
    ):
        with pytest.raises(psycopg.errors.RaiseException, match="append-only"):
            connection.execute(statement.encode(), [run_id])


def test_a_run_that_has_not_begun_is_stopped_at_once_and_one_that_runs_is_asked(database: Database) -> None:
    async def story(conn: Connection) -> None:
        waiting = await armed(conn, make_shot(), "rig-stop")
        assert (await runs.want_stop(conn, waiting)).state == "stopped"
        going = await armed(conn, make_shot(), "rig-stop")
        await runs.claim(conn, "rig-stop", "one")
        assert (await runs.want_stop(conn, going)).state == "running"
        assert await runs.renew(conn, going, "one") is True

    within(database, story)


def test_a_run_on_the_walls_clock_takes_its_rig_shortly_before_its_start_and_not_before(database: Database) -> None:
    async def story(conn: Connection) -> None:
        now = time.time()
        later, soon = make_shot(name="later"), make_shot(name="soon")
        for shot in (later, soon):
            await shots.bring_in(conn, shot)
        await runs.arm(conn, runs.Order(later, "rig-hours", 1, 10, now + 86_400))
        assert await runs.claim(conn, "rig-hours", "one") is None
        quick = await armed(conn, make_shot(), "rig-hours")
        assert [run.state for run in await runs.on_rig(conn, "rig-hours")] == ["armed", "armed"]
        due = await runs.arm(conn, runs.Order(soon, "rig-hours", 1, 10, now + 10, ["It fails."], "“later”"))
        assert await runs.claim(conn, "rig-hours", "one") == due
        assert (await runs.read(conn, due)).overridden == ["It fails."]
        await runs.end(conn, due, "finished", "")
        assert await runs.claim(conn, "rig-hours", "one") == quick

    within(database, story)
