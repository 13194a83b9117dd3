"""A shot being edited: the edit applied, the shot compiled, judged, and laid out for the loom."""

import time
from collections.abc import Sequence

from fastapi import APIRouter, Response
from pydantic import BaseModel, Field

from revani.api.deps import Costly
from revani.core.documents import Shot, Step
from revani.core.edit.apply import BRINGS_ALONG, Edit
from revani.core.edit.fitting import check_edited, compile_fitted
from revani.core.edit.meter_reading import ReadingNote, noted
from revani.core.edit.moves_to_begin_with import MovePreset, presets
from revani.core.edit.subject import KINDS, Moving, Suggestion, suggest
from revani.core.findings import AnyEdit, Finding, Neighbour, apply_any, judge
from revani.core.findings.finding import Severity
from revani.core.findings.made import made_of
from revani.core.light.scene import check_reading
from revani.core.picture.planned import picture_of
from revani.core.program.compiled import Misfit, Program, compile_shot
from revani.core.quantities.refusal import Refusal
from revani.core.rehearsal.outcome import Outcome, rehearse
from revani.core.rehearsal.outputs import Output, compare_outputs
from revani.core.rehearsal.schools import SchoolOutcome, compare_schools
from revani.core.rehearsal.strip import strip
from revani.core.shown.dial_card import DialRow, dial_card
from revani.core.shown.feed_panel import FeedPanel, feed_panel
from revani.core.shown.framed_view import FramedView, framed_view
from revani.core.shown.light_panel import FilterRow, NightRow, filter_rows, night_rows, reading_told, stars_told
from revani.core.shown.loom import Lanes, lanes
from revani.core.shown.loom_move import key_moments, turning_points
from revani.core.shown.move_table import Table, move_table
from revani.core.shown.outputs import OutputPanel, film_frame_at, output_panel
from revani.core.shown.readout import Readout, readout
from revani.core.shown.sentence import Word, aside, key_words, sentence, speed_up_text, thing_words
from revani.core.shown.walk_table import WalkTable, walk_table
from revani.core.timing.law import Solution
from revani.exports.move_csv import keys_from_csv
from revani.exports.outputs import outputs_from_json
from revani.exports.walk_gpx import walked_along
from revani.exports.written import FORMATS, About
from revani.jobs.resample import as_jpeg, framed

router = APIRouter(prefix="/api/programs", dependencies=[Costly])


class Ask(BaseModel):
    """A shot, and what was just typed into it."""

    shot: Shot
    edits: list[AnyEdit] = Field(default=[], max_length=20)
    fit: bool = Field(False, description="Bring what cannot be had to the nearest that can, and say so.")
    rates: bool = Field(False, description="With speeds and accelerations of the axes.")
    neighbours: list[Neighbour] = Field(default=[], max_length=200, description="Shots that it is cut with.")


class Offer(BaseModel):
    """A fix that can be taken: its id, the words on its button, and what it costs."""

    id: str
    label: str
    price: str


class Judgement(BaseModel):
    """A finding as the desk shows it; a fix is taken by an edit that names both."""

    id: str
    severity: Severity
    step: Step
    sentence: str
    figures: str
    rule: str
    source: str
    turns: str
    from_s: float | None
    to_s: float | None
    fixes: list[Offer]


class Unfit(BaseModel):
    """A value that cannot be had: its field, what is allowed, and what is planned, or was taken, instead."""

    field: str
    allowed: str
    instead: str


class Plan(BaseModel):
    """The shot after the edits, and all that the desk shows of it.

    `unfit` are values of the shot that cannot be had and are planned otherwise; `brought` are those that
    were brought to the nearest, because that was asked for.
    """

    shot: Shot
    sentence: list[list[Word]]
    aside: dict[str, list[Word]]
    solved: Solution
    speed_up: str
    start_clock: str
    end_clock: str
    date: str
    zone: str
    lanes: Lanes
    findings: list[Judgement]
    rehearsal: Outcome
    unfit: list[Unfit]
    brought: list[Unfit]
    dials: list[DialRow]


@router.post("", response_model=Plan)
def plan(ask: Ask) -> Response:
    """Apply the edits, compile, judge."""
    # Written out here, once: the framework would validate its own model again.
    return Response(planned(ask).model_dump_json(), media_type="application/json")


def planned(ask: Ask) -> Plan:
    """The plan of a shot after its edits."""
    shot, field = ask.shot, ""
    for edit in ask.edits:
        shot = apply_any(shot, edit, ask.neighbours)
        field = edit.field if isinstance(edit, Edit) else field
    check_reading(shot.light, time.time())
    program = compile_fitted(shot)
    brought: tuple[Misfit, ...] = ()
    if program.misfits and (ask.fit or field in BRINGS_ALONG):
        brought, shot = program.misfits, program.shot
        program = compile_fitted(shot)
    elif ask.edits:
        check_edited(ask.shot, program, field)
    start, end = program.local(program.start_s), program.local(program.end_s)
    return Plan(
        shot=shot,
        sentence=[list(line) for line in sentence(shot, program.timing)],
        aside={step: list(line) for step, line in aside(shot, program.timing).items()},
        solved=program.timing,
        speed_up=speed_up_text(shot, program.timing),
        start_clock=f"{start:%H:%M}",
        end_clock=f"{end:%H:%M}",
        date=f"{start:%a %-d %b %Y}",
        zone=start.tzname() or shot.place.time_zone,
        lanes=lanes(program, rates=ask.rates),
        findings=[_judgement(one) for one in judge(program, ask.neighbours)],
        rehearsal=rehearse(program),
        unfit=_unfit(program.misfits),
        brought=_unfit(brought),
        dials=list(dial_card(program)),
    )


