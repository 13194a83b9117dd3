"""The kinds of gear there are. A new one is registered here and nowhere else."""

from typing import Annotated, get_args

from pydantic import Field

from revani.core.documents.base import Gear, Record
from revani.core.documents.gear import Body, Card, Filter, Lens
from revani.core.documents.mover import Mover
from revani.core.documents.place import Place
from revani.core.documents.rigging import SmallPart, Support
from revani.core.documents.supply import Load, Source

AnyGear = Annotated[
    Body | Lens | Card | Mover | Filter | Support | Source | Load | SmallPart, Field(discriminator="kind")
]

GEAR: dict[str, type[Gear]] = {kind.model_fields["kind"].default: kind for kind in get_args(get_args(AnyGear)[0])}
RECORDS: dict[str, type[Record]] = {**GEAR, "place": Place}
