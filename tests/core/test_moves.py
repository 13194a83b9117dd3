"""Moves: closed forms, paths, aim lock, limits, edits, files, and what findings say of them."""

import csv
import io

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st
from scipy.integrate import cumulative_trapezoid
from scipy.interpolate import PchipInterpolator

from revani.core.documents import (
    Ease,
    FilmTime,
    FrameNumber,
    Light,
    MoveKey,
    RidgeEvent,
    Shot,
    Thing,
)
from revani.core.documents.timing import Timing
from revani.core.edit.keys import MoveEdit, apply_move_edit
from revani.core.edit.moves_to_begin_with import presets
from revani.core.findings import Finding, judge
from revani.core.move.axes import shifts_px, travel_s
from revani.core.move.leg import Leg, Ramp
from revani.core.move.overload import over_speed_or_force
from revani.core.move.path import locked_aim_deg
from revani.core.move.words import parse_ease, parse_moment, parse_position, show_ease, show_moment
from revani.core.optics.focus import distance_of, scale_of
from revani.core.optics.projection import depth_of_field, sharp_limits_m
from revani.core.program.compiled import Program, compile_shot
from revani.core.quantities.refusal import Refusal
from revani.core.shown.move_table import move_table
from revani.exports.move_csv import keys_from_csv, move_csv
from tests.conftest import make_place
from tests.core.moving import KILN, axis, key, pass_, rig, shot_of

# Closed forms ------------------------------------------------------------------------------------------


def test_a_leg_of_two_soft_halves_is_the_minimum_jerk_quintic() -> None:
    # Flash & Hogan 1985: 10τ³ − 15τ⁴ + 6τ⁵, peak speed 1.875 d/T, peak acceleration 5.7735 d/T².
    leg = Leg.between(Ease(), Ease(), 20)
    tau = np.linspace(0, 1, 401)
    assert leg.way(tau * 20) == pytest.approx(10 * tau**3 - 15 * tau**4 + 6 * tau**5, abs=1e-12)
    assert leg.cruise_per_s == pytest.approx(1.875 / 20)
    assert leg.ramped_per_s2 == pytest.approx(5.7735 / 20**2, rel=1e-5)


def test_the_four_foot_slide_in_20_s_with_5_s_ramps() -> None:
    # Common practice, no source: 1,219.2 mm in 20 s with 5 s ramps is 81.28 mm/s and 16.256 mm/s².
    leg = Leg.between(Ease(kind="linear", s=5), Ease(kind="linear", s=5), 20)
    assert leg.cruise_per_s * 1219.2 == pytest.approx(81.28)
    assert leg.ramped_per_s2 * 1219.2 == pytest.approx(16.256)


eases = st.one_of(
    st.just(Ease(kind="none")), st.just(Ease()),
    st.builds(lambda s: Ease(kind="linear", s=s), st.floats(0.1, 30)),
    st.builds(lambda s: Ease(kind="jerk", s=s), st.floats(0.1, 30)),
)  # fmt: skip


@given(eases, eases, st.floats(0.5, 100))
def test_every_leg_integrates_to_its_way_and_keeps_its_peaks(leave: Ease, arrive: Ease, duration: float) -> None:
    leg = Leg.between(leave, arrive, duration)
    t = np.linspace(0, duration, 4_001)
    # Against numerical integration of the speed (scipy).
    assert cumulative_trapezoid(leg.speed_per_s(t), t, initial=0) == pytest.approx(leg.way(t), abs=2e-3)
    assert leg.way([0, duration]) == pytest.approx([0, 1], abs=1e-9)
    assert (np.diff(leg.way(t)) >= -1e-12).all()
    assert np.gradient(leg.way(t), t).max() <= leg.cruise_per_s * (1 + 1e-6)
    if leg.up.s > 0 and leg.down.s > 0:
        inner = np.abs(np.diff(leg.way(t), 2)) / (t[1] - t[0]) ** 2
        assert np.quantile(inner, 0.999) <= leg.ramped_per_s2 * 1.01 + 1e-9


