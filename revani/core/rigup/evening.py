"""The evening of a shot: when to pack, to leave, to set up, to arm, when it begins, when it is fetched."""

from typing import NamedTuple

from revani.core.program.compiled import Program
from revani.core.quantities.units import count, duration
from revani.core.rigup.packing import packing

# Packing takes so long, and is done so long before one leaves (common practice, no source).
_PACK_S, _PACKED_BEFORE_S = 1_800.0, 3_600.0
# Armed so long before its first frame a run can still be looked at.
_ARM_S = 600.0


class Due(NamedTuple):
    """Something that is due: from when to when (seconds since 1970 UTC), why, and how long before it one is told."""

    what: str
    from_s: float
    to_s: float
    told: str
    alarm_s: float


def evening(program: Program, set_up_s: float, way_s: float) -> tuple[Due, ...]:
    """What is due for a shot, in order, with so long to set it up and so long a way to its place."""
    shot, start, end = program.shot, program.start_s, program.end_s
    set_up = start - _ARM_S - set_up_s
    leave = set_up - way_s
    bring = "; ".join(f"{one.what} {one.thing}" for one in packing([program]).rows)
    frames = "one film" if shot.makes_film or shot.live else count(program.frame_count, "frame")
    found = [
        Due(f"Pack for {shot.name}", leave - _PACKED_BEFORE_S, leave - _PACKED_BEFORE_S + _PACK_S, bring, 0.0),
        Due(f"Leave for {shot.place.name}", leave, set_up, f"{shot.name}: {duration(round(way_s))} of way", 600.0),
        Due(f"Set up {shot.name}", set_up, start - _ARM_S, "", 300.0),
        Due(f"Arm {shot.name}", start - _ARM_S, start, f"It begins at {program.local(start):%H:%M:%S}.", 300.0),
        Due(f"{shot.name} runs", start, end, f"{frames}, {duration(round(end - start))}.", 0.0),
        Due(f"Fetch {shot.name}", end, end + set_up_s / 2, "Stop, file closed, power down, unplug.", 600.0),
    ]
    return tuple(found if way_s else [one for one in found if not one.what.startswith("Leave for")])
