"""A shot being edited: the edit applied, the shot compiled, judged, and laid out for the loom."""

from fastapi import APIRouter, Response
from pydantic import BaseModel, Field

from revani.core.documents import Shot
from revani.core.findings import Finding, Neighbour, judge
from revani.core.lanes import Lanes, Reading, lanes, readout
from revani.core.program import compile_shot
from revani.core.refusal import Refusal
from revani.core.rehearsal import Outcome, rehearse
from revani.core.sentence import Edit, Word, apply_edit, sentence, speed_up_text
from revani.core.timing import Solution

router = APIRouter(prefix="/api/programs")


class Ask(BaseModel):
    """A shot, and what was just typed into it."""

    shot: Shot
    edits: list[Edit] = Field(default=[], max_length=20)
    neighbours: list[Neighbour] = Field(default=[], max_length=200, description="Shots that it is cut with.")


class Plan(BaseModel):
    """The shot after the edits, and all that the desk shows of it."""

    shot: Shot
    sentence: list[list[Word]]
    solved: Solution
    speed_up: str
    start_clock: str
    end_clock: str
    date: str
    zone: str
    lanes: Lanes
    findings: list[Finding]
    rehearsal: Outcome


@router.post("", response_model=Plan)
def plan(ask: Ask) -> Response:
    """Apply the edits, compile, judge."""
    # Written out here, once: the framework would validate its own model again.
    return Response(planned(ask).model_dump_json(), media_type="application/json")


def planned(ask: Ask) -> Plan:
    """The plan of a shot after its edits."""
    shot = ask.shot
    for edit in ask.edits:
        shot = apply_edit(shot, edit)
    program = compile_shot(shot)
    start, end = program.local(program.start_s), program.local(program.end_s)
    return Plan(
        shot=shot,
        sentence=[list(line) for line in sentence(shot)],
        solved=program.timing,
        speed_up=speed_up_text(program.timing),
        start_clock=f"{start:%H:%M}",
        end_clock=f"{end:%H:%M}",
        date=f"{start:%a %-d %b %Y}",
        zone=start.tzname() or shot.place.time_zone,
        lanes=lanes(program),
        findings=list(judge(program, ask.neighbours)),
        rehearsal=rehearse(program),
    )


class FrameAsk(BaseModel):
    """A shot and a frame of it, by its number from 1 or by the nearest instant."""

    shot: Shot
    number: int | None = None
    at_s: float | None = None


class FrameAnswer(BaseModel):
    """The exact row of one frame, in words."""

    number: int
    at_s: float
    film_s: float
    readings: list[Reading]


@router.post("/frame")
def frame(ask: FrameAsk) -> FrameAnswer:
    """Read out one frame exactly."""
    program = compile_shot(ask.shot)
    if (ask.number is None) == (ask.at_s is None):
        raise Refusal("number", "Give a frame number or an instant.")
    if ask.number is not None and not 1 <= ask.number <= program.frame_count:
        raise Refusal("number", f"From 1 to {program.frame_count}.", ask.number)
    number = ask.number or int(abs(program.at_s - (ask.at_s or 0.0)).argmin()) + 1
    return FrameAnswer(
        number=number,
        at_s=float(program.at_s[number - 1]),
        film_s=float(program.film_s[number - 1]),
        readings=readout(program, number),
    )
