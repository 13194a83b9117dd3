"""Rigs as they are kept: said on the page, driven beside each other, each by its own runner; and a camera that is not
the one that was meant."""

from collections.abc import Iterator
from contextlib import contextmanager
from pathlib import Path
from typing import Any

import httpx
import pytest

from revani.core.arming.rigs import other_gear, rig_for
from revani.core.documents import Light
from revani.core.documents.rig import SIMULATED_BODY, Rig
from revani.core.documents.timing import Timing
from revani.core.quantities.refusal import Refusal
from revani.rig.known import Known, everywhere, keep, known, plain_key, reached
from revani.settings import Settings
from tests.conftest import Stack, eventually, make_kit, make_shot
from tests.core.moving import key, shot_of
from tests.runs import LATE, arm, assert_all_accounted_for, saved, short, slots_s, taken, until_state

EMPTY = {"name": "Upper meadow", "camera": "simulated:", "mover": "simulated:"}


def rig_of(client: httpx.Client, key: str) -> dict[str, Any]:
    return next(one for one in client.get("/api/rigs").json() if one["rig"]["key"] == key)


def change(client: httpx.Client, key: str, **said: object) -> httpx.Response:
    view = rig_of(client, key)
    kept = {name: value for name, value in view["rig"].items() if name not in ("key", "ports")}
    return client.put(f"/api/rigs/{key}", json=kept | said, headers={"If-Match": str(view["version"])})


@contextmanager
def knowing(client: httpx.Client, stack: Stack, **number: object) -> Iterator[None]:
    """The rig knows the number of its camera or mover, until all is mended."""
    stack.kill("runner")
    assert change(client, "stand-in", **number).status_code == 200
    stack.start("runner")
    try:
        yield
    finally:
        client.delete("/api/drills")
        stack.kill("runner")
        assert change(client, "stand-in", **dict.fromkeys(number, "")).status_code == 200
        stack.start("runner")


@pytest.fixture
def another(client: httpx.Client, stack: Stack) -> Iterator[str]:
    """A second rig, whose camera is asked as a body on a network is, with all its processes."""
    key = "upper-meadow"
    if client.post("/api/rigs", json=EMPTY | {"camera": SIMULATED_BODY}).status_code != 201:
        # It has runs, of the test before.
        assert change(client, key, archived=False).status_code == 200
    for process in ("camera", "mover", "link", "runner"):
        stack.start(process, rig=key)
    eventually(lambda: "answers" in str(rig_of(client, key)["told"]))
    yield key
    for process in ("runner", "link", "mover", "camera"):
        stack.kill(f"{process}@{key}")
        del stack.processes[f"{process}@{key}"]
    assert change(client, key, archived=True).status_code == 200


def test_two_rigs_shoot_beside_each_other_and_each_frame_lies_on_its_own_camera(
    client: httpx.Client, stack: Stack, another: str, quiet_rig: None
) -> None:
    first = arm(client, saved(client, **short(16)), 150)
    shot = saved(client, **short(10))
    choice = client.get(f"/api/shots/{shot.id}/arming").json()
    assert {"Stand-in", "Upper meadow"} <= {one["name"] for one in choice["rigs"]} and choice["rig"] == "stand-in"
    second = arm(client, shot, 100, rig=another)
    assert second["rig_name"] == "Upper meadow", second
    eventually(lambda: taken(client, first) and taken(client, second))
    # While a run has it, what its runner goes by stays.
    refused = change(client, another, serial="SIM-1")
    assert refused.status_code == 422 and "run has the rig" in refused.json()["detail"]
    assert change(client, another, name="Upper meadow", body=None).status_code == 200
    assert_all_accounted_for(client, until_state(client, first, "finished"), 16)
    done = until_state(client, second, "finished")
    assert_all_accounted_for(client, done, 10)
    rows = client.get(f"/api/runs/{done['id']}/frames").json()
    number = next(row["number"] for row in rows if row["outcome"] == "taken")
    picture = client.get(f"/api/runs/{done['id']}/frames/{number}/picture")
    assert picture.status_code == 200 and picture.content[-2:] == b"\xff\xd9"
    cards = stack.folder / "rigs" / another / "camera"
    assert len(list(cards.glob("*/F*.jpg"))) == done["taken"]
    assert client.delete(f"/api/rigs/{another}").json()["detail"] == "It has runs: put it away instead."


