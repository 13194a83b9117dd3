"""A mover's own battery through a shot, worked out by hand."""

import pytest

from revani.core.documents import Mover, Shot
from revani.core.findings import Finding, judge
from revani.core.program.compiled import compile_shot
from tests.conftest import make_place
from tests.core.moving import axis, key, rig, shot_of


def powered(battery_wh: float | None, **change: object) -> Shot:
    """A slide that moves for one hour of five and holds for four; 20 W and 2 W."""
    kit = rig(axis("slide"), moving_w=20.0, idle_w=2.0, battery_wh=battery_wh)
    # At 20 °C a cell gives all that it has.
    place = make_place(temperature_c=change.pop("temperature_c", 20))
    return shot_of(key(3_600, slide=100), key(7_200, slide=800), kit=kit, place=place, **change)


def finding_of(shot: Shot) -> Finding | None:
    return next((one for one in judge(compile_shot(shot)) if one.id == "feed.mover-battery"), None)


def test_moving_and_holding_are_counted_by_their_own_power() -> None:
    shot = powered(30)
    program = compile_shot(shot)
    assert program.motion and float(program.timing.event_s) == 18_000
    assert program.motion.moving_s(["slide"], 18_000) == pytest.approx(3_600, abs=10)
    assert program.motion.moving_s(["pan"], 18_000) == 0
    # 20 W · 1 h + 2 W · 4 h = 28 Wh: more than 30 Wh less a fifth, less than all of it.
    finding = finding_of(shot)
    assert (
        finding
        and finding.severity == "mind"
        and "28 Wh" in finding.figures
        and "without its margin" in finding.sentence
    )


def test_one_that_has_enough_or_hangs_on_the_mains_is_not_spoken_of() -> None:
    assert finding_of(powered(35.1)) is None
    assert finding_of(powered(None)) is None


def test_cold_takes_its_part_and_the_battery_ends() -> None:
    # At 0 °C 85 % is left (typical data sheets, from memory): 30 Wh give 25.5.
    finding = finding_of(powered(30, temperature_c=0))
    assert finding and finding.severity == "fix" and "85%" in finding.figures and "ends at" in finding.sentence


def test_a_rig_that_holds_still_still_draws() -> None:
    mover = Mover.model_validate({"name": "Still", "axes": [axis("slide").model_dump()], "idle_w": 2, "battery_wh": 9})
    shot = powered(None).model_copy(update={"move": None})
    shot = shot.model_copy(update={"kit": shot.kit.model_copy(update={"movers": (mover,)})})
    # 2 W for five hours are 10 Wh.
    finding = finding_of(shot)
    assert finding and "10 Wh" in finding.figures
    (fix,) = finding.fixes
    assert fix.label == "Stop with the margin" and finding_of(fix.shot) is None


def test_stepping_draws_only_while_it_steps_and_is_offered() -> None:
    finding = finding_of(powered(20))
    assert finding
    fix = next(one for one in finding.fixes if one.label == "Shoot, move, settle")
    program = compile_shot(fix.shot)
    assert program.motion
    # Each step of the hour takes less than its slot, so less time is spent moving than the leg lasts.
    assert program.motion.moving_s(["slide"], 18_000) == pytest.approx(float(program.motion.travel_s.sum()))
    assert 0 < program.motion.moving_s(["slide"], 18_000) < 3_600
