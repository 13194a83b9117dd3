"""Outputs really made: against OpenCV's and SciPy's own ways, by the queue, out of stills, clips and spheres."""

import csv
import hashlib
import io
from contextlib import closing
from fractions import Fraction
from pathlib import Path
from uuid import uuid4

import av
import cv2
import httpx
import numpy as np
import psycopg
import pytest
from scipy.ndimage import map_coordinates
from scipy.spatial.transform import Rotation

from revani.core.documents import Shot
from revani.core.program.compiled import compile_shot
from revani.jobs.align import NotAligned, aligned, joined, marks_of, motion_of, straightened
from revani.jobs.encode import PART_FRAMES, NotMade, encode, join
from revani.jobs.render import Recipe
from revani.jobs.resample import Picture, cut, looked
from revani.jobs.source import Clip, Stills, Unreadable, files_of
from tests.conftest import Stack, eventually, make_kit, make_shot
from tests.made import ball, crop_way, film, sphere_way
from tests.runs import arm, short, until_state


def soft(wide: int, high: int, seed: int = 1) -> Picture:
    """A picture full of soft marks."""
    noise = np.random.default_rng(seed).integers(0, 255, (high, wide, 3), dtype=np.uint8)
    return np.asarray(cv2.normalize(cv2.GaussianBlur(noise, (0, 0), 2.5), None, 0, 255, cv2.NORM_MINMAX), np.uint8)


def body(wide: int, high: int) -> dict[str, object]:
    return {"kit": make_kit(body={"pixels_wide": wide, "pixels_high": high}).model_dump()}


@pytest.mark.parametrize("zoom", [1.0, 1.3, 2.0, 3.1])
@pytest.mark.parametrize("roll", [0.0, 7.0])
def test_a_crop_is_what_opencvs_own_warp_makes_of_it(zoom: float, roll: float) -> None:
    key = {"at_s": 0, "zoom": zoom, "across": 0.48, "down": 0.53, "roll_deg": roll}
    way = crop_way(film({"pixels_wide": 800, "pixels_high": 450, "keys": [key]}, **body(1600, 900)))
    picture = soft(1600, 900)
    mine = cut(picture, way, 0, 800, 450).astype(int)
    # Theirs: turned about the middle of the crop, sized, and its middle taken out.
    at = (0.48 * 1600 - 0.5, 0.53 * 900 - 0.5)
    matrix = cv2.getRotationMatrix2D(at, roll, zoom / 2)
    matrix[:, 2] += np.array([399.5, 224.5]) - at
    theirs = cv2.warpAffine(picture, matrix, (800, 450), flags=cv2.INTER_AREA if zoom < 2 else cv2.INTER_CUBIC)
    inside = (slice(12, -12), slice(12, -12))
    assert np.abs(mine - theirs)[inside].mean() < (1.0 if zoom >= 2 else 5.0)
    shift, _ = cv2.phaseCorrelate(mine[..., 0][inside].astype(np.float64), theirs[..., 0][inside].astype(np.float64))
    assert np.hypot(*shift) < 0.05


def test_a_smaller_source_is_cut_at_the_same_places() -> None:
    key = {"at_s": 0, "zoom": 1.5, "across": 0.4, "down": 0.55}
    way = crop_way(film({"pixels_wide": 800, "pixels_high": 450, "keys": [key]}, **body(3200, 1800)))
    large = np.asarray(cv2.resize(soft(800, 450), (3200, 1800), interpolation=cv2.INTER_CUBIC), np.uint8)
    small = np.asarray(cv2.resize(large, (1600, 900), interpolation=cv2.INTER_AREA), np.uint8)
    a, b = (cut(one, way, 0, 800, 450)[..., 0].astype(np.float64) for one in (large, small))
    shift, _ = cv2.phaseCorrelate(a, b)
    assert np.hypot(*shift) < 0.05


