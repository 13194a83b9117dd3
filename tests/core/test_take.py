"""Decisions on the body beside its exposure, and what each of them does to a shot."""

from fractions import Fraction

import numpy as np
import pytest

from revani.core.documents import Light, Shot
from revani.core.documents.gear import Usage
from revani.core.documents.take import Take
from revani.core.documents.timing import Timing
from revani.core.edit.apply import Edit, apply_edit
from revani.core.edit.fitting import compile_fitted
from revani.core.findings import Finding, judge
from revani.core.light.enough import hours_of_light, least_ev
from revani.core.light.firing import modes_for
from revani.core.optics.lens import lens_of
from revani.core.program.compiled import Program, compile_shot
from revani.core.rehearsal.outputs import compare_outputs
from revani.core.shown.dial_card import dial_card
from revani.core.shown.loom import lanes
from revani.core.shown.sentence import aside
from tests.conftest import make_kit, make_shot
from tests.core.moving import key
from tests.core.moving import shot_of as rigged
from tests.core.small import FILM, LAPSE, STILLS, film, shot_of, small, told


def dials(program: Program) -> dict[str, str]:
    return {row.dial: row.to for row in dial_card(program)}


def taken(finding: Finding | None, id: str) -> Shot:
    assert finding
    return next(fix.shot for fix in finding.fixes if fix.id == id)


def test_brackets_take_their_time_their_bytes_and_their_interval() -> None:
    kit = make_kit(body={"overhead_s": "0.5", "bytes_per_frame": 10_000_000, "frame_j": 6, "minimum_interval_s": 1})
    light = Light(school="fixed", aperture=8, shutter_s=1)
    timing = Timing(fps=30, interval_s=8, frame_count=90)
    plain = compile_shot(make_shot(kit=kit, light=light, timing=timing))
    shot = make_shot(kit=kit, light=light, timing=timing, take=Take(brackets=3, bracket_stops=2))
    program = compile_shot(shot)
    # Three frames at −2, 0 and +2 stops of 1 s are open for 1/4 + 1 + 4 s, and are stored three times.
    assert shot.held_times == Fraction(21, 4)
    assert program.card_bytes[-1] == 3 * plain.card_bytes[-1]
    assert program.shutter_room_s[0] == pytest.approx((8 - 1.5) / 5.25)
    assert told(plain, "timing.interval-too-short") is None and told(program, "timing.interval-too-short") is None
    short = make_shot(kit=kit, light=light, timing=Timing(fps=30, interval_s=6, frame_count=90), take=shot.take)
    finding = told(compile_shot(short), "timing.interval-too-short")
    # 5.25 s and 1.5 s to store are 6.75 s, on the trigger's tick of 0.1 s.
    assert finding and finding.fixes[0].shot.timing.interval_s == Fraction("6.8")


def test_brackets_are_those_of_stills_alone() -> None:
    assert film(take=Take(brackets=5)).held_times == 1
    assert "take.brackets" not in [word.field for word in aside(film(take=Take(brackets=5)))["feed"]]
    assert "take.brackets" in [word.field for word in aside(make_shot())["feed"]]
    own = shot_of(fires="own lapse film", mode="Lapse", take=Take(brackets=5))
    assert own.held_times == 1 and own.body.bytes_per_frame == own.kit.body.bytes_per_frame


def test_a_camera_held_upright_sees_upright() -> None:
    lying, upright = make_shot(), make_shot(take=Take(upright=True))
    assert (upright.body.pixels_wide, upright.body.pixels_high) == (lying.body.pixels_high, lying.body.pixels_wide)
    right = lens_of(upright).rays(np.array(1.0), np.array(0.5))
    forward = lens_of(upright).rays(np.array(0.5), np.array(0.5))
    # 24 mm before a sensor that is 24 mm wide now: half of 53.13° (closed form).
    assert np.degrees(np.arccos(right @ forward)) == pytest.approx(26.565, abs=0.01)
    assert upright.kit.body.used(Usage(upright=True)).sensor_width_mm == 24


def test_de_warping_makes_straight_and_costs_the_edge() -> None:
    bent = shot_of(mode="Night", keeps="JPEG")
    straight = bent.with_take(dewarp=True)
    edge = [float(lens_of(one).rays(np.array(1.0), np.array(0.5)) @ lens_of(one).rays(np.array(0.5), np.array(0.5)))
            for one in (bent, straight)]  # fmt: skip
    # Handbook: 117.8° equidistant become 91.6° straight.
    assert np.degrees(np.arccos(edge)) * 2 == pytest.approx([117.8, 91.6], abs=0.1)
    assert compile_shot(straight) and "lens correction" in dials(compile_shot(straight))
    assert any(word.field == "take.dewarp" for word in aside(bent)["feed"])
    assert not any(word.field == "take.dewarp" for word in aside(make_shot())["feed"])