def test_ramps_that_do_not_fit_are_cut_alike_and_it_is_told() -> None:
    leg = Leg.between(Ease(kind="linear", s=30), Ease(kind="linear", s=10), 20)
    assert leg.shortened and (leg.up, leg.down) == (Ramp(15.0), Ramp(5.0))
    shot = pass_(ease=Ease(kind="linear", s=12_000))
    assert "move.ramps-cut" in ids(shot)


def test_travel_from_rest_to_rest_is_a_trapezoid_or_a_triangle() -> None:
    assert float(travel_s(100, 10, 5)) == pytest.approx(100 / 10 + 10 / 5)
    assert float(travel_s(5, 10, 5)) == pytest.approx(2 * np.sqrt(5 / 5))


# Paths -------------------------------------------------------------------------------------------------


def test_a_smooth_path_is_scipys_monotone_cubic_at_rest_at_its_ends_and_never_passes_a_key() -> None:
    keys = [(0.0, 100.0), (4000.0, 700.0), (6000.0, 800.0), (9000.0, 900.0), (17_000.0, 1200.0)]
    program = compile_shot(shot_of(*(key(t, slide=x) for t, x in keys), path="smooth"))
    assert program.motion
    got = program.motion.positions["slide"]
    theirs = PchipInterpolator(*zip(*keys, strict=True))(program.t_s)
    inside = (program.t_s >= 4000) & (program.t_s <= 9000)
    assert got[inside] == pytest.approx(theirs[inside])
    assert (np.diff(got[program.t_s <= 17_000]) >= -1e-9).all()
    hair = program.motion.at(np.array([0.0, 1.0, 16_999.0, 17_000.0]))["slide"]
    assert abs(np.diff(hair)[[0, 2]]).max() < 1e-4
    forces = program.motion.path.peaks("slide")[1]
    assert np.isfinite(forces).all() and not over_speed_or_force(program.motion, program.start_s)[1]


def test_a_smooth_path_rests_at_a_hold_and_may_have_one_key() -> None:
    program = compile_shot(shot_of(key(0, slide=0), key(6000, 3000, slide=500), key(15_000, slide=900), path="smooth"))
    assert program.motion
    at = program.motion.at(np.array([5999.0, 6000.0, 7000.0, 9000.0, 9001.0]))["slide"]
    assert at[[1, 2, 3]] == pytest.approx(500) and abs(at - 500).max() < 1e-3
    alone = compile_shot(shot_of(key(100, slide=300), path="smooth"))
    assert alone.motion and (alone.motion.positions["slide"] == 300).all()
    assert judge(alone)


def test_a_key_that_is_passed_at_even_speed_is_no_jolt_and_one_that_is_not_is_told() -> None:
    none = Ease(kind="none")
    soft = {"kind": "jerk"}
    ends = [key(0, slide=0), key(9000, slide=600), key(18_000, slide=1200)]
    ends[0] = ends[0].model_copy(update={"leave": Ease.model_validate({"kind": "linear", "s": 60}), "arrive": none})
    ends[1] = ends[1].model_copy(update={"leave": none, "arrive": none})
    ends[2] = ends[2].model_copy(update={"arrive": Ease.model_validate({"kind": "linear", "s": 60}), "leave": none})
    even = compile_shot(shot_of(*ends))
    assert even.motion and np.isfinite(even.motion.path.peaks("slide")[1]).all()
    assert "move.acceleration" not in ids(even.shot)
    uneven = shot_of(*(ends[0], ends[1].model_copy(update={"positions": {"slide": 900.0}}), ends[2]))
    assert "at once" in found(uneven, "move.acceleration").figures
    held = shot_of(ends[0], ends[1].model_copy(update={"hold_s": 60.0, "leave": Ease.model_validate(soft)}), ends[2])
    assert "at once" in found(held, "move.acceleration").figures


