"""Carries the camera: brings the rig to where each frame wants it, and keeps a continuous move in step.

It is used from the shooting thread; a continuous move is fed to the mover by a thread of its own,
some way ahead of time. A mover that is lost is asked again; what happens then is the shot's own rule.
"""

import threading
from collections.abc import Callable
from typing import TypeVar

import numpy as np
import structlog

from revani.core.documents import AxisName
from revani.core.move.axes import Motion, camera_place_mm
from revani.core.move.path import driven_units
from revani.core.program.compiled import Program
from revani.rig.ports import Mover, MoverError, Stage, Where
from revani.rig.stage import StageClock

log = structlog.get_logger()

_RETRY_REAL_S = 0.1
_LIVE_STEP_S = 0.1
_AHEAD_REAL_S = 2.0
_AHEAD_LEAST = 8
_MOST_LATE = 3
_CATCH_UP_REAL_S, _LONGEST_WAY_REAL_S = 1.0, 300.0
_REST_REAL_S = 2.0
# So near, in an axis's own unit and beside its play, it is parked.
_PARKED_WITHIN = 1.0
_RESTARTED = "The mover had been started anew and was set up again; where it stands is what it says."

T = TypeVar("T")


class Stalled(Exception):
    """The rig does not move as it should; the text says what it does."""


class Late(Exception):
    """The rig did not come in time; it may for the next frame."""


class Halted(Exception):
    """The run is to stop; the rig is not waited for any longer."""


