"""A run's journal, frame by frame, for reading."""

from pydantic import BaseModel

from revani.core.documents import driven_measure
from revani.core.documents.run import JournalFrame, RigNote, Run, Taken, Turn
from revani.core.light.dials import marked_aperture, marked_iso, show_shutter
from revani.core.program.compiled import Program
from revani.core.quantities.units import duration, gigabytes, stops
from revani.core.watch.settings import planned_for


class FrameView(BaseModel):
    """One journal entry for reading."""

    number: int
    clock: str
    outcome: str
    reason: str
    settings: str
    planned: str
    late_s: float | None
    size: str
    rig: str


class BeforeView(BaseModel):
    """A picture that the camera saw before a run that waited began."""

    number: int
    told: str


def before_view(number: int, ago_s: float) -> BeforeView:
    """Its number in order, and how long before it came that was."""
    return BeforeView(number=number, told="as it came" if ago_s < 0.05 else f"{duration(round(ago_s, 1))} before")


def set_up_for(run: Run, frame: JournalFrame) -> bool:
    """Whether a frame is the first of a run that was started at once: it comes when the camera is set up."""
    return frame.number == 1 and run.shot["start"]["by"] == "instant"


def settings_told(taken: Taken | None) -> str:
    """Shutter, aperture and ISO in words; nothing where they are not known."""
    if taken is None:
        return ""
    return f"{show_shutter(taken.shutter_s)} · f/{marked_aperture(taken.aperture):g} · ISO {marked_iso(taken.iso)}"


def rig_text(rig: RigNote | Turn | None) -> str:
    """Where the axes were, and how far off that was: `slide 1,000.1 mm (0.07 mm off)`."""
    if rig is None:
        return ""
    return ", ".join(
        f"{name} {measure.show(value, 1)} ({measure.show(value - rig.planned[name])} off)"
        for name, value in rig.reached.items()
        if name in rig.planned and (measure := driven_measure(name))
    )


def frame_view(run: Run, program: Program, frame: JournalFrame) -> FrameView:
    """A journal entry, planned beside actual."""
    set_up = set_up_for(run, frame)
    at = frame.number - 1
    planned = planned_for(program, frame.number)
    return FrameView(
        number=frame.number,
        clock=f"{program.local(frame.fired_s or frame.planned_s):%H:%M:%S}",
        outcome=frame.outcome,
        reason=frame.reason,
        settings=settings_told(frame.settings),
        planned=f"{settings_told(planned)} · {stops(float(program.exposures.error_stops[at]))}",
        late_s=None if frame.fired_s is None or set_up else round(frame.fired_s - frame.planned_s, 3),
        size=gigabytes(frame.size_bytes) if frame.size_bytes else "",
        rig=rig_text(frame.rig),
    )
