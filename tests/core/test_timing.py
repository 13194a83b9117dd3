from fractions import Fraction

import pytest
from hypothesis import assume, given
from hypothesis import strategies as st

from revani.core.documents.timing import QUANTITIES, Timing
from revani.core.quantities.refusal import Refusal
from revani.core.timing.law import budget_s, freed, shortest_interval_s, solve, with_value


def law(**wanted: object):  # type: ignore[no-untyped-def]
    return solve(Timing.model_validate(wanted))


# The facts of the trade below are common practice, no source.


def test_20_s_at_30_fps_with_a_frame_every_30_s_is_600_frames_and_5_hours() -> None:
    solved = law(fps="30", playback_s=20, interval_s=30)
    assert (solved.frame_count, solved.event_s) == (600, 5 * 3600)
    assert solved.speed_up == 900
    assert solved.last_frame_at_s == 599 * 30


def test_a_frame_every_2_min_for_30_s_takes_30_hours() -> None:
    assert law(fps=30, playback_s=30, interval_s=120).event_s == 30 * 3600


def test_one_hour_as_10_to_15_s_is_a_frame_every_12_to_8_s() -> None:
    assert law(fps=30, playback_s=10, event_s=3600).interval_s == 12
    assert law(fps=30, playback_s=15, event_s=3600).interval_s == 8


def test_45_to_60_min_at_3_s_are_900_to_1200_frames_and_30_to_40_s() -> None:
    for minutes, frames, playback in ((45, 900, 30), (60, 1200, 40)):
        solved = law(fps=30, interval_s=3, event_s=minutes * 60)
        assert (solved.frame_count, solved.playback_s) == (frames, playback)
    assert law(fps=30, interval_s=3, playback_s=18).event_s == 27 * 60


def test_slow_motion_is_the_same_law_below_one() -> None:
    solved = law(fps=30, interval_s="1/240", frame_count=2400)
    assert 1 / solved.speed_up == 8


def test_60_s_of_film_in_the_announced_1_h_16_min_is_accepted() -> None:
    """A controller must take the very minimum that it has announced."""
    solved = law(fps=30, playback_s=60, event_s=76 * 60)
    assert (solved.frame_count, solved.interval_s) == (1800, Fraction(38, 15))
    # A body whose budget is just that interval announces it rounded up, and accepts what it announces.
    need = budget_s(Fraction(2), Fraction(8, 15))
    announced = shortest_interval_s(Fraction(1), need, Fraction(1, 10))
    assert announced == Fraction(26, 10)
    assert announced >= need and solved.interval_s >= need


def test_an_event_is_divided_exactly_and_not_in_floats() -> None:
    assert 0.3 // 0.1 == 2  # what floats would make of it
    assert law(fps=30, event_s=0.3, interval_s=0.1).frame_count == 3


def test_what_was_rounded_rederives_the_rest_and_is_told() -> None:
    solved = law(fps=30, playback_s="10.01", interval_s=2)
    assert (solved.frame_count, solved.playback_s) == (300, 10)
    assert solved.told == {"playback_s": "10.01 s at 30 fps is 300 frames, 10 s"}


def test_half_a_frame_rounds_up() -> None:
    assert law(fps=30, playback_s=Fraction(1, 60), interval_s=1).frame_count == 1
    assert law(fps=2, playback_s="2.25", interval_s=1).frame_count == 5


def test_ntsc_rates_stay_exact_over_a_long_film() -> None:
    solved = law(fps="23.976", playback_s=3600, interval_s=1)
    assert solved.frame_count == 86_314  # 3600 · 24000/1001 = 86313.69
    assert solved.playback_s == Fraction(86_314 * 1001, 24_000)


@pytest.mark.parametrize(
    ("wanted", "path"),
    [
        ({"fps": 30, "interval_s": 2}, "frame_count"),
        ({"frame_count": 10, "interval_s": 2}, "fps"),
        ({"fps": 30, "playback_s": 10}, "interval_s"),
        ({"fps": 30, "playback_s": 10, "frame_count": 200, "interval_s": 1}, "playback_s"),
        ({"fps": 30, "playback_s": 10, "event_s": 100, "interval_s": 1}, "event_s"),
        ({"fps": 30, "playback_s": "0.001", "interval_s": 1}, "playback_s"),
        ({"fps": 1000, "playback_s": 10_000, "interval_s": 1}, "playback_s"),
        ({"fps": 30, "frame_count": 900_000, "interval_s": 86_400}, "event_s"),
    ],
)
def test_what_cannot_be_solved_is_refused_at_its_field(wanted: dict[str, object], path: str) -> None:
    with pytest.raises(Refusal) as refusal:
        law(**wanted)
    assert refusal.value.path == path


