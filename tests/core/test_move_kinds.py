"""A move on an inclined slider, under roll, at another speed, repeating, and at the ends of what may be typed."""

import json

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st
from pydantic import ValidationError

from revani.core.documents import ClockStart, FilmTime, FrameNumber, Light, Pace, Shot
from revani.core.documents.timing import Timing
from revani.core.edit.apply import Edit, apply_edit
from revani.core.edit.keys import MoveEdit, apply_move_edit
from revani.core.edit.moves_to_begin_with import presets
from revani.core.findings import judge
from revani.core.move.axes import middle_mm
from revani.core.move.overload import over_speed_or_force
from revani.core.move.words import show_moment
from revani.core.program.compiled import compile_shot
from revani.core.quantities.refusal import Refusal
from revani.core.shown.loom_move import turning_points
from revani.core.shown.move_table import move_table
from revani.exports.findings import findings_json
from tests.core.moving import KILN, axis, key, pass_, rig, shot_of

LIVE = Edit(field="move.kind", text="at live speed")


def ids(shot: Shot) -> set[str]:
    return {one.id for one in judge(compile_shot(shot))}


@given(st.floats(0, 80), st.floats(-30, 30), st.floats(0.1, 0.9), st.floats(0.1, 0.9))
def test_a_locked_aim_holds_on_a_slope_and_under_roll(steep: float, roll: float, across: float, down: float) -> None:
    things = [KILN.model_copy(update={"y_mm": 6000.0}).model_dump()]
    shot = shot_of(
        key(0, slide=0, roll=-roll), key(18_000, slide=1000, roll=roll), axes=("slide", "pan", "tilt", "roll"),
        things=things, aim={"thing": "Kiln", "across": across, "down": down}, incline_deg=steep,
    )  # fmt: skip
    program = compile_shot(shot)
    assert program.motion and shot.move
    x, y, depth = program.motion.frame_pose.sees(shot, middle_mm(shot.move.things[0]))
    assert (depth > 0).all() and np.abs(x - across).max() < 1e-9 and np.abs(y - down).max() < 1e-9


def test_along_a_slope_of_30_degrees_a_metre_lifts_the_camera_by_half_of_one() -> None:
    thing = KILN.model_copy(update={"x_mm": 866.0, "y_mm": 1600.0, "base_mm": -850.0})
    shot = pass_(things=[thing.model_dump()], aim={"thing": "Kiln"}, incline_deg=30)
    motion = compile_shot(shot).motion
    flat = compile_shot(shot.with_move(incline_deg=0)).motion
    assert motion and flat
    tilt = motion.at(np.array([0.0, 18_000.0]))["tilt"]
    # By hand: from 100 mm to 1100 mm along the slope; the kiln's middle is level with the slider's zero.
    end = np.array([1100 * np.cos(np.pi / 6), 0, 1100 * np.sin(np.pi / 6)])
    away = np.array([866, 1600, 0]) - end
    assert tilt[1] == pytest.approx(np.degrees(np.arcsin(away[2] / np.linalg.norm(away))), abs=1e-6)
    assert abs(tilt[1] - flat.at(np.array(18_000.0))["tilt"]) > 17
    table = move_table(compile_shot(shot), 600)
    assert table.travelled == pytest.approx([100 * np.cos(np.pi / 6), 1100 * np.cos(np.pi / 6)])
    assert table.slide_per_mm == pytest.approx(1 / np.cos(np.pi / 6))


