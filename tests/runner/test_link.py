"""A body over its own protocol: libgphoto2 as the client of the simulated camera, and whole runs over the link to it.

The reference for PTP/IP (ISO 15740, CIPA DC-005) is libgphoto2, which did not learn it from us.
"""

import asyncio
import io
import json
import os
import subprocess
from collections.abc import Iterator
from itertools import pairwise
from pathlib import Path

import gphoto2
import httpx
import numpy as np
import psycopg
import pytest
from PIL import Image

from revani.core.documents import Light, Waiting
from revani.core.timing.trigger_words import parse_ways
from revani.rig.drivers import body_at, stage_of
from revani.rig.drivers.gphoto_body import GphotoBody, nearest, number_of, seconds_of, stops_of
from revani.rig.drivers.http_camera import HttpCamera
from revani.rig.link import LinkedCamera, Notes
from revani.rig.ports import CameraError, CameraSettings, Stored
from tests.conftest import REVANI, Stack, eventually
from tests.runs import arm, saved, short, taken, until_state
from tests.scenes import scene

FIRST = CameraSettings(shutter_s=2.0, aperture=2.8, iso=800, white_balance_k=5200)


@pytest.fixture
def body(simulated: tuple[str, str]) -> Iterator[GphotoBody]:
    address, stage = simulated
    HttpCamera(stage, 60).stand(scene(speed=600))
    made = body_at(address)
    assert isinstance(made, GphotoBody)
    yield made
    made.close()


def test_libgphoto2_reads_what_it_is_sets_it_fires_it_and_fetches_what_it_took(body: GphotoBody) -> None:
    said = body.says()
    assert (said.name, said.battery_left, said.card_free_bytes) == ("Test body", 1.0, 256_000_000_000)
    stands = body.dial(FIRST)
    assert stands.shutter_s == pytest.approx(2) and stands.iso == 800 and stands.aperture == pytest.approx(2.8)
    stored = body.fire()
    with body.fetch(stored.file) as pieces:
        content = b"".join(pieces)
    assert len(content) == stored.size_bytes and stored.file.endswith(".JPG")
    tags = Image.open(io.BytesIO(content)).getexif().get_ifd(0x8769)
    assert float(tags[0x829A]) == pytest.approx(2) and tags[0x8827] == 800
    body.fire()
    assert [one.file for one in body.stored()] == [stored.file, stored.file.replace("1.JPG", "2.JPG")]
    folder, _, name = f"/{stored.file}".rpartition("/")
    body._camera.file_delete(folder, name)
    assert len(body.stored()) == 1


def test_what_it_does_not_list_goes_to_the_nearest_that_it_does(body: GphotoBody) -> None:
    other = {"shutter_s": 0.65, "aperture": 2.9, "iso": 850, "white_balance_k": 4400}
    stands = body.dial(FIRST.model_copy(update=other))
    # In stops: 0.6 s (2^-2/3), f/2.8 and ISO 800 are nearest; PTP names no kelvins, but a fluorescent light.
    assert stands.shutter_s == pytest.approx(2 ** (-2 / 3), abs=0.001) and stands.aperture == pytest.approx(2.8)
    assert (stands.iso, stands.white_balance_k) == (800, 4000)


def test_a_body_that_meters_is_told_how_bright_and_its_file_says_what_it_chose(
    body: GphotoBody, simulated: tuple[str, str]
) -> None:
    wanted = FIRST.model_copy(update={"mode": "aperture priority", "compensation_stops": -1.4, "iso_ceiling": 800})
    stands = body.dial(wanted)
    # A third of a stop is the dial's own step (ISO 15740: thousandths).
    assert stands.compensation_stops == pytest.approx(-4 / 3, abs=0.001) and stands.aperture == pytest.approx(2.8)
    darker = body.took(body.fire().file)
    body.dial(wanted.model_copy(update={"compensation_stops": 1.0}))
    brighter = body.took(body.fire().file)
    assert darker["aperture"] == brighter["aperture"] == pytest.approx(2.8, abs=0.05)
    gain = brighter["shutter_s"] * brighter["iso"] / (darker["shutter_s"] * darker["iso"])
    # Within what the body's own metering scatters by.
    assert np.log2(gain) == pytest.approx(7 / 3, abs=0.8)
    assert body.dial(FIRST).mode == "manual" and body.took(body.fire().file)["shutter_s"] == pytest.approx(2)


