"""What gear can do, as the runner sees it; drivers implement these."""

from collections.abc import Iterator
from contextlib import AbstractContextManager
from threading import Event
from typing import Annotated, Literal, Protocol

from pydantic import BaseModel, ConfigDict, Field

from revani.core.documents import Axis, AxisName, Cloud, Framing, Kit, Place, Projection, Thing
from revani.core.light.firmware import Mode
from revani.rig.stage import StageClock

# What gear says of itself is shown and stored: no control characters, and no novels.
Text = Annotated[str, Field(pattern=r"^[^\x00-\x1f\x7f]{0,200}$")]


FileName = Annotated[str, Field(pattern=r"^[A-Za-z0-9][A-Za-z0-9_./-]{0,199}$")]


class Message(BaseModel):
    """What goes over a link."""

    model_config = ConfigDict(frozen=True, extra="forbid", allow_inf_nan=False)


class Carriage(Message):
    """How a simulated camera is carried, and how unsteady the hands are that carry it.

    A row of `table` is seconds from the start, mm to the right and ahead, heading and tilt in degrees. Between its
    rows a camera that films goes evenly; `stands` says that stills are taken standing.
    """

    start_s: float
    table: tuple[tuple[float, float, float, float, float], ...]
    hand_deg: float
    roll_deg: float
    stands: bool


class Scene(Message):
    """Where a simulated camera stands and what it is; a real one is told nothing of it.

    `label` names the occasion: the same label again finds battery and card as they were left.
    `fence` is that of whoever sets it up: orders of one with a lower one are refused from then on.
    `sound_dbfs` is where the peaks of what is spoken before it lie; None where it records no sound.
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
    projection: Projection = "straight"
    things: tuple[Thing, ...] = ()
    carried: Carriage | None = None
    sound_dbfs: float | None = None
    fence: int = 0


class CameraSettings(Message):
    """How the next frame is to be taken, or how it was.

    In an automatic mode `aperture` is where the body begins and `iso` the floor of its ISO; it
    chooses from there to `iso_ceiling`, and no shutter that its own interval timer, set to
    `interval_s`, leaves no room for. `held_times` is how often the shutter's time is spent on a frame: with a dark
    frame after it, or with a bracket about it.
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
    held_times: float = 1.0


class CameraStatus(Message):
    """What a camera says of itself. `clock_s` is its own clock, seconds since 1970 UTC.

    `busy_with` is the number of the frame that it exposes or stores just now; `drive` and `white_balance_k` are what is
    dialled on it, where it says so (no white balance: an automatic one).
    """

    name: Text
    state: Literal["ready", "exposing", "storing", "empty battery", "off"]
    battery_left: float | None
    card_free_bytes: int | None
    frames: int
    buffered: int
    clock_s: float | None
    clock_ahead_s: float | None
    newest: Text | None
    busy_with: int | None = None
    drive: Text | None = None
    white_balance_k: int | None = None
    serial: Text = ""


class Captured(Message):
    """A frame that is safely on the card. Times are stage time, seconds since 1970 UTC.

    A body on a cable tells no `sha256` of what it has stored, and not always its battery and the room on its card.
    """

    number: int
    file: FileName
    size_bytes: Annotated[int, Field(ge=0)]
    sha256: Annotated[str, Field(pattern=r"^[0-9a-f]{64}$")] | None = None
    opened_s: float
    closed_s: float
    settings: CameraSettings
    battery_left: float | None = None
    card_free_bytes: int | None = None


class Fault(Message):
    """A fault that a simulated camera is to show.

    `hang` does not answer for `seconds` (real ones), `slow` answers that much later, `refuse` says no, `drop` cuts
    the connection after the frame was taken; each for the next `count` captures. `full card`, `empty battery`,
    `slow card` and `no sound` last until they are cleared. `garble` takes the frame and answers nonsense, as
    `nonsense` says, to the next `count` questions of whatever kind. `asleep` answers nobody for `seconds`. `other
    card` and `clock jump`, by `seconds`, happen once. `another camera` has another's number for `seconds`. `dies`
    lets the battery give out in the middle of the next frame: for `seconds` nobody answers, then there is another
    battery, and a damaged file. What is before the lens for `seconds` is no fault, but told like one: something
    `passes`, or a `card` with a `word` is held there.
    """

    kind: Literal[
        "hang", "slow", "refuse", "drop", "full card", "empty battery", "garble", "asleep", "slow card", "other card",
        "clock jump", "another camera", "dies", "no sound", "passes", "card",
    ]  # fmt: skip
    nonsense: Literal["not json", "wrong shape", "control characters", "endless", "trickle", "half"] = "not json"
    count: int = Field(1, ge=1, le=100_000)
    seconds: float = Field(1.0, ge=0, le=86_400)
    word: Text = ""


# `garbled`: it answered nonsense, so what it did is not known; `not set up`: it knows nothing of its scene (any more);
# `fenced`: somebody else has taken over; `another`: it is not the camera that was meant.
Trouble = Literal[
    "unreachable", "garbled", "refused", "busy", "not set up", "fenced", "another", "full card", "empty battery"
]


