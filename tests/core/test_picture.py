from dataclasses import replace

import astropy.units as u
import numpy as np
import pytest
from astropy.coordinates import AltAz, EarthLocation, SkyCoord
from astropy.time import Time
from astropy.utils import iers
from scipy.ndimage import median_filter

from revani.core.documents import Thing
from revani.core.optics.projection import camera_axes, direction, field_of_view_deg, project
from revani.core.picture.boards import defocus_px
from revani.core.picture.render import render
from revani.core.picture.skylight import Floats, Picture, light_strip
from revani.core.picture.view import Exposure, View
from revani.core.sky.stars import sidereal_deg

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


def test_the_moon_goes_on_while_the_rig_turns() -> None:
    # A short shutter under a full moon: nothing else is so bright. It is 0.52° across; turned by 2° it is a bar.
    moonlit = replace(NIGHT, moon_altitude_deg=30, moon_azimuth_deg=180, moon_fraction=1)
    short = replace(WELL, error_stops=-12, shutter_s=1 / 60, aperture=8)
    still, turned = (
        linear(render(replace(moonlit, turns_deg=(turn, 0.0, 0.0)), short, 960, 640))[..., 1] for turn in (0.0, 2.0)
    )
    wide = [int((picture.max(axis=0) > 0.3 * picture.max()).sum()) for picture in (still, turned)]
    px_per_deg = 24 / 36 * 960 * np.radians(1) * np.cos(np.radians(30))
    assert wide[1] - wide[0] == pytest.approx(2 * px_per_deg, rel=0.2)


def test_a_stop_more_is_brighter_and_the_same_seed_the_same_picture() -> None:
    means = [render(NIGHT, replace(WELL, error_stops=stop), 160, 90).mean() for stop in (-3, -1, 0, 1, 3)]
    assert means == sorted(means) and means[-1] > 2 * means[0]
    assert np.array_equal(render(NIGHT, WELL, 160, 90, seed=5), render(NIGHT, WELL, 160, 90, seed=5))


def test_iso_brings_noise() -> None:
    covered = replace(NIGHT, cloud="overcast")

    def noise(iso: float) -> float:
        one, other = (linear(render(covered, replace(WELL, iso=iso), 160, 90, seed)) for seed in (1, 2))
        return float((one - other).std())

    # At equal brightness a quarter of the light is gathered: twice the noise, by photon statistics.
    assert noise(12_800) == pytest.approx(2 * noise(3_200), rel=0.15)


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
    dark = replace(WELL, error_stops=-3.3)
    taken = replace(dark, shutter_s=10, iso=3200), replace(dark, shutter_s=1200, iso=3200 / 120)
    # A trail spreads a star's light: more pixels stand out of the sky, and together they are as bright.
    light = [
        np.mean([linear(render(north, one, 480, 270, seed))[..., 1] for seed in range(8)], axis=0) for one in taken
    ]
    stars = [one - median_filter(one, 21) for one in light]
    assert stars[1].sum() == pytest.approx(stars[0].sum(), rel=0.25)
    brightest = [float(np.sort(one, axis=None)[-60:].sum() / one.sum()) for one in stars]
    assert brightest[1] < 0.6 * brightest[0]


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


@pytest.mark.parametrize(("scene_ev", "shutter", "aperture", "iso"), [(15, 1 / 125, 16, 100), (0, 8, 2.8, 400)])
def test_a_grey_card_is_as_bright_as_the_formula_says(
    scene_ev: float, shutter: float, aperture: float, iso: int
) -> None:
    # ISO 2720: a scene of L = K 2^EV / 100 is metered at N²/t = L S / K, K 12.5; what is metered comes out as 0.18.
    luminance = 12.5 * 2.0**scene_ev / 100
    for stops in (-2.0, 0.0, 1.0):
        taken = Exposure(stops, shutter * 2**stops, aperture, iso)
        error = np.log2(luminance * taken.shutter_s * iso / (12.5 * aperture**2))
        assert taken.grey_per_cd * luminance == pytest.approx(0.18 * 2.0**error)
        covered = replace(taken, nd_stops=3)
        assert covered.grey_per_cd == pytest.approx(taken.grey_per_cd / 8)


def test_the_whole_picture_goes_by_the_stop_and_what_is_over_the_bodys_white_is_white() -> None:
    # By day and by night, whatever the sun does: a stop is a factor of two of light, and the sky is metered alike.
    for altitude in (30.0, 2.0, -5.0, -30.0):
        view = replace(NIGHT, sun_altitude_deg=altitude, sun_azimuth_deg=0, cloud="overcast", tilt_deg=22)
        means = [linear(render(view, Exposure(stop, 1 / 60, 8, 100), 160, 90))[10:50].mean() for stop in (-3, -2, -1)]
        assert means[1] / means[0] == pytest.approx(2, rel=0.05) and means[2] / means[1] == pytest.approx(2, rel=0.05)
        assert means[1] == pytest.approx(0.18 * 1.6 / 4, rel=0.5)
        white = render(view, Exposure(2.5, 1 / 60, 8, 100, clips_over_stops=1), 160, 90)[10:50]
        assert (white == 255).mean() > 0.99
        kept = render(view, Exposure(0, 1 / 60, 8, 100, clips_over_stops=3), 160, 90)[10:50]
        assert kept.max() < 255


def moonlit(fraction: float, **change: object) -> View:
    values = {
        "moon_altitude_deg": 60, "moon_azimuth_deg": 180, "moon_fraction": fraction, "heading_deg": 180, "tilt_deg": 60,
        "focal_length_mm": 600, "sun_azimuth_deg": 270, "skyline": ((0.0, 0.0), (180.0, 0.0)),
    } | change  # fmt: skip
    return replace(NIGHT, **values)  # type: ignore[arg-type]


