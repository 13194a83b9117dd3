"""The walk, moves made afterwards, dew, power banks, nights and alignments: handbook checks and reference libraries."""

from datetime import UTC, datetime, timedelta
from typing import Any

import ephem
import pytest
from hypothesis import given
from hypothesis import strategies as st

from revani.core.calculators import calculate
from revani.core.quantities.refusal import Refusal


def ask(name: str, **values: Any) -> dict[str, Any]:
    return calculate(name, values)


def refused_at(name: str, **values: Any) -> str:
    with pytest.raises(Refusal) as refused:
        calculate(name, values)
    return refused.value.path


@pytest.mark.parametrize(
    ("walk_s", "factor", "head", "tail", "film_s"),
    [(120, 16, 1, 1, 9.375), (60, 8, 1, 1, 9.25), (60, 4, 0, 0, 15), (300, 32, 1, 0, 10.34375)],
)
def test_a_walk_becomes_the_film_of_the_handbook(
    walk_s: float, factor: float, head: float, tail: float, film_s: float
) -> None:
    found = ask("walk", pace_m_s=1, length_m=walk_s, factor=factor, head_s=head, tail_s=tail)
    assert found["playback_s"] == film_s and found["walk_s"] == walk_s
    again = ask("walk", pace_m_s=1, length_m=walk_s, playback_s=film_s, head_s=head, tail_s=tail)
    assert again["factor"] == pytest.approx(factor)


def test_ten_seconds_of_film_at_sixteen_want_a_hundred_and_fifty_six_metres() -> None:
    found = ask("walk", factor=16, playback_s=10, head_s=1, tail_s=1)
    assert (found["walk_s"], found["length_m"]) == (130, 156)


def test_walks_that_cannot_be_are_refused_at_their_fields() -> None:
    assert refused_at("walk", length_m=100, factor=8, playback_s=10) == "playback_s"
    assert refused_at("walk", length_m=100) == "factor"
    assert refused_at("walk", factor=8, playback_s=2, head_s=1, tail_s=1) == "playback_s"
    assert refused_at("walk", length_m=2, factor=8, head_s=1, tail_s=1) == "length_m"
    assert refused_at("walk", length_m=12, playback_s=20) == "playback_s"
    assert refused_at("walk", length_m=12, factor="1/2") == "factor"


@given(st.integers(1, 500), st.integers(1, 64), st.integers(0, 3))
def test_any_two_of_a_walk_give_the_third(length: int, factor: int, ends: int) -> None:
    if ends * 2 * 1.2 >= length:
        return
    whole = ask("walk", length_m=length, factor=factor, head_s=ends, tail_s=ends)
    back = ask("walk", factor=factor, playback_s=str(whole["playback_s"]), head_s=ends, tail_s=ends)
    assert back["length_m"] == pytest.approx(length, rel=1e-9)


def test_stations_own_a_step_each() -> None:
    found = ask("stations", length_m=100, frame_count=200, pause_s=5, pace_m_s=1)
    assert found == {"step_m": 0.5, "total_s": 1100.0}


def test_an_aim_that_is_off_a_roll_and_a_push_in_cost_what_the_handbook_says() -> None:
    off = ask("aim_error", focal_length_mm=24, sensor_width_mm=36, pixels_wide=6000, error_deg=-1)
    assert off["shift_px"] == pytest.approx(69.8, abs=0.05)
    for roll, zoom in ((1, 1.031), (-3, 1.092), (5, 1.151)):
        assert ask("roll_room", roll_deg=roll, width=16, height=9)["zoom"] == pytest.approx(zoom, abs=0.0006)
    # A picture on its side needs as much; a quarter turn needs the whole of the longer side.
    assert ask("roll_room", roll_deg=3, width=9, height=16)["zoom"] == pytest.approx(1.092, abs=0.0006)
    assert ask("roll_room", roll_deg=90, width=16, height=9)["zoom"] == pytest.approx(16 / 9)
    push = ask("push_in", zoom_from=1.0, zoom_to=1.2, duration_s=6, continued_s=3)
    assert push["rate_per_s"] == pytest.approx(0.0304, abs=5e-5)
    assert push["zoom_continued"] == pytest.approx(1.095, abs=5e-4)
    out = ask("push_in", zoom_from=1.2, zoom_to=1.0, duration_s=6, continued_s=3)
    assert out["rate_per_s"] < 0 < out["zoom_continued"] < 1


@pytest.mark.parametrize(("view", "ratio"), [(90, 1.05), (60, 1.81), (110, 0.73)])
def test_a_picture_out_of_a_sphere_is_as_dense_as_the_handbook_says(view: float, ratio: float) -> None:
    found = ask("sphere_density", source_width_px=5760, output_width_px=1920, view_deg=view)
    assert found["ratio"] == pytest.approx(ratio, abs=0.006)
    assert found["px_per_deg"] == pytest.approx(found["ratio"] * 16)


def test_a_code_card_is_readable_from_three_pixels_a_module_on() -> None:
    found = ask("code_card", focal_length_mm=24, pixel_pitch_um=6, module_mm=3, distance_m=4)
    assert found == {"module_px": 3.0, "readable": True}
    assert not ask("code_card", focal_length_mm=24, pixel_pitch_um=6, module_mm=3, distance_m=4.01)["readable"]


