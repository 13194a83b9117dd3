"""Whole runs by the real runner on the real simulated camera, and what may happen to them."""

from datetime import datetime, timedelta
from zoneinfo import ZoneInfo

import httpx
import psycopg

from revani.core.documents import ClockStart, Light
from revani.core.documents.timing import Timing
from revani.core.program.compiled import compile_shot
from tests.conftest import Database, Stack, eventually, make_kit
from tests.runs import LATE, arm, assert_all_accounted_for, saved, short, shot_whole, taken, until_state


def test_a_run_takes_every_frame_with_the_settings_of_the_program(
    client: httpx.Client, connection: psycopg.Connection
) -> None:
    shot = saved(client, **short(24))
    done = shot_whole(client, shot, 24)
    program = compile_shot(shot)
    rows = connection.execute(
        "SELECT number, planned_s, fired_s, settings FROM journal_frame WHERE run_id = %s AND outcome = 'taken'"
        " ORDER BY number",
        [done["id"]],
    ).fetchall()
    for number, planned, fired, settings in rows:
        assert abs(planned - program.at_s[number - 1]) < 1e-3
        assert abs(settings["shutter_s"] - program.exposures.shutter_s[number - 1]) < 1e-9
        # Never before it is due; its order goes out within its slot of a minute. At 300 times the clock's speed a
        # second that a busy machine takes on the way is five minutes.
        assert -0.5 <= fired - planned < 60 + 300
    # No drift: the second half is no later than the first, by a quarter of a slot.
    late = [fired - planned for _, planned, fired, _ in rows]
    half = len(late) // 2
    assert sorted(late[half:])[half // 2] - sorted(late[:half])[half // 2] < 15


def test_a_stop_ends_after_the_frame_that_is_being_taken(client: httpx.Client) -> None:
    shot = saved(client, **short(400))
    run = arm(client, shot)
    eventually(lambda: taken(client, run) >= 3)
    client.post(f"/api/runs/{run['id']}/stop")
    done = until_state(client, run, "stopped")
    assert 3 <= done["taken"] < 400 and "by hand" in done["reason"]
    frames = client.get(f"/api/runs/{run['id']}/frames").json()
    assert [frame["number"] for frame in frames] == list(range(1, len(frames) + 1))
    # The last file is whole.
    assert client.get(f"/api/runs/{run['id']}/frames/{frames[-1]['number']}/picture").content[-2:] == b"\xff\xd9"


def test_a_battery_that_ends_ends_the_run_politely_with_the_last_file_whole(client: httpx.Client) -> None:
    kit = make_kit(body={"battery_wh": 0.1, "battery_usable": 1, "idle_w": 0, "frame_j": 36})
    done = until_state(client, arm(client, saved(client, **short(), kit=kit)), "stopped", "failed", "finished")
    assert done["state"] == "stopped" and "battery is down to 0%" in done["reason"]
    # A frame that was missed for want of time draws nothing.
    rows = client.get(f"/api/runs/{done['id']}/frames").json()
    assert done["taken"] == 10 and all(row["reason"].startswith(LATE) for row in rows if row["outcome"] == "missed")


def test_start_now_begins_within_seconds_whatever_the_sentence_says(client: httpx.Client) -> None:
    timing = Timing(fps=30, interval_s=1, frame_count=3)
    kit = make_kit(body={"overhead_s": "0.1", "minimum_interval_s": "0.5"})
    light = Light(school="fixed", aperture=2.8, shutter_s="1/60", iso=100)
    run = arm(client, saved(client, timing=timing, kit=kit, light=light), when="now", speed=1)
    done = until_state(client, run, "finished", "failed")
    assert done["taken"] == 3
    frames = client.get(f"/api/runs/{run['id']}/frames").json()
    # In real time a frame is taken within a tenth of a second of its due time.
    # The first comes when the camera is set up, and is not called late.
    assert frames[0]["late_s"] is None and min(frame["late_s"] for frame in frames[1:]) < 0.1


def test_a_run_is_told_as_it_happens(client: httpx.Client) -> None:
    run = arm(client, saved(client, **short(20)))
    heard = []
    with client.stream("GET", f"/api/runs/{run['id']}/events") as events:
        for line in events.iter_lines():
            if line.startswith("data:"):
                heard.append(httpx.Response(200, content=line[5:]).json())
    counts = [view["taken"] for view in heard]
    assert counts == sorted(counts) and counts[-1] + heard[-1]["missed"] == 20 and len(set(counts)) > 2
    assert heard[-1]["state"] == "finished"


def journal_of(connection: psycopg.Connection, run: dict) -> list[tuple[int, str, str]]:  # type: ignore[type-arg]
    return connection.execute(
        "SELECT number, outcome, reason FROM journal_frame WHERE run_id = %s ORDER BY number", [run["id"]]
    ).fetchall()


def test_a_camera_that_refuses_once_is_asked_again_and_one_that_keeps_refusing_is_told_truthfully(
    client: httpx.Client, stack: Stack, connection: psycopg.Connection
) -> None:
    run = arm(client, saved(client, **short(32)))
    eventually(lambda: taken(client, run) >= 3)
    httpx.put(f"{stack.camera}/fault", json={"kind": "refuse", "count": 1}).raise_for_status()
    eventually(lambda: taken(client, run) >= 8)
    httpx.put(f"{stack.camera}/fault", json={"kind": "drop", "count": 1}).raise_for_status()
    eventually(lambda: taken(client, run) >= 12)
    httpx.put(f"{stack.camera}/fault", json={"kind": "refuse", "count": 100_000}).raise_for_status()
    eventually(lambda: [reason for _, _, reason in journal_of(connection, run) if "says no" in reason])
    httpx.delete(f"{stack.camera}/fault").raise_for_status()
    done = until_state(client, run, "finished", "failed", "stopped")
    assert done["state"] == "finished" and done["taken"] + done["missed"] == 32
    rows = journal_of(connection, run)
    assert [number for number, _, _ in rows] == list(range(1, 33))
    missed = [(number, reason) for number, outcome, reason in rows if outcome == "missed"]
    refused = [number for number, reason in missed if "says no" in reason]
    assert refused and min(refused) > 11 and rows[-1][1] == "taken"
    assert all(reason.startswith(LATE) for _, reason in missed if "says no" not in reason)


def test_a_full_card_ends_the_run_politely(client: httpx.Client) -> None:
    kit = make_kit(body={"bytes_per_frame": 1_000_000_000})
    kit = kit.model_copy(update={"card": kit.card.model_copy(update={"capacity_gb": 7.5})})
    done = until_state(client, arm(client, saved(client, **short(), kit=kit)), "stopped", "failed", "finished")
    assert done["state"] == "stopped" and "card is full" in done["reason"] and done["taken"] == 7


def test_a_killed_runner_takes_up_at_the_next_due_frame_and_no_number_is_used_twice(
    client: httpx.Client, stack: Stack, connection: psycopg.Connection
) -> None:
    run = arm(client, saved(client, **short(90)))
    for frames in (4, 14):
        eventually(lambda least=frames: taken(client, run) >= least)
        stack.kill("runner")
        stack.start("runner")
    done = until_state(client, run, "finished", "failed", "stopped")
    assert done["state"] == "finished"
    rows = journal_of(connection, run)
    assert [number for number, _, _ in rows] == list(range(1, 91))
    missed = [reason for _, outcome, reason in rows if outcome == "missed"]
    # Each restart costs the seconds that a runner needs to start, told as what it was.
    assert 0 < len(missed) < 80
    assert set(missed) <= {
        "The runner was not running when it was due.", "The runner was ended while it took this frame.",
        "Its time had passed.",
    }  # fmt: skip
    files = connection.execute(
        "SELECT count(DISTINCT file), count(*) FROM journal_frame WHERE run_id = %s AND outcome = 'taken'", [run["id"]]
    ).fetchone()
    assert files and files[0] == files[1] == done["taken"]
    stack.wait_until_up()


def test_a_database_that_goes_away_in_mid_run_costs_no_frame(
    client: httpx.Client, stack: Stack, database: Database
) -> None:
    run = arm(client, saved(client, **short(30)))
    eventually(lambda: taken(client, run) >= 4)
    database.stop()
    assert client.get(f"/api/runs/{run['id']}").status_code == 503
    # The camera goes on taking frames meanwhile.
    before = httpx.get(f"{stack.camera}/status").json()["frames"]
    eventually(lambda: httpx.get(f"{stack.camera}/status").json()["frames"] >= before + 6)
    database.start()
    stack.wait_until_up()
    done = until_state(client, run, "finished", "failed", "stopped")
    assert_all_accounted_for(client, done, 30)


def test_a_killed_web_server_does_not_touch_the_run(client: httpx.Client, stack: Stack) -> None:
    run = arm(client, saved(client, **short(20)))
    eventually(lambda: taken(client, run) >= 3)
    stack.kill("web")
    stack.start("web")
    stack.wait_until_up()
    done = until_state(client, run, "finished", "failed", "stopped")
    assert_all_accounted_for(client, done, 20)


def test_a_shot_planned_for_later_waits_for_its_start_in_real_time(client: httpx.Client) -> None:
    begin = datetime.now(ZoneInfo("Europe/London")) + timedelta(seconds=5)
    shot = saved(
        client, date=begin.date(), start=ClockStart(time=f"{begin:%H:%M:%S}"),
        light=Light(school="fixed", aperture=2.8, shutter_s="1/60"), timing=Timing(fps=30, interval_s=3, frame_count=2),
    )  # fmt: skip
    run = arm(client, shot, speed=1)
    assert run["taken"] == 0
    done = until_state(client, run, "finished", "failed", "stopped")
    assert done["taken"] == 2
    first = client.get(f"/api/runs/{run['id']}/frames").json()[0]
    assert first["clock"] == f"{begin:%H:%M:%S}"