def test_stabilising_takes_its_part_of_the_picture_and_is_told_on_a_stand() -> None:
    steady = film(take=Take(stabilising="on"))
    assert steady.body.sensor_width_mm == pytest.approx(film().body.sensor_width_mm * 0.9)
    lapse = shot_of(take=Take(stabilising="on"))
    finding = told(compile_shot(lapse), "take.steadied-on-a-stand")
    assert told(compile_shot(taken(finding, "stabilising-off")), "take.steadied-on-a-stand") is None
    moving = rigged(key(0, slide=100), key(600, slide=900), take=Take(stabilising="strong"))
    fights = told(compile_shot(moving), "take.steadied-on-a-stand")
    assert fights and "mover" in fights.sentence
    assert told(compile_shot(steady), "take.steadied-on-a-stand") is None


def test_what_is_steadied_needs_short_shutters_and_whole_files() -> None:
    # At 30 fps, 1/120 s at the longest.
    program = compile_shot(film(take=Take(stabilising="on")))
    finding = told(program, "take.too-long-to-steady")
    mended = taken(finding, "shutter-to-steady")
    assert mended.light.shutter_s == Fraction(1, 120)
    assert told(compile_shot(mended), "take.too-long-to-steady") is None
    parted = FILM.model_copy(update={"chapter_gb": 4.0})
    later = film(kit=make_kit(body=small(modes=(STILLS, parted))), take=Take(stabilising="afterwards"))
    chapters = told(compile_shot(later), "feed.chapters")
    assert chapters and chapters.severity == "fix"
    left = told(compile_shot(taken(chapters, "steady-in-the-body")), "feed.chapters")
    assert left and left.severity == "mind"


def test_an_autofocus_hunts_in_a_lapse_and_in_the_dark() -> None:
    finding = told(compile_shot(shot_of(take=Take(focus="single"))), "take.focus-hunts")
    assert finding and finding.severity == "fix"
    assert told(compile_shot(taken(finding, "manual-focus")), "take.focus-hunts") is None
    face = Take(focus="continuous on a face")
    assert told(compile_shot(film(take=face)), "take.focus-hunts") is None
    dark = told(compile_shot(film(take=face, start={"by": "clock", "time": "23:30"})), "take.focus-hunts")
    assert dark and dark.severity == "fix"
    blind = FILM.model_copy(update={"tracks": False, "name": "Fast"})
    lost = told(
        compile_shot(film(take=face, kit=make_kit(body=small(modes=(STILLS, blind, FILM))), mode="Fast")),
        "take.focus-loses",
    )
    assert lost and [fix.label for fix in lost.fixes] == ["Film in Film", "Focus by hand"]


def test_sound_is_judged_where_there_is_a_film() -> None:
    spoken = {"sound": "its own microphone", "wind_filter": True}
    good = compile_shot(film(take=Take.model_validate(spoken)))
    assert not {one.id for one in judge(good)} & {"take.sound-slowed", "take.wind", "take.level"}
    unlinked = compile_shot(film(take=Take.model_validate(spoken), fires="own timer"))
    assert dials(unlinked)["level"] == "peaks at −9 dBFS" and dials(unlinked)["telephone"] == "airplane mode"
    blown = told(compile_shot(film(take=Take(sound="its own microphone"))), "take.wind")
    assert taken(blown, "wind-filter").take.wind_filter
    loud = told(compile_shot(film(take=Take.model_validate(spoken | {"level_dbfs": -1}))), "take.level")
    assert loud and "cut off" in loud.sentence
    fast = FILM.model_copy(update={"rates": (30, 240)})
    slowed = apply_edit(
        film(kit=make_kit(body=small(modes=(STILLS, fast))), take=Take.model_validate(spoken)).with_light(
            shutter_s="1/480"
        ),
        Edit(field="recording", text="240"),
    )
    told_slow = told(compile_shot(slowed), "take.sound-slowed")
    assert told_slow and "8 ×" in told_slow.sentence
    # A lapse has no sound, whatever is set.
    assert told(compile_shot(shot_of(take=Take(sound="its own microphone"))), "take.wind") is None


def test_a_film_has_a_use_and_is_not_longer_than_that_bears() -> None:
    long = make_shot(timing=Timing(fps=30, interval_s=4, frame_count=3_000), take=Take(use="a feed"))
    finding = told(compile_shot(long), "take.too-long-for-use")
    assert finding and finding.sentence == "1 min 40 s are long for a feed."
    for fix in finding.fixes:
        assert told(compile_shot(fix.shot), "take.too-long-for-use") is None
    assert {fix.id for fix in finding.fixes} == {"further-apart", "stop-sooner"}
    assert told(compile_shot(long.with_take(use="for oneself")), "take.too-long-for-use") is None
    reel = make_shot(timing=Timing(fps=30, interval_s=4, frame_count=600), take=Take(use="an upright reel"))
    lies = told(compile_shot(reel), "take.lies")
    # 9:16 of 4,000 rows.
    assert lies and "2,250 × 4,000 px" in lies.figures
    assert told(compile_shot(taken(lies, "upright")), "take.lies") is None


