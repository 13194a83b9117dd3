"""Recording modes and who fires: what follows from them everywhere, what is refused, and what is snapped."""

from fractions import Fraction

import numpy as np
import pytest
from pydantic import ValidationError

from revani.core.documents import Body, Light, Shot
from revani.core.documents.gear import Usage
from revani.core.documents.timing import Timing
from revani.core.edit.apply import Edit, apply_edit
from revani.core.edit.fitting import compile_fitted
from revani.core.edit.form import filled
from revani.core.light.dials import ev100
from revani.core.light.firing import schools_for
from revani.core.move.axes import pose_of
from revani.core.optics.lens import focal_px, lens_of
from revani.core.optics.projection import camera_axes
from revani.core.optics.star_limits import stars_in
from revani.core.program.compiled import Program, compile_shot
from revani.core.quantities.refusal import Refusal, Refusals
from revani.core.rehearsal.night import moon_wash_stops
from revani.core.rehearsal.schools import compare_schools
from revani.core.shown.dial_card import dial_card, dial_card_text
from revani.core.shown.records import worded
from revani.core.shown.sentence import aside, sentence
from tests.conftest import make_kit, make_shot
from tests.core.moving import key, moving_kit
from tests.core.small import FILM, LAPSE, STILLS, film, night, shot_of, small, told


def test_a_body_without_a_table_compiles_as_it_always_did() -> None:
    shot = make_shot()
    assert shot.body == shot.kit.body and len(shot.kit.body.table) == 1
    document = shot.model_dump(mode="json")
    for new in ("fires", "mode", "keeps", "take"):
        del document[new]
    old, now = compile_shot(Shot.model_validate(document)), compile_shot(shot)
    assert all(np.array_equal(old.columns()[name], column) for name, column in now.columns().items())


def test_pixels_sensor_shutter_bit_rate_and_drain_are_those_of_the_mode() -> None:
    body = Body.model_validate({"name": "B"} | small(battery_wh=10, film_mbps=100))
    used = body.used(Usage("Film", stabilised=True))
    assert (used.pixels_wide, used.pixels_high, used.film_mbps, used.film_w) == (3840, 2160, 60, 3)
    # Nine tenths of the sensor's width, a tenth of that taken by stabilising, in the shape of the picture.
    assert used.sensor_width_mm == pytest.approx(6.17 * 0.81)
    assert used.sensor_height_mm == pytest.approx(6.17 * 0.81 * 9 / 16)
    # What is not steadied is as wide as the sensor's part.
    assert body.used(Usage("Film")).sensor_width_mm == pytest.approx(6.17 * 0.9)
    assert body.used(Usage("Night")).automatic_shutter_max_s == 30 and body.used(Usage("nowhere")) == body
    assert body.used(Usage("Stills", "both")).bytes_per_frame == body.bytes_per_frame + body.jpeg_bytes


def test_a_fisheye_mode_bends_finder_stars_and_move_table_alike() -> None:
    straight, bent = shot_of(mode="Stills"), shot_of(mode="Night", keeps="JPEG")
    # Handbook: 3 mm on 6.17 mm sees 91.6° straight and 117.8° equidistant: half of that is the picture's edge.
    for shot, half in ((straight, 45.8), (bent, 58.9)):
        ray = lens_of(shot).rays(np.array(1.0), np.array(0.5))
        forward = camera_axes(shot.framing.heading_deg, shot.framing.tilt_deg)[2]
        assert np.degrees(np.arccos(ray @ forward)) == pytest.approx(half, abs=0.1)
        pose = pose_of(shot, {}, np.array(0.0))
        edge = np.array([np.sin(np.radians(half)), np.cos(np.radians(half)), 0.0]) * 5_000
        tilted = np.array([edge[0], edge[1] * np.cos(np.radians(8)), edge[1] * np.sin(np.radians(8))])
        x, y, _ = pose.sees(shot, tilted)
        assert float(x) == pytest.approx(1.0, abs=0.002) and float(y) == pytest.approx(0.5, abs=0.002)


