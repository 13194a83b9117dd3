"""The thread that takes the frames. It needs the camera and its own disk, nothing else.

Deadlines are absolute: frame k is due at t0 + k · interval on the monotonic clock, so lateness of
one frame is never handed on to the next.
"""

import threading
from dataclasses import dataclass

import numpy as np
import structlog

from revani.core.program import Program
from revani.core.ramp import bias_stops
from revani.rig.ports import Camera, CameraError, CameraSettings, Captured, Where
from revani.rig.stage import StageClock
from revani.runner.carrier import Carrier, Late, Stalled
from revani.runner.spool import Spool
from revani.store.runs import EndState, JournalFrame

log = structlog.get_logger()

_RETRY_REAL_S = 0.05
_LEAST_PATIENCE_REAL_S = 2.0
_LEAST_BATTERY = 0.03
_CLOSING_REAL_S = 120.0
_LOOK_REAL_S = 0.1
_POSES = 400
_NOTED_AHEAD_REAL_S = 0.25


@dataclass(frozen=True)
class End:
    """How a run ended."""

    state: EndState
    reason: str


class Shooter(threading.Thread):
    """Takes the frames of a program from `first` on, into a spool. `end` is set when it is done."""

    def __init__(
        self, program: Program, camera: Camera, clock: StageClock, spool: Spool, first: int,
        carrier: Carrier | None = None,
    ) -> None:  # fmt: skip
        super().__init__(name="shooter", daemon=True)
        self._program = program
        self._camera = camera
        self._clock = clock
        self._spool = spool
        self._first = first
        self._carrier = carrier
        self._stop_wanted = threading.Event()
        self.end: End | None = None

    def stop(self) -> None:
        """End after the frame that is being taken; its file is waited for."""
        self._stop_wanted.set()

    def run(self) -> None:
        """Take the frames; whatever happens, `end` says how it ended."""
        try:
            self.end = self._film() if self._program.shot.live else self._shoot()
        except Exception as error:
            log.exception("the run broke off")
            self.end = End("failed", f"The runner met an error of its own: {error}")
        if self._carrier:
            self._carrier.end()

    def _shoot(self) -> End:
        if self._carrier and self._first <= self._program.frame_count:
            try:
                self._carrier.prepare(self._first, self._slot_ends_s(self._first))
            except Late as late:
                log.warning("rig late", why=str(late))
            except Stalled as stall:
                if end := self._stalled(str(stall)):
                    return end
        for number in range(self._first, self._program.frame_count + 1):
            try:
                self._camera.apply(self._settings(number))
            except CameraError as error:
                log.warning("settings not taken", frame=number, error=str(error))
            if self._carrier:
                try:
                    self._carrier.bring(number, self._slot_ends_s(number))
                except Late as late:
                    self._spool.firing(number)
                    self._miss(number, f"The rig was not in its place in time: {late}")
                    continue
                except Stalled as stall:
                    if end := self._stalled(str(stall)):
                        return end
            if self._waited_in_vain(number):
                return End("stopped", f"Stopped by hand after frame {number - 1:,}.")
            end = self._take(number)
            if end is not None:
                return end
        return End("finished", "")

    def _waited_in_vain(self, number: int) -> bool:
        """Wait until a frame is due; its number is noted as used up a moment before. True where a stop came first.

        The note is on the disk before the shutter opens, and a disk that is slow does not make the frame late.
        """
        due_s = self._due_s(number)
        ahead = min(_NOTED_AHEAD_REAL_S, max(self._clock.wait_s(due_s), 0.0) / 2)
        if self._stop_wanted.wait(max(0.0, self._clock.wait_s(due_s) - ahead)):
            return True
        if self._clock.now_s() < self._slot_ends_s(number):
            self._spool.firing(number)
        return self._stop_wanted.wait(max(0.0, self._clock.wait_s(due_s)))

    def _stalled(self, why: str) -> End | None:
        """What the shot's own rule says of a rig that does not move: an End, or to go on where it stands."""
        assert self._carrier
        log.warning("rig stalled", why=why)
        if self._program.motion and self._program.motion.path.move.on_stall == "end":
            return End("stopped", f"{why} The shot's rule is to end then; what was taken until then is safe.")
        self._carrier.give_up()
        return None

    def _film(self) -> End:
        """One clip at live speed, the rig moving as it was planned; its turning points go into the journal."""
        program, carrier = self._program, self._carrier
        if self._first > 1:
            # Its one number is used up: what was filmed until the runner ended is on the card, if anything is.
            return End("failed", "The runner was ended while it filmed; see what the card has.")
        try:
            self._camera.apply(self._settings(1))
        except CameraError as error:
            log.warning("settings not taken", frame=1, error=str(error))
        if carrier:
            try:
                carrier.prepare(1, program.end_s)
            except (Late, Stalled) as stall:
                if end := self._stalled(str(stall)):
                    return end
        if self._stop_wanted.wait(max(0.0, self._clock.wait_s(program.start_s))):
            return End("stopped", "Stopped by hand before it began.")
        self._spool.firing(1)
        clip: list[Captured | CameraError] = []
        seconds = float(program.timing.event_s)

        def record() -> None:
            try:
                patience_s = seconds / self._clock.speed + _CLOSING_REAL_S
                clip.append(self._camera.record(1, seconds, patience_s, self._poses()))
            except CameraError as error:
                clip.append(error)

        filming = threading.Thread(target=record, name="filming", daemon=True)
        filming.start()
        turns = self._watch_turns(filming)
        filming.join()
        taken = clip[0]
        if isinstance(taken, CameraError):
            self._miss(1, str(taken))
            return End("failed", f"{taken} Nothing was filmed.")
        rig = {"turns": turns} if carrier else None
        self._spool.note(taken_frame(taken, program.start_s).model_copy(update={"rig": rig}))
        if self._stop_wanted.is_set():
            return End("stopped", "Stopped by hand; the file was closed first.")
        return End("finished", "")

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

    def _watch_turns(self, filming: threading.Thread) -> list[dict[str, object]]:
        """Where the rig was at each turning point; a stop cuts the film, a stall follows the shot's rule."""
        motion, carrier = self._program.motion, self._carrier
        found: list[dict[str, object]] = []
        due = [] if motion is None else list(motion.path.turns_s(float(self._program.timing.event_s)))
        while filming.is_alive():
            next_s = self._program.start_s + float(due[0]) if due else self._program.end_s
            wait_s = min(max(self._clock.wait_s(next_s), 0.0), _LOOK_REAL_S)
            if self._stop_wanted.wait(wait_s or 0.01):
                self._cut()
                return found
            reached_turn = bool(due) and self._clock.now_s() >= next_s
            where = carrier.where() if carrier else None
            if where and where.stalled and self._stalled(f"{' and '.join(where.stalled).capitalize()} stalled."):
                self._stop_wanted.set()
            if reached_turn:
                due.pop(0)
                if where and carrier:
                    found.append(
                        {"at_s": where.at_s, "due_s": next_s, "planned": carrier.planned(where.at_s),
                         "reached": {str(name): value for name, value in where.positions.items()}}
                    )  # fmt: skip
        return found

    def _cut(self) -> None:
        try:
            self._camera.cut()
        except CameraError as error:
            log.warning("film not cut", error=str(error))

    def _slot_ends_s(self, number: int) -> float:
        return self._due_s(number) + float(self._program.slot_s[number - 1])

    def _take(self, number: int) -> End | None:
        """Take one frame, trying again within its slot; an End where going on is pointless."""
        due_s = self._due_s(number)
        slot_ends_s = self._slot_ends_s(number)
        if self._clock.now_s() >= slot_ends_s:
            self._miss(number, "Its time had passed.")
            return None
        where = self._carrier.where() if self._carrier else None
        pose = self._carrier.pose(where, due_s) if self._carrier else None
        tries = 0
        while True:
            tries += 1
            try:
                patience_s = max(_LEAST_PATIENCE_REAL_S, self._clock.wait_s(slot_ends_s))
                captured = self._camera.capture(number, patience_s, pose)
                self._note(captured, where)
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
                    self._note(found, where)
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

    def _note(self, captured: Captured, where: Where | None) -> None:
        frame = taken_frame(captured, self._due_s(captured.number))
        if where is not None and self._carrier:
            reached = {str(name): value for name, value in where.positions.items()}
            rig = {"at_s": where.at_s, "planned": self._carrier.planned(where.at_s), "reached": reached}
            frame = frame.model_copy(update={"rig": rig})
        self._spool.note(frame)

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