@pytest.mark.parametrize(
    ("yaw", "pitch", "roll", "curve"), [(0, 0, 0, 0), (70, -20, 15, 0), (-150, 40, 0, 0.5), (0, -90, 30, 1)]
)
def test_a_picture_out_of_a_sphere_is_what_scipy_makes_of_it(
    yaw: float, pitch: float, roll: float, curve: float
) -> None:
    key = {"at_s": 0, "yaw_deg": yaw, "pitch_deg": pitch, "roll_deg": roll, "view_deg": 100, "curve": curve}
    way = sphere_way(ball({"pixels_wide": 320, "pixels_high": 180, "sphere": [key]},
                          framing={"heading_deg": 0, "tilt_deg": 0}))  # fmt: skip
    high, wide = 400, 800
    lon, lat = np.meshgrid(
        (np.arange(wide) + 0.5) / wide * 2 * np.pi - np.pi, np.pi / 2 - (np.arange(high) + 0.5) / high * np.pi
    )
    # A sphere whose value is smooth all round.
    value = 127 + 60 * np.sin(lon) * np.cos(lat) + 50 * np.sin(lat)
    sphere = np.repeat(np.rint(value)[..., None], 3, axis=-1).astype(np.uint8)
    mine = looked(sphere, way, 0, 320, 180)[..., 0].astype(float)
    # Their way: angles from the axis by bisection of the projection, turned by rotations.
    edge = (1 + curve) * np.sin(np.radians(50)) / (curve + np.cos(np.radians(50)))
    x, y = np.meshgrid((np.arange(320) + 0.5 - 160) / 160 * edge, (90 - np.arange(180) - 0.5) / 160 * edge)
    out, table = np.hypot(x, y), np.linspace(0, np.radians(89), 20_000)
    angle = np.interp(out, (1 + curve) * np.sin(table) / (curve + np.cos(table)), table)
    away = np.stack([x / out * np.sin(angle), y / out * np.sin(angle), np.cos(angle)], axis=-1)
    seen = (
        Rotation.from_euler("YXZ", [yaw, -pitch, -roll], degrees=True).apply(away.reshape(-1, 3)).reshape(180, 320, 3)
    )
    expected = 127 + 60 * seen[..., 0] + 50 * seen[..., 1]
    assert np.abs(mine - expected).max() < 1.6
    rows = (0.5 - np.arcsin(seen[..., 1]) / np.pi) * high - 0.5
    columns = (0.5 + np.arctan2(seen[..., 0], seen[..., 2]) / (2 * np.pi)) * wide - 0.5
    theirs = map_coordinates(sphere[..., 0].astype(float), [rows, columns], order=1, mode="grid-wrap")
    assert np.abs(mine - theirs).mean() < 0.6


@pytest.mark.parametrize(("right", "down", "roll"), [(4.3, -2.7, 0.0), (0.4, 0.2, 0.35), (-21.6, 13.2, 1.4)])
def test_stills_off_by_a_known_shift_and_roll_are_measured_and_brought_back(
    right: float, down: float, roll: float
) -> None:
    large = soft(1400, 1000, seed=4)
    about = (699.5, 499.5)
    matrix = cv2.getRotationMatrix2D(about, -roll, 1.0)
    matrix[:, 2] += [right, down]
    crop = (slice(100, 900), slice(100, 1300))
    first = large[crop]
    second = np.asarray(cv2.warpAffine(large, matrix, (1400, 1000), flags=cv2.INTER_CUBIC), np.uint8)[crop]
    marks = marks_of(first, 0.5, 0.5)
    found = aligned(marks_of(second, 0.5, 0.5), marks, (599.5, 399.5))
    assert (found.right_px, found.down_px) == pytest.approx((right, down), abs=0.1)
    assert found.roll_deg == pytest.approx(roll, abs=0.02) and found.scale == pytest.approx(1, abs=1e-3)
    assert found.left_px < 0.3
    back = straightened(second, found)
    again = aligned(marks_of(back, 0.5, 0.5), marks, (599.5, 399.5))
    assert np.hypot(again.right_px, again.down_px) <= 0.3 and abs(again.roll_deg) <= 0.02
    # A third, off the second as that is off the first, comes back by way of its neighbour.
    assert np.array(joined(found, found).matrix) == pytest.approx(
        (np.vstack([found.matrix, [0, 0, 1]]) @ np.vstack([found.matrix, [0, 0, 1]]))[:2]
    )


def test_stills_that_have_nothing_in_common_are_not_forced_onto_each_other() -> None:
    with pytest.raises(NotAligned):
        aligned(marks_of(soft(640, 480, 1), 0.5, 0.5), marks_of(soft(640, 480, 2), 0.5, 0.5), (320, 240))
    with pytest.raises(NotAligned):
        flat = np.full((480, 640, 3), 90, np.uint8)
        aligned(marks_of(flat, 0.5, 0.5), marks_of(flat, 0.5, 0.5), (320, 240))


