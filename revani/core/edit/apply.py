"""Every change that a person makes to a shot: one union, and one function that makes it."""

import time
from typing import cast, get_args

from pydantic import ValidationError

from revani.core.documents import Document, Shot
from revani.core.documents.allowed import allowed_of
from revani.core.documents.timing import QUANTITIES
from revani.core.documents.walk import WalkQuantity
from revani.core.edit.carrying import CarryEdit, WireEdit, apply_carry, apply_wire
from revani.core.edit.fields import FIELDS, field_of
from revani.core.edit.fitting import compile_fitted
from revani.core.edit.keys import MoveEdit, apply_move_edit
from revani.core.edit.outputs import OutputEdit, apply_output_edit
from revani.core.edit.walking import WalkEdit, apply_walk_edit
from revani.core.edit.walking import freed as freed_of_walk
from revani.core.edit.wishes import LightKeyEdit, apply_light_key
from revani.core.quantities.refusal import Refusal
from revani.core.timing.law import freed
from revani.core.timing.pace import solved as timing_of
from revani.core.timing.pace import stretch_of
from revani.core.timing.start import starting_at


class Edit(Document):
    """One change as a person makes it: a text typed, a nudge by steps, or a quantity freed with `=`."""

    field: str
    text: str | None = None
    nudge: int | None = None
    free: bool = False


def apply_edit(shot: Shot, edit: Edit) -> Shot:
    """The shot after an edit. Raises Refusal whose path is the field that was edited."""
    field = field_of(edit.field, shot)
    if field is None:
        raise Refusal(edit.field, f"One of {', '.join(FIELDS)} can be edited.")
    if sum((edit.text is not None, edit.nudge is not None, edit.free)) != 1:
        raise Refusal(edit.field, "Give just one of text, nudge and free.")
    if edit.text is not None and len(edit.text) > 80:
        raise Refusal(edit.field, "Type at most 80 characters.")
    if edit.nudge is not None and not -1000 <= edit.nudge <= 1000:
        raise Refusal(edit.field, "Nudge by at most 1,000 steps.")
    quantity = edit.field.removeprefix("timing.")
    try:
        if edit.free and edit.field.removeprefix("walk.") in get_args(WalkQuantity):
            return freed_of_walk(shot, cast(WalkQuantity, edit.field.removeprefix("walk.")))
        if edit.free:
            if quantity not in QUANTITIES:
                raise Refusal("", "Only a quantity of the timing can be freed.")
            until = None if quantity == "event_s" else shot.until
            timing = freed(shot.timing, quantity, stretch_of(shot))
            return shot.model_copy(update={"timing": timing, "until": until})
        if edit.text is not None:
            # `=` typed in front frees the quantity, as the key does.
            if edit.text.strip() == "=":
                return apply_edit(shot, Edit(field=edit.field, free=True))
            return field.read(shot, edit.text)
        # Step by step one comes to where no document may be.
        return Shot.model_validate_json(field.nudge(shot, timing_of(shot), edit.nudge or 0).model_dump_json())
    except Refusal as refusal:
        raise Refusal(edit.field, refusal.allowed, edit.text) from None
    except ValidationError as error:
        raise Refusal(edit.field, allowed_of(error.errors()[0]), edit.text) from None
    except (ValueError, OverflowError):
        raise Refusal(edit.field, "That is out of range.", edit.text) from None


# Choices that others hang on: what cannot be had with them is brought to the nearest that can, and told.
BRINGS_ALONG = ("fires", "mode", "keeps", "made", "move.kind")
ShotEdit = Edit | LightKeyEdit | MoveEdit | CarryEdit | WireEdit | WalkEdit | OutputEdit


def apply(shot: Shot, edit: ShotEdit) -> Shot:
    """The shot after an edit of any kind. Raises Refusal whose path is the field at fault."""
    if isinstance(edit, LightKeyEdit):
        return apply_light_key(shot, edit, float(timing_of(shot).event_s))
    if isinstance(edit, CarryEdit):
        return apply_carry(shot, edit)
    if isinstance(edit, WireEdit):
        return apply_wire(shot, edit)
    if isinstance(edit, WalkEdit):
        return apply_walk_edit(shot, edit)
    if isinstance(edit, OutputEdit):
        return apply_output_edit(compile_fitted(shot), edit)
    if isinstance(edit, MoveEdit):
        return apply_move_edit(compile_fitted(shot), edit)
    if edit.field == "start" and (edit.text or "").strip().lower() == "now":
        return starting_at(shot, time.time())
    return apply_edit(shot, edit)
