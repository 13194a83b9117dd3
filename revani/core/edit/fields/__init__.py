"""The values of a shot that can be edited, by name."""

from revani.core.documents import Shot
from revani.core.edit.fields.derived import derivable
from revani.core.edit.fields.field import Field
from revani.core.edit.fields.lightfields import LIGHT_FIELDS, wish_field
from revani.core.edit.fields.movefields import MOVE_FIELDS, move_field
from revani.core.edit.fields.timefields import TIME_FIELDS

FIELDS: dict[str, Field] = derivable() | TIME_FIELDS | LIGHT_FIELDS | MOVE_FIELDS


def field_of(name: str, shot: Shot) -> Field | None:
    """How a value of a shot is edited; None where it has none of that name."""
    index = name.removeprefix("light.keys.")
    if name.startswith("light.keys.") and index.isdecimal() and int(index) < len(shot.light.keys):
        return wish_field(int(index))
    return move_field(name, shot) or FIELDS.get(name)
