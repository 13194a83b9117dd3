"""The thread that takes the frames. It needs the camera and its own disk, nothing else.

Deadlines are absolute: frame k is due at t0 + k · interval on the stage clock, so lateness of one frame is never
handed on to the next. Nothing is called missed before the camera was asked what it took.
"""

import threading
import time
from collections import deque
from collections.abc import Sequence
from dataclasses import dataclass

import structlog

from revani.core.documents.run import CameraSaid, EndState, Intervention, JournalFrame, RigNote, Taken
from revani.core.light.exposing import bias_stops, night_stops
from revani.core.program.compiled import Program
from revani.core.program.intervened import check_intervention, intervened, intervention_told, passed_over
from revani.core.quantities.refusal import Refusal
from revani.core.quantities.units import duration
from revani.core.watch.settings import nearest_listed
from revani.core.watch.signs import NOT_IN_PLACE, PASSED
from revani.rig.ports import Camera, CameraError, CameraSettings, Captured, Scene, Where
from revani.rig.stage import Disturbances, StageClock
from revani.runner.asking import Unknown, answered, outcome_of
from revani.runner.carrier import Carrier, Halted, Late, Stalled
from revani.runner.spool import Spool

log = structlog.get_logger()

_RETRY_REAL_S = 0.05
_GRACE_REAL_S = 1.5
_LEAST_BATTERY = 0.03
_NOTED_AHEAD_REAL_S = 0.25
_MOST_CLEARED_UP = 3
_LAST_QUESTIONS = 10
_CLOSES_REAL_S = 1.0
# An order of these kinds may have been carried out although nothing good was answered.
_DOUBTFUL = ("unreachable", "garbled", "busy")
NOT_ASKED = "The camera could not be asked whether it has it."


@dataclass(frozen=True)
class End:
    """How a run ended."""

    state: EndState
    reason: str


class TakenOver(Exception):
    """Another runner has the camera now: nothing more is to be said about the run."""


