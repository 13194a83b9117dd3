"""The command line, as a shell has it."""

import csv
import io
import json
import subprocess
from pathlib import Path

import jsonschema
import pytest
from typer.testing import CliRunner

from revani.cli import app
from tests.conftest import REVANI, make_shot


def revani(*words: str) -> subprocess.CompletedProcess[str]:
    return subprocess.run([REVANI, *words], capture_output=True, text=True)


@pytest.fixture
def shot_file(tmp_path: Path) -> Path:
    path = tmp_path / "shot.json"
    path.write_text(make_shot().model_dump_json())
    return path


def test_a_shot_compiles_on_the_command_line_to_csv_and_json(shot_file: Path) -> None:
    table = revani("compile", str(shot_file), "--format", "csv")
    assert table.returncode == 0
    assert len(list(csv.reader(io.StringIO(table.stdout)))) == 601
    program = json.loads(revani("compile", str(shot_file)).stdout)
    assert len(program["columns"]["shutter_s"]) == 600


def test_a_refusal_is_problem_json_on_standard_error_with_status_2(shot_file: Path) -> None:
    shot = json.loads(shot_file.read_text())
    shot["light"]["aperture"] = 1.0
    shot_file.write_text(json.dumps(shot))
    refused = revani("compile", str(shot_file))
    assert refused.returncode == 2 and refused.stdout == ""
    assert json.loads(refused.stderr)["path"] == "light.aperture"
    shot["place"]["latitude_deg"] = 95
    shot_file.write_text(json.dumps(shot))
    assert json.loads(CliRunner().invoke(app, ["compile", str(shot_file)]).stderr)["path"] == "place.latitude_deg"
    assert json.loads(CliRunner().invoke(app, ["compile", "/nowhere.json"]).stderr)["status"] == 400


def test_the_published_formats_are_those_of_the_code(tmp_path: Path) -> None:
    assert revani("formats", str(tmp_path)).returncode == 0
    published = Path(__file__).parent.parent / "docs" / "formats"
    made = {path.name: path.read_text() for path in tmp_path.iterdir()}
    assert "shot.schema.json" in made and "calculators.md" in made
    assert made == {path.name: path.read_text() for path in published.iterdir()}, "run `make formats`"


def test_a_shot_is_valid_by_its_published_schema_and_a_changed_one_is_not() -> None:
    schema = json.loads((Path(__file__).parent.parent / "docs" / "formats" / "shot.schema.json").read_text())
    shot = json.loads(make_shot().model_dump_json())
    jsonschema.validate(shot, schema)
    with pytest.raises(jsonschema.ValidationError):
        jsonschema.validate(shot | {"flavour": "salt"}, schema)


def test_calculators_answer_on_the_command_line() -> None:
    answer = revani("calc", "nd", '{"factors": [8]}')
    assert json.loads(answer.stdout)["stops"] == 3
    refused = revani("calc", "nd", '{"factors": [0]}')
    assert refused.returncode == 2 and json.loads(refused.stderr)["path"] == "factors.0"


@pytest.mark.parametrize(
    ("words", "path"),
    [(("spell", "{}"), "name"), (("nd", "[]"), ""), (("nd", "{"), ""), (("nd", '{"factors": 1}'), "factors")],
)
def test_a_calculator_that_is_asked_amiss_says_where(words: tuple[str, str], path: str) -> None:
    refused = CliRunner().invoke(app, ["calc", *words])
    assert refused.exit_code == 2 and refused.stdout == "" and json.loads(refused.stderr).get("path", "") == path


def test_a_shot_is_rehearsed_on_the_command_line(shot_file: Path) -> None:
    outcome = json.loads(revani("rehearse", str(shot_file)).stdout)
    assert outcome["frames_taken"] == 600 and outcome["end"] == "whole"