def _unfit(misfits: Sequence[Misfit]) -> list[Unfit]:
    return [Unfit(field=one.path, allowed=one.allowed, instead=one.instead) for one in misfits]


def _judgement(one: Finding) -> Judgement:
    return Judgement(
        id=one.id, severity=one.severity, step=one.step, sentence=one.sentence, figures=one.figures,
        rule=one.rule, source=one.source, turns=one.turns,
        from_s=one.from_s, to_s=one.to_s,
        fixes=[Offer(id=fix.id, label=fix.label, price=fix.price) for fix in one.fixes],
    )  # fmt: skip


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
    readings: list[Readout]


def _number(program: Program, ask: FrameAsk) -> int:
    if (ask.number is None) == (ask.at_s is None):
        raise Refusal("number", "Give a frame number or an instant.")
    if ask.number is not None and not 1 <= ask.number <= program.frame_count:
        raise Refusal("number", f"From 1 to {program.frame_count}.", ask.number)
    return ask.number or int(abs(program.at_s - (ask.at_s or 0.0)).argmin()) + 1


@router.post("/frame")
def frame(ask: FrameAsk) -> FrameAnswer:
    """Read out one frame exactly."""
    program = compile_fitted(ask.shot)
    number = _number(program, ask)
    return FrameAnswer(
        number=number,
        at_s=float(program.at_s[number - 1]),
        film_s=float(program.film_s[number - 1]),
        readings=readout(program, number),
    )


class LightPanel(BaseModel):
    """What the step Light shows beside the loom."""

    schools: list[SchoolOutcome]
    stars: list[str]
    ways: list[NightRow]
    filters: list[FilterRow]
    view: FramedView
    reading: str


@router.post("/light")
def light_panel(ask: FrameAsk) -> LightPanel:
    """The schools side by side, the night, the filters, and the picture as it is framed."""
    program = compile_fitted(ask.shot)
    number = _number(program, ask)
    return LightPanel(
        schools=list(compare_schools(program)),
        stars=stars_told(program),
        ways=night_rows(program),
        filters=filter_rows(program),
        view=framed_view(program, number),
        reading=reading_told(program),
    )


@router.post("/outputs")
def outputs(shot: Shot) -> list[Output]:
    """What can come out of the shot, side by side."""
    return list(compare_outputs(compile_fitted(shot)))


@router.post("/feed")
def feed(shot: Shot) -> FeedPanel:
    """What feeds what, how long it lasts, and what the card takes."""
    return feed_panel(compile_fitted(shot))


class ReadingAsk(BaseModel):
    """A shot, and what a meter said at its place."""

    shot: Shot
    note: ReadingNote


@router.post("/reading")
def meter_reading(ask: ReadingAsk) -> Shot:
    """The shot calibrated by a meter reading."""
    return noted(ask.shot, ask.note, time.time())


class SubjectAsk(BaseModel):
    """A shot, and what moves in it."""

    shot: Shot
    moving: Moving


class SubjectAnswer(BaseModel):
    """Kinds of subject that are known, and intervals for the one that was named."""

    kinds: list[str]
    suggestions: list[Suggestion]


@router.post("/subject")
def from_subject(ask: SubjectAsk) -> SubjectAnswer:
    """Interval and shutter from what moves."""
    if ask.moving.kind is not None and ask.moving.kind not in KINDS:
        raise Refusal("moving.kind", f"One of: {', '.join(KINDS)}.", ask.moving.kind)
    if (ask.moving.speed_m_s is None) != (ask.moving.distance_m is None):
        raise Refusal("moving.distance_m", "Give speed and distance both, or neither.")
    return SubjectAnswer(kinds=list(KINDS), suggestions=list(suggest(ask.shot, ask.moving)))


class KeyRow(BaseModel):
    """A key of the move in values that can be typed over."""

    index: int
    clock: str
    words: list[Word]


class MovePanel(BaseModel):
    """What the step Move shows beside the loom; a row of `things` is one thing on the table."""

    axes: list[str]
    table: Table
    things: list[list[Word]]
    keys: list[KeyRow]
    turns: list[str]
    presets: list[MovePreset]


class WalkPanel(BaseModel):
    """What the step Move shows of a walk; a row of `things` is one thing on the table."""

    table: WalkTable
    things: list[list[Word]]


