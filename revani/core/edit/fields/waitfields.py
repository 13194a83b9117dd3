"""The values of what a shot waits for."""

from fractions import Fraction

from pydantic import ValidationError

from revani.core.documents import Shot, Waiting
from revani.core.edit.fields.derived import label_of
from revani.core.edit.fields.field import Field
from revani.core.quantities.refusal import Refusal
from revani.core.quantities.units import duration, parse_duration
from revani.core.timing.trigger_words import parse_ways, show_ways

_AT_ONCE = "at its start"
_STEPS: dict[str, int] = {"for_s": 600, "lead_in_s": 5, "together_s": 5, "dead_s": 10}


def _read(shot: Shot, text: str) -> Shot:
    if text.strip().lower() in ("", "nothing", "none", "at once", _AT_ONCE):
        return shot.model_copy(update={"waits": None})
    ways = parse_ways(text)
    waits = Waiting(ways=ways) if shot.waits is None else shot.waits.model_copy(update={"ways": ways})
    return shot.model_copy(update={"waits": waits})


def _length(name: str) -> Field:
    """A length of time of the wait."""

    def put(shot: Shot, seconds: Fraction | float) -> Shot:
        try:
            return shot.with_waits(**{name: float(seconds)})
        except ValidationError as error:
            bound = error.errors()[0].get("ctx", {})
            most = bound.get("le")
            allowed = f"At most {duration(most)}." if most is not None else "More than nothing."
            raise Refusal("", allowed, float(seconds)) from None

    def now(shot: Shot) -> float:
        return float(getattr(shot.waits, name))

    return Field(
        label_of(f"waits.{name}") or name,
        lambda shot, _: duration(now(shot)),
        lambda shot, text: put(shot, parse_duration(text)),
        lambda shot, _, n: put(shot, max(now(shot) + n * _STEPS[name], 0.0 if name != "for_s" else _STEPS[name])),
    )


WAITS_FIELD: dict[str, Field] = {
    "waits": Field(
        "Begins",
        lambda shot, _: f"when {show_ways(shot.waits.ways)}" if shot.waits else _AT_ONCE,
        _read,
        lambda shot, _, __: shot,
        (),
    )
}
WAIT_FIELDS: dict[str, Field] = {f"waits.{name}": _length(name) for name in _STEPS}
