"""The thread that takes the frames. It needs the camera and its own disk, nothing else.

Deadlines are absolute: frame k is due at t0 + k · interval on the monotonic clock, so lateness of
one frame is never handed on to the next.
"""

import threading
from dataclasses import dataclass

import structlog

from revani.core.program import Program
from revani.core.ramp import bias_stops
from revani.rig.ports import Camera, CameraError, CameraSettings, Captured
from revani.rig.stage import StageClock
from revani.runner.spool import Spool
from revani.store.runs import EndState, JournalFrame

log = structlog.get_logger()

_RETRY_REAL_S = 0.05
_LEAST_PATIENCE_REAL_S = 2.0
_LEAST_BATTERY = 0.03


@dataclass(frozen=True)
class End:
    """How a run ended."""

    state: EndState
    reason: str


class Shooter(threading.Thread):
    """Takes the frames of a program from `first` on, into a spool. `end` is set when it is done."""

    def __init__(self, program: Program, camera: Camera, clock: StageClock, spool: Spool, first: int) -> None:
        super().__init__(name="shooter", daemon=True)
        self._program = program
        self._camera = camera
        self._clock = clock
        self._spool = spool
        self._first = first
        self._stop_wanted = threading.Event()
        self.end: End | None = None

    def stop(self) -> None:
        """End after the frame that is being taken; its file is waited for."""
        self._stop_wanted.set()

    def run(self) -> None:
        """Take the frames; whatever happens, `end` says how it ended."""
        try:
            self.end = self._shoot()
        except Exception as error:
            log.exception("the run broke off")
            self.end = End("failed", f"The runner met an error of its own: {error}")

    def _shoot(self) -> End:
        for number in range(self._first, self._program.frame_count + 1):
            try:
                self._camera.apply(self._settings(number))
            except CameraError as error:
                log.warning("settings not taken", frame=number, error=str(error))
            if self._stop_wanted.wait(max(0.0, self._clock.wait_s(self._due_s(number)))):
                taken = number - 1
                return End("stopped", f"Stopped by hand after frame {taken:,}.")
            end = self._take(number)
            if end is not None:
                return end
        return End("finished", "")

    def _take(self, number: int) -> End | None:
        """Take one frame, trying again within its slot; an End where going on is pointless."""
        due_s = self._due_s(number)
        slot_ends_s = due_s + float(self._program.slot_s[number - 1])
        if self._clock.now_s() >= slot_ends_s:
            self._miss(number, "Its time had passed.")
            return None
        self._spool.firing(number)
        tries = 0
        while True:
            tries += 1
            try:
                patience_s = max(_LEAST_PATIENCE_REAL_S, self._clock.wait_s(slot_ends_s))
                captured = self._camera.capture(number, patience_s)
                self._note(captured)
                return self._spent(captured)
            except CameraError as error:
                if error.trouble in ("full card", "empty battery"):
                    self._miss(number, str(error))
                    return End("stopped", f"{error} What was taken until then is safe.")
                left_s = self._clock.wait_s(slot_ends_s)
                if left_s <= _RETRY_REAL_S or self._stop_wanted.wait(_RETRY_REAL_S):
                    self._miss(number, f"{error} Tried {tries} time{'s' if tries > 1 else ''}.")
                    return None
                # The order may have been carried out although the answer was lost.
                if (found := self._found(number)) is not None:
                    self._note(found)
                    return None
                self._apply_again(number)

    def _spent(self, captured: Captured) -> End | None:
        """An End where the battery is about to give out: better a frame less than an open file."""
        if captured.battery_left >= _LEAST_BATTERY:
            return None
        left = f"{captured.battery_left:.0%}"
        return End("stopped", f"Ended after frame {captured.number:,}: the battery is down to {left}.")

    def _apply_again(self, number: int) -> None:
        try:
            self._camera.apply(self._settings(number))
        except CameraError:
            return

    def _found(self, number: int) -> Captured | None:
        try:
            return self._camera.taken(number)
        except CameraError:
            return None

    def _due_s(self, number: int) -> float:
        return float(self._program.at_s[number - 1])

    def _settings(self, number: int) -> CameraSettings:
        at, program, light = number - 1, self._program, self._program.shot.light
        settings = CameraSettings(
            shutter_s=float(program.exposures.shutter_s[at]),
            aperture=float(program.exposures.aperture[at]),
            iso=float(program.exposures.iso[at]),
            white_balance_k=round(float(program.white_balance_k[at])),
            automatic_white_balance=light.white_balance == "automatic",
        )
        if not light.automatic:
            return settings
        # The body is told what a person would set on it, and chooses the rest from what it sees.
        wish = float(bias_stops(light.keys, program.t_s[at])) + light.compensation_stops
        automatic: dict[str, object] = {
            "mode": light.school, "aperture": light.aperture, "iso": light.iso, "iso_ceiling": light.iso_ceiling,
            "compensation_stops": wish, "interval_s": float(program.slot_s[at]),
        }  # fmt: skip
        return settings.model_copy(update=automatic)

    def _note(self, captured: Captured) -> None:
        self._spool.note(taken_frame(captured, self._due_s(captured.number)))

    def _miss(self, number: int, reason: str) -> None:
        self._spool.note(JournalFrame(number=number, planned_s=self._due_s(number), outcome="missed", reason=reason))


def taken_frame(captured: Captured, due_s: float) -> JournalFrame:
    """The journal entry of a frame that is on the card."""
    return JournalFrame(
        number=captured.number, planned_s=due_s, fired_s=captured.opened_s, outcome="taken",
        file=captured.file, size_bytes=captured.size_bytes, sha256=captured.sha256,
        settings=captured.settings.model_dump(),
        camera={"battery_left": captured.battery_left, "card_free_bytes": captured.card_free_bytes},
    )  # fmt: skip
