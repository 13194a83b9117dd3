"""The values of what is made of a shot afterwards: each is named, shown and read as its document declares it."""

from fractions import Fraction
from typing import Any, Literal, get_args, get_origin

from pydantic import BaseModel, ValidationError
from pydantic.fields import FieldInfo

from revani.core.documents import CropKey, Ease, FilmOutput, Section, Shot, SphereKey
from revani.core.documents.allowed import allowed_of
from revani.core.edit.fields.derived import NOTHING, bounds
from revani.core.edit.fields.field import Field
from revani.core.edit.fitting import compile_fitted
from revani.core.edit.form import filled
from revani.core.edit.outputs import push_per_s, pushed, with_output
from revani.core.move.words import parse_ease, show_ease
from revani.core.quantities.measures import Measure, chosen, quantity_of
from revani.core.quantities.refusal import Refusal, Refusals
from revani.core.quantities.units import decimals, exact, plain_rate
from revani.core.timing.law import Solution
from revani.core.timing.pace import solved as timing_of

_ROWS: dict[str, type[BaseModel]] = {"keys": CropKey, "sphere": SphereKey, "sections": Section}
_SIZES: dict[str, tuple[int, int]] = {
    "3840 × 2160": (3840, 2160), "1920 × 1080": (1920, 1080), "1080 × 1920": (1080, 1920), "1080 × 1080": (1080, 1080),
    "1080 × 1350": (1080, 1350), "2560 × 1080": (2560, 1080),
}  # fmt: skip
_EASES = {"arrive": "ease in", "leave": "ease away"}
KEY_PARTS = ("at_s", "zoom", "across", "down", "roll_deg", "arrive", "leave")
SPHERE_PARTS = ("at_s", "yaw_deg", "pitch_deg", "roll_deg", "view_deg", "curve", "turns", "arrive", "leave")


def output_field(name: str, shot: Shot) -> Field | None:
    """How a value of an output is edited, `outputs.0.keys.1.zoom`; None where it has none of that name."""
    path = name.split(".")
    if len(path) < 3 or path[0] != "outputs" or not path[1].isdecimal() or int(path[1]) >= len(shot.outputs):
        return None
    i, output = int(path[1]), shot.outputs[int(path[1])]
    if path[2:] == ["size"]:
        return _size_field(i)
    if path[2:] == ["push"]:
        return _push_field(i)
    if len(path) == 3:
        return _field(i, FilmOutput, path[2:]) if path[2] in FilmOutput.model_fields else None
    row = _ROWS.get(path[2])
    if row is None or len(path) != 5 or not path[3].isdecimal() or path[4] not in row.model_fields:
        return None
    return _field(i, row, path[2:]) if int(path[3]) < len(getattr(output, path[2])) else None


def _put(shot: Shot, i: int, path: list[str], value: Any) -> Shot:
    """The shot with a value in an output, which must be one that can be made. Raises Refusal("")."""
    document = shot.outputs[i].model_dump()
    into = document
    if len(path) == 3:
        document[path[0]] = list(document[path[0]])
        into = document[path[0]][int(path[1])]
    into[path[-1]] = value
    try:
        return with_output(compile_fitted(shot), i, FilmOutput.model_validate(document))
    except ValidationError as error:
        raise Refusal("", allowed_of(error.errors()[0]), value) from None


def _typed(shot: Shot, i: int, path: list[str], text: str) -> Shot:
    try:
        output = filled(FilmOutput, shot.outputs[i].model_dump(), {".".join(path): text}, chosen())
    except Refusals as refused:
        raise Refusal("", refused.refused[0].allowed, text) from None
    return with_output(compile_fitted(shot), i, output)


def _now(shot: Shot, i: int, path: list[str]) -> Any:
    found: Any = shot.outputs[i]
    for part in path:
        found = found[int(part)] if part.isdecimal() else getattr(found, part)
    return found


def _field(i: int, model: type[BaseModel], path: list[str]) -> Field | None:
    info = model.model_fields[path[-1]]
    of = f"Key {int(path[1]) + 1}, " if len(path) == 3 else ""
    if info.annotation is Ease:
        return Field(
            of + _EASES[path[-1]], lambda shot, _: show_ease(_now(shot, i, path)),
            lambda shot, text: _put(shot, i, path, parse_ease(text).model_dump()), lambda shot, *_: shot,
        )  # fmt: skip
    if info.title is None:
        return None
    choices = get_args(info.annotation) if get_origin(info.annotation) is Literal else ()
    label = of + info.title.lower() if of else info.title
    return Field(
        label, lambda shot, solved: _shown(info, _now(shot, i, path), solved),
        lambda shot, text: _typed(shot, i, path, text),
        lambda shot, _, n: _nudged(shot, i, path, info, choices, n), choices,
    )  # fmt: skip