def test_stars_drift_through_an_equidistant_lens_as_the_closed_form_says() -> None:
    shot = shot_of(mode="Night", keeps="JPEG", framing={"heading_deg": 180, "tilt_deg": 30})
    # In the middle every projection has the same scale: 15.041″/s × cos δ over f in pixels.
    stars = stars_in(shot)
    delta = float(stars.declination_deg[4, 4])
    closed = np.radians(15.041 / 3600) * np.cos(np.radians(delta)) * focal_px(shot)
    assert float(stars.drift_px_s[4, 4]) == pytest.approx(closed, rel=0.003)
    # At the edge, where it bends: two directions of the sky a second apart, projected by hand.
    lens, forward = lens_of(shot), camera_axes(180, 30)[2]
    ray = lens.rays(np.array(1.0), np.array(0.5))
    lat = np.radians(shot.place.latitude_deg)
    pole = np.array([0.0, np.cos(lat), np.sin(lat)])
    angle = np.radians(360.98564736629 / 86_400)
    turned = ray * np.cos(angle) - np.cross(pole, ray) * np.sin(angle) + pole * (pole @ ray) * (1 - np.cos(angle))

    def by_hand(vector: np.ndarray) -> np.ndarray:
        axes = camera_axes(180, 30) @ vector
        theta = np.arctan2(np.hypot(axes[0], axes[1]), axes[2])
        return focal_px(shot) * theta * axes[:2] / np.hypot(axes[0], axes[1])

    assert forward @ ray == pytest.approx(np.cos(np.radians(58.9)), abs=0.002)
    assert float(stars.drift_px_s[4, 8]) == pytest.approx(
        float(np.linalg.norm(by_hand(turned) - by_hand(ray))), rel=1e-6
    )


@pytest.mark.parametrize(
    ("change", "path", "allowed"),
    [
        ({"mode": "Gone"}, "mode", "Stills, Night"),
        ({"timing": Timing(fps=30, interval_s=7, frame_count=60)}, "timing.interval_s", "1 s, 2 s, 5 s, 10 s, 30 s"),
        ({"light": Light(school="continuous", aperture=2.8, iso_ceiling=800)}, "light.school", "hold the exposure"),
        ({"pace": {"night_factor": 2}}, "pace", "one interval"),
        ({"light": Light(school="automatic", aperture=2.8, iso_ceiling=800, white_balance="ramp")},
         "light.white_balance", "holds its white balance"),
        ({"mode": "Night"}, "keeps", "JPEG alone"),
        ({"mode": "Night", "keeps": "JPEG", "light": Light(school="fixed", aperture=2.8)}, "light.school", "leave all"),
        ({"fires": "own lapse film"}, "mode", "Lapse"),
        ({"fires": "own lapse film", "mode": "Lapse", "timing": Timing(fps=30, interval_s=10, event_s=900)},
         "timing.event_s", "10 min, 1 h 00 min"),
    ],
)  # fmt: skip
def test_what_a_body_that_fires_itself_does_not_offer_is_refused_and_the_nearest_is_planned(
    change: dict[str, object], path: str, allowed: str
) -> None:
    shot = shot_of(**change)
    with pytest.raises(Refusal) as refused:
        compile_shot(shot)
    assert refused.value.path == path and allowed in refused.value.allowed
    program = compile_fitted(shot)
    assert path in [one.path for one in program.misfits]
    compile_shot(program.shot)


def test_the_film_keeps_its_frames_where_the_interval_snaps() -> None:
    program = compile_fitted(shot_of(timing=Timing(fps=30, interval_s=7, frame_count=60)))
    assert program.timing.interval_s == 5 and program.frame_count == 60
    assert program.misfits[0].instead == "a frame every 5 s"


def test_the_ways_of_exposing_are_offered_by_who_fires() -> None:
    assert len(schools_for(shot_of(fires="linked"))) == 5
    assert schools_for(shot_of()) == ("fixed", "automatic", "aperture priority")
    assert schools_for(shot_of(mode="Night", keeps="JPEG")) == ("automatic", "aperture priority")
    bulb = make_kit(body=small(bulb=True))
    assert "continuous" in schools_for(shot_of(fires="controller", kit=bulb))
    refused = {one.school for one in compare_schools(compile_shot(shot_of())) if one.refused}
    assert refused == {"stepped", "continuous"}


def test_the_dial_card_is_in_the_order_of_the_hands_and_absent_where_revani_sets_the_camera() -> None:
    shot = shot_of(mode="Night", keeps="JPEG", kit=make_kit(body=small(clock_offset_s=-41)))
    rows = {row.dial: row for row in dial_card(compile_shot(shot))}
    assert list(rows)[:4] == ["clock", "mode", "interval", "frames, or length"] and list(rows)[-2:] == ["press", "ends"]
    assert rows["interval"].to == "10 s" and rows["highest ISO"].to == "3200" and rows["files"].to == "JPEG"
    assert "forgets its interval" in rows["mode"].mind and "its own clock then says" in rows["press"].mind
    linked = compile_shot(shot_of(fires="linked"))
    assert dial_card(linked) == () and "Revani sets this camera itself" in dial_card_text(linked)
    manual = compile_shot(shot_of(light=Light(school="fixed", aperture=2.8, shutter_s="1/4", iso=400)))
    held = {row.dial: row.to for row in dial_card(manual)}
    assert (held["exposure"], held["shutter"], held["ISO"]) == ("manual", "1/4", "400")


