"""Findings that judge what the program does: films by their stream, movers by their battery, nights as they are."""

from datetime import date
from fractions import Fraction

import numpy as np
import pytest

from revani.core.documents import ClockStart, Filter, Light, Pace, Shot, SunStart
from revani.core.documents.timing import Timing
from revani.core.edit.fitting import compile_fitted
from revani.core.findings import Finding, judge
from revani.core.light.scene import scene_ev100
from revani.core.program.compiled import compile_shot
from revani.core.quantities.units import in_stops
from revani.core.rehearsal.outcome import rehearse
from tests.conftest import make_kit, make_place, make_shot
from tests.core.moving import axis, key, rig, shot_of

DEEP_NIGHT = ClockStart(time="22:00")
HOUR = 3600


def found(shot: Shot, id: str) -> Finding | None:
    return next((one for one in judge(compile_shot(shot)) if one.id == id), None)


def live(minutes: float, capacity_gb: float = 128) -> Shot:
    kit = rig(axis("slide"))
    card = kit.card.model_copy(update={"capacity_gb": capacity_gb})
    timing = Timing.model_validate({"fps": 30, "interval_s": "1/30", "event_s": minutes * 60})
    keys = (key(0, slide=200), key(20, slide=1000))
    return shot_of(*keys, kit=kit.model_copy(update={"card": card}), timing=timing, kind="live", repeat="ping-pong")


def test_a_film_is_judged_by_its_stream_and_not_by_stills() -> None:
    # 25 min at 100 Mbit/s are 18.75 GB: they fit on 32 GB, and not on 16.
    assert found(live(25, 32), "feed.card-small") is None
    told = found(live(25, 16), "feed.card-small")
    assert told and told.severity == "fix" and "100 Mbit/s are 18.8 GB" in told.figures and "MB" not in told.figures
    (fix,) = told.fixes
    assert found(fix.shot, "feed.card-small") is None
    assert compile_shot(fix.shot).timing.event_s * 12_500_000 <= 16e9 * 9 / 10


def powered(on_stall: str) -> Shot:
    """A mover whose battery is empty after half of the shot: 5 Wh at 2 W are 2.5 h of 5."""
    kit = rig(axis("slide"), battery_wh=5, moving_w=2, idle_w=2)
    return shot_of(key(0, slide=100), key(18_000, slide=900), kit=kit, on_stall=on_stall)


def test_a_movers_empty_battery_ends_the_rehearsal_or_leaves_the_rig_standing_as_its_finding_says() -> None:
    ended = rehearse(compile_shot(powered("end")))
    assert (
        ended.end == "battery empty" and ended.emptied == "Test rig" and ended.frames_taken == pytest.approx(300, abs=2)
    )
    assert "the battery of Test rig is empty" in ended.told
    going_on = rehearse(compile_shot(powered("hold")))
    assert going_on.end == "whole" and "the rig stands still, its battery empty" in going_on.told
    told = found(powered("end"), "feed.mover-battery")
    assert told and told.from_s is not None and abs(told.from_s - ended.ends_at_s) < 61


def automatic(ceiling: int, **change: object) -> Shot:
    kit = make_kit(body={"iso_max": 102_400, "automatic_order": "ISO first"}, lens={"aperture_widest": 1.8})
    light = Light(school="automatic", aperture=1.8, iso=100, iso_ceiling=ceiling)
    timing = Timing(fps=30, interval_s=31, event_s=3 * HOUR)
    return make_shot(**{"kit": kit, "light": light, "timing": timing, "start": DEEP_NIGHT} | change)


