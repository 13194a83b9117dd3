"""The measured values of a document in words."""

from collections.abc import Iterator

from pydantic import BaseModel

from revani.core.documents.mover import Axis, driven_measure
from revani.core.measures import Measure
from revani.core.units import duration

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
        elif isinstance(value, BaseModel):
            yield from _of(value, f"{path}{name}.")
        elif isinstance(value, tuple):
            for i, one in enumerate(value):
                if isinstance(one, BaseModel):
                    yield from _of(one, f"{path}{name}.{i}.")
