"""The morning report: ten lines that are true of the journal, and what to do by them."""

import io
from datetime import UTC, datetime
from uuid import uuid4

import pytest
from pypdf import PdfReader

from revani.core.documents import Light, Shot, Take
from revani.core.documents.run import CLOCK_RIG, CameraSaid, JournalFrame, RigNote, Run, Taken
from revani.core.documents.timing import Timing
from revani.core.program.compiled import Program, compile_shot
from revani.core.shown.report import Report, report
from revani.core.shown.sound import not_heard, sound_rows
from revani.core.watch.first_frames import GoReason, GoVerdict
from revani.exports.report_sheet import as_sheet
from revani.exports.sheet import sheet_html, sheet_pdf, sheet_text
from tests.conftest import make_shot

MB = 30_000_000


def night(frames: int = 40) -> Program:
    return compile_shot(make_shot(timing=Timing(fps=25, interval_s=60, frame_count=frames)))


def frame(program: Program, number: int, **change: object) -> JournalFrame:
    i, got = number - 1, program.exposures
    at = float(program.at_s[i])
    settings = Taken(shutter_s=float(got.shutter_s[i]), aperture=float(got.aperture[i]), iso=float(got.iso[i]))
    told = CameraSaid(battery_left=1 - number / 100, card_free_bytes=60_000_000_000 - number * MB)
    taken = JournalFrame(
        number=number, planned_s=at, fired_s=at + 0.02, outcome="taken", file=f"{number}.jpg", size_bytes=MB,
        settings=settings, camera=told,
    )  # fmt: skip
    return taken.model_copy(update=change)


def missed(program: Program, number: int, reason: str) -> JournalFrame:
    return JournalFrame(number=number, planned_s=float(program.at_s[number - 1]), outcome="missed", reason=reason)


def of(
    program: Program, journal: list[JournalFrame], state: str = "finished", reason: str = "", **change: object
) -> Run:
    now, taken = datetime.now(UTC), sum(one.outcome == "taken" for one in journal)
    values = {
        "id": uuid4(), "shot_id": program.shot.id, "shot": program.shot.model_dump(mode="json"), "rig": "stand-in",
        "state": state, "reason": reason, "speed": 1, "frame_count": program.frame_count,
        "planned_start_s": program.start_s, "stop_wanted": False, "runner": None, "clock": None, "armed_at": now,
        "started_at": now, "ended_at": now, "overridden": (), "waits_for": "",
        "taken": taken, "missed": len(journal) - taken,
    }  # fmt: skip
    return Run(**(values | change))


def test_a_sound_that_is_lost_is_a_line_and_something_to_do_and_one_that_is_not_had_claims_nothing() -> None:
    program = night()
    journal = [frame(program, n) for n in range(1, 41)]
    run = of(program, journal)
    none = sound_rows(Take(sound="its own microphone"), None)
    told = report(run, program, journal, (), none)
    assert lines(told)["sound"] == "The file has none, though it was wanted."
    assert told.todo[0].startswith("What was filmed has no sound: the file has none, though it was wanted. See to")
    away = report(run, program, journal, (), [not_heard("The camera does not answer.")])
    assert lines(away)["sound"].startswith("Not known: The camera does not answer") and away.todo == ()


def lines(told: Report) -> dict[str, str]:
    return {one.label: one.text for one in told.lines}


def test_a_whole_night_needs_nothing() -> None:
    program = night()
    journal = [frame(program, n) for n in range(1, 41)]
    told = report(of(program, journal), program, journal, [GoVerdict(level="go", after=5, told="You can go.")])
    said = lines(told)
    assert len(told.lines) <= 10 and told.todo == () and told.missed == () and told.otherwise == ()
    assert said["what came"] == "No gap: every frame was taken. 1.6 s of film."
    assert said["battery"].startswith("From 99% to 60%") and said["first frames"] == "You can go."
    assert said["card"] == "1.2 GB written, 58.8 GB left." and said["late"].startswith("20 ms in the middle")
    assert said["settings"] == "Every frame says of itself what was planned for it."
    assert f"{program.local(program.start_s):%H:%M:%S} to" in said["from, to"]


def test_gaps_stand_together_by_their_reason_and_say_what_to_do() -> None:
    program = night()
    late, away = "Its time had passed.", "The camera did not answer."
    lost = {9: late, 10: late, 11: late, 20: away, 30: late}
    journal = [missed(program, n, lost[n]) if n in lost else frame(program, n) for n in range(1, 41)]
    told = report(of(program, journal), program, journal)
    assert [(row.frames, row.told) for row in told.missed] == [("9 to 11", late), ("20", away), ("30", late)]
    assert "frames 9 to 11" in lines(told)["missing"] and "2 more gaps" in lines(told)["missing"]
    assert "4 frames missed: Its time had passed. A longer interval gives it room." in told.todo
    assert "1 frame missed: The camera did not answer. See to camera, cable and card." in told.todo


