"""The rig-up list as a partial order, what a device answers, cautions, and what to bring."""

from datetime import UTC, datetime
from uuid import UUID

import pytest
from hypothesis import HealthCheck, given, settings
from hypothesis import strategies as st

from revani.core.documents import Card, Load, Mode, Shot, SmallPart, Source, Support
from revani.core.edit.fitting import compile_fitted
from revani.core.program.compiled import Program, compile_shot
from revani.core.quantities.refusal import Refusal
from revani.core.rigup.cautions import DEFERS, cautions
from revani.core.rigup.listed import Ticked, listed
from revani.core.rigup.packing import packing, packing_text
from revani.core.rigup.step import RigStep, in_order
from revani.core.rigup.steps import forgotten, rig_up
from tests.conftest import make_kit, make_shot
from tests.core.legal import legal_shots
from tests.feeding import BANK, BODY, LEAD, STRAP, gear, shot_with


def places(program: Program) -> dict[str, int]:
    return {step.id: place for place, step in enumerate(rig_up(program))}


@settings(deadline=None, max_examples=40, derandomize=True, suppress_health_check=list(HealthCheck))
@given(legal_shots())
def test_no_step_comes_before_what_it_needs(shot: Shot) -> None:
    try:
        program = compile_fitted(shot)
    except Refusal:
        return
    steps = rig_up(program)
    at = {step.id: place for place, step in enumerate(steps)}
    for step in steps:
        assert all(at[need] < at[step.id] for need in step.needs if need in at), step.id
        assert step.says.endswith(".") and (step.why.endswith(".") or step.phase == "afterwards")
    # Common practice, no source: what is forgotten is set after the last switching on, nothing is plugged into a
    # camera that is on, and at the end it stops, writes, is switched off and unplugged, in that order.
    for id in forgotten(program.shot) & at.keys():
        assert at[id] > at["camera-on"]
    if "camera-off" in at:
        assert at["camera-off"] < at["camera-on"]
    assert at["arm"] < at["stop"] < at["file-closed"] < at["power-down"] < at["unplug"]
    assert all(at[id] < at["arm"] for id in at if id not in ("arm", "stop", "file-closed", "power-down", "unplug"))
    assert cautions(program)


@given(st.lists(st.tuples(st.integers(0, 8), st.integers(0, 8)), max_size=20))
def test_any_partial_order_is_kept_and_a_ring_is_refused(pairs: list[tuple[int, int]]) -> None:
    # Needs lead downwards, so that there is no ring; steps that come earlier stay earlier where they may.
    needs = {i: tuple(f"s{min(a, b)}" for a, b in pairs if max(a, b) == i and a != b) for i in range(9)}
    steps = [RigStep(f"s{i}", "Do.", "So.", "stand", needs[i]) for i in reversed(range(9))]
    found = [step.id for step in in_order(steps)]
    assert all(found.index(need) < found.index(step.id) for step in steps for need in step.needs)
    if not any(needs.values()):
        assert found == [step.id for step in steps]
    with pytest.raises(ValueError, match="wait for each other"):
        in_order([RigStep("a", "", "", "stand", ("b",)), RigStep("b", "", "", "stand", ("a",))])


def test_a_cable_goes_in_while_the_camera_is_off_and_says_which_end_goes_where() -> None:
    ticker = gear(Load, 11, is_a="controller", draws_w=0.1, battery_wh=2, sockets="2.5 mm jack")
    lead = gear(SmallPart, 12, end_a="2.5 mm jack, Ticker", end_b="3-pin, camera")
    wires = [{"source": UUID(int=11), "to": BODY, "by": [UUID(int=12)]}]
    shot = shot_with(ticker, lead, wires=wires, sockets="3-pin").model_copy(update={"fires": "controller"})
    steps = {step.id: step for step in rig_up(compile_shot(shot))}
    at = places(compile_shot(shot))
    assert at["drive"] < at["camera-off"] < at["plug-1"] < at["camera-on"] < at["clock"] < at["test-frame"]
    assert "2.5 mm jack, Ticker to Load 11, 3-pin, camera to Test body" in steps["plug-1"].says
    assert "does not fire" in steps["plug-1"].otherwise


def test_what_the_mode_forgets_is_dialled_after_the_last_switching_on() -> None:
    mode = Mode.model_validate({"name": "Night", "intervals": [30], "forgets": "its interval and white balance"})
    kit = make_kit(body={"modes": [mode.model_dump()]})
    shot = make_shot(kit=kit).model_copy(update={"fires": "own timer", "mode": "Night"})
    at = places(compile_shot(Shot.model_validate(shot.model_dump() | {"light": {"school": "automatic"}})))
    assert at["camera-on"] < at["interval"] < at["test-frame"] and at["camera-on"] < at["white-balance"]
    assert at["focus"] < at["camera-on"]


