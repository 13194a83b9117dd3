"""The film that a shot would give: its frames, what tells it from others, what rules a frame."""

import io

import numpy as np
import pytest
from PIL import Image

from revani.core.documents import Shot
from revani.core.light.scene import moonlight_stops
from revani.core.picture.looked_at import horizon, spread, stops_apart, striped, whites
from revani.core.picture.planned import exposed_stops, picture_of, piece_of
from revani.core.picture.raster import Piece
from revani.core.program.compiled import compile_shot
from revani.core.rehearsal import film as films
from revani.core.rehearsal.film import rehearsed
from revani.core.rehearsal.outcome import rehearse, stands_from, taken_frames
from revani.core.rehearsal.practice import practised
from revani.core.rehearsal.ruling import ruling
from revani.core.rehearsal.strip import CELLS, cells, strip
from revani.exports.contact_sheet import contact_sheet
from tests.conftest import make_kit, make_shot
from tests.core.moving import SLIDE, rig


def shot(**change: object) -> Shot:
    return Shot.model_validate(make_shot().model_dump() | change)


def test_frames_that_would_not_be_taken_are_not_in_the_film() -> None:
    whole = compile_shot(make_shot())
    assert rehearsed(whole, 480).frames.tolist() == list(range(600))
    dying = compile_shot(shot(kit=make_kit(body={"battery_wh": 3}).model_dump()))
    outcome = rehearse(dying)
    film = rehearsed(dying, 480)
    assert outcome.end == "battery empty" and len(film.frames) == outcome.frames_taken < 600
    assert f"{600 - outcome.frames_taken} frames would not be taken" in film.told
    # A buffer that is full lets frames go by in the middle.
    slow = make_kit(body={"buffer_frames": 2, "bytes_per_frame": 2_000_000_000})
    slow = slow.model_copy(update={"card": slow.card.model_copy(update={"write_mb_s": 40.0, "capacity_gb": 9_000.0})})
    blocked = compile_shot(shot(kit=slow.model_dump()))
    there = taken_frames(blocked)
    assert rehearse(blocked).frames_blocked == int((~there).sum()) > 0
    assert np.diff(rehearsed(blocked, 480).frames).max() > 1


def test_the_same_plan_is_the_same_film_and_an_edit_changes_only_what_it_changes() -> None:
    plain = rehearsed(compile_shot(make_shot()), 480)
    assert plain.key == rehearsed(compile_shot(make_shot()), 480).key
    # What is not in the picture makes no other film.
    renamed = make_shot().model_copy(update={"name": "Another", "note": "Words."})
    assert rehearsed(compile_shot(renamed), 480).key == plain.key
    assert rehearsed(compile_shot(make_shot()), 640).key != plain.key
    late = shot(light=make_shot().light.model_dump() | {"shutter_s": 10})
    before, after = (one.parts(200) for one in (plain, rehearsed(compile_shot(late), 480)))
    same = [a[2] == b[2] for a, b in zip(before, after, strict=True)]
    # By day a shorter limit of the shutter rules nothing: that part is not made anew.
    assert same[0] and not same[-1]


def test_parts_cover_the_film_once_and_a_very_long_one_is_thinned() -> None:
    film = rehearsed(compile_shot(make_shot()), 480)
    parts = film.parts(200)
    assert [first for first, _, _ in parts] == [0, 200, 400] and sum(count for _, count, _ in parts) == 600
    kit = make_kit(body={"battery_wh": 2_000, "bytes_per_frame": 1_000}).model_dump()
    long = compile_shot(shot(timing={"fps": 30, "interval_s": 2, "frame_count": films.MOST + 1}, kit=kit))
    thin = rehearsed(long, 480)
    assert thin.every == 2 and len(thin.frames) == films.MOST // 2 + 1 and "every 2. is shown" in thin.told
    assert thin.fps == 15