class Shooter(threading.Thread):
    """Takes the frames of a program from `first` on, into a spool.

    `end` is set when it is done, and stays None where another runner has taken over. `goes_off` is then whether the
    shot wants the camera switched off, and `is_closed` whether its last file is known to be closed.
    """

    def __init__(
        self, program: Program, camera: Camera, scene: Scene, clock: StageClock, spool: Spool, first: int,
        halt: threading.Event, carrier: Carrier | None = None, unsure: Sequence[int] = (),
        told: Sequence[Intervention] = (),
    ) -> None:  # fmt: skip
        super().__init__(name="shooter", daemon=True)
        self._program = program
        self._camera = camera
        self._scene = scene
        self._clock = clock
        self._spool = spool
        self._first = first
        self._carrier = carrier
        self._halt = halt
        self._unsure = list(unsure)
        self._disturbances = Disturbances()
        self._slept_until_s = -1.0
        self._over = threading.Event()
        self._folder: str | None = None
        self._rungs_told: set[str] = set()
        # The frame that was being taken when the camera fell silent, until it is known what became of it.
        self._silent_at: int | None = None
        # What was changed by hand and taken up; and what was ordered and is not yet.
        self._told = list(told)
        self._orders: deque[Intervention] = deque()
        self.end: End | None = None
        self.goes_off = self.is_closed = False

    def run(self) -> None:
        """Take the frames; whatever happens, `end` says how it ended."""
        ours = True
        try:
            self.end = self._work()
        except TakenOver:
            log.error("another runner has taken over")
            ours = False
        except Exception:
            log.exception("the run broke off")
            self.end = End("failed", "The runner met an error of its own; its log has it.")
        # The file first: an axis that moves shakes what is still exposed. What is switched off is asked nothing more.
        stopped = self.end is not None and self.end.state == "stopped"
        over = self.end is not None and self.end.state in ("finished", "stopped")
        self.goes_off = over and self._program.shot.take.when_over == "switches off"
        closed = ""
        if stopped or self.goes_off:
            closed, self.is_closed = self._file_closed()
        still = self._carrier.end(ours) if self._carrier else ""
        if stopped or self.goes_off:
            on = "" if self.goes_off else "It stays on: switch it off by hand."
            self._spool.remark(" ".join(filter(None, [closed, still, on])))
        elif self.end is not None and self._carrier and self._carrier.parks:
            self._spool.remark(still)

    def _file_closed(self) -> tuple[str, bool]:
        """Whether the last file is closed, by the camera's own word, in words too."""
        until_s = time.monotonic() + _CLOSES_REAL_S
        why = "it is still busy."
        while time.monotonic() < until_s:
            try:
                if self._camera.status().busy_with is None:
                    return "The camera says that the last file is closed.", True
            except CameraError as error:
                why = str(error)
            self._over.wait(_RETRY_REAL_S)
        return f"Whether the last file is closed is not known, it may be damaged: {why}", False

    def order(self, one: Intervention) -> None:
        """Change what is left, from the next frame on that is not begun. May be called from another thread."""
        self._orders.append(one)

    def _obey(self, number: int) -> None:
        """Take up what was ordered; it holds from the frame of this number on, and what was taken stays."""
        while self._orders:
            one = self._orders.popleft()
            try:
                check_intervention(self._program, one, number)
                taken_up = one.model_copy(update={"from_number": number})
                program = intervened(self._program, [taken_up])
            except Refusal as refusal:
                taken_up = one.model_copy(update={"refused": refusal.allowed})
            else:
                self._program = program
                self._told.append(taken_up)
                if self._carrier:
                    self._carrier.change(program)
            self._spool.heed(taken_up)
            self._spool.remark(intervention_told(self._program, taken_up))

    def _work(self) -> End:
        left = self._first <= self._program.frame_count
        end = (self._prepared(self._first, self._slot_ends_s(self._first)) if left else None) or self._shoot()
        self._look_over()
        return end

    def _prepared(self, first: int, until_s: float) -> End | None:
        """Bring the rig to where the first frame wants it; an End where that is the end."""
        if self._carrier is None:
            return None
        try:
            self._carrier.prepare(first, until_s)
        except Late as late:
            log.warning("rig late", why=str(late))
        except Halted:
            return self._stopped_before(first)
        except Stalled as stall:
            return self._stalled(str(stall))
        return None

    @staticmethod
    def _stopped_before(number: int) -> End:
        return End("stopped", f"Stopped by hand after frame {number - 1:,}." if number > 1 else "Stopped by hand.")

    def _shoot(self) -> End:
        number = self._first
        while True:
            self._obey(number)
            if number > self._program.frame_count:
                return End("finished", "")
            if passed := passed_over(self._program, self._told, number):
                if self._clock.wait(self._due_s(number), 0.0, self._halt, self._news):
                    return self._stopped_before(number)
                if not self._orders:
                    self._miss(number, passed)
                    number += 1
                continue
            self._set_up(number)
            if self._carrier:
                try:
                    self._carrier.bring(number, self._slot_ends_s(number))
                except Halted:
                    return self._stopped_before(number)
                except Late as late:
                    self._spool.firing(number)
                    self._miss(number, f"{NOT_IN_PLACE}: {late}")
                    number += 1
                    continue
                except Stalled as stall:
                    if end := self._stalled(str(stall)):
                        return end
            if self._waited_in_vain(number):
                return self._stopped_before(number)
            if self._orders:
                # They may hold for this frame already: it is not begun.
                continue
            end = self._take(number)
            if end is not None:
                return end
            number += 1

    def _news(self) -> bool:
        return bool(self._orders)

    def _waited_in_vain(self, number: int) -> bool:
        """Wait until a frame is due; its number is noted as used up a moment before. True where a stop came first.

        The note is on the disk before the shutter opens, and a disk that is slow does not make the frame late.
        """
        due_s = self._due_s(number)
        ahead_s = min(_NOTED_AHEAD_REAL_S, max(self._clock.wait_s(due_s), 0.0) / 2)
        if self._clock.wait(due_s, ahead_s, self._halt, self._news):
            return True
        self._notice()
        if self._orders:
            return False
        if self._clock.now_s() < self._slot_ends_s(number):
            self._spool.firing(number)
        return self._clock.wait(due_s, 0.0, self._halt)

    def _notice(self) -> None:
        """Tell what became of the machine's clocks meanwhile; the frames keep their pace."""
        slept_s, set_by_s = self._disturbances.news()
        if slept_s:
            self._slept_until_s = self._clock.now_s()
            self._spool.remark(f"The machine slept for {duration(round(slept_s))}; frames due meanwhile are missed.")
        if set_by_s and self._clock.speed == 1:
            self._spool.remark(f"The machine's clock was set by {set_by_s:+.0f} s; the frames kept their pace.")

    def _stalled(self, why: str) -> End | None:
        """What the shot's own rule says of a rig that does not move: an End, or to go on where it stands."""
        assert self._carrier
        log.warning("rig stalled", why=why)
        if self._program.motion and self._program.motion.path.move.on_stall == "end":
            return End("stopped", f"{why} The shot's rule is to end then; what was taken until then is safe.")
        self._spool.remark(f"{why} The shot's rule is to go on where the rig stands.")
        self._carrier.give_up()
        return None

    def _slot_ends_s(self, number: int) -> float:
        number = min(number, self._program.frame_count)
        return self._due_s(number) + float(self._program.slot_s[number - 1])

    def _take(self, number: int) -> End | None:
        """Take one frame, trying again within its slot; an End where going on is pointless."""
        due_s, slot_ends_s = self._due_s(number), self._slot_ends_s(number)
        if self._clock.now_s() >= slot_ends_s:
            slept = due_s <= self._slept_until_s
            self._miss(number, "The machine slept when it was due." if slept else PASSED)
            return None
        where = self._carrier.where() if self._carrier else None
        pose = self._carrier.pose(where, due_s) if self._carrier else None
        tries = 0
        while True:
            tries += 1
            try:
                return self._noted(self._camera.capture(number, self._open_real_s(number) + _GRACE_REAL_S, pose), where)
            except CameraError as error:
                self._watch_for_another(error)
                trouble = error
            if trouble.trouble == "unreachable" and self._silent_at is None:
                self._silent_at = number
            if trouble.trouble in ("full card", "empty battery"):
                self._miss(number, str(trouble))
                return End("stopped", f"{trouble} What was taken until then is safe.")
            over = self._clock.wait_s(slot_ends_s) <= _RETRY_REAL_S or self._halt.is_set()
            if over or trouble.trouble in _DOUBTFUL:
                found = self._ask_for(number)
                if isinstance(found, Captured):
                    return self._noted(found, where)
                # Waiting for it may have taken what was left of the slot.
                over = self._clock.wait_s(slot_ends_s) <= _RETRY_REAL_S or self._halt.is_set()
                if over:
                    unsure = f" {NOT_ASKED}" if found is not None else ""
                    self._miss(number, f"{trouble} Tried {tries} time{'s' if tries > 1 else ''}.{unsure}")
                    if unsure:
                        self._unsure.append(number)
                    return None
            self._halt.wait(_RETRY_REAL_S)
            self._set_up(number)

    def _noted(self, captured: Captured, where: Where | None) -> End | None:
        """Note a frame that is on the card; an End where the battery is about to give out."""
        self._note(captured, where)
        self._silent_at = None
        self._tell_folder(captured)
        self._clear_up()
        if captured.battery_left is None or captured.battery_left >= _LEAST_BATTERY:
            return None
        # Better a frame less than an open file.
        left = f"{captured.battery_left:.0%}"
        return End("stopped", f"Ended after frame {captured.number:,}: the battery is down to {left}.")

    def _tell_folder(self, captured: Captured) -> None:
        """Note where a file lies elsewhere than the one before: in the next folder, or on another card."""
        folder = captured.file.rpartition("/")[0]
        if self._folder not in (None, folder):
            self._spool.remark(
                f"From frame {captured.number:,} on the files lie in {folder}, on another card or in its next folder."
            )
        self._folder = folder

    def _ask_for(self, number: int) -> Captured | Unknown | None:
        """What the camera says of a frame, once it is done with it: taken, not taken (None), or not to be known."""
        return outcome_of(self._camera, number, self._open_real_s(number), self._halt, self._stand)

    def _stand(self) -> None:
        """Put a camera that was away before its scene. Raises CameraError."""
        self._camera.stand(self._scene)
        damaged = "" if self._silent_at is None else f" The file of frame {self._silent_at:,} may be damaged."
        self._silent_at = None
        self._spool.remark(f"The camera had been started anew and was set up again.{damaged}")

    def _set_up(self, number: int) -> None:
        """Set a frame up; a camera that was started anew is put before its scene first."""
        try:
            asked = self._settings(number)
            self._tell_rungs(asked, answered(lambda: self._camera.apply(asked), self._stand))
        except CameraError as error:
            self._watch_for_another(error)
            log.warning("settings not taken", frame=number, error=str(error))

    def _tell_rungs(self, asked: CameraSettings, stands: CameraSettings) -> None:
        """Note, once a dial, that the body lists no such value and stands at the nearest."""
        if asked.mode != "manual":
            return
        for field, told in nearest_listed(self._program.shot, _as_taken(asked), _as_taken(stands)).items():
            if field not in self._rungs_told:
                self._rungs_told.add(field)
                self._spool.remark(told)

    def _clear_up(self) -> None:
        """Ask again for frames of which it was not known whether they were taken; what turns up is an amendment."""
        for number in self._unsure[:_MOST_CLEARED_UP]:
            found = self._ask_for(number)
            if isinstance(found, Unknown):
                return
            self._unsure.remove(number)
            if found is not None:
                self._spool.note(turned_up(found, self._spool.missed[number]))

    def _look_over(self) -> None:
        """At the end: compare what was noted as missed with what is on the card."""
        missed = dict(self._spool.missed)
        if not missed:
            return
        for _ in range(_LAST_QUESTIONS):
            try:
                for found in answered(self._camera.on_card, self._stand):
                    if found.number in missed:
                        self._spool.note(turned_up(found, missed[found.number]))
                return
            except CameraError as error:
                self._watch_for_another(error)
                if self._halt.wait(_RETRY_REAL_S):
                    break
        if self._unsure:
            self._spool.remark("At its end the camera could not be asked for frames that may be on its card.")

    @staticmethod
    def _watch_for_another(error: CameraError) -> None:
        if error.trouble == "fenced":
            raise TakenOver from error

    def _open_real_s(self, number: int) -> float:
        """Real seconds that a frame may need: the longest shutter that the camera may choose, and its storing."""
        at, light = min(number, self._program.frame_count) - 1, self._program.shot.light
        shutter_s = float(self._program.slot_s[at] if light.automatic else self._program.exposures.shutter_s[at])
        shot = self._program.shot
        return (shutter_s * float(shot.held_times) + float(shot.body.overhead_s)) / self._clock.speed

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
            held_times=float(program.shot.held_times),
        )
        if not light.automatic:
            return settings
        # The body is told what a person would set on it, and chooses the rest from what it sees.
        wish = float(bias_stops(light.keys, program.t_s[at])) + light.compensation_stops
        wish += float(night_stops(light, program.sun_altitude_deg[at])) + float(program.wish_stops[at])
        automatic: dict[str, object] = {
            "mode": light.school, "aperture": light.aperture, "iso": light.iso, "iso_ceiling": light.iso_ceiling,
            "compensation_stops": wish, "interval_s": float(program.slot_s[at]),
        }  # fmt: skip
        return settings.model_copy(update=automatic)

    def _note(self, captured: Captured, where: Where | None) -> None:
        frame = taken_frame(captured, self._due_s(captured.number))
        if where is not None and self._carrier:
            at = captured.number - 1
            planned = self._carrier.planned(float(self._program.t_s[at]), captured.number)
            rig = RigNote(at_s=where.at_s, planned=planned, reached=where.positions, stalled=tuple(where.stalled))
            frame = frame.model_copy(update={"rig": rig})
        self._spool.note(frame)

    def _miss(self, number: int, reason: str) -> None:
        self._spool.note(JournalFrame(number=number, planned_s=self._due_s(number), outcome="missed", reason=reason))


