"""A move written as G-code, read by an interpreter of its own and held against the plan."""

import re

import numpy as np
import pytest

from revani.core.documents import Ease, Light, Shot
from revani.core.documents.timing import Timing
from revani.core.move.path import driven_units
from revani.core.program.compiled import Program, compile_shot
from revani.core.quantities.refusal import Refusal
from revani.exports.gcode import move_gcode
from tests.core.moving import KILN, axis, key, pass_, rig, shot_of

# A block of ISO 6983: comments, and words of a letter and a number.
_BLOCK = re.compile(r"(\([^()]*\)\s*)*([A-Z][+-]?\d+(\.\d+)?(\s+|$|(?=\()))*(\([^()]*\)\s*)?")
AXES = {"X": "slide", "Z": "lift", "A": "pan", "B": "tilt", "C": "roll", "U": "zoom", "V": "focus"}


class Machine:
    """Runs a file as RS-274 says: modal feed mode, straight pieces, dwells; notes where it was when."""

    def __init__(self, text: str) -> None:
        self.place: dict[str, float] = {}
        self.at, self.inverse, self.pauses = 0.0, False, 0
        self.track: list[tuple[float, dict[str, float]]] = []
        for line in text.splitlines():
            assert _BLOCK.fullmatch(line), line
            self.block(re.findall(r"([A-Z])([+-]?[\d.]+)", re.sub(r"\([^)]*\)", "", line)))

    def block(self, words: list[tuple[str, str]]) -> None:
        codes = [float(number) for letter, number in words if letter == "G"]
        values = {letter: float(number) for letter, number in words if letter not in "GM"}
        self.inverse = (self.inverse or 93 in codes) and 94 not in codes
        target = {letter: value for letter, value in values.items() if letter in AXES}
        if 4 in codes:
            self.at += values["P"]
        elif 1 in codes:
            way = float(np.sqrt(sum((target[one] - self.place[one]) ** 2 for one in target)))
            self.at += 60 / values["F"] if self.inverse else way / values["F"] * 60
        self.pauses += ("M", "0") in words
        self.place |= target
        if target or 4 in codes:
            self.track.append((self.at, dict(self.place)))

    def positions(self, letter: str, at_s: np.ndarray) -> np.ndarray:  # type: ignore[type-arg]
        return np.interp(at_s, [at for at, _ in self.track], [place[letter] for _, place in self.track])


def farthest_off(program: Program, machine: Machine) -> dict[str, float]:
    """By how many of its steps each axis is off at worst, looked at between the pieces, too."""
    assert program.motion
    rng = np.random.default_rng(7)
    at = np.sort(np.concatenate([rng.uniform(0, program.motion.event_s, 40_000), [t for t, _ in machine.track]]))
    at = np.clip(at, 0, program.motion.event_s * (1 - 1e-12))
    meant = program.motion.at(at)
    return {
        name: float(np.abs(machine.positions(letter, at) - driven_units(program.shot.kit, name, meant[name])).max())
        / program.shot.kit.axes[name].step  # type: ignore[index]
        for letter, name in AXES.items()
        if name in meant
    }


HOURS = 3600
MOVES: dict[str, Shot] = {
    "holds": shot_of(key(0, slide=100, pan=-20), key(9000, 2000, slide=700, pan=15), key(18_000, slide=300, pan=0)),
    "smooth": shot_of(key(600, slide=0, lift=0), key(5000, slide=700, lift=300), key(17_000, slide=300, lift=100),
                      path="smooth", axes=("slide", "lift")),
    "locked aim": pass_(things=[KILN.model_dump()], aim={"thing": "Kiln", "across": 0.3}),
    "a pass of 20 s in 10 h": shot_of(
        key(0, slide=0, ease=Ease(kind="linear", s=2)), key(20, slide=1000, ease=Ease(kind="linear", s=2)),
        timing=Timing(fps=30, interval_s=30, event_s=10 * HOURS)),
    "back and forth": shot_of(key(30, slide=0), key(50, 4, slide=1000), repeat="ping-pong",
                              kit=rig(axis("slide", step=0.05)),
                              timing=Timing(fps=30, interval_s=30, event_s=4 * HOURS)),
    "round and round": shot_of(key(0, pan=0), key(40, pan=90), key(60, 2, pan=0), repeat="loop",
                               timing=Timing(fps=30, interval_s=30, event_s=1 * HOURS)),
    "zoom and focus": shot_of(key(0, zoom=24, focus=0.6), key(9000, zoom=70, focus=8), axes=("zoom", "focus")),
}  # fmt: skip


@pytest.mark.parametrize("name", list(MOVES))
def test_a_move_written_out_is_nowhere_more_than_a_step_from_the_plan(name: str) -> None:
    program = compile_shot(MOVES[name])
    machine = Machine(move_gcode(program))
    off = farthest_off(program, machine)
    assert max(off.values()) <= 1, off
    assert machine.at == pytest.approx(float(program.timing.event_s), abs=1e-3)


def test_linear_and_rotary_axes_together_are_written_in_inverse_time_and_each_alone_by_feed() -> None:
    assert "\nG21 G90 G93\n" in move_gcode(compile_shot(MOVES["holds"]))
    assert "\nG21 G90 G94\n" in move_gcode(compile_shot(MOVES["smooth"]))
    assert "\nG21 G90 G94\n" in move_gcode(compile_shot(MOVES["round and round"]))


def test_a_stepwise_move_waits_once_for_every_frame() -> None:
    program = compile_shot(pass_(kind="stepwise", light=Light(aperture=2.8, shutter_s=5)))
    machine = Machine(move_gcode(program))
    assert machine.pauses == program.frame_count == 600
    assert program.motion
    assert [place["X"] for _, place in machine.track] == pytest.approx(program.motion.positions["slide"], abs=1e-3)


def test_what_is_too_long_to_write_is_refused_with_its_size() -> None:
    long = MOVES["back and forth"].model_copy(update={"timing": Timing(fps=30, interval_s=60, event_s=80 * HOURS)})
    with pytest.raises(Refusal, match=r"takes [\d,]+ lines; at most 400,000") as refusal:
        move_gcode(compile_shot(long))
    assert refusal.value.path == "move"
    jumps = MOVES["back and forth"].with_move(repeat="loop")
    with pytest.raises(Refusal) as refusal:
        move_gcode(compile_shot(jumps))
    assert refusal.value.path == "move.repeat"


@pytest.mark.parametrize(
    "name", ["Dusk\nG1 X1300 F99999", "Dusk\r\u2028G0 X9", "A) G1 X1300 (B", "x; M2", "Tür 7 %", "\t\n."]
)
def test_a_name_cannot_write_a_block(name: str) -> None:
    text = move_gcode(compile_shot(pass_(name=name)))
    first, second = text.splitlines()[:2]
    assert re.fullmatch(r"\([ -'*-~]*\)", first) and second.startswith("G21")
    assert "X1300" not in text.partition("\n")[2] and text.isascii()
