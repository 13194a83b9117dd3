"""Runs that are changed while they go on, by the real runner: what was taken stays, and who did what is noted."""

from contextlib import closing

import httpx
import psycopg
import pytest

from revani.core.documents import Light, Shot
from revani.core.documents.timing import Timing
from revani.rig.drivers import mover_at
from tests.conftest import Stack, eventually
from tests.core.moving import SLIDE, key, shot_of
from tests.runs import arm, saved, short, taken, until_state


def change(client: httpx.Client, run: dict, kind: str, amount: float = 0) -> httpx.Response:  # type: ignore[type-arg]
    return client.post(f"/api/runs/{run['id']}/change", json={"kind": kind, "amount": amount, "by": "Ilse"})


def moved(client: httpx.Client, **change: object) -> Shot:
    timing = Timing(fps=30, interval_s=60, frame_count=400)
    light = Light(aperture=2.8, shutter_s=10)
    shot = shot_of(key(0, slide=100), key(24_000, slide=1100), timing=timing, light=light).with_move(**change)
    assert client.post("/api/shots", json=shot.model_dump(mode="json")).status_code == 201
    return shot


def rows(client: httpx.Client, run: dict) -> list[dict]:  # type: ignore[type-arg]
    return client.get(f"/api/runs/{run['id']}/frames").json()


def test_a_run_is_paused_goes_on_and_is_made_longer_and_every_frame_says_why(
    client: httpx.Client, stack: Stack
) -> None:
    run = arm(client, saved(client, **short(40)), 200)
    eventually(lambda: taken(client, run) >= 4)
    assert change(client, run, "pause").json()["headline"] == "Paused"
    eventually(lambda: any("paused by Ilse" in row["reason"] for row in rows(client, run)))
    view = client.get(f"/api/runs/{run['id']}").json()
    assert view["headline"] == "Paused" and "resume" in view["can_change"]
    # A runner that is started anew stays paused.
    stack.kill("runner")
    stack.start("runner")
    paused = eventually(lambda: [row for row in rows(client, run) if "paused" in row["reason"]][3:])
    assert paused
    change(client, run, "resume")
    change(client, run, "extend", 8)
    done = until_state(client, run, "finished", "failed", "stopped")
    found = rows(client, run)
    assert done["state"] == "finished" and [row["number"] for row in found] == list(range(1, 49))
    assert done["frame_count"] == 48 and all(row["reason"] for row in found if row["outcome"] == "missed")
    assert [row for row in found[-6:] if row["outcome"] == "taken"]
    notes = " ".join(done["notes"])
    assert "Ilse paused from frame" in notes and "Ilse went on from frame" in notes and "by 8 frames" in notes
    # What was passed over by order calls nobody.
    alarms = client.get(f"/api/runs/{run['id']}").json()["alarms"]
    by_order = sum("Passed over by hand" in row["reason"] for row in found)
    others = done["missed"] - by_order
    assert others or not [one for one in alarms if "missed" in one["text"]]
    # Its film is made of what there is.
    assert client.get(f"/api/runs/{run['id']}/report").status_code == 200


def test_brighter_is_taken_brighter_from_then_on_and_what_was_taken_is_as_it_was(
    client: httpx.Client, connection: psycopg.Connection
) -> None:
    light = Light(school="fixed", aperture=2.8, shutter_s=10, iso=200, iso_ceiling=6400)
    run = arm(client, saved(client, **short(light=light, timing=Timing(fps=5, interval_s=60, frame_count=18))), 200)
    eventually(lambda: taken(client, run) >= 4)
    outlook = client.post(f"/api/runs/{run['id']}/change/outlook", json={"kind": "brighter", "amount": 1})
    assert "The last frame is 18" in outlook.json()["told"]
    change(client, run, "brighter", 1)
    done = until_state(client, run, "finished", "failed", "stopped")
    assert done["state"] == "finished"
    cursor = connection.execute(
        "SELECT number, (settings->>'shutter_s')::float8 * (settings->>'iso')::float8 FROM journal"
        " WHERE run_id = %s AND outcome = 'taken' ORDER BY number",
        [run["id"]],
    )
    light_of = dict(cursor.fetchall())
    held = connection.execute("SELECT from_number FROM intervention WHERE run_id = %s", [run["id"]]).fetchone()
    assert held and 5 <= held[0] <= 18
    first = held[0]
    assert {round(value) for number, value in light_of.items() if number < first} == {2000}
    assert light_of[max(light_of)] == pytest.approx(4000, rel=0.01)


def test_an_end_that_is_set_earlier_is_the_end_and_what_cannot_be_is_refused(client: httpx.Client) -> None:
    run = arm(client, saved(client, **short(400)), 200)
    assert change(client, run, "skip a leg").status_code == 422
    eventually(lambda: taken(client, run) >= 2)
    refused = change(client, run, "end early", 1)
    assert refused.status_code == 422 and "A last frame from" in refused.json()["detail"]
    assert change(client, run, "end early", 14).status_code == 200
    done = until_state(client, run, "finished", "failed", "stopped")
    assert done["state"] == "finished" and done["frame_count"] == 14 == rows(client, run)[-1]["number"]
    assert change(client, run, "pause").status_code == 422