def switched_off(camera: Camera) -> str:
    """Switch a camera off whose file is closed, and say by its own word, or its silence, whether it is."""
    try:
        camera.switch_off()
    except CameraError as error:
        return f"The camera was not switched off: {error}"
    try:
        is_off = camera.status().state == "off"
    except CameraError as error:
        return "The camera does not answer any more: it is off." if error.trouble == "unreachable" else str(error)
    return "The camera says that it is off." if is_off else "The camera was told to switch off, and is still on."


def _as_taken(settings: CameraSettings) -> Taken:
    return Taken.model_validate(settings.model_dump())


def taken_frame(captured: Captured, due_s: float) -> JournalFrame:
    """The journal entry of a frame that is on the card."""
    return JournalFrame(
        number=captured.number, planned_s=due_s, fired_s=captured.opened_s, outcome="taken",
        file=captured.file, size_bytes=captured.size_bytes, sha256=captured.sha256,
        settings=_as_taken(captured.settings),
        camera=CameraSaid(battery_left=captured.battery_left, card_free_bytes=captured.card_free_bytes),
    )  # fmt: skip


def turned_up(captured: Captured, noted: JournalFrame) -> JournalFrame:
    """The amendment of a frame that had been noted as missed."""
    frame = taken_frame(captured, noted.planned_s)
    return frame.model_copy(update={"reason": "Found on the card later.", "first_said": noted.reason})
