"""The command line, as a shell has it."""

import csv
import io
import json
import os
import shutil
import subprocess
from pathlib import Path

import jsonschema
import pytest
from typer.testing import CliRunner

from revani.cli import app
from revani.core.calculators import calculators
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


def test_the_calculators_are_named_by_list_and_help() -> None:
    named = {line.split()[0] for line in CliRunner().invoke(app, ["calc", "--list"]).stdout.splitlines()}
    assert named == set(calculators())
    told = CliRunner().invoke(app, ["calc", "--help"]).stdout
    assert all(f"\n{name} " in told for name in named)


def test_many_questions_are_answered_in_one_call_and_those_that_are_refused_say_why(tmp_path: Path) -> None:
    table = tmp_path / "nd.csv"
    table.write_text('factors\n[8]\n"[8, 64]"\n[0]\n')
    asked = CliRunner().invoke(app, ["calc", "nd", "--each", str(table)])
    rows = list(csv.DictReader(io.StringIO(asked.stdout)))
    assert asked.exit_code == 2 and [row["answer.stops"] for row in rows] == ["3.0", "9.0", ""]
    assert [row["refused"] for row in rows] == ["", "", "factors.0: At least 1."]
    lines = tmp_path / "timing.jsonl"
    lines.write_text(
        '{"fps": 30, "playback_s": 20, "interval_s": 30}\n\n{"fps": "24000/1001", "playback_s": 10, "interval_s": 2}\n'
    )
    asked = CliRunner().invoke(app, ["calc", "timing", "--each", str(lines)])
    assert asked.exit_code == 0
    assert [json.loads(line)["frame_count"] for line in asked.stdout.splitlines()] == [600, 240]
    lines.write_text("[1]\n{\n")
    asked = CliRunner().invoke(app, ["calc", "timing", "--each", str(lines)])
    assert asked.exit_code == 2 and all("allowed" in json.loads(line) for line in asked.stdout.splitlines())


@pytest.mark.parametrize(
    ("words", "path"),
    [(("spell", "{}"), "name"), (("nd", "[]"), ""), (("nd", "{"), ""), (("nd", '{"factors": 1}'), "factors")],
)
def test_a_calculator_that_is_asked_amiss_says_where(words: tuple[str, str], path: str) -> None:
    refused = CliRunner().invoke(app, ["calc", *words])
    assert refused.exit_code == 2 and refused.stdout == "" and json.loads(refused.stderr).get("path", "") == path


def test_a_shot_is_rehearsed_on_the_command_line(shot_file: Path) -> None:
    said = revani("rehearse", str(shot_file))
    outcome = json.loads(said.stdout)
    assert said.stderr == "" and outcome["frames_taken"] == 600 and outcome["end"] == "whole"


@pytest.mark.skipif(not shutil.which("systemd-analyze"), reason="systemd is not here")
def test_the_units_are_such_as_systemd_takes_also_with_odd_paths(tmp_path: Path) -> None:
    home = tmp_path / "a home with 100% spaces"
    environment = os.environ | {"REVANI_DATA_DIR": str(home / "data"), "REVANI_RIG": 'the "long" $rig'}
    environment.pop("REVANI_DATABASE_URL", None)
    subprocess.run([REVANI, "units", str(home)], env=environment, check=True, capture_output=True)
    names = sorted(path.name for path in home.iterdir())
    assert "revani.target" in names and "revani-database.service" in names and len(names) == 7
    checked = subprocess.run(
        ["systemd-analyze", "verify", "--user", "--man=no", *(str(home / name) for name in names)],
        capture_output=True, text=True, env=os.environ | {"XDG_RUNTIME_DIR": str(tmp_path)},
    )  # fmt: skip
    assert checked.returncode == 0 and "revani" not in checked.stderr, checked.stderr
    assert all((home / name).stat().st_mode & 0o077 == 0 for name in names), "an address may hold a password"