def test_axes_share_their_keys_hold_together_and_keep_what_a_key_does_not_name() -> None:
    shot = shot_of(key(0, slide=0, pan=-10), key(6000, 3000, slide=500), key(15_000, slide=900, pan=20))
    program = compile_shot(shot)
    assert program.motion
    at = program.motion.at(np.array([6000.0, 7500.0, 9000.0]))
    assert at["slide"] == pytest.approx(500) and at["pan"] == pytest.approx(-10)
    assert float(program.motion.at(np.array(15_000.0))["pan"]) == pytest.approx(20)


def test_moments_are_wall_time_film_time_frames_and_what_the_sun_does() -> None:
    place = make_place(horizon=[{"azimuth_deg": 0, "altitude_deg": 2}, {"azimuth_deg": 180, "altitude_deg": 2}])
    shot = shot_of(
        key(0, slide=0), key(RidgeEvent(), slide=100), key(FrameNumber(number=301), slide=500),
        key(FilmTime(film_s=15), slide=700), place=place,
    )  # fmt: skip
    program = compile_shot(shot)
    assert program.motion
    arrives = program.motion.path.knots.arrives_s
    ridge = next(
        one.at_s for one in program.events if one.name == "sun behind the ridge" and one.at_s > program.start_s
    )
    assert arrives == pytest.approx([0, ridge - program.start_s, 300 * 30, 450 * 30])


@pytest.mark.parametrize(
    ("keys", "path"),
    [
        ((key(0, slide=0), key(0, slide=100)), "move.keys.1.at"),
        ((key(0, 500, slide=0), key(300, slide=100)), "move.keys.1.at"),
        ((key(0, roll=0), key(300, roll=10)), "move.keys.0.positions.roll"),
        ((key(0, slide=0), key(99_999, slide=10)), "move.keys.1.at"),
        ((key(0, slide=0), key(RidgeEvent(event="sun over the ridge"), slide=10)), "move.keys.1.at"),
    ],
)
def test_keys_that_cannot_be_are_refused_at_their_field(keys: tuple[MoveKey, ...], path: str) -> None:
    with pytest.raises(Refusal) as refusal:
        compile_shot(shot_of(*keys))
    assert refusal.value.path == path


def test_ping_pong_turns_at_both_ends_and_a_loop_jumps() -> None:
    there = (key(0, slide=100), key(20, slide=500))
    timing = Timing(fps=25, interval_s="1/25", event_s=65)
    program = compile_shot(shot_of(*there, kind="live", repeat="ping-pong", timing=timing))
    assert program.motion
    assert program.motion.path.turns_s(65) == pytest.approx([20, 40, 60])
    where = program.motion.at(np.array([0.0, 10, 20, 30, 40, 60]))["slide"]
    assert where == pytest.approx([100, 300, 500, 300, 100, 500])
    looped = shot_of(*there, kind="live", repeat="loop", timing=timing)
    (finding,) = [one for one in judge(compile_shot(looped)) if one.id == "move.loop-jump"]
    assert finding.fixes[0].shot.move and finding.fixes[0].shot.move.repeat == "ping-pong"


# Aim, parallax, focus ----------------------------------------------------------------------------------


@given(
    st.floats(-3000, 3000), st.floats(400, 9000), st.floats(-800, 1500), st.floats(0.1, 0.9), st.floats(0.1, 0.9),
    st.floats(-1000, 1000),
)  # fmt: skip
def test_a_locked_aim_puts_its_target_where_a_brute_projection_finds_it(
    x: float, y: float, z: float, across: float, down: float, slide: float
) -> None:
    over = (36 / 24, 24 / 24)
    try:
        pan, tilt = locked_aim_deg([x, y, z], np.array([[slide, 0.0, 0.0]]), across, down, over)
    except Refusal:
        return
    p, t = np.radians(pan[0]), np.radians(tilt[0])
    # Turned by hand: first by pan about the vertical, then by tilt about the camera's own right.
    dx, dy = x - slide, y
    right, ahead = dx * np.cos(p) - dy * np.sin(p), dx * np.sin(p) + dy * np.cos(p)
    depth, up = ahead * np.cos(t) + z * np.sin(t), z * np.cos(t) - ahead * np.sin(t)
    assert depth > 0
    assert right / depth / over[0] + 0.5 == pytest.approx(across, abs=1e-9)
    assert 0.5 - up / depth / over[1] == pytest.approx(down, abs=1e-9)


