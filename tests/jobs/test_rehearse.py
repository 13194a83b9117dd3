"""Rehearsed films through the queue and on the command line."""

import io
import json
import subprocess
from fractions import Fraction
from pathlib import Path

import av
import httpx
import numpy as np
import pytest
from PIL import Image

from revani.core.documents import Light, Shot
from revani.core.documents.timing import Timing
from revani.core.edit.fitting import compile_fitted
from revani.core.picture.planned import picture_of
from tests.conftest import REVANI, Stack, eventually, make_shot
from tests.desk import refused


def asked(shot: Shot, width: int = 160) -> dict[str, object]:
    return {"shot": shot.model_dump(mode="json"), "width": width}


def short(**change: object) -> Shot:
    return make_shot(timing=Timing(fps="23.976", interval_s=30, frame_count=230), **change)


def test_a_film_is_made_in_parts_kept_and_not_made_twice(client: httpx.Client) -> None:
    first = client.post("/api/rehearsals", json=asked(short())).json()
    assert first["total"] == 230 and "9.6 s of film" in first["told"]
    path = f"/api/rehearsals/{first['id']}"
    eventually(lambda: client.get(path).json()["state"] == "done", 180)
    answer = client.get(f"{path}/film")
    with av.open(io.BytesIO(answer.content)) as film:
        stream = film.streams.video[0]
        pictures = [frame.to_ndarray(format="rgb24") for frame in film.decode(stream)]
        # Exactly its rate and every frame, by another reader.
        assert stream.average_rate == Fraction(24_000, 1_001) and len(pictures) == 230
    # It begins before sunset and ends by night: bluer, and by the ramp of the exposure as bright.
    first_light, last_light = (np.asarray(one, dtype=float).mean(axis=(0, 1)) for one in (pictures[0], pictures[-1]))
    assert first_light[0] / first_light[2] > 1.1 * last_light[0] / last_light[2]
    assert first_light.mean() == pytest.approx(last_light.mean(), rel=0.3)
    again = client.post("/api/rehearsals", json=asked(short(name="Named otherwise"))).json()
    assert again["id"] == first["id"] and again["state"] == "done" and again["done"] == 230


def test_a_film_that_is_cancelled_is_made_no_further_and_can_be_had_later(client: httpx.Client) -> None:
    shot = make_shot(timing=Timing(fps=30, interval_s=20, frame_count=3_000))
    view = client.post("/api/rehearsals", json=asked(shot, 640)).json()
    path = f"/api/rehearsals/{view['id']}"
    assert client.delete(path).status_code == 204
    eventually(lambda: client.get(path).json()["state"] == "cancelled", 60)
    assert client.get(f"{path}/film").status_code == 404
    assert client.get("/api/rehearsals/" + "0" * 64).status_code == 404
    assert client.get("/api/rehearsals/no").status_code == 422


def test_stopping_on_a_frame_says_which_it_is_and_why(client: httpx.Client) -> None:
    said = client.post("/api/rehearsals/frame", json={"shot": short().model_dump(mode="json"), "frame": 100}).json()
    assert said["number"] == 101 and said["ruled_by"].endswith(".") and said["field"]
    assert {one["label"] for one in said["readout"]} >= {"clock", "shutter", "ISO", "battery", "light gathered"}


def test_a_frame_of_a_film_is_looked_at_as_on_a_light_table(client: httpx.Client) -> None:
    light = Light(school="fixed", aperture=2.8, shutter_s=1, iso=3200)
    view = client.post("/api/rehearsals", json=asked(short(light=light))).json()
    path = f"/api/rehearsals/{view['id']}/frames"
    looked = client.get(f"{path}/0/looked").json()
    assert sum(looked["shares"]) == pytest.approx(1, abs=1e-3) and looked["white"] > 0.3 and looked["horizon"]
    stripes = np.asarray(Image.open(io.BytesIO(client.get(f"{path}/0/zebra").content)))
    assert (stripes[..., 3] > 0).mean() == pytest.approx(looked["white"], abs=1e-6)
    piece = Image.open(io.BytesIO(client.get(f"{path}/0/loupe", params={"across": 1, "down": 0}).content))
    assert piece.size == (320, 220)
    assert "230" in refused(client.get(f"{path}/230/looked"), "frame")["detail"]
    refused(client.get(f"{path}/0/loupe", params={"across": 1.5, "down": 0}), "across")
    assert client.get(f"/api/rehearsals/{'0' * 64}/frames/0/looked").status_code == 404


