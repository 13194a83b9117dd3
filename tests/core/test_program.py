import csv
import io
import json
from datetime import UTC, datetime

import numpy as np
import pytest

from revani.core.documents import ClockStart, HorizonPoint, InstantStart, Light, Shot, SunStart
from revani.core.documents.timing import Timing
from revani.core.program.compiled import compile_shot
from revani.core.quantities.arrays import thinned
from revani.core.quantities.refusal import Refusal
from revani.core.shown.loom import lanes
from revani.core.shown.readout import readout
from revani.core.sky.sun_and_moon import sun_events_of
from revani.core.timing.start import parse_start, show_start, start_s
from revani.exports.program import program_csv, program_json
from tests.conftest import make_kit, make_place, make_shot


def test_a_program_has_one_row_a_frame_at_k_times_the_interval() -> None:
    program = compile_shot(make_shot(timing=Timing(fps="30", interval_s="0.7", frame_count=1000)))
    assert all(column.shape == (1000,) for column in program.columns().values())
    assert np.abs(program.t_s - np.arange(1000) * 0.7).max() < 1e-9
    assert program.film_s[30] == 1.0
    assert program.end_s - program.start_s == pytest.approx(700)


def test_a_shot_starts_when_the_sun_does_what_the_sentence_says() -> None:
    shot = make_shot(start=SunStart(event="sunset", offset_s=-2400))
    sunset = sun_events_of(shot.place, shot.date)["sunset"]
    assert sunset is not None
    assert compile_shot(shot).start_s == pytest.approx(sunset - 2400)


def test_a_clock_start_is_on_the_places_own_clock() -> None:
    fiji = make_place(latitude_deg=-16.5, longitude_deg=179.9, time_zone="Pacific/Fiji")
    at = start_s(make_shot(start=ClockStart(time="06:30"), place=fiji))
    assert datetime.fromtimestamp(at, UTC).isoformat() == "2026-11-23T18:30:00+00:00"


def test_a_start_that_the_clocks_skip_is_refused() -> None:
    with pytest.raises(Refusal) as refusal:
        start_s(make_shot(date="2026-03-29", start=ClockStart(time="01:30")))
    assert refusal.value.path == "start" and "forward" in refusal.value.allowed


def test_a_sunset_that_does_not_happen_is_refused_beside_the_start() -> None:
    polar = make_place(latitude_deg=70, longitude_deg=25, time_zone="Europe/Oslo")
    with pytest.raises(Refusal) as refusal:
        compile_shot(make_shot(place=polar, date="2026-12-21"))
    assert refusal.value.path == "start" and "clock time" in refusal.value.allowed


def test_a_shot_over_the_clock_change_lasts_as_many_seconds_as_it_says() -> None:
    shot = make_shot(
        date="2026-10-24", start=ClockStart(time="22:00"), timing=Timing(fps=30, interval_s=30, event_s=36_000)
    )
    program = compile_shot(shot)
    assert f"{program.local(program.end_s):%H:%M}" == "07:00"


@pytest.mark.parametrize(
    ("typed", "shown"),
    [
        ("sunset-40", "sunset − 40 min"), ("Sunset − 1 h", "sunset − 1 h 00 min"), ("civil dusk", "civil dusk"),
        ("9:05", "09:05"), ("astronomical dawn + 90s", "astronomical dawn + 1 min 30 s"), ("23:59:30", "23:59:30"),
    ],
)  # fmt: skip
def test_starts_are_read_as_typed_and_shown_so_that_they_read_back(typed: str, shown: str) -> None:
    place = make_place()
    assert show_start(parse_start(typed), place) == shown
    assert parse_start(shown) == parse_start(typed)


@pytest.mark.parametrize("typed", ["", "noon", "25:00", "sunset − soon", "sunset + 30h", "12:7"])
def test_what_is_no_start_is_refused(typed: str) -> None:
    with pytest.raises(Refusal) as refusal:
        parse_start(typed)
    assert refusal.value.path == "start"


def test_an_instant_is_kept_to_the_millisecond() -> None:
    shot = make_shot(start=InstantStart(epoch_s=1_795_540_000.125))
    assert compile_shot(shot).at_s[0] == 1_795_540_000.125


