"""The measured values of a document in words."""

from collections.abc import Iterator
from fractions import Fraction

from pydantic import BaseModel
from pydantic_core import PydanticUndefined

from revani.core.documents.mover import Axis, Mover, driven_measure
from revani.core.quantities.measures import Measure
from revani.core.quantities.units import decimals, duration


def assumed(kind: type[BaseModel]) -> dict[str, str]:
    """What stands in for the fields of a kind of document that are left empty, in words, by their paths."""
    found = {}
    for name, field in kind.model_fields.items():
        value = field.default
        if field.is_required() or value is PydanticUndefined or name in ("id", "kind", "note"):
            continue
        measure = next((one for one in field.metadata if isinstance(one, Measure)), None)
        text = measure.show_whole(value) if measure is not None and value is not None else _plain(value)
        if text:
            found[name] = text
    if kind is Mover:
        found |= {f"axes.{name}": text for name, text in assumed(Axis).items()}
    return found


def _plain(value: object) -> str:
    if isinstance(value, bool):
        return "yes" if value else "no"
    if isinstance(value, Fraction):
        return str(value)
    if isinstance(value, int | float):
        return decimals(value, 4)
    return value if isinstance(value, str) else ""


_PER = {"speed": "/s", "acceleration": "/s²"}


def worded(document: BaseModel) -> dict[str, str]:
    """Every measured value by its path, in the measures that are shown."""
    return dict(_of(document, ""))


def _of(document: BaseModel, path: str) -> Iterator[tuple[str, str]]:
    for name, field in type(document).model_fields.items():
        value = getattr(document, name)
        measure = next((one for one in field.metadata if isinstance(one, Measure)), None)
        if isinstance(document, Axis) and name not in ("name", "settle_s"):
            measure = driven_measure(document.name)
        if measure is not None and value is not None:
            yield path + name, measure.show_whole(value, _PER.get(name, ""))
        elif name == "settle_s":
            yield path + name, duration(value)
        elif isinstance(value, Fraction):
            # A shutter as it stands on the dial.
            yield path + name, str(value) if value < 1 and value.numerator == 1 else decimals(value, 6)
        elif isinstance(value, BaseModel):
            yield from _of(value, f"{path}{name}.")
        elif isinstance(value, tuple):
            for i, one in enumerate(value):
                if isinstance(one, BaseModel):
                    yield from _of(one, f"{path}{name}.{i}.")
