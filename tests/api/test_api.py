import gzip
import json
from uuid import uuid4

import httpx
import pytest

from revani.core.documents import Light, Move
from revani.core.documents.timing import Timing
from tests.conftest import make_kit, make_place, make_shot
from tests.core.moving import axis, key, rig
from tests.desk import new_shot, refused


def post(client: httpx.Client, path: str, document) -> httpx.Response:  # type: ignore[no-untyped-def]
    return client.post(path, json=document.model_dump(mode="json"))


def test_health_names_database_and_runner(client: httpx.Client) -> None:
    body = client.get("/api/health").json()
    assert body["database"] == "up" and body["runner"] == "up"


def test_a_plan_is_the_sentence_the_lanes_and_the_findings_of_one_compile(client: httpx.Client) -> None:
    light = Light(school="fixed", aperture=2.8, shutter_s=2, iso=100)
    shot = make_shot(light=light).model_dump(mode="json")
    answer = client.post("/api/programs", json={"shot": shot, "edits": [{"field": "timing.interval_s", "text": "1.2"}]})
    plan = answer.json()
    assert plan["solved"]["interval_s"] == 1.2 and plan["shot"]["timing"]["interval_s"] == 1.2
    (finding,) = [one for one in plan["findings"] if one["id"] == "timing.interval-too-short"]
    assert len(plan["lanes"]["frames"]["at_s"]) == 400
    fix = {"track": "fix", "finding": finding["id"], "fix": finding["fixes"][0]["id"]}
    after = client.post("/api/programs", json={"shot": plan["shot"], "edits": [fix]}).json()
    assert "timing.interval-too-short" not in [finding["id"] for finding in after["findings"]]
    # What is not offered, or not any more, is refused and says what is.
    gone = client.post("/api/programs", json={"shot": after["shot"], "edits": [fix]})
    assert gone.status_code == 422 and "not offered any more" in gone.json()["detail"]
    other = client.post("/api/programs", json={"shot": plan["shot"], "edits": [fix | {"fix": "pray"}]})
    assert other.json()["path"] == "fix" and finding["fixes"][0]["id"] in other.json()["detail"]


def test_thinned_lanes_stay_under_60_kb_compressed(client: httpx.Client) -> None:
    shot = make_shot(timing=Timing(fps=30, interval_s=2, frame_count=20_000)).model_dump(mode="json")
    answer = client.post("/api/programs", json={"shot": shot})
    assert answer.headers["content-encoding"] == "gzip"
    assert len(gzip.compress(json.dumps(answer.json()["lanes"]).encode())) < 60_000


def test_one_frame_is_read_out_exactly_by_number_or_instant(client: httpx.Client) -> None:
    shot = make_shot().model_dump(mode="json")
    by_number = client.post("/api/programs/frame", json={"shot": shot, "number": 300}).json()
    by_instant = client.post("/api/programs/frame", json={"shot": shot, "at_s": by_number["at_s"] + 4}).json()
    assert by_number == by_instant
    refused(client.post("/api/programs/frame", json={"shot": shot, "number": 601}), "number")
    refused(client.post("/api/programs/frame", json={"shot": shot}), "number")


def test_a_second_tab_with_an_older_version_gets_409_and_what_stands_there(client: httpx.Client) -> None:
    shot = make_shot()
    post(client, "/api/shots", shot)
    body = shot.model_dump(mode="json")
    first = client.put(f"/api/shots/{shot.id}", json=body | {"name": "first tab"}, headers={"If-Match": "1"})
    assert first.json()["version"] == 2
    second = client.put(f"/api/shots/{shot.id}", json=body | {"name": "second tab"}, headers={"If-Match": "1"})
    assert second.status_code == 409
    assert second.json()["current"]["document"]["name"] == "first tab"
    assert client.get(f"/api/shots/{shot.id}").json()["document"]["name"] == "first tab"