@pytest.mark.parametrize(
    ("listed", "stops"),
    [("-1.3", -1.3), ("+1/3", 1 / 3), ("0", 0.0), ("1.0 EV", 1.0), ("−2", -2.0), ("Auto", None), ("1/0", None)],
)
def test_stops_are_read_however_a_body_writes_them(listed: str, stops: float | None) -> None:
    assert stops_of(listed) == (None if stops is None else pytest.approx(stops))


def test_a_thousand_frames_over_ptp_each_once(body: GphotoBody, simulated: tuple[str, str]) -> None:
    HttpCamera(simulated[1]).stand(scene(speed=1, body={"bytes_per_frame": 1_000, "frame_j": 0, "overhead_s": 0}))
    body.dial(FIRST.model_copy(update={"shutter_s": 0.001}))
    files: list[Stored] = []
    for _ in range(THOUSAND + 3):
        try:
            files.append(body.fire())
        except CameraError as error:
            # On a machine that stands still for longer than the link waits; what it took meanwhile lies on the card.
            assert error.trouble == "unreachable"
            files = body.stored()
        if len(files) == THOUSAND:
            break
    assert len({one.file for one in files}) == THOUSAND == len(body.stored())
    assert all(one.stamped_s is not None for one in files)
    assert all(a.stamped_s <= b.stamped_s for a, b in pairwise(files))  # type: ignore[operator]


THOUSAND = 1_000


def test_events_tell_of_what_is_added(body: GphotoBody, simulated: tuple[str, str]) -> None:
    body.says()
    camera = body._camera
    camera.trigger_capture()

    told: dict[int, str] = {}

    def complete() -> bool:
        kind, what = camera.wait_for_event(200)
        told[kind] = getattr(what, "name", "")
        return gphoto2.GP_EVENT_CAPTURE_COMPLETE in told

    eventually(complete)
    assert told[gphoto2.GP_EVENT_FILE_ADDED] == "F00001.JPG"


@pytest.mark.parametrize(
    ("fault", "trouble"),
    [("refuse", "refused"), ("full card", "full card"), ("empty battery", "empty battery"), ("drop", "unreachable"),
     ("garble", "unreachable")],
)  # fmt: skip
def test_what_goes_wrong_over_ptp_is_told_as_what_it_is_and_then_it_goes_on(
    body: GphotoBody, simulated: tuple[str, str], fault: str, trouble: str
) -> None:
    body.fire()
    with httpx.Client(base_url=simulated[1]) as stage:
        stage.put("/fault", json={"kind": fault})
        # A battery is looked at again after two seconds: libgphoto2 keeps what it has read for so long.
        eventually(lambda: _trouble(body) == trouble or fault not in ("full card", "empty battery"), 10)
        stage.put("/fault", json={"kind": fault})
        if fault not in ("full card", "empty battery"):
            assert _trouble(body) == trouble
        stage.delete("/fault")
    assert body.fire().file


def _trouble(body: GphotoBody) -> str:
    try:
        body.fire()
    except CameraError as error:
        return error.trouble
    return ""


def test_a_body_is_switched_off_by_the_standards_own_operation_and_answers_no_more(
    body: GphotoBody, simulated: tuple[str, str]
) -> None:
    _, stage = simulated
    assert body.says().serial.startswith("SIM-") and body.serial == httpx.get(f"{stage}/status").json()["serial"]
    body.fire()
    body.switch_off()
    assert httpx.get(f"{stage}/status").json()["state"] == "off"
    with pytest.raises(CameraError) as error:
        body.says()
    assert error.value.trouble == "unreachable"
    HttpCamera(stage, 60).stand(scene(speed=600))
    assert body.says().name == "Test body"


def test_a_link_that_ends_takes_nothing_of_the_process_with_it(body: GphotoBody) -> None:
    taken = [os.open(os.devnull, os.O_RDONLY) for _ in range(20)]
    for _ in range(3):
        body.says()
        body.close()
        # libgphoto2 closes file 0 with its own; nothing else may come to stand there.
        assert os.fstat(0).st_rdev == os.stat(os.devnull).st_rdev and os.get_inheritable(0)
    for number in taken:
        os.close(number)


def test_a_second_who_wants_the_one_link_is_told_so(body: GphotoBody, simulated: tuple[str, str]) -> None:
    body.says()
    second = body_at(simulated[0])
    with pytest.raises(CameraError):
        second.says()
    body.close()
    assert second.says().name == "Test body"
    second.close()


