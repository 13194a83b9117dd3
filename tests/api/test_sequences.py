"""Films made of shots over HTTP: planned, saved, written, read."""

import json
from uuid import uuid4

import httpx
import opentimelineio as otio
import pytest

from tests.desk import new_shot, refused


@pytest.fixture
def sequence(client: httpx.Client) -> dict:  # type: ignore[type-arg]
    """A saved sequence of two shots, twenty seconds each."""
    shots = [new_shot(client, name=name) for name in ("Weir", "Lock")]
    cuts = [{"shot": id, "name": "as it was called"} for id in shots]
    body = {"id": str(uuid4()), "name": "By the river", "cuts": cuts}
    return client.post("/api/sequences", json=body).raise_for_status().json()["document"]


def test_a_sequence_is_planned_saved_over_its_version_put_away_and_deleted(client: httpx.Client, sequence) -> None:  # type: ignore[no-untyped-def]
    at = f"/api/sequences/{sequence['id']}"
    view = client.post("/api/sequences/plan", json={"sequence": sequence, "typed": {"cuts.1.in_s": "0:12"}}).json()
    assert [cut["name"] for cut in view["cuts"]] == ["Weir", "Lock"] and view["length"] == "28 s"
    assert view["day_list"][0]["doing"] == "Set up" and view["twice"] == []
    saved = client.put(at, json=view["sequence"], headers={"If-Match": "1"}).json()
    assert saved["version"] == 2 and saved["document"]["cuts"][1]["in_s"] == 12
    stale = client.put(at, json=sequence, headers={"If-Match": "1"})
    assert stale.status_code == 409 and stale.json()["current"]["version"] == 2
    client.put(at + "?archived=true", json=view["sequence"], headers={"If-Match": "2"}).raise_for_status()
    (row,) = [one for one in client.get("/api/sequences").json() if one["id"] == sequence["id"]]
    assert row["archived"] and row["cuts"] == 2
    assert client.delete(at).status_code == 204 and client.get(at).status_code == 404
    assert client.delete(at).status_code == 404


def test_what_is_typed_wrong_is_refused_at_its_field_and_nothing_changes(client: httpx.Client, sequence) -> None:  # type: ignore[no-untyped-def]
    for path, text in {"cuts.0.out_s": "later", "fps": "0", "wanted_s": "-3 s", "name": ""}.items():
        refused(client.post("/api/sequences/plan", json={"sequence": sequence, "typed": {path: text}}), path)
    assert client.get(f"/api/sequences/{sequence['id']}").json()["version"] == 1


def test_shots_are_put_in_where_one_wants_them(client: httpx.Client, sequence) -> None:  # type: ignore[no-untyped-def]
    new = new_shot(client, name="Ferry")
    body = {"sequence": sequence, "shots": [new, str(uuid4())], "at": 1}
    view = client.post("/api/sequences/put", json=body).json()
    assert [cut["name"] for cut in view["cuts"]] == ["Weir", "Ferry", "Lock"]


def test_a_shot_that_was_deleted_or_put_away_stays_and_is_told_of(client: httpx.Client, sequence) -> None:  # type: ignore[no-untyped-def]
    first, second = (cut["shot"] for cut in sequence["cuts"])
    client.delete(f"/api/shots/{first}").raise_for_status()
    saved = client.get(f"/api/shots/{second}").json()
    client.put(f"/api/shots/{second}?archived=true", json=saved["document"], headers={"If-Match": "1"})
    view = client.post("/api/sequences/plan", json={"sequence": sequence}).json()
    assert [(one["id"], one["cut"]) for one in view["remarks"]][:2] == [("across.gone", 0), ("across.put-away", 1)]
    assert view["cuts"][0]["name"] == "as it was called" and view["cuts"][1]["archived"]


def test_files_come_out_and_the_cuts_of_a_file_go_in(client: httpx.Client, sequence) -> None:  # type: ignore[no-untyped-def]
    at = f"/api/sequences/{sequence['id']}/file"
    written = client.get(at, params={"kind": "otio"})
    assert "By%20the%20river.otio" in written.headers["content-disposition"]
    assert len(list(otio.adapters.read_from_string(written.text, "otio_json").find_clips())) == 2
    table = client.get(at, params={"kind": "csv"}).text
    calendar = client.get(at, params={"kind": "ics"})
    assert calendar.headers["content-type"].startswith("text/calendar") and "SUMMARY:Set up: Weir" in calendar.text
    turned = "\r\n".join([table.splitlines()[0], *reversed(table.splitlines()[1:])])
    read = client.post("/api/sequences/read", json={"sequence": sequence, "kind": "csv", "text": turned}).json()
    assert [cut["name"] for cut in read["cuts"]] == ["Lock", "Weir"]
    again = client.post("/api/sequences/read", json={"sequence": sequence, "kind": "otio", "text": written.text}).json()
    assert [cut["shot"] for cut in again["sequence"]["cuts"]] == [cut["shot"] for cut in sequence["cuts"]]
    wrong = {"sequence": sequence, "kind": "csv", "text": "shot,in_s\nNobody,0"}
    refused(client.post("/api/sequences/read", json=wrong), "line 2")
    spoilt = json.loads(written.text)
    spoilt["tracks"]["children"][0]["children"][0]["OTIO_SCHEMA"] = "Gap.1"
    broken = {"sequence": sequence, "kind": "otio", "text": json.dumps(spoilt)}
    refused(client.post("/api/sequences/read", json=broken), "tracks.0.children.0")
