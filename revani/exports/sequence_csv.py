"""The cuts of a sequence as a table, out and in. Source: RFC 4180."""

import csv
import io
from collections.abc import Mapping
from uuid import UUID

from pydantic import ValidationError

from revani.core.documents import Cut, ShotSequence
from revani.core.documents.allowed import allowed_of
from revani.core.documents.sequence import MOST_CUTS
from revani.core.quantities.refusal import Refusal
from revani.core.quantities.units import parse_duration, plain

_COLUMNS = ("shot", "in_s", "out_s", "joins", "view", "id")


def sequence_csv(sequence: ShotSequence) -> str:
    """A heading and a line a cut; an empty end is the end of its shot, an empty view is told from its framing."""
    text = io.StringIO()
    rows = csv.writer(text, lineterminator="\r\n")
    rows.writerow(_COLUMNS)
    for cut in sequence.cuts:
        end = "" if cut.out_s is None else plain(cut.out_s)
        rows.writerow([cut.name, plain(cut.in_s), end, cut.joins, cut.view or "", cut.shot])
    return text.getvalue()


def cuts_of_csv(text: str, known: Mapping[UUID, str]) -> tuple[Cut, ...]:
    """The cuts that a table names. `known` has the names of the shots there are; one is found by id, else by name.

    Columns may stand in any order; `shot` or `id` is needed. Raises Refusal("line n") for a line that cannot be used.
    """
    rows = csv.reader(io.StringIO(text.removeprefix("\ufeff")))
    try:
        heading = [cell.strip().lower() for cell in next(rows, [])]
        unknown = [cell for cell in heading if cell not in _COLUMNS]
        if unknown or not {"shot", "id"} & set(heading):
            raise Refusal("line 1", f"A heading of {', '.join(_COLUMNS)}; shot or id is needed.", ", ".join(heading))
        found = []
        for row in rows:
            if any(cell.strip() for cell in row):
                if len(row) > len(heading):
                    raise Refusal(f"line {rows.line_num}", f"At most {len(heading)} values.", ", ".join(row))
                cells = {name: cell.strip() for name, cell in zip(heading, row, strict=False)}
                found.append(_cut(f"line {rows.line_num}", cells, known))
            if len(found) > MOST_CUTS:
                raise Refusal(f"line {rows.line_num}", f"At most {MOST_CUTS} cuts.")
    except csv.Error as error:
        raise Refusal(f"line {rows.line_num}", f"A table as RFC 4180 has it: {error}.") from None
    return tuple(found)


def _cut(where: str, cells: Mapping[str, str], known: Mapping[UUID, str]) -> Cut:
    id = shot_named(where, cells.get("id", ""), cells.get("shot", ""), known)
    values: dict[str, object] = {"shot": id, "name": known[id]}
    for name in ("in_s", "out_s"):
        if cells.get(name):
            try:
                values[name] = parse_duration(cells[name])
            except Refusal as refusal:
                raise Refusal(where, f"{name}: {refusal.allowed}", cells[name]) from None
    values |= {name: cells[name] for name in ("joins", "view") if cells.get(name)}
    try:
        return Cut.model_validate(values)
    except ValidationError as error:
        first = error.errors()[0]
        name = str(first["loc"][0]) if first["loc"] else "out_s"
        raise Refusal(where, f"{name}: {allowed_of(first)}", ", ".join(cells.values())) from None


def shot_named(where: str, id: str, name: str, known: Mapping[UUID, str]) -> UUID:
    """The shot of an id, or the only one of a name. Raises Refusal at `where`."""
    try:
        if id and UUID(id) in known:
            return UUID(id)
    except ValueError:
        raise Refusal(where, "The id of a shot, or none.", id) from None
    called = [one for one, its in known.items() if its == name]
    if len(called) == 1:
        return called[0]
    allowed = f"{len(called)} shots are called that: give the id, too." if called else "There is no shot of that name."
    raise Refusal(where, allowed, name or id)
