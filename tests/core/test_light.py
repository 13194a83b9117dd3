import numpy as np
import pytest

from revani.core.documents import Light
from revani.core.light.scene import (
    CLOUD_STOPS,
    ev100_of_illuminance,
    moon_illuminance_lx,
    night_floor_lx,
    scene_ev100,
    scene_offset_stops,
    sun_illuminance_lx,
)  # fmt: skip
from revani.core.sky.sun_and_moon import sky_over
from tests.conftest import make_place


@pytest.mark.parametrize(
    ("altitude", "lux", "tolerance"),
    [(90, 129_000, 0.02), (-6, 3.4, 0.03), (-12, 0.008, 0.05), (-18, 0.00065, 0.05)],
)
def test_the_landmarks_of_natural_illumination(altitude: float, lux: float, tolerance: float) -> None:
    # Explanatory Supplement to the Astronomical Almanac (1992), landmarks; from memory.
    assert float(sun_illuminance_lx(altitude)) == pytest.approx(lux, rel=tolerance)


def test_a_full_moon_at_the_zenith_gives_a_quarter_lux() -> None:
    # Explanatory Supplement to the Astronomical Almanac (1992); from memory.
    assert float(moon_illuminance_lx(90, 0, 0.951)) == pytest.approx(0.27, rel=0.05)
    # Meeus, ch. 48: at first quarter the phase angle is about 90°; it is far less than half as bright.
    assert float(moon_illuminance_lx(90, 90, 0.951)) < 0.27 / 6
    assert float(moon_illuminance_lx(-5, 0, 0.951)) == 0


def test_twilight_is_one_falling_curve_without_steps_that_the_eye_would_see() -> None:
    altitude = np.arange(90, -30, -0.02)
    stops = np.log2(sun_illuminance_lx(altitude)[:-1] / np.maximum(sun_illuminance_lx(altitude)[1:], 1e-30))
    assert stops.min() > -0.02
    assert np.abs(stops).max() < 0.25


def test_exposure_values_of_illuminance_follow_iso_2720() -> None:
    # ISO 2720, incident light, C = 250: 81,920 lx is EV 15 at ISO 100.
    assert float(ev100_of_illuminance(81_920)) == pytest.approx(15)
    assert float(ev100_of_illuminance(2.5)) == pytest.approx(0)


def test_a_brighter_night_sky_raises_the_floor_by_the_magnitude_law() -> None:
    # Pogson: five magnitudes are a factor of a hundred.
    assert float(night_floor_lx(16.7) / night_floor_lx(21.7)) == pytest.approx(100)


def test_cloud_and_the_meter_reading_shift_the_scene_by_their_stops() -> None:
    place = make_place()
    at = 1_795_540_000.0
    sky = sky_over(place, at, at + 60)

    def scene(**light: object) -> float:
        given = Light.model_validate(light)
        offset = scene_offset_stops(given, place)
        return float(scene_ev100(sky, at, place.sky_brightness, CLOUD_STOPS[given.cloud], offset))

    clear = scene()
    # The stops of haze, light cloud and overcast: common practice, no source.
    assert [scene(cloud=cloud) - clear for cloud in ("haze", "light cloud", "overcast")] == pytest.approx([-1, -2, -3])
    assert scene(scene="ground") == pytest.approx(clear - 2.5)
    assert scene(scene_offset_stops=1) == pytest.approx(clear - 1.5)
