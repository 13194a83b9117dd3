"""Runs that wait for what begins them, by the real runner: it comes, it is noted, and the frames are due from there."""

import io
import random
import subprocess
from contextlib import closing
from datetime import UTC, datetime
from zoneinfo import ZoneInfo

import httpx
import psycopg
import pytest
from PIL import Image

from revani.core.documents import Light, Shot, Waiting
from revani.core.documents.timing import Timing
from revani.core.timing.start import start_s
from revani.core.timing.trigger_words import parse_ways
from revani.core.timing.waiting import closes_s
from revani.rig.drivers import mover_at
from revani.rig.standins.sensors import words
from tests.conftest import REVANI, Stack, eventually
from tests.core.moving import SLIDE, key, shot_of
from tests.runs import arm, assert_all_accounted_for, saved, short, taken, until_state

FRAMES = 6
# One that waits when a test ends would keep the rig from the next.
pytestmark = pytest.mark.usefixtures("quiet_rig")


def waits(client: httpx.Client, text: str, frames: int = FRAMES, name: str = "Ledge", **change: object) -> Shot:
    waiting = Waiting.model_validate({"ways": parse_ways(text), "for_s": 20 * 3_600} | change)
    return saved(client, name=name, waits=waiting, **short(frames))


def view(client: httpx.Client, run: dict) -> dict:  # type: ignore[type-arg]
    return client.get(f"/api/runs/{run['id']}").json()


def until_it_waits(client: httpx.Client, run: dict) -> dict:  # type: ignore[type-arg]
    """Its view once it listens: by its stage's clock its start has come."""
    return eventually(
        lambda: (
            (seen := view(client, run)).get("headline") == "Waiting"
            and seen["notes"]
            and seen["now_s"] >= seen["start_s"]
            and seen
        )
    )


def begin(client: httpx.Client, run: dict) -> httpx.Response:  # type: ignore[type-arg]
    return client.post(f"/api/runs/{run['id']}/begin", json={"by": "Ilse"})


def test_a_person_says_so_and_its_frames_are_due_from_there(
    client: httpx.Client, connection: psycopg.Connection
) -> None:
    shot = waits(client, "the sun is over 60 or I say so", lead_in_s=120)
    run = arm(client, shot)
    seen = until_it_waits(client, run)
    assert seen["may_begin"] and seen["taken"] == 0 and seen["can_change"] == []
    assert seen["sign"] == "nothing is recorded yet; it waits for what begins it"
    closes = datetime.fromtimestamp(closes_s(shot), ZoneInfo(shot.place.time_zone))
    told = f"until the sun is over 60° or I say so, to {closes:%H:%M on %-d %b} at the latest"
    assert seen["waits_until"] == told
    assert seen["next_in_s"] is None and not seen["alarms"]
    # Nothing that it waits for is seen by the camera, which nobody asks for anything until then.
    eventually(lambda: view(client, run)["camera_sleeps"])
    assert "left to sleep" in client.get("/api/rigs").json()[0]["told"]
    changed = client.post(f"/api/runs/{run['id']}/change", json={"kind": "extend", "amount": 5})
    assert changed.status_code == 422 and "It waits still" in changed.text
    assert begin(client, run).status_code == 200
    done = until_state(client, run, "finished", "failed", "stopped")
    assert_all_accounted_for(client, done, FRAMES)
    found = connection.execute(
        "SELECT planned_s FROM journal WHERE run_id = %s ORDER BY number", [run["id"]]
    ).fetchall()
    planned = [row[0] for row in found]
    # It waited for some time, and the lead-in was kept; then one slot after the other.
    assert planned[0] >= start_s(shot) + 120 and done["start_s"] == planned[0]
    assert planned[-1] - planned[0] == pytest.approx(60 * (FRAMES - 1))
    assert any("it begins, for Ilse said so." in note for note in done["notes"])
    assert any("It waits until the sun is over 60° or I say so." in note for note in done["notes"])
    refused = begin(client, run)
    assert refused.status_code == 422 and "Only a run that waits for somebody" in refused.text
    report = client.get(f"/api/runs/{run['id']}/report").json()
    assert "Ilse said so" in str(report)