def test_what_rules_a_frame_is_said_with_the_value_that_would_change_it() -> None:
    def said(**light: object) -> tuple[str, str]:
        program = compile_shot(shot(light=make_shot().light.model_dump() | light))
        return ruling(program, int(np.argmax(program.exposures.shutter_s)))

    assert said(school="fixed", shutter_s="1/60") == ("You hold the shutter at 1/60.", "light.shutter_s")
    assert said(shutter_s=5) == ("You let the shutter open up to 5 s; from there on ISO goes up.", "light.shutter_s")
    assert said(shutter_s=30) == ("The interval leaves the shutter no more than 29.5 s.", "timing.interval_s")
    day = compile_shot(shot(start={"by": "clock", "time": "12:00"}))
    assert ruling(day, 0)[0].startswith("The light asks for 1/") and ruling(day, 0)[1] == "light.aperture"


def test_the_film_of_a_walk_is_as_long_as_it_is_sped_up() -> None:
    walk = {"points": [{"x_mm": 0, "y_mm": 0}, {"x_mm": 0, "y_mm": 60_000}], "factor": 16, "head_s": 1, "tail_s": 1}
    program = compile_shot(
        shot(
            walk=walk, move={"kind": "live"}, timing={"fps": 30, "interval_s": "1/30", "event_s": 50},
            start={"by": "clock", "time": "12:00"}, light={"shutter_s": "1/60"},
        )
    )  # fmt: skip
    film = rehearsed(program, 480)
    assert len(film.frames) == int(program.film_length_s * 30) < program.frame_count / 8
    # A second as it was, then sixteen times as fast.
    steps = np.diff(film.frames)
    assert set(steps[:28].tolist()) == {1} and 15 <= np.median(steps) <= 17


def test_a_rig_without_power_stands_in_the_film_too() -> None:
    kit = rig(SLIDE, battery_wh=1.0, idle_w=1.0, moving_w=5.0).model_dump()
    keys = [{"at": {"by": "after", "after_s": s}, "positions": {"slide": x}} for s, x in ((0, 0), (17_000, 900))]
    dying = compile_shot(shot(kit=kit, move={"kind": "stepwise", "keys": keys, "on_stall": "hold"}))
    stands = stands_from(dying)
    assert stands is not None and 0 < stands < 500 and rehearse(dying).end == "whole"
    posed_at = rehearsed(dying, 160).posed_at
    assert posed_at[:stands].tolist() == list(range(stands)) and set(posed_at[stands:].tolist()) == {stands - 1}
    # A film in which it went on is another one.
    powered = compile_shot(shot(kit=rig(SLIDE).model_dump(), move={"kind": "stepwise", "keys": keys}))
    assert rehearsed(powered, 160).parts(200)[-1] != rehearsed(dying, 160).parts(200)[-1]


def test_the_strip_shows_what_the_film_shows_and_is_black_where_nothing_is_taken() -> None:
    program = compile_shot(make_shot())
    edges, shown = cells(program)
    assert len(shown) == CELLS == len(edges) - 1 and edges[-1] == float(program.film_length_s)
    made = strip(program, 60)
    assert made.shape[1] == CELLS * 60
    assert np.array_equal(made[:, 60 * 5 : 60 * 6], picture_of(program, int(shown[5]), 60)[: made.shape[0]])
    dying = compile_shot(shot(kit=make_kit(body={"battery_wh": 3}).model_dump()))
    taken = taken_frames(dying)[cells(dying)[1]]
    lit = strip(dying, 24).reshape(-1, CELLS, 24, 3).max(axis=(0, 2, 3)) > 0
    assert not taken.all() and (lit == taken).all()


def test_a_frames_light_is_spread_as_it_is_exposed_and_its_horizon_lies_level() -> None:
    light = make_shot().light.model_dump()
    held = {"school": "fixed", "aperture": 2.8, "shutter_s": 1, "iso": 3200}
    good, bright = (compile_shot(shot(light=light | change)) for change in ({}, held))
    pictures = [picture_of(one, 0, 480) for one in (good, bright)]
    light = [spread(one) for one in pictures]
    assert sum(light[0].shares) == pytest.approx(1, abs=1e-3)
    middle = [float(np.dot(one.shares, np.arange(64))) for one in light]
    assert middle[1] > middle[0] and light[1].white > 0.3 > light[0].white
    # Stripes lie where it is white, and nowhere else.
    assert np.array_equal(striped(pictures[1])[..., 3] > 0, whites(pictures[1]))
    # Level with the horizon it lies in the middle; tilted up by t, f tan t below it (pinhole).
    for tilt in (0.0, 8.0):
        framing = {"heading_deg": 200, "tilt_deg": tilt, "focal_length_mm": 24}
        program = compile_shot(shot(framing=framing))
        body = program.shot.body
        points = np.array(horizon(program, 0))
        nearest = points[np.argmin(np.abs(points[:, 0] - 0.5))]
        down = 0.5 + 24 * np.tan(np.radians(tilt)) / body.sensor_height_mm
        assert nearest[1] == pytest.approx(down, abs=0.004)