def test_a_high_ceiling_shortens_the_shutter_when_the_whole_shot_is_dark_too() -> None:
    """In full dark (common practice): a ceiling of 64,000 gives about 2.5 s, one of 100 the longest shutter."""
    # A moonless sky of 21.7 mag, the camera on it.
    dark = automatic(64_000, date=date(2026, 11, 9))
    shutter = float(np.median(compile_shot(dark).exposures.shutter_s))
    assert 1.5 < shutter < 4
    told = found(dark, "exposure.iso-ceiling-shortens")
    assert told and "not 30 s" in told.sentence
    longest = compile_shot(told.fixes[-1].shot)
    assert float(longest.exposures.shutter_s.min()) == pytest.approx(30, rel=0.02)
    assert float(np.log2(longest.exposures.shutter_s.min() / shutter)) == pytest.approx(3.6, abs=0.4)
    # The other fix keeps the brightness: no frame is darker than it was.
    even = compile_shot(told.fixes[0].shot)
    assert even.exposures.shutter_s.min() > shutter * 2
    assert even.exposures.error_stops.min() >= compile_shot(dark).exposures.error_stops.min() - 0.4
    assert found(automatic(100, date=date(2026, 11, 9)), "exposure.iso-ceiling-shortens") is None


def test_the_manual_limit_is_no_matter_where_the_body_exposes_by_itself() -> None:
    kit = make_kit(body={"manual_shutter_max_s": 1, "bulb": False})
    for school in ("automatic", "aperture priority"):
        light = Light.model_validate({"school": school, "aperture": 2.8, "shutter_s": 20})
        assert found(make_shot(kit=kit, light=light, start=DEEP_NIGHT), "exposure.manual-limit") is None
    held = Light(school="fixed", aperture=2.8, shutter_s=20)
    assert found(make_shot(kit=kit, light=held, start=DEEP_NIGHT), "exposure.manual-limit")


def test_in_the_dark_held_iso_is_opened_as_iso_and_a_shutter_only_up_to_the_bodys_limit() -> None:
    kit = make_kit(body={"automatic_shutter_max_s": 4})
    light = Light(school="aperture priority", aperture=4, iso=100)
    told = found(make_shot(kit=kit, light=light, start=DEEP_NIGHT), "exposure.too-dark")
    assert told and [fix for fix in told.fixes if fix.label.startswith("Hold ISO")]
    for fix in told.fixes:
        assert compile_shot(fix.shot).exposures.shutter_s.max() <= 4.001
    assert not [fix for fix in told.fixes if "longer shutter" in fix.label]


def test_dark_frames_are_told_where_the_rig_steps() -> None:
    kit = rig(axis("slide", settle_s=1))
    change = {"kit": kit, "kind": "stepwise", "timing": Timing(fps=30, interval_s=16, event_s=HOUR)}
    keys = (key(0, slide=0), key(HOUR, slide=1000))
    light = Light(school="fixed", aperture=2.8, shutter_s=8)
    assert found(shot_of(*keys, light=light, **change), "move.travel") is None
    told = found(shot_of(*keys, light=light.model_copy(update={"noise_reduction": True}), **change), "move.travel")
    assert told and "a dark frame after each" in told.figures


def test_a_pace_is_judged_by_its_shortest_interval_whenever_that_is() -> None:
    kit = make_kit(body={"minimum_interval_s": 2, "overhead_s": "0.2"})
    light = Light(aperture=2.8, shutter_s=1)
    by_night = make_shot(kit=kit, light=light, pace=Pace(night_factor=Fraction(1, 10)),
                         timing=Timing(fps=30, interval_s=10, frame_count=600))  # fmt: skip
    told = found(by_night, "timing.interval-too-short")
    assert told and "A frame every 1 s is too fast" in told.sentence
    for fix in told.fixes:
        assert found(fix.shot, "timing.interval-too-short") is None
    fine = by_night.model_copy(update={"pace": Pace(night_factor=3)})
    assert found(fine, "timing.interval-too-short") is None


def test_an_event_over_a_day_is_told_even_where_no_dark_is_needed() -> None:
    """30 s of film at 30 fps with a frame every 2 min take 30 h (common practice)."""
    long = make_shot(timing=Timing(fps=30, interval_s=120, playback_s=30))
    told = found(long, "time.over-a-day")
    assert told and "30 h 00 min" in told.sentence and told.severity == "mind"
    for fix in told.fixes:
        assert found(fix.shot, "time.over-a-day") is None
    assert found(make_shot(timing=Timing(fps=30, interval_s=96, playback_s=30)), "time.over-a-day") is None


