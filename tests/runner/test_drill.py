"""Faults switched on from the page while a run goes on: recovered, or ended politely, and told for what they are."""

from collections.abc import Iterator

import httpx
import pytest

from revani.core.watch.drill import DRILLS
from tests.conftest import Stack, eventually
from tests.runs import arm, saved, short, slots_s, taken, until_state

# What ends a run is told with why; all else it comes through.
ENDS = {"card full": "card is full", "battery empty": "battery"}


@pytest.fixture
def mended(client: httpx.Client, stack: Stack) -> Iterator[None]:
    yield
    assert client.delete("/api/drills").status_code == 200


@pytest.mark.parametrize("name", [one.name for one in DRILLS if one.gear == "camera" and "silent" not in one.name])
def test_every_fault_of_a_camera_is_come_through_or_ends_the_run_politely(
    client: httpx.Client, mended: None, name: str
) -> None:
    run = arm(client, saved(client, **short(20)), 200)
    eventually(lambda: taken(client, run) >= 3)
    if name == "camera asleep":
        # A drill of twenty seconds is longer than this run.
        camera = client.get("/api/drills").json()
        assert next(one for one in camera if one["name"] == name)["order"]["seconds"] == 20
    assert client.post("/api/drills", json={"name": name, "by": "Ilse"}).status_code == 200
    done = until_state(client, run, "finished", "failed", "stopped")
    rows = client.get(f"/api/runs/{run['id']}/frames").json()
    assert [row["number"] for row in rows] == list(range(1, len(rows) + 1))
    assert all(row["reason"] for row in rows if row["outcome"] == "missed")
    if name in ENDS:
        assert done["state"] == "stopped" and ENDS[name] in done["reason"]
    else:
        assert done["state"] == "finished" and len(rows) == 20
    notes = " ".join(done["notes"])
    assert f"A drill: Ilse switched “{name}” on." in notes
    if name == "battery dies":
        # A drill of twenty seconds ends after this run: what was lost has its reason, and nothing is claimed of it.
        assert done["missed"] >= 1
    if name == "another card":
        assert "on another card or in its next folder" in notes


def test_a_clock_that_jumps_calls_for_a_look_and_the_frames_keep_their_pace(client: httpx.Client, mended: None) -> None:
    run = arm(client, saved(client, **short(400)), 60)
    eventually(lambda: taken(client, run) >= 4)
    client.post("/api/drills", json={"name": "clock jumps"})
    alarms = eventually(
        lambda: [one for one in client.get(f"/api/runs/{run['id']}").json()["alarms"] if "clock" in one["text"]]
    )
    assert alarms[0]["text"] == "The camera's clock is 1 h 00 min ahead." and alarms[0]["level"] == "look"
    client.post(f"/api/runs/{run['id']}/stop")
    assert until_state(client, run, "stopped")["missed"] < 4


def test_what_is_no_simulated_gear_or_no_fault_is_refused(client: httpx.Client, stack: Stack, mended: None) -> None:
    assert client.post("/api/drills", json={"name": "flood"}).status_code == 422
    stack.kill("mover")
    answer = client.post("/api/drills", json={"name": "mover slow"})
    assert answer.status_code == 422 and "does not answer" in answer.json()["detail"]
    stack.start("mover")
    stack.wait_for_mover()
    # A mover without a slide cannot stall it.
    answer = client.post("/api/drills", json={"name": "slide stalls"})
    assert answer.status_code == 422 and "no such axis" in answer.json()["detail"]


def test_a_battery_that_dies_with_a_file_open_is_told_for_what_it_is_and_the_run_goes_on_with_the_next(
    client: httpx.Client, stack: Stack, mended: None
) -> None:
    run = arm(client, saved(client, **short(16)), 150)
    eventually(lambda: taken(client, run) >= 3)
    assert httpx.put(f"{stack.camera}/fault", json={"kind": "dies", "seconds": slots_s(run, 2.5)}).status_code == 200
    done = until_state(client, run, "finished", "failed", "stopped")
    rows = client.get(f"/api/runs/{run['id']}/frames").json()
    lost = [row["number"] for row in rows if row["outcome"] == "missed"]
    assert done["state"] == "finished" and [row["number"] for row in rows] == list(range(1, 17)) and lost
    assert any(f"set up again. The file of frame {lost[0]:,} may be damaged." in note for note in done["notes"])
    # What lies half written on the card is no frame of the run.
    files = {row["number"] for row in httpx.get(f"{stack.camera}/frames").json()}
    assert lost[0] not in files and {row["number"] for row in rows if row["outcome"] == "taken"} == files
    assert rows[-1]["outcome"] == "taken"