def test_another_camera_that_answers_takes_no_frame_until_the_right_one_is_back(
    client: httpx.Client, stack: Stack, quiet_rig: None
) -> None:
    number = eventually(lambda: rig_of(client, "stand-in")["answers"])
    assert str(number).startswith("SIM-")
    with knowing(client, stack, serial=number):
        run = arm(client, saved(client, **short(14)), 150)
        eventually(lambda: taken(client, run) >= 3)
        client.put(f"{stack.camera}/fault", json={"kind": "another camera", "seconds": slots_s(run, 3)})
        eventually(lambda: "Another camera answers: SIM-OTHER" in str(rig_of(client, "stand-in")["told"]))
        done = until_state(client, run, "finished", "failed", "stopped")
        rows = client.get(f"/api/runs/{run['id']}/frames").json()
        lost = [row for row in rows if row["outcome"] == "missed"]
        assert done["state"] == "finished" and len(rows) == 14 and rows[-1]["outcome"] == "taken" and lost
        other = [row for row in lost if f"SIM-OTHER, where {number} was linked" in row["reason"]]
        assert other and all(row in other or row["reason"].startswith(LATE) for row in lost), lost


@pytest.mark.parametrize(
    ("said", "path"),
    [
        ({"camera": "tin://can"}, "camera"), ({"mover": "tin://can"}, "mover"), ({"camera": ""}, "camera"),
        ({"name": " "}, "name"), ({"name": "—"}, "name"), ({"name": "stand-in"}, "name"),
        ({"camera": "usb://a b"}, "camera"), ({"body": "11111111-1111-1111-1111-111111111111"}, "body"),
        ({"movers": ["11111111-1111-1111-1111-111111111111"]}, "movers"), ({"runner": "a\nb"}, "runner"),
    ],
)  # fmt: skip
def test_what_is_no_rig_is_refused_at_its_field(client: httpx.Client, said: dict[str, object], path: str) -> None:
    before = client.get("/api/rigs").json()
    answer = client.post("/api/rigs", json=EMPTY | said)
    assert answer.status_code == 422 and answer.json()["path"].startswith(path), answer.text
    assert len(client.get("/api/rigs").json()) == len(before)


def test_a_rig_is_kept_changed_and_gone_and_nobody_overwrites_anothers_word(client: httpx.Client) -> None:
    client.post("/api/rigs", json=EMPTY | {"name": "Low shed", "camera": "usb://", "mover": "serial:/dev/ttyUSB7"})
    try:
        assert rig_of(client, "low-shed")["told"] == "Its runner has given no sign yet."
        assert client.get("/api/health").json()["silent"] == ["low-shed"]
        taken_address = client.post("/api/rigs", json=EMPTY | {"name": "High shed", "camera": "usb://"})
        assert taken_address.json()["path"] == "camera" and "Low shed" in taken_address.json()["detail"]
        assert change(client, "low-shed", name="Lower shed").status_code == 200
        assert rig_of(client, "low-shed")["rig"]["name"] == "Lower shed"
        stale = client.put("/api/rigs/low-shed", json=EMPTY, headers={"If-Match": "1"})
        assert stale.status_code == 409 and stale.json()["current"]["document"]["name"] == "Lower shed"
        # Real gear has the wall's clock alone.
        shot = saved(client, **short(30))
        asked = client.get(f"/api/shots/{shot.id}/arming", params={"rig": "low-shed"}).json()
        assert asked["speeds"] == [1]
        order = {"shot_id": str(shot.id), "rig": "low-shed", "when": "now", "speed": 60}
        assert client.post("/api/runs", json=order).json()["path"] == "speed"
    finally:
        assert client.delete("/api/rigs/low-shed").status_code == 200
    assert client.delete("/api/rigs/low-shed").status_code == 404
    assert client.delete("/api/rigs/stand-in").status_code == 422
    assert change(client, "stand-in", archived=True).json()["path"] == "archived"