@pytest.mark.parametrize("field", QUANTITIES)
@pytest.mark.parametrize("value", [0, -1, "nan", "inf", "1e30", "text"])
def test_zero_negative_and_absurd_numbers_are_refused(field: str, value: object) -> None:
    with pytest.raises(ValueError) as error:
        Timing.model_validate({field: value})
    assert field in str(error.value)


lengths = st.fractions(min_value=Fraction(1, 10), max_value=4_000, max_denominator=1000)
rates = st.sampled_from(["24", "25", "30", "23.976", "29.97", "59.94", "12.5"])
TRIPLES = [
    ("fps", "playback_s", "interval_s"), ("fps", "playback_s", "event_s"), ("fps", "interval_s", "event_s"),
    ("fps", "frame_count", "interval_s"), ("fps", "frame_count", "event_s"), ("frame_count", "playback_s", "event_s"),
    ("frame_count", "playback_s", "interval_s"), ("playback_s", "interval_s", "event_s"),
]  # fmt: skip


@st.composite
def timings(draw: st.DrawFn) -> Timing:
    """Any timing that can be solved, from any three quantities that determine it."""
    seed = {
        "fps": draw(rates), "frame_count": draw(st.integers(1, 5000)), "interval_s": draw(lengths),
        "playback_s": draw(lengths), "event_s": draw(lengths) * 50,
    }  # fmt: skip
    timing = Timing.model_validate({name: seed[name] for name in draw(st.sampled_from(TRIPLES))})
    try:
        solve(timing)
    except Refusal:
        assume(False)
    return timing


@given(timings())
def test_every_solution_obeys_the_law_exactly(timing: Timing) -> None:
    solved = solve(timing)
    assert solved.frame_count == solved.playback_s * solved.fps
    assert solved.event_s == solved.frame_count * solved.interval_s
    assert solved.speed_up == solved.interval_s * solved.fps


@given(timings())
def test_a_solution_given_back_whole_is_accepted_and_changes_nothing(timing: Timing) -> None:
    solved = solve(timing)
    again = solve(Timing.model_validate({name: getattr(solved, name) for name in QUANTITIES}))
    assert again.model_dump() == solved.model_dump() | {"told": {}}


@given(timings(), st.sampled_from(QUANTITIES))
def test_freeing_a_quantity_changes_no_number(timing: Timing, quantity) -> None:  # type: ignore[no-untyped-def]
    before = solve(timing)
    other = freed(timing, quantity)
    assert getattr(other, quantity) is None
    after = solve(other)
    for name in QUANTITIES:
        assert getattr(after, name) == getattr(before, name)


@given(timings(), lengths)
def test_a_typed_event_is_kept_and_the_film_with_it(timing: Timing, seconds: Fraction) -> None:
    changed = with_value(timing, "event_s", seconds * 50)
    assert changed.event_s == seconds * 50
    try:
        solved = solve(changed)
    except Refusal:
        assume(False)
    if "interval_s" not in changed.wanted():
        assert solved.event_s == seconds * 50


@given(
    st.fractions(min_value=0, max_value=60, max_denominator=1000),
    st.fractions(min_value=0, max_value=5, max_denominator=1000),
    st.booleans(),
    st.fractions(min_value=0, max_value=5, max_denominator=100),
    st.sampled_from([Fraction(1, 10), Fraction(1, 2), Fraction(1), Fraction(1, 30)]),
)
def test_the_announced_interval_is_on_the_tick_and_under_one_tick_too_long(
    shutter: Fraction, overhead: Fraction, dark: bool, travel: Fraction, tick: Fraction
) -> None:
    need = budget_s(shutter, overhead, 2 if dark else 1, travel)
    announced = shortest_interval_s(Fraction(1, 2), need, tick)
    assert (announced / tick).denominator == 1
    assert announced >= need
    assert announced - max(need, Fraction(1, 2), tick) < tick
    assert need >= shutter * (2 if dark else 1) + overhead