def test_a_table_of_modes_is_typed_row_by_row_and_comes_back_as_it_was() -> None:
    body = Body.model_validate({"name": "B"} | small())
    words = worded(body)
    assert words["modes.0.intervals"] == "1 2 5 10 30" and words["modes.3.rates"] == "25 30"
    assert words["modes.1.manual"] == "no" and words["modes.1.projection"] == "equidistant"
    again = filled(Body, body.model_dump(), {f"modes.{part}": words[f"modes.{part}"] for part in
                   ("0.intervals", "3.rates", "1.manual", "3.part", "2.lengths")}, "metric")  # fmt: skip
    assert again.modes == body.modes
    typed = filled(
        Body, body.model_dump(), {"modes.3.rates": "23.976 29.97 120", "modes.0.intervals": "1/2 1"}, "metric"
    )
    assert typed.modes[3].rates == (Fraction(24000, 1001), Fraction(30000, 1001), 120)
    assert typed.modes[0].intervals == (Fraction(1, 2), 1)
    with pytest.raises(Refusals) as refused:
        filled(Body, body.model_dump(), {"modes.0.intervals": "5 2", "modes.1.pixels_wide": "many"}, "metric")
    assert {one.path for one in refused.value.refused} == {"modes.0.intervals", "modes.1.pixels_wide"}
    with pytest.raises(ValidationError, match="Row 2, mode: “Stills” stands in another row already"):
        Body.model_validate({"name": "B", "modes": [STILLS.model_dump(), STILLS.model_dump()]})


def test_the_three_nights() -> None:
    # Common practice (handbook): ceiling 64,000 takes about 2.5 s, ceiling 100 its longest, about 30 s, which gathers
    # 3.6 stops more and shows the most stars. A ceiling between lies between.
    open_, between, closed = (compile_shot(night(ceiling)) for ceiling in (64_000, 6_400, 100))
    assert open_.sun_altitude_deg.max() < -18
    shutters = [float(np.median(one.exposures.shutter_s)) for one in (open_, between, closed)]
    assert shutters[0] == pytest.approx(2.5, rel=0.25) and shutters[2] == pytest.approx(29.6, rel=0.02)
    assert shutters[0] < shutters[1] <= shutters[2]
    # The finding speaks though the whole shot is dark, and its fix gathers what it says.
    finding = told(open_, "exposure.iso-ceiling-shortens")
    assert finding and finding.sentence.startswith("In the dark")
    fixed = compile_shot(finding.fixes[-1].shot)
    gained = np.log2(np.median(fixed.exposures.shutter_s) / shutters[0])
    assert gained == pytest.approx(3.6, abs=0.25) and "gather" in finding.fixes[-1].price
    assert told(closed, "exposure.iso-ceiling-shortens") is None
    schools = {one.school: one for one in compare_schools(open_)}
    assert schools["automatic"].gathered == "0.0"


def test_a_ceiling_over_what_is_clean_is_told_with_its_fix() -> None:
    body = small(iso_clean=800, automatic_shutter_max_s=30)
    light = Light(school="automatic", aperture=2.8, iso=100, iso_ceiling=12_800)
    program = compile_shot(shot_of(kit=make_kit(body=body), light=light, start={"by": "clock", "time": "21:00"}))
    finding = told(program, "exposure.grain")
    assert finding and "ISO 800" in finding.sentence
    assert told(compile_shot(finding.fixes[0].shot), "exposure.grain") is None


def exposure_value(program: Program) -> float:
    got = program.exposures
    return float(np.median(ev100(got.aperture, got.shutter_s, got.iso)))


