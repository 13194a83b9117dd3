"""The published formats: JSON Schemas of the open documents, and the calculators' reference page."""

import json
from pathlib import Path
from typing import Any

from pydantic import BaseModel

from revani.core.calculators import CALCULATORS
from revani.core.documents import Body, Card, Lens, Place, Shot

_DOCUMENTS: dict[str, type[BaseModel]] = {"shot": Shot, "body": Body, "lens": Lens, "card": Card, "place": Place}


def formats() -> dict[str, str]:
    """Every published file by its name."""
    files = {
        f"{name}.schema.json": json.dumps(_schema(model), indent=1, sort_keys=True) + "\n"
        for name, model in _DOCUMENTS.items()
    }
    return files | {"calculators.md": _reference()}


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
    for calculator in CALCULATORS.values():
        lines += [f"## {calculator.name}", "", calculator.summary, "", *_table("asks", calculator.ask)]
        lines += _table("answers", calculator.answer)
    return "\n".join(lines)


def _table(word: str, model: type[BaseModel]) -> list[str]:
    schema = model.model_json_schema()
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
