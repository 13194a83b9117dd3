"""The values of a shot that can be edited, by name."""

from revani.core.documents import Shot
from revani.core.edit.fields.derived import derivable
from revani.core.edit.fields.field import Field
from revani.core.edit.fields.kitfields import KIT_FIELDS
from revani.core.edit.fields.lightfields import LIGHT_FIELDS, wish_field
from revani.core.edit.fields.movefields import MOVE_FIELDS, move_field
from revani.core.edit.fields.outputfields import output_field
from revani.core.edit.fields.timefields import TIME_FIELDS
from revani.core.edit.fields.waitfields import WAITS_FIELD
from revani.core.edit.fields.walkfields import WALK_FIELDS, leg_field

_DERIVED = derivable()
# Those that any shot has; a walk has more.
FIELDS: dict[str, Field] = (
    {name: field for name, field in _DERIVED.items() if not name.startswith(("walk.", "waits."))}
    | TIME_FIELDS
    | LIGHT_FIELDS
    | MOVE_FIELDS
    | KIT_FIELDS
    | WAITS_FIELD
)
_OF_WAITS = {name: field for name, field in _DERIVED.items() if name.startswith("waits.")}
_OF_WALKS = {name: field for name, field in _DERIVED.items() if name.startswith("walk.")} | WALK_FIELDS


def fields_of(shot: Shot) -> dict[str, Field]:
    """The values of a shot that can be edited, by name; those of its keys, things and legs aside."""
    found = FIELDS | _OF_WALKS if shot.walk is not None else FIELDS
    return found | _OF_WAITS if shot.waits is not None else found


def field_of(name: str, shot: Shot) -> Field | None:
    """How a value of a shot is edited; None where it has none of that name."""
    index = name.removeprefix("light.keys.")
    if name.startswith("light.keys.") and index.isdecimal() and int(index) < len(shot.light.keys):
        return wish_field(int(index))
    if name.startswith("outputs."):
        return output_field(name, shot)
    return move_field(name, shot) or leg_field(name, shot) or fields_of(shot).get(name)
