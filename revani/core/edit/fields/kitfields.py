"""Values of a shot's kit that are typed where it is planned."""

from pydantic import ValidationError

from revani.core.documents import Kit, Shot
from revani.core.documents.allowed import allowed_of
from revani.core.edit.fields.derived import NOTHING
from revani.core.edit.fields.field import Field
from revani.core.quantities.measures import WEIGHT, chosen
from revani.core.quantities.refusal import Refusal

_STEP_KG = 1.0


def _with(shot: Shot, most_kg: float | None) -> Shot:
    try:
        kit = Kit.model_validate(dict(shot.kit) | {"carries_at_most_kg": most_kg})
    except ValidationError as error:
        raise Refusal("", allowed_of(error.errors()[0])) from None
    return shot.model_copy(update={"kit": kit})


def _show(shot: Shot) -> str:
    most = shot.kit.carries_at_most_kg
    return NOTHING if most is None else WEIGHT.show(most, 1)


def _read(shot: Shot, text: str) -> Shot:
    return _with(shot, None if text.strip() in ("", "-", NOTHING) else WEIGHT.read(text, chosen()))


def _nudge(shot: Shot, steps: int) -> Shot:
    now = shot.kit.carries_at_most_kg
    return _with(shot, max(round((shot.kit.weight_kg if now is None else now) + steps * _STEP_KG, 1), _STEP_KG))


KIT_FIELDS = {
    "kit.carries_at_most_kg": Field(
        str(Kit.model_fields["carries_at_most_kg"].title), lambda shot, _: _show(shot), _read,
        lambda shot, _, steps: _nudge(shot, steps),
    )
}  # fmt: skip
