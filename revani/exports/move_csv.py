"""A move's positions a frame as CSV, and keyframes read from CSV."""

import csv
import io

import numpy as np

from revani.core.documents import AXES, AfterStart, AxisName, MoveKey, Shot
from revani.core.move.key import key_at
from revani.core.program.compiled import Program
from revani.core.quantities.refusal import Refusal

_MOST_LINES = 400


def move_csv(program: Program) -> str:
    """One row a frame: number, seconds from the start, and every axis that moves (RFC 4180)."""
    motion = program.motion
    if motion is None:
        raise Refusal("move", "This shot has no move to write out.")
    out = io.StringIO()
    writer = csv.writer(out, lineterminator="\r\n")
    writer.writerow(["frame", "after_s", *motion.positions])
    for i in range(program.frame_count):
        row = [f"{float(values[i]):.4f}".rstrip("0").rstrip(".") for values in motion.positions.values()]
        writer.writerow([i + 1, f"{float(program.t_s[i]):.3f}".rstrip("0").rstrip("."), *row])
    return out.getvalue()


def keys_from_csv(shot: Shot, text: str) -> Shot:
    """The shot with the keyframes of a CSV: a heading with `after_s` and axes, and maybe `hold_s`; a row a key.

    Raises Refusal whose path is the line at fault: `line 3`.
    """
    rows = list(csv.reader(io.StringIO(text)))
    if not rows:
        raise Refusal("line 1", "A heading is needed: after_s, then the axes.")
    heading = [cell.strip().lower() for cell in rows[0]]
    known = ("after_s", "hold_s", "frame", *AXES)
    unknown = [cell for cell in heading if cell not in known]
    if "after_s" not in heading or unknown:
        raise Refusal("line 1", f"The heading may name {', '.join(known)}; after_s must be there.", ",".join(heading))
    axes = [name for name in AXES if name in heading]
    lacking = [name for name in axes if name not in shot.kit.axes]
    if lacking or not axes:
        raise Refusal("line 1", f"No mover of this kit has {', '.join(lacking) or 'these axes'}.", ",".join(heading))
    if len(rows) - 1 > _MOST_LINES:
        raise Refusal(f"line {_MOST_LINES + 2}", f"At most {_MOST_LINES} keys can be read.")
    keys: list[MoveKey] = []
    for line, row in enumerate(rows[1:], 2):
        if not any(cell.strip() for cell in row):
            continue
        if len(row) != len(heading):
            raise Refusal(f"line {line}", f"{len(heading)} columns are needed, as in the heading.", len(row))
        cells = dict(zip(heading, row, strict=True))
        after = _number(line, "after_s", cells["after_s"])
        if after is None or (keys and isinstance(keys[-1].at, AfterStart) and after <= keys[-1].at.after_s):
            raise Refusal(f"line {line}", "after_s must grow from line to line.", cells["after_s"])
        positions: dict[AxisName, float] = {}
        for name in axes:
            value = _number(line, name, cells[name])
            if value is not None:
                positions[name] = value
        if not positions or after < 0:
            raise Refusal(f"line {line}", "A key needs a moment from 0 on and one axis at least.", ",".join(row))
        hold = _number(line, "hold_s", cells.get("hold_s", "")) or 0.0
        keys.append(key_at(after, positions, max(hold, 0.0)))
    if not keys:
        raise Refusal("line 2", "There is no key in this file.")
    return shot.with_keys(keys)


def _number(line: int, name: str, text: str) -> float | None:
    if not text.strip():
        return None
    try:
        value = float(text)
    except ValueError:
        raise Refusal(f"line {line}", f"{name} must be a number.", text) from None
    if not np.isfinite(value) or abs(value) > 1e7:
        raise Refusal(f"line {line}", f"{name} must be a finite number under 10 million.", text)
    return value
