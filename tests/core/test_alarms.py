"""What a person is called for: what stands, at which level, and when a thing will end as it is measured."""

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from revani.core.watch.alarms import Ending, Watched, alarms_of
from revani.core.watch.signs import Sign
from revani.core.watch.trends import Sample, ends_at_s

WELL = Watched(
    state="running", sign=Sign("it records: the last frame is stored", "good"), reason="", missed=0, verdict="go",
    verdict_told="You can go",
)  # fmt: skip


@pytest.mark.parametrize(
    ("seen", "level", "text"),
    [
        (WELL._replace(sign=Sign("the camera does not answer", "bad")), "come", "The camera does not answer."),
        (WELL._replace(state="armed", sign=Sign("its start passed 2 min ago", "bad")), "come", "Its start passed"),
        (WELL._replace(verdict="stop", verdict_told="Stop: frame 1 came with 2.5 s"), "come", "frame 1 came with"),
        (WELL._replace(stalled=True), "come", "does not move"),
        (WELL._replace(state="failed", sign=None, reason="No frame was taken."), "come", "broke off. No frame"),
        (WELL._replace(state="missed", sign=None, missed=40, reason="No runner."), "come", "missed its start"),
        (WELL._replace(state="stopped", sign=None, reason="The card is full."), "come", "ended early. The card"),
        (WELL._replace(missed=1), "look", "1 frame missed so far"),
        (WELL._replace(state="finished", sign=None, missed=3), "look", "3 frames missed."),
        (WELL._replace(clock_ahead_s=-3), "look", "clock is 3 s behind"),
        (WELL._replace(endings=(Ending("the battery", 9_000, "03:40", "05:10"),)), "look", "ends at 03:40, before"),
        (WELL._replace(endings=(Ending("the battery", 900, "03:40", "05:10"),)), "come", "ends at 03:40, before"),
    ],
)
def test_each_cause_calls_at_its_level_and_says_what_it_is(seen: Watched, level: str, text: str) -> None:
    found = alarms_of(seen)
    assert [one.level for one in found] == [level] and text in found[0].text


@pytest.mark.parametrize(
    "seen",
    [
        WELL,
        WELL._replace(verdict="mind", clock_ahead_s=0.1),
        WELL._replace(state="armed", sign=Sign("nothing is recorded yet", "mind"), verdict=None),
        WELL._replace(state="finished", sign=None),
        WELL._replace(state="stopped", sign=None, reason="Stopped by hand after frame 20."),
        # What was found of its first frames calls nobody to a run that is over.
        WELL._replace(state="finished", sign=None, verdict="stop"),
        WELL._replace(state="finished", sign=None, endings=(Ending("the battery", 9, "1", "2"),)),
    ],
)
def test_nobody_is_called_for_nothing(seen: Watched) -> None:
    assert alarms_of(seen) == []


def test_the_worst_stands_first_and_many_missed_frames_are_few_alarms() -> None:
    assert [one.level for one in alarms_of(WELL._replace(missed=2, stalled=True))] == ["come", "look"]
    keys = {alarms_of(WELL._replace(missed=missed))[0].key for missed in range(1, 200)}
    assert len(keys) == 4


@given(
    st.floats(0.05, 0.5), st.floats(600, 40_000), st.integers(16, 120), st.floats(0.0, 0.004), st.integers(0, 2**31),
)  # fmt: skip
def test_an_even_drain_is_told_to_end_when_it_ends(
    drain_an_hour: float, length_s: float, many: int, scatter: float, seed: int
) -> None:
    at = np.linspace(0, length_s, many)
    left = 1 - drain_an_hour * at / 3600 + np.random.default_rng(seed).normal(0, scatter, many)
    found = ends_at_s([Sample(*one) for one in zip(at, left, strict=True)], 0.05)
    if found is None:
        # Nothing is said of what has hardly begun.
        assert length_s < 1_400 or drain_an_hour * length_s / 7200 < 0.02 + 8 * scatter
    elif scatter == 0:
        assert found == pytest.approx(0.95 * 3600 / drain_an_hour, rel=1e-6)


def test_nothing_is_told_of_what_fills_stands_or_is_measured_twice() -> None:
    rising = [Sample(600.0 * i, 0.2 + 0.01 * i) for i in range(40)]
    level = [Sample(600.0 * i, 0.5) for i in range(40)]
    for samples in (rising, level, rising[:1], [], [Sample(0, 1.0), Sample(3600, 0.5)]):
        assert ends_at_s(samples, 0.05) is None


def test_what_draws_more_in_the_cold_of_the_night_is_told_by_its_later_half() -> None:
    # Half the drain for two hours, then twice as much: a line through all of it would end an hour too late.
    early = [Sample(360.0 * i, 1 - 0.005 * i) for i in range(20)]
    late = [Sample(7200 + 360.0 * i, 0.9 - 0.02 * i) for i in range(20)]
    ends = ends_at_s([*early, *late], 0.1)
    assert ends == pytest.approx(7200 + 360 * 0.8 / 0.02, rel=0.01)
