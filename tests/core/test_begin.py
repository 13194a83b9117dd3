"""From an intention to a shot that works: drafts, ways to make a shot work, which night, when it stands there."""

import time
from datetime import UTC, date, datetime, timedelta

import ephem
import numpy as np
import pytest
from hypothesis import HealthCheck, given, settings
from hypothesis import strategies as st

from revani.core.begin.draft import draft
from revani.core.begin.intention import FILM_S, MOVES, Intention, Moves
from revani.core.begin.resolve import _PROMISES, resolve
from revani.core.begin.stands import point_in_picture, point_of_thing, standings
from revani.core.begin.starters import STARTERS, starter
from revani.core.begin.which_night import which_night
from revani.core.documents import Body, Card, Kit, Lens, Mover, Place, Shot
from revani.core.edit.fitting import compile_fitted
from revani.core.findings import judge
from revani.core.move.axes import Pose
from revani.core.program.compiled import compile_shot
from revani.core.quantities.refusal import Refusal
from revani.core.sky.alignment import passes
from revani.core.sky.nights import nights
from revani.core.sky.stars import galactic_core_directions
from revani.core.sky.sun_and_moon import direct
from revani.exports.calendar import Entry, calendar
from revani.jobs.sample import (
    CARD_A,
    CARD_B,
    LONG_WICKET,
    NOD,
    OLD_HERON,
    PERCH,
    PERCH_EYE,
    PERCH_NECK,
    RAIL,
    SHED,
    SPRAT,
    SPRAT_EYE,
    TARN,
    WICKET,
    sample_shots,
)  # fmt: skip
from tests.conftest import make_kit, make_shot
from tests.core.legal import legal_shots

KITS = {
    "on a stand": Kit(body=TARN, lens=WICKET, card=CARD_A),
    "by itself": Kit(body=SPRAT, lens=SPRAT_EYE, card=CARD_B),
    "old": Kit(body=OLD_HERON, lens=LONG_WICKET, card=CARD_A),
    "on a rail": Kit(body=TARN, lens=WICKET, card=CARD_A, movers=(RAIL, NOD)),
    "on its neck": Kit(body=PERCH, lens=PERCH_EYE, card=CARD_B, movers=(PERCH_NECK,)),
}
PLACES = [
    SHED,
    Place(name="Polar", latitude_deg=69.6, longitude_deg=18.9, time_zone="Europe/Oslo"),
    Place(name="Equator", latitude_deg=-1.3, longitude_deg=36.8, time_zone="Africa/Nairobi"),
    Place(name="South", latitude_deg=-45, longitude_deg=170.5, time_zone="Pacific/Auckland"),
]
# What a kit has not is no fault of a draft: a lens that cannot be stopped down, a body that films too slowly.
UNSERVED = {"kit.movers", "kit.body", "day"}


def wanting(moves: Moves, **change: object) -> Intention:
    values = {"moves": moves, "place": SHED, "day": date(2026, 11, 29), "kit": KITS["on a stand"], "use": "a feed"}
    return Intention.model_validate(values | change)


@pytest.mark.parametrize("name", KITS)
def test_every_intention_is_drafted_or_says_what_would_serve(name: str) -> None:
    # A square of kits, months and latitudes; all of them were run by hand.
    for n, moves in enumerate(MOVES):
        for step in range(4):
            month, place = (n + 3 * step) % 12 + 1, PLACES[(n + step) % len(PLACES)]
            intention = wanting(moves, kit=KITS[name], place=place, day=date(2026, month, 15), comes=bool(step % 2))
            try:
                found = draft(intention)
            except Refusal as refusal:
                assert refusal.path in UNSERVED and refusal.allowed.endswith("."), (moves, refusal)
                continue
            program = compile_shot(found.shot)
            stops = {one.id for one in judge(program) if one.severity == "stop"}
            # Through an eye that is always open, noon near the equator is too bright for any shutter that it has.
            assert stops <= ({"exposure.too-bright"} if name in ("by itself", "on its neck") else set()), (moves, place)
            assert found.decided and all(one.why for one in found.decided)
            assert program.film_length_s <= FILM_S["a feed"] + 1
            assert found.shot.take.use == "a feed" and found.shot.place == place


