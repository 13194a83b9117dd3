"""What gear can do, as the runner sees it; drivers implement these."""

from collections.abc import Iterator
from contextlib import AbstractContextManager
from typing import Literal, Protocol

from pydantic import BaseModel, ConfigDict, Field

from revani.core.documents import Cloud, Framing, Kit, Place
from revani.core.metering import Mode
from revani.rig.stage import StageClock


class Message(BaseModel):
    """What goes over a link."""

    model_config = ConfigDict(frozen=True, extra="forbid", allow_inf_nan=False)


class Scene(Message):
    """Where a simulated camera stands and what it is; a real one is told nothing of it.

    `label` names the occasion: the same label again finds battery and card as they were left.
    """

    label: str
    kit: Kit
    place: Place
    framing: Framing
    cloud: Cloud
    scene_offset_stops: float
    clock: StageClock
    nd_stops: float = 0.0
    nd_off_s: float | None = None


class CameraSettings(Message):
    """How the next frame is to be taken, or how it was.

    In an automatic mode `aperture` is where the body begins and `iso` the floor of its ISO; it
    chooses from there to `iso_ceiling`, and no shutter that its own interval timer, set to
    `interval_s`, leaves no room for.
    """

    shutter_s: float
    aperture: float
    iso: float
    white_balance_k: int
    automatic_white_balance: bool = False
    mode: Literal["manual"] | Mode = "manual"
    iso_ceiling: float | None = None
    compensation_stops: float = 0.0
    interval_s: float | None = None


class CameraStatus(Message):
    """What a camera says of itself. `clock_s` is its own clock, seconds since 1970 UTC."""

    name: str
    state: Literal["ready", "exposing", "storing", "empty battery"]
    battery_left: float
    card_free_bytes: int
    frames: int
    buffered: int
    clock_s: float
    clock_ahead_s: float
    newest: str | None


class Captured(Message):
    """A frame that is safely on the card. Times are stage time, seconds since 1970 UTC."""

    number: int
    file: str
    size_bytes: int
    sha256: str
    opened_s: float
    closed_s: float
    settings: CameraSettings
    battery_left: float
    card_free_bytes: int


class Fault(Message):
    """A fault that a simulated camera is to show.

    `hang` does not answer for `seconds` (real ones), `slow` answers that much later, `refuse` says no,
    `drop` cuts the connection after the frame was taken; each for the next `count` captures.
    `full card` and `empty battery` last until they are cleared.
    """

    kind: Literal["hang", "slow", "refuse", "drop", "full card", "empty battery"]
    count: int = Field(1, ge=1, le=100_000)
    seconds: float = Field(1.0, ge=0, le=60)


Trouble = Literal["unreachable", "refused", "busy", "full card", "empty battery"]


class CameraError(Exception):
    """A camera that did not do what it was asked; `trouble` says why."""

    def __init__(self, trouble: Trouble, message: str) -> None:
        super().__init__(message)
        self.trouble = trouble


class Camera(Protocol):
    """A camera that can be fired. Every method may raise CameraError."""

    def status(self) -> CameraStatus:
        """Battery, card, state."""

    def stand(self, scene: Scene) -> None:
        """Put a simulated camera before a scene; a real one ignores this."""

    def apply(self, settings: CameraSettings) -> None:
        """Set up the next frame."""

    def capture(self, number: int, patience_s: float) -> Captured:
        """Open the shutter now, and return when the frame is stored; give up after `patience_s` real seconds."""

    def taken(self, number: int) -> Captured | None:
        """The frame of this number, if this scene has one; None where it has not."""

    def live(self) -> bytes:
        """What stands before the camera now, as a JPEG; takes no frame."""

    def fetch(self, file: str) -> AbstractContextManager[Iterator[bytes]]:
        """The bytes of a stored file, in pieces."""