def test_sensors_begin_it_by_a_webhook_and_only_those_that_show_the_token(client: httpx.Client) -> None:
    run = arm(client, waits(client, "it is louder than -30 dBFS and the light is under EV 3", together_s=3_000))
    until_it_waits(client, run)
    assert begin(client, run).status_code == 422
    say = lambda words, token: client.post(  # noqa: E731
        "/api/sensors", json=words, headers={"Authorization": f"Bearer {token}"}
    )
    old = client.post("/api/sensors/token").json()["token"]
    token = client.post("/api/sensors/token").json()["token"]
    loud = [{"kind": "sound", "value": -12}]
    for wrong in ("nobody", old, token[:-1]):
        assert say(loud, wrong).status_code == 401
    for word in (
        {"kind": "sound", "value": 3},
        {"kind": "motion", "value": 1.5},
        {"kind": "code card"},
        {"kind": "smell"},
    ):
        assert say([word], token).status_code == 422
    assert say([*loud, *({"kind": "light", "value": 2.5},) * 3], token).json() == {"kept": 4}
    done = until_state(client, run, "finished", "failed", "stopped")
    assert done["state"] == "finished"
    assert any("a sound came up to −12 dBFS and the light was EV 2.5" in note for note in done["notes"])
    heard = {one["label"]: one["text"] for one in client.get("/api/sensors").json()["hears"]}
    assert {"sound": "−12 dBFS", "light": "EV 2.5"}.items() <= heard.items()
    # One that floods is told so, and what it said before stays.
    flood = [say([*loud] * 50, token).status_code for _ in range(6)]
    assert flood[0] == 200 and flood[-1] == 429


@pytest.mark.parametrize(
    ("text", "drill", "told"),
    [("it moves", "something passes", "for it moved, "), ("code card begin", "a card is held", "for code card begin")],
)
def test_its_own_camera_sees_what_it_waits_for(client: httpx.Client, text: str, drill: str, told: str) -> None:
    run = arm(client, waits(client, text, before_s=60), 60)
    assert not until_it_waits(client, run)["camera_sleeps"]
    # The sky goes on meanwhile, and is nothing that moves.
    now_s = view(client, run)["now_s"]
    eventually(lambda: view(client, run)["now_s"] > now_s + 180)
    assert view(client, run)["headline"] == "Waiting"
    assert client.post("/api/drills", json={"name": drill, "by": "Ilse"}).status_code == 200
    try:
        eventually(lambda: any(told in note for note in view(client, run)["notes"]))
    finally:
        client.delete("/api/drills")
    # What it saw in the minute before, as it came last, is kept with the run.
    (kept,) = eventually(lambda: [note for note in view(client, run)["notes"] if "Kept of what it saw" in note])
    pictures = eventually(
        lambda: (
            (there := client.get(f"/api/runs/{run['id']}/before").json())
            and f": {len(there)} picture" in kept
            and there
        )
    )
    assert pictures[-1]["told"] == "as it came" and all("before" in one["told"] for one in pictures[:-1])
    last = f"/api/runs/{run['id']}/before/{len(pictures)}/picture"
    with Image.open(io.BytesIO(client.get(last).content)) as picture:
        assert picture.format == "JPEG" and picture.width >= 320
    assert client.get(f"/api/runs/{run['id']}/before/{len(pictures) + 1}/picture").status_code == 404
    assert view(client, run)["kept_before"]
    client.post(f"/api/runs/{run['id']}/stop")
    until_state(client, run, "stopped", "finished")


def test_it_begins_when_another_run_is_where_it_is_waited_for(client: httpx.Client) -> None:
    run = arm(client, waits(client, "“Sluice gate” begins"))
    until_it_waits(client, run)
    # A camera that fires itself, kept by the clock.
    other = saved(
        client, name="Sluice gate", fires="own timer", **short(20) | {"light": {"school": "fixed", "aperture": 2.8}}
    )
    armed = client.post("/api/runs", json={"shot_id": str(other.id), "when": "now", "anyway": True})
    assert armed.status_code == 201, armed.text
    done = until_state(client, run, "finished", "failed", "stopped")
    assert done["state"] == "finished" and any("for “Sluice gate” begins" in note for note in done["notes"])
    client.post(f"/api/runs/{armed.json()['id']}/stop")


def test_where_nothing_comes_it_is_given_up_or_begins_all_the_same_and_says_which(client: httpx.Client) -> None:
    run = arm(client, waits(client, "I say so", for_s=600))
    over = until_state(client, run, "missed", "finished", "failed")
    assert over["state"] == "missed" and over["taken"] == 0
    assert over["reason"] == "It waited until I say so: nothing of that came in its time."
    assert client.get(f"/api/runs/{run['id']}/report").status_code == 200
    shot = waits(client, "I say so", for_s=600, otherwise="it begins all the same")
    done = until_state(client, arm(client, shot), "finished", "failed", "missed")
    assert_all_accounted_for(client, done, FRAMES)
    # The body needs two seconds to wake, and the runner one of the wall's clock to set it up.
    assert start_s(shot) + 602 <= done["start_s"] <= start_s(shot) + 600 + 2 * 300 * 6


