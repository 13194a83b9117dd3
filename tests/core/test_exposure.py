from fractions import Fraction

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from revani.core.documents import Light
from revani.core.light.dials import (
    APERTURES,
    ISOS,
    SHUTTERS,
    ev100,
    marked_iso,
    show_shutter,
    shutter_for,
    true_aperture,
    true_iso,
    true_shutter_s,
)  # fmt: skip
from revani.core.light.exposing import LightOn, check_settings, expose, shutter_room_s
from revani.core.quantities.refusal import Refusal
from tests.conftest import make_kit, make_shot


def test_f8_at_a_125th_is_ev_13_less_a_thirtieth() -> None:
    # ISO 2720 / Exif 2.3, annex on APEX: EV = Av + Tv. log2(64 · 125) = 12.97.
    assert float(ev100(8, 1 / 125, 100)) == pytest.approx(12.966, abs=0.001)


def test_sunny_16_is_ev_15() -> None:
    # Common practice, no source: f/16 at 1/ISO in full sun.
    assert float(ev100(true_aperture(16), true_shutter_s(1 / 125), 100)) == pytest.approx(15)


def test_dials_show_rounded_numbers_and_mean_powers_of_two() -> None:
    # Exif 2.3, annex on APEX: 1/125 is Tv 7, f/5.6 is Av 5.
    assert true_shutter_s(1 / 125) == 2**-7
    assert true_aperture(5.6) == pytest.approx(2**2.5)
    assert true_iso(640) == pytest.approx(100 * 2 ** (8 / 3))
    for ladder, true in ((APERTURES, true_aperture), (ISOS, true_iso)):
        steps = np.diff(np.log2([true(value) for value in ladder]))
        assert np.ptp(steps) < 1e-9
    shutters = [true_shutter_s(float(s)) for s in SHUTTERS if s < 1]
    assert np.allclose(np.diff(np.log2(shutters)), 1 / 3)


def test_what_is_on_no_dial_means_itself() -> None:
    assert true_shutter_s(26) == 26 and true_aperture(2.9) == 2.9 and true_shutter_s(30) == 30
    assert marked_iso(317.5) == 320


@pytest.mark.parametrize(
    ("seconds", "text"),
    [(1 / 128, "1/125"), (1 / 813, "1/800"), (1 / 900, "1/900"), (0.008, "1/125"), (2.5, "2.5 s"), (26, "26 s")],
)
def test_shutters_are_shown_as_on_a_dial(seconds: float, text: str) -> None:
    assert show_shutter(seconds) == text


@given(st.floats(-8, 16), st.sampled_from(APERTURES), st.sampled_from(ISOS))
def test_the_shutter_for_a_scene_exposes_it_rightly(scene: float, aperture: float, iso: int) -> None:
    shutter = shutter_for(scene, aperture, iso)
    assert float(ev100(aperture, shutter, iso)) == pytest.approx(scene, abs=1e-9)


def light_on(scene: np.ndarray, room_s: float, interval_s: float = 600.0) -> LightOn:
    """Light that changes so slowly that no rate is in its way."""
    return LightOn(np.arange(scene.size) * interval_s, scene, np.zeros_like(scene), np.full_like(scene, room_s))


scenes = st.lists(st.floats(-9, 17), min_size=1, max_size=60).map(np.array)


@given(scenes, st.floats(0.2, 120), st.booleans(), st.sampled_from([0.5, 4.0, 30.0]))
def test_a_ramp_never_leaves_its_limits_and_misses_only_where_one_is_reached(
    scene: np.ndarray, room: float, bulb: bool, longest: float
) -> None:
    kit = make_kit(body={"bulb": bulb})
    shot = make_shot(
        kit=kit, light=Light(aperture=2.8, shutter_s=longest, iso=100, iso_ceiling=3200, rate_stops_per_min=100)
    )
    got = expose(shot, light_on(scene, room))
    limit = min(room, longest) if bulb else min(room, longest, 30)
    assert (got.shutter_s <= limit * 1.03).all()
    assert (got.iso >= 100 - 1e-6).all() and (got.iso <= 3200 + 1e-6).all()
    assert got.error_stops == pytest.approx(scene - ev100(got.aperture, got.shutter_s, got.iso))
    # A body that cannot be held open stops at the last mark on its dial.
    dark = (got.shutter_s >= limit * (0.99 if bulb else 0.78)) & (got.iso >= 3199)
    bright = got.shutter_s <= 2.0**-12 * 1.01
    inside = ~dark & ~bright
    assert (np.abs(got.error_stops[inside]) <= 1 / 6 + 0.18 * (not bulb) + 1e-6).all()
    # Held open, frames of a tenth of a second and over come out exactly.
    if bulb:
        assert (np.abs(got.error_stops[inside & (got.shutter_s > 0.101)]) < 1e-6).all()


@given(scenes)
def test_iso_rises_only_once_the_shutter_is_at_its_limit(scene: np.ndarray) -> None:
    shot = make_shot(light=Light(aperture=2.8, shutter_s=10, iso=100, iso_ceiling=3200, rate_stops_per_min=100))
    got = expose(shot, light_on(scene, 60.0))
    # ISO goes a third too far and the shutter takes that third back.
    assert (got.shutter_s[got.iso > 101] >= 10 / 2 ** (1 / 3) - 1e-9).all()


def test_a_fixed_shot_holds_its_settings_and_the_interval_cuts_its_shutter() -> None:
    shot = make_shot(light=Light(school="fixed", shutter_s=30, aperture=2.8, iso=800))
    assert shutter_room_s(shot, Fraction(3)) == pytest.approx(2.5)
    got = expose(shot, light_on(np.array([-3.0, 10.0]), 2.5))
    assert (got.shutter_s == 2.5).all() and (got.wanted_shutter_s == 30).all()
    assert got.error_stops[1] - got.error_stops[0] == pytest.approx(13)


def test_a_dark_frame_halves_the_room_for_the_shutter() -> None:
    shot = make_shot(light=Light(noise_reduction=True, aperture=2.8))
    assert shutter_room_s(shot, Fraction(21)) == pytest.approx(10.25)


@pytest.mark.parametrize(
    ("light", "path"),
    [
        ({"aperture": 1.4}, "light.aperture"), ({"aperture": 32}, "light.aperture"),
        ({"aperture": 4, "iso": 50}, "light.iso"), ({"aperture": 4, "iso_ceiling": 102_400}, "light.iso_ceiling"),
        ({"aperture": 4, "iso": 800, "iso_ceiling": 400}, "light.iso_ceiling"),
    ],
)  # fmt: skip
def test_settings_that_lens_or_body_lack_are_refused_at_their_field(light: dict[str, object], path: str) -> None:
    with pytest.raises(Refusal) as refusal:
        check_settings(make_shot(light=Light.model_validate(light)))
    assert refusal.value.path == path