class Carrier:
    """The rig of one run."""

    def __init__(
        self, program: Program, motion: Motion, mover: Mover, clock: StageClock, stage: Stage, halt: threading.Event,
        remark: Callable[[str], None],
    ) -> None:  # fmt: skip
        self._program = program
        self._motion = motion
        self._mover = mover
        self._clock = clock
        self._stage = stage
        self._halt = halt
        self._remark = remark
        self._fed = threading.Event()
        self._over = threading.Event()
        # Whoever asks first learns that the mover was started anew; the one that feeds it must know.
        self._forgotten = threading.Event()
        self._trouble = ""
        self._given_up = False
        self._late = 0

    def change(self, program: Program) -> None:
        """Go on by a program that was changed meanwhile: its frames until now are where they were."""
        self._program = program
        if program.motion is not None:
            self._motion = program.motion

    @property
    def stepwise(self) -> bool:
        """Whether the rig stands still while the shutter is open."""
        return self._motion.path.move.kind == "stepwise"

    def prepare(self, first: int, until_s: float) -> None:
        """Stand where frame `first` wants the rig, and begin a continuous move. Raises Stalled, Late or Halted.

        A continuous move whose mover is late catches up when it is there.
        """
        begins = self._begins_s(first)
        try:
            self._insist(lambda: self._mover.stand(self._stage), until_s)
            self._carry(self._units(begins - self._program.start_s), until_s)
        except Late:
            if not self.stepwise:
                self._begin_feeding(begins, behind=True)
            raise
        if not self.stepwise:
            self._begin_feeding(begins, behind=False)
            self._fed.wait(5)

    def stand_ready(self, until_s: float) -> None:
        """Bring the rig to where its first key has it, and leave it there. Raises Stalled, Late or Halted."""
        try:
            self._insist(lambda: self._mover.stand(self._stage), until_s)
            self._carry(self._units(0.0), until_s)
        finally:
            self._over.set()
            self._mover.close()

    def _begin_feeding(self, begins_s: float, behind: bool) -> None:
        threading.Thread(target=self._feed, args=(begins_s, behind), name="carrier", daemon=True).start()

    def _begins_s(self, first: int) -> float:
        """When the move that is fed begins: at the first frame, or soon where that has passed."""
        at = float(self._program.at_s[min(first, self._program.frame_count) - 1])
        return max(at, self._clock.now_s() + 0.5 * self._clock.speed)

    def bring(self, number: int, until_s: float) -> None:
        """Bring the rig to where a frame wants it, settled. Raises Late, Stalled or Halted where it does not come."""
        if self._given_up:
            return
        if self._trouble:
            raise Stalled(self._trouble)
        if self.stepwise:
            self._carry(self._units(float(self._program.t_s[number - 1]), number), until_s)

    def _carry(self, units: dict[AxisName, float], until_s: float) -> None:
        def there() -> None:
            # Both again, where the mover was started anew in between.
            self._mover.go(units)
            self._mover.rest(self._patience_s(until_s), self._halt)

        self._insist(there, until_s)

    def give_up(self) -> None:
        """Leave the rig where it stands, from now on."""
        self._given_up = True
        self._over.set()

    def end(self, ours: bool = True) -> str:
        """Stop what still moves, park it where that is wanted, and say by the mover's own word where the axes stand.

        Nothing is done and said where the rig is another runner's now.
        """
        self._over.set()
        told = ""
        if ours:
            try:
                if not self.stepwise:
                    self._mover.stop()
                self._mover.rest(_REST_REAL_S)
                told = self._parked() if self.parks else "The axes stand still"
                at = self._mover.where().positions.items()
                told += f": {', '.join(f'{name} {value:,.1f}' for name, value in at)}."
            except MoverError as error:
                log.warning("mover not stopped", error=str(error))
                told = f"Whether the axes stand still is not known: {error}"
        self._mover.close()
        return told

    @property
    def parks(self) -> bool:
        """Whether the rig goes back to its start when all is over; one that has stalled is left alone."""
        return self._motion.path.move.afterwards == "start" and not self._trouble and not self._given_up

    def _parked(self) -> str:
        """Bring the axes to where the first key has them, and say whether they came there. Raises MoverError."""
        start = self._units(0.0)
        self._mover.go(start)
        self._mover.rest(_LONGEST_WAY_REAL_S)
        found = self._mover.where().positions
        axes = self._program.shot.kit.axes
        there = all(abs(found[name] - start[name]) <= _PARKED_WITHIN + axes[name].backlash for name in start)
        return "The axes are parked at their start" if there else "The axes did not come to their start, and stand at"

    def where(self) -> Where | None:
        """Where the rig is now; None where it does not say."""
        try:
            found = self._mover.where()
        except MoverError as error:
            self._tell(error)
            if error.trouble == "restarted":
                self._forgotten.set()
            return None
        if found.stalled and not self._trouble and not self._given_up:
            self._trouble = f"{' and '.join(found.stalled).capitalize()} stalled."
        return found

    def _tell(self, error: MoverError) -> None:
        """Note what a person has to know of a mover that did not do what it was asked."""
        if error.trouble in ("restarted", "another"):
            self._remark(_RESTARTED if error.trouble == "restarted" else str(error))

    def planned(self, after_s: float, number: int | None = None) -> dict[str, float]:
        """Where the plan has the axes so long after the start, or for a frame, in their own units."""
        return {str(name): round(value, 4) for name, value in self._units(after_s, number).items()}

    def pose(self, reached: Where | None, at_s: float) -> dict[AxisName, float]:
        """What a simulated camera is told: where it really stands, else where it should; slide and lift from above."""
        meant = {name: float(value) for name, value in self._motion.at(np.array(at_s - self._program.start_s)).items()}
        if reached is not None:
            meant |= {name: value for name, value in reached.positions.items() if name in meant and name != "focus"}
        if "slide" in meant:
            right, up = camera_place_mm(self._program.shot, meant["slide"], meant.get("lift", 0.0))
            meant |= {"slide": float(right), "lift": float(up)}
        return meant

    def _units(self, after_s: float, number: int | None = None) -> dict[AxisName, float]:
        """Positions as the axes count them, within what they can: a step over the end is not asked for."""
        kit = self._program.shot.kit
        found = (
            {name: values[number - 1] for name, values in self._motion.positions.items()}
            if number is not None
            else self._motion.at(np.array(max(after_s, 0.0)))
        )
        out: dict[AxisName, float] = {}
        for name, value in found.items():
            axis = kit.axes[name]
            out[name] = float(np.clip(driven_units(kit, name, np.asarray(value)), axis.low, axis.high))
        return out

    def _patience_s(self, until_s: float) -> float:
        return max(self._clock.wait_s(until_s), 0.05) + 1.0

    def _insist(self, ask: Callable[[], None], until_s: float) -> None:
        """Ask until it is done or the time is over. Raises Stalled, Halted or Late."""
        while True:
            if self._halt.is_set():
                raise Halted
            try:
                ask()
                self._late = 0
                return
            except MoverError as error:
                if error.trouble == "stalled":
                    raise Stalled(str(error)) from error
                self._tell(error)
                if self._clock.wait_s(until_s) <= _RETRY_REAL_S:
                    self._late += 1
                    # One that is away may come back. Where the rule is to go on as it stands, that is waited for less.
                    given_up = self._late > _MOST_LATE and self._motion.path.move.on_stall != "end"
                    raise (Stalled if given_up else Late)(str(error)) from error
                self._over.wait(_RETRY_REAL_S)

    def _feed(self, begin_s: float, behind: bool) -> None:
        """Keep the mover fed with a continuous move; one that was started anew, or refuses once, is fed anew."""
        refused = 0
        while not self._over.is_set() and not self._trouble:
            if behind:
                begin_s = self._caught_up_s(begin_s)
            behind = True
            self._forgotten.clear()
            try:
                self._feed_from(begin_s)
                return
            except MoverError as error:
                if error.trouble == "restarted":
                    self._remark(_RESTARTED)
                elif error.trouble == "refused":
                    refused += 1
                    if refused > 1:
                        self._trouble = str(error)
                    else:
                        self._remark(f"{error} It was fed anew.")
                else:
                    self._trouble = str(error)

    def _caught_up_s(self, begin_s: float) -> float:
        """Take the rig to where the plan will have it soon; when it is there in time, the instant to go on from."""
        lead_s = _CATCH_UP_REAL_S
        while not self._over.is_set() and not self._trouble:
            begin_s = max(begin_s, self._clock.now_s() + lead_s * self._clock.speed)
            try:
                self._mover.stop()
                self._mover.go(self._units(begin_s - self._program.start_s))
                self._mover.rest(_LONGEST_WAY_REAL_S, self._over)
                if self._clock.now_s() < begin_s:
                    return begin_s
                # The way was too far for that: more time.
                lead_s = min(2 * lead_s, 60.0)
            except MoverError as error:
                log.warning("mover does not catch up", error=str(error))
                if error.trouble in ("stalled", "fenced"):
                    self._trouble = str(error)
                self._over.wait(_RETRY_REAL_S)
        return begin_s

    def _feed_from(self, begin_s: float) -> None:
        """Fill the mover's queue with straight pieces. Raises MoverError where it has to be begun anew."""
        times = self._times(begin_s)
        at, begun = begin_s, False
        self._asked(self._mover.hold)
        for k, next_s in enumerate(times):
            ahead = k >= _AHEAD_LEAST
            while not self._over.is_set():
                if self._forgotten.is_set():
                    raise MoverError("restarted", "The mover had been started anew.")
                if ahead and not begun:
                    begun = self._begin(begin_s)
                if ahead and self._clock.wait_s(at) > _AHEAD_REAL_S:
                    self._over.wait(0.05)
                    continue
                # After a loss the queue has run dry: the next piece begins now, and ends when it is due.
                late = begun and self._clock.now_s() > at
                seconds = next_s - (self._clock.now_s() if late else at)
                if seconds <= 1e-6:
                    break
                units = self._units(next_s - self._program.start_s)
                if self._asked(lambda units=units, seconds=seconds: self._mover.queue(units, seconds)):  # type: ignore[misc]
                    break
                self._over.wait(0.02)
            at = next_s
        while not begun and not self._over.is_set():
            begun = self._begin(begin_s)

    def _asked(self, ask: Callable[[], T]) -> T | None:
        """What the mover answers; None where it does not. Raises MoverError where it refuses or has forgotten."""
        try:
            return ask()
        except MoverError as error:
            if error.trouble in ("refused", "restarted", "fenced"):
                raise
            log.warning("mover away", error=str(error))
            self._over.wait(_RETRY_REAL_S)
            return None

    def _begin(self, begin_s: float) -> bool:
        try:
            self._mover.begin(begin_s)
        except MoverError as error:
            if error.trouble in ("refused", "restarted", "fenced"):
                raise
            log.warning("mover away", error=str(error))
            self._over.wait(_RETRY_REAL_S)
            return False
        self._fed.set()
        return True

    def _times(self, begin_s: float) -> list[float]:
        """Ends of the straight pieces: every frame, or ten a second of a film."""
        program = self._program
        if program.shot.live:
            count = int(np.ceil((program.end_s - begin_s) / _LIVE_STEP_S))
            return [begin_s + _LIVE_STEP_S * (i + 1) for i in range(count)]
        ends = np.append(program.at_s, program.end_s)
        return [float(at) for at in ends if at > begin_s + 1e-6]
