"""The published formats: JSON Schemas of the open documents, and the calculators' reference page."""

import json
from pathlib import Path
from typing import Any

from pydantic import BaseModel

from revani.core.calculators import calculators
from revani.core.documents import AXIS_MEASURES, RECORDS, Shot, ShotSequence
from revani.core.documents.preset import Preset
from revani.core.move.gcode import LETTERS
from revani.exports.kit_file import KitFile

_DOCUMENTS: dict[str, type[BaseModel]] = {
    "shot": Shot, "sequence": ShotSequence, "preset": Preset, "kit": KitFile, **RECORDS,
}  # fmt: skip


def formats() -> dict[str, str]:
    """Every published file by its name."""
    files = {
        f"{name}.schema.json": json.dumps(_schema(model), indent=1, sort_keys=True) + "\n"
        for name, model in _DOCUMENTS.items()
    }
    return files | {"calculators.md": _reference(), "moves.md": _moves()}


def _schema(model: type[BaseModel]) -> dict[str, Any]:
    return {"$schema": "https://json-schema.org/draft/2020-12/schema"} | model.model_json_schema()


def write_formats(folder: Path) -> list[Path]:
    """Write them all; returns what was written."""
    written = []
    for name, text in formats().items():
        (folder / name).write_text(text)
        written.append(folder / name)
    return written


def _reference() -> str:
    lines = [
        "# Calculators",
        "",
        "`revani calc NAME 'JSON'` and `POST /api/calculators/NAME` ask and answer alike. Numbers are read as the",
        "decimals that were typed. What cannot be used is refused as problem+json with the field's name; what does",
        "not exist (no far limit, no sunset) is `null`.",
        "",
    ]
    for calculator in calculators().values():
        lines += [f"## {calculator.name}", "", calculator.summary, "", *_table("asks", calculator.ask)]
        lines += _table("answers", calculator.answer)
    return "\n".join(lines)


def _moves() -> str:
    letters = "\n".join(f"| {name} | {letter} | {AXIS_MEASURES[name].unit} |" for name, letter in LETTERS.items())
    return f"""# Moves out and in

## G-code

Words of ISO 6983 / RS-274, written by `revani move SHOT.json --format gcode` and spoken to a mover over TCP, a block a
line. Focus is on the lens's own scale where its marks are known.

| axis | letter | unit |
|---|---|---|
{letters}

Written: `G21 G90 G94`, `G28`, `G0` to the first key, then `G1` with `F` in units a minute and `G4 P` in seconds; a
shoot–move–settle move waits with `M0` at each frame; `M2` ends.

Spoken besides: `G93` (F is one over minutes), `M24 P` (begin what is queued at an instant), `M112` (stop), `M114`
(where it stands, as JSON), `M400` (answer when all stands still). A mover answers `ok` or `error:` and why.

## CSV (RFC 4180)

`revani move SHOT.json --format csv`: a row a frame with `frame`, `after_s` (seconds from the start) and the axes.
Keys are read from a heading with `after_s`, axes, and maybe `hold_s`; an empty cell leaves an axis out of a key. A line
that cannot be used is refused by its number.
"""


def _table(word: str, model: type[BaseModel]) -> list[str]:
    schema = model.model_json_schema(mode="serialization" if word == "answers" else "validation")
    required = set(schema.get("required", []))
    lines = [f"| {word} | kind | allowed |", "|---|---|---|"]
    for name, field in schema["properties"].items():
        optional = "" if word == "answers" or name in required else ", may be left out"
        lines.append(f"| `{name}` | {_kind(field)}{optional} | {_limits(field)} |")
    return [*lines, ""]


def _kind(field: dict[str, Any]) -> str:
    if "anyOf" in field:
        return " or ".join(dict.fromkeys(_kind(one) for one in field["anyOf"]))
    kind = field.get("type", "object")
    if kind == "array":
        return f"list of {_kind(field['items'])}"
    return str(field.get("format", kind))


def _limits(field: dict[str, Any]) -> str:
    signs = {"exclusiveMinimum": ">", "minimum": "≥", "exclusiveMaximum": "<", "maximum": "≤"}
    found = field if set(field) & set(signs) else field.get("items", {})
    for one in field.get("anyOf", []):
        found = found if set(found) & set(signs) else one
    return ", ".join(f"{sign} {found[name]:,}" for name, sign in signs.items() if name in found)
