"""Many questions to a calculator in one call: a table of CSV (RFC 4180), or a JSON object a line (JSON Lines)."""

import csv
import io
import json
from collections.abc import Callable, Iterator
from typing import Any

from revani.core.quantities.refusal import Refusal

Calculate = Callable[[dict[str, Any]], dict[str, Any]]


def each_of_lines(text: str, calculate: Calculate) -> Iterator[tuple[str, bool]]:
    """The answer to each line, in order, as a JSON line, and whether it is one; a refusal names path and allowed."""
    for line in filter(str.strip, text.splitlines()):
        try:
            asked = json.loads(line)
            if not isinstance(asked, dict):
                raise Refusal("", "A JSON object is needed.")
            yield json.dumps(calculate(asked)), True
        except json.JSONDecodeError as error:
            yield json.dumps({"path": "", "allowed": f"This is not JSON: {error}"}), False
        except Refusal as refusal:
            yield json.dumps({"path": refusal.path, "allowed": refusal.allowed}), False


def each_of_table(text: str, calculate: Calculate) -> tuple[str, bool]:
    """The table with a column for each answer, and whether all rows have one.

    A cell is read as JSON where it is JSON (`[8, 64]`, `1.5`), else as text; an empty one is not said. A row that is
    refused has the field and what is allowed in its last column, `refused`.
    """
    reader = csv.DictReader(io.StringIO(text))
    asked = list(reader)
    answers: list[dict[str, Any]] = []
    for row in asked:
        try:
            answers.append(calculate({name: _read(cell) for name, cell in row.items() if name and cell}))
        except Refusal as refusal:
            answers.append({"refused": f"{refusal.path}: {refusal.allowed}"})
    names = list(dict.fromkeys(name for answer in answers for name in answer if name != "refused"))
    out = io.StringIO()
    columns = [*(reader.fieldnames or ()), *(f"answer.{name}" for name in names), "refused"]
    table = csv.writer(out, lineterminator="\n")
    table.writerow(columns)
    for row, answer in zip(asked, answers, strict=True):
        given = [row.get(name) or "" for name in reader.fieldnames or ()]
        table.writerow([*given, *(_cell(answer.get(name)) for name in names), answer.get("refused", "")])
    return out.getvalue(), not any("refused" in answer for answer in answers)


def _read(cell: str) -> Any:
    try:
        return json.loads(cell)
    except json.JSONDecodeError:
        return cell


def _cell(value: Any) -> str:
    return "" if value is None else value if isinstance(value, str) else json.dumps(value)
