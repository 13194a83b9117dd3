"""A run and its journal: what was ordered, where it stands, and what became of every frame."""

from collections.abc import Mapping
from datetime import datetime
from typing import Any, Literal, get_args
from uuid import UUID

from pydantic import BaseModel, ConfigDict

from revani.core.documents.mover import AxisName

# Armed runs wait for their time; one that nobody began in its time has missed its start.
EndState = Literal["finished", "stopped", "failed", "missed"]
RunState = Literal["armed", "running", "finished", "stopped", "failed", "missed"]
ENDED: tuple[EndState, ...] = get_args(EndState)


# A run that nobody is linked to has no rig: it is kept by the clock alone, and claims nothing of what is recorded.
CLOCK_RIG = "by the clock"


class Noted(BaseModel):
    """What all entries share: frozen; what an earlier version noted besides is passed over."""

    model_config = ConfigDict(frozen=True)


InterventionKind = Literal["pause", "resume", "skip a leg", "extend", "end early", "brighter", "nudge"]


class Intervention(Noted):
    """What a person changed while a run went on: what, by whom and when, and from which frame on it holds.

    `amount` is how many frames are added, the number of the last that is taken, stops brighter, or by how much the
    end of `axis` is moved, in its own unit. `from_number` is
    None until the runner has taken it up; what was taken before stays as it was. `refused` is why it could not be.
    """

    nth: int
    kind: InterventionKind
    amount: float = 0.0
    axis: AxisName | None = None
    by: str = ""
    at_s: float = 0.0
    from_number: int | None = None
    refused: str = ""


class Run(Noted):
    """A run as it stands; `shot` is what was armed, `clock` that of its stage.

    The shot never changes, but that one which waited is dated where it began: `begins_s`, None until then. `rig_name`
    is None where there is one rig alone.
    """

    id: UUID
    shot_id: UUID
    shot: dict[str, Any]
    rig: str
    state: RunState
    reason: str
    speed: float
    frame_count: int
    planned_start_s: float
    stop_wanted: bool
    runner: str | None
    clock: dict[str, Any] | None
    armed_at: datetime
    started_at: datetime | None
    ended_at: datetime | None
    overridden: tuple[str, ...]
    waits_for: str
    fence: int = 0
    notes: tuple[str, ...] = ()
    taken: int = 0
    missed: int = 0
    interventions: tuple[Intervention, ...] = ()
    begins_s: float | None = None
    rig_name: str | None = None


class Begun(Noted):
    """What a run had waited for came: what, when its first frame is due, and the plan from there."""

    told: str
    begins_s: float
    shot: dict[str, Any]
    frame_count: int
    end_s: float


class Taken(Noted):
    """The settings with which a frame was taken, as its file says."""

    shutter_s: float
    aperture: float
    iso: float
    white_balance_k: int | None = None
    mode: str = "manual"


class CameraSaid(Noted):
    """What the camera said of itself with a frame."""

    battery_left: float | None = None
    card_free_bytes: int | None = None


class Turn(Noted):
    """Where the rig was at a turning point of a filmed move; `planned` is the plan at the instant of the look."""

    at_s: float
    due_s: float
    planned: Mapping[AxisName, float]
    reached: Mapping[AxisName, float]


class RigNote(Noted):
    """Where the rig was asked to be for a frame and where it was, or how a filmed move turned."""

    at_s: float | None = None
    planned: Mapping[AxisName, float] = {}
    reached: Mapping[AxisName, float] = {}
    stalled: tuple[AxisName, ...] = ()
    turns: tuple[Turn, ...] = ()


class JournalFrame(Noted):
    """What became of one frame; times are stage time, seconds since 1970 UTC.

    `first_said` is the reason for which it had been noted as missed, where it turned up later.
    """

    number: int
    planned_s: float
    fired_s: float | None = None
    outcome: Literal["taken", "missed"]
    reason: str = ""
    file: str | None = None
    size_bytes: int | None = None
    sha256: str | None = None
    settings: Taken | None = None
    rig: RigNote | None = None
    camera: CameraSaid | None = None
    first_said: str = ""

    def is_file(self, size_bytes: int, sha256: str | None) -> bool:
        """Whether a file is what the camera stored: by its size, and by its SHA-256 where the camera told one."""
        return self.size_bytes == size_bytes and (self.sha256 is None or self.sha256 == sha256)


class Entry(Noted):
    """What a runner notes: that it is about to take a frame, what became of one, what it was told, or a remark.

    `begun` is that it waits no longer.
    """

    firing: int | None = None
    frame: JournalFrame | None = None
    note: str = ""
    told: Intervention | None = None
    begun: Begun | None = None


class RunnerSign(Noted):
    """The last sign of life of a rig's runner, and what its camera said by then."""

    rig: str
    runner: str
    age_s: float
    camera: dict[str, Any] | None = None