def test_the_end_of_a_move_is_nudged_and_the_rig_goes_there(
    client: httpx.Client, connection: psycopg.Connection
) -> None:
    shot = shot_of(
        key(0, slide=100), key(60 * 17, slide=500), light=Light(aperture=2.8, shutter_s=10),
        timing=Timing(fps=30, interval_s=60, frame_count=22),
    )  # fmt: skip
    assert client.post("/api/shots", json=shot.model_dump(mode="json")).status_code == 201
    run = arm(client, shot, 150)
    eventually(lambda: taken(client, run) >= 3)
    order = {"kind": "nudge", "amount": 30, "axis": "slide", "by": "Ilse"}
    assert client.post(f"/api/runs/{run['id']}/change", json=order | {"axis": "tilt"}).json()["path"] == "axis"
    assert client.post(f"/api/runs/{run['id']}/change", json=order).status_code == 200
    done = until_state(client, run, "finished", "failed", "stopped")
    assert done["state"] == "finished" and any("moved the end of slide by +30" in note for note in done["notes"])
    rows = connection.execute(
        "SELECT (rig->'reached'->>'slide')::float8 FROM journal_frame WHERE run_id = %s AND outcome = 'taken'"
        " AND number > 19",
        [run["id"]],
    ).fetchall()
    assert rows and all(value == pytest.approx(530, abs=1) for (value,) in rows)


def test_a_stop_is_confirmed_step_by_step_and_a_second_press_harms_nothing(client: httpx.Client) -> None:
    run = arm(client, moved(client), 200)
    eventually(lambda: taken(client, run) >= 2)
    assert all(client.post(f"/api/runs/{run['id']}/stop").status_code == 200 for _ in range(3))
    done = until_state(client, run, "stopped")
    notes = " ".join(done["notes"])
    assert "the last file is closed" in notes and "The axes stand still: slide" in notes
    again = client.post(f"/api/runs/{run['id']}/stop").json()
    assert (again["state"], again["reason"]) == ("stopped", done["reason"])


@pytest.mark.parametrize("kind", ["continuous", "stepwise"])
def test_a_rig_that_is_to_go_back_is_parked_after_the_file_is_closed(
    client: httpx.Client, stack: Stack, kind: str
) -> None:
    shot = moved(client, kind=kind, afterwards="start")
    run = arm(client, shot, 200)
    eventually(lambda: taken(client, run) >= 4)
    client.post(f"/api/runs/{run['id']}/stop")
    done = until_state(client, run, "stopped")
    (note,) = [one for one in done["notes"] if "parked" in one]
    assert note.index("the last file is closed") < note.index("The axes are parked at their start: slide ")
    with closing(mover_at(f"gcode://127.0.0.1:{int(stack.environment['REVANI_PORT']) + 3}")) as mover:
        assert mover.where().positions["slide"] == pytest.approx(100, abs=1 + SLIDE.backlash)


@pytest.mark.parametrize("stopped", [True, False])
def test_a_camera_is_switched_off_last_where_the_shot_says_so_and_the_next_run_finds_it_on(
    client: httpx.Client, stack: Stack, stopped: bool
) -> None:
    timing, light = Timing(fps=30, interval_s=60, frame_count=14), Light(aperture=2.8, shutter_s=10)
    shot = shot_of(key(0, slide=100), key(840, slide=200), timing=timing, light=light).with_move(afterwards="start")
    shot = shot.with_take(when_over="switches off")
    assert client.post("/api/shots", json=shot.model_dump(mode="json")).status_code == 201
    run = arm(client, shot, 200)
    eventually(lambda: taken(client, run) >= 2)
    if stopped:
        client.post(f"/api/runs/{run['id']}/stop")
    done = until_state(client, run, "stopped", "finished")
    note = " ".join(done["notes"])
    closed, parked, off = (note.index(word) for word in ("file is closed", "parked at their start", "that it is off"))
    assert closed < parked < off
    assert httpx.get(f"{stack.camera}/status").json()["state"] == "off"
    # What it has taken can still be had, and whoever stands it before a scene switches it on.
    assert until_state(client, arm(client, saved(client, **short(6)), 200), "finished")["taken"] > 2


def test_a_camera_is_left_on_where_another_run_is_armed_on_its_rig(client: httpx.Client, stack: Stack) -> None:
    first, second = (saved(client, **short(many)).with_take(when_over="switches off") for many in (8, 12))
    for shot in (first, second):
        version = client.get(f"/api/shots/{shot.id}").json()["version"]
        kept = client.put(
            f"/api/shots/{shot.id}", json=shot.model_dump(mode="json"), headers={"If-Match": str(version)}
        )
        assert kept.status_code == 200
    run = arm(client, first, 200)
    order = {"shot_id": str(second.id), "when": "now", "speed": 200, "queue": True}
    after = client.post("/api/runs", json=order).json()
    assert "left on: another run is armed" in " ".join(until_state(client, run, "finished")["notes"])
    assert "The camera says that it is off." in " ".join(until_state(client, after, "finished")["notes"])


def test_a_camera_that_is_gone_at_the_stop_is_not_said_to_have_closed_its_file(
    client: httpx.Client, stack: Stack
) -> None:
    run = arm(client, saved(client, **short(400)), 200)
    eventually(lambda: taken(client, run) >= 2)
    stack.kill("camera")
    client.post(f"/api/runs/{run['id']}/stop")
    done = until_state(client, run, "stopped")
    stack.start("camera")
    stack.wait_for_camera()
    notes = " ".join(done["notes"])
    assert "Whether the last file is closed is not known" in notes and "the last file is closed." not in notes
