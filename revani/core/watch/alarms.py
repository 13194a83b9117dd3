"""What a person is called for while a run goes on, and what only deserves a look.

An alarm is said of what is known; what is not known (a runner that is silent, a camera that does not answer) is itself
one. It stands until a person has acknowledged it, also where it is over meanwhile.
"""

from collections.abc import Iterator
from datetime import datetime
from typing import NamedTuple
from uuid import UUID

from pydantic import BaseModel

from revani.core.documents.run import RunState
from revani.core.quantities.units import count, duration
from revani.core.watch.alarm import Alarm, AlarmLevel, come, look
from revani.core.watch.first_frames import Level as VerdictLevel
from revani.core.watch.signs import CLOCK_APART_S, Sign

# What ends within this time is worth coming for; what ends later is worth a look (memory).
_SOON_S = 3_600.0
# So many missed frames, one more each time, are told of again: an alarm for each would be none.
_MISSED_AGAIN = (1, 5, 25, 125, 625)
BY_HAND = ("Stopped by hand", "Stopped before it began")


class KeptAlarm(BaseModel):
    """An alarm of a run: when it was raised, over, acknowledged and by whom, and how often it was told outside."""

    id: UUID
    run_id: UUID
    key: str
    level: AlarmLevel
    text: str
    advice: str
    raised_at: datetime
    over_at: datetime | None
    acknowledged_at: datetime | None
    acknowledged_by: str
    told_at: datetime | None
    told_count: int

    @property
    def done_with(self) -> bool:
        """Whether it is over, and a person has seen it."""
        return self.over_at is not None and self.acknowledged_at is not None


class Ending(NamedTuple):
    """A thing that runs out before the last frame, as it is measured: what, how far ahead (seconds), both clocks."""

    what: str
    in_s: float
    at: str
    last_frame: str


class Watched(NamedTuple):
    """What is known of a run at one look; `clock_ahead_s` is by how much the camera's clock is, where it says so.

    `no_light_told` is that it waits for the light, and its sensor says nothing, `blind` that it waits for what its
    camera is to see, and that shows no picture; `around` what sensors tell calls for,
    `beside` that the rig stands beside its plan, `late` that frames are fired late, `soundless` that what was filmed
    has no sound, in words.
    """

    state: RunState
    sign: Sign | None
    reason: str
    missed: int
    verdict: VerdictLevel | None
    verdict_told: str
    endings: tuple[Ending, ...] = ()
    clock_ahead_s: float | None = None
    stalled: bool = False
    no_light_told: bool = False
    blind: bool = False
    around: tuple[Alarm, ...] = ()
    beside: str = ""
    late: str = ""
    soundless: str = ""


def alarms_of(seen: Watched) -> list[Alarm]:
    """All that stands just now, the worst first."""
    found = [*_of_its_end(seen), *_of_its_signs(seen), *_of_what_ends(seen)]
    return sorted(found, key=lambda one: one.level != "come")


def _of_its_end(seen: Watched) -> Iterator[Alarm]:
    if seen.state in ("failed", "missed"):
        text = "The run broke off." if seen.state == "failed" else "The run missed its start."
        yield come("ended", f"{text} {seen.reason}", "See what the rig says, and arm anew.")
    elif seen.state == "stopped" and not seen.reason.startswith(BY_HAND):
        yield come("ended", f"The run ended early. {seen.reason}", "Arm what is left of it.")
    if seen.soundless:
        yield come("soundless", seen.soundless, "See to microphone, cable and level, and film it again.")


def _of_its_signs(seen: Watched) -> Iterator[Alarm]:
    live = seen.state in ("armed", "running")
    if live and seen.sign is not None and seen.sign.tone == "bad":
        yield come("sign", _sentence(seen.sign.text), "Go and look at it.")
    if live and seen.verdict == "stop":
        yield come("verdict", seen.verdict_told, "Change it on the desk, and arm anew.")
    if live and seen.stalled:
        yield come("stalled", "The rig does not move as it should.", "Free the axis.")
    if live and seen.beside:
        yield look("beside", seen.beside, "See whether it slips or binds.")
    if live and seen.late:
        yield look("late", seen.late, "See what else this machine does; frames keep their pace where they can.")
    if live:
        yield from seen.around
    if live and seen.no_light_told:
        text = "It waits for the light, and no sensor tells of that: whether it has come is not known."
        yield come("no light told", text, "See to the sensor, or begin it otherwise.")
    if live and seen.blind:
        text = (
            "It waits for what its camera is to see, and the camera shows no picture: whether it has come is not known."
        )
        yield come("blind", text, "See to the camera's live picture, or begin it otherwise.")
    reached = [many for many in _MISSED_AGAIN if seen.missed >= many]
    if reached and seen.state != "missed":
        text = f"{count(seen.missed, 'frame')} missed so far." if live else f"{count(seen.missed, 'frame')} missed."
        yield look(f"missed {reached[-1]}", text, "Its reasons stand in the journal.")
    if live and seen.clock_ahead_s is not None and abs(seen.clock_ahead_s) >= CLOCK_APART_S:
        way = "ahead" if seen.clock_ahead_s > 0 else "behind"
        text = f"The camera's clock is {duration(round(abs(seen.clock_ahead_s), 1))} {way}."
        yield look("clock", text, "Frames keep their pace; their times in the files do not.")


def _of_what_ends(seen: Watched) -> Iterator[Alarm]:
    for one in seen.endings if seen.state == "running" else ():
        text = f"At this rate {one.what} ends at {one.at}, before the last frame at {one.last_frame}."
        call = come if one.in_s < _SOON_S else look
        yield call(one.what, text, "Change it, or end the shot earlier.")


def _sentence(text: str) -> str:
    return f"{text[:1].upper()}{text[1:]}."