def test_the_dew_point_is_that_of_the_magnus_formula() -> None:
    # WMO tables give 9.3 °C for 20 °C at 50 % and the air's own temperature at 100 % (memory).
    assert ask("dew_point", temperature_c=20, humidity_percent=50)["dew_point_c"] == pytest.approx(9.3, abs=0.1)
    assert ask("dew_point", temperature_c=-5, humidity_percent=100)["dew_point_c"] == pytest.approx(-5)
    assert refused_at("dew_point", temperature_c=20, humidity_percent=0) == "humidity_percent"


def test_a_power_bank_lasts_and_switches_off_under_a_small_load() -> None:
    bank = {"capacity_wh": 100, "conversion": 0.85, "temperature_factor": 0.85, "cut_off_w": 0.5}
    found = ask("power_bank", load_w=0.4, **bank)
    assert found["switches_off"] and found["runtime_s"] == pytest.approx(100 * 0.85 * 0.85 / 0.4 * 3600)
    assert ask("power_bank", load_w=0, **bank) == {"runtime_s": None, "switches_off": True}
    assert not ask("power_bank", load_w=0.5, **bank)["switches_off"]


PLACE = {"latitude_deg": 57.6, "longitude_deg": -7.4, "elevation_m": 0, "time_zone": "Europe/London"}


def test_nights_are_dark_when_ephem_says_that_the_sun_is_under_eighteen_degrees() -> None:
    rows = ask("nights", **PLACE, from_date="2026-12-07", count=4, moonlight_up_to=1)["nights"]
    for row in rows:
        observer = ephem.Observer()
        observer.lat, observer.lon, observer.pressure, observer.horizon = "57.6", "-7.4", 0, "-18"
        observer.date = datetime.fromisoformat(row["date"]) + timedelta(hours=12)
        begins = observer.next_setting(ephem.Sun(), use_center=True).datetime().replace(tzinfo=UTC)
        ends = observer.next_rising(ephem.Sun(), use_center=True).datetime().replace(tzinfo=UTC)
        assert abs((datetime.fromisoformat(row["from"]) - begins).total_seconds()) < 15
        assert abs((datetime.fromisoformat(row["to"]) - ends).total_seconds()) < 15
        assert row["dark_s"] == pytest.approx((ends - begins).total_seconds(), abs=30)


def test_a_moon_shortens_the_night_and_a_summer_has_none() -> None:
    full = ask("nights", **PLACE, from_date="2026-11-24", count=1)["nights"][0]
    assert full["moon_illuminated_fraction"] > 0.99 and full["dark_s"] == 0 and full["from"] is None
    new = ask("nights", **PLACE, from_date="2026-12-09", count=1)["nights"][0]
    assert new["dark_s"] > 10 * 3600 and new["moon_illuminated_fraction"] < 0.02
    summer = ask("nights", **PLACE, from_date="2026-06-21", count=1, moonlight_up_to=1)["nights"][0]
    assert summer["dark_s"] == 0 and summer["to"] is None
    nautical = ask("nights", **PLACE, from_date="2026-06-21", count=1, moonlight_up_to=1, sun_below_deg=-6)["nights"][0]
    assert nautical["dark_s"] > 3600
    assert refused_at("nights", **PLACE, from_date="2051-01-01", count=1) == "from_date"
    assert refused_at("nights", **PLACE, from_date="2026-06-21", count=401) == "count"


@pytest.mark.parametrize(("body", "at"), [("sun", "2026-12-21T15:10:00Z"), ("moon", "2026-12-23T20:00:00Z")])
def test_an_alignment_finds_the_instant_at_which_it_stood_there(body: str, at: str) -> None:
    here = {name: PLACE[name] for name in ("latitude_deg", "longitude_deg", "elevation_m")}
    stood = ask("sky", **here, at=at)
    point = {"azimuth_deg": stood[f"{body}_azimuth_deg"], "altitude_deg": stood[f"{body}_altitude_deg"]}
    days = {"from_date": at[:10], "days": 1, "within_deg": 0.5}
    (found,) = ask("alignment", **PLACE, body=body, **point, **days)["passes"]
    apart_s = (datetime.fromisoformat(found["at"]) - datetime.fromisoformat(at.replace("Z", "+00:00"))).total_seconds()
    assert abs(apart_s) < 2 and found["separation_deg"] < 0.01
    # Over a month the sun passes the point's azimuth lower and lower, or higher; rows stand in order.
    many = ask("alignment", **PLACE, body=body, **point, from_date=at[:10], days=30, within_deg=5)["passes"]
    assert many == sorted(many, key=lambda row: row["at"]) and all(row["separation_deg"] <= 5 for row in many)
    assert ask("alignment", **PLACE, body=body, azimuth_deg=0, altitude_deg=80, **days)["passes"] == []
    assert refused_at("alignment", **PLACE, body=body, azimuth_deg=0, altitude_deg=-6, **days) == "altitude_deg"
