"""What is said of a run while it goes on and afterwards, and what is known before it is armed."""

import pytest

from revani.core.arming.booking import Booking, against, fastest, free_from, in_the_way, speeds
from revani.core.documents import Light
from revani.core.documents.rig import KeptRig, Rig
from revani.core.documents.run import RunnerSign
from revani.core.documents.timing import Timing
from revani.core.program.compiled import compile_shot
from revani.core.shown.rigs import RigView, rig_views
from revani.core.shown.tonight import tonight
from revani.core.watch.signs import Seen, gaps_told, sign_of
from tests.conftest import make_kit, make_shot


def rig_view(sign: RunnerSign) -> RigView:
    (view,) = rig_views([KeptRig(Rig(key="Shed", name="The shed"), 1, False)], [sign], {}, "Shed")
    return view


GOING = Seen(
    state="running", live=False, reports=True, taken=20, missed=0, word_age_s=0.5, trouble="", picture_age_s=12,
    next_in_s=18, slot_s=30, starts="18:30",
)  # fmt: skip


@pytest.mark.parametrize(
    ("seen", "text", "tone"),
    [
        (GOING, "it records", "good"),
        (GOING._replace(state="armed", taken=0), "nothing is recorded yet; the first frame is due at 18:30", "mind"),
        (GOING._replace(state="armed", waits_for="“Kiln”, until about 04:36"), "waits for “Kiln”, until about", "mind"),
        (GOING._replace(taken=0, picture_age_s=None), "the camera answers; the first frame", "mind"),
        (GOING._replace(word_age_s=40), "no word from the runner for 40 s", "bad"),
        (GOING._replace(word_age_s=None), "no word from the runner: what happens", "bad"),
        (GOING._replace(trouble="The camera does not answer (refused)."), "the camera does not answer", "bad"),
        (GOING._replace(reports=False), "does not say whether it keeps them", "mind"),
        (GOING._replace(picture_age_s=300), "no frame for 5 min", "bad"),
        (GOING._replace(missed=3), "3 frames missed so far", "mind"),
        (GOING._replace(taken=0, missed=3, picture_age_s=None), "none of 3 frames came", "bad"),
        (GOING._replace(live=True, next_in_s=5), "the film begins at 18:30", "mind"),
        (GOING._replace(live=True, next_in_s=None, taken=0, picture_age_s=None), "when its file is stored", "mind"),
        (GOING._replace(live=True, next_in_s=None, reports=False), "does not say whether it does", "mind"),
    ],
)  # fmt: skip
def test_only_what_is_known_of_a_run_is_said(seen: Seen, text: str, tone: str) -> None:
    sign = sign_of(seen)
    assert sign and text in sign.text and sign.tone == tone
    # That it records is claimed where pictures come in, and nowhere else.
    assert ("it records" in sign.text) == (sign.tone == "good" or (seen.missed == 3 and seen.taken > 0))


def test_of_a_run_that_has_ended_nothing_is_claimed() -> None:
    assert sign_of(GOING._replace(state="finished")) is None


@pytest.mark.parametrize(
    ("state", "frames", "taken", "missed", "told", "tone"),
    [
        ("finished", 450, 450, 0, "No gap: every frame was taken.", "good"),
        ("stopped", 450, 153, 0, "153 of 450 frames taken; 297 frames never came to be taken, from frame 154", "bad"),
        ("finished", 450, 440, 10, "440 of 450 frames taken; 10 frames missed.", "bad"),
        ("failed", 450, 100, 2, "2 frames missed; 348 frames never came to be taken, from frame 103 on.", "bad"),
        ("failed", 1, 0, 0, "0 of 1 frame taken; 1 frame never came", "bad"),
    ],
)  # fmt: skip
def test_a_run_that_ended_early_has_a_gap(
    state: str, frames: int, taken: int, missed: int, told: str, tone: str
) -> None:
    said, how = gaps_told(state, frames, taken, missed, "Stopped by hand.")
    assert told in said and how == tone and (state == "finished") != ("Stopped by hand." in said)


def test_before_arming_it_is_told_what_will_fail_and_how_fast_a_stage_may_go() -> None:
    kit = make_kit(body={"minimum_interval_s": 5})
    slow = compile_shot(
        make_shot(kit=kit, timing=Timing(fps=30, interval_s=2, playback_s=10), light=Light(aperture=2.8, shutter_s=1))
    )
    assert [one.severity for one in against(slow)][:1] == ["stop"]
    fine = compile_shot(make_shot())
    assert against(fine) == () and speeds(fine)[0] == 1
    assert speeds(fine)[-1] == int(fastest(fine)) and all(one <= fastest(fine) for one in speeds(fine))