@pytest.mark.parametrize(
    "shot",
    [
        pass_(),
        pass_(pace=Pace(night_factor=3)),
        shot_of(key(0, slide=0), key(FrameNumber(number=300), slide=500), key(ClockStart(time="19:00"), slide=900)),
        shot_of(key(0, slide=0), key(FilmTime(film_s=10), slide=1200), key(18_000, slide=0), path="smooth"),
        shot_of(key(0, slide=0), key(60, slide=1200), timing=Timing(fps=24, interval_s=30, event_s=14 * 3600)),
        shot_of(key(0, slide=0), key(20, slide=1000), repeat="ping-pong"),
        pass_(things=[KILN.model_dump()], aim={"thing": "Kiln"}),
        pass_(light=Light(school="fixed", aperture=2.8, shutter_s=20)),
    ],
    ids=["pass", "paced", "by frame and clock", "smooth", "long", "back and forth", "locked", "held"],
)
def test_a_shot_that_goes_live_can_be_filmed_by_its_rig_and_comes_back(shot: Shot) -> None:
    live = apply_edit(shot, LIVE)
    program = compile_shot(live)
    assert live.pace is None and program.timing.interval_s * program.timing.fps == 1
    assert program.timing.event_s >= min(60, compile_shot(shot).timing.event_s)
    assert over_speed_or_force(program.motion, program.start_s) == ([], [])
    assert live.light.shutter_s <= 1 / program.timing.fps or live.light.school != "fixed"
    moments = [one for one in program.key_moments_s]
    assert moments == sorted(moments)
    again = compile_shot(apply_edit(live, Edit(field="move.kind", text="without stopping")))
    assert again.timing.interval_s >= again.shot.kit.body.minimum_interval_s


def test_a_film_at_live_speed_with_a_pace_or_too_long_a_shutter_is_refused_at_its_field() -> None:
    live = apply_edit(pass_(light=Light(school="fixed", aperture=2.8)), LIVE)
    with pytest.raises(Refusal, match="At most 1/30 s") as refusal:
        compile_shot(apply_edit(live, Edit(field="light.shutter_s", text="1/15")))
    assert refusal.value.path == "light.shutter_s"
    assert compile_shot(apply_edit(live, Edit(field="light.shutter_s", text="1/30")))
    with pytest.raises(Refusal) as refusal:
        compile_shot(apply_edit(live, Edit(field="pace", text="longer by night")))
    assert refusal.value.path == "pace"


def test_a_preset_keeps_what_was_set_up_by_hand() -> None:
    shot = pass_(incline_deg=7, on_stall="hold", blur_limit_px=11, things=[KILN.model_dump()], kind="stepwise")
    for one in presets(shot):
        if one.shot is not None and one.shot.move is not None:
            kept = one.shot.move
            assert (kept.incline_deg, kept.on_stall, kept.blur_limit_px, kept.kind) == (7, "hold", 11, "stepwise")
            assert kept.things


def test_a_repeating_move_that_the_frames_only_sample_is_told_and_its_fix_shows_it() -> None:
    shot = shot_of(
        key(0, slide=0), key(20, slide=1000), repeat="ping-pong", timing=Timing(fps=30, interval_s=12, event_s=7200),
        light=Light(aperture=2.8, shutter_s=5),
    )  # fmt: skip
    told = next(one for one in judge(compile_shot(shot)) if one.id == "move.sampled")
    assert told.severity == "fix" and "3.3 frames a round" in told.figures
    fixed = told.fixes[0].shot
    assert "move.sampled" not in ids(fixed) and compile_shot(fixed).key_moments_s == (0, 7200)
    slow = shot_of(key(0, slide=0), key(600, slide=1000), repeat="ping-pong")
    assert "move.sampled" not in ids(slow)
    assert "move.sampled" not in ids(shot_of(key(0, slide=0), key(20, slide=1000)))


def test_what_strobes_is_made_less_of_and_nothing_else() -> None:
    timing = Timing(fps=25, interval_s="1/25", event_s=6)
    light = Light(school="fixed", aperture=2.8, shutter_s="1/50")
    kit = rig(axis("slide"), axis("pan", speed=500, acceleration=5000))
    whip = shot_of(
        key(0, slide=0, pan=-80), key(3, slide=200, pan=80), kind="live", timing=timing, light=light, kit=kit
    )
    told = next(one for one in judge(compile_shot(whip)) if one.id == "move.strobes")
    labels = [fix.label for fix in told.fixes]
    assert "Less pan" in labels and "Less slide" not in labels
    assert "move.strobes" not in ids(told.fixes[labels.index("Less pan")].shot)


