"""Moments of a shot: after midnight, over a clock change, at what sun and moon do, and beyond the film."""

from datetime import date, datetime
from zoneinfo import ZoneInfo

import ephem
import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from revani.core.documents import ClockStart, FilmTime, Filter, HorizonPoint, Light, SunStart
from revani.core.documents.timing import Timing
from revani.core.edit.fields import field_of
from revani.core.edit.wishes import LightKeyEdit, apply_light_key
from revani.core.findings import judge
from revani.core.program.compiled import compile_shot
from revani.core.quantities.refusal import Refusal
from revani.core.sky.skyline import skyline_deg, skyline_points
from revani.core.sky.sun_and_moon import day_events
from revani.core.timing.start import next_s, offered_starts, parse_start, show_start, started_now
from tests.conftest import make_kit, make_place, make_shot
from tests.core.moving import key, shot_of

ZURICH = make_place(latitude_deg=47.4, longitude_deg=8.5, time_zone="Europe/Zurich")
NIGHT = Timing(fps=30, interval_s=60, event_s=10 * 3600)


ND = Filter(name="Test ND", stops=3)


def at(shot, *clock: int) -> float:  # type: ignore[no-untyped-def]
    return datetime(*clock, tzinfo=ZoneInfo(shot.place.time_zone)).timestamp()  # type: ignore[arg-type]


@pytest.mark.parametrize(("day", "next_day"), [((2026, 10, 24), (2026, 10, 25)), ((2026, 3, 28), (2026, 3, 29))])
def test_a_clock_time_after_midnight_is_that_of_the_clock_whatever_it_does_that_night(day, next_day) -> None:  # type: ignore[no-untyped-def]
    four = ClockStart(time="04:00")
    shot = shot_of(
        key(0, slide=0), key(four, slide=500), place=ZURICH, date=date(*day), start=ClockStart(time="22:00"),
        timing=NIGHT,
    )  # fmt: skip
    program = compile_shot(shot)
    assert program.motion is not None
    assert program.start_s + program.motion.path.knots.arrives_s[1] == at(shot, *next_day, 4)
    kit = make_kit().model_copy(update={"filters": (ND,)})
    filtered = make_shot(
        place=ZURICH, date=date(*day), start=ClockStart(time="22:00"), timing=NIGHT, kit=kit,
        light=Light(aperture=2.8, filters=(ND.id,), filters_off=four),
    )  # fmt: skip
    on = compile_shot(filtered)
    assert on.at_s[on.nd_stops == 0][0] == at(shot, *next_day, 4)
    wished = apply_light_key(shot, LightKeyEdit(action="add", at_s=program.start_s + 60, bias_stops=1), 36_000)
    field = field_of("light.keys.0", wished)
    assert field is not None
    moved = field.read(wished, "+1 at 04:00")
    assert program.start_s + moved.light.keys[0].after_s == at(shot, *next_day, 4)


def test_a_time_that_the_clocks_skip_that_night_is_refused_at_its_field() -> None:
    shot = shot_of(
        key(0, slide=0), key(ClockStart(time="02:30"), slide=500), place=ZURICH, date=date(2026, 3, 28),
        start=ClockStart(time="22:00"), timing=NIGHT,
    )  # fmt: skip
    with pytest.raises(Refusal, match=r"clocks go forward over 02:30 on 29 Mar 2026") as refusal:
        compile_shot(shot)
    assert refusal.value.path == "move.keys.1.at"


def test_of_a_time_that_comes_twice_the_next_one_is_meant() -> None:
    first = at(make_shot(place=ZURICH), 2026, 10, 25, 2, 30)
    twice = ClockStart(time="02:30")
    assert next_s(twice, ZURICH, first - 60, "") == first
    assert next_s(twice, ZURICH, first + 60, "") == first + 3600