def test_a_step_that_the_camera_answers_is_ticked_by_it_and_unticked_when_it_changes() -> None:
    program = compile_shot(make_shot())
    body = program.shot.kit.body.name
    ticks = {id: Ticked(datetime(2026, 11, 29, 17, 5, tzinfo=UTC), "phone") for id in ("drive", "focus", "clock")}
    says = {
        "name": body, "clock_ahead_s": 0.03, "drive": "single", "card_free_bytes": 10**12, "homed": True,
        "white_balance_k": program.shot.light.white_balance_k,
    }  # fmt: skip
    rows = {row.id: row for row in listed(program, ticks, says).rows}
    assert rows["clock"].done and rows["clock"].by == "the device"
    assert rows["card"].done and rows["white-balance"].done and rows["camera-on"].done
    assert rows["focus"].by == "you" and rows["focus"].clock == "Sun 17:05 on the phone"
    changed = listed(program, ticks, says | {"clock_ahead_s": 2.0, "drive": "own interval mode", "card_free_bytes": 9})
    rows = {row.id: row for row in changed.rows}
    assert not rows["clock"].done and rows["clock"].refused and not rows["drive"].done and not rows["card"].done
    # Another camera answers for itself alone, and a silent one for nothing.
    for other in (says | {"name": "Another"}, None):
        rows = {row.id: row for row in listed(program, ticks, other).rows}
        assert rows["clock"].by == "you" and not rows["camera-on"].done
    assert len(changed.open) > len(listed(program, ticks, says).open)


def test_cautions_come_where_they_apply_and_all_defer() -> None:
    def said(**change: object) -> set[str]:
        program = compile_shot(Shot.model_validate(make_shot().model_dump() | change))
        assert all("rule" in one.defers or "decide" in one.defers or "law" in one.defers or one.defers != DEFERS
                   for one in cautions(program))  # fmt: skip
        return {one.id for one in cautions(program)}

    day = {"start": {"by": "clock", "time": "11:00"}, "timing": {"fps": 30, "interval_s": 2, "playback_s": 4}}
    night = {"start": {"by": "clock", "time": "23:00"}, "timing": {"fps": 30, "interval_s": 2, "playback_s": 4}}
    south = {"framing": {"heading_deg": 180, "tilt_deg": 15}}
    assert {"cells", "ways", "permission"} <= said(**day) & said(**night)
    assert "alone" in said(**night) and "alone" not in said(**day)
    assert "sun" in said(**day, **south) and "sun" not in said(**night, **south)
    assert "sun" not in said(**day, framing={"heading_deg": 0, "tilt_deg": 0})
    car = gear(Support, 20, stands_as="vehicle mount")
    mains = gear(Source, 21, gives="the mains")
    kit = make_kit().model_dump() | {"extras": [car, mains]}
    assert {"vehicle", "mains"} <= said(**day, kit=kit)
    assert "eyes" in said(**night, needs_dark=True)


def test_a_day_of_shots_is_packed_once_and_its_troubles_are_told() -> None:
    small = Card.model_validate({"name": "Small", "capacity_gb": 40})
    kit = make_kit().model_copy(update={"card": small}).model_dump()
    kit |= {"extras": [BANK, STRAP, LEAD, gear(SmallPart, 30, is_a="charger", charges_w=20)],
            "wires": [{"source": UUID(int=1), "to": UUID(int=3), "by": [UUID(int=4)]}],
            "carries_at_most_kg": 1}  # fmt: skip
    kit["body"]["bytes_per_frame"] = 60_000_000
    shots = [
        make_shot(name=name).model_dump() | {"kit": kit, "start": {"by": "clock", "time": at}}
        for name, at in (("a", "13:00"), ("b", "22:00"))
    ]
    programs = [compile_shot(Shot.model_validate(one)) for one in shots]
    packed = packing(programs)
    rows = {(row.what, row.thing): row for row in packed.rows}
    assert len(rows) == len(packed.rows)
    assert rows["Bring", "Source 1"].shots == ("a", "b")
    # 60 Wh at 20 W, and a third more for the slow end of it: about four hours (memory).
    assert "3 h 54 min" in rows["Charge", "Source 1"].mind
    assert ("Plug", "Source 1 → SmallPart 4 → Load 3") in rows
    said = " ".join(f"{one.sentence} {one.figures}" for one in packed.troubles)
    assert "too small for 2 shots together" in said and "more than you carry" in said
    text = packing_text(packed)
    assert "CHARGE" in text and "[ ] Source 1" in text and text.endswith("in all\n")


def test_a_kit_of_two_shots_at_once_is_booked_twice() -> None:
    kit = make_kit()
    at = [make_shot(name=name, kit=kit).model_copy(update={"id": UUID(int=i)}) for i, name in enumerate("ab")]
    assert any("two shots at once" in one.sentence for one in packing([compile_shot(one) for one in at]).troubles)


def test_a_card_with_room_for_both_is_quiet() -> None:
    big = Card.model_validate({"name": "Big", "capacity_gb": 4_000})
    kit = make_kit().model_copy(update={"card": big})
    at = [make_shot(name=name, kit=kit).model_copy(update={"id": UUID(int=i)}) for i, name in enumerate("ab")]
    assert not any("too small" in one.sentence for one in packing([compile_shot(one) for one in at]).troubles)
