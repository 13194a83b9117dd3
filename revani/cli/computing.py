"""`revani …`: what is computed without a database: programs, judgements, moves, calculators, formats.

Each command imports what it needs and no more, so that a small question is answered at once.
"""

import json
import sys
from pathlib import Path
from typing import TYPE_CHECKING, Annotated, Any, NoReturn

import typer
from typer.core import TyperCommand

from revani.core.quantities.refusal import Refusal

if TYPE_CHECKING:
    from revani.core.documents import Shot
    from revani.exports.written import About

app = typer.Typer()


def _read_shot(path: Path) -> "Shot":
    """A shot from a file; ends the command with problem+json and status 2 where it is none."""
    from pydantic import ValidationError

    from revani.core.documents import Shot
    from revani.exports.problem import faults_of

    try:
        return Shot.model_validate_json(path.read_bytes())
    except OSError as error:
        _unreadable(f"{path}: {error.strerror}")
    except ValidationError as error:
        faults = faults_of(error)
        _problem("Not possible", 422, faults[0].allowed, path=faults[0].path, faults=faults)


def _problem(title: str, status: int, detail: str, **more: Any) -> NoReturn:
    """End the command with problem+json and status 2."""
    from revani.exports.problem import Problem

    print(
        Problem(title=title, status=status, detail=detail, **more).model_dump_json(exclude_none=True), file=sys.stderr
    )
    raise typer.Exit(2)


def _unreadable(detail: str) -> NoReturn:
    _problem("Not readable", 400, detail)


def _refuse(refusal: Refusal) -> NoReturn:
    _problem("Not possible", 422, refusal.allowed, path=refusal.path)


def _write(about: "About", kind: str, path: Path, fitted: bool = False) -> None:
    """Write a shot out in one of its formats; ends the command where it cannot be."""
    from revani.core.edit.fitting import compile_fitted
    from revani.core.program.compiled import compile_shot
    from revani.exports.written import format_of

    try:
        shot = _read_shot(path)
        program = compile_fitted(shot) if fitted else compile_shot(shot)
        written = format_of(about, kind).write(program)
        sys.stdout.buffer.write(written if isinstance(written, bytes) else written.encode())
    except Refusal as refusal:
        _refuse(refusal)


_SHOT = typer.Argument(help="A shot in the open JSON format.")


@app.command("compile")
def compile_command(
    shot: Annotated[Path, _SHOT], format: Annotated[str, typer.Option(help="json or csv")] = "json"
) -> None:
    """Compile a shot to its program, one row a frame."""
    _write("program", format, shot)


@app.command("rehearse")
def rehearse_command(
    shot: Annotated[Path, _SHOT],
    film: Annotated[Path | None, typer.Option(help="Write the film that it would give, as MP4.")] = None,
    frame: Annotated[tuple[int, Path] | None, typer.Option(help="Write one frame, counted from 1, as PNG.")] = None,
    sheet: Annotated[Path | None, typer.Option(help="Write pictures all through it on one page, as PNG.")] = None,
    width: Annotated[int, typer.Option(min=160, max=1920, help="Of film and frame, pixels.")] = 480,
) -> None:
    """Run a shot against the modelled battery, card and camera, in no time; with its film, or a frame of it."""
    from revani.core.program.compiled import compile_shot
    from revani.core.rehearsal.outcome import rehearse

    try:
        program = compile_shot(_read_shot(shot))
        if film is not None or frame is not None or sheet is not None:
            from revani.core.rehearsal.practice import practised
            from revani.exports.contact_sheet import contact_sheet
            from revani.jobs.rehearse import NotMade, write_film, write_frame

            try:
                if film is not None:
                    write_film(program, width, film)
                if frame is not None:
                    write_frame(program, width, *frame)
                if sheet is not None:
                    sheet.write_bytes(contact_sheet(practised(program)))
            except (NotMade, OSError) as error:
                _problem("Not written", 400, str(error))
        print(rehearse(program).model_dump_json(indent=1))
    except Refusal as refusal:
        _refuse(refusal)


@app.command("judge")
def judge_command(shot: Annotated[Path, _SHOT]) -> None:
    """What is to be said of a shot, worst first, as a JSON list; a fix holds the changed shot."""
    _write("findings", "json", shot, fitted=True)


