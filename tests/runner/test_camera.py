"""The simulated camera over its real link, and the driver that speaks to it."""

import calendar
import io
import time
from pathlib import Path

import exifread
import httpx
import numpy as np
import pytest
from PIL import Image

from revani.rig.drivers.http_camera import HttpCamera
from revani.rig.ports import CameraError, CameraSettings
from tests.conftest import Stack, make_kit
from tests.scenes import DUSK, scene

SETTINGS = CameraSettings(shutter_s=6.0, aperture=2.8, iso=800, white_balance_k=4600)


@pytest.fixture
def camera(stack: Stack) -> HttpCamera:
    return HttpCamera(stack.camera)


def test_a_frame_takes_its_shutter_time_and_its_exif_says_so(camera: HttpCamera) -> None:
    # A second of the real clock, on a machine that is busy, is twenty here.
    camera.stand(scene(speed=20))
    camera.apply(SETTINGS)
    captured = camera.capture(1, 10)
    assert 6 <= captured.closed_s - captured.opened_s < 26
    with camera.fetch(captured.file) as pieces:
        content = b"".join(pieces)
    assert len(content) == captured.size_bytes
    # Read back by a library that did not write it.
    tags = exifread.process_file(io.BytesIO(content))
    assert float(tags["EXIF ExposureTime"].values[0]) == pytest.approx(6)
    assert float(tags["EXIF FNumber"].values[0]) == pytest.approx(2.8)
    assert tags["EXIF ISOSpeedRatings"].values == [800]
    assert tags["Image Model"].values == "Test body"
    taken = time.strptime(tags["EXIF DateTimeOriginal"].values, "%Y:%m:%d %H:%M:%S")
    assert time.strftime("%Y-%m-%d", taken) == "2026-11-24"


def test_twice_the_shutter_is_a_brighter_picture(camera: HttpCamera) -> None:
    camera.stand(scene())
    means = []
    for number, shutter in enumerate((0.5, 2, 8), 1):
        camera.apply(SETTINGS.model_copy(update={"shutter_s": shutter}))
        with camera.fetch(camera.capture(number, 10).file) as pieces:
            image = Image.open(io.BytesIO(b"".join(pieces)))
        means.append(np.asarray(image).mean())
    assert means[0] < means[1] < means[2]


def test_the_battery_drains_and_the_card_fills_by_the_bodys_own_figures(camera: HttpCamera) -> None:
    body = {"battery_wh": 1, "battery_usable": 1, "idle_w": 0, "frame_j": 36, "bytes_per_frame": 50_000_000}
    camera.stand(scene(body=body))
    camera.apply(SETTINGS)
    full = camera.status()
    captured = camera.capture(1, 10)
    assert full.battery_left - captured.battery_left == pytest.approx(0.01)
    assert full.card_free_bytes - captured.card_free_bytes == 50_000_000


def test_an_empty_battery_and_a_full_card_refuse_as_a_camera_would(camera: HttpCamera) -> None:
    camera.stand(scene(body={"battery_wh": 0.01, "battery_usable": 1, "idle_w": 0, "frame_j": 36}))
    camera.apply(SETTINGS)
    camera.capture(1, 10)
    with pytest.raises(CameraError) as error:
        camera.capture(2, 10)
    assert error.value.trouble == "empty battery"
    small = make_kit().card.model_copy(update={"capacity_gb": 0.03})
    camera.stand(scene(card=small))
    camera.capture(1, 10)
    with pytest.raises(CameraError) as error:
        camera.capture(2, 10)
    assert error.value.trouble == "full card"


def test_a_number_is_never_taken_twice_and_can_be_asked_for(camera: HttpCamera) -> None:
    camera.stand(scene())
    camera.apply(SETTINGS)
    captured = camera.capture(7, 10)
    with pytest.raises(CameraError):
        camera.capture(7, 10)
    assert camera.taken(7) == captured and camera.taken(8) is None


