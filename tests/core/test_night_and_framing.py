"""Stars across the picture, what passes through it, filters, the subject and the meter reading."""

from datetime import UTC, datetime

import astropy.units as u
import numpy as np
import pytest
from astropy.coordinates import AltAz, EarthLocation, Galactic, SkyCoord, get_body
from astropy.time import Time
from astropy.utils import iers
from skyfield.api import Star, wgs84

from revani.core.documents import ClockStart, Filter, Light, Reading, SunStart
from revani.core.documents.timing import Timing
from revani.core.edit.meter_reading import ReadingNote, noted
from revani.core.edit.subject import Moving, px_per_frame, suggest
from revani.core.findings import judge
from revani.core.light.scene import reading_ev100, scene_offset_stops
from revani.core.optics.lens import focal_px, lens_of
from revani.core.optics.star_limits import stars_in
from revani.core.picture.passages import altitude_deg, passages
from revani.core.program.compiled import compile_shot
from revani.core.quantities.refusal import Refusal
from revani.core.rehearsal.night import night_ways
from revani.core.shown.framed_view import framed_view
from revani.core.sky.dark import dark_windows
from revani.core.sky.stars import declination_deg, equatorial, galactic_core_directions, sidereal_deg, to_horizon
from revani.core.sky.sun_and_moon import direct, ephemeris, timescale
from tests.conftest import make_kit, make_place, make_shot

iers.conf.auto_download = False
iers.conf.auto_max_age = None
NIGHT = datetime(2026, 11, 24, 22, tzinfo=UTC).timestamp()


def stars(**change: object):  # type: ignore[no-untyped-def]
    values = {
        "needs_dark": True, "start": ClockStart(time="19:00"), "timing": Timing(fps=24, interval_s=30, frame_count=240),
        "light": Light(aperture=2.8, shutter_s=20), "framing": {"heading_deg": 180, "tilt_deg": 20},
    } | change  # fmt: skip
    return make_shot(**values)


def test_drift_is_that_of_a_catalogue_star_projected_through_the_lens() -> None:
    # Betelgeuse and Rigel, from the Hipparcos catalogue, placed by Skyfield; projected by hand as a pinhole does.
    shot = stars()
    place, lens = shot.place, lens_of(shot)
    here = ephemeris()["earth"] + wgs84.latlon(place.latitude_deg, place.longitude_deg)
    field = stars_in(shot)
    seen = 0
    for ra, dec in ((5.9195, 7.4070), (5.2423, -8.2016), (6.7525, -16.7161)):
        where = []
        for at in (NIGHT + 9000, NIGHT + 9010):
            t = timescale().utc(1970, 1, 1, 0, 0, at)
            alt, az, _ = here.at(t).observe(Star(ra_hours=ra, dec_degrees=dec)).apparent().altaz()
            h, a = az.radians - np.radians(180), alt.radians
            right, up, forward = np.cos(a) * np.sin(h), np.sin(a), np.cos(a) * np.cos(h)
            tilt = np.radians(20)
            depth = forward * np.cos(tilt) + up * np.sin(tilt)
            where.append(
                (lens.focal_px * right / depth, lens.focal_px * (up * np.cos(tilt) - forward * np.sin(tilt)) / depth)
            )
        if abs(where[0][0]) > 3000 or abs(where[0][1]) > 2000:
            continue
        seen += 1
        drift = np.hypot(where[1][0] - where[0][0], where[1][1] - where[0][1]) / 10
        column, row = (where[0][0] / 6000 + 0.5) * 8, (0.5 - where[0][1] / 4000) * 8
        near = field.drift_px_s[int(row) : int(row) + 2, int(column) : int(column) + 2]
        assert near.min() * 0.995 <= drift <= near.max() * 1.005
    assert seen >= 2


