"""A simulated mover: axes with limits, inertia, backlash and settling, moved by G-code on the stage clock.

It takes ISO 6983 words: G0 and G1 on X Z A B C U V, G4 P, G20 and G21, G28, G90 and G91, G93 and
G94 with F; M0 and M24 P (wait, and begin at an instant of stage time), M112 (stop at once), M114
(where it stands), M115 (its number), M400 (until it stands still). One line a block, `ok` or `error: …` in answer. A
line that begins with `%` sets the stage, which only a simulated mover needs.
"""

import json
import math
import re
from dataclasses import dataclass, field
from typing import Any

from revani.core.documents import Axis, AxisName
from revani.core.move.gcode import LETTERS
from revani.rig.ports import MoverFault, Stage
from revani.rig.stage import StageClock

AXIS_OF: dict[str, AxisName] = {letter: name for name, letter in LETTERS.items()}
_WORD = re.compile(r"([A-Z])\s*([+-]?\d*\.?\d+)")
MOST_QUEUED = 256
_RINGS_HZ = 6.0
_MM_PER_INCH = 25.4


class Refused(Exception):
    """A block that is not carried out; the text says why."""


@dataclass(frozen=True)
class Segment:
    """A straight way of all axes from one instant of stage time to another; `eased` starts and ends at rest."""

    begin_s: float
    end_s: float
    start: dict[AxisName, float]
    target: dict[AxisName, float]
    eased: bool

    def commanded(self, axis: AxisName, at_s: float) -> float:
        """Where an axis is meant to be."""
        span = self.end_s - self.begin_s
        part = 1.0 if span <= 0 else min(max((at_s - self.begin_s) / span, 0.0), 1.0)
        if self.eased:
            # Even acceleration over the first and the last third, which no limit is exceeded by.
            third = 1 / 3
            v = 1 / (1 - third)
            if part < third:
                part = v * part**2 / (2 * third)
            elif part > 1 - third:
                part = 1 - v * (1 - part) ** 2 / (2 * third)
            else:
                part = v * (part - third / 2)
        return self.start[axis] + (self.target[axis] - self.start[axis]) * part


