"""The journal against the card: whatever the gear answers, and whoever is ended, no frame is untrue."""

import json
import signal
import socket
import time
from datetime import datetime, timedelta
from uuid import UUID
from zoneinfo import ZoneInfo

import httpx
import numpy as np
import psycopg
import pytest

from revani.core.documents import AfterStart, ClockStart, Light, Move, MoveKey
from revani.core.documents.timing import Timing
from revani.core.program.compiled import compile_shot
from revani.core.quantities.units import count
from tests.conftest import Stack, eventually, make_kit
from tests.core.moving import moving_kit
from tests.runs import LATE, arm, assert_all_accounted_for, saved, short, taken, until_state

ENDED = ("finished", "failed", "stopped")


def on_card(stack: Stack) -> dict[int, str]:
    """What the camera has of the present scene: number and hash, asked of the camera itself."""
    return {one["number"]: one["sha256"] for one in httpx.get(f"{stack.camera}/frames").json()}


def assert_true(connection: psycopg.Connection, stack: Stack, run: dict, frames: int | None = None) -> list[tuple]:  # type: ignore[type-arg]
    """Each number once, and each as the card has it. Returns number, outcome, reason of the missed ones."""
    rows = connection.execute(
        "SELECT number, outcome, sha256, reason FROM journal WHERE run_id = %s ORDER BY number", [run["id"]]
    ).fetchall()
    numbers = [row[0] for row in rows]
    assert numbers == list(range(1, (frames or len(rows)) + 1))
    assert {row[0]: row[2] for row in rows if row[1] == "taken"} == on_card(stack)
    return [(row[0], row[3]) for row in rows if row[1] == "missed"]


def break_down(stack: Stack, **fault: object) -> None:
    httpx.put(f"{stack.camera}/fault", json=fault).raise_for_status()


@pytest.mark.parametrize(
    "nonsense", ["not json", "wrong shape", "control characters", "endless", "trickle", "half"]
)  # fmt: skip
def test_a_camera_that_answers_nonsense_costs_a_frame_at_most(
    client: httpx.Client, stack: Stack, connection: psycopg.Connection, nonsense: str
) -> None:
    run = arm(client, saved(client, **short(14)))
    eventually(lambda: taken(client, run) >= 3)
    break_down(stack, kind="garble", nonsense=nonsense, count=3)
    done = until_state(client, run, *ENDED)
    assert done["state"] == "finished"
    missed = assert_true(connection, stack, run, 14)
    # One that trickles takes its time from its neighbours; a slow machine takes some, too.
    assert len([reason for _, reason in missed if not reason.startswith(LATE)]) <= 2


def test_a_camera_that_is_started_anew_is_set_up_again_and_its_card_is_as_it_was(
    client: httpx.Client, stack: Stack, connection: psycopg.Connection
) -> None:
    run = arm(client, saved(client, **short(60)))
    eventually(lambda: taken(client, run) >= 5)
    before = on_card(stack)
    stack.kill("camera")
    # However slowly the run was armed: it is away for a frame.
    eventually(lambda: client.get(f"/api/runs/{run['id']}").json()["missed"] >= 1)
    stack.start("camera")
    done = until_state(client, run, *ENDED)
    assert done["state"] == "finished"
    assert f"{count(done['missed'], 'frame')} missed" in done["reason"]
    missed = assert_true(connection, stack, run, 60)
    assert before.items() <= on_card(stack).items()
    assert len(missed) < 55 and done["taken"] == 60 - len(missed)
    assert any("started anew" in note for note in done["notes"])


