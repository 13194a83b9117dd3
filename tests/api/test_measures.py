"""The choice of measures over the API."""

from collections.abc import Iterator

import httpx
import pytest

from tests.conftest import make_place, make_shot
from tests.core.moving import KILN, key, moving_kit


@pytest.fixture
def imperial(client: httpx.Client) -> Iterator[None]:
    client.put("/api/measures", json={"system": "imperial"}).raise_for_status()
    yield
    client.put("/api/measures", json={"system": "metric"}).raise_for_status()


def test_measures_are_chosen_and_kept(client: httpx.Client, imperial: None) -> None:
    assert client.get("/api/measures").json() == {"system": "imperial"}
    refused = client.put("/api/measures", json={"system": "cubits"})
    assert refused.status_code == 422 and refused.json()["path"] == "system"
    assert client.get("/api/measures").json() == {"system": "imperial"}


@pytest.mark.usefixtures("imperial")
def test_answers_are_worded_and_numbers_without_units_read_in_what_was_chosen(client: httpx.Client) -> None:
    things = [KILN.model_dump()]
    move = {"keys": [key(0, slide=0).model_dump(), key(600, slide=508).model_dump()], "things": things}
    shot = make_shot(kit=moving_kit(), move=move).model_dump(mode="json")
    edits = [{"field": "move.keys.1.slide", "text": "24"}]
    plan = client.post("/api/programs", json={"shot": shot, "edits": edits}).json()
    # Two feet: the document keeps millimetres, the words have inches.
    assert plan["shot"]["move"]["keys"][1]["positions"]["slide"] == 609.6
    slide = next(axis for axis in plan["lanes"]["axes"] if axis["name"] == "slide")
    assert slide["spans"] == "0 – 24 in" and slide["high"] == 609.6
    panel = client.post("/api/programs/move", json={"shot": plan["shot"], "number": 1}).json()
    assert panel["table"]["slider_ends"][1].endswith(" in") and panel["table"]["things"][0]["distance"].endswith(" ft")
    assert [word["text"].split()[-1] for word in panel["things"][0][2:]] == ["ft"] * 5


@pytest.mark.usefixtures("imperial")
def test_a_place_is_typed_in_fahrenheit_and_kept_in_celsius(client: httpx.Client) -> None:
    place = make_place(name="Cold strand").model_dump(mode="json")

    def fill(**typed: str) -> dict:  # type: ignore[type-arg]
        return client.post("/api/forms/place", json={"document": place, "typed": typed}).json()

    read = fill(temperature_c="23", elevation_m="100 ft", horizon="235:4 262:6.5", window="15:00-23:30 tide, rising")
    saved = client.post("/api/places", json=read).json()
    assert saved["document"]["temperature_c"] == pytest.approx(-5) and saved["shown"]["temperature_c"] == "23 °F"
    assert saved["document"]["elevation_m"] == pytest.approx(30.48)
    assert saved["document"]["window"] == {"opens": "15:00", "closes": "23:30", "reason": "tide, rising"}
    assert saved["shown"]["horizon"] == "235:4 262:6.5" and saved["summary"].endswith("down to 23 °F")
    # Every field that cannot be used is named at once, those that no number can be read from and those out of bounds.
    wrong = fill(temperature_c="brisk", latitude_deg="95", horizon="235")
    assert wrong["path"] == "temperature_c" and "such as" in wrong["detail"]
    assert {one["path"] for one in wrong["faults"]} == {"temperature_c", "latitude_deg", "horizon"}
    # A document means the same whatever is chosen: a text without a unit is in the document's own.
    plain = client.put(
        f"/api/places/{place['id']}", json=place | {"temperature_c": "-5"}, headers={"If-Match": "1"}
    ).json()
    assert plain["document"]["temperature_c"] == -5
    # A plan whose battery the cold takes says so in the same words.
    assert client.get("/api/tonight", params={"place": place["id"]}).json()["coldest"] == "23 °F"
