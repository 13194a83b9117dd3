"""Ways of a shot over the application's routes."""

import csv
import io

import httpx
from PIL import Image

from tests.conftest import make_shot
from tests.desk import refused


def test_ways_are_kept_beside_a_shot_saved_with_it_and_compared(client: httpx.Client) -> None:
    shot = make_shot(name="Many ways").model_dump(mode="json")
    client.post("/api/shots", json=shot).raise_for_status()
    darker = {"shot": shot, "edits": [{"field": "light.aperture", "text": "5.6"}], "name": "Darker"}
    kept = client.post("/api/ways/beside", json=darker).raise_for_status().json()
    raw = {"shot": kept, "edits": [{"field": "keeps", "text": "JPEG"}]}
    kept = client.post("/api/ways/beside", json=raw).raise_for_status().json()
    client.put(f"/api/shots/{shot['id']}", json=kept, headers={"If-Match": "1"}).raise_for_status()
    again = client.get(f"/api/shots/{shot['id']}").json()["document"]
    assert again["ways"][0]["name"] == "Darker" and len(again["ways"]) == 2
    seen = client.post("/api/ways", json={"shot": again, "lock": "clock"}).raise_for_status().json()
    assert [one["name"] for one in seen["columns"]] == ["As it is", *(one["name"] for one in again["ways"])]
    assert seen["columns"][1]["changed"] and "differs in 2 things" in seen["columns"][1]["cause"]
    card = next(row for row in seen["rows"] if row["label"] == "card left")
    assert [cell["best"] for cell in card["cells"]] == [False, False, True]
    # Each is rehearsed by itself: what is kept beside is no part of its film.
    films = [client.post("/api/rehearsals", json={"shot": one["shot"]}).json()["id"] for one in seen["columns"]]
    assert films[0] == client.post("/api/rehearsals", json={"shot": shot}).json()["id"] != films[1]
    table = client.post("/api/ways/table", json={"shot": again})
    lines = list(csv.reader(io.StringIO(table.text)))
    assert table.headers["content-type"].startswith("text/csv") and lines[0] == ["", "As it is", "Darker", lines[0][3]]
    assert next(line for line in lines if line[0] == "card left")[3].endswith("*")
    page = client.get(f"/api/rehearsals/{films[0]}/sheet")
    assert page.headers["content-type"] == "image/png" and Image.open(io.BytesIO(page.content)).width > 1_900
    took = client.post("/api/ways/edit", json={"shot": again, "edit": {"act": "take", "name": "Darker"}}).json()
    assert took["light"]["aperture"] == 5.6 and took["ways"][0]["name"] == "As it was"


def test_what_cannot_be_compared_is_refused_at_its_place_and_the_rest_is_shown(client: httpx.Client) -> None:
    shot = make_shot().model_dump(mode="json")
    refused(client.post("/api/ways/beside", json={"shot": shot}), "ways")
    refused(client.post("/api/ways/edit", json={"shot": shot, "edit": {"act": "drop", "name": "None"}}), "ways")
    field = {"field": "timing.fps", "text": "many"}
    refused(client.post("/api/ways/beside", json={"shot": shot, "edits": [field]}), "timing.fps")
    shot["ways"] = [
        {"name": "Broken", "changes": [{"path": "light.aperture", "value": "wide"}]},
        {"name": "Fine", "changes": [{"path": "light.compensation_stops", "value": 1.0}]},
    ]
    seen = client.post("/api/ways", json={"shot": shot}).raise_for_status().json()
    assert [one["name"] for one in seen["columns"]] == ["As it is", "Fine"]
    (broken,) = seen["refused"]
    assert (broken["name"], broken["field"]) == ("Broken", "light.aperture") and "Broken" in broken["allowed"]
    twice = make_shot().model_dump(mode="json") | {"ways": [shot["ways"][1], shot["ways"][1]]}
    refused(client.post("/api/ways", json={"shot": twice}), "shot.ways")
