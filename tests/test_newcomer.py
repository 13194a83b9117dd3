"""What a newcomer touches: one of each is added to a copy of the package, in the promised files and no others."""

import json
import os
import re
import shutil
import subprocess
import sys
from pathlib import Path
from uuid import uuid4

import pytest

from revani.settings import CHECKOUT
from revani.store import records
from tests.conftest import Database, make_shot
from tests.store.within import within

# By file: a line that stands there, and what follows it. Nothing: at the end.
ADDED: dict[str, dict[str, tuple[str, str]]] = {
    "a value of a shot": {
        "core/documents/light.py": (
            '    cloud: Cloud = Field("clear", title="Cloud")\n',
            '    grain_stops: Stops = Field(1.0, title="Grain that is let pass", ge=0, le=5)\n',
        ),
        "core/shown/sentence.py": (
            '    parts = ["The sky is [light.cloud]; the wanted shutter angle [light.angle_deg]"]\n',
            '    parts.append("grain up to [light.grain_stops] passes")\n',
        ),
    },
    "a value of gear": {
        "core/documents/gear.py": (
            '    write_mb_s: MegabytesASecond = Field(90.0, title="Writes at least", gt=0, le=100_000)\n',
            '    read_mb_s: MegabytesASecond = Field(120.0, title="Reads at least", gt=0, le=1_000)\n',
        )
    },
    "a finding": {
        "core/findings/timing.py": (
            "",
            """

@finding("feed", "feed.tally", source="arithmetic")
def tally(program: Program) -> Finding | None:
    return Finding(severity="mind", sentence=f"{program.frame_count} to count.")
""",
        )
    },
    "a calculator": {
        "core/calculators/time.py": (
            "",
            """

class TallyAsk(Ask):
    of: int


class TallyAnswer(Answer):
    twice: int


@calculator
def tally(ask: TallyAsk) -> TallyAnswer:
    'Twice as many.'
    return TallyAnswer(twice=2 * ask.of)
""",
        )
    },
    "a kind of gear": {
        "core/documents/gear.py": (
            "",
            """

class Tripod(Gear):
    said_of: ClassVar[KindWords] = KindWords("Tripods", "Add a tripod", "None yet.")
    kind: Literal["tripod"] = "tripod"
    carries_kg: Weight = Field(8.0, title="Carries", gt=0, le=500)
""",
        ),
        "core/documents/kinds.py": (
            "from revani.core.documents.gear import Body, Card, Filter, Lens",
            ", Tripod\n",
        ),
    },
    "a driver": {
        "rig/drivers/bulb.py": (
            "",
            "from revani.rig.drivers.http_camera import HttpCamera\n\n\nclass BulbCamera(HttpCamera):\n    pass\n",
        ),
        "rig/drivers/__init__.py": (
            "from revani.rig.drivers.http_camera import HttpCamera\n",
            "from revani.rig.drivers.bulb import BulbCamera\n",
        ),
    },
    "a format": {
        "exports/tally.py": ("", "def tally(program):\n    return f'{program.frame_count}\\n'\n"),
        "exports/written.py": (
            "from revani.exports.program import program_csv, program_json\n",
            "from revani.exports.tally import tally\n",
        ),
    },
}
# Where it is registered by a second change in the same file.
REGISTERED: dict[str, tuple[str, str]] = {
    "core/documents/kinds.py": ("Body | Lens", "Tripod | Body | Lens"),
    "rig/drivers/__init__.py": ('    "http": HttpCamera,', '    "bulb": BulbCamera,\n    "http": HttpCamera,'),
    "exports/written.py": (
        "_ALL = (",
        '_ALL = (\n    Format("program-tally", "Tally", "program", "txt", "text/plain", tally),',
    ),
}