@pytest.mark.parametrize("away", ["from the start", "in the middle"])
def test_a_mover_that_was_away_is_set_up_and_a_continuous_move_is_fed_from_where_it_should_be(
    client: httpx.Client, stack: Stack, connection: psycopg.Connection, away: str
) -> None:
    move = Move(
        kind="continuous",
        keys=[
            MoveKey(at=AfterStart(after_s=0), positions={"slide": 100}),
            MoveKey(at=AfterStart(after_s=1620), positions={"slide": 1000}),
        ],
    )
    shot = saved(client, **short(28), kit=moving_kit(), move=move)
    if away == "from the start":
        stack.kill("mover")
    run = arm(client, shot, speed=200)
    eventually(lambda: taken(client, run) >= 4)
    if away == "in the middle":
        stack.kill("mover")
    stack.start("mover")
    done = until_state(client, run, *ENDED)
    told = any("mover had been started anew" in note for note in done["notes"])
    assert done["state"] == "finished" and told == (away == "in the middle")
    rows = connection.execute(
        "SELECT rig FROM journal_frame WHERE run_id = %s AND number > 20 AND rig IS NOT NULL", [run["id"]]
    ).fetchall()
    # At its end the rig is where the plan has it at the instant at which it was asked, be that late or not.
    program = compile_shot(shot)
    assert rows and program.motion
    at = np.array([rig["at_s"] for (rig,) in rows]) - program.start_s
    reached = np.array([rig["reached"]["slide"] for (rig,) in rows])
    assert np.median(np.abs(reached - program.motion.at(at)["slide"])) < 3


def test_a_stop_is_heard_within_seconds_also_while_the_mover_is_away(client: httpx.Client, stack: Stack) -> None:
    keys = [
        MoveKey(at=AfterStart(after_s=0), positions={"slide": 100}),
        MoveKey(at=AfterStart(after_s=36_000), positions={"slide": 1000}),
    ]
    timing = Timing(fps=30, interval_s=1200, frame_count=40)
    shot = saved(client, **short(40) | {"timing": timing}, kit=moving_kit(), move=Move(kind="stepwise", keys=keys))
    run = arm(client, shot, speed=60)
    until_state(client, run, "running")
    stack.kill("mover")
    try:
        begin = time.monotonic()
        client.post(f"/api/runs/{run['id']}/stop")
        until_state(client, run, "stopped")
        # Two seconds, and what a machine that does other things besides may take for a look at the page.
        assert time.monotonic() - begin < 8
    finally:
        stack.start("mover")
        stack.wait_for_mover()


def test_a_run_that_waits_for_its_start_is_stopped_within_seconds(client: httpx.Client) -> None:
    begin = datetime.now(ZoneInfo("Europe/London")) + timedelta(seconds=40)
    shot = saved(
        client, date=begin.date(), start=ClockStart(time=f"{begin:%H:%M:%S}"),
        light=Light(school="fixed", aperture=2.8), timing=Timing(fps=30, interval_s=30, frame_count=4),
    )  # fmt: skip
    run = arm(client, shot, speed=1)
    until_state(client, run, "running")
    begun = time.monotonic()
    client.post(f"/api/runs/{run['id']}/stop")
    assert until_state(client, run, "stopped")["taken"] == 0 and time.monotonic() - begun < 8


def test_a_stop_while_the_camera_hangs_leaves_a_true_journal(
    client: httpx.Client, stack: Stack, connection: psycopg.Connection
) -> None:
    run = arm(client, saved(client, **short(200)))
    eventually(lambda: taken(client, run) >= 3)
    break_down(stack, kind="slow", seconds=20, count=1)
    eventually(lambda: len(on_card(stack)) > taken(client, run))
    client.post(f"/api/runs/{run['id']}/stop")
    done = until_state(client, run, "stopped")
    assert assert_true(connection, stack, done) == [] or all(
        reason.startswith(LATE) for _, reason in assert_true(connection, stack, done)
    )


