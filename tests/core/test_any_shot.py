"""What holds for every shot that a document may hold, whatever its kit can do."""

import json
import warnings

import numpy as np
import pytest
from hypothesis import HealthCheck, assume, given, settings

from revani.core.documents import Shot
from revani.core.edit.fitting import compile_fitted
from revani.core.feed.battery import MARGIN
from revani.core.findings import Finding, judge
from revani.core.findings.finding import WORST_FIRST
from revani.core.program.compiled import Program, compile_shot
from revani.core.quantities.refusal import Refusal
from revani.core.rehearsal.outcome import rehearse
from revani.core.rehearsal.outputs import compare_outputs
from revani.core.rehearsal.schools import compare_schools
from revani.core.shown.dial_card import dial_card
from revani.core.shown.loom import lanes
from revani.core.shown.readout import readout
from revani.core.shown.sentence import aside, sentence
from revani.core.shown.walk_table import walk_table
from revani.exports.findings import findings_json
from tests.core.legal import legal_shots


def planned(shot: Shot) -> Program:
    """The program of a shot; one that cannot be timed at all is refused at a field, and is none."""
    with warnings.catch_warnings():
        warnings.simplefilter("error", RuntimeWarning)
        warnings.filterwarnings("ignore", message="The file finals2000A")
        try:
            return compile_fitted(shot)
        except Refusal as refusal:
            assert refusal.path.startswith("timing.") and refusal.allowed.endswith(".")
            assume(False)
            raise


def finite(text: str) -> None:
    json.loads(text, parse_constant=lambda name: pytest.fail(f"{name} in {text[:200]}"))


def every_number_is_finite(shot: Shot, program: Program, said: tuple[Finding, ...]) -> None:
    for name, column in program.columns().items():
        assert np.isfinite(column).all(), name
    finite(lanes(program, rates=True).model_dump_json())
    finite(rehearse(program).model_dump_json())
    for outcome in compare_schools(program):
        finite(outcome.model_dump_json())
    for output in compare_outputs(program):
        finite(output.model_dump_json())
    assert bool(dial_card(program)) == (program.shot.fires != "linked")
    for number in (1, program.frame_count):
        assert readout(program, number)
        if program.carried is not None:
            finite(walk_table(program, number).model_dump_json())
    assert sentence(shot, program.timing) and aside(shot, program.timing)
    finite(findings_json(program))
    for one in said:
        assert not {"nan", "inf", "-inf"} & set((one.sentence + " " + one.figures).replace(",", " ").split())


def what_is_planned_instead_can_be_had(shot: Shot, program: Program, said: tuple[Finding, ...]) -> None:
    again = Shot.model_validate_json(program.shot.model_dump_json())
    assert compile_fitted(again).misfits == ()
    told = [one for one in said if one.id == "fit"]
    assert bool(told) == bool(program.misfits) == (program.shot != shot)
    assert all(one.allowed in told[0].figures for one in program.misfits)


def rank(one: Finding) -> int:
    return WORST_FIRST.index(one.severity)


def every_fix_mends(_shot: Shot, _program: Program, said: tuple[Finding, ...]) -> None:
    """It can be planned, and its finding is gone or milder."""
    for one in said:
        assert len({fix.id for fix in one.fixes}) == len(one.fixes)
        for fix in one.fixes:
            again = compile_shot(Shot.model_validate_json(fix.shot.model_dump_json()))
            left = next((other for other in judge(again) if other.id == one.id), None)
            if left is not None:
                assert rank(left) >= rank(one), (one.id, fix.label)
                assert (left.sentence, left.figures) != (one.sentence, one.figures), (one.id, fix.label)


def no_finding_contradicts(_shot: Shot, program: Program, findings: tuple[Finding, ...]) -> None:
    said = {one.id: one for one in findings}
    error, body = program.exposures.error_stops, program.shot.kit.body
    assert ("exposure.too-dark" in said) == bool((error <= -1).any())
    assert ("exposure.too-bright" in said) == bool((error >= 1).any())
    assert not {"night.points", "night.trailing"} <= set(said)
    assert not {"exposure.manual-limit"} & set(said) or not program.shot.light.automatic
    empties = [one for one in program.supplies if (one.left < 0).any()]
    short = [one for one in program.supplies if one.left[-1] < MARGIN and one.role != "feeds"]
    assert ("feed.battery-short" in said) == any(one.role == "records" for one in short)
    assert ("feed.load-ends" in said) == any(one.role == "beside it" for one in short)
    assert ("feed.mover-battery" in said) == any(one.carries for one in short)
    outcome = rehearse(program)
    assert (outcome.end == "whole" and not outcome.emptied) or empties or outcome.end == "card full"
    full = bool(program.card_bytes[-1] > program.shot.kit.card.capacity_gb * 1e9)
    assert full == ("feed.card-small" in said and said["feed.card-small"].severity == "fix")
    assert ("time.over-a-day" in said) == (program.timing.event_s > 86_400)
    cut = program.exposures.wanted_shutter_s > program.shutter_room_s * 1.001
    assert ("exposure.shutter-capped" in said) == (program.shot.light.school != "fixed" and bool(cut.any()))
    assert body.reports_recording != ("feed.no-sign" in said)


@settings(deadline=None, max_examples=20, derandomize=True, suppress_health_check=list(HealthCheck))
@given(legal_shots())
def test_whatever_shot_a_document_holds(shot: Shot) -> None:
    """Nothing crashes, every number is finite, every fix mends, no finding contradicts the program, all opens."""
    program = planned(shot)
    said = judge(program)
    assert all(one.turns or one.severity == "good" for one in said), [one.id for one in said if not one.turns]
    for check in (every_number_is_finite, what_is_planned_instead_can_be_had, every_fix_mends, no_finding_contradicts):
        check(shot, program, said)
