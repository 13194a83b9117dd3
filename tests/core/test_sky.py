from datetime import UTC, date, datetime

import astropy.units as u
import ephem
import numpy as np
import pytest
from astropy.coordinates import AltAz, EarthLocation, get_body, get_sun
from astropy.time import Time
from astropy.utils import iers

from revani.core.light.scene import (
    ev100_of_illuminance,
    illuminance_lx,
    moon_illuminance_lx,
    night_floor_lx,
    sun_illuminance_lx,
)  # fmt: skip
from revani.core.quantities.refusal import Refusal
from revani.core.sky.skyline import ridge_crossings, skyline_deg
from revani.core.sky.sun_and_moon import direct, local_midnight_s, sky_over, sun_events_of
from tests.conftest import make_place

iers.conf.auto_download = False
iers.conf.auto_max_age = None
iers.conf.iers_degraded_accuracy = "warn"

PLACES = {
    "70 N": (70.0, 25.0, "Europe/Oslo"), "57 N": (57.6, -7.4, "Europe/London"),
    "equator": (0.0, 37.0, "Africa/Nairobi"),
    "date line": (-16.5, 179.9, "Pacific/Fiji"), "33 S": (-33.9, 151.2, "Australia/Sydney"),
    "54 S": (-54.8, -68.3, "America/Argentina/Ushuaia"),
}  # fmt: skip
MOMENTS = ["2026-03-20T06:00", "2026-06-21T00:30", "2026-11-24T17:00", "2026-12-21T12:00", "2031-08-05T21:15"]


def seconds(moment: str) -> float:
    return datetime.fromisoformat(moment).replace(tzinfo=UTC).timestamp()


def place_of(name: str):  # type: ignore[no-untyped-def]
    latitude, longitude, zone = PLACES[name]
    return make_place(latitude_deg=latitude, longitude_deg=longitude, time_zone=zone)


@pytest.mark.parametrize("moment", MOMENTS)
@pytest.mark.parametrize("name", PLACES)
def test_sun_and_moon_stand_where_ephem_has_them(name: str, moment: str) -> None:
    place = place_of(name)
    observer = ephem.Observer()
    observer.lat, observer.lon = str(place.latitude_deg), str(place.longitude_deg)
    observer.pressure, observer.elevation = 0, 0
    observer.date = moment.replace("T", " ").replace("-", "/")
    at = seconds(moment)
    sky = sky_over(place, at - 3600, at + 3600)
    for body, ours in ((ephem.Sun(observer), sky.sun(at)), (ephem.Moon(observer), sky.moon(at))):
        assert float(ours.altitude_deg) == pytest.approx(np.degrees(float(body.alt)), abs=0.02)
        apart = (float(ours.azimuth_deg) - np.degrees(float(body.az)) + 180) % 360 - 180
        assert abs(apart) * np.cos(float(body.alt)) < 0.02


@pytest.mark.parametrize("name", ["70 N", "date line", "54 S"])
def test_sun_and_moon_stand_where_astropy_has_them(name: str) -> None:
    place = place_of(name)
    when = Time(MOMENTS[2])
    where = EarthLocation(lat=place.latitude_deg * u.deg, lon=place.longitude_deg * u.deg, height=0 * u.m)
    frame = AltAz(obstime=when, location=where, pressure=0 * u.hPa)
    sun, moon = direct(place, seconds(MOMENTS[2]))
    for theirs, ours in ((get_sun(when), sun), (get_body("moon", when, where), moon)):
        assert float(ours.altitude_deg[0]) == pytest.approx(theirs.transform_to(frame).alt.deg, abs=0.02)


def test_the_sun_of_meeus_example_25_seen_from_the_pole() -> None:
    # Meeus, Astronomical Algorithms, 2nd ed., examples 25.a and 25.b: 1992 Oct 13.0 TD, apparent
    # δ −7°47′06″ by the method of low accuracy, −7°47′01.74″ by the full theory. At the pole the
    # altitude is the declination, less a parallax of 8.7″; TD − UTC was 59 s.
    pole = make_place(latitude_deg=90, longitude_deg=0, time_zone="UTC")
    sun, _ = direct(pole, seconds("1992-10-12T23:59:01"))
    declination = float(sun.altitude_deg[0]) + 8.7 / 3600
    assert declination == pytest.approx(-(7 + 47 / 60 + 1.74 / 3600), abs=0.0002)
    assert declination == pytest.approx(-(7 + 47 / 60 + 6 / 3600), abs=0.002)


