"""A walk: its film against the handbook's figures, its path, what is judged of it, GPX out and in."""

import csv
import io
import xml.etree.ElementTree as ET
from datetime import date, datetime
from fractions import Fraction
from itertools import pairwise
from uuid import uuid4

import numpy as np
import pytest
from geographiclib.geodesic import Geodesic
from hypothesis import given
from hypothesis import strategies as st
from pydantic import ValidationError

from revani.core.documents import PathPoint, Shot, ShotSequence, Walk
from revani.core.edit.apply import Edit, apply
from revani.core.edit.fitting import compile_fitted
from revani.core.edit.walking import WalkEdit, with_points
from revani.core.findings import judge
from revani.core.findings.finding import Finding
from revani.core.program.compiled import compile_shot
from revani.core.quantities.refusal import Refusal
from revani.core.reframe.crop import hand_zoom
from revani.core.sequence.film import Kept, laid
from revani.core.shown.loom import lanes
from revani.core.shown.sentence import sentence
from revani.core.shown.walk_table import walk_table
from revani.core.walk.film import film_times_s
from revani.core.walk.path import Leg, cut, points_of, stretched, track_of
from revani.exports.stations_csv import stations_csv
from revani.exports.walk_gpx import walk_gpx, walked_along
from revani.jobs.sample import sample_shots
from tests.conftest import make_kit, make_shot

NAME = "{http://www.topografix.com/GPX/1/1}"


def edited(shot: Shot, **texts: str) -> Shot:
    for field, text in texts.items():
        shot = apply(shot, Edit(field=field.replace("__", "."), text=text))
    return shot


def walking(**texts: str) -> Shot:
    """A walk by day, 144 m straight ahead at 1.2 m/s, on an automatic camera."""
    light = {"school": "automatic", "aperture": 2.8, "iso_ceiling": 3200, "scene": "ground"}
    shot = make_shot(id=uuid4(), start={"by": "clock", "time": "12:00"}, light=light)
    return edited(shot, made="a walk", **texts)


def words(shot: Shot) -> str:
    return "".join(word.text + ("=" if word.state == "solved" else "") for word in sentence(shot)[0])


def told(shot: Shot, id: str) -> Finding | None:
    return next((one for one in judge(compile_shot(shot)) if one.id == id), None)


def on_path(shot: Shot, *points: tuple[float, float]) -> Shot:
    return with_points(shot, tuple(PathPoint(x_mm=x * 1000, y_mm=y * 1000) for x, y in points))


def test_the_walks_of_the_handbook() -> None:
    """Handbook 6 (common practice): 120 s at 16 × with 1 s each end 9.375 s; 60 s at 8 × 9.25 s; and so on."""
    walk = walking()
    assert "Walk 144 m at 1.2 m/s, so 2 min=; 16 × with 1 s" in words(walk) and "so 9.375 s= at" in words(walk)
    assert compile_shot(walk).film_length_s == Fraction("9.375")
    assert compile_shot(edited(walk, walk__walk_s="60 s", walk__factor="8")).film_length_s == Fraction("9.25")
    plain = edited(walk, walk__head_s="0", walk__tail_s="0", walk__walk_s="60 s", walk__factor="4")
    assert compile_shot(plain).film_length_s == 15
    long = edited(walk, walk__tail_s="0", walk__walk_s="300 s", walk__factor="32")
    assert float(compile_shot(long).film_length_s) == pytest.approx(10.34, abs=0.005)
    asked = apply(edited(walk, walk__factor="16"), Edit(field="walk.length_m", free=True))
    wanted = edited(asked, walk__film_s="10 s")
    assert "Walk 156 m= at 1.2 m/s, so 2 min 10 s=" in words(wanted)


