"""A move as G-code: ISO 6983 / RS-274 words, linear axes in mm, rotary axes in degrees.

Slide is X, lift Z, pan A, tilt B, roll C, zoom U, focus V (its own scale). A line a sample in feed
per minute; `G4 P` dwells in seconds, `M0` waits for the controller.
"""

import numpy as np

from revani.core.gcode import LETTERS, word
from revani.core.moves import driven_units
from revani.core.program import Program
from revani.core.refusal import Refusal

_MOST_LINES = 2_000
_STILL = 1e-6


def move_gcode(program: Program) -> str:
    """The move of a program as G-code. Raises Refusal("move") where nothing moves."""
    motion = program.motion
    if motion is None:
        raise Refusal("move", "This shot has no move to write out.")
    event_s = float(program.timing.event_s)
    knots = motion.path.knots
    if motion.path.move.kind == "stepwise":
        at = program.t_s
    else:
        inner = np.linspace(0, event_s, min(_MOST_LINES, max(200, program.frame_count)))
        at = np.union1d(inner, np.clip(np.concatenate([knots.arrives_s, knots.leaves_s]), 0, event_s))
    columns = {name: driven_units(program.shot.kit, name, values) for name, values in motion.at(at).items()}
    lines = [f"({program.shot.name.translate({40: None, 41: None})})", "G21 G90 G94", "G28"]
    first = " ".join(word(LETTERS[name], float(values[0])) for name, values in columns.items())
    lines.append(f"G0 {first}")
    for i in range(1, at.size):
        dt = float(at[i] - at[i - 1])
        way = float(np.sqrt(sum((values[i] - values[i - 1]) ** 2 for values in columns.values())))
        if motion.path.move.kind == "stepwise":
            lines.append("M0 (frame)")
        if way < _STILL:
            lines.append(word("G4 P", dt))
            continue
        target = " ".join(word(LETTERS[name], float(values[i])) for name, values in columns.items())
        lines.append(f"G1 {target} {word('F', way / dt * 60)}")
    return "\n".join([*lines, "M2", ""])
