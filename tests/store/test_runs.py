import asyncio
import time
from uuid import UUID

import psycopg
import pytest

from revani.core.documents import Shot
from revani.core.documents.run import Entry, JournalFrame
from revani.runner.home import AWAY
from revani.store import records, runs, shots
from revani.store.pool import Connection, Pool, open_pool
from tests.conftest import Database, make_shot
from tests.store.within import within


async def armed(conn: Connection, shot: Shot, rig: str) -> UUID:
    await shots.bring_in(conn, shot)
    return await runs.arm(conn, runs.Order(shot, rig, speed=60, frame_count=10, planned_start_s=0, planned_end_s=600))


def frame(number: int, **change: object) -> JournalFrame:
    values = {"number": number, "planned_s": 1.0, "fired_s": 1.0, "outcome": "taken", "file": f"{number}.jpg"}
    return JournalFrame.model_validate(values | change)


async def fence(conn: Connection, id: UUID) -> int:
    return (await runs.read(conn, id)).fence


def test_of_two_runners_one_claims_and_a_lease_that_ran_out_is_taken_over(database: Database) -> None:
    async def story(conn: Connection) -> None:
        run_id = await armed(conn, make_shot(), "rig-lease")
        assert await runs.claim(conn, "rig-lease", "one") == run_id
        assert await runs.claim(conn, "rig-lease", "two") is None
        first = await fence(conn, run_id)
        assert await runs.renew(conn, run_id, first + 1) is None
        assert await runs.renew(conn, run_id, first) is False
        await conn.execute("UPDATE run SET lease_until = now() - interval '1 second' WHERE id = %s", [run_id])
        assert await runs.claim(conn, "rig-lease", "two") == run_id
        # Whoever had it before has a lower fence: neither lease nor journal are its any more, nor is the end.
        assert await fence(conn, run_id) > first and await runs.renew(conn, run_id, first) is None
        assert not await runs.append(conn, run_id, first, [Entry(frame=frame(1))])
        await runs.end(conn, run_id, first, "failed", "")
        assert (await runs.read(conn, run_id)).state == "running" and await runs.journal(conn, run_id) == []

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
        await runs.end(conn, first, await fence(conn, first), "finished", "")
        assert await runs.claim(conn, "rig-single", "one") == second

    within(database, story)


def test_a_spool_that_is_emptied_twice_leaves_each_frame_once(database: Database) -> None:
    async def story(conn: Connection) -> None:
        run_id = await armed(conn, make_shot(), "rig-spool")
        entries = [Entry(frame=frame(1)), Entry(note="The mover was away."), Entry(frame=frame(2))]
        assert await runs.append(conn, run_id, 0, entries)
        again = [Entry(frame=frame(1, file="other.jpg")), *entries[1:], Entry(frame=frame(3))]
        assert await runs.append(conn, run_id, 0, again)
        journal = await runs.journal(conn, run_id)
        assert [(one.number, one.file) for one in journal] == [(1, "1.jpg"), (2, "2.jpg"), (3, "3.jpg")]
        assert (await runs.read(conn, run_id)).notes == ("The mover was away.",)

    within(database, story)