def test_one_of_length_factor_and_film_is_free() -> None:
    walk = edited(walking(), walk__film_s="16.75 s")
    assert "; 8 ×= with" in words(walk) and "so 16.75 s at" in words(walk)
    assert "; 4 ×= with" in words(edited(walk, walk__walk_s="61 s"))
    back = edited(walk, walk__factor="16")
    assert "; 16 × with" in words(back) and "so 9.375 s= at" in words(back)
    # The pace is another: the same path takes longer.
    assert "Walk 144 m at 1 m/s, so 2 min 24 s=" in words(edited(back, walk__pace_m_s="1 m/s"))
    with pytest.raises(Refusal) as refused:
        edited(walk, walk__film_s="150 s")
    assert refused.value.path == "walk.film_s"
    for field, text in {"walk__factor": "0.5", "walk__head_s": "3 min", "walk__length_m": "0 m", "walk__aim": "the sea",
                        "walk__pace_m_s": "none"}.items():  # fmt: skip
        with pytest.raises(Refusal) as refused:
            edited(walk, **{field: text})
        assert refused.value.path == field.replace("__", ".")


@given(
    st.floats(10, 3_000), st.floats(1, 200), st.floats(0, 4), st.floats(0, 4),
    st.lists(st.floats(0, 1), min_size=2, max_size=6),
)  # fmt: skip
def test_film_times_go_on_and_end_with_the_film(
    whole: float, factor: float, head: float, tail: float, parts: list[float]
) -> None:
    at = np.sort(np.array(parts)) * whole
    film = film_times_s(np.concatenate([[0.0], at, [whole]]), whole, factor, head, tail)
    ends = min(head + tail, whole)
    assert (np.diff(film) >= -1e-9).all() and film[0] == 0
    assert film[-1] == pytest.approx(ends + (whole - ends) / factor)