def test_a_shot_is_for_the_rig_that_has_its_body_and_other_gear_is_told() -> None:
    shot, other = make_shot(), make_kit().body
    rigs = [Rig(key="own", name="Own"), Rig(key="hill", name="Hill", body=shot.kit.body.id)]
    assert rig_for(shot, rigs, "own") == "hill" and rig_for(shot, rigs[:1], "own") == "own"
    assert rig_for(shot, [rigs[0].model_copy(update={"body": shot.kit.body.id}), rigs[1]], "own") == "own"
    assert not other_gear(shot, rigs[0], {}) and not other_gear(shot, rigs[1], {})
    (found,) = other_gear(shot, rigs[1].model_copy(update={"body": other.id}), {other.id: "Old body"})
    assert found.sentence == "“Hill” has Old body; this shot is planned for Test body." and found.fails


def test_where_a_rig_is_found_is_known_without_a_database(tmp_path: Path) -> None:
    here = Settings(data_dir=tmp_path, port=9_000, rig="hut", camera_url="", mover_url="")
    assert reached(here, "hut").camera == "http://127.0.0.1:9001" and reached(here, "hut").may_hurry
    linked = Rig(key="a", name="A", camera="usb://", mover="serial:/dev/x", ports=9_050)
    keep(
        here,
        Known(
            rigs=(Rig(key="hut", name="Hut"), linked, Rig(key="b", name="B", camera=SIMULATED_BODY, ports=9_060)),
            away=frozenset("a"),
        ),
    )
    real, played = reached(here, "a"), reached(here, "b")
    assert (real.camera, real.body, real.mover, real.stage) == ("http://127.0.0.1:9055", "usb://", "serial:/dev/x", "")
    assert not real.may_hurry and not real.plays_camera and played.may_hurry and played.plays_camera
    assert played.body == "ptpip://127.0.0.1:9064?stage=http://127.0.0.1:9061"
    assert [*everywhere(here)] == ["hut", "a", "b"]
    with pytest.raises(Refusal):
        reached(here, "c")
    # The word of whoever starts it holds for this machine's own rig, and for no other.
    set_by_hand = Settings(data_dir=tmp_path, port=9_000, rig="hut", camera_url="usb://", mover_url="")
    assert reached(set_by_hand, "hut").body == "usb://" and reached(set_by_hand, "b").body == played.body
    here.rigs_file.write_text("half of a fi")
    assert [rig.key for rig in known(here).rigs] == ["hut"]
    assert plain_key("Die Hütte, oben!") == "die-hütte-oben"


@pytest.mark.parametrize("kind", ["stepwise", "continuous"])
def test_another_mover_that_answers_moves_nothing_until_the_right_one_is_back(
    client: httpx.Client, stack: Stack, quiet_rig: None, kind: str
) -> None:
    number = eventually(lambda: rig_of(client, "stand-in")["mover_answers"])
    assert str(number).startswith("SIM-M")
    told = f"Another mover answers: SIM-OTHER, where {number} was linked."
    shot = shot_of(
        key(0, slide=100), key(60 * 18, slide=900), light=Light(aperture=2.8, shutter_s=10),
        timing=Timing(fps=30, interval_s=60, frame_count=18), kind=kind,
    )  # fmt: skip
    with knowing(client, stack, mover_serial=number):
        assert client.post("/api/shots", json=shot.model_dump(mode="json")).status_code == 201
        run = arm(client, shot, 120)
        eventually(lambda: taken(client, run) >= 3)
        assert client.post("/api/drills", json={"name": "another mover", "by": "Ilse"}).status_code == 200
        view = lambda: client.get(f"/api/runs/{run['id']}").json()  # noqa: E731
        eventually(lambda: told in view()["notes"])
        if kind == "stepwise":
            eventually(lambda: view()["missed"] >= 1)
        client.delete("/api/drills")
        done = until_state(client, run, "finished", "failed", "stopped")
        rows = client.get(f"/api/runs/{run['id']}/frames").json()
        lost = [row["reason"] for row in rows if row["outcome"] == "missed"]
        assert done["state"] == "finished" and len(rows) == 18 and rows[-1]["outcome"] == "taken", done
        assert kind == "continuous" or any(told in reason for reason in lost), lost
