"""Weather by the hour: read, held against holes, and used by light, battery and findings."""

from datetime import date, datetime
from zoneinfo import ZoneInfo

import numpy as np
import pytest

from revani.core.documents import ClockStart, Place
from revani.core.documents.timing import Timing
from revani.core.edit.weather_read import with_weather
from revani.core.feed.dew import dew_point_c
from revani.core.findings import judge
from revani.core.program.compiled import compile_shot
from revani.core.quantities.measures import measured_in
from revani.core.quantities.refusal import Refusal
from revani.core.sky.weather import known, temperature_c
from tests.conftest import make_kit, make_place, make_shot
from tests.core.small import told

DAY = date(2026, 11, 29)
NIGHT = """hour; temperature; humidity; cloud; wind
21; 4; 80 %; 0; 3 m/s
22:00; 2; 95; 50 %; 3
0; 0 °C; 96; 100; 9 m/s
1; -1; 97; 100; 36 km/h
"""


def noted(text: str = NIGHT, place: Place | None = None) -> tuple[Place, str]:
    return with_weather(place or make_place(), DAY, text, "metric")


def at(place: Place, text: str) -> float:
    return datetime.fromisoformat(text).replace(tzinfo=ZoneInfo(place.time_zone)).timestamp()


def test_hours_are_read_over_midnight_and_what_is_missing_is_said() -> None:
    place, said = noted()
    assert [one.at_s for one in place.weather] == [
        at(place, f"2026-11-{day}T{hour}:00") for day, hour in (("29", "21"), ("29", "22"), ("30", "00"), ("30", "01"))
    ]
    assert place.weather[3].wind_m_s == pytest.approx(10) and place.weather[1].cloud == 0.5
    assert said.startswith("4 hours read, Sun 21:00 to Mon 01:00. Hours are missing after 22:00")
    # 23:00 lies straight between its neighbours; the day before, nothing is known.
    assert float(temperature_c(place, at(place, "2026-11-29T23:00"))) == pytest.approx(1)
    assert float(temperature_c(place, at(place, "2026-11-28T12:00"))) == place.temperature_c


def test_a_later_note_replaces_the_same_hours_and_no_others() -> None:
    place, _ = noted()
    again, _ = noted("22; 7\n23; 6", place)
    hours = {one.at_s: one.temperature_c for one in again.weather}
    assert hours[at(place, "2026-11-29T22:00")] == 7 and hours[at(place, "2026-11-29T21:00")] == 4 and len(hours) == 5


def test_a_hole_of_more_than_six_hours_is_not_filled() -> None:
    place, _ = noted("12, 8\n20, 2")
    _, is_known = known(
        place, "temperature_c", [at(place, f"2026-11-29T{hour}") for hour in ("12:30", "16:00", "19:30")]
    )
    assert is_known.tolist() == [True, False, True]


@pytest.mark.parametrize(
    ("text", "line", "words"),
    [
        ("21, 4\n25, 3", "line 2", "An hour such as 21"),
        ("21, warm", "line 1", "temperature"),
        ("hour, rain\n21, 3", "line 1", "may name hour, temperature"),
        ("21, 4, 120", "line 1", "humidity"),
        ("21, 4, 80, 20, 3, 9", "line 1", "At most 5 values"),
        ("\n\n", "line 1", "An hour a line"),
    ],
)
def test_a_line_that_cannot_be_read_is_refused_with_its_number(text: str, line: str, words: str) -> None:
    with pytest.raises(Refusal, match=words) as refused:
        noted(text)
    assert refused.value.path == line


def test_light_battery_and_findings_go_by_the_weather() -> None:
    place, _ = noted()
    kit = make_kit(body={"battery_wh": 40, "idle_w": 3, "frame_j": 6})
    hours = {"date": DAY, "start": ClockStart(time="21:00"), "timing": Timing(fps=30, interval_s=30, event_s=4 * 3600)}
    dry = compile_shot(make_shot(kit=kit, place=make_place(temperature_c=20), **hours))
    wet = compile_shot(make_shot(kit=kit, place=place.model_copy(update={"temperature_c": 20.0}), **hours))
    first, last = 0, dry.frame_count - 1
    # Clear at 21:00, covered from midnight on: three stops less (overcast).
    assert dry.scene_ev[first] - wet.scene_ev[first] == pytest.approx(0, abs=0.01)
    assert dry.scene_ev[last] - wet.scene_ev[last] == pytest.approx(3, abs=0.01)
    # Each part of what is drawn takes more of a cold battery; by hand over the factors of the cold.
    factor = np.interp(wet.temperature_c, (-20, -10, 0, 10, 20), (0.5, 0.7, 0.85, 0.95, 1.0))
    drawn = np.diff(1 - dry.battery_left, prepend=0.0)
    assert wet.battery_left[last] == pytest.approx(1 - float((drawn / factor).sum()), abs=1e-9)
    # 95 % at 2 °C dews at 1.3 °C, and the lens is two degrees colder than the air.
    dew = told(wet, "feed.dew")
    assert dew and "heater" in dew.figures and told(dry, "feed.dew") is None
    assert float(dew_point_c(2, 95)) == pytest.approx(1.28, abs=0.02)
    assert "22 mph" in told_in_imperial(wet) and told(dry, "feed.wind") is None
    hole = compile_shot(make_shot(kit=kit, place=place, **(hours | {"start": ClockStart(time="18:00")})))
    missing = told(hole, "feed.weather-hole")
    assert missing and missing.sentence == "No weather is noted from 18:00 to 19:59."
    assert told(wet, "feed.weather-hole") is None
    assert {one.severity for one in judge(wet) if one.id in ("feed.dew", "feed.wind")} == {"mind"}


def told_in_imperial(program) -> str:  # type: ignore[no-untyped-def]
    with measured_in("imperial"):
        found = told(program, "feed.wind")
    assert found
    return found.sentence