@pytest.mark.parametrize(
    ("change", "path"),
    [
        ({"latitude_deg": 91}, "latitude_deg"), ({"longitude_deg": -181}, "longitude_deg"),
        ({"time_zone": "Mars/Olympus"}, "time_zone"), ({"elevation_m": 99_999}, "elevation_m"),
        ({"name": "  "}, "name"), ({"flavour": "salt"}, "flavour"), ({"sky_brightness": 50}, "sky_brightness"),
    ],
)  # fmt: skip
def test_impossible_places_are_refused_at_the_field_and_nothing_is_saved(
    client: httpx.Client, change: dict[str, object], path: str
) -> None:
    place = make_place()
    refused(client.post("/api/places", json=place.model_dump(mode="json") | change), path)
    assert str(place.id) not in [one["id"] for one in client.get("/api/places?archived=true").json()]


def test_numbers_that_are_none_are_refused(client: httpx.Client) -> None:
    text = make_place().model_dump_json().replace("57.6", "NaN")
    answer = client.post("/api/places", content=text, headers={"Content-Type": "application/json"})
    assert answer.status_code == 422


def test_gear_is_checked_as_a_whole(client: httpx.Client) -> None:
    body = make_kit().body.model_dump(mode="json") | {"iso_min": 800, "iso_max": 100}
    problem = client.post("/api/gear", json=body)
    assert problem.status_code == 422 and "iso_max" in problem.text


def test_shots_that_cannot_be_are_refused_beside_the_field(client: httpx.Client) -> None:
    shot = make_shot().model_dump(mode="json")
    for edit, path in (
        ({"field": "timing.fps", "text": "-1"}, "timing.fps"),
        ({"field": "light.aperture", "text": "f/1"}, "light.aperture"),
        ({"field": "start", "text": "teatime"}, "start"),
    ):  # fmt: skip
        problem = refused(client.post("/api/programs", json={"shot": shot, "edits": [edit]}), path)
        assert problem["path"] == path and problem["detail"]


def test_a_document_of_10_mb_is_refused_before_it_is_read(client: httpx.Client) -> None:
    huge = make_shot().model_dump(mode="json") | {"note": "x" * 10_000_000}
    assert client.post("/api/shots", json=huge).status_code == 413

    def pieces():  # type: ignore[no-untyped-def]
        for _ in range(100):
            yield b'{"note": "' + b"x" * 100_000

    answer = client.post("/api/shots", content=pieces(), headers={"Content-Type": "application/json"})
    assert answer.status_code == 413


def test_foreign_hosts_and_foreign_pages_are_turned_away(client: httpx.Client) -> None:
    assert client.get("/api/shots", headers={"Host": "evil.example"}).status_code == 421
    answer = client.post("/api/shots", json={}, headers={"Origin": "http://evil.example"})
    assert answer.status_code == 403


def test_what_is_not_there_is_said_to_be_not_there(client: httpx.Client) -> None:
    for path in (f"/api/shots/{uuid4()}", f"/api/runs/{uuid4()}", f"/api/films/{uuid4()}/file", "/api/nothing"):
        answer = client.get(path)
        assert answer.status_code == 404 and answer.json()["title"] == "Not there"


def test_a_start_that_has_passed_and_a_speed_too_great_are_refused(client: httpx.Client) -> None:
    shot = make_shot(date="2020-05-05")
    post(client, "/api/shots", shot)
    refused(client.post("/api/runs", json={"shot_id": str(shot.id), "when": "planned", "speed": 1}), "when")
    fast = make_shot(timing=Timing(fps=30, interval_s=2, playback_s=5))
    post(client, "/api/shots", fast)
    problem = refused(client.post("/api/runs", json={"shot_id": str(fast.id), "speed": 600}), "speed")
    assert "At most ×" in problem["detail"]


