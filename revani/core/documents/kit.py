"""The gear of one shot."""

from typing import Self

from pydantic import Field, model_validator

from revani.core.documents.base import Document, Gear
from revani.core.documents.gear import Body, Card, Filter, Lens
from revani.core.documents.mover import AXES, Axis, AxisName, Mover


class Kit(Document):
    """The gear of one shot. `movers` stand on each other, from the ground up; the body on the last."""

    body: Body
    lens: Lens
    card: Card
    filters: tuple[Filter, ...] = Field((), max_length=8, description="Filters that are carried.")
    movers: tuple[Mover, ...] = Field((), max_length=5)

    @model_validator(mode="after")
    def _once_each(self) -> Self:
        ids = [piece.id for piece in self.pieces]
        if len(set(ids)) < len(ids):
            raise ValueError("Each piece of gear can be carried only once.")
        names = [axis.name for mover in self.movers for axis in mover.axes]
        if len(set(names)) < len(names):
            raise ValueError("Two movers of this kit have the same axis: leave one of them at home.")
        return self

    @property
    def axes(self) -> dict[AxisName, Axis]:
        """All axes of the rig by name, in their usual order."""
        found = {axis.name: axis for mover in self.movers for axis in mover.axes}
        return {name: found[name] for name in AXES if name in found}

    @property
    def pieces(self) -> tuple[Gear, ...]:
        """All gear of the shot."""
        return (self.body, self.lens, self.card, *self.filters, *self.movers)