def test_drift_in_the_middle_is_the_plate_scale_of_the_handbook() -> None:
    # 24 mm, 6 µm, looking at the equator: 15.041″/s over 206.265 · 6 / 24 ″/px.
    shot = stars(framing={"heading_deg": 180, "tilt_deg": 90 - 57.6})
    assert stars_in(shot).drift_px_s[4, 4] == pytest.approx(15.041 / (206.265 * 6 / 24), rel=1e-3)
    assert stars_in(shot).least_declination_deg == 0
    north = stars(framing={"heading_deg": 0, "tilt_deg": 57.6})
    assert stars_in(north).drift_px_s[4, 4] < 0.001
    assert stars_in(north).npf_s > stars_in(shot).npf_s


def test_a_fixed_direction_keeps_its_declination_as_the_sky_turns() -> None:
    vector = equatorial(123.0, 31.0)
    for at in (NIGHT, NIGHT + 7000):
        turned = to_horizon(57.6, float(sidereal_deg(at, -7.4))) @ vector
        assert float(declination_deg(turned, 57.6)) == pytest.approx(31.0, abs=1e-6)


@pytest.mark.parametrize("latitude", [57.6, -33.0])
def test_the_galactic_core_stands_where_astropy_has_it(latitude: float) -> None:
    at = NIGHT + np.array([0.0, 20_000.0, 40_000.0])
    mine = galactic_core_directions(latitude, -7.4, at)
    here = EarthLocation(lat=latitude * u.deg, lon=-7.4 * u.deg)
    theirs = SkyCoord(0 * u.deg, 0 * u.deg, frame=Galactic).transform_to(
        AltAz(obstime=Time(at, format="unix"), location=here)
    )
    # The origin of galactic coordinates lies 4′ from Sagittarius A*.
    assert altitude_deg(mine) == pytest.approx(theirs.alt.deg, abs=0.1)


def test_the_sun_leaves_the_picture_when_astropy_projected_by_hand_says_so() -> None:
    shot = make_shot(start=SunStart(event="sunset", offset_s=-7200), framing={"heading_deg": 215, "tilt_deg": 5})
    program = compile_shot(shot)
    (sun,) = [one for one in passages(program) if one.which == "sun"]
    here = EarthLocation(lat=57.6 * u.deg, lon=-7.4 * u.deg)
    half_w, half_h = 36 / 2 / 24, 24 / 2 / 24

    def inside(at: float) -> bool:
        time = Time(at, format="unix")
        spot = get_body("sun", time, here).transform_to(AltAz(obstime=time, location=here))
        h, a, tilt = np.radians(spot.az.deg - 215), np.radians(spot.alt.deg), np.radians(5)
        forward, up = np.cos(a) * np.cos(h), np.sin(a)
        depth = forward * np.cos(tilt) + up * np.sin(tilt)
        x, y = np.cos(a) * np.sin(h) / depth, (up * np.cos(tilt) - forward * np.sin(tilt)) / depth
        return bool(abs(x) < half_w and abs(y) < half_h and spot.alt.deg > -0.267)

    assert inside(sun.to_s - 20) and not inside(sun.to_s + 20)
    assert sun.begins == "shot" or (inside(sun.from_s + 20) and not inside(sun.from_s - 20))


def test_a_ridge_ends_the_suns_passage_before_the_horizon_does() -> None:
    def leaves(**place: object) -> float:
        shot = make_shot(
            start=SunStart(event="sunset", offset_s=-7200), framing={"heading_deg": 215, "tilt_deg": 5},
            place=make_place(**place),
        )  # fmt: skip
        (sun,) = [one for one in passages(compile_shot(shot)) if one.which == "sun"]
        assert sun.ends == "skyline"
        return sun.to_s

    ridge = [{"azimuth_deg": 0, "altitude_deg": 3}, {"azimuth_deg": 180, "altitude_deg": 3}]
    assert leaves(horizon=ridge) < leaves() - 900


