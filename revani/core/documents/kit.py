"""The gear of one shot."""

from typing import Annotated, Self
from uuid import UUID

from pydantic import Field, model_validator

from revani.core.documents.base import Document, Gear
from revani.core.documents.gear import Body, Card, Filter, Lens
from revani.core.documents.mover import AXES, Axis, AxisName, Mover
from revani.core.documents.rigging import SmallPart, Support
from revani.core.documents.supply import Load, Source
from revani.core.quantities.measures import Weight

# What comes along beside camera and movers.
Extra = Annotated[Support | Source | Load | SmallPart, Field(discriminator="kind")]


class Wire(Document):
    """What feeds, or fires, what: from a source or a controller, through cables and adapters in their order."""

    source: UUID
    to: UUID
    by: tuple[UUID, ...] = Field((), max_length=4)


class Kit(Document):
    """The gear of one shot. `movers` stand on each other, from the ground up; the body on the last."""

    body: Body
    lens: Lens
    card: Card
    filters: tuple[Filter, ...] = Field((), max_length=8, description="Filters that are carried.")
    movers: tuple[Mover, ...] = Field((), max_length=5)
    extras: tuple[Extra, ...] = Field((), max_length=40, description="Supports, power, what draws on it, small parts.")
    wires: tuple[Wire, ...] = Field((), max_length=40, description="What feeds what; one and the same thing only once.")
    carries_at_most_kg: Weight | None = Field(
        None, title="Load to carry at most", gt=0, le=500, description="What one carries to a shot, and no more."
    )

    @model_validator(mode="after")
    def _once_each(self) -> Self:
        ids = [piece.id for piece in self.pieces]
        if len(set(ids)) < len(ids):
            raise ValueError("Each piece of gear can be carried only once.")
        names = [axis.name for mover in self.movers for axis in mover.axes]
        if len(set(names)) < len(names):
            raise ValueError("Two movers of this kit have the same axis: leave one of them at home.")
        return self

    @model_validator(mode="after")
    def _wired(self) -> Self:
        sources = {one.id: one for one in self.extras if isinstance(one, Source)}
        controllers = {one.id for one in self.loads if one.is_a == "controller"}
        parts = {one.id for one in self.parts}
        seen: set[tuple[UUID, UUID]] = set()
        changed: set[UUID] = set()
        for row, wire in enumerate(self.wires):
            at = f"Wire {row + 1}: "
            if wire.source not in sources and wire.source not in controllers:
                raise ValueError(f"{at}it must come from power or a controller of this kit.")
            if wire.to == wire.source or wire.to not in {one.id for one in self.fed}:
                raise ValueError(f"{at}it must lead to the body, a mover or what draws energy in this kit.")
            if wire.source in controllers and wire.to != self.body.id:
                raise ValueError(f"{at}a controller fires the body.")
            if not set(wire.by) <= parts:
                raise ValueError(f"{at}its cables must come along.")
            if (wire.source, wire.to) in seen:
                raise ValueError(f"{at}it is there already.")
            if wire.source in sources and sources[wire.source].cells and wire.source in changed:
                raise ValueError(f"{at}cells fit one thing alone.")
            seen.add((wire.source, wire.to))
            changed.add(wire.source)
        used = [one for wire in self.wires for one in wire.by]
        if len(set(used)) < len(used):
            raise ValueError("A cable leads to one thing at a time.")
        return self

    @property
    def axes(self) -> dict[AxisName, Axis]:
        """All axes of the rig by name, in their usual order."""
        found = {axis.name: axis for mover in self.movers for axis in mover.axes}
        return {name: found[name] for name in AXES if name in found}

    @property
    def pieces(self) -> tuple[Gear, ...]:
        """All gear of the shot."""
        return (self.body, self.lens, self.card, *self.filters, *self.movers, *self.extras)

    @property
    def sources(self) -> tuple[Source, ...]:
        """What gives energy."""
        return tuple(one for one in self.extras if isinstance(one, Source))

    @property
    def loads(self) -> tuple[Load, ...]:
        """What draws energy beside body and movers."""
        return tuple(one for one in self.extras if isinstance(one, Load))

    @property
    def parts(self) -> tuple[SmallPart, ...]:
        """Cables, adapters, chargers and the like."""
        return tuple(one for one in self.extras if isinstance(one, SmallPart))

    @property
    def supports(self) -> tuple[Support, ...]:
        """What it all stands on or is carried by."""
        return tuple(one for one in self.extras if isinstance(one, Support))

    @property
    def fed(self) -> tuple[Body | Mover | Load, ...]:
        """All that draws energy, the body first."""
        return (self.body, *self.movers, *self.loads)

    def feeding(self, id: UUID) -> tuple[Source, ...]:
        """The sources that are wired to a piece of gear, in the order in which they are used up."""
        sources = {one.id: one for one in self.sources}
        return tuple(sources[wire.source] for wire in self.wires if wire.to == id and wire.source in sources)

    def without_loose_wires(self) -> Self:
        """The same kit without the wires whose ends stayed at home. It is not validated."""
        ids = {one.id for one in self.pieces}
        kept = tuple(wire for wire in self.wires if {wire.source, wire.to, *wire.by} <= ids)
        return self.model_copy(update={"wires": kept})

    @property
    def weight_kg(self) -> float:
        """What all of it weighs together; cards and filters weigh nothing that one would notice."""
        return sum(weight_of_kg(one) for one in self.pieces)


def weight_of_kg(piece: Gear) -> float:
    """What a piece of gear weighs, all of it."""
    each: float = getattr(piece, "weight_kg", 0.0)
    return each * piece.count if isinstance(piece, Source) else each
