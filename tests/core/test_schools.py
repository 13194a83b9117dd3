"""The body's own program, the five schools, flicker, and the findings that speak of them."""

from typing import get_args

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from revani.core.documents import Light, LightKey, Pace, School
from revani.core.documents.timing import Timing
from revani.core.findings import judge
from revani.core.light.dials import ev100, true_iso
from revani.core.light.exposing import LightOn, bias_stops, expose
from revani.core.light.firmware import Asked, Firmware
from revani.core.light.flicker import flicker_stops, smoothed_stops
from revani.core.light.white_balance import white_balance_k
from revani.core.program.compiled import compile_shot
from revani.core.quantities.refusal import Refusal
from revani.core.rehearsal.schools import compare_schools
from tests.conftest import make_kit, make_shot

ACTION = {
    "automatic_order": "ISO first", "manual_shutter_max_s": 1, "automatic_shutter_max_s": 30, "overhead_s": "0.4",
    "bulb": False, "iso_max": 6400,
}  # fmt: skip
DARK_EV = -3.0


def firmware(ceiling: int, room_s: float = 60, **body: object) -> Firmware:
    kit = make_kit(body=ACTION | body)
    return Firmware.of(kit.body, kit.lens, 24, Asked("automatic", 2.8, 100, ceiling), room_s)


def test_at_an_interval_of_3_s_the_shutter_cannot_reach_30_s() -> None:
    # Common practice, no source: what the interval has no room for, the body cuts without a word.
    assert float(firmware(100, room_s=2.6).take(DARK_EV).shutter_s) == pytest.approx(2.6)
    assert float(firmware(100, room_s=40).take(DARK_EV).shutter_s) == pytest.approx(30)


def test_a_high_iso_ceiling_makes_an_iso_first_body_shorten_the_shutter() -> None:
    # Common practice, no source.
    high, low = firmware(6400).take(DARK_EV), firmware(100).take(DARK_EV)
    assert float(high.iso) == pytest.approx(true_iso(6400)) and float(high.shutter_s) < 2
    assert float(low.iso) == pytest.approx(100) and float(low.shutter_s) == pytest.approx(30)


def test_a_shutter_first_body_does_the_opposite() -> None:
    taken = firmware(6400, automatic_order="shutter first").take(DARK_EV)
    assert float(taken.shutter_s) > 25 and float(taken.iso) < 6400 / 4


@given(st.floats(-8, 17), st.sampled_from([100, 800, 6400]), st.floats(0.5, 60), st.booleans())
def test_the_firmware_stays_within_its_limits_and_hits_the_light_where_it_can(
    ev: float, ceiling: int, room_s: float, iso_first: bool
) -> None:
    own = firmware(ceiling, room_s, automatic_order="ISO first" if iso_first else "shutter first")
    taken = own.take(ev)
    shutter, iso = float(taken.shutter_s), float(taken.iso)
    limit = min(room_s, 30)
    assert 2.0**-12 * 0.99 <= shutter <= limit * 1.001
    assert 99.9 <= iso <= true_iso(ceiling) * 1.001
    got = float(ev100(taken.aperture, shutter, iso))
    stuck = (shutter >= limit * 0.99 and iso >= true_iso(ceiling) * 0.99) or shutter <= 2.0**-12 * 1.01
    # The meter's third and, where a limit that is none cuts the shutter, that of the ISO.
    assert abs(got - ev) <= (1 / 6 if shutter < limit * 0.999 else 1 / 3) + 1e-6 or stuck


def test_the_widest_aperture_of_a_zoom_depends_on_its_focal_length() -> None:
    zoom = {
        "focal_length_min_mm": 35, "focal_length_max_mm": 105, "aperture_widest": 3.5, "aperture_widest_long": 5.6,
    }  # fmt: skip
    lens = make_kit(lens=zoom).lens
    assert (lens.widest_at(35), lens.widest_at(105)) == (3.5, 5.6)
    assert 3.5 < lens.widest_at(60) < 5.6
    framing = {"focal_length_mm": 105}
    with pytest.raises(Refusal) as refusal:
        compile_shot(make_shot(kit=make_kit(lens=zoom), framing=framing, light=Light(aperture=4)))
    assert refusal.value.path == "light.aperture" and "105 mm" in refusal.value.allowed


def program_in(school: School, **light: object):  # type: ignore[no-untyped-def]
    values = {"school": school, "aperture": 2.8, "iso_ceiling": 3200} | light
    return compile_shot(make_shot(light=Light.model_validate(values)))


@pytest.mark.parametrize("school", get_args(School))
def test_the_error_of_every_school_is_what_its_settings_miss_of_the_scene(school: School) -> None:
    program = program_in(school)
    got = program.exposures
    assert got.error_stops == pytest.approx(program.scene_ev - ev100(got.aperture, got.shutter_s, got.iso), abs=1e-9)
    assert (got.shutter_s <= program.shutter_room_s * 1.0001).all()