def test_a_night_that_is_wanted_darker_is_no_error_and_a_body_alone_cannot_be_told_it() -> None:
    # Under a full moon, so that neither stands at its limits.
    linked = {"fires": "linked", "kit": make_kit(), "start": {"by": "clock", "time": "21:00"}}
    ramp = {"aperture": 2.8, "iso_ceiling": 12_800}
    grey, dark = (compile_shot(shot_of(light=Light(**ramp, night_stops=n), **linked)) for n in (0, -2))
    assert exposure_value(dark) - exposure_value(grey) == pytest.approx(2, abs=0.02)
    assert np.abs(dark.exposures.error_stops).max() < 0.35
    noon = linked | {"start": {"by": "clock", "time": "12:00"}}
    by_day = [compile_shot(shot_of(light=Light(aperture=8, night_stops=n), **noon)) for n in (0, -2)]
    assert exposure_value(by_day[0]) == exposure_value(by_day[1])
    # Revani tells a linked body frame by frame; one that fires itself meters the night grey, and that is told.
    kept = {"start": {"by": "clock", "time": "21:00"}}
    own = {"school": "automatic", "aperture": 2.8, "iso_ceiling": 3200}
    same = shot_of(light=Light(**own), **kept)
    meter, alone = (compile_shot(same.with_light(night_stops=n)) for n in (0, -2))
    assert np.array_equal(alone.exposures.shutter_s, meter.exposures.shutter_s)
    assert np.median(alone.exposures.error_stops - meter.exposures.error_stops) == pytest.approx(2, abs=0.01)


def test_who_fires_and_the_mode_are_words_of_the_shot() -> None:
    shot = apply_edit(shot_of(fires="linked"), Edit(field="fires", text="by its own timer"))
    assert shot.fires == "own timer"
    assert apply_edit(shot, Edit(field="mode", nudge=1)).mode == "Night"
    with pytest.raises(Refusal) as refused:
        apply_edit(shot, Edit(field="mode", text="Film"))
    assert "Stills, Night" in refused.value.allowed


def test_a_film_at_speed_needs_no_mover_and_says_what_it_is() -> None:
    shot = film()
    program = compile_shot(shot)
    text = "".join(word.text for word in sentence(shot)[0])
    assert text.startswith("Film 12 min at 30 fps, played at 30 fps, from 12:00, so 12 min and 21,600 frames")
    # Bit rate × time, and what it draws while it films, are those of the mode.
    assert float(program.card_bytes[-1]) == pytest.approx(60e6 / 8 * 720)
    assert float(1 - program.battery_left[-1]) * 200 * 0.9 == pytest.approx(3 * 720 / 3600, rel=1e-6)
    assert program.exposures.shutter_s.max() <= 1 / 30


def test_slow_motion_is_recorded_faster_than_it_is_played() -> None:
    fast = FILM.model_copy(update={"rates": (Fraction(30), Fraction(120), Fraction(240))})
    shot = film(kit=make_kit(body=small(modes=(STILLS, fast))))
    slowed = apply_edit(shot, Edit(field="recording", text="240"))
    program = compile_shot(slowed.with_light(shutter_s="1/480"))
    # Handbook: 240 at 30 is 8 ×, and the shutter is at most 1/R.
    assert program.timing.playback_s == 8 * program.timing.event_s and program.exposures.shutter_s.max() <= 1 / 240
    # The third of recording, playback and factor follows from the other two.
    assert apply_edit(shot, Edit(field="slowed", text="8 ×")).timing == slowed.timing
    with pytest.raises(Refusal, match="slows by 1 ×, 4 ×, 8 ×, played at 30 fps") as refused:
        apply_edit(shot, Edit(field="slowed", text="3"))
    assert refused.value.path == "slowed"
    with pytest.raises(Refusal, match="slows by"):
        apply_edit(shot, Edit(field="slowed", text="0.5"))
    with pytest.raises(Refusal) as refused:
        compile_shot(apply_edit(shot, Edit(field="recording", text="60")))
    assert refused.value.path == "recording" and "30, 120, 240 fps" in refused.value.allowed
    with pytest.raises(Refusal, match="Played at 60 fps"):
        compile_shot(apply_edit(shot, Edit(field="timing.fps", text="60")))
    assert compile_fitted(apply_edit(shot, Edit(field="recording", text="100"))).timing.interval_s == Fraction(1, 120)


def test_a_rate_that_the_mode_lacks_is_refused_and_the_highest_is_planned() -> None:
    # The mode records at 25 and 30: nothing can be played faster than that.
    shot = apply_edit(film(), Edit(field="timing.fps", text="60"))
    with pytest.raises(Refusal) as refused:
        compile_shot(shot)
    assert refused.value.path == "timing.fps" and "25, 30 fps" in refused.value.allowed
    assert compile_fitted(shot).timing.fps == 30


def test_a_body_that_makes_no_film_says_so_and_a_film_is_not_filmed_in_a_mode_for_stills() -> None:
    with pytest.raises(Refusal) as refused:
        compile_shot(film(kit=make_kit(body=small(modes=(STILLS,))), mode=""))
    assert refused.value.path == "move.kind" and "no mode that makes film" in refused.value.allowed
    with pytest.raises(Refusal) as refused:
        compile_shot(film(mode="Stills"))
    assert refused.value.path == "mode" and "Film" in refused.value.allowed