def test_the_interface_is_served_for_every_page_address(client: httpx.Client) -> None:
    for path in ("/", "/shots", f"/runs/{uuid4()}/review"):
        answer = client.get(path)
        assert answer.status_code == 200 and '<div id="root">' in answer.text


def test_tonight_lays_the_shots_of_a_place(client: httpx.Client) -> None:
    place = make_place(name="Quiet cove")
    post(client, "/api/places", place)
    now = client.get(f"/api/tonight?place={place.id}").json()
    assert now["shots"] == [] and now["place"]["name"] == "Quiet cove"
    assert len(now["sky"]["colour"]) == len(now["sky"]["at_s"])


def test_the_light_panel_compares_schools_and_offers_documents_that_plan(client: httpx.Client) -> None:
    shot = make_shot(light=Light(aperture=2.8, angle_deg=180), needs_dark=True).model_dump(mode="json")
    panel = client.post("/api/programs/light", json={"shot": shot, "number": 300}).json()
    assert [one["school"] for one in panel["schools"] if one["chosen"]] == ["continuous"]
    for one in panel["schools"]:
        after = client.post("/api/programs", json={"shot": one["shot"]})
        assert after.status_code == 200 and after.json()["shot"]["light"]["school"] == one["school"]
    assert len(panel["ways"]) == 2 and panel["stars"] and panel["view"]["number"] == 300
    refused(client.post("/api/programs/light", json={"shot": shot, "number": 0}), "number")


def test_light_keys_are_set_moved_and_taken_away(client: httpx.Client) -> None:
    shot = make_shot(light=Light(aperture=2.8)).model_dump(mode="json")
    plan = client.post("/api/programs", json={"shot": shot}).json()
    at = plan["lanes"]["start_s"] + 3600
    add = {"track": "light", "action": "add", "at_s": at, "bias_stops": 0.5}
    plan = client.post("/api/programs", json={"shot": plan["shot"], "edits": [add]}).json()
    assert plan["shot"]["light"]["keys"] == [{"after_s": 3600, "bias_stops": 0.5}]
    said = {"field": "light.keys.0", "text": "-1 stop at 17:00"}
    plan = client.post("/api/programs", json={"shot": plan["shot"], "edits": [said]}).json()
    (wish,) = plan["lanes"]["wishes"]
    assert wish["bias_stops"] == -1 and wish["text"].endswith("17:00")
    refused(
        client.post("/api/programs", json={"shot": plan["shot"], "edits": [add | {"at_s": wish["at_s"]}]}), "light.keys"
    )
    gone = {"track": "light", "action": "remove", "index": 0}
    plan = client.post("/api/programs", json={"shot": plan["shot"], "edits": [gone]}).json()
    assert plan["lanes"]["wishes"] == []


def test_a_reading_in_the_future_is_refused_wherever_it_comes_in(client: httpx.Client) -> None:
    reading = {"at_s": 2_400_000_000, "illuminance_lx": 1000}
    shot = make_shot(light=Light(aperture=2.8)).model_dump(mode="json")
    shot["light"]["reading"] = reading
    refused(client.post("/api/programs", json={"shot": shot}), "light.reading.at_s")
    refused(client.post("/api/shots", json=shot), "light.reading.at_s")
    shot["light"]["reading"] = None
    note = {"clock": "09:30", "aperture": "8", "shutter": "1/125", "iso": "100", "by": "a hand meter"}
    kept = client.post("/api/programs/reading", json={"shot": shot, "note": note}).json()["light"]["reading"]
    assert kept["by"] == "a hand meter" and kept["iso"] == 100
    refused(client.post("/api/programs/reading", json={"shot": shot, "note": note | {"iso": ""}}), "iso")