def test_an_output_is_rehearsed_cut_as_it_is_keyed(client: httpx.Client) -> None:
    keys = [{"at_s": 0, "zoom": 1.0}, {"at_s": 2, "zoom": 2.0}]
    square = {"name": "Square", "pixels_wide": 1080, "pixels_high": 1080, "keys": keys}
    shot = Shot.model_validate(
        short().model_dump()
        | {"outputs": [square, {"name": "One", "becomes": "a still"}, {"name": "As long", "fps": 50}]}
    )
    ask = asked(shot) | {"output": 0}
    view = client.post("/api/rehearsals", json=ask).raise_for_status().json()
    assert "Square" in view["told"] and view["id"] != client.post("/api/rehearsals", json=asked(shot)).json()["id"]
    path = f"/api/rehearsals/{view['id']}"
    eventually(lambda: client.get(path).json()["state"] == "done", 180)
    with av.open(io.BytesIO(client.get(f"{path}/film").content)) as film:
        pictures = [frame.to_ndarray(format="rgb24") for frame in film.decode(film.streams.video[0])]
    assert len(pictures) == 230 and pictures[0].shape == (160, 160, 3)
    # From 2 s on it shows the middle of what it began with, twice as large: cut by hand out of the whole picture.
    program = compile_fitted(shot)
    body = program.shot.body
    for j, part in ((0, 1.0), (100, 0.5)):
        whole = Image.fromarray(picture_of(program, j, 960))
        side = whole.height * part if body.pixels_wide > body.pixels_high else whole.width * part
        left, top = (whole.width - side) / 2, (whole.height - side) / 2
        meant = whole.crop((round(left), round(top), round(left + side), round(top + side))).resize((160, 160))
        assert np.abs(np.asarray(meant, dtype=float) - pictures[j]).mean() < 6, j
    looked = client.get(f"{path}/frames/100/looked").json()
    assert looked["horizon"] == [] and sum(looked["shares"]) == pytest.approx(1, abs=1e-3)
    why = client.post("/api/rehearsals/frame", json={"shot": ask["shot"], "frame": 100, "output": 0}).json()
    assert why["number"] == 101
    assert "a still" in refused(client.post("/api/rehearsals", json=ask | {"output": 1}), "output")["detail"]
    assert "Square" in refused(client.post("/api/rehearsals", json=ask | {"output": 7}), "output")["detail"]
    # At twice the rate it is as long, each frame shown as often as it takes.
    faster = client.post("/api/rehearsals", json=ask | {"output": 2}).raise_for_status().json()
    assert faster["total"] == pytest.approx(230 / (24 / 1.001) * 50, abs=1) and "9.6 s" in faster["told"]


def test_no_film_where_nothing_would_be_taken(client: httpx.Client) -> None:
    body = make_shot().kit.body.model_copy(update={"battery_wh": 1e-4})
    kit = make_shot().kit.model_copy(update={"body": body})
    answer = client.post("/api/rehearsals", json=asked(make_shot(kit=kit)))
    assert "No frame would be taken" in refused(answer, "shot")["detail"]


def test_the_command_line_writes_film_and_frame_or_says_why_not(tmp_path: Path, stack: Stack) -> None:
    del stack
    file = tmp_path / "shot.json"
    file.write_text(make_shot(timing=Timing(fps=25, interval_s=30, frame_count=12)).model_dump_json())
    film, frame = tmp_path / "out.mp4", tmp_path / "out.png"
    run = subprocess.run(
        [REVANI, "rehearse", str(file), "--film", str(film), "--frame", "12", str(frame), "--width", "160"],
        capture_output=True, check=False,
    )  # fmt: skip
    assert run.returncode == 0, run.stderr
    assert json.loads(run.stdout)["frames_taken"] == 12
    with av.open(str(film)) as made:
        assert sum(1 for _ in made.decode(video=0)) == 12
    with Image.open(frame) as picture:
        assert picture.width == 160
    wrong = subprocess.run(
        [REVANI, "rehearse", str(file), "--frame", "13", str(tmp_path / "no.png")], capture_output=True, check=False
    )
    assert wrong.returncode == 2 and json.loads(wrong.stderr)["path"] == "frame"
    nowhere = subprocess.run(
        [REVANI, "rehearse", str(file), "--film", str(tmp_path / "none" / "out.mp4")], capture_output=True, check=False
    )
    assert nowhere.returncode == 2 and not (tmp_path / "none").exists() and not list(tmp_path.glob("*.part*"))
