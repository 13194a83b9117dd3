"""Fields that follow from what a document says of its values: label, quantity, bounds and choices.

A value of a shot that has a title can be edited under its path; only one that is shown, read or stepped in a way
of its own is written out beside it.
"""

from fractions import Fraction
from typing import Any, Literal, get_args, get_origin

from annotated_types import Ge, Gt, Le, MaxLen
from pydantic import BaseModel
from pydantic.fields import FieldInfo

from revani.core.documents import Framing, Light, Move, Shot, Take, Waiting, Walk
from revani.core.edit.fields.field import Field, length_step, words_field
from revani.core.quantities.measures import SECONDS, Measure, chosen, quantity_of
from revani.core.quantities.refusal import Refusal
from revani.core.quantities.units import duration, parse_duration

# Parts of a shot whose values can be edited, by the beginning of their paths.
_PARTS: dict[str, type[BaseModel]] = {
    "light.": Light, "move.": Move, "take.": Take, "framing.": Framing, "walk.": Walk,
    "waits.": Waiting, "": Shot,
}  # fmt: skip


# What stands where nothing was said.
NOTHING = "–"


def _part(path: str) -> tuple[str, type[BaseModel], str]:
    prefix = next(one for one in _PARTS if path.startswith(one))
    return prefix, _PARTS[prefix], path.removeprefix(prefix)


def label_of(path: str) -> str:
    """What a value of a shot is called, by its path."""
    _, model, name = _part(path)
    title = model.model_fields[name].title
    assert title
    return title


def value_of(shot: Shot, path: str) -> Any:
    """A value of a shot by its path; of a move that is not there, what it would begin with."""
    prefix, _, name = _part(path)
    if prefix == "move.":
        return getattr(shot.move or Move.model_validate({}), name)
    return getattr(getattr(shot, prefix.removesuffix(".")) if prefix else shot, name)


def with_value(shot: Shot, path: str, value: Any) -> Shot:
    """The shot with another value at a path. Raises ValidationError."""
    prefix, _, name = _part(path)
    if prefix == "light.":
        return shot.with_light(**{name: value})
    if prefix == "take.":
        return shot.with_take(**{name: value})
    if prefix == "walk.":
        return shot.with_walk(**{name: value})
    if prefix == "waits.":
        return shot.with_waits(**{name: value})
    if prefix == "framing.":
        framing = Framing.model_validate(shot.framing.model_dump() | {name: value})
        return shot.model_copy(update={"framing": framing})
    return shot.with_move(**{name: value}) if prefix else shot.model_copy(update={name: value})


def derived(path: str) -> Field | None:
    """The field of a value that says all of itself; None where it needs one of its own."""
    _, model, name = _part(path)
    info = model.model_fields[name]
    if info.title is None:
        return None
    choices = get_args(info.annotation) if get_origin(info.annotation) is Literal else ()
    if info.annotation is bool:
        return chosen_field(path, {False: "no", True: "yes"})
    if choices:
        return chosen_field(path, {choice: str(choice) for choice in choices})
    if info.annotation is str:
        return _text_field(path, info)
    quantity = quantity_of(info)
    if quantity is SECONDS and info.default is not None:
        return _length(path, info)
    return _counted(path, info, quantity) if isinstance(quantity, Measure) and info.default is not None else None


def chosen_field(path: str, words: dict[Any, str]) -> Field:
    """The field of a value that is one of a few, each with its word."""
    return words_field(
        label_of(path), words, lambda shot: value_of(shot, path), lambda shot, value: with_value(shot, path, value)
    )


def _text_field(path: str, info: FieldInfo) -> Field:
    most = next((one.max_length for one in info.metadata if isinstance(one, MaxLen)), 80)

    def read(shot: Shot, text: str) -> Shot:
        clean = "" if text.strip() in (NOTHING, "-") else text.strip()
        if len(clean) > most:
            raise Refusal("", f"Type at most {most} characters.", text)
        return with_value(shot, path, clean)

    return Field(label_of(path), lambda shot, _: value_of(shot, path) or NOTHING, read, lambda shot, _, __: shot)


def _counted(path: str, info: FieldInfo, measure: Measure) -> Field:
    low, high = bounds(info)
    whole = info.annotation is int

    def nudged(shot: Shot, steps: int) -> Shot:
        to = min(max(round(value_of(shot, path) + steps * measure.nudge, 3), low), high)
        return with_value(shot, path, round(to) if whole else to)

    return Field(
        label_of(path),
        lambda shot, _: measure.show(value_of(shot, path), 2),
        lambda shot, text: with_value(shot, path, measure.read(text, chosen())),
        lambda shot, _, n: nudged(shot, n),
    )


def _length(path: str, info: FieldInfo) -> Field:
    low, high = (Fraction(bound) for bound in bounds(info))

    def nudged(shot: Shot, steps: int) -> Shot:
        now = value_of(shot, path)
        return with_value(shot, path, min(max(now + steps * length_step(now), low), high))

    return Field(
        label_of(path),
        lambda shot, _: duration(value_of(shot, path)),
        lambda shot, text: with_value(shot, path, parse_duration(text)),
        lambda shot, _, n: nudged(shot, n),
    )


def bounds(info: FieldInfo) -> tuple[float, float]:
    """The least and the most that a value may be; where it must be over a bound, a little over it."""
    low, high = float("-inf"), float("inf")
    for one in info.metadata:
        if isinstance(one, Ge | Gt):
            bound = one.ge if isinstance(one, Ge) else one.gt
            low = float(bound) if isinstance(one, Ge) else float(bound) + 0.01  # type: ignore[arg-type]
        elif isinstance(one, Le):
            high = float(one.le)  # type: ignore[arg-type]
    return low, high


def derivable() -> dict[str, Field]:
    """The fields of all values of a shot that say all of themselves, by their paths."""
    paths = [prefix + name for prefix, model in _PARTS.items() for name in model.model_fields]
    return {path: field for path in paths if (field := derived(path)) is not None}
