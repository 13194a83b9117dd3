"""What a person is called for: what stands, at which level, and when a thing will end as it is measured."""

from datetime import UTC, datetime
from uuid import uuid4

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from revani.core.documents import Shot, Waiting
from revani.core.documents.run import Run, RunnerSign
from revani.core.documents.timing import Timing
from revani.core.program.intervened import program_of
from revani.core.shown.called import trends
from revani.core.shown.standing import Standing, watched
from revani.core.timing.start import start_s
from revani.core.timing.trigger_words import parse_ways
from revani.core.timing.triggers import SILENT_S, HeardAgo
from revani.core.watch.alarms import Ending, Watched, alarms_of
from revani.core.watch.signs import Sign
from revani.core.watch.trends import Sample, ends_at_s
from tests.conftest import make_shot

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
        (WELL._replace(no_light_told=True, verdict=None), "come", "whether it has come is not known"),
        (WELL._replace(blind=True, verdict=None), "come", "the camera shows no picture"),
        (WELL._replace(state="finished", sign=None, soundless="What was filmed has no sound: …"), "come", "no sound"),
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


def standing(shot: Shot, **change: object) -> Standing:
    """A run that goes on, two hours after its start."""
    now_s = start_s(shot) + 7_200
    run = Run(
        id=uuid4(), shot_id=shot.id, shot=shot.model_dump(mode="json"), rig="rig", state="running", reason="", speed=1,
        frame_count=600, planned_start_s=start_s(shot), stop_wanted=False, runner="one", clock=None,
        armed_at=datetime.now(UTC), started_at=datetime.now(UTC), ended_at=None, overridden=(), waits_for="",
    )  # fmt: skip
    word = RunnerSign(rig="rig", runner="one", age_s=0.2, camera={})
    return Standing(run, program_of(run), (), word, now_s, "film")._replace(**change)


def test_a_card_that_fills_faster_than_planned_is_told_to_end_before_the_last_frame() -> None:
    shot = make_shot(timing=Timing(fps=30, interval_s=60, frame_count=600))
    from_s = start_s(shot)
    # A fifth an hour, so five hours from the start; the last frame is due after ten.
    fills = [Sample(from_s + 120 * n, 1 - n / 150) for n in range(60)]
    seen = standing(shot, card=fills)
    (one,) = alarms_of(watched(seen))
    ends = seen.program.local(from_s + 5 * 3_600)
    assert one.key == "the card" and one.level == "look" and f"the card ends at {ends:%H:%M}, before" in one.text
    (trend,) = trends(seen)
    assert trend.label == "card" and trend.tone == "mind" and trend.told == f"at this rate it ends at {ends:%H:%M}"
    assert trend.planned.left[0] > 0.99 > trend.measured.left[-1]
    assert trends(standing(shot)) == [] and alarms_of(watched(standing(shot))) == []


@pytest.mark.parametrize(
    ("text", "heard", "calls"),
    [
        ("the light is under EV 3", [], True),
        ("the light is under EV 3", [HeardAgo(1, "light", 4.0, "", 5.0)], False),
        ("the light is under EV 3", [HeardAgo(1, "light", 4.0, "", SILENT_S + 1)], True),
        # One that hears sounds may speak only when there is one.
        ("it is louder than -30 dB", [], False),
        ("I say so", [], False),
    ],
)
def test_a_sensor_that_is_silent_is_told_of_where_it_should_speak(
    text: str, heard: list[HeardAgo], calls: bool
) -> None:
    shot = make_shot(waits=Waiting(ways=parse_ways(text), for_s=6 * 3_600))
    keys = [one.key for one in alarms_of(watched(standing(shot, heard=heard)))]
    assert keys == (["no light told"] if calls else [])
