"""What comes along to a shot, and what feeds what there."""

from typing import Any, Literal
from uuid import UUID

from pydantic import Field, ValidationError

from revani.core.documents import Document, Filter, Kit, Mover, Shot, Wire
from revani.core.documents.allowed import allowed_of
from revani.core.documents.kinds import AnyGear
from revani.core.quantities.refusal import Refusal


class CarryEdit(Document):
    """A piece of gear that comes along, or stays at home: body, lens and card change places with the one that was."""

    track: Literal["carry"] = "carry"
    piece: AnyGear
    take: bool = True


class WireEdit(Document):
    """Feeding a piece of gear from a source, or firing the body by a controller, through cables; or no longer."""

    track: Literal["wire"] = "wire"
    source: UUID
    to: UUID
    by: tuple[UUID, ...] = Field((), max_length=4)
    on: bool = True


def apply_carry(shot: Shot, edit: CarryEdit) -> Shot:
    """The shot with a piece of gear more, less or another. Raises Refusal("kit") for a kit that cannot be."""
    piece, kit = edit.piece, shot.kit
    many = "filters" if isinstance(piece, Filter) else "movers" if isinstance(piece, Mover) else "extras"
    if piece.kind in ("body", "lens", "card"):
        change: dict[str, Any] = {piece.kind: piece}
        # What fed the one feeds the other.
        old = getattr(kit, piece.kind).id
        wires = tuple(one.model_copy(update={"to": piece.id}) if one.to == old else one for one in kit.wires)
        change["wires"] = wires
    else:
        owned = getattr(kit, many)
        if edit.take and any(one.id == piece.id for one in owned):
            change = {many: tuple(piece if one.id == piece.id else one for one in owned)}
        else:
            rest = tuple(one for one in owned if one.id != piece.id)
            change = {many: (*rest, piece) if edit.take else rest}
    return _with(shot, kit.model_copy(update=change).without_loose_wires(), piece.name)


def apply_wire(shot: Shot, edit: WireEdit) -> Shot:
    """The shot with a wire more, less, or through other cables. Raises Refusal("kit.wires") where it cannot be."""
    kit = shot.kit
    same = [one.source == edit.source and one.to == edit.to for one in kit.wires]
    if not edit.on:
        left = tuple(one for one, is_it in zip(kit.wires, same, strict=True) if not is_it)
        return _with(shot, kit.model_copy(update={"wires": left}), "")
    wire = Wire(source=edit.source, to=edit.to, by=edit.by)
    wires = tuple(wire if is_it else one for one, is_it in zip(kit.wires, same, strict=True))
    return _with(shot, kit.model_copy(update={"wires": wires if any(same) else (*wires, wire)}), str(edit.source))


def _with(shot: Shot, kit: Kit, said: str) -> Shot:
    try:
        kit = Kit.model_validate(dict(kit))
    except ValidationError as error:
        raise Refusal("kit", allowed_of(error.errors()[0]), said) from None
    # What stays at home is not before the lens either.
    carried = {one.id for one in kit.filters}
    kept = tuple(one for one in shot.light.filters if one in carried)
    return shot.model_copy(update={"kit": kit, "light": shot.light.model_copy(update={"filters": kept})})