def test_a_runner_that_is_killed_in_a_long_exposure_finds_the_frame_when_it_is_back(
    client: httpx.Client, stack: Stack, connection: psycopg.Connection
) -> None:
    # Five real seconds an exposure at this speed: a runner takes less to come back.
    kit = make_kit(body={"overhead_s": 1, "minimum_interval_s": 1})
    light = Light(school="fixed", aperture=2.8, shutter_s=30, iso=100)
    timing = Timing(fps=30, interval_s=36, frame_count=2)
    run = arm(client, saved(client, kit=kit, light=light, timing=timing), speed=6)
    eventually(lambda: httpx.get(f"{stack.camera}/status").json()["busy_with"] == 2)
    stack.kill("runner")
    stack.start("runner")
    done = until_state(client, run, *ENDED)
    assert done["state"] == "finished" and done["taken"] == 2
    assert assert_true(connection, stack, run, 2) == []


def test_a_runner_that_comes_back_after_the_end_accounts_for_every_frame(
    client: httpx.Client, stack: Stack, connection: psycopg.Connection
) -> None:
    run = arm(client, saved(client, **short(24)))
    eventually(lambda: taken(client, run) >= 3)
    stack.kill("runner")
    try:
        clock = connection.execute("SELECT clock FROM run WHERE id = %s", [run["id"]]).fetchone()
        assert clock
        eventually(lambda: client.get(f"/api/runs/{run['id']}").json()["left"] == "0 s")
    finally:
        stack.start("runner")
    done = until_state(client, run, *ENDED)
    missed = assert_true(connection, stack, run, 24)
    assert done["state"] == "finished" and 6 < len(missed) <= 21
    assert all(reason.startswith(("The runner was", *LATE)) for _, reason in missed)


def test_a_runner_that_is_killed_while_it_films_cuts_the_film_when_it_is_back(
    client: httpx.Client, stack: Stack, connection: psycopg.Connection
) -> None:
    timing = Timing(fps=30, interval_s="1/30", event_s=900)
    light = Light(school="fixed", shutter_s="1/60", aperture=4.5, iso=200, scene="ground")
    move = Move(
        kind="live",
        keys=[
            MoveKey(at=AfterStart(after_s=0), positions={"slide": 100}),
            MoveKey(at=AfterStart(after_s=800), positions={"slide": 1000}),
        ],
    )
    run = arm(client, saved(client, timing=timing, light=light, kit=moving_kit(), move=move), speed=20)
    eventually(lambda: httpx.get(f"{stack.camera}/status").json()["busy_with"] == 1)
    stack.kill("runner")
    stack.start("runner")
    done = until_state(client, run, *ENDED)
    assert done["state"] == "stopped" and "the film was cut" in done["reason"] and done["taken"] == 1, done["reason"]
    assert assert_true(connection, stack, run, 1) == []
    filmed = httpx.get(f"{stack.camera}/frames/1").json()
    assert filmed["closed_s"] - filmed["opened_s"] < 800


def test_a_film_whose_runner_comes_back_to_a_camera_that_says_nothing_is_not_said_to_be_lost(
    client: httpx.Client, stack: Stack, connection: psycopg.Connection
) -> None:
    timing = Timing(fps=30, interval_s="1/30", event_s=160)
    light = Light(school="fixed", shutter_s="1/60", aperture=4.5, iso=200, scene="ground")
    run = arm(client, saved(client, timing=timing, light=light, move=Move(kind="live")), speed=20)
    eventually(lambda: httpx.get(f"{stack.camera}/status").json()["busy_with"] == 1)
    stack.kill("runner")
    camera = stack.processes["camera"]
    camera.send_signal(signal.SIGSTOP)
    try:
        stack.start("runner")
        eventually(lambda: client.get(f"/api/runs/{run['id']}").json()["missed"] == 1, 300)
    finally:
        camera.send_signal(signal.SIGCONT)
    done = until_state(client, run, *ENDED)
    assert done["state"] == "stopped" and "the film was cut" in done["reason"], done["reason"]
    assert assert_true(connection, stack, run, 1) == []