def test_a_locked_aim_keeps_the_target_in_its_place_of_the_picture_all_the_way() -> None:
    shot = pass_(things=[KILN.model_dump()], aim={"thing": "Kiln", "across": 0.3, "down": 0.6})
    program = compile_shot(shot)
    assert program.motion
    x, y, _ = program.motion.pose(program.t_s).sees(shot, [600, 3000, -1200 + 850])
    assert x == pytest.approx(0.3, abs=1e-6) and y == pytest.approx(0.6, abs=1e-6)
    # Handbook: pan = atan2(tx − x, ty − y) for a target in the middle.
    middle = compile_shot(pass_(things=[KILN.model_dump()], aim={"thing": "Kiln"}))
    assert middle.motion
    slide = middle.motion.positions["slide"]
    assert middle.motion.positions["pan"] == pytest.approx(np.degrees(np.arctan2(600 - slide, 3000)), abs=1e-6)


def test_an_aim_that_needs_more_than_an_axis_has_is_a_finding_where_it_breaks() -> None:
    kit = rig(axis("slide"), axis("pan", low=-5, high=5))
    shot = pass_(kit=kit, things=[KILN.model_dump()], aim={"thing": "Kiln"})
    finding = found(shot, "move.range")
    assert "Pan" in finding.sentence and "locked aim" in finding.figures
    assert finding.from_s is not None and finding.from_s >= compile_shot(shot).start_s
    assert "move.range" not in ids(finding.fixes[0].shot)
    behind = KILN.model_copy(update={"y_mm": -500.0})
    with pytest.raises(Refusal) as refusal:
        compile_shot(pass_(things=[behind.model_dump()], aim={"thing": "Kiln"}))
    assert refusal.value.path == "move.aim"


def test_parallax_is_that_of_a_pinhole() -> None:
    near = Thing(name="Near", x_mm=600, y_mm=1500, base_mm=-100, height_mm=200)
    far = Thing(name="Far", x_mm=600, y_mm=6000, base_mm=-100, height_mm=200)
    program = compile_shot(
        pass_(things=[near.model_dump(), far.model_dump()], framing={"heading_deg": 0, "tilt_deg": 0})
    )
    assert program.motion
    shifts = shifts_px(
        program.motion, program.motion.pose(program.t_s[250:251]), program.motion.pose(program.t_s[350:351])
    )
    way = float(program.motion.positions["slide"][350] - program.motion.positions["slide"][250])
    # shift = f · Δx / (z · pitch), 24 mm on 6 µm; what is far away does not move.
    assert float(shifts["Near"][0]) == pytest.approx(24 * way / (1500 * 0.006))
    assert float(shifts["Far"][0]) == pytest.approx(float(shifts["Near"][0]) / 4)
    assert float(shifts["far away"][0]) == pytest.approx(0, abs=1e-9)


def test_focus_goes_through_its_marks_in_one_over_distance_and_back() -> None:
    marks = rig(axis("focus")).lens.focus_marks
    assert scale_of(marks, [100, 2, 0.5]) == pytest.approx([0, 50, 100])
    # Half way between 2 m and 0.5 m in dioptres is 0.8 m.
    assert float(scale_of(marks, 0.8)) == pytest.approx(75)
    assert distance_of(marks, scale_of(marks, [1.3, 5.0])) == pytest.approx([1.3, 5.0])