@dataclass
class SimulatedMover:
    """The axes of one rig. Every answer depends on stage time alone, so nothing runs in between."""

    own_number: str = ""
    axes: dict[AxisName, Axis] = field(default_factory=dict)
    clock: StageClock = field(default_factory=StageClock.real)
    label: str = ""
    fence: int = 0
    fault: MoverFault | None = None
    _stage: Stage | None = None
    _segments: list[Segment] = field(default_factory=list)
    _at: dict[AxisName, float] = field(default_factory=dict)
    _play: dict[AxisName, float] = field(default_factory=dict)
    _lost: dict[AxisName, float] = field(default_factory=dict)
    _stalled: dict[AxisName, float] = field(default_factory=dict)
    _waits_from: float | None = None
    _relative: bool = False
    _inches: bool = False
    _inverse: bool = False
    _feed: float = 0.0

    @property
    def number(self) -> str:
        """Its maker's number; another's while it shows that fault."""
        return "SIM-OTHER" if self.fault and self.fault.kind == "another" else self.own_number

    def stand(self, stage: Stage) -> None:
        """Take a place on the stage; the same label again finds the axes where they were left."""
        if stage == self._stage:
            # The link was lost and made anew; what is queued goes on.
            return
        self._stage = stage
        if stage.label != self.label:
            self._at = {axis.name: min(max(0.0, axis.low), axis.high) for axis in stage.axes}
            self._play = {axis.name: 0.0 for axis in stage.axes}
            self._lost, self._stalled, self._segments = {}, {}, []
        else:
            self._settle_history()
        self._waits_from, self._feed = None, 0.0
        self.axes = {axis.name: axis for axis in stage.axes}
        self.clock, self.label = stage.clock, stage.label

    def set_stage(self, text: str) -> tuple[bool, int]:
        """A `%` line: a stage, or a fault to show (`null` mends it). Whether the stage is a new one, and its fence.

        Raises ValueError for what is neither, and Refused for the stage of one who has been taken over.
        """
        order = json.loads(text)
        if not isinstance(order, dict) or not order.keys() & {"stage", "fault"}:
            raise ValueError("a stage or a fault is wanted")
        new, fence = False, 0
        if "stage" in order:
            stage = Stage.model_validate(order["stage"])
            if stage.fence and stage.fence < self.fence:
                raise Refused("taken over by another runner")
            new, fence = stage.label != self.label, stage.fence
            self.fence = max(self.fence, fence)
            self.stand(stage)
        if "fault" in order:
            self.show(MoverFault.model_validate(order["fault"]) if order["fault"] else None)
        return new, fence

    def show(self, fault: MoverFault | None) -> None:
        """Show a fault from now on, or none."""
        self.fault = fault
        if fault is None:
            self._stalled = {}
        elif fault.kind == "stall" and fault.axis:
            self._stalled[fault.axis] = self.positions(self.clock.now_s())[fault.axis]
        elif fault.kind == "lost step" and fault.axis:
            self._lost[fault.axis] = self._lost.get(fault.axis, 0.0) + fault.steps * self.axes[fault.axis].step

    def block(self, line: str) -> tuple[str, float]:
        """Carry out one block: the answer, and the stage time before which it is not due (0: at once)."""
        clean = re.sub(r"\([^)]*\)", "", line).split(";")[0].strip().upper()
        if not clean:
            return "ok", 0.0
        words = [(letter, float(value)) for letter, value in _WORD.findall(clean)]
        if not words or _WORD.sub("", clean).strip():
            raise Refused("not a block of words")
        codes = {(letter, value) for letter, value in words if letter in "GM"}
        values = {letter: value for letter, value in words if letter not in "GM"}
        if unknown := sorted(values.keys() - AXIS_OF.keys() - set("FPN")):
            raise Refused(f"there is no axis {unknown[0]}")
        self._modes(codes, values)
        if ("M", 112.0) in codes:
            self._stop()
        elif ("M", 114.0) in codes:
            return self._report(), 0.0
        elif ("M", 115.0) in codes:
            return f"FIRMWARE_NAME:simulated UUID:{self.number}", 0.0
        elif ("M", 400.0) in codes:
            if self._stalled and self._segments:
                raise Refused(f"stalled: {', '.join(sorted(self._stalled))}")
            return "ok", self._rests_s()
        elif ("M", 0.0) in codes:
            if self._pending():
                raise Refused("still moving")
            self._forget()
            self._waits_from = math.inf
        elif ("M", 24.0) in codes:
            self._begin(values.get("P", self.clock.now_s()))
        elif ("G", 28.0) in codes:
            self._home()
        elif ("G", 4.0) in codes:
            self._append(dict(self._ends()), values.get("P", 0.0), eased=False)
        elif values.keys() & AXIS_OF.keys():
            self._go(("G", 0.0) in codes, values)
        return "ok", 0.0

    def _modes(self, codes: set[tuple[str, float]], values: dict[str, float]) -> None:
        for code, name, on in (
            (90.0, "_relative", False), (91.0, "_relative", True), (20.0, "_inches", True), (21.0, "_inches", False),
            (93.0, "_inverse", True), (94.0, "_inverse", False),
        ):  # fmt: skip
            if ("G", code) in codes:
                setattr(self, name, on)
        known = {0.0, 1.0, 4.0, 20.0, 21.0, 28.0, 90.0, 91.0, 93.0, 94.0}
        if unknown := {value for letter, value in codes if letter == "G" and value not in known}:
            raise Refused(f"G{min(unknown):g} is not known here")
        if "F" in values:
            self._feed = values["F"]

    def _go(self, rapid: bool, values: dict[str, float]) -> None:
        if self.fault and self.fault.kind == "refuse":
            self.fault = self.fault.model_copy(update={"count": self.fault.count - 1}) if self.fault.count > 1 else None
            raise Refused("the move is refused")
        if len(self._pending()) >= MOST_QUEUED:
            raise Refused("busy")
        start = self._ends()
        target = dict(start)
        for letter, value in values.items():
            name = AXIS_OF.get(letter)
            if name is None:
                continue
            if name not in self.axes:
                raise Refused(f"there is no axis {letter}")
            scaled = value * (_MM_PER_INCH if self._inches and name in ("slide", "lift", "zoom") else 1.0)
            target[name] = start[name] + scaled if self._relative else scaled
        for name, axis in self.axes.items():
            if not axis.low - 1e-6 <= target[name] <= axis.high + 1e-6:
                raise Refused(f"{LETTERS[name]} goes from {axis.low:g} to {axis.high:g}")
        least = max((self._least_s(name, target[name] - start[name]) for name in self.axes), default=0.0)
        if rapid:
            self._append(target, least, eased=True)
            return
        if self._feed <= 0:
            raise Refused("F is needed")
        way = math.sqrt(sum((target[name] - start[name]) ** 2 for name in self.axes))
        span = 60 / self._feed if self._inverse else way / self._feed * 60
        for name, axis in self.axes.items():
            if span and abs(target[name] - start[name]) / span > axis.speed * 1.01:
                raise Refused(f"{LETTERS[name]} does at most {axis.speed:g} a second")
        self._append(target, span, eased=False)

    def _least_s(self, name: AxisName, way: float) -> float:
        """The least time for a way from rest to rest with a third of it on either ramp."""
        axis, d = self.axes[name], abs(way)
        turned = axis.backlash if way * self._play.get(name, 0.0) < 0 else 0.0
        d += turned
        return max(1.5 * d / axis.speed, math.sqrt(4.5 * d / axis.acceleration)) if d else 0.0

    def _append(self, target: dict[AxisName, float], span_s: float, eased: bool) -> None:
        self._settle_history()
        begin = self._segments[-1].end_s if self._segments else self.clock.now_s()
        if self._waits_from is None:
            begin = max(begin, self.clock.now_s())
        elif not self._segments:
            begin = 0.0
        self._segments.append(Segment(begin, begin + span_s, self._ends(), target, eased))

    def _begin(self, at_s: float) -> None:
        """Begin what is queued at an instant."""
        if self._segments:
            shift = at_s - self._segments[0].begin_s
            self._segments = [
                Segment(one.begin_s + shift, one.end_s + shift, one.start, one.target, one.eased)
                for one in self._segments
            ]
        self._waits_from = None

    def _home(self) -> None:
        self._append({name: min(max(0.0, axis.low), axis.high) for name, axis in self.axes.items()}, 1.0, eased=True)
        self._lost = {}

    def _stop(self) -> None:
        now = self.clock.now_s()
        self._at = self._commanded(now)
        self._segments = []

    def _ends(self) -> dict[AxisName, float]:
        """Where the axes will stand when all that is queued is done."""
        return dict(self._segments[-1].target) if self._segments else dict(self._at)

    def _pending(self) -> list[Segment]:
        now = self.clock.now_s()
        if self._waits_from is not None:
            return self._segments
        return [one for one in self._segments if one.end_s > now]

    def _rests_s(self) -> float:
        """When the rig stands still, settling included."""
        if not self._segments:
            return 0.0
        last = self._segments[-1]
        settling = [
            axis.settle_s for name, axis in self.axes.items() if abs(last.target[name] - last.start[name]) > 1e-9
        ]
        return last.end_s + max(settling, default=0.0)

    def _settle_history(self) -> None:
        """Forget segments that are long done, keeping their end and the play that they took up."""
        now = self.clock.now_s()
        while len(self._segments) > 1 and self._waits_from is None and self._rests_after(self._segments[0]) < now:
            self._keep_end(self._segments.pop(0))

    def _forget(self) -> None:
        """Forget what is done, keeping where it ended."""
        for done in self._segments:
            self._keep_end(done)
        self._segments = []

    def _keep_end(self, done: Segment) -> None:
        self._at = dict(done.target)
        for name in self.axes:
            way = done.target[name] - done.start[name]
            if abs(way) > 1e-9:
                self._play[name] = math.copysign(1.0, way)

    def _rests_after(self, segment: Segment) -> float:
        return segment.end_s + max((axis.settle_s for axis in self.axes.values()), default=0.0)

    def _commanded(self, at_s: float) -> dict[AxisName, float]:
        found = dict(self._at)
        if self._waits_from is not None:
            return dict(self._segments[0].start) if self._segments else found
        for one in self._segments:
            if at_s < one.begin_s:
                break
            for name in self.axes:
                found[name] = one.commanded(name, at_s)
        return found

    def positions(self, at_s: float) -> dict[AxisName, float]:
        """Where the axes really are at an instant: with play, ringing, lost steps, and stalls."""
        found = self._commanded(at_s)
        for name, axis in self.axes.items():
            going = self._play.get(name, 0.0)
            for one in self._segments:
                way = one.target[name] - one.start[name]
                if one.begin_s <= at_s and abs(way) > 1e-9 and self._waits_from is None:
                    going = math.copysign(1.0, way)
                    since = at_s - one.end_s
                    if one.eased and 0 <= since < axis.settle_s:
                        ring = 3 * axis.step * math.exp(-5 * since / axis.settle_s)
                        found[name] += ring * math.cos(2 * math.pi * _RINGS_HZ * since)
            # The play lies behind the way that the axis goes.
            found[name] += self._lost.get(name, 0.0) - going * axis.backlash / 2
            if name in self._stalled:
                found[name] = self._stalled[name]
        return found

    def moving(self, at_s: float) -> bool:
        """Whether anything moves or still settles."""
        return bool(self._segments) and at_s < self._rests_s() and self._waits_from is None

    def _report(self) -> str:
        now = self.clock.now_s()
        values: dict[str, Any] = {LETTERS[name]: round(value, 5) for name, value in self.positions(now).items()}
        return json.dumps(
            {"at_s": now, "axes": values, "moving": self.moving(now), "queued": len(self._pending()),
             "stalled": [LETTERS[name] for name in sorted(self._stalled)]}
        )  # fmt: skip