def test_a_wait_outlives_its_runner_and_begins_as_often_as_it_is_to(
    client: httpx.Client, stack: Stack, connection: psycopg.Connection
) -> None:
    run = arm(client, waits(client, "I say so", frames=16, name="Twice", times=2, dead_s=60), 200)
    until_it_waits(client, run)
    stack.kill("runner")
    assert begin(client, run).status_code == 200
    stack.start("runner")
    # It was said while nobody listened, and counts.
    eventually(lambda: view(client, run)["taken"] >= 2)
    stack.kill("runner")
    stack.start("runner")
    done = until_state(client, run, "finished", "failed", "stopped")
    rows = client.get(f"/api/runs/{run['id']}/frames").json()
    assert done["state"] == "finished" and [row["number"] for row in rows] == list(range(1, 17))
    assert sum("it begins, for" in note for note in done["notes"]) == 1
    # And once more, of the same hours, without anybody arming it.
    second = eventually(lambda: [one for one in client.get("/api/runs").json() if one["name"] == "Twice"][:-1])[0]
    until_it_waits(client, second)
    client.post(f"/api/runs/{second['id']}/stop")
    stopped = until_state(client, second, "stopped")
    assert stopped["reason"] == "Stopped by hand while it waited."
    count = connection.execute("SELECT count(*) FROM run WHERE shot->>'name' = 'Twice'").fetchone()
    assert count == (2,)


def test_a_camera_that_tilts_and_grows_hot_while_it_runs_calls_a_person(client: httpx.Client) -> None:
    token = client.post("/api/sensors/token").json()["token"]

    def say(**values: float) -> None:
        words = [{"kind": kind, "value": value} for kind, value in values.items()]
        said = client.post("/api/sensors", json=words, headers={"Authorization": f"Bearer {token}"})
        assert said.status_code == 200, said.text

    run = arm(client, saved(client, **short(400)), 60)

    def view() -> dict:  # type: ignore[type-arg]
        return client.get(f"/api/runs/{run['id']}").json()

    eventually(lambda: taken(client, run) >= 1)
    say(level=0.2, temperature=20)
    eventually(lambda: any(one["label"] == "tilted since frame 1" for one in view()["figures"]))
    assert not [one for one in view()["alarms"] if "tilted" in one["text"]]
    say(level=1.7, temperature=45)
    told = eventually(lambda: len(found := [one for one in view()["alarms"] if "camera" in one["text"]]) > 1 and found)
    assert {(one["level"], one["text"]) for one in told} == {
        ("come", "The camera has tilted by 1.5° since its first frame."),
        ("look", "It is 45 °C at the camera: bodies are made for 40 °C at most."),
    }
    say(level=0.2, temperature=20)
    eventually(lambda: all(one["over"] for one in view()["alarms"]))
    client.post(f"/api/runs/{run['id']}/stop")
    until_state(client, run, "stopped")


def test_the_simulated_sensors_speak_with_the_token_of_their_rig(client: httpx.Client, stack: Stack) -> None:
    file = stack.folder / "sensors.token"
    file.write_text(client.post("/api/sensors/token").json()["token"])
    process = subprocess.Popen([REVANI, "sensors"], env=stack.environment, stderr=subprocess.DEVNULL)
    try:
        heard = eventually(
            lambda: (
                (found := client.get("/api/sensors").json())["may"]
                and len([one for one in found["hears"] if one["tone"] == "good"]) >= 3
                and found["hears"]
            )
        )
        assert {"light", "sound", "movement"} <= {one["label"] for one in heard}
    finally:
        process.terminate()
        process.wait(20)
        file.unlink()


def test_their_light_is_that_of_day_and_night() -> None:
    chance = random.Random(1)
    noon, night = (words(datetime(2026, 6, 21, hour, tzinfo=UTC).timestamp(), chance) for hour in (12, 0))
    # Sunlight is about EV 15 ("sunny 16"; common practice), a northern midsummer midnight far under that.
    assert 14 < noon[0]["value"] < 16.5 and night[0]["value"] < 6
    assert {one["kind"] for one in noon} == {"light", "sound", "motion", "temperature", "level"}


def test_the_rig_stands_at_its_start_while_it_is_waited(
    client: httpx.Client, stack: Stack, connection: psycopg.Connection
) -> None:
    shot = shot_of(
        key(0, slide=700), key(60 * 20, slide=900), light=Light(aperture=2.8, shutter_s=10),
        timing=Timing(fps=30, interval_s=60, frame_count=20),
        waits=Waiting(ways=parse_ways("it moves by 60 % or I say so"), for_s=20 * 3_600),
    )  # fmt: skip
    assert client.post("/api/shots", json=shot.model_dump(mode="json")).status_code == 201
    run = arm(client, shot, 120)
    until_it_waits(client, run)
    with closing(mover_at(f"gcode://127.0.0.1:{int(stack.environment['REVANI_PORT']) + 3}")) as mover:
        eventually(lambda: abs(mover.where().positions.get("slide", 0) - 700) <= 1 + SLIDE.backlash)
    assert view(client, run)["headline"] == "Waiting"
    begin(client, run)
    done = until_state(client, run, "finished", "failed", "stopped")
    assert done["state"] == "finished" and not any("does not stand" in note for note in done["notes"])
    slide = "SELECT min((rig->'reached'->>'slide')::float8) FROM journal_frame WHERE run_id = %s"
    row = connection.execute(slide, [run["id"]]).fetchone()
    assert row is not None and row[0] >= 698
