from dataclasses import replace

import astropy.units as u
import numpy as np
import pytest
from astropy.coordinates import AltAz, EarthLocation, SkyCoord
from astropy.time import Time
from astropy.utils import iers

from revani.core.optics.projection import camera_axes, direction, field_of_view_deg, project
from revani.core.picture.render import Exposure, Floats, Picture, View, light_strip, render, sidereal_deg

# No table of the earth's turning is fetched; the one that ships is good enough.
iers.conf.auto_download = False
iers.conf.auto_max_age = None

NIGHT = View(
    at_s=1_795_560_000, latitude_deg=57.6, longitude_deg=-7.4, sun_altitude_deg=-30, sun_azimuth_deg=300,
    moon_altitude_deg=-20, moon_azimuth_deg=0, moon_fraction=0, heading_deg=180, tilt_deg=30, focal_length_mm=24,
    sensor_width_mm=36,
)  # fmt: skip
WELL = Exposure(error_stops=0, shutter_s=15, aperture=2.8, iso=100)


def test_fields_of_view_are_the_handbooks() -> None:
    # Pinhole geometry, 2 atan(w / 2f): 24 mm on 36 × 24 mm.
    assert field_of_view_deg(36, 24) == pytest.approx(73.74, abs=0.01)
    assert field_of_view_deg(24, 24) == pytest.approx(53.13, abs=0.01)


def test_what_the_camera_looks_at_lies_in_the_middle_and_its_edge_at_half_the_angle() -> None:
    axes = camera_axes(200, 15)
    x, y, depth = project(direction(15, 200), axes, 500, 640, 360)
    assert (x, y) == pytest.approx((320, 180)) and depth == pytest.approx(1)
    flat = camera_axes(200, 0)
    x, _, _ = project(direction(0, 200 + np.degrees(np.arctan(320 / 500))), flat, 500, 640, 360)
    assert x == pytest.approx(640)
    assert project(direction(0, 20), flat, 500, 640, 360)[2] < 0


def test_a_stop_more_is_brighter_and_the_same_seed_the_same_picture() -> None:
    means = [render(NIGHT, replace(WELL, error_stops=stop), 160, 90).mean() for stop in (-3, -1, 0, 1, 3)]
    assert means == sorted(means) and means[-1] > 2 * means[0]
    assert np.array_equal(render(NIGHT, WELL, 160, 90, seed=5), render(NIGHT, WELL, 160, 90, seed=5))


def test_iso_brings_noise() -> None:
    ground = (slice(80, 90), slice(0, 160), 0)
    covered = replace(NIGHT, cloud="overcast")
    smooth = render(covered, WELL, 160, 90)[ground].std()
    assert render(covered, replace(WELL, iso=12_800), 160, 90)[ground].std() > 2 * smooth


def test_the_sun_stands_where_it_stands() -> None:
    view = replace(NIGHT, sun_altitude_deg=12, sun_azimuth_deg=195, tilt_deg=15)
    picture = render(view, WELL, 320, 180).astype(int).sum(axis=2)
    row, column = np.unravel_index(np.argmax(picture), picture.shape)
    focal_px = 24 / 36 * 320
    x, y, _ = project(direction(12, 195), camera_axes(180, 15), focal_px, 320, 180)
    assert (column, row) == pytest.approx((float(x), float(y)), abs=6)


def test_stars_turn_about_the_pole_and_a_long_shutter_draws_them_out() -> None:
    north = replace(NIGHT, heading_deg=0, tilt_deg=57.6)
    # The same light of the sky either way: ten seconds at ISO 3200, or twenty minutes at 1/120 of that.
    points = render(north, replace(WELL, shutter_s=10, iso=3200), 480, 270)
    trails = render(north, replace(WELL, shutter_s=1200, iso=3200 / 120), 480, 270)
    # A trail spreads a star's light: more pixels stand out of the sky, and together they are as bright.
    sums = [
        np.clip(linear(one)[..., 1] - np.median(linear(one)[..., 1]), 0.004, None).sum() for one in (points, trails)
    ]
    assert sums[1] == pytest.approx(sums[0], rel=0.25)
    lit = [(picture[..., 0].astype(int) > np.median(picture[..., 0]) + 6).sum() for picture in (points, trails)]
    assert lit[1] > 1.5 * lit[0]


def test_cloud_hides_the_stars() -> None:
    dark = replace(WELL, iso=3200)
    clear, covered = (render(replace(NIGHT, cloud=cloud), dark, 320, 180).max() for cloud in ("clear", "overcast"))
    assert covered < clear - 40


def linear(picture: Picture) -> Floats:
    """Light out of display values: the shoulder before white undone."""
    part = np.clip((picture.astype(np.float32) + 0.5) / 255, 0, 0.998)
    return np.asarray(-np.log(1 - part**2) / 1.9, dtype=np.float32)