def test_eases_that_are_soft_already_are_not_offered_again() -> None:
    timing = Timing(fps=25, interval_s="1/25", event_s=20)
    hard = shot_of(key(0, slide=0), key(2, slide=1200), kind="live", timing=timing, kit=rig(axis("slide", speed=9000)))
    told = next(one for one in judge(compile_shot(hard)) if one.id == "move.acceleration")
    assert told.fixes and not [fix for fix in told.fixes if fix.label.startswith("Ease")]


@pytest.mark.parametrize(
    ("name", "value"),
    [("slide", 1e9), ("slide", 1e17), ("pan", -1e9), ("zoom", 0), ("zoom", 1e4), ("focus", -2), ("focus", 0)],
)
def test_a_key_has_bounds_and_says_them(name: str, value: float) -> None:
    document = json.loads(pass_().model_dump_json())
    document["move"]["keys"][0]["positions"][name] = value
    with pytest.raises(ValidationError) as error:
        Shot.model_validate(document)
    assert "move.keys.0.positions" in ".".join(str(part) for part in error.value.errors()[0]["loc"])


def test_at_the_bounds_of_a_key_everything_is_judged_in_finite_numbers() -> None:
    far = shot_of(key(0, slide=-1e6, pan=-1e6), key(18_000, slide=1e6, pan=1e6, tilt=1e6))
    program = compile_shot(far)
    for one in judge(program):
        assert "inf" not in one.figures and "nan" not in one.figures
    json.loads(findings_json(program), parse_constant=pytest.fail)


def test_a_key_that_is_set_next_to_a_frame_stands_on_it() -> None:
    program = compile_shot(shot_of(key(9000, slide=500)))
    for off, expected in ((0.015, 0.0), (30.04, 30.0), (29.96, 30.0), (45.0, 45.0)):
        edit = MoveEdit(action="set", at_s=program.start_s + off, positions={"slide": 100})
        after = apply_move_edit(program, edit)
        assert after.move and after.move.keys[0].at.after_s == expected  # type: ignore[union-attr]
    first = apply_move_edit(program, MoveEdit(action="set", at_s=program.start_s + 0.015, positions={"slide": 1}))
    assert first.move and show_moment(first.move.keys[0].at, first) == "+ 0 s"


def test_turning_points_stand_before_a_film_is_armed() -> None:
    timing = Timing.model_validate({"fps": 30, "interval_s": "1/30", "event_s": 70})
    film = shot_of(key(0, slide=0), key(20, slide=1000), kind="live", repeat="ping-pong", timing=timing)
    assert turning_points(compile_shot(film)) == ["20 s", "40 s", "1 min"]
    assert turning_points(compile_shot(pass_())) == []


def test_focus_is_brought_into_its_range_on_the_lenss_own_scale() -> None:
    # The marks go from 100 m at 0 to 0.5 m at 100; the motor reaches 10 to 90 of them.
    kit = rig(axis("focus", low=10, high=90))
    shot = shot_of(key(0, focus=0.5), key(18_000, focus=100), kit=kit)
    told = next(one for one in judge(compile_shot(shot)) if one.id == "move.range")
    fixed = Shot.model_validate_json(told.fixes[0].shot.model_dump_json())
    assert fixed.move and 0.5 < fixed.move.keys[0].positions["focus"] < 1
    assert 2 < fixed.move.keys[1].positions["focus"] < 100
    assert "move.range" not in ids(fixed)
    bare = kit.model_copy(update={"lens": kit.lens.model_copy(update={"focus_marks": ()})})
    zero = shot_of(
        key(0, focus=5), key(18_000, focus=200), kit=bare.model_copy(update={"movers": rig(axis("focus")).movers})
    )
    for one in judge(compile_shot(zero)):
        for fix in one.fixes:
            Shot.model_validate_json(fix.shot.model_dump_json())