def test_the_journal_can_neither_be_changed_nor_shortened(database: Database, connection: psycopg.Connection) -> None:
    async def story(conn: Connection) -> UUID:
        run_id = await armed(conn, make_shot(), "rig-append")
        gone = JournalFrame(number=2, planned_s=1, outcome="missed", reason="No answer.")
        found = frame(2, reason="Found on the card later.", first_said="No answer.")
        for _ in range(2):
            await runs.append(conn, run_id, 0, [Entry(frame=one) for one in (frame(1), gone, found)])
        # What turns up later is told beside what was said first; a frame that was taken is not amended.
        await runs.append(conn, run_id, 0, [Entry(frame=frame(1, file="x.jpg", reason="?", first_said="?"))])
        run, journal = await runs.read(conn, run_id), await runs.journal(conn, run_id)
        assert (run.taken, run.missed) == (2, 0) and [one.file for one in journal] == ["1.jpg", "2.jpg"]
        assert journal[1].outcome == "taken" and journal[1].first_said == "No answer."
        return run_id

    run_id = within(database, story)
    for statement in (
        "UPDATE journal_frame SET number = 5 WHERE run_id = %s",
        "DELETE FROM journal_frame WHERE run_id = %s",
        "DELETE FROM journal_amendment WHERE run_id = %s",
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
        assert await runs.renew(conn, going, await fence(conn, going)) is True
        # One whose runner is gone is not waited for.
        await conn.execute("UPDATE run SET lease_until = now() - interval '1 second' WHERE id = %s", [going])
        alone = await runs.want_stop(conn, going)
        assert alone.state == "stopped" and "no runner had it" in alone.reason

    within(database, story)


def test_a_run_on_the_walls_clock_takes_its_rig_shortly_before_its_start_and_not_before(database: Database) -> None:
    async def story(conn: Connection) -> None:
        now = time.time()
        later, soon = make_shot(name="later"), make_shot(name="soon")
        for shot in (later, soon):
            await shots.bring_in(conn, shot)
        await runs.arm(conn, runs.Order(later, "rig-hours", 1, 10, now + 86_400, now + 90_000))
        assert await runs.claim(conn, "rig-hours", "one") is None
        quick = await armed(conn, make_shot(), "rig-hours")
        assert [run.state for run in await runs.on_rig(conn, "rig-hours")] == ["armed", "armed"]
        due = await runs.arm(conn, runs.Order(soon, "rig-hours", 1, 10, now + 10, now + 99, ["It fails."], "“later”"))
        assert await runs.claim(conn, "rig-hours", "one") == due
        assert (await runs.read(conn, due)).overridden == ("It fails.",)
        await runs.end(conn, due, await fence(conn, due), "finished", "")
        assert await runs.claim(conn, "rig-hours", "one") == quick

    within(database, story)


def test_a_run_that_nobody_began_in_its_time_missed_its_start_and_does_not_hold_the_rig(database: Database) -> None:
    async def story(conn: Connection) -> None:
        now = time.time()
        shot = make_shot()
        await shots.bring_in(conn, shot)
        over = await runs.arm(conn, runs.Order(shot, "rig-late", 1, 10, now - 900, now - 300))
        half = await runs.arm(conn, runs.Order(shot, "rig-late", 1, 10, now - 900, now + 300))
        # What is half over is begun all the same; what is over is told as what it is.
        assert await runs.claim(conn, "rig-late", "one") == half
        missed = await runs.read(conn, over)
        assert missed.state == "missed" and missed.reason == "Its time passed and no runner was there to begin it."
        await conn.execute("UPDATE run SET started_at = now() - interval '10 minutes' WHERE id = %s", [half])
        behind = await runs.arm(conn, runs.Order(shot, "rig-late", 1, 10, now - 100, now - 50))
        assert await runs.claim(conn, "rig-late", "two") is None
        assert "busy with another run" in (await runs.read(conn, behind)).reason

    within(database, story)


def test_two_who_claim_at_the_same_instant_do_not_both_get_the_rig(database: Database) -> None:
    async def story(conn: Connection) -> list[UUID | None]:
        await armed(conn, make_shot(), "rig-instant")
        await armed(conn, make_shot(), "rig-instant")
        await conn.commit()

        async def claim(name: str) -> UUID | None:
            async with open_pool(database.url, most=2) as pool, pool.connection() as own:
                try:
                    return await runs.claim(own, "rig-instant", name)
                except psycopg.errors.UniqueViolation:
                    return None

        return list(await asyncio.gather(*(claim(f"runner {k}") for k in range(8))))

    claimed = within(database, story)
    assert len([id for id in claimed if id is not None]) == 1


def test_a_runner_that_stands_still_amid_a_transaction_does_not_keep_its_run_from_another(database: Database) -> None:
    async def story(conn: Connection) -> None:
        id = await armed(conn, make_shot(), "rig-still")
        assert await runs.claim(conn, "rig-still", "one") == id
        await conn.execute("UPDATE run SET lease_until = now() WHERE id = %s", [id])
        await conn.commit()
        async with open_pool(database.url, most=1, asleep_s=0.5) as pool:
            with pytest.raises(AWAY):
                async with pool.connection() as still:
                    # What an append to the journal holds.
                    await still.execute("SELECT 1 FROM run WHERE id = %s FOR SHARE", [id])
                    await conn.execute("SET lock_timeout = '60s'")
                    await conn.execute("UPDATE run SET notes = notes WHERE id = %s", [id])
                    assert await runs.claim(conn, "rig-still", "two") == id
                    await still.execute("SELECT 1")

    within(database, story)


def test_of_many_who_save_at_once_one_wins_and_every_version_is_kept(database: Database) -> None:
    shot = make_shot()

    async def story(conn: Connection) -> int:
        saved = await shots.bring_in(conn, shot)
        await conn.commit()
        won = 0

        async def save(pool: Pool, over: int) -> bool:
            async with pool.connection() as own:
                try:
                    await records.save(own, "shot", shot.id, saved.document, over)
                    return True
                except records.StaleVersion:
                    return False

        async with open_pool(database.url, most=8) as pool:
            for version in range(saved.version, saved.version + 12):
                wins = await asyncio.gather(*(save(pool, over) for over in [version] * 4 + [version + 1] * 4))
                won += sum(wins)
        stands = await records.read(conn, "shot", shot.id)
        kept = [one["version"] for one in await records.earlier(conn, "shot", shot.id)]
        assert kept == list(range(stands.version - 1, 0, -1))
        return won

    assert within(database, story) >= 12
