"""What a simulated camera stands before, as a program has it."""

import numpy as np

from revani.core.light.filters import off_at_s, stack_stops
from revani.core.program.compiled import Program
from revani.rig.ports import Carriage, Scene
from revani.rig.stage import StageClock

# So many places of a walk are told to a simulated camera.
_STANDS = 600


def scene_of(program: Program, clock: StageClock, label: str, fence: int = 0) -> Scene:
    """What a simulated camera stands before, as the program has it."""
    shot = program.shot
    return Scene(
        label=label, kit=shot.kit.model_copy(update={"body": shot.body}), place=shot.place,
        framing=shot.framing, cloud=shot.light.cloud, projection=shot.recording.projection,
        scene_offset_stops=program.scene_offset_stops, clock=clock, nd_stops=stack_stops(shot),
        nd_off_s=off_at_s(shot, program.start_s), things=shot.things, fence=fence,
        carried=_carriage(program), sound_dbfs=shot.take.level_dbfs if shot.take.hears else None,
    )  # fmt: skip


def _carriage(program: Program) -> Carriage | None:
    """How a simulated camera is walked: its way, and the hands of who carries it; a sphere steadies itself."""
    carried = program.carried
    if carried is None:
        return None
    after = np.linspace(0.0, carried.event_s, _STANDS)
    pose = carried.pose(after)
    heading = np.unwrap(pose.heading_deg, period=360)
    rows = np.stack([after, pose.right_mm, pose.ahead_mm, heading, pose.tilt_deg], axis=1)
    steady = 0.0 if program.round else 1.0
    return Carriage(
        start_s=program.start_s, table=tuple(tuple(row) for row in rows.tolist()),
        hand_deg=steady * carried.walk.hand_deg, roll_deg=steady * carried.walk.roll_deg,
        stands=not carried.walk.filmed,
    )  # fmt: skip