def test_the_open_json_alone_compiles_to_the_same_program() -> None:
    shot = make_shot(place=make_place(horizon=(HorizonPoint(azimuth_deg=10, altitude_deg=3),)))
    again = Shot.model_validate_json(shot.model_dump_json())
    assert again == shot
    first, second = compile_shot(shot), compile_shot(again)
    assert all(np.array_equal(a, b) for a, b in zip(first.columns().values(), second.columns().values(), strict=True))


def test_csv_follows_rfc_4180_and_json_holds_the_same_numbers() -> None:
    program = compile_shot(make_shot(timing=Timing(fps=30, interval_s=60, frame_count=7)))
    text = program_csv(program)
    assert text.count("\r\n") == 8
    rows = list(csv.DictReader(io.StringIO(text)))
    columns = json.loads(program_json(program))["columns"]
    for name, column in columns.items():
        assert [float(row[name]) for row in rows] == pytest.approx(column, abs=1e-6)
    assert datetime.fromisoformat(rows[0]["at"]).timestamp() == pytest.approx(columns["at_s"][0], abs=0.001)


def test_battery_and_card_run_down_as_the_kit_says() -> None:
    kit = make_kit(
        body={"battery_wh": 10, "battery_usable": 1, "idle_w": 1, "frame_j": 30, "bytes_per_frame": 1_000_000}
    )
    program = compile_shot(make_shot(kit=kit, timing=Timing(fps=30, interval_s=30, frame_count=60)))
    # Over 30 min: 0.5 Wh idle, and 60 frames of 30 J are 0.5 Wh; a tenth of the battery.
    assert program.battery_left[-1] == pytest.approx(0.9)
    assert program.card_bytes[-1] == 60_000_000


def test_the_card_fills_until_it_is_full_and_the_loom_says_when() -> None:
    kit = make_kit(body={"bytes_per_frame": 50_000_000})
    small = kit.model_copy(update={"card": kit.card.model_copy(update={"capacity_gb": 1})})
    timing = Timing(fps=30, interval_s=30, frame_count=30)
    program = compile_shot(make_shot(kit=small, timing=timing))
    full = lanes(program)
    # 20 frames of 50 MB are 1 GB.
    assert full.card_full_at_s == program.at_s[19]
    assert full.frames["card_filled"][9] == 0.5 and full.frames["card_filled"][-1] == 1
    assert lanes(compile_shot(make_shot(kit=kit, timing=timing))).card_full_at_s is None


def test_an_interval_that_cannot_even_store_a_frame_is_refused() -> None:
    with pytest.raises(Refusal) as refusal:
        compile_shot(make_shot(timing=Timing(fps=30, interval_s="0.4", frame_count=10)))
    assert refusal.value.path == "timing.interval_s"


def test_lanes_are_thinned_to_400_points_and_keep_both_ends() -> None:
    program = compile_shot(make_shot(timing=Timing(fps=30, interval_s=2, frame_count=12_345)))
    drawn = lanes(program)
    assert {len(column) for column in drawn.frames.values()} <= set(range(350, 401))
    assert drawn.frames["number"][0] == 1 and drawn.frames["number"][-1] == 12_345
    assert len(drawn.threads.number) <= 90 and drawn.threads.number[-1] == 12_345
    assert len(thinned(500, 800)) == 500


def test_the_ticks_of_the_wall_clock_stand_on_whole_local_hours() -> None:
    kathmandu = make_place(latitude_deg=27.7, longitude_deg=85.3, time_zone="Asia/Kathmandu")
    drawn = lanes(compile_shot(make_shot(place=kathmandu)))
    assert all(tick.label.endswith((":00", ":30")) for tick in drawn.wall_ticks)
    brief = lanes(compile_shot(make_shot(timing=Timing(fps=30, interval_s=1, frame_count=90))))
    assert len([tick for tick in brief.wall_ticks if brief.start_s <= tick.at <= brief.end_s]) >= 8


def test_the_read_out_of_a_frame_is_exact_and_marks_what_is_wrong() -> None:
    program = compile_shot(make_shot(light=Light(school="fixed", aperture=2.8, iso=100, shutter_s="1/125")))
    last = {reading.label: reading for reading in readout(program, 600)}
    assert last["frame"].text == "600" and last["film"].text == "19.97 s"
    assert last["error"].tone == "bad" and last["error"].text.startswith("−")
    # A dial shows 1/125 and means 2^-7 (handbook of any body).
    assert last["shutter"].text == "1/125"
