"""A move as G-code: ISO 6983 / RS-274 words, linear axes in mm, rotary axes in degrees.

Slide is X, lift Z, pan A, tilt B, roll C, zoom U, focus V (its own scale). A block a straight piece; in
feed per minute where linear axes move alone or rotary ones do, in inverse time (G93) where a feed would
be ambiguous. `G4 P` dwells in seconds. Shoot–move–settle waits for the controller (`M0`) at each frame.
"""

import numpy as np

from revani.core.move.gcode import LETTERS, word
from revani.core.move.path import driven_units
from revani.core.move.sampling import pieces_s
from revani.core.program.compiled import Program
from revani.core.quantities.refusal import Refusal

_FEED_DIGITS = 12
_MOST_OF_A_NAME = 60
_LINEAR, _ROTARY = {"slide", "lift"}, {"pan", "tilt", "roll"}


def move_gcode(program: Program) -> str:
    """The move of a program as G-code, nowhere further from it than `sampling.tolerance`.

    Raises Refusal("move") where nothing moves, and where it would be too long.
    """
    motion = program.motion
    if motion is None:
        raise Refusal("move", "This shot has no move to write out.")
    stepwise = motion.path.move.kind == "stepwise"
    at = program.t_s if stepwise else pieces_s(motion)
    # Feeds are worked out from positions as they are written, so that the times come out.
    columns = {
        name: np.round(driven_units(program.shot.kit, name, values), 4)
        for name, values in (motion.positions if stepwise else motion.at(at)).items()
    }
    names = set(columns)
    by_feed = names <= _LINEAR or names <= _ROTARY
    letters = [LETTERS[name] for name in columns]
    rows = np.stack(list(columns.values()), axis=1)

    def target(i: int) -> str:
        return " ".join(word(letter, float(value)) for letter, value in zip(letters, rows[i], strict=True))

    lines = [f"({_one_line(program.shot.name)})", f"G21 G90 {'G94' if by_feed else 'G93'}", "G28", f"G0 {target(0)}"]
    if stepwise:
        for i in range(at.size):
            lines += [*([f"G0 {target(i)}"] if i else []), f"M0 (frame {i + 1})"]
        return "\n".join([*lines, "M2", ""])
    ways, times = np.sqrt((np.diff(rows, axis=0) ** 2).sum(axis=1)), np.diff(at)
    for i, (way, dt) in enumerate(zip(ways.tolist(), times.tolist(), strict=True), start=1):
        if not way:
            lines.append(word("G4 P", dt, _FEED_DIGITS))
        else:
            feed = way / dt * 60 if by_feed else 60 / dt
            lines.append(f"G1 {target(i)} {word('F', feed, _FEED_DIGITS)}")
    return "\n".join([*lines, "M2", ""])


def _one_line(text: str) -> str:
    """A text that can stand in a comment: printable, of one line, without brackets."""
    plain = "".join(one if " " < one <= "~" and one not in "();%" else " " for one in text)
    return " ".join(plain.split())[:_MOST_OF_A_NAME]