def test_filters_are_carried_by_a_shot_and_refused_where_they_are_not(client: httpx.Client) -> None:
    piece = {"kind": "filter", "name": "Smoke", "stops": 3, "id": str(uuid4())}
    assert client.post("/api/gear", json=piece).status_code == 201
    shot = make_shot(light=Light(aperture=2.8)).model_dump(mode="json")
    shot["kit"]["filters"] = [piece | {"note": ""}]
    assert client.post("/api/shots", json=shot).status_code == 201
    client.put(f"/api/gear/{piece['id']}", json=piece | {"stops": 4}, headers={"If-Match": "1"}).raise_for_status()
    again = client.get(f"/api/shots/{shot['id']}").json()["document"]
    assert again["kit"]["filters"][0]["stops"] == 4
    again["light"]["filters"] = [str(uuid4())]
    answer = client.put(f"/api/shots/{shot['id']}", json=again, headers={"If-Match": "1"})
    # What is saved can be opened: it says which value cannot be had, and what is planned instead.
    assert answer.status_code == 200
    opened = client.post("/api/programs", json={"shot": answer.json()["document"]}).json()
    assert [one["field"] for one in opened["unfit"]] == ["light.filters"]


def test_an_interval_comes_from_the_subject(client: httpx.Client) -> None:
    shot = make_shot().model_dump(mode="json")
    body = {"shot": shot, "moving": {"speed_m_s": 2, "distance_m": 300}}
    answer = client.post("/api/programs/subject", json=body).json()
    assert [one["reads"] for one in answer["suggestions"]] == ["slow", "smooth", "lively"]
    refused(client.post("/api/programs/subject", json={"shot": shot, "moving": {"speed_m_s": 2}}), "moving.distance_m")
    refused(client.post("/api/programs/subject", json={"shot": shot, "moving": {"kind": "dragons"}}), "moving.kind")


def moving_shot() -> dict:  # type: ignore[type-arg]
    move = Move.model_validate({"keys": [key(0, slide=100).model_dump(), key(9000, slide=700).model_dump()]})
    return make_shot(kit=rig(axis("slide"), axis("pan")), move=move, light=Light(aperture=2.8)).model_dump(mode="json")


def test_the_move_panel_has_table_keys_and_moves_to_begin_with(client: httpx.Client) -> None:
    panel = client.post("/api/programs/move", json={"shot": moving_shot(), "number": 1}).json()
    assert panel["axes"] == ["slide", "pan"] and panel["table"]["camera_x_mm"] == 100
    assert [row["words"][1]["text"] for row in panel["keys"]] == ["100 mm", "700 mm"]
    for one in panel["presets"]:
        assert one["missing"] or client.post("/api/programs", json={"shot": one["shot"]}).status_code == 200


def test_keys_are_edited_over_the_api_and_refused_at_their_field(client: httpx.Client) -> None:
    shot = moving_shot()

    def plan(*edits: dict) -> httpx.Response:  # type: ignore[type-arg]
        return client.post("/api/programs", json={"shot": shot, "edits": list(edits)})

    typed = plan({"field": "move.keys.1.at", "text": "frame 200"}, {"field": "move.keys.1.leave", "text": "even 3s"})
    second = typed.json()["shot"]["move"]["keys"][1]
    assert second["at"] == {"by": "frame", "number": 200} and second["leave"] == {"kind": "linear", "s": 3}
    lanes = typed.json()["lanes"]
    assert [lane["name"] for lane in lanes["axes"]] == ["slide"] and "slide_speed" not in lanes["frames"]
    rated = client.post("/api/programs", json={"shot": shot, "rates": True}).json()["lanes"]["frames"]
    assert max(rated["slide_speed"]) > 0 and len(rated["slide_force"]) == 400
    refused(plan({"field": "move.keys.1.slide", "text": "far"}), "move.keys.1.slide")
    refused(plan({"field": "move.keys.1.at", "text": "+ 0 s"}), "move.keys.1.at")
    refused(plan({"track": "move", "action": "remove", "index": 9}), "move.keys")
    refused(plan({"field": "move.keys.7.slide", "text": "5"}), "move.keys.7.slide")
    live = plan({"field": "move.kind", "text": "at live speed"}).json()
    assert live["solved"]["interval_s"] == "1/30" and live["shot"]["move"]["kind"] == "live"