def test_a_draft_takes_its_hours_from_the_sky_and_its_interval_from_the_subject() -> None:
    clouds = draft(wanting("clouds")).shot
    # Fast clouds: 3 to 5 s (handbook; common practice).
    assert 3 <= clouds.timing.interval_s <= 5  # type: ignore[operator]
    stars = compile_shot(draft(wanting("stars, as points")).shot)
    assert stars.shot.needs_dark and (stars.sun_altitude_deg < -17.9).all() and stars.shot.light.night_stops == -2
    assert "night.points" in {one.id for one in judge(stars)}
    trails = compile_shot(draft(wanting("stars, as trails")).shot)
    assert trails.shot.trails and trails.shot.framing.heading_deg == 0
    dusk = compile_shot(draft(wanting("light that goes or comes")).shot)
    assert dusk.sun_altitude_deg[0] > 0 > dusk.sun_altitude_deg[-1]
    dawn = compile_shot(draft(wanting("light that goes or comes", comes=True)).shot)
    assert dawn.sun_altitude_deg[0] < 0 < dawn.sun_altitude_deg[-1]
    night = compile_shot(draft(wanting("day into night into day")).shot)
    assert night.sun_altitude_deg.min() < -18 and min(night.sun_altitude_deg[[0, -1]]) > -1


def test_a_draft_is_filmed_as_it_is_wanted() -> None:
    talk = draft(wanting("me, talking", use="a talk", kit=KITS["by itself"])).shot
    assert talk.live and talk.take.sound != "off" and compile_shot(talk).timing.event_s == 120
    fast = draft(wanting("too fast to see", kit=KITS["by itself"])).shot
    assert compile_shot(fast).timing.speed_up == pytest.approx(1 / 8) and fast.mode == "Film, slow"
    with pytest.raises(Refusal, match="60 fps and more"):
        draft(wanting("too fast to see"))
    along = draft(wanting("a pass along something", kit=KITS["on a rail"])).shot
    assert along.move and along.move.keys and not along.live
    with pytest.raises(Refusal, match="slides or pans") as refused:
        draft(wanting("a pass along something"))
    assert refused.value.path == "kit.movers"
    polar = wanting("stars, as points", place=PLACES[1], day=date(2026, 6, 15))
    with pytest.raises(Refusal, match="does not get dark"):
        draft(polar)


