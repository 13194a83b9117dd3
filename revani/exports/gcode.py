"""A move as G-code: ISO 6983 / RS-274 words, linear axes in mm, rotary axes in degrees.

Slide is X, lift Z, pan A, tilt B, roll C, zoom U, focus V (its own scale). A line a sample in feed
per minute; `G4 P` dwells in seconds. Shoot–move–settle waits for the controller (`M0`) at each frame.
"""

import numpy as np

from revani.core.gcode import LETTERS, word
from revani.core.moves import driven_units
from revani.core.program import Program
from revani.core.refusal import Refusal

_MOST_LINES = 2_000
_STILL = 1e-6
_FEED_DIGITS = 9


def move_gcode(program: Program) -> str:
    """The move of a program as G-code. Raises Refusal("move") where nothing moves."""
    motion = program.motion
    if motion is None:
        raise Refusal("move", "This shot has no move to write out.")
    event_s = float(program.timing.event_s)
    knots = motion.path.knots
    stepwise = motion.path.move.kind == "stepwise"
    if stepwise:
        at = program.t_s
    else:
        inner = np.linspace(0, event_s, min(_MOST_LINES, max(200, program.frame_count)))
        at = np.union1d(inner, np.clip(np.concatenate([knots.arrives_s, knots.leaves_s]), 0, event_s))
    # Feeds are worked out from positions as they are written, so that the times come out.
    columns = {
        name: np.round(driven_units(program.shot.kit, name, values), 4)
        for name, values in (motion.positions if stepwise else motion.at(at)).items()
    }

    def target(i: int) -> str:
        return " ".join(word(LETTERS[name], float(values[i])) for name, values in columns.items())

    lines = [f"({program.shot.name.translate({40: None, 41: None})})", "G21 G90 G94", "G28", f"G0 {target(0)}"]
    for i in range(1, at.size):
        if stepwise:
            lines += ["M0 (frame)", f"G0 {target(i)}"]
            continue
        dt = float(at[i] - at[i - 1])
        way = float(np.sqrt(sum((values[i] - values[i - 1]) ** 2 for values in columns.values())))
        if way < _STILL:
            lines.append(word("G4 P", dt))
        else:
            lines.append(f"G1 {target(i)} {word('F', way / dt * 60, _FEED_DIGITS)}")
    return "\n".join([*lines, "M2", ""])
