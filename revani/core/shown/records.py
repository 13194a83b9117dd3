"""Records as they are listed and edited: the form of a kind, derived from its document, and its values in words."""

from collections.abc import Iterator
from fractions import Fraction
from typing import Any, Literal, get_args, get_origin

from pydantic import BaseModel
from pydantic.fields import FieldInfo
from pydantic_core import PydanticUndefined

from revani.core.documents import RECORDS, Axis, Gear, Record, Window
from revani.core.documents.mover import driven_measure
from revani.core.edit.form import paired, quantities_of, rows_of
from revani.core.quantities.measures import Measure, Span, quantity_of
from revani.core.quantities.units import count, decimals, duration, plain_rate

Drawn = Literal["text", "figure", "check", "choice", "table"]


class FormField(BaseModel):
    """One value of a record as it is typed.

    `path` is its place in the document; `unit` stands beside its label, `hint` below; `assumed` is what stands in
    for it where it is left empty. `columns` are those of a table, whose rows are documents of their own.
    """

    path: str
    label: str
    drawn: Drawn
    unit: str = ""
    hint: str = ""
    assumed: str = ""
    choices: tuple[str, ...] = ()
    columns: tuple["FormField", ...] = ()


class Form(BaseModel):
    """How a kind of record is listed and edited."""

    kind: str
    title: str
    add: str
    empty: str
    fields: tuple[FormField, ...]


def forms() -> tuple[Form, ...]:
    """All kinds of gear in the order in which the kit lists them, and places last."""
    return tuple(
        Form(
            kind=name, title=kind.said_of.title, add=kind.said_of.add, empty=kind.said_of.empty, fields=_fields(kind)
        )
        for name, kind in RECORDS.items()
    )  # fmt: skip


def _fields(kind: type[BaseModel]) -> tuple[FormField, ...]:
    return tuple(_field(name, field) for name, field in kind.model_fields.items() if field.title)


def _field(name: str, field: FieldInfo) -> FormField:
    quantity, row = quantity_of(field), rows_of(field)
    drawn: Drawn = "text"
    choices: tuple[str, ...] = ()
    if field.annotation is bool:
        drawn = "check"
    elif get_origin(field.annotation) is Literal:
        drawn, choices = "choice", get_args(field.annotation)
    elif row is not None and not paired(row):
        drawn = "table"
    elif name not in ("name", "note", "time_zone"):
        drawn = "figure"
    return FormField(
        path=name, label=field.title or name, drawn=drawn, choices=choices, hint=field.description or "",
        unit=quantity.unit if quantity is not None and quantity.settled else "",
        assumed="" if name == "note" else _assumed(field),
        columns=_fields(row) if row is not None and drawn == "table" else (),
    )  # fmt: skip


def _assumed(field: FieldInfo) -> str:
    value = field.default
    if field.is_required() or value is PydanticUndefined or value is None:
        return ""
    if isinstance(value, bool):
        return "yes" if value else "no"
    return _text(field, value)


def _text(field: FieldInfo, value: Any) -> str:
    """A value as it stands in its field: with its unit, where that is another one in other measures."""
    quantity = quantity_of(field)
    if quantity is not None:
        text = quantity.show_whole(value)
        return text.removesuffix(quantity.unit).strip() if quantity.settled else text
    if isinstance(value, Fraction | float | int):
        return decimals(value, 6)
    return value if isinstance(value, str) else ""


def summary(document: Record) -> str:
    """The chief figures of a record, beside its name."""
    return document.in_short(worded(document))


def measured_told(document: Record) -> tuple[str, ...]:
    """What was measured of a piece of gear beside its nominal figures: `Battery: 14.1 Wh, over 3 runs, 24 Nov 2026`."""
    found = []
    for row in document.measured if isinstance(document, Gear) else ():
        field = type(document).model_fields[row.figure]
        quantity = quantity_of(field)
        value = quantity.show(row.value, 2) if isinstance(quantity, Measure) else decimals(row.value, 3)
        found.append(f"{field.title}: {value} measured, over {count(row.runs, 'run')}, {row.on:%-d %b %Y}")
    return tuple(found)


_PER = {"speed": "/s", "acceleration": "/s²"}


def worded(document: BaseModel) -> dict[str, str]:
    """Every value by its path as it stands in its form, in the measures that are shown; none where it has none."""
    return dict(_of(document, ""))


def _of(document: BaseModel, path: str) -> Iterator[tuple[str, str]]:
    for name, field in type(document).model_fields.items():
        value = getattr(document, name)
        if not field.title or value is None:
            continue
        row = rows_of(field)
        if isinstance(document, Axis):
            yield path + name, _of_axis(document, name)
        elif row is not None and paired(row):
            yield path + name, " ".join(":".join(_pair(one)) for one in value)
        elif row is not None:
            for i, one in enumerate(value):
                yield from _of(one, f"{path}{name}.{i}.")
        elif quantities_of(field) is not None:
            counted = quantities_of(field)
            spoken = counted.show_whole if isinstance(counted, Span) else _rate
            yield path + name, " ".join(spoken(one) for one in value)
        elif isinstance(value, Window):
            yield path + name, f"{value.opens}-{value.closes} {value.reason}".strip()
        elif isinstance(value, bool):
            yield path + name, "yes" if value else "no"
        else:
            yield path + name, _text(field, value)


def _rate(value: Fraction) -> str:
    """A number of a list as it is typed there: rates are known by their names."""
    return plain_rate(value)


def _of_axis(axis: Axis, name: str) -> str:
    value = getattr(axis, name)
    if name == "settle_s":
        return duration(value)
    return value if name == "name" else driven_measure(axis.name).show_whole(value, _PER.get(name, ""))


def _pair(document: BaseModel) -> Iterator[str]:
    for name, field in type(document).model_fields.items():
        # What stands between blanks is one pair, so that it has none within.
        yield _text(field, getattr(document, name)).replace(" ", "").replace(",", "")


def assumed_of(document: Record) -> tuple[str, ...]:
    """The fields that nobody filled in; what stands there is assumed."""
    known = set(type(document).model_fields)
    return tuple(sorted(known - document.model_fields_set - {"id", "kind", "note"}))


def differences(old: Record, new: Record) -> tuple[str, ...]:
    """What was changed from one version of a record to the next, in words, each with what stood there before."""
    before, after = worded(old), worded(new)
    return tuple(
        f"{_named(type(new), path.split('.'))}: {after.get(path) or 'none'}, not {before.get(path) or 'none'}"
        for path in {**after, **before}
        if after.get(path) != before.get(path)
    )


def _named(kind: type[BaseModel], path: list[str]) -> str:
    """What a value is called, from the outside in: `Axes 2, Speed`."""
    name, *rest = path
    field = kind.model_fields[name]
    row = rows_of(field)
    if not rest or row is None:
        return field.title or name
    return f"{field.title} {int(rest[0]) + 1}, {_named(row, rest[1:])}"