def star_at(i: int) -> tuple[float, float]:
    """Altitude and azimuth of a star of the catalogue, by astropy: airless, from the same place and instant."""
    table = np.loadtxt("revani/core/sky/stars_to_6.csv", delimiter=",")
    where = EarthLocation(lat=57.6 * u.deg, lon=-7.4 * u.deg)
    frame = AltAz(obstime=Time(NIGHT.at_s, format="unix"), location=where)
    seen = SkyCoord(table[i, 0] * u.deg, table[i, 1] * u.deg, frame="icrs").transform_to(frame)
    return float(seen.alt.deg), float(seen.az.deg)


@pytest.mark.parametrize("i", [4, 5, 6, 9, 60])
def test_a_star_stands_in_the_picture_where_astropy_has_it(i: int) -> None:
    altitude, azimuth = star_at(i)
    assert altitude > 12
    at = replace(NIGHT, heading_deg=(azimuth + 12) % 360, tilt_deg=altitude - 5)
    picture = linear(render(at, Exposure(-2, 2, 2.8, 800), 1280, 720)).sum(axis=2)
    x, y, _ = project(direction(altitude, azimuth), camera_axes(at.heading_deg, at.tilt_deg), 24 / 36 * 1280, 1280, 720)
    column, row = int(x), int(y)
    near = picture[row - 4 : row + 5, column - 4 : column + 5]
    light = np.clip(near - np.median(near) - 0.02, 0, None)
    rows, columns = np.mgrid[row - 4 : row + 5, column - 4 : column + 5] + 0.5
    found = np.array([(light * columns).sum(), (light * rows).sum()]) / light.sum()
    assert np.hypot(*(found - [float(x), float(y)])) <= 1


def test_a_star_is_as_bright_as_its_light_through_the_lens_makes_it() -> None:
    table = np.loadtxt("revani/core/sky/stars_to_6.csv", delimiter=",")
    ratios = []
    for i in range(40, 120):
        altitude, azimuth = star_at(i)
        alone = np.abs(table[:, :2] - table[i, :2]).max(axis=1) > 1.5
        if altitude < 35 or alone.sum() < len(table) - 1:
            continue
        at = replace(NIGHT, heading_deg=azimuth, tilt_deg=altitude)
        shutter, stop, iso = 16.0, 2.8, 100
        # Many frames together have no grain to speak of; its ring of sky is taken away.
        many = [linear(render(at, Exposure(-3, shutter, stop, iso), 640, 360, seed))[..., 1] for seed in range(6)]
        whole = np.mean(many, axis=0)
        ring = whole[170:191, 310:331].copy()
        ring[6:15, 6:15] = np.nan
        found = float((whole[176:185, 316:325] - np.nanmean(ring)).sum())
        # By hand: 2.54e-6 lx for magnitude 0 (Allen), 0.2 mag of air (secant of the distance from the zenith), the
        # lens's opening, the pixel's area, and 10/S lx s for grey (ISO 12232), which is 0.18 of linear light.
        lux = 2.54e-6 * 10 ** (-0.4 * (table[i, 2] + 0.2 / np.sin(np.radians(altitude))))
        on_pixel = lux * np.pi / 4 * (24 / stop) ** 2 / (36 / 640) ** 2 * shutter
        ratios.append(found / (0.18 * on_pixel / (10 / iso)))
    assert len(ratios) >= 4
    assert np.median(ratios) == pytest.approx(1, abs=0.1)


def test_sidereal_time_is_that_of_meeus_example_12() -> None:
    # Meeus, Astronomical Algorithms, 2nd ed., example 12.b: 1987 April 10, 19h21m00s UT, mean sidereal
    # time at Greenwich 8h34m57.0896s = 128.7378734°.
    assert sidereal_deg(545_080_860, 0) == pytest.approx(128.7378734, abs=1e-4)


def test_the_strip_is_bright_by_day_and_dark_by_night() -> None:
    light = [sum(bytes.fromhex(colour[1:])) for colour in light_strip([20, 0, -8, -20])]
    assert light == sorted(light, reverse=True) and light[-1] < 120 < light[0]


def test_the_sun_falls_where_the_projection_of_the_lens_puts_it() -> None:
    # 40° from the middle through 3 mm on 6.17 mm, of 480 px: f tan θ straight, f θ equidistant (textbook).
    day = replace(NIGHT, sun_altitude_deg=10, sun_azimuth_deg=220, tilt_deg=10, focal_length_mm=3, sensor_width_mm=6.17)
    focal_px = 3 / 6.17 * 480
    axes = camera_axes(180, 10)
    for projection, out in (("straight", np.tan), ("equidistant", np.float64)):
        picture = render(replace(day, projection=projection), replace(WELL, error_stops=-3), 480, 270)
        light = picture.sum(axis=-1)
        row, column = (part.mean() for part in np.nonzero(light == light.max()))
        seen = axes @ direction(10, 220)
        angle = np.arccos(seen[2])
        right, up = seen[:2] / np.hypot(*seen[:2]) * out(angle) * focal_px
        assert (column, row) == pytest.approx((240 + right, 135 - up), abs=1.5)
