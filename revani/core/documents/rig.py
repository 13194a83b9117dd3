"""A rig: a camera and its movers that are driven together, where they are found, and whose runner drives them."""

from typing import Annotated, NamedTuple
from uuid import UUID

from pydantic import Field

from revani.core.documents.base import Document

# What a run is kept under: it never changes, whatever the rig is called later.
RigKey = Annotated[str, Field(pattern=r"^[^\x00-\x1f\x7f/]{1,60}$")]
Address = Annotated[str, Field(max_length=300, pattern=r"^[^\x00-\x20\x7f]*$")]
Word = Annotated[str, Field(max_length=80, pattern=r"^[^\x00-\x1f\x7f]*$")]

# Gear that is not there: played by a process of Revani's own, asked over HTTP or as a body on a network is.
SIMULATED, SIMULATED_BODY = "simulated:", "simulated:ptpip"
# What those that drive it go by: it changes only while nobody drives it.
LINK = ("camera", "mover", "runner", "serial", "mover_serial")


class RigSaid(Document):
    """What a person says of a rig.

    `body` and `movers` are gear that is kept, None or empty where nobody said; `camera` and `mover` are addresses that
    a driver knows, or simulated gear; `runner` names the machine beside the rig, empty for this one. `serial` is that
    of its camera, `mover_serial` that of its mover: another one that answers at the address is not fired, and moves
    nothing; empty for any.
    """

    name: Annotated[Word, Field(title="Name", min_length=1)]
    body: UUID | None = None
    movers: tuple[UUID, ...] = Field((), max_length=8)
    camera: Address = SIMULATED
    mover: Address = SIMULATED
    runner: Word = ""
    serial: Word = ""
    mover_serial: Word = ""


class Rig(RigSaid):
    """One rig: `ports` is the first of ten that simulated gear and a link listen at, 0 for those beside the page's."""

    key: RigKey
    ports: int = Field(0, ge=0, le=65_525)

    def link(self) -> tuple[str, ...]:
        """What those that drive it go by."""
        return tuple(getattr(self, name) for name in LINK)

    @property
    def simulated(self) -> bool:
        """Whether its camera is played, so that its stage's clock may go faster."""
        return self.camera.startswith(SIMULATED)


class KeptRig(NamedTuple):
    """A rig as it stands in the database."""

    rig: Rig
    version: int
    archived: bool