def test_the_unrest_of_a_clip_is_measured() -> None:
    large = soft(900, 700, seed=6)
    shifts = [(0.0, 0.0), (3.0, 1.0), (-2.0, 4.0), (6.0, -3.0)]
    pictures = [
        np.asarray(cv2.warpAffine(large, np.array([[1, 0, x], [0, 1, y]]), (900, 700), flags=cv2.INTER_CUBIC), np.uint8)
        for x, y in shifts
    ]  # fmt: skip
    found = motion_of([one[50:650, 50:850] for one in pictures])
    assert found[:, :2] * 800 == pytest.approx(np.array(shifts), abs=0.1) and np.abs(found[:, 2]).max() < 0.02


def hashes(path: Path) -> list[str]:
    with av.open(str(path)) as opened:
        return [hashlib.sha256(one.to_ndarray().tobytes()).hexdigest() for one in opened.decode(video=0)]


def stills_in(folder: Path, count: int) -> list[Picture]:
    """Stills of a light that goes from left to right."""
    folder.mkdir(parents=True, exist_ok=True)
    made = []
    for i in range(count):
        picture = np.full((360, 640, 3), 20, np.uint8)
        cv2.circle(picture, (20 + i * 580 // max(count - 1, 1), 180), 12, (240, 250, 255), -1)
        cv2.imwrite(str(folder / f"{i:05d}.png"), picture)
        made.append(picture)
    return made


def recipe(shot: Shot) -> Recipe:
    program = compile_shot(shot)
    return Recipe(program, shot.outputs[0], tuple(range(program.frame_count)), {})


@pytest.mark.parametrize("becomes", ["a film", "a blended film", "a comet film"])
def test_a_film_made_in_parts_is_the_whole_frame_by_frame(tmp_path: Path, becomes: str) -> None:
    stills_in(tmp_path / "in", PART_FRAMES + 70)
    shot = film({"pixels_wide": 320, "pixels_high": 180, "becomes": becomes, "frames": 12, "shake_part": 0.01,
                 "keys": [{"at_s": 0, "zoom": 1.1}, {"at_s": 8, "zoom": 1.6}]}, **body(640, 360),
                timing={"fps": 30, "interval_s": 4, "playback_s": 9})  # fmt: skip
    made = recipe(shot)
    source = Stills(dict(enumerate(sorted((tmp_path / "in").iterdir()))))
    wanted = made.film_frames()
    encode(made.frames(source, wanted), Fraction(30), tmp_path / "whole.mp4")
    parts = []
    for first in range(0, len(wanted), PART_FRAMES):
        parts.append(tmp_path / f"{first}.mp4")
        encode(made.frames(source, wanted[first : first + PART_FRAMES]), Fraction(30), parts[-1])
    join(parts, Fraction(30), tmp_path / "joined.mp4")
    assert len(parts) == 2 and hashes(tmp_path / "joined.mp4") == hashes(tmp_path / "whole.mp4")
    with av.open(str(tmp_path / "joined.mp4")) as opened:
        assert opened.streams.video[0].average_rate == 30


def test_trails_comets_and_blends_are_what_they_are_said_to_be(tmp_path: Path) -> None:
    pictures = stills_in(tmp_path / "in", 30)
    source = Stills(dict(enumerate(sorted((tmp_path / "in").iterdir()))))

    def made(becomes: str, frames: int = 1) -> Recipe:
        return recipe(film({"pixels_wide": 640, "pixels_high": 360, "becomes": becomes, "frames": frames},
                           **body(640, 360), timing={"fps": 30, "interval_s": 4, "playback_s": 1}))  # fmt: skip

    trail = made("a trail picture")
    assert np.array_equal(trail.brightest(source, trail.film_frames(), lambda _: None), np.max(pictures, axis=0))
    comet = list(made("a comet film", 10).frames(source, made("a comet film", 10).film_frames()))
    # Ten frames ago is gone; five ago has half of white left.
    x = [20 + i * 580 // 29 for i in range(30)]
    assert comet[20][180, x[20]].max() == 255 and comet[20][180, x[9]].max() == 20
    assert int(comet[20][180, x[15]].max()) == pytest.approx(255 - 5 * 25.5, abs=2)
    blend = made("a blended film", 4)
    mixed = next(iter(blend.frames(source, [10]))).astype(int)
    assert np.abs(mixed - np.mean(pictures[10:14], axis=0)).max() <= 1


def test_a_clip_is_read_at_moments_forwards_and_back(tmp_path: Path) -> None:
    pictures = stills_in(tmp_path / "in", 60)
    encode(pictures, Fraction(10), tmp_path / "clip.mp4")
    clip = Clip(tmp_path / "clip.mp4")
    for at in (0, 3, 3, 59, 12, 40, 5):
        seen = clip.picture(0, at / 10 + 0.02)
        assert np.abs(seen.astype(int) - pictures[at]).mean() < 3, at
    clip.close()


def test_what_cannot_be_read_is_refused_by_name(tmp_path: Path) -> None:
    (tmp_path / "in").mkdir()
    with pytest.raises(Unreadable, match="neither stills nor a film"):
        files_of(tmp_path / "in")
    (tmp_path / "in" / "walk.mp4").write_text("no film")
    with pytest.raises(Unreadable, match=r"walk\.mp4 cannot be read"):
        Clip(files_of(tmp_path / "in")[0])
    (tmp_path / "in" / "a.jpg").write_text("no picture")
    with pytest.raises(Unreadable, match=r"a\.jpg cannot be read"):
        Stills({0: files_of(tmp_path / "in")[0]}).picture(0, 0.0)
    with pytest.raises(NotMade, match="no frames"):
        encode([], Fraction(30), tmp_path / "none.mp4")
    assert not list(tmp_path.glob("none*"))


# By the queue, with a rig, a database, and workers.


def ended(client: httpx.Client, run: dict, id: str) -> dict:  # type: ignore[type-arg]
    def found() -> dict | None:  # type: ignore[type-arg]
        each = client.get(f"/api/runs/{run['id']}/films").json()
        film = next(one for one in each if one["id"] == id)
        return film if film["state"] in ("finished", "failed", "cancelled") else None

    return eventually(found)


def ordered(client: httpx.Client, run: dict, **ask: object) -> dict:  # type: ignore[type-arg]
    answer = client.post(f"/api/runs/{run['id']}/films", json=ask)
    assert answer.status_code == 201, answer.text
    return ended(client, run, answer.json()["id"])


OUTPUTS = [
    {"name": "Wide", "pixels_wide": 480, "pixels_high": 270, "keys": [{"at_s": 0}, {"at_s": 1, "zoom": 1.4}]},
    {"name": "Upright", "pixels_wide": 270, "pixels_high": 480, "becomes": "a blended film", "frames": 3},
    {"name": "Trail", "pixels_wide": 480, "pixels_high": 480, "becomes": "a trail picture"},
    {"name": "One", "pixels_wide": 640, "pixels_high": 360, "becomes": "a still", "keys": [{"at_s": 0.5, "zoom": 2}]},
    {"name": "Many", "pixels_wide": 640, "pixels_high": 360, "fps": 240},
]


@pytest.fixture(scope="module")
def run(client: httpx.Client) -> dict:  # type: ignore[type-arg]
    shot = make_shot(**short(40), outputs=OUTPUTS)
    assert client.post("/api/shots", json=shot.model_dump(mode="json")).status_code == 201
    done = until_state(client, arm(client, shot), "finished", "stopped", "failed")
    assert done["state"] == "finished"
    return done


def test_every_output_of_a_run_is_made_in_its_shape(client: httpx.Client, stack: Stack, run: dict) -> None:  # type: ignore[type-arg]
    assert client.get(f"/api/runs/{run['id']}/to-make").json() == [one["name"] for one in OUTPUTS]
    for i, output in enumerate(OUTPUTS[:4]):
        made = ordered(client, run, output=i)
        assert made["state"] == "finished" and made["name"] == output["name"], made
        answer = client.get(f"/api/films/{made['id']}/file?download=true")
        assert output["name"] in answer.headers["content-disposition"]
        if made["picture"]:
            picture = cv2.imdecode(np.frombuffer(answer.content, np.uint8), cv2.IMREAD_COLOR)
            assert picture.shape[:2] == (output["pixels_high"], output["pixels_wide"])
            continue
        path = stack.folder / "runs" / run["id"] / f"{made['id']}.mp4"
        with av.open(str(path)) as opened:
            video = opened.streams.video[0]
            assert (video.width, video.height) == (output["pixels_wide"], output["pixels_high"])
            assert video.average_rate == 30 and sum(1 for _ in opened.decode(video=0)) == run["taken"]
    assert not list((stack.folder / "runs" / run["id"]).glob("*.part*"))


def test_an_output_is_made_of_a_folder_of_ones_own(client: httpx.Client, stack: Stack, run: dict) -> None:  # type: ignore[type-arg]
    stills_in(stack.folder / "own" / "From my card", 40)
    assert "From my card" in client.get("/api/own").json()
    made = ordered(client, run, output=0, own="From my card")
    assert made["state"] == "finished" and "40 frames" in made["summary"]
    seen = Clip(stack.folder / "runs" / run["id"] / f"{made['id']}.mp4")
    # The light stands at the left of the first frame, wherever the frames of the run are.
    assert seen.picture(0, 0.0)[135, 15].max() > 200
    assert client.post(f"/api/runs/{run['id']}/films", json={"own": "../runs"}).status_code == 422
    (stack.folder / "own" / "Broken").mkdir()
    (stack.folder / "own" / "Broken" / "walk.mp4").write_text("no film")
    broken = ordered(client, run, output=0, own="Broken")
    assert broken["state"] == "failed" and "walk.mp4 cannot be read" in broken["reason"]
    folder = stack.folder / "runs" / run["id"]
    assert not list(folder.glob(f"{broken['id']}*"))


def test_stills_of_a_walk_are_brought_together_and_it_is_told_how_far_they_were_off(
    client: httpx.Client,
    stack: Stack,
) -> None:
    walk = {"points": [{"x_mm": 0, "y_mm": 0}, {"x_mm": 0, "y_mm": 30_000}], "way": "stills by stations"}
    shot = film({"name": "Walk", "pixels_wide": 320, "pixels_high": 180}, walk=walk, **body(800, 450),
                timing={"fps": 30, "interval_s": 30, "frame_count": 6}, fires="linked")  # fmt: skip
    assert client.post("/api/shots", json=shot.model_dump(mode="json")).status_code == 201
    run = until_state(client, arm(client, shot, speed=120), "finished", "stopped", "failed")
    folder = stack.folder / "own" / "Stations"
    folder.mkdir(parents=True)
    large, rng = soft(1000, 650, seed=12), np.random.default_rng(3)
    for i in range(6):
        matrix = cv2.getRotationMatrix2D((499.5, 324.5), float(rng.uniform(-1, 1)), 1.0)
        matrix[:, 2] += rng.uniform(-15, 15, 2)
        still = cv2.warpAffine(large, matrix, (1000, 650), flags=cv2.INTER_CUBIC)[100:550, 100:900]
        cv2.imwrite(str(folder / f"{i:03d}.png"), still)
    made = ordered(client, run, output=0, own="Stations")
    assert made["state"] == "finished" and "5 stills aligned" in made["aligned"], made
    rows = list(csv.DictReader(io.StringIO(client.get(f"/api/films/{made['id']}/aligned").text)))
    assert [int(row["number"]) for row in rows] == [2, 3, 4, 5, 6]
    assert max(float(row["left_px"]) for row in rows) < 0.3 and max(abs(float(row["roll_deg"])) for row in rows) > 0.2
    with closing(Clip(stack.folder / "runs" / run["id"] / f"{made['id']}.mp4")) as clip:
        frames = [clip.picture(0, (i + 0.5) / 30)[30:-30, 40:-40, 0].astype(np.float64) for i in range(6)]
    shifts = [np.hypot(*cv2.phaseCorrelate(frames[0], one)[0]) for one in frames[1:]]
    # In the film, four tenths as large, they lie on one another.
    assert max(shifts) < 0.2
    assert client.get(f"/api/films/{uuid4()}/aligned").status_code == 404


def test_a_shake_is_measured_of_a_clip_held_by_hand(client: httpx.Client, stack: Stack) -> None:
    folder = stack.folder / "own" / "By hand"
    folder.mkdir(parents=True)
    large, shaken = soft(900, 700, seed=9), 6 * np.sin(np.arange(45) * 0.9)
    pictures = [
        np.asarray(cv2.warpAffine(large, np.array([[1, 0, x], [0, 1, 0]]), (900, 700)), np.uint8)[50:650, 50:850]
        for x in shaken
    ]  # fmt: skip
    encode(pictures, Fraction(30), folder / "clip.mp4")
    shot = film({"name": "Film"}).model_dump(mode="json")
    answer = client.post("/api/shakes", json={"shot": shot, "own": "By hand"})
    assert answer.status_code == 200, answer.text
    output = answer.json()["outputs"][0]
    # 6 px of 800 to either side, and no roll.
    assert output["shake_part"] == pytest.approx(6 / 800, rel=0.15) and output["shake_roll_deg"] < 0.1
    way = crop_way(Shot.model_validate(answer.json()))
    assert float(np.abs(way.across - 0.5).max()) == pytest.approx(6 / 800, rel=0.2)
    refused = client.post("/api/shakes", json={"shot": shot, "own": "Nowhere"})
    assert refused.status_code == 422 and "By hand" in refused.text


def test_a_worker_that_dies_in_the_middle_of_a_film_of_parts_costs_no_more_than_a_part(
    client: httpx.Client,
    stack: Stack,
    run: dict,  # type: ignore[type-arg]
    connection: psycopg.Connection,  # type: ignore[type-arg]
) -> None:
    id = client.post(f"/api/runs/{run['id']}/films", json={"output": 4}).json()["id"]

    def parts() -> list[tuple[int, bool]]:
        return connection.execute(
            "SELECT count, finished FROM film_part WHERE film_id = %s ORDER BY number", [id]
        ).fetchall()

    eventually(lambda: parts() or None)
    stack.kill("worker")
    before = parts()
    stack.start("worker")
    made = ended(client, run, id)
    assert made["state"] == "finished", made["reason"]
    count = sum(one for one, _ in parts())
    assert next(one for one, _ in parts()) == PART_FRAMES and len(parts()) > 1
    # What was finished is not begun anew, and all is there once.
    assert [done for _, done in parts()] == [True] * len(before)
    assert len(hashes(stack.folder / "runs" / run["id"] / f"{id}.mp4")) == count


def test_what_cannot_be_made_is_refused_and_what_is_given_up_leaves_nothing(
    client: httpx.Client,
    stack: Stack,
    run: dict,  # type: ignore[type-arg]
) -> None:
    refused = client.post(f"/api/runs/{run['id']}/films", json={"output": 9})
    assert refused.status_code == 422 and "From 0 to 4." in refused.text
    answer = client.post(f"/api/runs/{run['id']}/films", json={"output": 0}).json()
    client.post(f"/api/films/{answer['id']}/cancel")
    done = ended(client, run, answer["id"])
    if done["state"] == "cancelled":
        eventually(lambda: not list((stack.folder / "runs" / run["id"]).glob(f"{answer['id']}*")))


def test_a_walk_round_is_filmed_as_a_sphere_and_looked_about_in_afterwards(client: httpx.Client, stack: Stack) -> None:
    walk = {"points": [{"x_mm": 0, "y_mm": 0}, {"x_mm": 0, "y_mm": 12_000}], "factor": 4}
    sphere = [{"at_s": 0, "yaw_deg": 30, "view_deg": 90}, {"at_s": 4, "yaw_deg": -30, "view_deg": 90}]
    shot = ball(
        {"name": "Look about", "pixels_wide": 320, "pixels_high": 180, "sphere": sphere},
        walk=walk, fires="linked", timing={"fps": 30, "interval_s": "1/30", "event_s": 10},
        light={"school": "automatic", "aperture": 2.8, "iso_ceiling": 400},
        move={"kind": "live", "things": [{"name": "Kiln", "x_mm": 3_000, "y_mm": 6_000, "height_mm": 3_000}]},
    )  # fmt: skip
    document = shot.model_dump(mode="json")
    document["kit"]["body"]["modes"][0]["makes"] = "film"
    assert client.post("/api/shots", json=document).status_code == 201
    run = until_state(client, arm(client, Shot.model_validate(document), speed=4), "finished", "stopped", "failed")
    assert run["state"] == "finished", run["reason"]
    made = ordered(client, run, output=0)
    assert made["state"] == "finished", made["reason"]
    with closing(Clip(stack.folder / "runs" / run["id"] / f"{made['id']}.mp4")) as clip:
        assert clip.picture(0, 0.0).shape == (180, 320, 3)
        # Ten seconds, sped up four times between two that play as they were.
        assert clip.duration_s == pytest.approx(2 + 8 / 4, abs=0.1)
