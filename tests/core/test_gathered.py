"""Light gathered, the moonlit sky, projections, slow motion: against closed forms, SciPy, and a seeded simulation."""

from math import log2

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st
from scipy.spatial.transform import Rotation

from revani.core.calculators import calculate
from revani.core.documents import Projection
from revani.core.light.gathered import fainter_magnitudes, sky_stops, star_stops
from revani.core.light.moonlit import moonlit_mag, moonlit_nl, nanolamberts
from revani.core.optics.projection import PROJECTIONS, bent, camera_axes, direction, project, view_deg
from revani.core.quantities.refusal import Refusal


def test_the_signal_to_noise_of_counted_photons_follows_the_light_gathered() -> None:
    # Photon statistics: the noise of n photons is √n, so that a stop more is a factor of √2 of signal to noise.
    rng = np.random.default_rng(20261129)
    settings = [(2.5, 2.8), (10.0, 2.8), (10.0, 2.0), (30.0, 4.0)]
    found = []
    for shutter_s, aperture in settings:
        counts = rng.poisson(4_000 * shutter_s / aperture**2, size=200_000)
        found.append(counts.mean() / counts.std())
    stops = [float(sky_stops(*one)) for one in settings]
    for snr, gathered in zip(found, stops, strict=True):
        assert log2(snr / found[0]) == pytest.approx((gathered - stops[0]) / 2, abs=0.01)


def test_thirty_seconds_gather_over_three_stops_more_than_two_and_a_half() -> None:
    # Common practice: with its ceiling open an ISO-first body takes 2.5 s, held at base ISO 30 s.
    assert float(sky_stops(30, 2.8) - sky_stops(2.5, 2.8)) == pytest.approx(3.585, abs=0.001)
    # Δm = 1.25 log10(t2/t1) for one lens (photon statistics; memory).
    assert float(fainter_magnitudes(log2(12))) == pytest.approx(1.25 * np.log10(12))


def test_a_star_that_trails_gathers_only_while_it_crosses_three_pixels() -> None:
    point, trailing = star_stops(10, 2.8, 24), star_stops(60, 2.8, 24, px_per_s=0.3)
    assert float(trailing) == pytest.approx(float(point))
    assert float(star_stops(5, 2.8, 24, px_per_s=0.3)) == pytest.approx(float(star_stops(5, 2.8, 24)))


def test_a_full_moon_thirty_degrees_from_the_zenith_washes_the_sky_out() -> None:
    # Krisciunas & Schaefer, PASP 103 (1991) 1033; the formula and this landmark are from memory.
    answer = calculate("moonlit_sky", {
        "dark_sky_mag": 21.7, "phase_angle_deg": 0, "separation_deg": 60, "moon_altitude_deg": 60, "altitude_deg": 60,
    })  # fmt: skip
    assert answer["sky_mag"] == pytest.approx(18.42, abs=0.005)
    assert answer["brighter_stops"] == pytest.approx((21.7 - answer["sky_mag"]) / (2.5 * np.log10(2)), abs=0.01)


@given(st.floats(0, 180), st.floats(0.5, 90), st.floats(0, 90), st.floats(18, 22))
def test_a_moon_only_ever_adds_and_none_once_it_is_set(phase: float, moon: float, altitude: float, dark: float) -> None:
    apart = abs(moon - altitude)
    added = float(moonlit_nl(phase, apart, moon, altitude))
    assert added >= 0 and float(moonlit_mag(dark, added)) <= dark + 1e-9
    assert float(moonlit_nl(phase, apart, -0.1, altitude)) == 0
    assert float(moonlit_mag(dark, 0.0)) == pytest.approx(dark) and float(nanolamberts(dark)) > 0


@pytest.mark.parametrize(("separation", "allowed"), [(10, "between 20° and 100°"), (101, "between 20° and 100°")])
def test_a_separation_that_no_sky_has_is_refused(separation: float, allowed: str) -> None:
    with pytest.raises(Refusal) as refused:
        calculate("moonlit_sky", {
            "dark_sky_mag": 21, "phase_angle_deg": 30, "separation_deg": separation, "moon_altitude_deg": 30,
            "altitude_deg": 50,
        })  # fmt: skip
    assert refused.value.path == "separation_deg" and allowed in refused.value.allowed