@pytest.mark.parametrize("event", ["sunrise", "astronomical dawn"])
def test_a_filter_comes_off_at_the_next_event_even_after_midnight(event: str) -> None:
    shot = make_shot(
        start=ClockStart(time="20:00"), timing=Timing(fps=30, interval_s=60, event_s=14 * 3600),
        kit=make_kit().model_copy(update={"filters": (ND,)}),
        light=Light(aperture=2.8, filters=(ND.id,), filters_off=SunStart(event=event)),
    )  # fmt: skip
    program = compile_shot(shot)
    off = float(program.at_s[program.nd_stops == 0][0])
    expected = day_events(shot.place, date(2026, 11, 25))[event]
    assert expected is not None and 0 <= off - expected < 60
    assert program.nd_stops[0] == 3


def test_a_filter_comes_off_at_a_dusk_of_a_summer_evening_that_is_after_midnight() -> None:
    """In 48° N on 12 Jun 2026 astronomical dusk comes after midnight, on the next date."""
    place = make_place(latitude_deg=48.0, longitude_deg=8.5, time_zone="Europe/Zurich")
    shot = make_shot(
        place=place, date=date(2026, 6, 12), start=ClockStart(time="21:00"), timing=NIGHT,
        kit=make_kit().model_copy(update={"filters": (ND,)}),
        light=Light(aperture=2.8, filters=(ND.id,), filters_off=SunStart(event="astronomical dusk")),
    )  # fmt: skip
    program = compile_shot(shot)
    off = float(program.at_s[program.nd_stops == 0][0])
    assert f"{program.local(off):%d %H}" == "13 00"
    assert -18.2 < program.sky.sun(off).altitude_deg < -17.9


def test_a_filter_that_would_come_off_after_the_shot_is_told() -> None:
    shot = make_shot(
        kit=make_kit().model_copy(update={"filters": (ND,)}),
        light=Light(aperture=2.8, filters=(ND.id,), filters_off=SunStart(event="sunset", offset_s=-7200)),
    )
    program = compile_shot(shot)
    told = next(one for one in judge(program) if one.id == "light.filter-stays")
    assert "on 25 Nov; the shot ends" in told.figures
    assert not [one for one in judge(compile_shot(told.fixes[0].shot)) if one.id == told.id]


def test_starting_now_dates_the_shot_and_its_moments_with_it() -> None:
    now = at(make_shot(), 2027, 1, 10, 15, 0)
    shot = shot_of(key(0, slide=0), key(SunStart(event="sunset"), slide=500), timing=NIGHT)
    begun = started_now(shot, now)
    program = compile_shot(begun)
    assert begun.date == date(2027, 1, 10) and program.start_s == now
    assert program.motion is not None and 0 < program.motion.path.knots.arrives_s[1] < 4 * 3600


@pytest.mark.parametrize("moment", [FilmTime(film_s=20.1), ClockStart(time="12:00"), 18_010.0])
def test_a_key_beyond_the_end_is_refused_however_it_is_said(moment) -> None:  # type: ignore[no-untyped-def]
    with pytest.raises(Refusal) as refusal:
        compile_shot(shot_of(key(0, slide=0), key(moment, slide=500)))
    assert refusal.value.path == "move.keys.1.at"


def test_a_key_at_the_very_end_of_the_film_stands_there() -> None:
    program = compile_shot(shot_of(key(0, slide=0), key(FilmTime(film_s=20), slide=500)))
    assert program.motion is not None and program.motion.path.knots.arrives_s[1] == 18_000


@pytest.mark.parametrize(
    ("typed", "shown"),
    [
        ("6 pm", "18:00"), ("6:30pm", "18:30"), ("12 am", "00:00"), ("moonrise", "moonrise"),
        ("moonset + 20", "moonset + 20 min"), ("low sun", "low sun"), ("the blue hour", "blue hour"),
        ("dark", "dark"), ("dark − 10 min", "dark − 10 min"), ("sun behind the ridge", "sun behind the ridge"),
    ],
)  # fmt: skip
def test_a_start_is_typed_as_people_say_it(typed: str, shown: str) -> None:
    assert show_start(parse_start(typed), make_place()) == shown
    assert parse_start(shown) == parse_start(typed)


@pytest.mark.parametrize("typed", ["13 pm", "0 am", "25:00", "moon", "sunset + lots"])
def test_a_start_that_is_none_is_refused_with_what_may_be_typed(typed: str) -> None:
    with pytest.raises(Refusal, match="6 pm"):
        parse_start(typed)