def test_what_is_longer_than_a_few_pixels_is_no_point_whatever_the_aperture() -> None:
    # NPF at f/16 forgives (16.856 · 16 + 0.0997 · 24 + 13.713 · 6) / 24 ≈ 14.8 s, in which a star moves 4.3 px.
    light = Light(school="fixed", aperture=16, shutter_s=13, iso=12_800)
    far = make_shot(light=light, needs_dark=True, start=DEEP_NIGHT, framing={"heading_deg": 180, "tilt_deg": 30})
    assert found(far, "night.points") is None
    told = found(far, "night.trailing")
    assert told and "over 3 px it shows" in told.figures
    fix = next(fix for fix in told.fixes if fix.label.startswith("At most"))
    assert found(fix.shot, "night.points")


def test_a_frame_that_is_a_stop_too_bright_has_its_fix() -> None:
    noon = {"start": ClockStart(time="12:00"), "timing": Timing(fps=30, interval_s=2, playback_s=5)}
    body = {"shutter_min_s": "1/500", "iso_min": 100}
    kit = make_kit(body=body, lens={"aperture_narrowest": 5.6})
    for school in ("automatic", "aperture priority", "stepped", "continuous", "fixed"):
        light = Light.model_validate(
            {"school": school, "aperture": 5.6, "iso": 200, "iso_ceiling": 800, "shutter_s": "1/60"}
        )
        shot = make_shot(kit=kit, light=light, **noon)
        told = found(shot, "exposure.too-bright")
        assert told and (told.fixes or "A filter of" in told.figures), school
    with_nd = kit.model_copy(update={"filters": (Filter(name="Dark", stops=6),)})
    light = Light(school="continuous", aperture=5.6, iso=400, shutter_s=1)
    told = found(make_shot(kit=with_nd, light=light, **noon), "exposure.too-bright")
    assert told and [fix for fix in told.fixes if fix.label == "Begin with Dark"]


@pytest.mark.parametrize(("value", "text"), [(1.0, "1 stop"), (0.0, "0 stops"), (2.36, "2.4 stops"), (1.04, "1 stop")])
def test_one_stop_is_one_stop(value: float, text: str) -> None:
    assert in_stops(value) == text


def test_iso_that_does_not_rise_is_not_said_to() -> None:
    held = Light(school="aperture priority", aperture=4, iso=100)
    shot = make_shot(light=held, start=DEEP_NIGHT, timing=Timing(fps=30, interval_s=5, event_s=HOUR))
    told = found(shot, "exposure.shutter-capped")
    assert told and "ISO rises" not in told.figures


def test_beyond_a_lens_a_place_and_a_night_the_nearest_is_planned_and_told() -> None:
    polar = make_place(latitude_deg=78, time_zone="Arctic/Longyearbyen")
    for shot, field, instead in (
        (make_shot(light=Light(aperture=1.0)), "light.aperture", "f/2.8"),
        (make_shot(place=polar, date=date(2026, 6, 20), start=SunStart(event="sunset")), "start", "it starts at 18:00"),
        (make_shot(place=make_place(time_zone="Europe/Zurich"), date=date(2026, 3, 29), start=ClockStart(time="02:30")),
         "start", "it starts at 03:30"),
        (shot_of(key(0, slide=0), key(9000, slide=100, pan=10), axes=("slide",)), "move.keys.1.positions.pan",
         "no key moves pan"),
        (make_shot(kit=make_kit(body={"overhead_s": 40})), "timing.interval_s", "a frame every 40.2 s"),
        (make_shot(pace=Pace(night_factor=Fraction(1, 100)), timing=Timing(fps=30, interval_s=1, playback_s=9),
                   light=Light(aperture=2.8, shutter_s=1)), "timing.interval_s", "the same interval throughout"),
    ):  # fmt: skip
        program = compile_fitted(shot)
        assert [(one.path, one.instead) for one in program.misfits] == [(field, instead)]


def test_the_scene_is_the_sky_of_the_program() -> None:
    program = compile_shot(automatic(64_000))
    again = scene_ev100(program.sky, program.at_s, 21.7, 0.0, program.scene_offset_stops)
    assert program.scene_ev == pytest.approx(again)