@pytest.mark.parametrize(
    ("kind", "focal", "width", "deg"),
    [
        # Handbook: 3 mm on 6.17 mm. The others by their closed forms.
        ("straight", 3, 6.17, 91.6), ("equidistant", 3, 6.17, 117.8),
        ("stereographic", 3, 6.17, np.degrees(4 * np.arctan(6.17 / 12))),
        ("equisolid", 3, 6.17, np.degrees(4 * np.arcsin(6.17 / 12))),
        ("equisolid", 1.5, 6.17, None), ("equidistant", 0.9, 6.17, None), ("stereographic", 0.5, 6.17, 288.0),
    ],
)  # fmt: skip
def test_what_a_lens_sees_across(kind: str, focal: float, width: float, deg: float | None) -> None:
    found = calculate("projection", {"projection": kind, "focal_length_mm": focal, "sensor_width_mm": width})
    assert found["horizontal_deg"] == (None if deg is None else pytest.approx(deg, abs=0.2))


@pytest.mark.parametrize("kind", PROJECTIONS)
@given(st.floats(-60, 60), st.floats(-60, 60))
def test_directions_fall_where_scipys_rotations_and_the_closed_form_put_them(
    kind: Projection, azimuth: float, altitude: float
) -> None:
    axes = camera_axes(40, 25)
    x, y, depth = project(direction(altitude, azimuth + 40), axes, 1000, 4000, 3000, kind)
    # East, north, up turned into right, up, forward by rotations alone.
    turn = Rotation.from_euler("zx", [40, -25], degrees=True)
    right, forward, up = turn.apply(np.asarray(direction(altitude, azimuth + 40)))
    if kind == "sphere":
        # Longitude and latitude about the camera; nothing is behind it.
        assert (float(x) - 2000) / 1000 == pytest.approx(np.arctan2(right, forward), abs=1e-6)
        assert (1500 - float(y)) / 1000 == pytest.approx(np.arcsin(up), abs=1e-6) and float(depth) > 0
        return
    assert float(depth) == pytest.approx(forward, abs=1e-9)
    angle = np.arctan2(np.hypot(right, up), forward)
    if forward <= 0.05:
        return
    out = {
        "straight": np.tan(angle), "equidistant": angle, "stereographic": 2 * np.tan(angle / 2),
        "equisolid": 2 * np.sin(angle / 2),
    }[kind]  # fmt: skip
    away = np.hypot(right, up)
    expected = (0.0, 0.0) if away < 1e-12 else (out * right / away, out * up / away)
    assert (float(x) - 2000) / 1000 == pytest.approx(expected[0], abs=1e-6)
    assert (1500 - float(y)) / 1000 == pytest.approx(expected[1], abs=1e-6)


@given(st.floats(0.5, 50), st.floats(1, 60), st.sampled_from(PROJECTIONS))
def test_the_edge_of_the_view_falls_on_the_edge_of_the_sensor(focal: float, width: float, kind: Projection) -> None:
    seen = view_deg(kind, width, focal)
    if seen is None or seen > 170:
        return
    right, _, _ = bent(np.tan(np.radians(np.array(seen / 2))), np.array(0.0), np.array(1.0), kind)
    assert float(right) * focal == pytest.approx(width / 2, rel=1e-6)


def test_slow_motion_is_the_law_of_timing_below_one() -> None:
    # Handbook: 240 at 30 is 8 × and wants 3 stops more than 30 at the same angle; 180° is 1/(2R).
    found = calculate("slow_motion", {"recording_fps": 240, "playback_fps": "30", "angle_deg": 180})
    assert found == {"factor": 8.0, "shutter_s": pytest.approx(1 / 480), "stops_needed": 3.0}
    exact = calculate("slow_motion", {"recording_fps": "119.88", "playback_fps": "23.976", "angle_deg": 180})
    assert exact["factor"] == 5.0
    with pytest.raises(Refusal) as refused:
        calculate("slow_motion", {"recording_fps": 24, "playback_fps": 30, "angle_deg": 180})
    assert refused.value.path == "playback_fps"