@pytest.mark.parametrize(
    ("listed", "seconds"),
    [("1/125", 1 / 125), ("0.0080s", 0.008), ("2.5", 2.5), ('30"', 30), ("30.0000s", 30), ("bulb", None), ("", None),
     ("0", None), ("1/0", None)],
)  # fmt: skip
def test_a_shutter_is_read_however_a_body_writes_it(listed: str, seconds: float | None) -> None:
    assert seconds_of(listed) == (seconds if seconds is None else pytest.approx(seconds))


def test_a_rung_is_the_nearest_in_stops() -> None:
    assert [number_of(one) for one in ("f/2.8", "F4", "400", "Auto")] == [2.8, 4, 400, None]
    assert nearest(3.0, {"1": 1.0, "4": 4.0, "8": 8.0}) == "4" and nearest(1.9, {"1": 1.0, "4": 4.0}) == "1"
    assert stage_of("ptpip://10.0.0.2:15740") == ""


def test_gear_is_tried_from_the_command_line_and_what_is_not_there_is_said_to_be(
    simulated: tuple[str, str], stack: Stack
) -> None:
    def tried(*words: str) -> tuple[int, dict[str, dict[str, object]]]:
        done = subprocess.run(
            [REVANI, "rigs", "--json", *words], env=stack.environment, capture_output=True, text=True, timeout=60
        )
        rows = [json.loads(line) for line in done.stdout.splitlines() if line.startswith("{")]
        return done.returncode, {row["what"]: row for row in rows}

    HttpCamera(simulated[1]).stand(scene(speed=1))
    status, rows = tried(f"--camera={simulated[0]}", "--frame", "--move")
    assert (status, rows["camera"]["told"], rows["battery"]["told"]) == (0, "Test body", "100%")
    assert "F00001.JPG" in str(rows["test frame"]["told"]) and "f/8" in str(rows["dials"]["told"])
    assert rows["mover"]["went"] and all(row["went"] for what, row in rows.items() if what.endswith(", dry"))
    status, rows = tried("--camera=ptpip://127.0.0.1:9", "--mover=serial:/dev/no-such-port")
    assert status == 1 and not rows["camera"]["went"] and not rows["mover"]["went"]


@pytest.mark.parametrize(("on_card", "known"), [(0, [1]), (1, [1, 2]), (2, None)])
def test_a_file_that_turns_up_is_the_frame_of_the_number_that_was_open(
    simulated: tuple[str, str], tmp_path: Path, on_card: int, known: list[int] | None
) -> None:
    address, stage = simulated
    before = scene(speed=60)

    async def first() -> None:
        link = LinkedCamera(body_at(address), tmp_path, HttpCamera(stage), lambda: None)
        await link.stand(before)
        await link.apply(FIRST)
        assert (await link.take(1, {})).settings.iso == 800
        # Here it ends: it had just noted that it fires the second, and what became of it nobody heard.
        Notes(tmp_path / f"{before.label}.jsonl").put({"firing": 2, "by_s": before.clock.now_s()})
        link.close()

    async def second() -> list[int] | None:
        link = LinkedCamera(body_at(address), tmp_path, HttpCamera(stage), lambda: None)
        try:
            await link.stand(before)
            found = await link.taken(2)
            assert (found is not None) == (on_card == 1)
            return [one.number for one in await link.on_card()]
        except CameraError as error:
            # Two files and one number: which is which is not guessed.
            assert error.trouble == "garbled" and "nobody here has ordered" in str(error)
            return None
        finally:
            link.close()

    asyncio.run(first())
    own = body_at(address)
    for _ in range(on_card):
        own.fire()
    own.close()
    assert asyncio.run(second()) == known


def test_the_link_asks_anew_once_the_body_is_switched_off_and_claims_nothing_that_is_old(
    simulated: tuple[str, str], tmp_path: Path
) -> None:
    address, stage = simulated

    async def shoot() -> None:
        link = LinkedCamera(body_at(address), tmp_path, HttpCamera(stage), lambda: None)
        try:
            await link.stand(scene(speed=600))
            await link.apply(FIRST)
            await link.status()
            assert (await link.take(1, {})).battery_left is not None
            # As when frames have come too fast for a minute to ask anything between.
            link._said_at_s -= 120
            taken = await link.take(2, {})
            assert taken.battery_left is None and taken.card_free_bytes is None
            await link.switch_off()
            with pytest.raises(CameraError) as error:
                await link.status()
            assert error.value.trouble == "unreachable"
        finally:
            link.close()

    asyncio.run(shoot())
    HttpCamera(stage, 60).stand(scene(speed=600))