def test_the_framed_view_draws_the_sun_where_the_camera_sees_it() -> None:
    shot = make_shot(start=SunStart(event="sunset", offset_s=-3600), framing={"heading_deg": 222, "tilt_deg": 5})
    view = framed_view(compile_shot(shot), 1)
    (sun,) = [way for way in view.ways if way.which == "sun"]
    assert sun.now and 0.3 < sun.now[0] < 0.7 and sun.now[1] < view.horizon[len(view.horizon) // 2][1]
    assert any("sun" in line for line in view.told)


def test_dark_without_the_moon_is_part_of_the_dark() -> None:
    program = compile_shot(stars())
    dark = sum(one.to_s - one.from_s for one in dark_windows(program.sky))
    moonless = sum(one.to_s - one.from_s for one in dark_windows(program.sky, 0.0))
    # 24 November 2026 is a full moon (almanacs: 14:53 UTC), high all night.
    assert dark > 36_000 and moonless < 7200
    assert "night.moon" in {one.id for one in judge(program)}
    assert "night.moon" not in {one.id for one in judge(compile_shot(stars(date="2026-12-09")))}


def test_highest_and_lowest_iso_trade_noise_for_trails() -> None:
    high, low = night_ways(compile_shot(stars()))
    # ISO 12,800 over a base of 100 is seven stops.
    # Over as many stops of ISO the shutter is as many longer, and gathers that much more of the sky.
    assert low.sky_stops - high.sky_stops == pytest.approx(np.log2(low.shutter_s / high.shutter_s))
    assert high.trail_px < low.trail_px and high.gap_px > low.gap_px


def test_stars_beyond_the_rule_and_dashed_trails_are_findings_with_fixes() -> None:
    trailing = [one for one in judge(compile_shot(stars(date="2026-12-09"))) if one.id == "night.trailing"]
    assert trailing
    cut = trailing[0].fixes[0].shot
    assert "night.trailing" not in {one.id for one in judge(compile_shot(cut))}
    trails = stars(trails=True, light=Light(school="fixed", aperture=2.8, shutter_s=15, iso=1600))
    (gap,) = [one for one in judge(compile_shot(trails)) if one.id == "night.dark-gap"]
    held = compile_shot(gap.fixes[0].shot)
    assert held.exposures.shutter_s.min() > 29


# Filters -----------------------------------------------------------------------------------------------

SOFT, DARK = Filter(name="Soft", stops=3), Filter(name="Dark", stops=6)


def filtered(**light: object):  # type: ignore[no-untyped-def]
    kit = make_kit().model_copy(update={"filters": (SOFT, DARK)})
    return make_shot(kit=kit, light=Light.model_validate({"aperture": 8, "iso": 100} | light))


def test_a_filter_takes_its_stops_until_it_is_taken_off() -> None:
    off = {"by": "sun", "event": "sunset", "offset_s": 0}
    program = compile_shot(filtered(filters=[SOFT.id, DARK.id], filters_off=off))
    before = program.sun_altitude_deg > -0.8
    assert (program.nd_stops[before] == 9).all() and (program.nd_stops[~before] == 0).all()
    assert "light.filter-change" in {one.id for one in judge(program)}


def test_the_advice_gives_the_wanted_angle_within_half_a_stop_and_says_when_to_take_it_off() -> None:
    program = compile_shot(filtered(angle_deg=180))
    (finding,) = [one for one in judge(program) if one.id == "light.angle"]
    taken = compile_shot(finding.fixes[0].shot)
    assert taken.nd_stops[0] > 0 and taken.shot.light.filters_off is not None
    near = np.abs(np.log2(taken.shutter_angle_deg / 180)) <= 0.6
    plain = np.abs(np.log2(program.shutter_angle_deg / 180)) <= 0.6
    assert near.sum() > plain.sum()
    assert finding.fixes[-1].shot.light.angle_deg is None


def test_a_filter_left_on_into_the_night_is_a_finding_that_names_the_time() -> None:
    program = compile_shot(filtered(filters=[DARK.id], iso_ceiling=100))
    (finding,) = [one for one in judge(program) if one.id == "light.filter-too-long"]
    better = compile_shot(finding.fixes[0].shot)
    assert better.exposures.error_stops.min() > program.exposures.error_stops.min() + 5


# Subject and reading -----------------------------------------------------------------------------------


def test_a_subjects_pixels_a_frame_are_those_of_a_pinhole() -> None:
    shot = make_shot()
    # 1.4 m/s at 40 m, 24 mm on 6 µm: 1.4 · 2 · 24 mm / (40 m · 6 µm) = 280 px in 2 s.
    assert px_per_frame(shot, 1.4, 40, 2) == pytest.approx(280)
    assert focal_px(shot) == pytest.approx(4000)
    slow, smooth, lively = suggest(shot, Moving(speed_m_s=1.4, distance_m=400))
    assert slow.px_per_frame and smooth.px_per_frame and lively.px_per_frame
    # Common practice, no source: 0.2 % to 2 % of the width reads as smooth.
    assert 0.0019 * 6000 < slow.px_per_frame < smooth.px_per_frame < lively.px_per_frame < 0.0215 * 6000


def test_kinds_of_subject_suggest_the_intervals_of_the_trade() -> None:
    # Common practice, no source.
    first, _, last = suggest(make_shot(), Moving(kind="stars"))
    assert (first.shot.timing.interval_s, last.shot.timing.interval_s) == (15, 40)
    assert last.shot.timing.frame_count == 600


def test_a_reading_puts_the_scene_where_the_meter_saw_it() -> None:
    place = make_place()
    at = compile_shot(make_shot()).start_s
    # Sunny 16: f/16 at 1/125 and ISO 100 is EV 15 (common practice).
    reading = Reading(at_s=at, aperture=16, shutter_s="1/125", iso=100, cloud="haze")
    assert reading_ev100(reading) == pytest.approx(15, abs=0.01)
    light = Light(aperture=2.8, reading=reading, cloud="haze")
    program = compile_shot(make_shot(light=light))
    assert program.scene_ev[0] == pytest.approx(15, abs=0.02)
    # With the cloud gone, the scene is as much brighter as haze took away.
    clear = compile_shot(make_shot(light=light.model_copy(update={"cloud": "clear"})))
    assert clear.scene_ev[0] == pytest.approx(16, abs=0.02)
    # ISO 2720: 81,920 lx is EV 15.
    assert reading_ev100(Reading(at_s=at, illuminance_lx=81_920)) == pytest.approx(15)
    assert scene_offset_stops(Light(scene="ground"), place) == 0


def test_a_reading_that_is_still_to_come_is_refused_at_its_field() -> None:
    note = ReadingNote(day="2026-11-24", clock="15:00", aperture="8", shutter="1/60", iso="100", by="hand meter")
    three = datetime(2026, 11, 24, 15, tzinfo=UTC).timestamp()
    kept = noted(make_shot(), note, three + 5).light.reading
    assert kept and kept.at_s == three and kept.by == "hand meter"
    with pytest.raises(Refusal) as refusal:
        noted(make_shot(), note, three - 3600)
    assert refusal.value.path == "clock"
    with pytest.raises(Refusal) as refusal:
        noted(make_shot(), ReadingNote(clock="15:00", aperture="8"), three)
    assert refusal.value.path == "shutter"


def test_interpolated_sun_moon_and_light_are_those_of_the_ephemeris_at_every_frame() -> None:
    program = compile_shot(make_shot(timing=Timing(fps=30, interval_s=37, frame_count=1400)))
    sun, moon = direct(program.shot.place, program.at_s)
    assert np.abs(program.sun_altitude_deg - sun.altitude_deg).max() < 0.01
    assert np.abs(program.moon_altitude_deg - moon.altitude_deg).max() < 0.01
    from revani.core.light.scene import ev100_of_illuminance, moon_illuminance_lx, night_floor_lx, sun_illuminance_lx

    sky = program.sky
    lux = sun_illuminance_lx(sun.altitude_deg) + night_floor_lx(program.shot.place.sky_brightness)
    phase, parallax = sky.moon_phase_angle_deg(program.at_s), sky.moon_parallax_deg(program.at_s)
    lux = lux + moon_illuminance_lx(moon.altitude_deg, phase, parallax)
    straight = ev100_of_illuminance(lux) + program.scene_offset_stops
    assert np.abs(program.scene_ev - straight).max() < 0.02