def test_moonrise_and_moonset_agree_with_another_ephemeris() -> None:
    """Against the library ephem (XEphem's engine), upper limb with its standard refraction of 34′."""
    place = make_place(latitude_deg=47.4, longitude_deg=8.5, time_zone="UTC")
    found = day_events(place, date(2026, 11, 24))
    there = ephem.Observer()
    there.lat, there.lon, there.pressure, there.horizon = "47.4", "8.5", 0, "-0:34"
    there.date = ephem.Date("2026/11/24 00:00:00")
    for name, when in (
        ("moonrise", there.next_rising(ephem.Moon())),
        ("moonset", there.next_setting(ephem.Moon())),
    ):
        expected = when.datetime().replace(tzinfo=ZoneInfo("UTC")).timestamp()
        assert found[name] is not None and abs(found[name] - expected) < 60


def test_the_evenings_events_come_in_order_and_dark_falls_back_to_nautical_dusk_in_summer() -> None:
    found = day_events(make_place(), date(2026, 11, 24))
    assert found["low sun"] < found["sunset"] < found["blue hour"] < found["civil dusk"] < found["dark"]  # type: ignore[operator]
    assert found["dark"] == pytest.approx(found["astronomical dusk"])
    bright = day_events(make_place(latitude_deg=54), date(2026, 6, 20))
    assert bright["astronomical dusk"] is None and bright["dark"] is not None
    assert day_events(make_place(latitude_deg=60), date(2026, 6, 20))["dark"] is None


def test_what_a_start_may_be_picked_from_can_be_typed() -> None:
    ridge = make_place(
        horizon=(HorizonPoint(azimuth_deg=200, altitude_deg=4), HorizonPoint(azimuth_deg=280, altitude_deg=4))
    )
    names = [name for name, _ in offered_starts(make_shot(place=ridge))]
    assert {"now", "sunset", "moonrise", "dark", "sun behind the ridge"} <= set(names)
    for name in names[1:]:
        compile_shot(make_shot(place=ridge, start=parse_start(name)))


def skyline(*points: tuple[float, float]) -> tuple[tuple[float, float], ...]:
    return skyline_points(make_place(horizon=tuple(HorizonPoint(azimuth_deg=a, altitude_deg=h) for a, h in points)))


def test_beyond_the_points_of_a_skyline_it_is_flat_and_between_them_straight() -> None:
    two = skyline((240, 6), (280, 4))
    assert skyline_deg(two, [240, 260, 280]).tolist() == [6, 5, 4]
    assert skyline_deg(two, [239, 281, 90, 0]).tolist() == [0, 0, 0, 0]
    north = skyline((350, 6), (10, 4))
    assert skyline_deg(north, [350, 0, 10]).tolist() == [6, 5, 4] and skyline_deg(north, [180]).tolist() == [0]
    closed = skyline((0, 3), (120, 3), (240, 3))
    assert np.allclose(skyline_deg(closed, np.arange(360)), 3)
    assert skyline_deg(skyline((200, 5)), [200, 20]).tolist() == [0, 0]


@given(
    st.dates(date(2026, 1, 1), date(2027, 12, 31)), st.times(), st.times(),
    st.sampled_from(["Europe/Zurich", "America/New_York", "Australia/Lord_Howe", "Asia/Kathmandu"]),
)  # fmt: skip
def test_the_next_clock_time_is_within_a_day_and_shows_that_time(day, begin, wanted, zone) -> None:  # type: ignore[no-untyped-def]
    place = make_place(time_zone=zone)
    begin_s = datetime.combine(day, begin, ZoneInfo(zone)).timestamp()
    moment = ClockStart(time=f"{wanted:%H:%M}")
    try:
        found = next_s(moment, place, begin_s, "")
    except Refusal:
        return
    assert -1 <= found - begin_s <= 25 * 3600
    assert f"{datetime.fromtimestamp(found, ZoneInfo(zone)):%H:%M}" == moment.time
