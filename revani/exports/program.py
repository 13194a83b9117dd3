"""Programs out: JSON with one array a column, and CSV with one row a frame (RFC 4180)."""

import csv
import io
import json
from datetime import UTC, datetime

from revani.core.program.compiled import Program

_DIGITS = 6


def program_json(program: Program) -> str:
    """The program as one JSON object: timing, and the columns by name."""
    document = {
        "format": "revani.program/1",
        "shot": str(program.shot.id),
        "timing": program.timing.model_dump(mode="json"),
        "start_s": program.start_s,
        "columns": {name: [round(float(v), _DIGITS) for v in column] for name, column in program.columns().items()},
    }
    return json.dumps(document) + "\n"


def program_csv(program: Program) -> str:
    """The program as CSV: a heading, then a row a frame; `at` is the instant in UTC as ISO 8601."""
    columns = program.columns()
    out = io.StringIO()
    writer = csv.writer(out, lineterminator="\r\n")
    writer.writerow(["at", *columns])
    for row in zip(*columns.values(), strict=True):
        at = datetime.fromtimestamp(float(row[1]), UTC).isoformat(timespec="milliseconds")
        writer.writerow([at, *(f"{float(value):.{_DIGITS}f}".rstrip("0").rstrip(".") for value in row)])
    return out.getvalue()