def test_sharp_limits_are_those_of_the_handbook() -> None:
    near, far = sharp_limits_m(50, 8, 5, 0.03)
    handbook = depth_of_field(50, 8, 5, 0.03)
    assert (float(near), float(far)) == pytest.approx((handbook.near_m, handbook.far_m))
    # 50 mm f/8 c 0.03: hyperfocal 10.467 m, from where on all is sharp to infinity.
    assert np.isinf(float(sharp_limits_m(50, 8, 10.47, 0.03)[1]))


def test_a_focus_pull_goes_between_two_subjects_and_one_left_soft_is_a_finding() -> None:
    things = [Thing(name="Hands", x_mm=0, y_mm=900), Thing(name="Face", x_mm=0, y_mm=4000)]
    keys = (key(0, focus=0.9, slide=0), key(600, focus=4.0))
    light = Light(school="fixed", aperture=2.8, shutter_s="1/60", iso=400)
    shot = shot_of(
        *keys, axes=("slide", "focus"), things=[one.model_dump() for one in things], light=light,
        framing={"focal_length_mm": 70, "tilt_deg": 0},
    )  # fmt: skip
    program = compile_shot(shot)
    assert program.motion
    half = float(program.motion.at(np.array(300.0))["focus"])
    assert 1 / half == pytest.approx((1 / 0.9 + 1 / 4.0) / 2)
    assert "move.focus" not in ids(shot_of(key(0, focus=4.0, slide=0), key(600, focus=4.1), axes=("slide", "focus"),
                                           things=[things[1].model_dump()], light=light))  # fmt: skip
    soft = shot_of(
        key(0, focus=0.5, slide=0), key(600, focus=0.6), axes=("slide", "focus"), things=[things[1].model_dump()],
        light=light, framing={"focal_length_mm": 70, "tilt_deg": 0},
    )  # fmt: skip
    assert "sharp" in found(soft, "move.focus").sentence


# Limits ------------------------------------------------------------------------------------------------


def ids(shot: Shot) -> set[str]:
    return {one.id for one in judge(compile_shot(shot))}


def found(shot: Shot, id: str) -> Finding:
    (one,) = [one for one in judge(compile_shot(shot)) if one.id == id]
    return one


def assert_kept(program: Program) -> None:
    """No sampled position, speed or acceleration is over a limit."""
    assert program.motion
    t = np.linspace(0, float(program.timing.event_s), 6001)
    for name, values in program.motion.at(t).items():
        limits = program.motion.axes[name]
        assert values.min() >= limits.low - 2e-6 and values.max() <= limits.high + 2e-6
        speed = np.diff(values) / np.diff(t)
        assert np.abs(speed).max() <= limits.speed * 1.002
        assert np.quantile(np.abs(np.diff(speed) / (t[1] - t[0])), 0.99) <= limits.acceleration * 1.01


@given(
    st.lists(
        st.tuples(st.floats(2, 60), st.floats(-100, 1400), st.floats(-90, 90), st.floats(0, 10)), min_size=2, max_size=6
    ),
    eases, st.sampled_from(["legs", "smooth"]),
)  # fmt: skip
def test_what_the_findings_call_kept_is_kept(
    raw: list[tuple[float, float, float, float]], ease: Ease, path: str
) -> None:
    at, keys = 0.0, []
    for gap, slide, pan, hold in raw:
        keys.append(key(at, hold, ease, slide=slide, pan=pan))
        at += gap + hold
    timing = Timing(fps=25, interval_s="1/25", event_s=max(60, int(at) + 2))
    shot = shot_of(
        *keys, path=path, kind="live", timing=timing, light=Light(school="fixed", aperture=2.8, shutter_s="1/50")
    )
    program = compile_shot(shot)
    said = {one.id for one in judge(program)}
    if not said & {"move.range", "move.speed", "move.acceleration"}:
        assert_kept(program)