def _shown(info: FieldInfo, value: Any, solved: Solution) -> str:
    quantity = quantity_of(info)
    if quantity is not None:
        return quantity.show(value, 3) if isinstance(quantity, Measure) else quantity.show_whole(value)
    if isinstance(value, Fraction) or value is None:
        # A rate; none: that of the shot.
        return f"{plain_rate(solved.fps if value is None else value)} fps"
    return str(value) or NOTHING


def _nudged(shot: Shot, i: int, path: list[str], info: FieldInfo, choices: tuple[str, ...], steps: int) -> Shot:
    value, quantity = _now(shot, i, path), quantity_of(info)
    if choices:
        return _put(shot, i, path, choices[(choices.index(value) + steps) % len(choices)])
    if isinstance(value, Fraction) or (value is None and path[-1] == "fps"):
        return _put(shot, i, path, max(Fraction(1), (value or timing_of(shot).fps) + steps))
    if not isinstance(quantity, Measure):
        return shot
    step = 1 / float(timing_of(shot).fps) if path[-1] in ("at_s", "from_s") else quantity.nudge
    low, high = bounds(info)
    if info.annotation is int:
        step = 2.0 if path[-1].startswith("pixels") else 1.0
        return _put(shot, i, path, int(min(max(value + steps * step, low), high)))
    return _put(shot, i, path, round(min(max(value + steps * step, low), high), 4))


def _size_field(i: int) -> Field:
    def shown(shot: Shot) -> str:
        return f"{shot.outputs[i].pixels_wide} × {shot.outputs[i].pixels_high}"

    def read(shot: Shot, text: str) -> Shot:
        sides = text.lower().replace("×", "x").replace("px", "").replace(",", "").split("x")
        if len(sides) != 2 or not all(side.strip().isdecimal() and len(side.strip()) < 7 for side in sides):
            raise Refusal("", "Type a size such as 1920 × 1080.", text)
        try:
            size = {"pixels_wide": int(sides[0]), "pixels_high": int(sides[1])}
            output = FilmOutput.model_validate(shot.outputs[i].model_dump() | size)
        except ValidationError as error:
            raise Refusal("", allowed_of(error.errors()[0]), text) from None
        return with_output(compile_fitted(shot), i, output)

    def nudge(shot: Shot, _: Solution, steps: int) -> Shot:
        offered = offered_sizes(shot)
        at = offered.index(shown(shot)) if shown(shot) in offered else 0
        return read(shot, offered[(at + steps) % len(offered)])

    return Field("Size", lambda shot, _: shown(shot), read, nudge, lambda shot, _: offered_sizes(shot))


def _push_field(i: int) -> Field:
    """How fast an output is pushed in evenly, in percent a second, so that one cut goes on where another ends."""

    def put(shot: Shot, rate: float) -> Shot:
        program = compile_fitted(shot)
        return with_output(program, i, pushed(program, shot.outputs[i], rate))

    def now(shot: Shot) -> float | None:
        return push_per_s(shot.outputs[i])

    def show(shot: Shot, _: Solution) -> str:
        rate = now(shot)
        return NOTHING if rate is None else f"{decimals(rate * 100, 2)} %"

    def read(shot: Shot, text: str) -> Shot:
        try:
            rate = float(exact(text.replace("−", "-").replace("%", "").strip())) / 100
        except ValueError:
            raise Refusal("", "Type how much it changes a second, such as 3 % or −1.5 %.", text) from None
        return put(shot, rate)

    return Field("Push", show, read, lambda shot, _, n: put(shot, round((now(shot) or 0.0) + n * 0.001, 5)))


def offered_sizes(shot: Shot) -> tuple[str, ...]:
    """The usual sizes that the picture of a shot holds."""
    body = shot.body
    held = tuple(name for name, (w, h) in _SIZES.items() if w <= body.pixels_wide and h <= body.pixels_high)
    return held or (f"{body.pixels_wide // 2 * 2} × {body.pixels_high // 2 * 2}",)