def printable(text: str) -> str:
    """What a device says, as one line that may be shown and stored: at most 200 characters, none of control."""
    return "".join(letter if letter.isprintable() else " " for letter in text)[:200].strip()


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

    def apply(self, settings: CameraSettings) -> CameraSettings:
        """Set up the next frame; how the camera stands then, which is the nearest that it can."""

    def capture(self, number: int, patience_s: float, pose: dict[AxisName, float] | None = None) -> Captured:
        """Open the shutter now, and return when the frame is stored; give up after `patience_s` real seconds.

        `pose` tells a simulated camera where the rig has carried it; a real one sees for itself.
        """

    def record(self, number: int, seconds: float, patience_s: float, poses: list[dict[str, float]]) -> Captured:
        """Film for so many seconds of stage time, or until `cut`; returns when the file is closed.

        `poses` tells a simulated camera the rig's way: dictionaries of `after_s` and axes.
        """

    def cut(self) -> None:
        """End what is being filmed; its file is closed first."""

    def taken(self, number: int) -> Captured | None:
        """The frame of this number, if this scene has one; None where it has not."""

    def on_card(self, label: str = "") -> list[Captured]:
        """All frames of this scene, or of the one that was called `label`, in order."""

    def live(self) -> bytes:
        """What stands before the camera now, as a JPEG; takes no frame."""

    def switch_off(self) -> None:
        """Switch the camera off; its file is closed by then."""

    def fetch(self, file: str) -> AbstractContextManager[Iterator[bytes]]:
        """The bytes of a stored file, in pieces."""

    def close(self) -> None:
        """Let the connection go."""
        ...


class Stored(Message):
    """A file on a body's card; `stamped_s` is its time by the body's own clock, where it has one."""

    file: FileName
    size_bytes: Annotated[int, Field(ge=0)]
    stamped_s: float | None = None


class BodySays(Message):
    """What a body says of itself; None is what it does not say."""

    name: Text
    battery_left: float | None = None
    card_free_bytes: int | None = None
    clock_s: float | None = None
    drive: Text | None = None
    serial: Text = ""


class Body(Protocol):
    """A body on a cable or a network, which knows no numbers of ours. Every method may raise CameraError.

    It has one link, and is used from one thread at a time; `rig.link` lets several have it. `serial` is its maker's
    number, as it said when the link was made last; empty where it says none.
    """

    serial: str

    def says(self) -> BodySays:
        """Model, battery, room on the card, clock, drive."""

    def dial(self, wanted: CameraSettings) -> CameraSettings:
        """Set its dials to the nearest that it lists; returns how they stand then."""

    def fire(self) -> Stored:
        """Take a frame, and return when it is on the card."""

    def took(self, file: str) -> dict[str, float]:
        """`shutter_s`, `aperture` and `iso` by a file's own word; what it does not say is not there."""

    def stored(self) -> list[Stored]:
        """Every file on its card."""

    def fetch(self, file: str) -> AbstractContextManager[Iterator[bytes]]:
        """The bytes of a stored file, in pieces."""

    def live(self) -> bytes:
        """What it sees now, as a JPEG, where it shows that over its link."""

    def switch_off(self) -> None:
        """Switch it off, where it can be from here."""

    def close(self) -> None:
        """Let the link go; it raises nothing."""
        ...


class Stage(Message):
    """Where a simulated mover stands and what its axes are; a real one is told nothing of it."""

    label: str
    axes: tuple[Axis, ...]
    clock: StageClock
    fence: int = 0


class MoverFault(Message):
    """A fault that a simulated mover is to show.

    `stall` stops an axis where it is, `lost step` shifts it by `steps`, both until mended; `refuse` says
    no to the next `count` moves, `slow` answers `seconds` (real ones) later until mended, `another` has another mover
    answer in its place until mended.
    """

    kind: Literal["stall", "lost step", "refuse", "slow", "another"]
    axis: AxisName | None = None
    count: int = Field(1, ge=1, le=100_000)
    steps: int = Field(1, ge=-10_000, le=10_000)
    seconds: float = Field(0.2, ge=0, le=60)


class Where(Message):
    """Where a mover's axes are at an instant of stage time; focus on the lens's own scale."""

    at_s: float
    positions: dict[AxisName, float]
    moving: bool
    queued: int
    stalled: list[AxisName]


# `restarted`: it had lost what it was told, and was told anew; what was queued is gone.
MoverTrouble = Literal["unreachable", "garbled", "refused", "stalled", "restarted", "fenced", "another"]


class MoverError(Exception):
    """A mover that did not do what it was asked."""

    def __init__(self, trouble: MoverTrouble, message: str) -> None:
        super().__init__(message)
        self.trouble = trouble


class Mover(Protocol):
    """A mover of several axes. Every method may raise MoverError; seconds are stage time unless said."""

    def stand(self, stage: Stage) -> None:
        """Put a simulated mover on its stage; a real one ignores this."""

    def go(self, positions: dict[AxisName, float]) -> None:
        """Go to positions as fast as the axes can; returns at once."""

    def rest(self, patience_s: float, halt: Event | None = None) -> None:
        """Return when everything stands still, or `halt` comes; give up after `patience_s` real seconds."""

    def queue(self, positions: dict[AxisName, float], seconds: float) -> bool:
        """Queue a straight way that takes so many seconds; False where the queue is full."""

    def hold(self) -> None:
        """Let what is queued from here on wait for `begin`."""

    def begin(self, at_s: float) -> None:
        """Begin what is queued at an instant."""

    def stop(self) -> None:
        """Stop at once."""

    def where(self) -> Where:
        """Where the axes are now."""

    def number(self) -> str:
        """Its maker's number; empty where it says none."""

    def close(self) -> None:
        """Let the link go; it raises nothing."""
