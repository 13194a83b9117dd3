"""Taking a run up where it stands: what became of every frame that was due until now."""

import threading
from collections.abc import Callable, Mapping
from typing import NamedTuple

from revani.core.documents.run import JournalFrame
from revani.core.program.compiled import Program
from revani.rig.ports import Camera, CameraError, Captured
from revani.rig.stage import StageClock
from revani.runner.asking import Unknown, answered, outcome_of
from revani.runner.shooter import NOT_ASKED, taken_frame, turned_up
from revani.runner.spool import Spool

NOT_BEGUN = "The run had not been begun when it was due."
NOT_RUNNING = "The runner was not running when it was due."
ENDED_WHILE = "The runner was ended while it took this frame."


class Resumed(NamedTuple):
    """The number to go on with, and those of which the camera could not say whether it took them."""

    first: int
    unsure: list[int]


def account(
    program: Program, camera: Camera, stand: Callable[[], None], clock: StageClock, spool: Spool,
    journalled: Mapping[int, JournalFrame], halt: threading.Event,
) -> Resumed:  # fmt: skip
    """Note what became of every frame that was due until now, from journal, spool and card.

    A film that still goes on is cut before anything else; a frame that is being exposed is waited for. Raises
    CameraError("fenced") where another has taken over.
    """
    live, interrupted = program.shot.live, spool.unfinished
    noted = spool.numbers | journalled.keys()
    missed = dict(spool.missed)
    for number, frame in journalled.items():
        if frame.outcome == "missed" and number not in spool.numbers:
            missed[number] = frame
    # A spool that was lost does not tell what was being filmed: the camera does.
    if live and (interrupted is not None or noted or clock.now_s() > program.start_s):
        _cut(camera)
    found: Captured | Unknown | None = None
    if interrupted is not None:
        open_s = float(program.slot_s.max()) if not live else float(program.timing.event_s)
        found = outcome_of(camera, interrupted, open_s / clock.speed, halt, stand)
        if not isinstance(found, Captured):
            spool.remark(f"The runner was lost while frame {interrupted:,} was taken: its file may be damaged.")
    card = _card(camera, stand)
    begun = bool(noted) or interrupted is not None or bool(card)
    for number, frame in missed.items():
        if card and number in card:
            spool.note(turned_up(card[number], frame))
    found_out: list[JournalFrame] = []
    unsure, number, last_used = [], 1, max([*noted, interrupted or 0, *(card or ())], default=0)
    while number <= program.frame_count:
        passed = program.at_s[number - 1] + float(program.slot_s[number - 1]) <= clock.now_s()
        if number > last_used and not (passed and not live):
            break
        if number not in noted:
            due_s = float(program.at_s[number - 1])
            taken = card.get(number) if card else found if isinstance(found, Captured) else None
            if number == interrupted and isinstance(found, Captured):
                taken = found
            if taken is not None and taken.number == number:
                found_out.append(taken_frame(taken, due_s))
            else:
                reason = ENDED_WHILE if number == interrupted else NOT_RUNNING if begun else NOT_BEGUN
                if card is None and (number == interrupted or begun):
                    reason = f"{reason} {NOT_ASKED}"
                    unsure.append(number)
                found_out.append(JournalFrame(number=number, planned_s=due_s, outcome="missed", reason=reason))
        number += 1
    spool.note(*found_out)
    return Resumed(number, unsure)


def _card(camera: Camera, stand: Callable[[], None]) -> dict[int, Captured] | None:
    """What is on the card, by number; None where the camera does not say."""
    for _ in range(3):
        try:
            return {one.number: one for one in answered(camera.on_card, stand)}
        except CameraError as error:
            if error.trouble == "fenced":
                raise
    return None


def _cut(camera: Camera) -> None:
    for _ in range(3):
        try:
            camera.cut()
            return
        except CameraError as error:
            if error.trouble == "fenced":
                raise