def test_a_leg_that_is_too_fast_or_too_hard_offers_plans_that_are_kept() -> None:
    timing = Timing(fps=25, interval_s="1/25", event_s=30)
    light = Light(school="fixed", aperture=2.8, shutter_s="1/50")
    fast = shot_of(key(0, slide=0), key(4, slide=1200), kind="live", timing=timing, light=light)
    program = compile_shot(fast)
    speeds, forces = over_speed_or_force(program.motion, program.start_s)
    assert speeds and forces
    for id in ("move.speed", "move.acceleration"):
        finding = found(fast, id)
        assert finding.fixes and finding.from_s is not None
        for fix in finding.fixes:
            if fix.label != "Ease over half of each leg":
                assert id not in ids(fix.shot), fix.label
    hard = shot_of(key(0, slide=0, ease=Ease(kind="none")), key(20, slide=600, ease=Ease(kind="none")), kind="live",
                   timing=timing, light=light)  # fmt: skip
    assert "at once" in found(hard, "move.acceleration").figures
    assert "move.acceleration" not in ids(found(hard, "move.acceleration").fixes[0].shot)


def test_shoot_move_settle_takes_travel_and_settling_from_the_shutter_and_says_where_it_does_not_fit() -> None:
    kit = rig(axis("slide", settle_s=1, speed=2, acceleration=2))
    tight = pass_(kit=kit, kind="stepwise", timing=Timing(fps=30, interval_s=6, event_s=3600), event_s=3600,
                  light=Light(school="fixed", aperture=2.8, shutter_s=4, iso=400))  # fmt: skip
    program = compile_shot(tight)
    assert program.motion
    at = int(np.argmax(program.motion.travel_s))
    assert program.shutter_room_s[at] == pytest.approx(6 - 0.5 - program.motion.travel_s[at] - 1)
    finding = found(tight, "move.travel")
    assert "settling 1 s" in finding.figures
    for fix in finding.fixes:
        assert "move.travel" not in ids(fix.shot)
    # Positions stand on the axis's own steps.
    assert (
        np.abs(program.motion.positions["slide"] / 0.01 - np.round(program.motion.positions["slide"] / 0.01)).max()
        < 1e-6
    )


def test_each_thing_that_goes_wrong_with_a_move_is_said() -> None:
    thing = Thing(name="Post", role="foreground", x_mm=600, y_mm=900).model_dump()
    assert "move.staircase" in ids(pass_(kit=rig(axis("slide", step=5))))
    assert "move.backlash" in ids(shot_of(key(0, slide=0), key(5000, slide=500), key(9000, slide=100),
                                          kit=rig(axis("slide", backlash=0.3))))  # fmt: skip
    assert "move.payload" in ids(pass_(kit=rig(axis("slide"), payload_kg=0.5)))
    steep = pass_(incline_deg=20, kit=rig(axis("slide"), incline_deg=10))
    assert "move.incline" not in ids(found(steep, "move.incline").fixes[0].shot)
    bare = pass_()
    assert "move.no-foreground" not in ids(found(bare, "move.no-foreground").fixes[0].shot)
    blurred = pass_(
        things=[thing], light=Light(school="fixed", aperture=2.8, shutter_s=20), event_s=3000, framing={"tilt_deg": 0}
    )
    finding = found(blurred, "move.blur")
    assert "Post" in finding.figures and "move.blur" not in ids(finding.fixes[0].shot)
    assert "move.too-small" in ids(shot_of(key(0, pan=0), key(18_000, pan=0.2)))
    timing = Timing(fps=25, interval_s="1/25", event_s=6)
    light = Light(school="fixed", aperture=2.8, shutter_s="1/50")
    whip = shot_of(key(0, pan=-80), key(3, pan=80), kind="live", timing=timing, light=light,
                   kit=rig(axis("pan", speed=500, acceleration=5000)))  # fmt: skip
    assert "move.strobes" in ids(whip)