def test_the_moon_of_meeus_examples_47_and_48() -> None:
    # Meeus, Astronomical Algorithms, 2nd ed., example 47.a: 1992 Apr 12.0 TD, δ 13.768368°, 368,409.7 km,
    # π 0.991990°; example 48.a: illuminated fraction 0.6786.
    pole = make_place(latitude_deg=90, longitude_deg=0, time_zone="UTC")
    at = seconds("1992-04-11T23:59:01")
    sky = sky_over(pole, at - 3600, at + 3600)
    assert float(sky.moon_parallax_deg(at)) == pytest.approx(0.991990, abs=0.0002)
    assert float(sky.moon_illuminated_fraction(at)) == pytest.approx(0.6786, abs=0.001)
    # Topocentric at the pole, whose distance from the centre is 0.996647 equatorial radii.
    declination, parallax = np.radians(13.768368), np.radians(0.991990)
    seen = np.arctan2(np.sin(declination) - 0.996647 * np.sin(parallax), np.cos(declination))
    assert float(sky.moon(at).altitude_deg) == pytest.approx(np.degrees(seen), abs=0.002)


@pytest.mark.parametrize("step_s", [900.0, 3_600.0])
def test_windows_that_overlap_or_leave_a_gap_are_each_as_if_they_were_the_only_one(step_s: float) -> None:
    place, begin_s = make_place(latitude_deg=41.234, longitude_deg=17.1), seconds("2026-03-28T22:00")
    # Hours from the beginning: alone, far away, over the gap between them, before all of it, within it.
    for first, last in ((0, 30), (700, 740), (10, 730), (-60, 5), (100, 101)):
        sky = sky_over(place, begin_s + first * 3_600, begin_s + last * 3_600, step_s)
        assert (sky.from_s, sky.to_s) == (begin_s + first * 3_600, begin_s + last * 3_600)
        assert np.allclose(np.diff(sky.grid_s), step_s) and sky.grid_s[0] == sky.from_s - 2 * step_s
        at = sky.grid_s[:: max(1, len(sky.grid_s) // 7)]
        sun, moon = direct(place, at)
        assert sky.sun(at).altitude_deg == pytest.approx(sun.altitude_deg, abs=1e-9)
        assert sky.moon(at).azimuth_deg == pytest.approx(moon.azimuth_deg, abs=1e-9)


@pytest.mark.parametrize("name", PLACES)
def test_interpolation_costs_under_a_thousandth_of_a_degree(name: str) -> None:
    place = place_of(name)
    start = seconds("2026-11-24T12:00")
    at = np.random.default_rng(7).uniform(start, start + 86_400, 500)
    sky = sky_over(place, start, start + 86_400)
    for exact, ours in zip(direct(place, at), (sky.sun(at), sky.moon(at)), strict=True):
        assert np.abs(exact.altitude_deg - ours.altitude_deg).max() < 0.001
        apart = (exact.azimuth_deg - ours.azimuth_deg + 180) % 360 - 180
        assert (np.abs(apart) * np.cos(np.radians(exact.altitude_deg))).max() < 0.001


@pytest.mark.parametrize("name", ["57 N", "equator", "33 S", "54 S"])
@pytest.mark.parametrize("day", [date(2026, 3, 29), date(2026, 10, 4), date(2026, 11, 24)])
def test_rise_set_and_twilights_agree_with_ephem(name: str, day: date) -> None:
    """Among the days are those on which the clocks change in Europe and in Australia."""
    place = place_of(name)
    ours = sun_events_of(place, day)
    observer = ephem.Observer()
    observer.lat, observer.lon, observer.pressure, observer.elevation = (
        str(place.latitude_deg), str(place.longitude_deg), 0, 0,
    )  # fmt: skip
    midnight = local_midnight_s(place, day)
    observer.date = ephem.Date(datetime.fromtimestamp(midnight, UTC).replace(tzinfo=None))
    # The threshold holds for the centre of the sun: the twilight definitions of the U.S. Naval Observatory.
    for horizon, up, down in (
        ("-0.8333", "sunrise", "sunset"), ("-6", "civil dawn", "civil dusk"),
        ("-12", "nautical dawn", "nautical dusk"), ("-18", "astronomical dawn", "astronomical dusk"),
    ):  # fmt: skip
        observer.horizon = horizon
        for name_of, find in ((up, observer.next_rising), (down, observer.next_setting)):
            try:
                theirs = find(ephem.Sun(), use_center=True).datetime().replace(tzinfo=UTC).timestamp()
            except (ephem.AlwaysUpError, ephem.NeverUpError):
                assert ours[name_of] is None
                continue
            if theirs < local_midnight_s(place, date.fromordinal(day.toordinal() + 1)):
                assert ours[name_of] == pytest.approx(theirs, abs=3)


def test_polar_night_and_day_have_no_sunset() -> None:
    place = place_of("70 N")
    winter, summer = sun_events_of(place, date(2026, 12, 21)), sun_events_of(place, date(2026, 6, 21))
    assert winter["sunrise"] is None and winter["sunset"] is None
    assert winter["civil dawn"] is not None
    assert all(at is None for at in summer.values())


def test_a_night_over_a_clock_change_has_the_right_number_of_seconds() -> None:
    place = make_place()
    assert local_midnight_s(place, date(2026, 10, 26)) - local_midnight_s(place, date(2026, 10, 25)) == 25 * 3600
    assert local_midnight_s(place, date(2026, 3, 30)) - local_midnight_s(place, date(2026, 3, 29)) == 23 * 3600


def test_a_window_too_long_to_hold_is_refused() -> None:
    with pytest.raises(Refusal) as refusal:
        sky_over(make_place(), 0, 500 * 86_400)
    assert "400 days" in refusal.value.allowed


def test_instants_outside_the_window_are_an_error_and_not_an_extrapolation() -> None:
    sky = sky_over(make_place(), 0, 3600)
    with pytest.raises(ValueError):
        sky.sun(100_000)


def test_a_ridge_hides_the_sun_before_sunset_when_its_upper_limb_is_behind_it() -> None:
    place = make_place(horizon=[{"azimuth_deg": 200, "altitude_deg": 5}, {"azimuth_deg": 280, "altitude_deg": 5}])
    noon = seconds("2026-11-24T12:00")
    sky = sky_over(place, noon, noon + 86_400)
    behind = next(event.at_s for event in ridge_crossings(sky, place) if event.name == "sun behind the ridge")
    assert float(sky.sun(behind).altitude_deg) == pytest.approx(5 - 0.267, abs=0.005)
    sunset = next(event.at_s for event in sky.sun_crossings if event.name == "sunset")
    assert 30 * 60 < sunset - behind < 120 * 60
    assert ridge_crossings(sky, make_place()) == ()


def test_a_skyline_is_straight_between_its_points_and_closes_over_north() -> None:
    points = ((10.0, 2.0), (350.0, 6.0))
    assert skyline_deg(points, [350, 0, 10, 180]) == pytest.approx([6, 4, 2, 4])


@pytest.mark.parametrize("name", ["70 N", "57 N", "equator", "54 S"])
def test_interpolation_costs_under_a_fiftieth_of_a_stop_of_scene_light(name: str) -> None:
    place = place_of(name)
    start = seconds("2026-11-24T12:00")
    at = np.linspace(start, start + 86_400, 700)
    sky = sky_over(place, start, start + 86_400)
    sun, moon = direct(place, at)
    # The light of the moon by its directly computed altitude, the phase being as good as constant.
    moonlight = moon_illuminance_lx(moon.altitude_deg, sky.moon_phase_angle_deg(at), sky.moon_parallax_deg(at))
    exact = ev100_of_illuminance(sun_illuminance_lx(sun.altitude_deg) + moonlight + night_floor_lx(21.7))
    assert np.abs(ev100_of_illuminance(illuminance_lx(sky, at, 21.7)) - exact).max() < 0.02