def test_a_piece_is_cut_from_the_picture_as_the_body_has_it() -> None:
    kit = make_kit(body={"pixels_wide": 1200, "pixels_high": 800})
    program = compile_shot(shot(kit=kit.model_dump(), light=make_shot().light.model_dump() | {"iso_ceiling": 100}))
    for i in (0, 599):
        whole = picture_of(program, i, 1200).astype(float)
        for piece in (Piece(0, 0, 320, 220), Piece(430, 300, 320, 220), Piece(880, 580, 320, 220)):
            cut = piece_of(program, i, piece).astype(float)
            there = whole[piece.top : piece.top + 220, piece.left : piece.left + 320]
            # Grain apart, of which every piece has its own.
            assert np.abs(cut - there).mean() < 1.5 and abs(cut.mean() - there.mean()) < 0.2


@pytest.mark.parametrize("more", [-1.5, -0.3, 0.7, 1.0])
def test_how_many_stops_two_pictures_are_apart_is_what_their_exposures_are(more: float) -> None:
    held = {"school": "fixed", "aperture": 8, "shutter_s": 1 / 30, "iso": 400}
    light = make_shot().light.model_dump()
    meant, taken = (
        picture_of(compile_shot(shot(light=light | held | {"iso": iso})), 0, 240) for iso in (400, round(400 * 2**more))
    )
    assert stops_apart(meant, taken) == pytest.approx(more, abs=0.05)
    black = np.zeros_like(meant)
    assert stops_apart(meant, black) is None and stops_apart(meant, black + np.uint8(255)) is None


