"""What of a shot's frames is lost to the eye: to black or white, and to blur."""

import numpy as np
from numpy.typing import NDArray

from revani.core.documents import Body
from revani.core.move.axes import shifts_px
from revani.core.program.compiled import Program
from revani.core.quantities.arrays import Array


def clipped(body: Body, error_stops: Array) -> NDArray[np.bool_]:
    """Which frames lose more than a body keeps, bright or dark, at errors (n,)."""
    return np.asarray((error_stops > body.clips_over_stops) | (error_stops < -body.clips_under_stops))


def blur_px(program: Program) -> dict[str, Array]:
    """How far each thing, and what is far away, moves in the picture while the shutter is open (n,), pixels.

    Nothing does where the rig stands for each frame.
    """
    motion = program.motion
    if motion is None or motion.path.move.kind != "continuous":
        return {}
    return shifts_px(motion, motion.frame_pose, motion.pose(program.t_s + program.exposures.shutter_s))
