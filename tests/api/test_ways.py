"""Ways of a shot over the application's routes."""

import csv
import io

import av
import httpx
import numpy as np
from PIL import Image

from revani.core.documents.timing import Timing
from tests.conftest import eventually, make_shot
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


def test_ways_beside_each_other_are_one_film_of_the_right_pictures(client: httpx.Client) -> None:
    shot = make_shot(name="Split", timing=Timing(fps=25, interval_s=60, frame_count=24)).model_dump(mode="json")
    # Half the frames: its film is over in the middle.
    shot["ways"] = [{"name": "Shorter", "changes": [{"path": "timing.frame_count", "value": 12}]}]
    ask = {"shot": shot, "names": ["As it is", "Shorter"]}
    refused(client.post("/api/rehearsals/beside", json=ask | {"names": ["As it is", "None"]}), "names")
    assert "Made first" in refused(client.post("/api/rehearsals/beside", json=ask), "names")["detail"]
    columns = client.post("/api/ways", json={"shot": shot}).json()["columns"]
    films = [made(client, client.post("/api/rehearsals", json={"shot": one["shot"]}).json()["id"]) for one in columns]
    whole = made(client, client.post("/api/rehearsals/beside", json=ask).raise_for_status().json()["id"])
    assert [len(one) for one in films] == [24, 12] and len(whole) == 24
    high, wide = films[0][0].shape[:2]
    bar = whole[0].shape[0] - high
    for k in (0, 6, 11, 12, 23):
        left, right = whole[k][bar:, :wide].astype(int), whole[k][bar:, -wide:].astype(int)
        # Encoded twice, so not to the last digit.
        assert np.abs(left - films[0][k]).mean() < 3
        if k < 12:
            assert np.abs(right - films[1][k]).mean() < 3
        else:
            # Nothing but the words that nothing is taken.
            assert np.median(right.max(axis=-1)) < 40
    by_clock = client.post("/api/rehearsals/beside", json=ask | {"lock": "clock"}).raise_for_status().json()
    assert len(made(client, by_clock["id"])) == 24
    # It is the film of no shot of its own.
    assert client.get(f"/api/rehearsals/{by_clock['id']}/frames/0/looked").status_code == 404


def made(client: httpx.Client, id: str) -> list[np.ndarray]:  # type: ignore[type-arg]
    """The pictures of a film, once it is made, by another reader."""
    eventually(lambda: client.get(f"/api/rehearsals/{id}").json()["state"] == "done", 180)
    with av.open(io.BytesIO(client.get(f"/api/rehearsals/{id}/film").content)) as film:
        return [frame.to_ndarray(format="rgb24") for frame in film.decode(film.streams.video[0])]


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