# Where each is looked for; run in the copy, whose answer is one JSON object.
LOOK = """
import json
from pydantic import TypeAdapter, ValidationError
from revani.core.calculators import calculate, calculators
from revani.core.documents import AnyGear, Card, Shot
from revani.core.edit.apply import Edit, apply_edit
from revani.core.edit.form import filled
from revani.core.findings import judge
from revani.core.program.compiled import compile_shot
from revani.core.quantities.refusal import Refusal
from revani.core.shown.records import forms
from revani.core.shown.sentence import aside
from revani.exports.formats import formats
from revani.exports.written import FORMATS, format_of
from revani.rig.drivers import camera_at
import sys
shot = Shot.model_validate_json(open(sys.argv[1]).read())
word = next(one for one in aside(shot)["light"] if one.field == "light.grain_stops")
try:
    apply_edit(shot, Edit(field="light.grain_stops", text="9"))
except Refusal as refusal:
    refused = refusal.allowed
edited = apply_edit(shot, Edit(field="light.grain_stops", text="2"))
form = {one.kind: {field.path: field for field in one.fields} for one in forms()}
reads = form["card"]["read_mb_s"]
legs = TypeAdapter(AnyGear).validate_python({"kind": "tripod", "name": "Legs", "carries_kg": "20 lb"})
print(json.dumps({
    "value": [word.label, word.text, edited.light.grain_stops, refused],
    "schema": "grain_stops" in formats()["shot.schema.json"],
    "gear": [reads.label, reads.assumed, reads.unit,
             filled(Card, {"name": "C"}, {"read_mb_s": "300"}, "metric").read_mb_s],
    "finding": [(one.step, one.sentence) for one in judge(compile_shot(shot)) if one.id == "feed.tally"],
    "calculator": [calculators()["tally"].summary, calculate("tally", {"of": 3}),
                   "## tally" in formats()["calculators.md"]],
    "kind": [type(legs).__name__, round(legs.carries_kg, 2), list(form)[0], "tripod.schema.json" in formats()],
    "driver": type(camera_at("bulb://127.0.0.1:1")).__name__,
    "format": [FORMATS["program-tally"].label, format_of("program", "tally").write(compile_shot(shot))],
}))
"""


def promised() -> dict[str, set[str]]:
    """The files of each row of the table in docs/architecture.md."""
    page = (CHECKOUT / "docs" / "architecture.md").read_text()
    rows = re.findall(r"^\| (an? [^|]+) \| (.+) \|$", page, re.MULTILINE)
    return {what: set(re.findall(r"`([^`]+)`", files)) for what, files in rows}


def test_the_files_that_are_promised_are_those_that_are_touched() -> None:
    assert promised() == {what: set(files) for what, files in ADDED.items()}


def test_what_a_newcomer_adds_is_found_everywhere_it_belongs(tmp_path: Path) -> None:
    copy = tmp_path / "revani"
    shutil.copytree(CHECKOUT / "revani", copy, ignore=shutil.ignore_patterns("__pycache__"))
    for files in ADDED.values():
        for name, (before, added) in files.items():
            path = copy / name
            text = path.read_text() if path.exists() else ""
            assert before in text, (name, before)
            text = text.replace(before, before + added) if before else text + added
            if name in REGISTERED:
                text = text.replace(*REGISTERED[name])
            path.write_text(text)
    shot = tmp_path / "shot.json"
    shot.write_text(make_shot().model_dump_json())
    answer = subprocess.run(
        [sys.executable, "-W", "ignore", "-c", LOOK, str(shot)], capture_output=True, text=True, cwd=tmp_path,
        env=os.environ | {"PYTHONPATH": str(tmp_path)}, check=False,
    )  # fmt: skip
    assert answer.returncode == 0, answer.stderr
    assert json.loads(answer.stdout) == {
        "value": ["Grain that is let pass", "1 stop", 2.0, "At most 5 stops."],
        "schema": True,
        "gear": ["Reads at least", "120", "MB/s", 300.0],
        "finding": [["feed", "600 to count."]],
        "calculator": ["Twice as many.", {"twice": 6}, True],
        "kind": ["Tripod", 9.07, "tripod", True],
        "driver": "BulbCamera",
        "format": ["Tally", "600\n"],
    }


@pytest.mark.parametrize("kind", ["tripod"])
def test_the_database_keeps_gear_of_a_kind_that_it_has_never_seen(database: Database, kind: str) -> None:
    id = uuid4()
    document = {"id": str(id), "kind": kind, "name": "Legs"}
    saved = within(database, lambda conn: records.insert(conn, "gear", id, document))
    assert saved.document == document
    within(database, lambda conn: conn.execute("DELETE FROM gear WHERE id = %s", [id]))
