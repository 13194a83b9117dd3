from fractions import Fraction

import pytest
from hypothesis import given
from hypothesis import strategies as st

from revani.core.quantities.refusal import Refusal
from revani.core.quantities.units import duration, exact, gigabytes, parse_duration, plain, plain_rate, rate, stops


@pytest.mark.parametrize(
    ("typed", "seconds"),
    [
        ("5h", 18_000), ("1:30", 90), ("90s", 90), ("2m30", 150), ("1 h 16 min", 4_560), ("1:16:00", 4_560),
        ("0.5", Fraction(1, 2)), ("2,5 s", Fraction(5, 2)), ("1h16", 4_560), ("2 d", 172_800),
        ("250ms", Fraction(1, 4)),
        ("1/125", Fraction(1, 125)), ("1.5h", 5_400), ("  10 MIN ", 600), ("1 hour 5 seconds", 3_605),
    ],
)  # fmt: skip
def test_durations_are_read_as_people_type_them(typed: str, seconds: Fraction) -> None:
    assert parse_duration(typed) == seconds


@pytest.mark.parametrize("typed", ["", "h", "5x", "-3s", "1:2:3:4", "3s 5h", "nan", "1e5", "1/0", "5 5", "٣s٣x"])
def test_what_is_no_duration_is_refused_with_what_is_allowed(typed: str) -> None:
    with pytest.raises(Refusal) as refusal:
        parse_duration(typed)
    assert "2m30" in refusal.value.allowed


@pytest.mark.parametrize(
    ("seconds", "text"),
    [
        (20, "20 s"), (Fraction(38, 15), "2.533 s"), (90, "1 min 30 s"), (18_000, "5 h 00 min"),
        (4_560, "1 h 16 min"), (Fraction(59_999, 1000), "1 min"), (3_599.99, "1 h 00 min"), (108_000, "30 h 00 min"),
        (10 * 86_400 + 4 * 3600, "10 d 4 h"), (0, "0 s"), (Fraction(1, 3), "0.333 s"), (-90, "−1 min 30 s"),
    ],
)  # fmt: skip
def test_durations_are_printed_as_people_read_them(seconds: Fraction, text: str) -> None:
    assert duration(seconds) == text


@given(st.integers(0, 71 * 3600))
def test_a_printed_duration_of_whole_seconds_reads_back_as_itself(seconds: int) -> None:
    assert parse_duration(duration(seconds)) == seconds


def test_broadcast_rates_are_what_they_really_are() -> None:
    # SMPTE ST 12 and ITU-R BT.601 give these rates as 1000/1001 of the whole number.
    assert rate("23.976") == Fraction(24_000, 1001)
    assert rate(29.97) == Fraction(30_000, 1001)
    assert rate("59.94 fps") == Fraction(60_000, 1001)
    assert rate("12.5") == Fraction(25, 2)


@given(st.sampled_from(["23.976", "29.97", "59.94", "24", "25", "30", "12.5", "1000/37"]))
def test_a_rate_survives_being_written_and_read(text: str) -> None:
    assert rate(plain_rate(rate(text))) == rate(text)


@given(st.fractions(min_value=0, max_value=10**9, max_denominator=10**6))
def test_exact_numbers_survive_json(value: Fraction) -> None:
    assert exact(plain(value)) == value


def test_a_float_is_the_decimal_that_was_typed() -> None:
    assert exact(4.1) == Fraction(41, 10)
    assert exact("0.3") / exact(0.1) == 3


@pytest.mark.parametrize("value", ["nan", "inf", float("nan"), True, "1/0", "x", "9" * 70, "1e400"])
def test_what_is_no_number_is_refused(value: object) -> None:
    with pytest.raises(ValueError):
        exact(value)


def test_sizes_and_stops_read_naturally() -> None:
    assert gigabytes(36e9) == "36 GB"
    assert gigabytes(240_000_000) == "240 MB"
    assert gigabytes(38_400) == "38 kB"
    assert stops(-2.44) == "−2.4"
    assert stops(0.31) == "+0.3"
    assert stops(0.01) == "0.0"