@pytest.mark.parametrize(
    ("wanted", "others", "blocked"),
    [
        (Booking("new", 1000, 2000, True), [], None),
        (Booking("new", 1000, 2000, True), [Booking("a", 1500, 3000, True)], "a"),
        (Booking("new", 1000, 2000, True), [Booking("a", 3000, 4000, True)], None),
        (Booking("new", 5000, 6000, True), [Booking("a", 3000, 4000, True)], None),
        (Booking("new", 4010, 6000, True), [Booking("a", 3000, 4000, True)], "a"),
        (Booking("new", 1000, 2000, True), [Booking("fast", 0, 990, False)], "fast"),
        (Booking("new", 1000, 2000, True), [Booking("fast", 0, 30, False)], None),
        (Booking("new", 0, 30, False), [Booking("a", 90_000, 99_000, True)], None),
        (Booking("new", 0, 30, False), [Booking("a", 20, 99_000, True)], "a"),
        (Booking("new", 0, 30, False), [Booking("fast", 500, 600, False)], "fast"),
        (Booking("new", 1000, 9000, True), [Booking("a", 1500, 3000, True), Booking("b", 4000, 5000, True)], "b"),
    ],
)  # fmt: skip
def test_a_rig_is_booked_by_the_hour(wanted: Booking, others: list[Booking], blocked: str | None) -> None:
    found = in_the_way(wanted, others)
    assert (found.name if found else None) == blocked


def test_a_run_that_waits_begins_in_the_next_gap_that_it_fits_into() -> None:
    others = [Booking("a", 1000, 2000, True), Booking("b", 2500, 3000, True), Booking("c", 9000, 9500, True)]
    assert free_from(Booking("new", 1500, 1600, True), others) == 2060
    # Half an hour does not fit between a and b, but between b and c.
    assert free_from(Booking("new", 1500, 3300, True), others) == 3060
    assert free_from(Booking("new", 1500, 9000, True), others) == 9560
    assert free_from(Booking("new", 4000, 4100, True), others) == 4000


def test_tonight_asks_for_each_thing_once() -> None:
    kit = make_kit(body={"battery_wh": 30, "idle_w": 3})
    programs = [compile_shot(make_shot(name=name, kit=kit)) for name in ("a", "b", "c")]
    now = tonight(programs[0].shot.place, programs[0].start_s, programs)
    things = [(one.what, one.thing) for one in now.preparations]
    assert len(things) == len(set(things)) == 2
    (charge,) = [thing for what, thing in things if what == "Charge"]
    drawn = 3 * float(1 - programs[0].battery_left[-1])
    assert charge == f"{-(-drawn * 1.2 // 1):.0f} × battery of Test body"
    assert ("Empty", "Test card, 45 GB wanted") in things


def test_a_rig_says_what_it_says_and_nothing_of_what_it_does_not() -> None:
    said = {"name": "Tarn 24", "state": "ready", "battery_left": 0.1, "card_free_bytes": 9e10, "clock_ahead_s": 2.0}
    view = rig_view(RunnerSign(rig="Shed", runner="r", age_s=1, camera=said | {"homed": False}))
    assert {one.label: (one.text, one.tone) for one in view.says} == {
        "camera": ("Tarn 24, ready", "good"), "battery": ("10%", "mind"), "card": ("90 GB free", "good"),
        "clock": ("+2.0 s", "mind"), "mover": ("an axis is stalled", "mind"),
    }  # fmt: skip
    assert view.tone == "mind"
    silent = rig_view(RunnerSign(rig="Shed", runner="r", age_s=60, camera=said))
    assert (silent.tone, silent.says) == ("bad", []) and "is not known" in silent.told
    away = rig_view(RunnerSign(rig="Shed", runner="r", age_s=1, camera={"trouble": "The camera does not answer."}))
    assert away.tone == "bad" and "The camera does not answer." in away.told and away.says == []


def test_a_run_that_waits_claims_nothing_and_is_not_overdue() -> None:
    waiting = GOING._replace(taken=0, waits=True, picture_age_s=None, next_in_s=9_000)
    for state, text in (
        ("running", "it waits for what begins it"),
        ("armed", "from 18:30 it waits for what begins it"),
    ):
        sign = sign_of(waiting._replace(state=state))
        assert sign is not None and sign.text == f"nothing is recorded yet; {text}" and sign.tone == "mind"
    # A runner that is gone is told of all the same.
    gone = sign_of(waiting._replace(word_age_s=40))
    assert gone is not None and gone.tone == "bad"
