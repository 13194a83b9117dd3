"""Whole runs by the real runner on the real simulated camera."""

import httpx
import psycopg

from revani.core.documents import Light, Shot
from revani.core.program import compile_shot
from revani.core.timing import Timing
from tests.conftest import eventually, make_kit, make_shot


def saved(client: httpx.Client, **change: object) -> Shot:
    shot = make_shot(**change)
    assert client.post("/api/shots", json=shot.model_dump(mode="json")).status_code == 201
    return shot


def arm(client: httpx.Client, shot: Shot, **order: object) -> dict:  # type: ignore[type-arg]
    answer = client.post("/api/runs", json={"shot_id": str(shot.id), "when": "planned", "speed": 600} | order)
    assert answer.status_code == 201, answer.text
    return answer.json()


def until_state(client: httpx.Client, run: dict, *states: str) -> dict:  # type: ignore[type-arg]
    return eventually(lambda: (view := client.get(f"/api/runs/{run['id']}").json())["state"] in states and view)


def short(frames: int = 40, **change: object) -> dict[str, object]:
    values = {"timing": Timing(fps=30, interval_s=30, frame_count=frames), "light": Light(aperture=2.8, shutter_s=10)}
    return values | change


def test_a_run_takes_every_frame_with_the_settings_of_the_program(
    client: httpx.Client, connection: psycopg.Connection
) -> None:
    shot = saved(client, **short())
    done = until_state(client, arm(client, shot), "finished", "failed")
    assert (done["state"], done["taken"], done["missed"]) == ("finished", 40, 0)
    program = compile_shot(shot)
    rows = connection.execute(
        "SELECT number, planned_s, fired_s, settings FROM journal_frame WHERE run_id = %s ORDER BY number", [done["id"]]
    ).fetchall()
    for number, planned, fired, settings in rows:
        assert abs(planned - program.at_s[number - 1]) < 1e-3
        assert abs(settings["shutter_s"] - program.exposures.shutter_s[number - 1]) < 1e-9
        # Never before it is due; at most its own slot late, at 600 times the clock's speed.
        assert -0.5 <= fired - planned < 30
    # No drift: the second half is no later than the first.
    late = [fired - planned for _, planned, fired, _ in rows]
    assert sorted(late[20:])[10] - sorted(late[:20])[10] < 10


def test_a_stop_ends_after_the_frame_that_is_being_taken(client: httpx.Client) -> None:
    shot = saved(client, **short(400))
    run = arm(client, shot)
    eventually(lambda: client.get(f"/api/runs/{run['id']}").json()["taken"] >= 3)
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
    assert done["taken"] == 10 and done["missed"] == 0


def test_start_now_begins_within_seconds_whatever_the_sentence_says(client: httpx.Client) -> None:
    timing = Timing(fps=30, interval_s=1, frame_count=3)
    kit = make_kit(body={"overhead_s": "0.1", "minimum_interval_s": "0.5"})
    light = Light(school="fixed", aperture=2.8, shutter_s="1/60", iso=100)
    run = arm(client, saved(client, timing=timing, kit=kit, light=light), when="now", speed=1)
    done = until_state(client, run, "finished", "failed")
    assert done["taken"] == 3
    frames = client.get(f"/api/runs/{run['id']}/frames").json()
    # In real time a frame is taken within a tenth of a second of its due time.
    assert all(0 <= frame["late_s"] < 0.1 for frame in frames)


def test_a_run_is_told_as_it_happens(client: httpx.Client) -> None:
    run = arm(client, saved(client, **short(20)))
    heard = []
    with client.stream("GET", f"/api/runs/{run['id']}/events") as events:
        for line in events.iter_lines():
            if line.startswith("data:"):
                heard.append(httpx.Response(200, content=line[5:]).json())
    taken = [view["taken"] for view in heard]
    assert taken == sorted(taken) and taken[-1] == 20 and len(set(taken)) > 2
    assert heard[-1]["state"] == "finished"
