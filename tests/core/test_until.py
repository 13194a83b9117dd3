"""A shot whose end hangs on the sun, as its start does."""

from datetime import date

import pytest

from revani.core.documents import Shot, SunStart
from revani.core.documents.timing import Timing
from revani.core.edit.apply import Edit, apply_edit
from revani.core.edit.fitting import compile_fitted
from revani.core.findings import judge
from revani.core.program.compiled import compile_shot
from revani.core.quantities.refusal import Refusal
from revani.core.shown.sentence import aside
from revani.core.sky.sun_and_moon import sun_events_of
from tests.conftest import make_shot


def night() -> Shot:
    shot = make_shot(start=SunStart(event="sunset"), timing=Timing(fps=30, interval_s=30, frame_count=100))
    return apply_edit(shot, Edit(field="until", text="until sunrise + 30 min"))


def test_it_ends_when_the_sun_says_and_the_frames_follow() -> None:
    program = compile_shot(night())
    rise = sun_events_of(night().place, date(2026, 11, 25))["sunrise"]
    assert rise and program.end_s == pytest.approx(rise + 1800, abs=30)
    assert program.timing.interval_s == 30 and program.frame_count == int(program.timing.event_s / 30)
    assert "sunrise + 30 min" in "".join(word.text for word in aside(night())["time"])


def test_a_film_length_that_is_typed_makes_the_interval_follow_and_the_hours_stay() -> None:
    before = compile_shot(night())
    shot = apply_edit(night(), Edit(field="timing.playback_s", text="20 s"))
    program = compile_shot(shot)
    assert shot.until and program.frame_count == 600
    assert float(program.timing.event_s) == pytest.approx(float(before.timing.event_s), abs=30)
    assert float(program.timing.interval_s) == pytest.approx(float(program.timing.event_s) / 600)
    again = compile_shot(apply_edit(shot, Edit(field="timing.interval_s", text="60 s")))
    assert again.timing.interval_s == 60 and again.frame_count < 600 * 2


def test_the_end_moves_with_the_date_and_is_let_go_by_a_length_that_is_typed() -> None:
    later = apply_edit(night(), Edit(field="date", text="2026-06-10"))
    assert compile_shot(later).timing.event_s < compile_shot(night()).timing.event_s / 2
    typed = apply_edit(night(), Edit(field="timing.event_s", text="2h"))
    assert typed.until is None and compile_shot(typed).timing.event_s == 7200
    let_go = apply_edit(night(), Edit(field="until", text=""))
    assert let_go.until is None and compile_shot(let_go).frame_count == compile_shot(night()).frame_count
    assert apply_edit(night(), Edit(field="until", nudge=1)).until == SunStart(event="sunrise", offset_s=2100)


def test_an_end_that_does_not_come_is_refused_and_the_next_best_is_planned() -> None:
    arctic = make_shot().place.model_copy(update={"latitude_deg": 70.0})
    shot = night().model_copy(
        update={"place": arctic, "date": date(2026, 12, 20), "start": SunStart(event="civil dusk")}
    )
    with pytest.raises(Refusal) as refused:
        compile_shot(shot)
    assert refused.value.path == "until" and "no sunrise" in refused.value.allowed
    program = compile_fitted(shot)
    assert [one.path for one in program.misfits] == ["until"] and program.shot.until is None


def test_every_fix_of_such_a_shot_can_be_planned() -> None:
    for finding in judge(compile_shot(night())):
        for fix in finding.fixes:
            compile_shot(Shot.model_validate_json(fix.shot.model_dump_json()))


def test_over_a_clock_change_it_still_ends_at_the_sun() -> None:
    shot = apply_edit(night(), Edit(field="date", text="2027-03-27"))
    program = compile_shot(shot)
    rise = sun_events_of(shot.place, date(2027, 3, 28))["sunrise"]
    assert rise and program.end_s == pytest.approx(rise + 1800, abs=30)