def test_the_moon_is_half_a_degree_wide_lit_by_its_phase_and_grey_at_f_11() -> None:
    # A full moon at f/11 and 1/ISO is a grey (common practice, no source).
    at_f11 = Exposure(-20, 1 / 100, 11, 100)
    full = linear(render(moonlit(1.0), at_f11, 600, 400))[..., 1]
    lit = full > 0.05
    assert float(np.median(full[lit])) == pytest.approx(0.18, rel=0.08)
    # Mean diameter 31.1′ (almanac, memory): f tan 0.518° on 36 mm across 600 px.
    across = 600 * np.tan(np.radians(0.518)) / 36 * 600
    assert 2 * np.sqrt(lit.sum() / np.pi) == pytest.approx(across, rel=0.02)
    rows, columns = np.nonzero(lit)
    assert (columns.mean() + 0.5, rows.mean() + 0.5) == pytest.approx((300, 200), abs=0.6)
    for fraction in (0.1, 0.5, 0.8):
        part = linear(render(moonlit(fraction), at_f11, 600, 400))[..., 1] > 0.05
        # The lit part of the disc's area is the illuminated fraction (Meeus, Astronomical Algorithms, ch. 48).
        assert part.sum() / lit.sum() == pytest.approx(fraction, abs=0.02)
        # Its bright side looks towards the sun, which is in the west and below.
        rows, columns = np.nonzero(part)
        assert columns.mean() > 300 and rows.mean() > 200
    # Small in a wide picture, its light is not lost: as much as its size in pixels.
    small = linear(render(moonlit(1.0, focal_length_mm=24), at_f11, 600, 400))[..., 1]
    assert small[190:210, 290:310].sum() == pytest.approx(full.sum() * (24 / 600) ** 2, rel=0.15)


def test_the_milky_way_is_brightest_where_astropy_has_the_core() -> None:
    south = replace(NIGHT, latitude_deg=-30.0, at_s=1_782_600_000, moon_altitude_deg=-50)
    where = EarthLocation(lat=-30 * u.deg, lon=-7.4 * u.deg)
    frame = AltAz(obstime=Time(south.at_s, format="unix"), location=where)

    def looking(longitude: float, latitude: float) -> float:
        seen = SkyCoord(l=longitude * u.deg, b=latitude * u.deg, frame="galactic").transform_to(frame)
        assert seen.alt.deg > 25
        at = replace(south, heading_deg=float(seen.az.deg), tilt_deg=float(seen.alt.deg))
        picture = linear(render(at, Exposure(-6, 20, 2.8, 3200), 240, 160))[..., 1]
        return float(np.median(picture[70:90, 110:130]))

    core, beside, along = looking(0, -3), looking(0, 40), looking(320, -3)
    assert core > along > beside


def test_a_thing_out_of_focus_is_spread_as_a_thin_lens_spreads_it() -> None:
    # Thin lens: c = A · |d − s| / d · f / (s − f), A = f/N: 50 mm, f/2, focused at 2 m, a thing at 1 m.
    taken = Exposure(0, 1 / 60, 2.0, 100)
    by_hand = 25 * (1000 / 1000) * 50 / (2000 - 50)
    assert defocus_px(taken, 50, 2000, 1000, 1) == pytest.approx(by_hand)
    # Focused at infinity: f · A / d.
    assert defocus_px(taken, 50, None, 1000, 1) == pytest.approx(50 * 25 / 1000)
    board = Thing(name="Post", x_mm=0, y_mm=1_000, width_mm=300, height_mm=3_000, role="foreground")
    day = replace(
        NIGHT, sun_altitude_deg=20, sun_azimuth_deg=90, tilt_deg=0, focal_length_mm=50, things=(board,),
        skyline=((0.0, -5.0), (180.0, -5.0)),
    )  # fmt: skip
    spread = []
    for focus in (1_000.0, 2_000.0):
        row = linear(render(replace(day, focused_mm=focus), taken, 720, 480))[100, :360, 1]
        part = (row - np.median(row[300:])) / (np.median(row[:150]) - np.median(row[300:]))
        spread.append(int(((part > 0.1) & (part < 0.9)).sum()))
    assert spread[0] <= 2 and spread[1] == pytest.approx(0.8 * by_hand * 720 / 36, abs=2)


def test_a_camera_that_turns_while_the_shutter_is_open_blurs_the_ridge_and_draws_the_stars_along() -> None:
    view = replace(NIGHT, tilt_deg=8, skyline=((0.0, 0.0), (170.0, 0.0), (171.0, 15.0), (180.0, 15.0), (181.0, 0.0)))
    still = linear(render(view, WELL, 480, 320))[..., 1]
    turned = linear(render(replace(view, turns_deg=(4.0, 0.0, 0.0)), WELL, 480, 320))[..., 1]
    row = 130
    assert np.abs(np.diff(turned[row])).max() < 0.5 * np.abs(np.diff(still[row])).max()


def test_a_board_against_the_sun_is_darker_than_one_with_the_sun_on_it() -> None:
    board = Thing(name="Stack", x_mm=0, y_mm=3_000)
    day = replace(NIGHT, sun_altitude_deg=20, tilt_deg=0, things=(board,))
    lit, against = (
        linear(render(replace(day, sun_azimuth_deg=azimuth), Exposure(-1, 1 / 60, 8, 100), 240, 160))[80, 120, 1]
        for azimuth in (0.0, 180.0)
    )
    assert lit > 2 * against