def test_a_fix_is_a_document_that_can_be_sent_back_whatever_the_move() -> None:
    things = [Thing(name="Foreground", x_mm=0, y_mm=90_000), Thing(name="Foreground 2", x_mm=0, y_mm=95_000)]
    crowded = pass_(things=[one.model_dump() for one in things])
    absurd = shot_of(key(0, slide=0), key(0.02, slide=1e6), things=[])
    timing = Timing(fps=25, interval_s="1/25", event_s=3_000)
    long = shot_of(key(0, pan=0), key(0.1, pan=170), kind="live", timing=timing,
                   light=Light(school="fixed", aperture=2.8, shutter_s="1/50"))  # fmt: skip
    for shot in (crowded, absurd, long):
        for finding in judge(compile_shot(shot)):
            for fix in finding.fixes:
                again = Shot.model_validate_json(fix.shot.model_dump_json())
                assert compile_shot(again).frame_count >= 1


# Words, edits, files, presets --------------------------------------------------------------------------


@pytest.mark.parametrize(
    "text", ["+ 40 min", "frame 120", "film 4 s", "21:30", "sunset − 10 min", "sun behind the ridge", "+ 2.5 s"]
)
def test_moments_read_back_as_they_are_shown(text: str) -> None:
    shot = pass_()
    assert show_moment(parse_moment(text), shot) == text
    assert parse_moment(show_moment(parse_moment(text), shot)) == parse_moment(text)


def test_positions_are_typed_in_metric_and_imperial_and_eases_in_words() -> None:
    assert parse_position("slide", "4 ft") == pytest.approx(1219.2)
    assert parse_position("slide", '12"') == pytest.approx(304.8)
    assert parse_position("focus", "1.5") == 1.5 and parse_position("focus", "150 cm") == pytest.approx(1.5)
    assert parse_position("pan", "−3.5°") == -3.5
    for text in ("none", "even 5 s", "soft", "soft 3 s"):
        assert show_ease(parse_ease(text)) == text
    for axis_name, text in (("slide", "5°"), ("pan", "3 mm"), ("slide", "far")):
        with pytest.raises(Refusal):
            parse_position(axis_name, text)  # type: ignore[arg-type]


def test_keys_are_set_dragged_doubled_mirrored_reversed_stretched_and_snapped() -> None:
    program = compile_shot(shot_of(key(0, slide=100), key(6000, 600, slide=900)))

    def after(action: str, **more: object) -> Shot:
        return apply_move_edit(program, MoveEdit.model_validate({"action": action} | more))

    def keys(shot: Shot) -> list[tuple[float, float]]:
        assert shot.move
        return [(one.at.after_s, one.positions["slide"]) for one in shot.move.keys]  # type: ignore[union-attr]

    at = program.start_s + 3000
    assert keys(after("set", at_s=at, positions={"slide": 300}))[1] == (3000, 300)
    assert keys(after("set", at_s=at))[1] == pytest.approx((3000, 500))
    assert keys(after("drag", index=1, at_s=at, positions={"slide": 777}))[1] == (3000, 777)
    assert len(keys(after("duplicate", index=0))) == 3 and len(keys(after("remove", index=0))) == 1
    assert keys(after("mirror")) == [(0, 900), (6000, 100)]
    assert keys(after("reverse")) == [(0, 900), (6600, 100)]
    stretched = keys(after("stretch"))
    assert stretched[0][0] == 0 and stretched[1][0] == pytest.approx(18_000 * 6000 / 6600)
    snapped = after("snap")
    assert snapped.move and isinstance(snapped.move.keys[1].at, FrameNumber) and snapped.move.keys[1].at.number == 201
    with pytest.raises(Refusal):
        after("remove", index=7)