def test_a_contact_sheet_has_every_picture_and_says_what_is_not_taken() -> None:
    dying = compile_shot(shot(kit=make_kit(body={"battery_wh": 3}).model_dump()))
    page = np.asarray(Image.open(io.BytesIO(contact_sheet(practised(dying)))).convert("RGB"))
    taken = taken_frames(dying)[cells(dying)[1]]
    ground = page[0, 0]
    step = (page.shape[1] - 12) // 6
    fields = [page[60 + row * ((page.shape[0] - 68) // 4) + 60, 12 + column * step + 160] for row in range(4)
              for column in range(6)]  # fmt: skip
    assert [bool((one != ground).any()) for one in fields] == taken.tolist()


def test_half_a_battery_and_a_cold_night_leave_what_a_kit_like_that_would() -> None:
    plain = compile_shot(shot(kit=make_kit(body={"battery_wh": 6}).model_dump()))
    halved = compile_shot(shot(kit=make_kit(body={"battery_wh": 3}).model_dump()))
    assert len(rehearsed(plain, 480, ["half a battery"]).frames) == rehearse(halved).frames_taken
    colder = plain.shot.place.model_copy(update={"temperature_c": plain.shot.place.temperature_c - 15})
    cold = compile_shot(plain.shot.model_copy(update={"place": colder}))
    left = rehearsed(plain, 480, ["cold"])
    assert len(left.frames) == rehearse(cold).frames_taken < len(rehearsed(plain, 480).frames)
    # Practising nothing is the film itself.
    assert rehearsed(plain, 480, []).key == rehearsed(plain, 480).key != left.key


def test_cloud_that_nobody_planned_darkens_what_is_held_and_is_met_by_a_body_that_meters() -> None:
    for school, darker in (("continuous", 3.0), ("automatic", 0.0)):
        light = make_shot().light.model_dump() | {"school": school, "iso_ceiling": 6400}
        planned = compile_shot(shot(light=light, start={"by": "clock", "time": "11:00"}))
        got = rehearsed(planned, 480, ["cloud comes in"]).program
        every = np.arange(planned.frame_count)
        before, after = exposed_stops(planned, every), exposed_stops(got, every)
        middle = planned.frame_count // 2
        assert after[: middle - 1] == pytest.approx(before[: middle - 1], abs=0.05)
        # An overcast sky takes three stops (memory); a body that chooses by itself stays on its thirds.
        assert float(np.median(before[-40:] - after[-40:])) == pytest.approx(darker, abs=0.35)
        settings = [one.exposures.shutter_s[-1] * one.exposures.iso[-1] for one in (planned, got)]
        assert (settings[0] == settings[1]) == (school == "continuous")


def test_a_moon_that_was_forgotten_is_in_the_picture_and_not_in_the_settings() -> None:
    # The full moon of 24 November 2026 stands over the place from dusk on (ephemeris); a fortnight earlier it is new.
    for date, lit in (("2026-11-24", True), ("2026-11-09", False)):
        for school in ("continuous", "automatic", "fixed"):
            light = make_shot().light.model_dump() | {"school": school, "iso": 800, "iso_ceiling": 6400}
            start = {"by": "clock", "time": "22:00"}
            planned = compile_shot(shot(light=light, start=start, date=date))
            got = rehearsed(planned, 480, ["the moon is forgotten"]).program
            every = np.arange(planned.frame_count)
            over = exposed_stops(got, every) - exposed_stops(planned, every)
            assert np.array_equal(got.scene_ev, planned.scene_ev)
            if not lit or school != "continuous":
                assert over == pytest.approx(0, abs=0.01), (date, school)
                continue
            # Planned for what a night without it is metered as, it comes out as much too bright as the moon is bright.
            moon = moonlight_stops(planned.sky, planned.at_s, planned.shot.place.sky_brightness)
            assert moon.max() > 3 and (over <= moon + 0.35).all() and over.max() > 1.5
            assert got.exposures.error_stops - planned.exposures.error_stops == pytest.approx(over, abs=0.01)


def test_a_missed_hour_is_not_in_the_film_and_a_stalled_axis_stands() -> None:
    program = compile_shot(shot(timing={"fps": 30, "interval_s": 60, "frame_count": 300}))
    frames = rehearsed(program, 480, ["an hour is missed"]).frames
    assert len(frames) == 240 and int(np.diff(frames).max()) == 61
    for rule, frame_count in (("hold", 300), ("end", 150)):
        keys = [{"at": {"by": "after", "after_s": s}, "positions": {"slide": x}} for s, x in ((0, 0), (17_000, 900))]
        move = {"kind": "stepwise", "keys": keys, "on_stall": rule}
        moved = compile_shot(
            shot(timing={"fps": 30, "interval_s": 60, "frame_count": 300}, move=move, kit=rig(SLIDE).model_dump())
        )
        film = rehearsed(moved, 480, ["an axis stalls"])
        assert len(film.frames) == frame_count and int(film.posed_at.max()) == 149
    # Without a rig nothing stalls.
    assert len(rehearsed(program, 480, ["an axis stalls"]).frames) == 300


def test_cloud_is_practised_on_a_shot_of_weeks_with_all_the_weather_that_a_place_may_keep() -> None:
    long = compile_shot(shot(timing={"fps": 30, "interval_s": 3600, "frame_count": 1440}))
    hours = [{"at_s": long.start_s + 3600 * k, "cloud": 0.0, "temperature_c": 4.0} for k in range(240)]
    place = long.shot.place.model_dump() | {"weather": hours}
    known = compile_shot(shot(timing={"fps": 30, "interval_s": 3600, "frame_count": 1440}, place=place))
    for program in (long, known):
        got = practised(program, ["cloud comes in", "cold"]).program
        darker = program.scene_ev[720:1200] - got.scene_ev[720:1200]
        assert float(np.median(darker)) == pytest.approx(3.0, abs=0.01) and len(got.shot.place.weather) <= 240
        assert got.temperature_c.max() < program.temperature_c.max() - 10