def test_the_schools_flicker_in_the_order_that_the_trade_knows() -> None:
    # Common practice, no source: what the body meters flickers, what is planned does not, what is held cannot.
    flicker = {one.school: one.flicker_stops for one in compare_schools(program_in("continuous"))}
    assert flicker["automatic"] > flicker["stepped"] > flicker["fixed"]
    assert flicker["continuous"] < flicker["automatic"] / 2
    assert flicker["automatic"] == pytest.approx(np.hypot(0.1, 1 / 3 / np.sqrt(12)), rel=0.25)


def test_choosing_a_school_is_a_document_and_what_a_kit_lacks_is_refused_there() -> None:
    outcomes = compare_schools(program_in("continuous"))
    assert [one.shot.light.school for one in outcomes] == list(get_args(School))
    assert [one.school for one in outcomes if one.chosen] == ["continuous"]
    small = compile_shot(make_shot(light=Light(school="fixed", aperture=2.8, iso=800, iso_ceiling=102_400)))
    assert "ISO" not in "".join(one.refused for one in compare_schools(small) if one.school != "fixed")


def test_flicker_is_the_spread_after_a_running_median_over_a_second() -> None:
    slow = np.sin(np.linspace(0, 3, 900))
    assert flicker_stops(slow, Timing(fps=30).fps) < 0.001  # type: ignore[arg-type]
    noise = np.random.default_rng(3).normal(0, 0.1, 900)
    fps = Timing(fps=30).fps
    assert fps
    assert flicker_stops(slow + noise, fps) == pytest.approx(0.1, rel=0.1)
    assert flicker_stops(smoothed_stops(slow + noise, fps), fps) < 0.03


def settings_of(levels: np.ndarray, **light: object):  # type: ignore[no-untyped-def]
    shot = make_shot(light=Light.model_validate({"school": "stepped", "aperture": 2.8, "shutter_s": 30} | light))
    on = LightOn(np.arange(levels.size) * 30.0, levels, np.zeros_like(levels), np.full_like(levels, 60.0))
    return expose(shot, on)


def steps_at(got) -> np.ndarray:  # type: ignore[no-untyped-def]
    level = np.log2(got.shutter_s * got.iso)
    return np.flatnonzero(np.abs(np.diff(level)) > 1e-6)


def test_a_stepped_ramp_goes_by_thirds_and_never_twice_within_its_hold() -> None:
    got = settings_of(np.linspace(8, 2, 900), hold_frames=10)
    level = np.log2(got.shutter_s * got.iso)
    jumps = np.diff(level)[steps_at(got)]
    assert jumps == pytest.approx(1 / 3, abs=1e-6)
    assert np.diff(steps_at(got)).min() >= 10
    assert np.abs(got.error_stops).max() < 0.25 + 1 / 3


def test_hysteresis_keeps_a_ramp_from_turning_at_every_ripple() -> None:
    ripple = 5 + 0.3 * np.sin(np.linspace(0, 60, 900))
    nervous = steps_at(settings_of(ripple, dead_band_stops=0.2, hysteresis_stops=0)).size
    calm = steps_at(settings_of(ripple, dead_band_stops=0.2, hysteresis_stops=0.4)).size
    assert calm <= nervous / 2


@given(st.lists(st.floats(-6, 15), min_size=2, max_size=40), st.floats(0.05, 5))
def test_no_ramp_changes_faster_than_its_rate(scene: list[float], rate: float) -> None:
    levels = np.repeat(np.array(scene), 4)
    got = settings_of(levels, school="continuous", rate_stops_per_min=rate, iso_ceiling=100)
    inside = (got.shutter_s > 0.11) & (got.shutter_s < 29)
    level = np.log2(got.shutter_s)
    both = inside[1:] & inside[:-1]
    # Half a minute lies between two frames here.
    assert (np.abs(np.diff(level))[both] <= rate / 2 + 1e-6).all()


def test_the_aperture_opens_last_and_only_where_it_is_driven() -> None:
    levels = np.linspace(6, -9, 600)
    got = settings_of(levels, school="continuous", aperture=5.6, aperture_open=2.8, iso_ceiling=400)
    opened = got.aperture < 5.5
    assert opened.any() and (got.iso[opened] > 390).all() and (got.shutter_s[opened] > 29).all()
    kit = make_kit(lens={"electronic_aperture": False})
    with pytest.raises(Refusal) as refusal:
        compile_shot(make_shot(kit=kit, light=Light(aperture=5.6, aperture_open=2.8)))
    assert refusal.value.path == "light.aperture_open"


