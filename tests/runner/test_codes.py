"""Code cards held before the simulated camera: read from a picture, obeyed in order, refused whole."""

import io
import time
from collections.abc import Iterator
from pathlib import Path

import pytest
from fastapi.testclient import TestClient
from PIL import Image, ImageFilter

from revani.core.rigup.code_card import Code, signed
from revani.exports.code_picture import code_png
from revani.rig.stage import StageClock
from revani.rig.standins.camera_server import camera_app
from tests.conftest import eventually, make_shot
from tests.scenes import DUSK, scene

KEY = b"k" * 32


@pytest.fixture
def camera(tmp_path: Path) -> Iterator[TestClient]:
    with TestClient(camera_app(tmp_path, KEY, "shed"), base_url="http://127.0.0.1") as client:
        stood = scene(body={"clock_offset_s": -41}).model_copy(update={"clock": StageClock.starting(DUSK, 600)})
        client.put("/scene", json=stood.model_dump(mode="json")).raise_for_status()
        yield client


def card(*commands: str, key: bytes = KEY, settings: dict[str, str] | None = None, **change: object) -> str:
    card.count = getattr(card, "count", 0) + 1  # type: ignore[attr-defined]
    given: dict[str, object] = {
        "rig": "shed", "shot": make_shot().id, "commands": commands, "settings": settings or {},
        "expires_s": int(time.time()) + 600, "nonce": f"{card.count:012x}",  # type: ignore[attr-defined]
    }  # fmt: skip
    return "http://127.0.0.1:8030/code#" + signed(Code.model_validate(given | change), key)


def picture(text: str, turn: float = 0, blur: float = 0, scale: int = 6) -> bytes:
    """A photograph of a card: on a dark table, turned, out of focus."""
    table = Image.new("L", (640, 640), 60)
    paper = Image.open(io.BytesIO(code_png(text, scale))).convert("L")
    table.paste(paper.rotate(turn, expand=True, fillcolor=60), (60, 60))
    out = io.BytesIO()
    table.filter(ImageFilter.GaussianBlur(blur)).save(out, "JPEG", quality=85)
    return out.getvalue()


def shown(camera: TestClient, content: bytes) -> list[dict[str, str]]:
    answer = camera.post("/code", content=content)
    assert answer.status_code == 200, answer.text
    return list(answer.json())


def test_a_card_is_read_from_a_picture_and_the_lights_answer(camera: TestClient) -> None:
    assert camera.get("/status").json()["clock_ahead_s"] == -41
    first = shown(camera, picture(card("set the clock"), turn=17))
    assert [one["shines"] for one in first] == ["one long"]
    assert camera.get("/status").json()["clock_ahead_s"] == 0
    assert shown(camera, picture(card("set the clock")))[0]["shines"] == "two short"


def test_settings_are_dialled_and_an_unknown_dial_sets_nothing(camera: TestClient) -> None:
    settings = {"drive": "its own timer", "iso": "800", "white_balance_k": "4600", "shutter_s": "1/50"}
    shown(camera, picture(card("set", settings=settings)))
    said = camera.get("/status").json()
    assert said["drive"] == "its own timer" and said["white_balance_k"] == 4600
    refused = shown(camera, picture(card("set", "arm", settings={"iso": "100", "warp": "9"})))
    assert [one["shines"] for one in refused] == ["three short"] and "warp" in refused[0]["says"]


def test_it_takes_frames_by_itself_stops_writes_and_goes_off_in_that_order(camera: TestClient) -> None:
    shown(camera, picture(card("start", settings={"interval": "30", "frames": "500"})))
    eventually(lambda: camera.get("/status").json()["frames"] >= 2, 20)
    assert shown(camera, picture(card("start", settings={"interval": "30", "frames": "5"})))[0]["shines"] == "two short"
    done = shown(camera, picture(card("stop", "power down")))
    assert [one["command"] for one in done] == ["stop", "power down"]
    taken = camera.get("/status").json()["frames"]
    # Each frame that was begun is whole on the card, and none comes after it.
    assert len(camera.get("/frames").json()) == taken
    assert camera.post("/capture", json={"number": 900}).status_code == 422
    assert camera.get("/status").json()["frames"] == taken


@pytest.mark.parametrize(
    ("content", "words"),
    [
        (b"no picture at all", "no picture"),
        (picture(card("stop"), blur=9, scale=3), "No code is read"),
        (picture("https://example.org/"), "no card"),
        (picture(card("stop", key=b"x" * 32)), "not made by this Revani"),
        (picture(card("stop", rig="barn")), "another rig"),
        (picture(card("stop", expires_s=1_000)), "expired"),
    ],
    ids=["no picture", "blurred", "foreign", "forged", "another rig", "expired"],
)
def test_a_card_that_is_not_good_does_nothing(camera: TestClient, content: bytes, words: str) -> None:
    before = camera.get("/status").json()
    answer = camera.post("/code", content=content)
    assert answer.status_code == 422 and words in answer.text
    after = camera.get("/status").json()
    assert {**after, "clock_s": 0, "battery_left": 0} == {**before, "clock_s": 0, "battery_left": 0}


def test_a_card_is_good_once_after_a_restart_too(camera: TestClient, tmp_path: Path) -> None:
    once = picture(card("set the clock"))
    shown(camera, once)
    assert "used already" in camera.post("/code", content=once).text
    with TestClient(camera_app(tmp_path, KEY, "shed"), base_url="http://127.0.0.1") as again:
        assert "used already" in again.post("/code", content=once).text