def test_a_runner_that_sleeps_while_another_takes_over_fires_nothing_when_it_wakes(
    client: httpx.Client, stack: Stack, connection: psycopg.Connection
) -> None:
    run = arm(client, saved(client, **short(400)))
    eventually(lambda: taken(client, run) >= 5)
    asleep = stack.processes["runner"]
    asleep.send_signal(signal.SIGSTOP)
    other = {"REVANI_DATA_DIR": str(stack.folder / "other")}
    (stack.folder / "other").mkdir(exist_ok=True)
    # As if the lease had run out while it slept.
    connection.execute("UPDATE run SET lease_until = now() WHERE id = %s", [run["id"]])
    stack.start("runner", name="other runner", **other)
    try:
        before = taken(client, run)
        eventually(lambda: taken(client, run) > before + 5)
        asleep.send_signal(signal.SIGCONT)
        during = taken(client, run)
        eventually(lambda: taken(client, run) > during + 10)
        client.post(f"/api/runs/{run['id']}/stop")
        done = until_state(client, run, "stopped")
        missed = assert_true(connection, stack, done)
        assert all(reason.startswith(("The runner was", *LATE)) for _, reason in missed)
    finally:
        asleep.send_signal(signal.SIGCONT)
        stack.processes.pop("other runner").kill()
    # The one that slept looks after the rig again.
    again = until_state(client, arm(client, saved(client, **short(6)), 100), *ENDED)
    assert_all_accounted_for(client, again, 6)


def test_a_runner_whose_database_is_away_when_it_comes_back_goes_on_from_its_own_notes(
    client: httpx.Client,
    stack: Stack,
    database,
    connection: psycopg.Connection,  # type: ignore[no-untyped-def]
) -> None:
    run = arm(client, saved(client, **short(90)))
    eventually(lambda: taken(client, run) >= 4)
    database.stop()
    stack.kill("runner")
    stack.start("runner")
    try:
        before = len(on_card(stack))
        eventually(lambda: len(on_card(stack)) > before + 5)
    finally:
        database.start()
    stack.wait_until_up()
    done = until_state(client, run, *ENDED)
    assert done["state"] == "finished"
    with psycopg.connect(database.cluster.owner_url, autocommit=True) as again:
        assert_true(again, stack, run, 90)


def test_a_run_without_a_single_frame_did_not_finish(client: httpx.Client, stack: Stack) -> None:
    break_down(stack, kind="refuse", count=100_000)
    try:
        done = until_state(client, arm(client, saved(client, **short(4))), *ENDED)
    finally:
        httpx.delete(f"{stack.camera}/fault").raise_for_status()
    assert done["state"] == "failed" and done["reason"].startswith("No frame was taken.") and done["missed"] == 4


def test_the_movers_port_closes_on_a_page_that_posts_to_it_and_obeys_the_latest_runner_alone(stack: Stack) -> None:
    port = int(stack.environment["REVANI_PORT"]) + 3
    with socket.create_connection(("127.0.0.1", port), 5) as page:
        page.sendall(b"POST / HTTP/1.1\r\nHost: 127.0.0.1\r\nContent-Length: 24\r\n\r\nG28\nG90 G21\nG0 X900\n")
        assert page.makefile("rb").read() == b""

    def stage(fence: int) -> bytes:
        about = {"label": str(UUID(int=fence)), "axes": [], "fence": fence,
                 "clock": {"speed": 1, "stage_s": 0, "steady_s": 0}}  # fmt: skip
        return b"%" + json.dumps({"stage": about}).encode() + b"\n"

    now = int(time.time() * 1000)
    older, newer = (socket.create_connection(("127.0.0.1", port), 5) for _ in range(2))
    with older, newer:
        lines = {link: link.makefile("rb") for link in (older, newer)}
        for link, fence in ((older, now), (newer, now + 1)):
            link.sendall(stage(fence))
            assert lines[link].readline().startswith(b"ok")
        older.sendall(b"M112\n")
        assert lines[older].readline().startswith(b"error: taken over")
        newer.sendall(b"M112\n")
        assert lines[newer].readline() == b"ok\n"