def test_as_quick_as_it_can_be_is_an_interval_and_a_menu_is_offered_where_there_is_one() -> None:
    quick = apply_edit(shot_of(), Edit(field="timing.interval_s", text="as quick as it can be"))
    assert quick.timing.interval_s == 1
    linked = apply_edit(shot_of(fires="linked", kit=make_kit()), Edit(field="timing.interval_s", text="quickest"))
    assert compile_shot(linked.with_light(shutter_s="1/60", school="fixed")).timing.interval_s == 1
    words = {word.field: word for word in sentence(shot_of())[0]}
    assert words["timing.interval_s"].choices == ("1 s", "2 s", "5 s", "10 s", "30 s")
    assert {word.field: word for word in sentence(shot_of(fires="linked"))[0]}["timing.interval_s"].choices == ()


def test_the_moon_washes_out_the_picture_that_it_stands_in_more_than_the_one_behind() -> None:
    full = {"start": {"by": "clock", "time": "23:00"}, "needs_dark": True, "moonlight_up_to": 0.0}
    towards = compile_shot(shot_of(**full))
    azimuth = float(towards.sky.moon(towards.at_s[0]).azimuth_deg)
    into, away = (
        compile_shot(shot_of(**full, framing={"heading_deg": (azimuth + turn) % 360, "tilt_deg": 40}))
        for turn in (0, 110)
    )
    assert moon_wash_stops(into)[0] > moon_wash_stops(away)[0] > 3
    down = compile_shot(shot_of(**full, framing={"heading_deg": 0, "tilt_deg": -90}))
    assert moon_wash_stops(down).max() == 0 and told(into, "night.moon")


def test_a_film_of_its_own_is_as_large_as_it_plays_and_falls_into_its_chapters() -> None:
    lapse = LAPSE.model_copy(update={"film_mbps": 60.0, "chapter_gb": 0.1, "lengths": ()})
    shot = shot_of(fires="own lapse film", mode="Lapse", kit=make_kit(body=small(modes=(STILLS, lapse))),
                   timing=Timing(fps=30, interval_s=2, frame_count=600))  # fmt: skip
    program = compile_shot(shot)
    # 600 frames at 30 fps play for 20 s: 60 Mbit/s make 150 MB of it, two files of at most 100 MB.
    assert float(program.card_bytes[-1]) == pytest.approx(60e6 / 8 * 20)
    chapters = told(program, "feed.chapters")
    assert chapters and chapters.sentence == "The film comes in 2 files." and "13 s" in chapters.figures
    assert told(compile_shot(film()), "feed.chapters") is None


def test_a_move_of_a_camera_that_nobody_is_linked_to_is_not_driven_and_that_is_told() -> None:
    keys = [key(0, slide=100).model_dump(), key(500, slide=900).model_dump()]
    kit = moving_kit().model_copy(update={"body": make_kit(body=small()).body})
    lens = {"focal_length_min_mm": 3, "focal_length_max_mm": 3}
    shot = shot_of(kit=kit.model_copy(update={"lens": make_kit(lens=lens).lens}), move={"keys": keys})
    finding = told(compile_shot(shot), "move.not-driven")
    assert finding and finding.severity == "fix"
    assert told(compile_shot(finding.fixes[0].shot), "move.not-driven") is None
    assert told(compile_shot(shot_of()), "move.not-driven") is None


def test_the_sun_in_the_picture_is_told_where_it_comes_in() -> None:
    towards = compile_shot(make_shot(framing={"heading_deg": 235, "tilt_deg": 5}))
    finding = told(towards, "light.sun-in-frame")
    assert finding and finding.from_s is not None and finding.from_s >= towards.start_s - 1
    away = compile_shot(make_shot(framing={"heading_deg": 40, "tilt_deg": 5}))
    assert told(away, "light.sun-in-frame") is None


def test_the_focal_length_in_use_is_a_word_where_the_lens_is_a_zoom() -> None:
    zoom = make_shot(kit=make_kit(lens={"focal_length_min_mm": 24, "focal_length_max_mm": 70}))
    assert "at 24 mm" in "".join(word.text for word in aside(zoom)["time"])
    longer = apply_edit(zoom, Edit(field="framing.focal_length_mm", text="50"))
    assert longer.focal_length_mm == 50 and focal_px(longer) == pytest.approx(focal_px(zoom) * 50 / 24)
    with pytest.raises(Refusal, match="from 24 to 70 mm"):
        apply_edit(zoom, Edit(field="framing.focal_length_mm", text="100"))
    assert "mm" not in "".join(word.text for word in aside(make_shot())["time"])
