"""Whether a run is where another waits for it to be."""

from revani.core.documents.run import CLOCK_RIG, ENDED, Run
from revani.core.documents.trigger import RunReaches
from revani.core.program.compiled import Program
from revani.core.program.intervened import first_from


def is_reached(one: RunReaches, run: Run, program: Program, now_s: float) -> bool:
    """Whether a run that has begun has come to its end, to a key of its move or to a frame, as far as is known.

    `now_s` is the wall's clock: by that alone a run is known whose camera nobody is linked to.
    """
    if one.what in ("begins", "ends"):
        return one.what == "begins" or run.state in ENDED
    number = one.number if one.what == "frame" else key_frame(program, one.number)
    used = program.due_by(now_s) if run.rig == CLOCK_RIG else run.taken + run.missed
    return number is not None and used >= number


def key_frame(program: Program, key: int) -> int | None:
    """The first frame that is due at a key of the move or after it; None where there is no such key."""
    if program.motion is None or key > program.motion.path.knots.arrives_s.size:
        return None
    return first_from(program, float(program.motion.path.knots.arrives_s[key - 1]))
