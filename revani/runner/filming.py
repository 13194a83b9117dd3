"""One clip at live speed: the camera films by itself, the rig moves as it was planned."""

import threading
import time

import numpy as np
import structlog

from revani.core.documents.run import RigNote, Turn
from revani.rig.ports import CameraError, Captured
from revani.runner.asking import Unknown, outcome_of
from revani.runner.shooter import End, Shooter, taken_frame

log = structlog.get_logger()

_CLOSING_REAL_S = 120.0
_LOOK_REAL_S = 0.1
_CUT_REAL_S = 2.0
_POSES = 400


class Filmer(Shooter):
    """Films from the start of a program to its end; the rig's turning points go into the journal."""

    def _work(self) -> End:
        program, clock = self._program, self._clock
        if self._first > 1:
            # Its one number is used up, and what became of it is in the spool already, where the camera said so.
            self._ask_until_it_says()
            if 1 in self._spool.numbers and 1 not in self._spool.missed:
                return End("stopped", "The runner was ended while it filmed; the film was cut when it was back.")
            known = "whether its film is on the card is not known" if self._unsure else "nothing is on the card"
            return End("failed", f"The runner was ended while it filmed; {known}.")
        self._set_up(1)
        if end := self._prepared(1, program.end_s):
            return end
        if clock.wait(program.start_s, 0.0, self._halt):
            return End("stopped", "Stopped by hand before it began.")
        self._notice()
        self._spool.firing(1)
        clip: list[Captured | CameraError] = []
        seconds = float(program.timing.event_s)

        def record() -> None:
            try:
                patience_s = seconds / clock.speed + _CLOSING_REAL_S
                clip.append(self._camera.record(1, seconds, patience_s, self._poses()))
            except CameraError as error:
                clip.append(error)

        filming = threading.Thread(target=record, name="filming", daemon=True)
        filming.start()
        turns = self._watch_turns(filming)
        filming.join(_CLOSING_REAL_S)
        return self._became(clip[0] if clip else CameraError("unreachable", "The camera does not answer."), turns)

    def _ask_until_it_says(self) -> None:
        """Cut and ask for a film of which the camera did not say what became of it; one that is busy needs its time."""
        until_s = time.monotonic() + _CLOSING_REAL_S
        while self._unsure and time.monotonic() < until_s:
            try:
                self._camera.cut()
                self._clear_up()
            except CameraError as error:
                self._watch_for_another(error)
            if self._unsure and self._halt.wait(_LOOK_REAL_S):
                return

    def _became(self, taken: Captured | CameraError, turns: list[Turn]) -> End:
        """Note what became of the film. An answer that was lost is asked for until the film must be over."""
        if isinstance(taken, CameraError):
            self._watch_for_another(taken)
            trouble, left_s = str(taken), max(self._clock.wait_s(self._program.end_s), 0.0)
            found: Captured | Unknown | None = outcome_of(self._camera, 1, left_s, self._halt, self._stand)
            while found is Unknown.AWAY and self._clock.now_s() < self._program.end_s and not self._halt.is_set():
                self._halt.wait(_LOOK_REAL_S)
                found = outcome_of(self._camera, 1, left_s, self._halt, self._stand)
            if not isinstance(found, Captured):
                told = "" if found is None else f" It may be filming: {found.value}."
                self._miss(1, f"{trouble}{told}")
                return End("failed", f"{trouble}{told}" if told else f"{trouble} Nothing was filmed.")
            taken = found
        rig = RigNote(turns=tuple(turns)) if self._carrier else None
        self._spool.note(taken_frame(taken, self._program.start_s).model_copy(update={"rig": rig}))
        if self._halt.is_set():
            return End("stopped", "Stopped by hand; the file was closed first.")
        if self._stalled_reason:
            return End("stopped", self._stalled_reason)
        return End("finished", "")

    _stalled_reason = ""

    def _poses(self) -> list[dict[str, float]]:
        """The rig's way in seconds from the start, for a simulated camera."""
        motion = self._program.motion
        if motion is None:
            return []
        at = np.linspace(0.0, float(self._program.timing.event_s), _POSES)
        columns = {str(name): values for name, values in motion.at(at).items()}
        return [
            {"after_s": float(t)} | {name: float(values[i]) for name, values in columns.items()}
            for i, t in enumerate(at)
        ]

    def _watch_turns(self, filming: threading.Thread) -> list[Turn]:
        """Where the rig was at each turning point; a stop cuts the film, a stall follows the shot's rule."""
        motion, carrier = self._program.motion, self._carrier
        found: list[Turn] = []
        due = [] if motion is None else list(motion.path.turns_s(float(self._program.timing.event_s)))
        while filming.is_alive():
            next_s = self._program.start_s + float(due[0]) if due else self._program.end_s
            wait_s = min(max(self._clock.wait_s(next_s), 0.0), _LOOK_REAL_S)
            if self._halt.wait(wait_s or 0.01):
                self._cut(filming)
                return found
            reached_turn = bool(due) and self._clock.now_s() >= next_s
            where = carrier.where() if carrier else None
            if where and where.stalled and not self._stalled_reason:
                end = self._stalled(f"{' and '.join(where.stalled).capitalize()} stalled.")
                if end is not None:
                    self._stalled_reason = end.reason
                    self._cut(filming)
                    return found
            if reached_turn:
                due.pop(0)
                if where and carrier:
                    # Against the plan at the instant of the look, be that a moment late.
                    planned = carrier.planned(where.at_s - self._program.start_s)
                    found.append(Turn(at_s=where.at_s, due_s=next_s, planned=planned, reached=where.positions))
        return found

    def _cut(self, filming: threading.Thread) -> None:
        """End the film; a camera that does not listen is told again for a while."""
        until_s = time.monotonic() + _CUT_REAL_S
        while filming.is_alive() and time.monotonic() < until_s:
            try:
                self._camera.cut()
                return
            except CameraError as error:
                self._watch_for_another(error)
                log.warning("film not cut", error=str(error))
                time.sleep(_LOOK_REAL_S)