def test_a_move_goes_out_as_gcode_and_csv_and_keys_come_in(client: httpx.Client) -> None:
    shot = moving_shot()
    assert client.post("/api/programs/formats/move-gcode", json=shot).text.startswith("(Test shot)\nG21")
    assert client.post("/api/programs/formats/move-csv", json=shot).text.startswith(
        "frame,after_s,slide\r\n1,0,100\r\n"
    )
    read = client.post("/api/programs/keys", json={"shot": shot, "csv": "after_s,slide\n0,1\n50,2\n"}).json()
    assert len(read["move"]["keys"]) == 2
    refused(client.post("/api/programs/keys", json={"shot": shot, "csv": "after_s,slide\n0,x\n"}), "line 2")
    still = make_shot().model_dump(mode="json")
    refused(client.post("/api/programs/formats/move-gcode", json=still), "move")
    assert client.post("/api/gear", json=shot["kit"]["movers"][0]).status_code == 201


def test_a_text_that_cannot_be_stored_is_refused_at_its_field(client: httpx.Client) -> None:
    for path, document in (
        ("/api/gear", {"kind": "filter", "name": "Smoke\x00", "stops": 3}),
        ("/api/places", make_place().model_dump(mode="json") | {"name": "Cove\x00"}),
    ):
        problem = refused(client.post(path, json=document), "name")
        assert "without the character NUL" in problem["detail"]


def test_a_shot_that_was_run_is_not_deleted_and_one_that_was_not_is_gone(client: httpx.Client) -> None:
    id = new_shot(client, name="Never run")
    rows = {row["id"]: row for row in client.get("/api/shots/rows").json()}
    assert rows[id]["runs"] == 0 and len(rows[id]["used"]) == 4
    (worst,) = client.post("/api/shots/worst", json=[id]).json()
    assert worst["id"] == id and worst["fails"] + worst["minds"] >= 0
    assert client.delete(f"/api/shots/{id}").status_code == 204
    assert client.delete(f"/api/shots/{id}").status_code == 404
    assert client.get(f"/api/shots/{id}/history").status_code == 404


def test_a_draft_is_made_of_what_was_last_used_and_refuses_in_words(client: httpx.Client) -> None:
    kit = make_kit(body={"name": "Last used"})
    new_shot(client, name="Latest", kit=kit, place=make_place(name="Drafted here"))
    place = next(one["id"] for one in client.get("/api/places").json() if one["document"]["name"] == "Drafted here")
    ask = {"moves": "clouds", "place": place, "when": "2026-12-08", "of": "w" * 80}
    drafted = client.post("/api/begin/draft", json=ask).json()
    assert drafted["body"] == str(kit.body.id) and drafted["lens"] == str(kit.lens.id)
    assert drafted["date"] == "2026-12-08" and len(drafted["shot"]["name"]) == 80
    for wrong, path in ({"when": "3000-01-01"}, "when"), ({"when": "soon"}, "when"), ({"film": "long"}, "film"):
        answer = client.post("/api/begin/draft", json=ask | wrong)
        assert answer.status_code == 422 and answer.json()["path"] == path
    best = client.post("/api/begin/draft", json=ask | {"moves": "stars, as points", "when": "best"}).json()
    rows = client.post("/api/begin/nights", json={"moves": "stars, as points", "place": place, "count": 30}).json()
    assert best["date"] == min(rows, key=lambda row: row["rank"])["date"]
    asked = {"moves": "stars, as points", "count": 3}
    assert "LOCATION:" in client.post("/api/begin/nights/calendar", json=asked | {"place": place}).text
    mornings = {one["name"]: one["morning"] for one in client.get("/api/begin").json()["moves"]}
    assert mornings["clouds"] and not mornings["stars, as trails"]