def test_a_wish_for_less_light_is_followed_and_is_no_error() -> None:
    keys = (LightKey(after_s=0, bias_stops=0), LightKey(after_s=9000, bias_stops=-1))
    plain, wished = (
        program_in("continuous", iso_ceiling=12_800),
        program_in("continuous", iso_ceiling=12_800, keys=keys),
    )
    gap = ev100(wished.exposures.aperture, wished.exposures.shutter_s, wished.exposures.iso) - ev100(
        plain.exposures.aperture, plain.exposures.shutter_s, plain.exposures.iso
    )
    assert gap[-1] == pytest.approx(1, abs=0.01) and np.abs(wished.exposures.error_stops[-1]) < 0.01
    assert bias_stops(keys, [0, 4500, 20_000]) == pytest.approx([0, -0.5, -1])


def test_white_balance_ramps_in_its_steps_and_back_again() -> None:
    light = Light(white_balance="ramp", white_balance_k=5200, white_balance_night_k=3800, white_balance_step_k=100)
    kelvins = white_balance_k(light, np.concatenate([np.linspace(20, -20, 500), np.linspace(-20, 20, 500)]), 1)
    assert kelvins[0] == 5200 and kelvins[499] == 3800 and kelvins[-1] == 5200
    assert np.abs(np.diff(kelvins)).max() == 100
    assert (np.diff(kelvins[:500]) <= 0).all() and (np.diff(kelvins[500:]) >= 0).all()


def ids(**light: object) -> set[str]:
    return {one.id for one in judge(program_in(**light))}  # type: ignore[arg-type]


def test_findings_speak_of_what_each_school_does() -> None:
    # Common practice, no source: automatic white balance drifts, a high ceiling shortens the shutter.
    automatic = ids(school="automatic", white_balance="automatic")
    assert {"exposure.flicker", "exposure.iso-ceiling-shortens", "exposure.white-balance-automatic"} <= automatic
    assert "exposure.iso-ceiling-shortens" not in ids(school="automatic", iso_ceiling=100)
    assert "exposure.dead-band" in ids(school="stepped", dead_band_stops=1)
    assert "exposure.rate" in ids(school="continuous", rate_stops_per_min=0.05)
    assert "exposure.noise-reduction" in ids(school="continuous", noise_reduction=True)
    quiet = ids(school="continuous")
    assert not quiet & {"exposure.flicker", "exposure.dead-band", "exposure.rate", "exposure.noise-reduction"}


def test_a_fix_of_a_finding_takes_the_finding_away() -> None:
    for light in (
        {"school": "automatic", "white_balance": "automatic"}, {"school": "stepped", "dead_band_stops": 1.0},
        {"school": "continuous", "rate_stops_per_min": 0.05}, {"school": "continuous", "noise_reduction": True},
    ):  # fmt: skip
        for finding in judge(program_in(**light)):  # type: ignore[arg-type]
            if finding.id in ("exposure.white-balance-automatic", "exposure.dead-band", "exposure.rate",
                              "exposure.noise-reduction", "exposure.iso-ceiling-shortens"):  # fmt: skip
                assert finding.fixes
                for fix in finding.fixes:
                    assert finding.id not in {one.id for one in judge(compile_shot(fix.shot))}


def paced(factor: object = 3, **timing: object):  # type: ignore[no-untyped-def]
    values = {"fps": 30, "interval_s": 20, "frame_count": 900} | timing
    return compile_shot(
        make_shot(pace=Pace.model_validate({"night_factor": factor}), timing=Timing.model_validate(values))
    )


def test_an_interval_ramp_is_short_by_day_long_by_night_and_on_the_tick() -> None:
    program = paced()
    day, night = program.sun_altitude_deg > 6.5, program.sun_altitude_deg < -12.5
    assert night.any() and program.slot_s[night][:-1] == pytest.approx(60, abs=0.11)
    assert (program.slot_s[day] == pytest.approx(20, abs=0.11)) if day.any() else True
    assert np.abs(program.t_s / 0.1 - np.round(program.t_s / 0.1)).max() < 1e-6
    assert (np.diff(program.t_s) > 0).all()
    assert program.t_s[-1] + program.slot_s[-1] == pytest.approx(float(program.timing.event_s))


@given(st.integers(2, 8), st.integers(5, 120), st.integers(10, 900))
def test_a_paced_shot_solves_the_same_whichever_quantity_is_free(factor: int, interval: int, frames: int) -> None:
    base = paced(factor, interval_s=interval, frame_count=frames).timing
    again = paced(factor, interval_s=interval, frame_count=None, event_s=base.event_s).timing
    assert (again.frame_count, again.event_s) == (base.frame_count, base.event_s)
    shared = paced(factor, interval_s=None, frame_count=frames, event_s=base.event_s).timing
    assert float(shared.interval_s) == pytest.approx(interval, rel=0.02, abs=0.1 / frames)


def test_a_pace_of_one_is_no_pace() -> None:
    even = compile_shot(make_shot(timing=Timing(fps=30, interval_s=20, frame_count=900)))
    assert paced(1).t_s == pytest.approx(even.t_s, abs=0.051)
