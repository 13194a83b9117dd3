"""A record as it is typed into its form: texts by their paths become values of the document.

Numbers without a unit are in the measures that the person chose; what nobody typed stays as it is, to the last
digit. An empty field is left to what is assumed, or is refused where nothing is.
"""

import re
from collections.abc import Mapping
from typing import Any, TypeVar, get_args

from pydantic import BaseModel, ValidationError
from pydantic.fields import FieldInfo

from revani.core.documents import Axis, Document, Window
from revani.core.documents.allowed import allowed_of
from revani.core.documents.mover import read_of_axis
from revani.core.quantities.measures import NUMBER, Measure, Quantity, Span, System, quantity_of
from revani.core.quantities.refusal import Refusal, Refusals

R = TypeVar("R", bound=Document)

_TRUE = {"yes": True, "no": False, "true": True, "false": False}


def filled(kind: type[R], document: Mapping[str, Any], typed: Mapping[str, str], system: System) -> R:
    """The record that a document becomes with what was typed put in its places.

    `typed` is by path: `weight_kg`, `axes.0.low`. Raises Refusals that name every field that cannot be used.
    """
    found = dict(document)
    refused: dict[str, Refusal] = {}
    for path, text in typed.items():
        try:
            _put(kind, found, path.split("."), text, system)
        except Refusal as refusal:
            refused[path] = Refusal(path, refusal.allowed, text)
    try:
        record = kind.model_validate(found)
    except ValidationError as error:
        for one in error.errors():
            path = ".".join(str(part) for part in one["loc"] if not str(part).startswith("function-"))
            refused.setdefault(path, Refusal(path, allowed_of(one)))
        raise Refusals(tuple(refused.values())) from None
    if refused:
        raise Refusals(tuple(refused.values()))
    return record


def _put(kind: type[BaseModel], into: dict[str, Any], path: list[str], text: str, system: System) -> None:
    name, *rest = path
    field = kind.model_fields.get(name)
    if field is None:
        raise Refusal("", "There is no such field.")
    row = rows_of(field)
    if not rest:
        if text.strip():
            into[name] = _read(kind, name, field, text, system, into)
        else:
            into.pop(name, None)
        return
    rows = list(into.get(name) or [])
    if row is None or len(rest) != 2 or not rest[0].isdecimal() or int(rest[0]) >= len(rows):
        raise Refusal("", "There is no such field.")
    into[name] = rows
    rows[int(rest[0])] = dict(rows[int(rest[0])])
    _put(row, rows[int(rest[0])], rest[1:], text, system)


def rows_of(field: FieldInfo) -> type[BaseModel] | None:
    """The kind of document that a value is a list of; None where it is none."""
    inside = get_args(field.annotation)
    document = (
        len(inside) == 2 and inside[1] is ... and isinstance(inside[0], type) and issubclass(inside[0], BaseModel)
    )
    return inside[0] if document else None


def quantities_of(field: FieldInfo) -> Quantity | None:
    """What the members of a list of numbers are counted in; None where it is none."""
    inside = get_args(field.annotation)
    if len(inside) != 2 or inside[1] is not ... or rows_of(field) is not None:
        return None
    found = next((one for one in getattr(inside[0], "__metadata__", ()) if isinstance(one, Measure | Span)), None)
    return found or NUMBER


def paired(row: type[BaseModel]) -> bool:
    """Whether a list of such documents is typed in one line, `235:4 262:6`: they have two values."""
    return len(row.model_fields) == 2


def _read(kind: type[BaseModel], name: str, field: FieldInfo, text: str, system: System, whole: dict[str, Any]) -> Any:
    clean = text.strip()
    if kind is Axis and name not in ("name", "settle_s"):
        return read_of_axis(whole["name"], clean, system) if whole.get("name") else clean
    row = rows_of(field)
    if row is not None:
        return [_pair(row, pair, system) for pair in clean.split()]
    if quantities_of(field) is not None:
        # Each is read by the document: rates and lengths of time are exact there.
        return [part for part in re.split(r"[\s;,]+", re.sub(r"(?<=\d),(?=\d{3}(?!\d))", "", clean)) if part]
    if Window in get_args(field.annotation):
        hours, _, reason = clean.partition(" ")
        opens, _, closes = hours.partition("-")
        return {"opens": opens, "closes": closes, "reason": reason.strip()}
    quantity = quantity_of(field)
    if quantity is not None:
        return quantity.read(clean, system)
    if field.annotation is bool:
        return _TRUE.get(clean.lower(), clean)
    return text if name == "note" else clean


def _pair(row: type[BaseModel], text: str, system: System) -> dict[str, Any]:
    parts = re.split(":", text)
    if len(parts) != 2:
        raise Refusal("", "Type pairs such as 235:4 262:6.", text)
    found: dict[str, Any] = {}
    for (name, field), part in zip(row.model_fields.items(), parts, strict=True):
        quantity = quantity_of(field)
        found[name] = quantity.read(part, system) if quantity is not None else part
    return found