def test_now_is_now_and_a_direction_that_was_named_is_kept() -> None:
    at = datetime(2026, 11, 29, 10, 17, 20).timestamp()
    shot = draft(wanting("clouds", now_s=at, of="the stack", towards_deg=123)).shot
    assert compile_shot(shot).start_s == pytest.approx(-(-at // 60) * 60)
    assert shot.framing.heading_deg == 123 and shot.name == "Clouds, the stack"


def test_gear_to_begin_with_serves_every_kind_of_subject_or_says_what_is_wanting() -> None:
    for name in STARTERS:
        pieces = starter(name)
        body, lens, card = (next(one for one in pieces if isinstance(one, kind)) for kind in (Body, Lens, Card))
        kit = Kit(body=body, lens=lens, card=card, movers=tuple(one for one in pieces if isinstance(one, Mover)))
        for moves in MOVES:
            try:
                program = compile_shot(draft(wanting(moves, kit=kit)).shot)
            except Refusal as refusal:
                assert refusal.path in UNSERVED
                continue
            assert "stop" not in {one.severity for one in judge(program)}, (name, moves)


@pytest.mark.parametrize("shot", sample_shots(date(2026, 11, 29)), ids=lambda shot: shot.name)
def test_a_sample_shot_is_made_to_work_and_keeps_what_is_promised(shot: Shot) -> None:
    found = resolve(shot)
    before = compile_fitted(shot)
    assert found.tried <= 400 and len(found.plans) <= 3
    for plan in found.plans:
        after = compile_shot(plan.shot)
        assert _PROMISES[plan.keeps](before, after), plan.keeps
        harms = [one.sentence for one in judge(after) if one.severity in ("stop", "fix")]
        assert list(plan.fails) == harms
    assert resolve(shot) == found
    assert any(plan.works for plan in found.plans)


@settings(deadline=None, max_examples=6, derandomize=True, suppress_health_check=list(HealthCheck))
@given(legal_shots())
def test_whatever_shot_is_made_to_work_keeps_what_is_promised(shot: Shot) -> None:
    try:
        before = compile_fitted(shot)
    except Refusal:
        return
    for plan in resolve(shot).plans:
        after = compile_shot(plan.shot)
        assert _PROMISES[plan.keeps](before, after)
        assert plan.works == (not any(one.severity in ("stop", "fix") for one in judge(after)))


@pytest.mark.parametrize("place", PLACES, ids=lambda place: place.name)
def test_nights_are_as_long_as_the_exact_search_says(place: Place) -> None:
    first = date(2026, 9, 20)
    rows = which_night(place, first, 30, "stars, as trails")
    exact = nights(place, first, 30, -18.0, 0.0)
    for row, night in zip(rows, exact, strict=True):
        length = 0.0 if row.from_s is None or row.to_s is None else row.to_s - row.from_s
        assert length == pytest.approx(night.dark_s, abs=650)
    assert sorted(row.rank for row in rows) == list(range(1, 31))
    best = min(rows, key=lambda row: row.rank)
    assert best.serves_s >= max(row.serves_s for row in rows) - 600


def test_a_night_that_is_never_quite_dark_serves_where_stars_can_be_filmed() -> None:
    # At 57.6° the sun of May sinks to −15°: no astronomical night, but stars from −12° on.
    rows = which_night(SHED, date(2026, 5, 8), 8, "stars, as trails", 1.0)
    assert all(0 < row.serves_s < 5 * 3_600 for row in rows)
    assert draft(wanting("stars, as trails", day=date(2026, 5, 15))).shot.trails


def test_a_polar_summer_has_no_night_and_says_so() -> None:
    rows = which_night(PLACES[1], date(2026, 6, 1), 20, "stars, as points")
    assert {row.reason for row in rows} == {"it does not get dark"} and all(row.from_s is None for row in rows)
    with pytest.raises(Refusal) as refused:
        which_night(SHED, date(2026, 6, 1), 0, "clouds")
    assert refused.value.path == "count"


@pytest.mark.parametrize("body", ["sun", "moon"])
def test_a_pass_is_where_the_ephemeris_and_ephem_have_it(body: str) -> None:
    from_s = datetime(2026, 11, 29).timestamp()
    seen = direct(SHED, np.array([from_s + 40 * 86_400 + 13 * 3_600]))[0 if body == "sun" else 1]
    azimuth, altitude = float(seen.azimuth_deg[0]), max(float(seen.altitude_deg[0]), -4.0)
    found = passes(SHED, body, azimuth, altitude, 1.5, from_s, from_s + 365 * 86_400)  # type: ignore[arg-type]
    assert found
    observer = ephem.Observer()
    observer.lat, observer.lon, observer.elevation, observer.pressure = (
        str(SHED.latitude_deg), str(SHED.longitude_deg), SHED.elevation_m, 0,
    )  # fmt: skip

    def apart(at_s: float) -> float:
        observer.date = ephem.Date(datetime(1970, 1, 1) + timedelta(seconds=at_s))
        there = (ephem.Sun if body == "sun" else ephem.Moon)(observer)
        return float(np.degrees(ephem.separation((there.az, there.alt), np.radians([azimuth, altitude]))))

    for one in found[:6]:
        # Nearest there and nowhere a few seconds beside it, and as near as ephem has it.
        assert apart(one.at_s) == pytest.approx(one.separation_deg, abs=0.02)
        assert apart(one.at_s) <= min(apart(one.at_s - 8), apart(one.at_s + 8)) + 1e-4


@given(
    st.floats(0, 359), st.floats(-60, 60), st.floats(-40, 40), st.floats(0.05, 0.95), st.floats(0.05, 0.95),
    st.sampled_from(["straight", "equidistant", "stereographic", "equisolid"]),
)  # fmt: skip
def test_a_place_in_the_picture_is_found_again_where_its_direction_falls(
    heading: float, tilt: float, roll: float, across: float, down: float, projection: str
) -> None:
    mode = {"name": "One", "pixels_wide": 6000, "pixels_high": 4000, "projection": projection}
    shot = make_shot(kit=make_kit(body={"modes": [mode]}), framing={"heading_deg": heading})
    values = {
        "right_mm": 0.0,
        "ahead_mm": 0.0,
        "up_mm": 0.0,
        "heading_deg": heading,
        "tilt_deg": tilt,
        "roll_deg": roll,
        "focal_mm": 24,
    }
    pose = Pose(**{name: np.array(float(value)) for name, value in values.items()})
    east, north, up = pose.direction_of(shot, across, down)
    x, y, depth = pose.sees_far(shot, np.degrees(np.arctan2(east, north)) - heading, np.degrees(np.arcsin(up)))
    assert (float(x), float(y)) == pytest.approx((across, down), abs=1e-6) and depth > 0


def test_a_thing_and_a_place_in_the_picture_are_directions() -> None:
    shot = next(one for one in sample_shots(date(2026, 11, 29)) if one.name == "Past the stacked wood")
    assert shot.move
    chimney = next(i for i, one in enumerate(shot.move.things) if one.name == "Chimney")
    azimuth, altitude = point_of_thing(compile_fitted(shot), chimney)
    # 2,040 mm to the right of the camera at 60 mm, 7,800 mm ahead, its top 4,000 mm up.
    assert azimuth == pytest.approx(300 + np.degrees(np.arctan2(2_040, 7_800)), abs=0.01)
    assert altitude == pytest.approx(np.degrees(np.arctan2(4_000, np.hypot(2_040, 7_800))), abs=0.01)
    # The middle of the first picture is the kiln's mouth, on which the aim is locked: 840 mm to the right of the
    # camera, 4,200 mm ahead, 300 mm below the lens.
    middle = point_in_picture(compile_shot(shot), 1, 0.5, 0.5)
    mouth = 300 + np.degrees(np.arctan2(840, 4_200)), np.degrees(np.arctan2(-300, np.hypot(840, 4_200)))
    assert middle == pytest.approx(mouth, abs=0.02)
    still = shot.model_copy(update={"move": None})
    assert point_in_picture(compile_shot(still), 1, 0.5, 0.5) == pytest.approx((300, 0), abs=1e-9)
    with pytest.raises(Refusal) as refused:
        point_in_picture(compile_shot(still), 100_000, 0.5, 0.5)
    assert refused.value.path == "number"
    # In a winter night of the south the core stands high; found again, and four minutes sooner each night.
    south = shot.model_copy(update={"place": PLACES[3]})
    at_s = datetime(2027, 6, 10, 12, tzinfo=UTC).timestamp()
    (core,) = galactic_core_directions(PLACES[3].latitude_deg, PLACES[3].longitude_deg, np.array([at_s]))
    azimuth, altitude = np.degrees(np.arctan2(core[0], core[1])) % 360, np.degrees(np.arcsin(core[2]))
    rows = standings(south, "galactic core", float(azimuth), float(altitude), 0.3, date(2027, 6, 8), 5)
    assert min(abs(one.at_s - at_s) for one in rows) < 5 and len(rows) == 6
    with pytest.raises(Refusal) as refused:
        standings(shot, "sun", 10, 5, 1, date(2026, 11, 29), 900)
    assert refused.value.path == "days"


def test_a_calendar_is_written_as_the_standard_has_it() -> None:
    # RFC 5545: lines end in CR LF, hold at most 75 octets, and text escapes commas and semicolons.
    text = calendar([Entry("Stars, as points; night 1", 0, 3_600, "Skarrey, kiln shed", "dark " * 30)], time.time())
    lines = text.split("\r\n")
    assert lines[0] == "BEGIN:VCALENDAR" and lines[-2] == "END:VCALENDAR" and lines[-1] == ""
    assert all(len(line.encode()) <= 75 for line in lines)
    unfolded = text.replace("\r\n ", "")
    assert "SUMMARY:Stars\\, as points\\; night 1\r\n" in unfolded
    assert "DTSTART:19700101T000000Z\r\nDTEND:19700101T010000Z\r\n" in unfolded