def test_what_ended_it_what_came_otherwise_and_what_runs_out_are_told() -> None:
    program = night()
    other = Taken(shutter_s=2.5, aperture=2.8, iso=6400)
    journal = [frame(program, n, **({"settings": other} if n in (7, 8) else {})) for n in range(1, 31)]
    spent = CameraSaid(battery_left=0.04, card_free_bytes=10 * MB)
    journal[-1] = journal[-1].model_copy(update={"camera": spent})
    told = report(of(program, journal, "failed", "The battery is flat."), program, journal)
    assert told.otherwise[0].frames.startswith("7") and "2.5 s · f/2.8 · ISO 6400, planned" in told.otherwise[0].told
    assert "10 frames never came to be taken, from frame 31 on" in lines(told)["what came"]
    assert told.todo[0] == "See to what ended it: the battery is flat."
    assert any(one.startswith("Charge the battery: 4% is left") for one in told.todo)
    assert any(one.startswith("Empty the card: 300 MB are free") for one in told.todo)
    stopped = GoReason(level="stop", text="Frame 1 came with 2.5 s, 30 s was planned.", field="light.iso_ceiling")
    verdict = GoVerdict(level="stop", after=5, told="Stop: frame 1 came with 2.5 s.", reasons=(stopped,))
    judged = report(of(program, journal), program, journal, [verdict])
    assert "Frame 1 came with 2.5 s, 30 s was planned. See to it on the desk." in judged.todo


def test_a_body_that_meters_by_itself_is_given_its_thirds() -> None:
    automatic = make_shot().light.model_dump() | {"school": "automatic"}
    shot = Shot.model_validate(make_shot().model_dump() | {"light": Light.model_validate(automatic)})
    program = compile_shot(shot)
    journal = [frame(program, n) for n in range(1, 20)]
    said = journal[5].settings
    assert said
    near = said.model_copy(update={"iso": said.iso * 1.6})
    journal[5] = journal[5].model_copy(update={"settings": near})
    assert report(of(program, journal), program, journal).otherwise == ()


def test_an_aperture_that_is_turned_by_hand_is_not_told_of_the_body() -> None:
    lens = make_shot().kit.lens.model_copy(update={"electronic_aperture": False})
    program = compile_shot(make_shot(kit=make_shot().kit.model_copy(update={"lens": lens})))
    said = frame(program, 1).settings
    assert said
    journal = [frame(program, n, settings=said.model_copy(update={"aperture": 1.0})) for n in (1, 2)]
    assert report(of(program, journal), program, journal).otherwise == ()


def test_a_run_by_the_clock_claims_nothing() -> None:
    shot = make_shot(
        timing=Timing(fps=25, interval_s=60, frame_count=40),
        fires="by hand",
        light=Light(school="fixed", aperture=4, shutter_s=1, iso=400),
    )
    program = compile_shot(shot)
    told = report(of(program, [], rig=CLOCK_RIG), program, [])
    assert [one.label for one in told.lines] == ["what came"] and told.lines[0].tone == "mind"
    assert "by the clock 40 frames should be on its card" in told.lines[0].text
    assert told.todo == ("Bring its card home and count what is on it: nothing of it is known here.",)


def test_the_rig_is_told_axis_by_axis() -> None:
    program = night()
    off = RigNote(planned={"slide": 100.0, "pan": 10.0}, reached={"slide": 100.4, "pan": 9.98}, stalled=("slide",))
    journal = [frame(program, n, **({"rig": off} if n == 3 else {})) for n in range(1, 6)]
    told = report(of(program, journal), program, journal)
    assert "slide 0.4 mm" in lines(told)["rig"] and "pan 0.02°" in lines(told)["rig"]
    assert "stalled for 1 frame" in lines(told)["rig"] and "Run the move once by hand: an axis stalled." in told.todo


@pytest.mark.parametrize("paper", ["a4", "a5"])
def test_it_is_one_page_on_paper_and_the_same_in_every_form(paper: str) -> None:
    program = night()
    journal = [frame(program, n) if n != 12 else missed(program, n, "Its time had passed.") for n in range(1, 41)]
    told = report(of(program, journal), program, journal, [GoVerdict(level="go", after=5, told="You can go.")])
    sheet = as_sheet(told)
    pages = PdfReader(io.BytesIO(sheet_pdf(sheet, paper))).pages  # type: ignore[arg-type]
    text = "".join(page.extract_text() for page in pages).replace("\n", " ")
    assert len(pages) == 1 and "the morning after" in text and "Its time had passed" in text
    for form in (sheet_text(sheet), sheet_html(sheet)):
        assert "39 of 40 frames taken" in form and "Before the next time".lower() in form.lower()