def test_hours_of_light_are_those_in_which_the_slow_motion_is_bright_enough() -> None:
    fast = FILM.model_copy(update={"rates": (30, 240)})
    kit = make_kit(body=small(modes=(STILLS, fast)), lens={"focal_length_min_mm": 3, "focal_length_max_mm": 3})
    shot = film(kit=kit, timing=Timing.model_validate({"fps": 30, "interval_s": "1/240", "event_s": 20}))
    shot = shot.with_light(school="fixed", shutter_s="1/480", iso=100, aperture=2.8)
    dusk = shot.model_copy(update={"start": shot.start.model_copy(update={"time": "20:30"})})
    program = compile_shot(dusk)
    # EV at ISO 100 of 1/480 s at f/2.8: log2(2.8² × 480) = 11.9; three stops more than at 1/60.
    assert least_ev(dusk, program.timing) == pytest.approx(11.9, abs=0.1)
    at_60 = compile_shot(film(kit=kit).with_light(iso=100))
    assert least_ev(dusk, program.timing) - least_ev(at_60.shot, at_60.timing) == pytest.approx(3, abs=0.01)
    windows = hours_of_light(dusk, program.timing, program.sky)
    longer = hours_of_light(at_60.shot, at_60.timing, program.sky)
    assert windows and all(one.to_s < program.start_s or one.from_s > program.start_s for one in windows)
    assert sum(b - a for a, b in longer) > sum(b - a for a, b in windows)
    assert [(one.from_s, one.to_s) for one in lanes(program).light_enough] == windows
    assert lanes(program).light_enough_told == "Light enough for 240 fps: until 15:40, from 08:56."
    assert lanes(compile_shot(make_shot())).light_enough == []
    finding = told(program, "exposure.too-dark")
    brighter = taken(finding, "in-the-light")
    assert told(compile_shot(brighter), "exposure.too-dark") is None
    slower = taken(finding, "less-slowed")
    assert 1 / compile_shot(slower).timing.interval_s == 30 and slower.light.shutter_s == Fraction(1, 60)


def test_outputs_are_compared_by_what_they_leave_and_cost() -> None:
    shot = shot_of(timing=Timing(fps=30, interval_s=2, frame_count=600), mode="Stills")
    rows = {one.name: one for one in compare_outputs(compile_shot(shot))}
    assert list(rows) == ["raw", "JPEG", "raw and JPEG", "its own film"]
    assert rows["raw"].chosen and rows["raw"].size == "15 GB" and rows["raw"].crop_room == "2.1 ×"
    assert rows["raw and JPEG"].files == "1,200 files" and rows["raw"].work == "20 min"
    # 20 s of film at the body's 100 Mbit/s.
    assert rows["its own film"].size == "250 MB"
    own = shot
    for one in rows["its own film"].choose:
        own = apply_edit(own, Edit(field=one.field, text=one.text))
    assert (own.fires, own.mode) == ("own lapse film", LAPSE.name)
    back = own
    for one in next(row for row in compare_outputs(compile_fitted(own)) if row.name == "JPEG").choose:
        back = apply_edit(back, Edit(field=one.field, text=one.text))
    assert (back.fires, back.mode, back.keeps) == ("own timer", "Stills", "JPEG")
    films = compare_outputs(compile_shot(film()))
    assert [one.name for one in films] == ["Film"] and films[0].chosen and films[0].size == "5.4 GB"


def test_a_mode_that_cannot_be_linked_is_not_offered_to_who_links() -> None:
    alone = STILLS.model_copy(update={"afar": False})
    shot = shot_of(kit=make_kit(body=small(modes=(alone, FILM))), fires="own timer", mode="Stills")
    assert modes_for(shot) == (alone,)
    assert modes_for(shot.model_copy(update={"fires": "linked"})) == ()


def test_a_shot_that_runs_from_a_night_into_its_day_is_told_of() -> None:
    hours = {"start": {"by": "clock", "time": "02:00"}, "light": Light(school="automatic", aperture=2.8)}
    night = compile_shot(make_shot(**hours, timing=Timing(fps=30, interval_s=30, event_s=12 * 3600)))
    assert told(night, "time.over-the-night")
    dawn = compile_shot(make_shot(**hours, timing=Timing(fps=30, interval_s=30, event_s=4 * 3600)))
    assert told(dawn, "time.over-the-night") is None


def test_a_forgetful_mode_is_told_of_where_nobody_is_linked() -> None:
    forgets = STILLS.model_copy(update={"forgets": "its interval"})
    shot = shot_of(kit=make_kit(body=small(modes=(forgets,))), mode="Stills")
    assert told(compile_shot(shot), "take.forgets")
    linked = shot.model_copy(update={"fires": "linked"})
    assert told(compile_shot(linked), "take.forgets") is None