@app.command("draft")
def draft_command(
    intention: Annotated[Path, typer.Argument(help="What one wants to film, as JSON.")],
    why: Annotated[bool, typer.Option(help="What was decided and why, instead of the shot.")] = False,
) -> None:
    """A whole shot from what one wants to film."""
    from pydantic import ValidationError

    from revani.core.begin.draft import draft
    from revani.core.begin.intention import Intention
    from revani.exports.problem import faults_of

    try:
        found = draft(Intention.model_validate_json(intention.read_bytes()))
    except OSError as error:
        _unreadable(f"{intention}: {error.strerror}")
    except ValidationError as error:
        faults = faults_of(error)
        _problem("Not possible", 422, faults[0].allowed, path=faults[0].path, faults=faults)
    except Refusal as refusal:
        _refuse(refusal)
    if why:
        print("\n".join(f"{one.field or 'shot'}: {one.why}" for one in found.decided))
    else:
        print(found.shot.model_dump_json(indent=1))


@app.command("resolve")
def resolve_command(shot: Annotated[Path, _SHOT]) -> None:
    """Whole plans of a shot in which nothing fails, each of which keeps one thing, as JSON."""
    from revani.core.begin.resolve import resolve

    try:
        print(resolve(_read_shot(shot)).model_dump_json(indent=1))
    except Refusal as refusal:
        _refuse(refusal)


@app.command("move")
def move_command(
    shot: Annotated[Path, _SHOT], format: Annotated[str, typer.Option(help="gcode or csv")] = "gcode"
) -> None:
    """Write a shot's move out: as G-code, or a row a frame."""
    _write("move", format, shot)


@app.command("outputs")
def outputs_command(
    shot: Annotated[Path, _SHOT], format: Annotated[str, typer.Option(help="json, csv or otio.")] = "csv"
) -> None:
    """Write out what is made of a shot afterwards, film frame by film frame, or its keys."""
    _write("outputs", format, shot)


@app.command("walk")
def walk_command(
    shot: Annotated[Path, _SHOT], format: Annotated[str, typer.Option(help="csv, gpx, vtt or wav.")] = "csv"
) -> None:
    """Write out a walk: its stations, its path, its beat."""
    _write("walk", format, shot)


@app.command("dials")
def dials_command(shot: Annotated[Path, _SHOT]) -> None:
    """The dial card: what is set on a body that fires itself, in the order in which it is dialled."""
    _write("dials", "text", shot)


class _NamesCalculators(TyperCommand):
    """A command whose help ends with the calculators; they are imported for that alone."""

    def format_help(self, ctx: Any, formatter: Any) -> None:
        """The help, and the names, each with what it answers."""
        super().format_help(ctx, formatter)
        print(_calculators())


def _calculators() -> str:
    from revani.core.calculators import calculators

    wide = max(map(len, calculators()))
    return "\n".join(f"{name:<{wide}}  {found.summary}" for name, found in sorted(calculators().items()))


@app.command(cls=_NamesCalculators)
def calc(
    name: Annotated[str, typer.Argument(help="The calculator's name.")] = "",
    question: Annotated[str, typer.Argument(help="What it asks, as a JSON object.")] = "",
    each: Annotated[Path | None, typer.Option(help="Many questions: a .csv table, or a JSON object a line.")] = None,
    names: Annotated[bool, typer.Option("--list", help="The calculators, a line each.")] = False,
) -> None:
    """Ask a named calculator."""
    from revani.core.calculators import calculate

    if names:
        print(_calculators())
        return
    try:
        if each is not None:
            _calc_each(name, each)
            return
        given = json.loads(question)
        if not isinstance(given, dict):
            raise Refusal("", "A JSON object is needed.")
        print(json.dumps(calculate(name, given)))
    except json.JSONDecodeError as error:
        _unreadable(f"This is not JSON: {error}")
    except Refusal as refusal:
        _refuse(refusal)


def _calc_each(name: str, path: Path) -> None:
    """Answer every question of a file on standard output; status 2 where one is refused, the others are answered."""
    from revani.core.calculators import calculate, calculator_of
    from revani.exports.many import each_of_lines, each_of_table

    calculator_of(name)
    try:
        text = path.read_text()
    except (OSError, UnicodeDecodeError) as error:
        _unreadable(f"{path}: {error}")
    whole = True
    if path.suffix.lower() == ".csv":
        table, whole = each_of_table(text, lambda given: calculate(name, given))
        print(table, end="")
    else:
        for line, answered in each_of_lines(text, lambda given: calculate(name, given)):
            print(line)
            whole = whole and answered
    if not whole:
        raise typer.Exit(2)


def _openapi() -> str:
    """The OpenAPI document, from which the interface's client is generated."""
    from revani.api.app import make_app

    return json.dumps(make_app().openapi(), indent=1, sort_keys=True) + "\n"


@app.command()
def formats(folder: Annotated[Path, typer.Argument(help="Where docs/formats lies.")]) -> None:
    """Write the published formats: JSON Schemas, the OpenAPI document, the calculators' reference."""
    from revani.exports.formats import write_formats

    (folder / "openapi.json").write_text(_openapi())
    for path in write_formats(folder):
        print(path)
