"""Rigging up over the API: ticks, packing, the field sheet and its cards, presets, the kit as a file."""

import json
import re
from datetime import datetime, timedelta
from uuid import UUID, uuid4

import httpx
import pytest

from revani.core.documents import ClockStart, Cut, ShotSequence, Source, Wire
from tests.conftest import Stack, eventually, make_kit, make_shot
from tests.desk import cards_of, in_hours, new_shot, on_the_rig, order, refused


def test_steps_are_ticked_from_both_and_told_when_it_is_armed(client: httpx.Client, quiet_rig: None) -> None:
    id = new_shot(client, **in_hours(20))
    rig = f"/api/shots/{id}/rig-up"
    first = client.get(rig).json()
    assert first["rows"][0]["by"] == "nobody" and first["cautions"]
    before = len(first["open"])
    ticked = client.put(f"{rig}/focus", json={"done": True, "on": "phone"}).json()
    row = next(one for one in ticked["rows"] if one["id"] == "focus")
    assert row["done"] and re.fullmatch(r"\w{3} \d\d:\d\d on the phone", row["clock"])
    assert len(ticked["open"]) == before - 1
    refused(client.put(f"{rig}/dance", json={"done": True}), "step")
    assert client.get("/api/shots/00000000-0000-0000-0000-000000000000/rig-up").status_code == 404
    against = client.get(f"/api/shots/{id}/arming").json()
    assert against["open"] == ticked["open"] and "steps before it is left alone" in against["steps"]
    assert "frames" in against["as_it_stands"]
    run = client.post("/api/runs", json=order(id, anyway=True)).json()
    assert run["overridden"][-1].startswith("Rigged up: ") and ticked["open"][0] in run["overridden"][-1]
    assert len(client.delete(rig).json()["open"]) == before


def test_what_an_extra_is_now_stands_in_the_shot_and_its_wires_stay(client: httpx.Client) -> None:
    bank = Source.model_validate({"name": f"Bank {uuid4()}", "capacity_wh": 40})
    kit = make_kit()
    kit = kit.model_copy(update={"extras": (bank,), "wires": (Wire(source=bank.id, to=kit.body.id),)})
    shot = make_shot(kit=kit)
    # The shot brings the gear along that is not known yet.
    assert client.post("/api/shots", json=shot.model_dump(mode="json")).status_code == 201
    larger = bank.model_copy(update={"capacity_wh": 80.0}).model_dump(mode="json")
    assert client.put(f"/api/gear/{bank.id}", json=larger, headers={"If-Match": "1"}).is_success
    document = client.get(f"/api/shots/{shot.id}").json()["document"]
    assert document["kit"]["extras"][0]["capacity_wh"] == 80
    assert document["kit"]["wires"] == [{"source": str(bank.id), "to": str(kit.body.id), "by": []}]


def obey(client: httpx.Client, text: str) -> httpx.Response:
    return client.post("/api/codes", json={"text": text})


def test_a_card_off_the_sheet_arms_and_stops_the_run_once(client: httpx.Client, quiet_rig: None) -> None:
    id = new_shot(client, name="By card", **in_hours(20))
    by_command = {}
    for text in cards_of(client, id):
        said = client.post("/api/codes/read", json={"text": text}).json()
        assert said["shot"] == "By card"
        by_command[" ".join(said["commands"])] = text
    assert set(by_command) == {"set the clock", "set", "arm", "start", "stop", "stop power down"}
    armed = obey(client, by_command["arm"])
    if armed.status_code == 422:
        # What will fail is not overridden by a piece of paper, and a card that was refused stays good.
        assert armed.json()["path"] == "anyway"
        assert client.post("/api/codes/read", json={"text": by_command["arm"]}).is_success
        client.post("/api/runs", json=order(id, anyway=True)).raise_for_status()
    else:
        assert armed.json()["run"] in on_the_rig(client)
        assert "used already" in obey(client, by_command["arm"]).json()["detail"]
    assert obey(client, by_command["stop"]).json()["run"]
    eventually(lambda: not on_the_rig(client))
    assert "used already" in refused(obey(client, by_command["stop"]), "code")["detail"]
    refused(obey(client, by_command["start"][:-3]), "code")
    refused(obey(client, "https://example.org/"), "code")


def test_the_camera_of_the_rig_obeys_the_same_card(client: httpx.Client, stack: Stack) -> None:
    id = new_shot(client, name="Shown", **in_hours(20))
    texts = cards_of(client, id)
    wanted = next(
        one for one in texts
        if client.post("/api/codes/read", json={"text": one}).json()["commands"] == ["set the clock"]
    )  # fmt: skip
    answer = httpx.post(f"{stack.camera}/code", content=wanted, headers={"Content-Type": "text/plain"})
    assert answer.status_code == 200 and answer.json()[0]["command"] == "set the clock"
    # What the camera has used up is refused by it, whoever passes it on.
    assert "used already" in refused(obey(client, wanted), "code")["detail"]


def test_the_sheet_is_a_page_and_text_too(client: httpx.Client) -> None:
    id = new_shot(client, name="Paper")
    page = client.get(f"/api/shots/{id}/sheet.html")
    assert page.headers["content-disposition"].startswith("attachment") and "<svg" in page.text
    assert "RIG UP" in client.get(f"/api/shots/{id}/sheet.txt").text
    assert client.get(f"/api/shots/{id}/sheet.pdf", params={"size": "a9"}).status_code == 422