@router.post("/move")
def move_panel(ask: FrameAsk) -> MovePanel:
    """The move table at a frame, the keys as a table, and moves to begin with."""
    program = compile_fitted(ask.shot)
    moments, keys = key_moments(program), ask.shot.move.keys if ask.shot.move else ()
    # Where keys were left out of the plan, no clock can be told for the others.
    known = len(moments) == len(keys)
    rows = [
        KeyRow(
            index=index,
            clock=f"{program.local(program.start_s + moments[index].arrives_s):%H:%M:%S}" if known else "–",
            words=key_words(ask.shot, index),
        )
        for index in range(len(keys))
    ]
    return MovePanel(
        axes=[str(name) for name in ask.shot.kit.axes],
        table=move_table(program, _number(program, ask)),
        things=[thing_words(ask.shot, index) for index in range(len(ask.shot.move.things) if ask.shot.move else 0)],
        keys=rows,
        turns=turning_points(program),
        presets=list(presets(program.shot)),
    )


@router.post("/walk")
def walk_panel(ask: FrameAsk) -> WalkPanel:
    """A walk from above at a frame, its legs and its stations, and what stands on the table."""
    program = compile_fitted(ask.shot)
    if program.carried is None:
        raise Refusal("shot.walk", "This shot is no walk.")
    things = ask.shot.things
    return WalkPanel(
        table=walk_table(program, _number(program, ask)),
        things=[thing_words(ask.shot, index) for index in range(len(things))],
    )


@router.post("/afterwards")
def afterwards(ask: FrameAsk) -> OutputPanel:
    """What is made of the shot afterwards, at a frame: its outputs, their frames in the finder, their keys."""
    program = compile_fitted(ask.shot)
    return output_panel(program, _number(program, ask))


@router.post("/strip", response_class=Response)
def film_strip(shot: Shot) -> Response:
    """The small pictures of the film on the loom, one a cell, beside each other as one JPEG."""
    return Response(as_jpeg(strip(compile_fitted(shot), _TILE_PX)), media_type="image/jpeg")


_TILE_PX = 96


class PictureAsk(FrameAsk):
    """A frame of a shot, and the output whose frame is cut out of it; without one the whole picture is shown."""

    output: int | None = Field(None, ge=0)
    width: int = Field(480, ge=160, le=960)


@router.post("/picture", response_class=Response)
def picture(ask: PictureAsk) -> Response:
    """The picture that a frame would be, or the frame of an output cut out of it, as JPEG."""
    program = compile_fitted(ask.shot)
    i = _number(program, ask) - 1
    if ask.output is None:
        return Response(as_jpeg(picture_of(program, i, ask.width)), media_type="image/jpeg")
    made = next((one for one in made_of(program) if one.i == ask.output), None)
    if made is None:
        raise Refusal("output", "One of the outputs of the shot that can be made.", ask.output)
    # Wide enough for what is cut out of it, within reason.
    aspect = made.output.shape
    width, height = (ask.width, round(ask.width / aspect)) if aspect > 1 else (round(ask.width * aspect), ask.width)
    source = picture_of(program, i, min(program.shot.body.pixels_wide, _SOURCE_PX))
    return Response(as_jpeg(framed(source, made.way, film_frame_at(made, i), width, height)), media_type="image/jpeg")


_SOURCE_PX = 1_440


class PathAsk(BaseModel):
    """A walk, and a path as GPX."""

    shot: Shot
    gpx: str = Field(max_length=8_000_000)


@router.post("/path")
def path_in(ask: PathAsk) -> Shot:
    """The walk on the path of a GPX file, its first track or route, at the pace that its times say."""
    return walked_along(ask.shot, ask.gpx)


class FormatRow(BaseModel):
    """A format that a shot is written out in."""

    name: str
    label: str
    about: About
    ending: str


@router.get("/formats")
def list_formats() -> list[FormatRow]:
    """All of them."""
    return [FormatRow(name=one.name, label=one.label, about=one.about, ending=one.ending) for one in FORMATS.values()]


@router.post("/formats/{name}", response_class=Response)
def written(name: str, shot: Shot) -> Response:
    """The shot in one of them."""
    if name not in FORMATS:
        raise Refusal("name", f"One of: {', '.join(FORMATS)}.", name)
    found = FORMATS[name]
    # What cannot be had is a finding of its own.
    program = compile_fitted(shot) if found.about == "findings" else compile_shot(shot)
    return Response(found.write(program), media_type=found.media_type)


class OutputsAsk(BaseModel):
    """A shot, and outputs with their keys as JSON."""

    shot: Shot
    json_text: str = Field(max_length=4_000_000)


@router.post("/outputs-in")
def outputs_in(ask: OutputsAsk) -> Shot:
    """The shot with the outputs of a JSON file; a bad value is refused by its path."""
    return outputs_from_json(ask.shot, ask.json_text)


class KeysAsk(BaseModel):
    """A shot, and keyframes as CSV."""

    shot: Shot
    csv: str = Field(max_length=200_000)


@router.post("/keys")
def keys_in(ask: KeysAsk) -> Shot:
    """The shot with the keys of a CSV file; a bad line is refused by its number."""
    shot = keys_from_csv(ask.shot, ask.csv)
    compile_shot(shot)
    return shot
