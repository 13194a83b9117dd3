"""What is changed while a run goes on: what was taken stays to the last digit, what is left is as it was ordered."""

from dataclasses import fields

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from revani.core.documents import Light
from revani.core.documents.run import Intervention
from revani.core.documents.timing import Timing
from revani.core.light.dials import ev100
from revani.core.light.exposing import Exposures
from revani.core.program.compiled import Program, compile_shot
from revani.core.program.intervened import check_intervention, intervened, intervention_told, outlook_told, passed_over
from revani.core.quantities.refusal import Refusal
from tests.conftest import make_kit, make_shot
from tests.core.moving import key, shot_of

DUSK = Light(school="continuous", aperture=2.8, shutter_s=10, iso=200, iso_ceiling=6400)
SHOT = make_shot(timing=Timing(fps=25, interval_s=15, frame_count=200), light=DUSK)
PROGRAM = compile_shot(SHOT)
LEGS = compile_shot(
    shot_of(
        key(0, slide=100), key(900, slide=400), key(2_400, slide=1100),
        timing=Timing(fps=25, interval_s=15, frame_count=200),
    )
)  # fmt: skip


def order(kind: str, amount: float = 0.0, number: int | None = 100, nth: int = 1, by: str = "Ilse") -> Intervention:
    return Intervention(nth=nth, kind=kind, amount=amount, from_number=number, by=by, at_s=PROGRAM.start_s)  # type: ignore[arg-type]


def columns(program: Program) -> dict[str, np.ndarray]:  # type: ignore[type-arg]
    own = {one.name: getattr(program, one.name) for one in fields(program)}
    got = {one.name: getattr(program.exposures, one.name) for one in fields(Exposures)}
    return {name: value for name, value in (own | got).items() if isinstance(value, np.ndarray)}


CHANGES = st.one_of(
    st.tuples(st.just("extend"), st.integers(1, 300)),
    st.tuples(st.just("brighter"), st.integers(-9, 9).filter(bool).map(lambda n: n / 3)),
    st.tuples(st.just("end early"), st.integers(150, 199)),
    st.tuples(st.sampled_from(["pause", "resume"]), st.just(0)),
)


@given(st.lists(CHANGES, min_size=1, max_size=5), st.integers(1, 150))
def test_whatever_is_changed_what_was_taken_stays_to_the_last_digit(
    changes: list[tuple[str, float]], number: int
) -> None:
    told = []
    for nth, (kind, amount) in enumerate(changes, 1):
        one = order(kind, amount, number, nth)
        try:
            check_intervention(intervened(PROGRAM, told), one, number)
        except Refusal:
            continue
        told.append(one)
    after = intervened(PROGRAM, told)
    before = columns(PROGRAM)
    assert {len(column) for column in columns(after).values()} == {after.frame_count}
    for name, column in columns(after).items():
        assert np.array_equal(column[: number - 1], before[name][: number - 1]), name
    assert np.all(np.diff(after.at_s) > 0) and after.end_s == pytest.approx(after.at_s[-1] + after.slot_s[-1])


def test_longer_goes_on_as_the_shot_would_have_gone_on() -> None:
    after = intervened(PROGRAM, [order("extend", 100)])
    whole = compile_shot(make_shot(timing=Timing(fps=25, interval_s=15, frame_count=300), light=DUSK))
    assert after.frame_count == 300 and after.timing.playback_s == 12
    for name in ("at_s", "film_s", "sun_altitude_deg", "scene_ev"):
        assert getattr(after, name) == pytest.approx(getattr(whole, name))
    assert after.exposures.shutter_s[200:] == pytest.approx(whole.exposures.shutter_s[200:])


def test_earlier_ends_where_it_is_told_and_its_film_is_shorter() -> None:
    after = intervened(PROGRAM, [order("end early", 150)])
    assert (after.frame_count, after.timing.playback_s) == (150, 6)
    assert after.end_s == pytest.approx(PROGRAM.at_s[150])
    assert "150" in outlook_told(PROGRAM, after) and "6 s of film" in outlook_told(PROGRAM, after)


@pytest.mark.parametrize("stops", [1.0, -1.0, 1 / 3])
def test_brighter_is_brighter_by_so_much_after_a_second_of_film_and_the_scene_is_as_it_was(stops: float) -> None:
    after = intervened(PROGRAM, [order("brighter", stops)])
    got, was = after.exposures, PROGRAM.exposures
    # By the exposure value of ISO 2720, from shutter, aperture and ISO alone.
    given = ev100(was.aperture, was.shutter_s, was.iso) - ev100(got.aperture, got.shutter_s, got.iso)
    assert given[98] == 0 and 0 < abs(given[99]) < abs(stops) and given[130:] == pytest.approx(stops, abs=1e-6)
    # From frame to frame it is a ramp.
    assert np.abs(np.diff(given)).max() < abs(stops) / 20
    assert got.error_stops[130:] == pytest.approx(was.error_stops[130:])
    assert np.array_equal(after.scene_ev, PROGRAM.scene_ev)


