"""Saving parts of a shot as a preset, and laying one over another shot."""

from collections.abc import Sequence

from pydantic import ValidationError

from revani.core.documents import Shot
from revani.core.documents.allowed import allowed_of
from revani.core.documents.preset import PART_FIELDS, Preset, PresetPart
from revani.core.program.compiled import compile_shot
from revani.core.quantities.refusal import Refusal


def preset_of(shot: Shot, name: str, surroundings: str, parts: Sequence[PresetPart]) -> Preset:
    """The parts of a shot as a preset. Raises Refusal."""
    document = shot.model_dump(mode="json")
    once = tuple(dict.fromkeys(parts))
    try:
        return Preset(
            name=name, surroundings=surroundings, parts=once,
            values={field: document[field] for part in once for field in PART_FIELDS[part]},
        )  # fmt: skip
    except ValidationError as error:
        path = ".".join(str(one) for one in error.errors()[0]["loc"]) or "parts"
        raise Refusal(path, allowed_of(error.errors()[0])) from None


def laid(shot: Shot, preset: Preset) -> Shot:
    """The shot with the values of a preset, all of them. Raises Refusal whose path is the value that does not fit."""
    try:
        found = Shot.model_validate(shot.model_dump(mode="json") | preset.values)
    except ValidationError as error:
        first = error.errors()[0]
        path = ".".join(str(one) for one in first["loc"] if not str(one).startswith("function-"))
        raise Refusal(path or "preset", f"“{preset.name}” does not fit: {allowed_of(first)}") from None
    carried = {one.id for one in found.kit.filters}
    if not set(found.light.filters) <= carried:
        raise Refusal(
            "light.filters", f"“{preset.name}” wants a filter that does not come along: take it into the kit first."
        )
    try:
        compile_shot(found)
    except Refusal as refusal:
        raise Refusal(refusal.path, f"“{preset.name}” does not fit: {refusal.allowed}") from None
    return found