def test_an_order_of_one_who_was_taken_over_from_is_refused_by_the_link(
    simulated: tuple[str, str], tmp_path: Path
) -> None:
    link = LinkedCamera(body_at(simulated[0]), tmp_path, HttpCamera(simulated[1]), lambda: None)
    link.obey(7)
    link.obey(0)
    with pytest.raises(CameraError) as error:
        link.obey(6)
    assert error.value.trouble == "fenced"
    with pytest.raises(CameraError, match="letters, digits"):
        asyncio.run(link.on_card("../../etc/passwd"))


# Whole runs ------------------------------------------------------------------------------------------


@pytest.fixture
def linked(stack: Stack, request: pytest.FixtureRequest) -> Iterator[Stack]:
    """The runner on the simulated camera's PTP/IP, over the link, as it is on a body's; its stage is told, or not."""
    port = int(stack.environment["REVANI_PORT"])
    stage = getattr(request, "param", f"?stage={stack.camera}")
    environment = {"REVANI_CAMERA_URL": f"ptpip://127.0.0.1:{port + 4}{stage}"}
    stack.kill("runner")
    stack.start("link", **environment)
    eventually(lambda: _answers(f"http://127.0.0.1:{port + 5}/status"), 60)
    stack.start("runner", **environment)
    yield stack
    stack.kill("runner")
    stack.kill("link")
    stack.start("runner")


def _answers(address: str) -> bool:
    try:
        return httpx.get(address, timeout=5).status_code == 200
    except httpx.HTTPError:
        return False


def test_a_run_over_the_link_goes_on_where_the_link_is_ended_and_its_journal_is_the_cards(
    linked: Stack, client: httpx.Client, connection: psycopg.Connection
) -> None:
    shot = saved(client, **short(40, light=Light(aperture=2.8, shutter_s=10, iso=950, white_balance_k=4600)))
    run = arm(client, shot, 150)
    eventually(lambda: taken(client, run) >= 4)
    linked.kill("link")
    port = int(linked.environment["REVANI_PORT"])
    linked.start("link", REVANI_CAMERA_URL=f"ptpip://127.0.0.1:{port + 4}?stage={linked.camera}")
    done = until_state(client, run, "finished", "failed", "stopped")
    rows = client.get(f"/api/runs/{run['id']}/frames").json()
    assert done["state"] == "finished" and [row["number"] for row in rows] == list(range(1, 41))
    assert done["taken"] > 12 and all(row["reason"] for row in rows if row["outcome"] == "missed")
    with httpx.Client(base_url=f"http://127.0.0.1:{port + 5}") as link:
        card = {one["number"]: one for one in link.get("/frames", params={"label": run["id"]}).json()}
        journal = "SELECT number, file, (settings->>'iso')::float8 FROM journal WHERE run_id = %s AND outcome = 'taken'"
        got = connection.execute(journal, [run["id"]]).fetchall()
        assert {number: file for number, file, _ in got} == {number: one["file"] for number, one in card.items()}
        # What it cannot be set to is told, and the journal has what it was set to.
        assert any("set to 4,600 K: 5,200 K is nearest" in note for note in done["notes"])
        assert {iso for _, _, iso in got} == {1000}
        assert link.get(f"/files/{got[0][1]}").content[-2:] == b"\xff\xd9"


@pytest.mark.parametrize("linked", [""], indirect=True)
@pytest.mark.parametrize(
    ("said", "sensor"), [("it moves or I say so", "motion"), ("code card nobody or I say so", "code card")]
)
def test_a_camera_that_shows_no_picture_calls_where_it_is_to_see_what_is_waited_for(
    linked: Stack, client: httpx.Client, said: str, sensor: str
) -> None:
    # A body of no known maker: libgphoto2 has no live picture of it.
    waiting = Waiting.model_validate({"ways": parse_ways(said), "for_s": 3_600, "before_s": 10})
    run = arm(client, saved(client, name="Blind", waits=waiting, **short(3)), 1, when="now")

    def called() -> list[str]:
        alarms = client.get(f"/api/runs/{run['id']}").json()["alarms"]
        return [one["level"] for one in alarms if "shows no picture" in one["text"] and not one["over"]]

    assert eventually(called) == ["come"]
    # A sensor, or a reader, that tells of it is heard in its place.
    token = client.post("/api/sensors/token").json()["token"]
    word = [{"kind": sensor, "value": 0.001, "word": "somebody"}]
    client.post("/api/sensors", json=word, headers={"Authorization": f"Bearer {token}"}).raise_for_status()
    eventually(lambda: not called())
    client.post(f"/api/runs/{run['id']}/stop")
    until_state(client, run, "stopped")