def test_presets_are_kept_looked_at_and_laid(client: httpx.Client) -> None:
    name = f"Frost {uuid4()}"
    cold = make_shot(light={"school": "automatic", "iso_ceiling": 3200}).model_dump(mode="json")
    kept = client.post("/api/presets", json={"shot": cold, "name": name, "parts": ["light", "timing"]})
    assert kept.status_code == 201
    again = client.post("/api/presets", json={"shot": cold, "name": name, "parts": ["light"]})
    refused(again, "name")
    refused(client.post("/api/presets", json={"shot": cold, "name": "None", "parts": []}), "parts")
    other = make_shot(name="Other").model_dump(mode="json")
    laid = client.post(f"/api/presets/{kept.json()['id']}/laid", json=other).json()
    assert laid["shot"]["name"] == "Other" and laid["shot"]["light"]["school"] == "automatic"
    assert any("leave all of it to the body" in line for line in laid["changed"])
    # One that does not fit says where, and changes nothing.
    slow = make_shot(kit=make_kit(body={"overhead_s": 300, "minimum_interval_s": 301})).model_dump(mode="json")
    refused(client.post(f"/api/presets/{kept.json()['id']}/laid", json=slow), "timing.interval_s")
    file = client.get(f"/api/presets/{kept.json()['id']}").json() | {"id": str(uuid4()), "name": f"{name} 2"}
    assert client.post("/api/presets/file", json=file).status_code == 201
    broken = file | {"id": str(uuid4()), "name": "Broken", "values": {"light": {}}}
    assert client.post("/api/presets/file", json=broken).status_code == 422
    assert client.delete(f"/api/presets/{file['id']}").status_code == 204
    assert client.delete(f"/api/presets/{file['id']}").status_code == 404


@pytest.mark.parametrize("fault", ["kind", "capacity"])
def test_a_kit_is_brought_in_whole_or_not_at_all(client: httpx.Client, fault: str) -> None:
    good = Source.model_validate({"name": f"Good {uuid4()}"}).model_dump(mode="json")
    bad = good | {"id": str(uuid4()), "kind": "toaster" if fault == "kind" else "source", "capacity_wh": 0}
    answer = client.post("/api/kit/file", json={"format": "revani.kit/1", "gear": [good, bad], "places": []})
    assert answer.status_code == 422 and "gear.1" in json.dumps(answer.json())
    assert client.get("/api/gear").is_success
    assert good["id"] not in [one["id"] for one in client.get("/api/gear").json()]
    brought = client.post("/api/kit/file", json={"format": "revani.kit/1", "gear": [good], "places": []}).json()
    assert brought == {"added": [good["name"]], "known": []}
    out = client.get("/api/kit/file").json()
    back = client.post("/api/kit/file", json=out).json()
    assert back["added"] == [] and good["name"] in back["known"]
    assert UUID(good["id"]) in [UUID(one["id"]) for one in out["gear"]]


def test_an_evening_goes_into_a_calendar_that_rings(client: httpx.Client) -> None:
    id = new_shot(client, name="Evening; with stars", start=ClockStart(time="23:30"))
    text = client.get(f"/api/shots/{id}/evening.ics", params={"set_up_min": 30, "way_min": 45}).text.replace(
        "\r\n ", ""
    )
    events = [part.split("END:VEVENT")[0] for part in text.split("BEGIN:VEVENT")[1:]]
    told = [dict(line.split(":", 1) for line in one.split("BEGIN:VALARM")[0].strip().split("\r\n")) for one in events]
    names = [one["SUMMARY"] for one in told]
    assert [name.split(" ")[0] for name in names] == ["Pack", "Leave", "Set", "Arm", "Evening\\;", "Fetch"]

    def at(n: int, edge: str = "DTSTART") -> datetime:
        return datetime.strptime(told[n][edge], "%Y%m%dT%H%M%SZ")

    # Over midnight: armed ten minutes before it begins, set up before that, left before that.
    assert at(4).strftime("%M") == "30" and at(4) - at(3) == timedelta(minutes=10)
    assert at(3) - at(2) == timedelta(minutes=30) and at(2) - at(1) == timedelta(minutes=45)
    assert at(1) - at(0) == timedelta(hours=1) and at(5) == at(4, "DTEND") and at(5).date() > at(4).date()
    assert all("TRIGGER:-PT" in one and "ACTION:DISPLAY" in one for one in events)
    body = client.get(f"/api/shots/{id}").json()["document"]["kit"]["body"]["name"]
    assert body in told[0]["DESCRIPTION"]
    # Without a way nobody leaves.
    near = client.get(f"/api/shots/{id}/evening.ics", params={"way_min": 0}).text
    assert near.count("BEGIN:VEVENT") == 5
    refused(client.get(f"/api/shots/{id}/evening.ics", params={"way_min": -5}), "way_min")


def test_what_to_bring_for_a_sequence_is_told_and_printed(client: httpx.Client) -> None:
    ids = [new_shot(client, name=f"Pack {i}", **in_hours(2 + 3 * i)) for i in range(2)]
    film = ShotSequence(name="Packed", cuts=tuple(Cut(shot=UUID(id), name="Pack") for id in ids))
    sequence = client.post("/api/sequences", json=film.model_dump(mode="json")).json()["id"]
    packed = client.get("/api/packing", params={"sequence": sequence}).json()
    assert {row["what"] for row in packed["rows"]} >= {"Charge", "Empty", "Bring"}
    text = client.get("/api/packing/text", params={"sequence": sequence}).text
    assert all(row["thing"] in text for row in packed["rows"])