def test_the_same_occasion_finds_card_and_battery_as_they_were_left(camera: HttpCamera) -> None:
    before = scene()
    camera.stand(before)
    camera.apply(SETTINGS)
    camera.capture(1, 10)
    camera.stand(before)
    assert camera.status().frames == 1
    camera.stand(before.model_copy(update={"label": "another night"}))
    assert camera.status().frames == 0


def test_what_is_no_file_of_the_card_is_not_handed_out(stack: Stack) -> None:
    for path in ("0001/../../../../etc/passwd", "..%2f..%2fetc/passwd", "0001/nothing.jpg"):
        assert httpx.get(f"{stack.camera}/files/{path}").status_code == 404


def test_a_camera_that_is_not_there_is_said_to_be_unreachable(tmp_path: Path) -> None:
    with pytest.raises(CameraError) as error:
        HttpCamera("http://127.0.0.1:9", timeout_s=1).status()
    assert error.value.trouble == "unreachable"


def test_a_full_buffer_makes_the_next_frame_wait_for_the_card(camera: HttpCamera) -> None:
    slow = make_kit().card.model_copy(update={"write_mb_s": 1.0})
    # 25 MB at 1 MB/s: a frame takes 25 s of stage time to write; two fit into the buffer.
    camera.stand(scene(speed=60, body={"buffer_frames": 2}, card=slow))
    camera.apply(SETTINGS.model_copy(update={"shutter_s": 0.5}))
    first = camera.capture(1, 10)
    camera.capture(2, 10)
    assert camera.status().buffered == 2
    third = camera.capture(3, 10)
    assert third.opened_s >= first.closed_s + 25


def test_its_own_clock_may_be_wrong_and_stamps_its_files(camera: HttpCamera) -> None:
    camera.stand(scene(body={"clock_offset_s": 3600}))
    status = camera.status()
    assert status.clock_ahead_s == 3600 and status.clock_s > DUSK + 3500
    camera.apply(SETTINGS)
    captured = camera.capture(1, 10)
    with camera.fetch(captured.file) as pieces:
        tags = exifread.process_file(io.BytesIO(b"".join(pieces)))
    stamped = calendar.timegm(time.strptime(str(tags["EXIF DateTimeOriginal"]), "%Y:%m:%d %H:%M:%S"))
    assert stamped - captured.opened_s == pytest.approx(3600, abs=1.1)


def test_the_finder_shows_a_picture_and_takes_no_frame(camera: HttpCamera) -> None:
    camera.stand(scene())
    assert Image.open(io.BytesIO(camera.live())).size == (480, 320)
    assert camera.status().frames == 0


@pytest.mark.parametrize(
    ("fault", "trouble"),
    [
        ({"kind": "refuse"}, "refused"), ({"kind": "hang", "seconds": 0.1}, "refused"),
        ({"kind": "drop"}, "unreachable"),
        ({"kind": "full card"}, "full card"), ({"kind": "empty battery"}, "empty battery"),
    ],
)  # fmt: skip
def test_faults_are_shown_once_or_until_mended(
    camera: HttpCamera, stack: Stack, fault: dict[str, object], trouble: str
) -> None:
    camera.stand(scene())
    camera.apply(SETTINGS)
    httpx.put(f"{stack.camera}/fault", json=fault).raise_for_status()
    with pytest.raises(CameraError) as error:
        camera.capture(1, 10)
    assert error.value.trouble == trouble
    httpx.delete(f"{stack.camera}/fault").raise_for_status()
    # A dropped answer was a frame all the same.
    assert (camera.taken(1) is not None) == (fault["kind"] == "drop")
    assert camera.capture(2, 10).number == 2


def test_a_camera_that_hangs_longer_than_patience_is_unreachable(camera: HttpCamera, stack: Stack) -> None:
    camera.stand(scene())
    camera.apply(SETTINGS)
    httpx.put(f"{stack.camera}/fault", json={"kind": "slow", "seconds": 1}).raise_for_status()
    with pytest.raises(CameraError) as error:
        camera.capture(1, 0.3)
    assert error.value.trouble == "unreachable"