def test_dragging_the_picture_turns_the_camera_by_just_that_much() -> None:
    program = compile_shot(shot_of(key(0, pan=0, tilt=0), key(18_000, pan=10, tilt=5)))
    aimed = apply_move_edit(program, MoveEdit(action="aim", at_s=program.start_s, across=0.25, down=-0.1))
    assert aimed.move
    # 24 mm on 36 × 24: a quarter of the width is atan(0.25 · 36 / 24).
    assert aimed.move.keys[0].positions["pan"] == pytest.approx(np.degrees(np.arctan(0.25 * 1.5)), abs=1e-3)
    assert aimed.move.keys[0].positions["tilt"] == pytest.approx(np.degrees(np.arctan(0.1)), abs=1e-3)


def test_a_move_is_written_as_csv_a_frame_and_keys_are_read_from_csv() -> None:
    program = compile_shot(pass_())
    rows = list(csv.DictReader(io.StringIO(move_csv(program))))
    assert len(rows) == 600 and float(rows[0]["slide"]) == 100 and 1099 < float(rows[-1]["slide"]) <= 1100
    read = keys_from_csv(pass_(), "after_s,slide,hold_s\n0,50,\n600,700,30\n")
    assert read.move and [one.positions["slide"] for one in read.move.keys] == [50, 700]
    assert read.move.keys[1].hold_s == 30


@pytest.mark.parametrize(
    ("text", "line"),
    [
        ("", "line 1"), ("after_s,wings\n0,1\n", "line 1"), ("after_s,roll\n0,1\n", "line 1"),
        ("after_s,slide\n0,1\n5,far\n", "line 3"), ("after_s,slide\n0,1\n5\n", "line 3"),
        ("after_s,slide\n9,1\n5,2\n", "line 3"), ("after_s,slide\n0,nan\n", "line 2"), ("after_s,slide\n", "line 2"),
    ],
)  # fmt: skip
def test_a_bad_line_of_a_csv_is_refused_by_its_number(text: str, line: str) -> None:
    with pytest.raises(Refusal) as refusal:
        keys_from_csv(pass_(), text)
    assert refusal.value.path == line


def test_presets_stay_within_the_rig_and_name_what_is_missing() -> None:
    for timing in (Timing(fps=30, interval_s=30, playback_s=20), Timing(fps=30, interval_s="0.6", playback_s=2)):
        bare = shot_of(axes=("slide", "pan", "tilt"), timing=timing, light=Light(aperture=2.8, shutter_s="1/60"))
        made = {one.name: one for one in presets(bare)}
        assert made["Rise and reveal"].missing and made["Rise and reveal"].shot is None
        for one in made.values():
            if one.shot is not None:
                assert not ids(one.shot) & {"move.range", "move.speed", "move.acceleration"}, one.name


def test_the_move_table_stands_to_scale_and_its_picture_shows_what_the_camera_sees() -> None:
    shot = pass_(things=[KILN.model_dump()], aim={"thing": "Kiln"})
    table = move_table(compile_shot(shot), 300)
    assert table.slider == [0, 1300] and table.travelled == pytest.approx([100, 1100], abs=0.5)
    left, ahead, right = (np.array(end) - (table.camera_x_mm, 0) for end in table.view)
    # Half of 73.74° to either side of where it looks, and all three reach the border.
    turned = [np.degrees(np.arctan2(*end)) for end in (left, ahead, right)]
    assert turned[1] - turned[0] == pytest.approx(36.87, abs=0.01) == turned[2] - turned[1]
    assert {round(float(np.hypot(*end))) for end in (left, ahead, right)} == {round(table.extent_mm * 1.1)}
    (board,) = table.boards
    assert (board.left + board.right) / 2 == pytest.approx(0.5, abs=5e-3)
    # h f / (z p): 1.7 m at about 3 m through 24 mm on a sensor 24 mm high.
    assert board.bottom - board.top == pytest.approx(1.7 / 3.0, rel=0.05)
    assert any("px to the next frame" in line for line in table.told)