def test_what_the_interval_does_not_leave_is_had_by_iso_and_then_told_as_out_of_reach() -> None:
    kit = make_kit(body={"iso_max": 400})
    light = Light(school="fixed", aperture=2.8, shutter_s=10, iso=200, iso_ceiling=400)
    tight = compile_shot(make_shot(timing=Timing(fps=25, interval_s=12, frame_count=200), light=light, kit=kit))
    after = intervened(tight, [order("brighter", 3.0)])
    assert after.exposures.shutter_s.max() <= tight.shutter_room_s.max() + 1e-9
    assert after.exposures.iso.max() == pytest.approx(400)
    assert after.exposures.error_stops[-1] < tight.exposures.error_stops[-1] - 1
    assert "cannot be had so" in outlook_told(tight, after)


def test_a_body_that_chooses_by_itself_is_told_the_wish() -> None:
    light = Light(school="aperture priority", aperture=2.8, iso=200, iso_ceiling=1600)
    automatic = compile_shot(make_shot(timing=Timing(fps=25, interval_s=15, frame_count=200), light=light))
    after = intervened(automatic, [order("brighter", 1.0)])
    assert after.wish_stops[98] == 0 and after.wish_stops[-1] == 1
    assert np.array_equal(after.exposures.shutter_s, automatic.exposures.shutter_s)


def test_frames_are_passed_over_from_a_pause_until_it_goes_on_and_say_by_whom() -> None:
    told = [order("pause", number=50), order("resume", number=80, nth=2)]
    reasons = [passed_over(PROGRAM, told, number) for number in (49, 50, 79, 80)]
    assert [bool(one) for one in reasons] == [False, True, True, False] and "by Ilse" in reasons[1]
    # What was only ordered holds for nothing yet.
    assert passed_over(PROGRAM, [order("pause", number=None)], 60) == ""


@pytest.mark.parametrize(
    ("kind", "amount", "allowed"),
    [("extend", 0, "1 to"), ("extend", 2_000_000, "1 to"), ("end early", 99, "A last frame from 100 to 199"),
     ("end early", 200, "A last frame"), ("brighter", 0, "Up to 3 stops"), ("brighter", -3.5, "Up to 3 stops"),
     ("skip a leg", 0, "No leg")],
)  # fmt: skip
def test_what_cannot_be_done_is_refused_with_what_can(kind: str, amount: float, allowed: str) -> None:
    with pytest.raises(Refusal, match=allowed):
        check_intervention(PROGRAM, order(kind, amount), 100)


def test_a_leg_that_is_skipped_is_passed_over_up_to_the_frame_of_its_key() -> None:
    # Keys at 900 and 2,400 s: frames 61 and 161 at an interval of 15 s.
    told = [order("skip a leg", number=20)]
    reasons = [passed_over(LEGS, told, number) for number in (19, 20, 60, 61)]
    assert [bool(one) for one in reasons] == [False, True, True, False] and "leg is skipped by Ilse" in reasons[1]
    told.append(order("skip a leg", number=100, nth=2))
    assert [bool(passed_over(LEGS, told, number)) for number in (99, 100, 160, 161)] == [False, True, True, False]
    assert "up to frame 161" in intervention_told(LEGS, told[1])
    with pytest.raises(Refusal, match="No leg"):
        check_intervention(LEGS, order("skip a leg", number=180), 180)


def test_a_move_is_held_where_it_ended_for_the_frames_that_are_added() -> None:
    after = intervened(LEGS, [order("extend", 50)])
    assert after.motion is not None and LEGS.motion is not None
    slide = after.motion.positions["slide"]
    assert len(slide) == 250 and slide[199:] == pytest.approx(LEGS.motion.positions["slide"][-1])
    assert after.motion.at(after.t_s[-1])["slide"] == pytest.approx(slide[-1], abs=1e-6)


def test_the_end_of_a_move_is_nudged_gently_and_what_was_taken_stands_where_it_stood() -> None:
    one = order("nudge", 40, 100).model_copy(update={"axis": "slide"})
    check_intervention(LEGS, one, 100)
    after = intervened(LEGS, [one])
    assert after.motion is not None and LEGS.motion is not None
    was, slide = LEGS.motion.positions["slide"], after.motion.positions["slide"]
    assert np.array_equal(slide[:99], was[:99])
    # The last key is at 2,400 s, frame 161; the move's own ways are told by the same rule at any moment.
    assert slide[160:] - was[160:] == pytest.approx(40) and slide[99] == pytest.approx(was[99])
    assert after.motion.at(after.t_s)["slide"] == pytest.approx(slide)
    # Eased: the difference never goes faster than one and a half times its mean.
    steps = np.diff(slide - was)
    assert steps.min() >= 0 and steps.max() <= 1.5 * 40 / 61 * 1.01
    # Twice is twice.
    again = intervened(LEGS, [one, one.model_copy(update={"nth": 2, "amount": -40})])
    assert again.motion is not None and again.motion.positions["slide"][-1] == pytest.approx(was[-1])


@pytest.mark.parametrize(
    ("axis", "amount", "number", "allowed"),
    [("tilt", 5, 100, "One that moves: slide"), ("slide", 0, 100, "By how much"), ("slide", 900, 100, "goes from 0 to"),
     ("slide", 40, 180, "come to its end"), ("slide", -1200, 159, "goes from 0 to")],
)  # fmt: skip
def test_a_nudge_that_the_axis_cannot_go_is_refused(axis: str, amount: float, number: int, allowed: str) -> None:
    with pytest.raises(Refusal, match=allowed):
        check_intervention(LEGS, order("nudge", amount, number).model_copy(update={"axis": axis}), number)