def test_the_weave_shows_the_sections() -> None:
    program = compile_shot(walking())
    one_s = int(np.searchsorted(program.t_s, 1.0))
    assert program.film_s[one_s] == pytest.approx(1.0, abs=0.04)
    assert program.film_s[program.frame_count // 2] == pytest.approx(9.375 / 2, abs=0.05)
    drawn = lanes(program)
    assert drawn.film_s == 9.375 and drawn.film[-1].to_s == pytest.approx(9.375)
    assert drawn.stands.startswith("Walked: 144 m")


@given(st.lists(st.tuples(st.floats(0, 360), st.floats(0.5, 200)), min_size=1, max_size=6), st.floats(0.5, 500))
def test_a_path_is_as_long_as_its_legs_and_is_stretched_and_cut(legs: list[tuple[float, float]], wanted: float) -> None:
    points = points_of([Leg(*leg) for leg in legs], PathPoint(x_mm=0, y_mm=0))
    track = track_of(points)
    assert track.length_m == pytest.approx(sum(length for _, length in legs), abs=0.002 * len(legs))
    for (bearing, _), leg in zip(legs, track.legs, strict=True):
        assert (leg.bearing_deg - bearing + 180) % 360 - 180 == pytest.approx(0, abs=0.05)
    assert track_of(stretched(points, wanted)).length_m == pytest.approx(wanted, abs=0.002 * len(legs))
    assert track_of(cut(points, wanted)).length_m == pytest.approx(wanted, abs=0.02 + 0.002 * len(legs))
    assert track.place_mm(1e9).tolist() == track.points_mm[-1].tolist()


def test_what_it_looks_at_stands_where_it_is_kept_all_the_way() -> None:
    kit = make_kit(body={"modes": [{"name": "Film", "makes": "film", "projection": "equidistant", "pixels_wide": 4000,
                                    "pixels_high": 2250, "raw": False}]})  # fmt: skip
    things = [{"name": "Shed", "x_mm": 20_000, "y_mm": 160_000, "base_mm": -1_000, "height_mm": 5_000}]
    for shot in (walking(), walking().model_copy(update={"kit": kit, "mode": "Film"})):
        aimed = on_path(shot.with_move(things=things), (0, 0), (10, 30), (-5, 60))
        aimed = edited(aimed, walk__aim="Shed", walk__across="62 %", walk__down="40 %")
        program = compile_shot(aimed)
        x, y, depth = program.pose(program.t_s).sees(program.shot, [20_000, 160_000, 1_500])
        assert x == pytest.approx(0.62, abs=0.005) and y == pytest.approx(0.4, abs=0.005) and (depth > 0).all()


def test_a_walk_that_fails_says_why_and_each_fix_mends_it() -> None:
    short = walking(walk__walk_s="40 s")
    found = told(short, "walk.too-short")
    assert found and [fix.id for fix in found.fixes] == ["further", "slower"]
    assert all(told(fix.shot, "walk.too-short") is None for fix in found.fixes)
    assert told(walking(), "walk.too-short") is None
    bent = on_path(walking(), (0, 0), (0, 60), (60, 60), (60, 120))
    aimless = told(bent, "walk.no-aim")
    assert aimless and aimless.fixes == ()
    shed = [{"name": "Shed", "x_mm": 200_000, "y_mm": 500_000}]
    aimed = told(bent.with_move(things=shed), "walk.no-aim")
    assert aimed and told(aimed.fixes[0].shot, "walk.no-aim") is None
    swings = told(bent, "walk.swings")
    assert swings and swings.severity == "fix" and "turns by 90°" in swings.figures
    calm = told(on_path(walking(), (0, 0), (0, 60), (4, 120)), "walk.swings")
    assert calm is None
    assert told(edited(walking(), **{"light.school": "hold the exposure"}), "walk.light-changes") is None


def test_an_aim_behind_a_thing_is_told_of_and_seen_from_beside() -> None:
    things = [
        {"name": "Shed", "x_mm": 0, "y_mm": 200_000, "height_mm": 5_000},
        {"name": "Rack", "role": "foreground", "x_mm": 0, "y_mm": 170_000, "width_mm": 3_000, "height_mm": 2_600},
    ]
    shot = edited(walking().with_move(things=things), walk__aim="Shed")
    lost = told(shot, "walk.aim-lost")
    assert lost and "behind Rack for 144 m" in lost.sentence
    beside = lost.fixes[0]
    assert beside.id == "walk-beside" and told(beside.shot, "walk.aim-lost") is None
    # A rack that is lower than the line of sight hides nothing.
    low = [things[0], things[1] | {"height_mm": 600}]
    assert told(shot.with_move(things=low), "walk.aim-lost") is None
    table = walk_table(compile_shot(shot), 1)
    assert [one.label for one in table.lost] == ["behind Rack, 0 – 144 m"]


def test_stopping_sooner_ends_the_path_at_the_same_pace() -> None:
    kit = make_kit(body={"battery_wh": 0.1, "film_w": 3})
    shot = walking().model_copy(update={"kit": kit})
    found = told(shot, "feed.battery-short")
    assert found
    sooner = next(fix.shot for fix in found.fixes if fix.id == "stop-sooner")
    program = compile_shot(sooner)
    assert program.carried and program.carried.track.length_m < 144
    assert program.carried.pace_m_s == pytest.approx(1.2, rel=0.01)


def test_hands_cost_what_the_handbook_says() -> None:
    """Handbook 6: 24 mm on 36 mm, 6,000 px wide, 1° off 69.8 px each side; a roll of 1° on 16:9 wants 1.031."""
    focal_px = 24 / 36 * 6000
    assert hand_zoom(focal_px, 6000, 3375, 0, 1) == pytest.approx(1.031, abs=0.0005)
    assert hand_zoom(focal_px, 6000, 6000, 1, 0) == pytest.approx(1 / (1 - 2 * 69.82 / 6000), abs=1e-5)
    assert hand_zoom(focal_px, 6000, 4000, 45, 0) == float("inf")


def test_stations_are_stills_with_a_pause_and_a_way() -> None:
    shot = edited(walking(), walk__way="stills by stations", walk__stations="120")
    assert shot.fires == "by hand" and not shot.live
    program = compile_shot(shot)
    # Each station owns a step of 1.2 m, walked in 1 s, and its pause: shutter, storing, settling.
    assert program.frame_count == 120 and program.carried
    pause = float(shot.light.shutter_s + shot.body.overhead_s) + 1.5
    assert float(program.timing.interval_s) == pytest.approx(pause + 1.0, abs=float(shot.body.controller_tick_s) + 1e-9)
    assert told(shot, "walk.no-time") is None
    hurried = told(edited(shot, **{"timing.interval_s": "1.5 s"}), "walk.no-time")
    assert hurried and told(hurried.fixes[0].shot, "walk.no-time") is None
    rows = walk_table(program, 1).stations
    assert rows[0].along == "0 m" and rows[-1].number == 120
    assert rows[0].pause.endswith(" s") and walk_table(compile_shot(walking()), 1).stations[0].pause == ""
    table = list(csv.DictReader(io.StringIO(stations_csv(program))))
    assert len(table) == 120 and float(table[1]["along_m"]) == pytest.approx(1.2, abs=1e-3)
    film = edited(shot, walk__way="filmed and sped up")
    assert film.live and "Walk 144 m" in words(film)
    lapse = edited(film, made="a lapse")
    assert lapse.walk is None and not lapse.live and compile_shot(lapse).carried is None


def test_legs_are_typed_and_points_put_added_and_taken_out() -> None:
    shot = edited(walking(), **{"walk.legs.0.bearing": "300°", "walk.legs.0.length": "50 m"})
    assert shot.walk and track_of(shot.walk.points).length_m == pytest.approx(50, abs=0.01)
    longer = apply(shot, WalkEdit(do="add", x_mm=0, y_mm=90_000))
    moved = apply(longer, WalkEdit(do="put", index=1, x_mm=0, y_mm=40_000))
    assert moved.walk and [one.y_mm for one in moved.walk.points] == [0, 40_000, 90_000]
    assert float(compile_shot(moved).timing.event_s) == pytest.approx(75)
    fewer = apply(moved, WalkEdit(do="take out", index=1))
    assert fewer.walk and len(fewer.walk.points) == 2
    for edit in (WalkEdit(do="take out", index=1), WalkEdit(do="put", index=1), WalkEdit(do="put", index=7)):
        with pytest.raises(Refusal) as refused:
            apply(fewer, edit)
        assert refused.value.path == "walk.points"


@pytest.mark.parametrize(
    "points", [[{"x_mm": 0, "y_mm": 0}], [{"x_mm": 0, "y_mm": 0}, {"x_mm": 3, "y_mm": 4}], []]
)  # fmt: skip
def test_a_path_without_a_way_is_refused(points: list[dict[str, float]]) -> None:
    with pytest.raises(ValidationError):
        Walk.model_validate({"points": points})


def test_a_walk_with_keys_or_without_its_thing_is_refused_at_its_field() -> None:
    shot = walking()
    key = {"at": {"by": "after", "after_s": 0}, "positions": {"slide": 1}}
    with pytest.raises(Refusal) as refused:
        compile_shot(shot.with_move(keys=[key]))
    assert refused.value.path == "move.keys"
    with pytest.raises(Refusal) as refused:
        compile_shot(shot.with_walk(towards="a thing", thing="Gone"))
    assert refused.value.path == "walk.thing"


def test_what_a_walk_is_made_of_may_go_and_is_followed() -> None:
    things = [{"name": "Shed", "x_mm": 0, "y_mm": 200_000}]
    shot = edited(walking().with_move(things=things), walk__aim="Shed")
    named = edited(shot, **{"move.things.0.name": "Barn"})
    assert named.walk and named.walk.thing == "Barn" and compile_shot(named)
    gone = compile_fitted(shot.with_move(things=[]))
    assert gone.shot.walk and gone.shot.walk.towards == "the way ahead" and gone.misfits[0].path == "walk.thing"
    for field, text in {"until": "14:00", "timing.event_s": "3 h"}.items():
        with pytest.raises(Refusal) as refused:
            edited(shot, **{field: text})
        assert refused.value.path == field


def test_gpx_is_read_by_another_library_and_is_as_long_as_geodesics_say() -> None:
    """The written file read with the standard library's XML; lengths against Karney's geodesics (geographiclib)."""
    shot = next(one for one in sample_shots(date(2026, 11, 29)) if one.walk)
    program = compile_shot(shot)
    text = walk_gpx(program)
    tree = ET.fromstring(text)
    assert tree.attrib["version"] == "1.1"
    points = tree.findall(f"{NAME}trk/{NAME}trkseg/{NAME}trkpt")
    places = [(float(one.attrib["lat"]), float(one.attrib["lon"])) for one in points]
    geodesic = sum(
        Geodesic.WGS84.Inverse(*a, *b)["s12"] for a, b in pairwise(places)
    )  # fmt: skip
    assert program.carried and geodesic == pytest.approx(program.carried.track.length_m, rel=1e-4)
    times = [datetime.fromisoformat(one.find(f"{NAME}time").text) for one in points]  # type: ignore[union-attr, arg-type]
    assert (times[-1] - times[0]).total_seconds() == pytest.approx(120, abs=0.01)
    again = walked_along(make_shot(start={"by": "clock", "time": "12:00"}, framing={"heading_deg": 50}), text)
    assert again.walk and again.walk.pace_m_s == pytest.approx(1.2, abs=0.002)
    for old, new in zip(shot.walk.points if shot.walk else (), again.walk.points, strict=True):
        assert (new.x_mm, new.y_mm) == pytest.approx((old.x_mm, old.y_mm), abs=15)
    stations = edited(shot, walk__way="stills by stations", walk__stations="40")
    assert len(ET.fromstring(walk_gpx(compile_shot(stations))).findall(f"{NAME}wpt")) == 40


def gpx(*points: str, kind: str = "trk") -> str:
    inner = f"<trkseg>{''.join(points)}</trkseg>" if kind == "trk" else "".join(points)
    return f'<gpx version="1.1" creator="x" xmlns="http://www.topografix.com/GPX/1/1"><{kind}>{inner}</{kind}></gpx>'


@pytest.mark.parametrize(
    ("text", "word"),
    [
        ("<gpx", "GPX that can be read"),
        (gpx(), "track or a route"),
        (gpx('<trkpt lat="1" lon="2"/>'), "two points"),
        (gpx('<trkpt lat="1" lon="2"/>', '<trkpt lat="1" lon="2"/>'), "different points"),
        (gpx('<trkpt lat="1" lon="2"/>', '<trkpt lat="2" lon="2"/>'), "10 km"),
        (
            gpx('<trkpt lat="1" lon="2"><time>2026-11-29T10:00:00Z</time></trkpt>',
                '<trkpt lat="1.001" lon="2"><time>2026-11-29T09:00:00Z</time></trkpt>'),
            "point 2 is earlier",
        ),
    ],
)  # fmt: skip
def test_gpx_that_cannot_be_walked_is_refused(text: str, word: str) -> None:
    with pytest.raises(Refusal) as refused:
        walked_along(walking(), text)
    assert refused.value.path == "gpx" and word in refused.value.allowed


def test_a_long_track_is_thinned_and_keeps_its_length() -> None:
    rows = [f'<trkpt lat="{50 + i * 1e-5:.6f}" lon="{8 + np.sin(i / 40) * 2e-4:.7f}"/>' for i in range(4_000)]
    walk = walked_along(walking(), gpx(*rows)).walk
    assert walk and len(walk.points) <= 500
    assert track_of(walk.points).length_m == pytest.approx(4_484, rel=0.02)


def test_the_film_of_a_walk_is_what_a_sequence_cuts() -> None:
    shot = walking()
    sequence = {"name": "Film", "cuts": [{"shot": shot.id, "name": shot.name, "out_s": 9}]}
    film = laid(ShotSequence.model_validate(sequence), {shot.id: Kept(shot, False)})
    piece = film.pieces[0]
    # 9 s of film: the head, and so much of the middle, of which a second shows sixteen.
    assert piece.length_s == 9 and piece.frames[1] == pytest.approx((1 + 7.375 * 16 + 0.625) * 30, abs=12)
