"""The morning report: what became of a run in ten lines, what to do before the next, and then the details."""

from collections.abc import Iterator, Sequence
from dataclasses import dataclass, replace
from itertools import groupby
from uuid import UUID

import numpy as np
from pydantic import BaseModel, ConfigDict

from revani.core.documents import driven_measure
from revani.core.documents.mover import AxisName
from revani.core.documents.run import JournalFrame, Run
from revani.core.light.firing import by_the_clock
from revani.core.program.compiled import Program
from revani.core.quantities.units import count, duration, gigabytes
from revani.core.shown.frames import settings_told
from revani.core.shown.sound import SoundRow, lost_told
from revani.core.watch.first_frames import GoVerdict
from revani.core.watch.settings import allowed_stops, furthest_off, planned_for
from revani.core.watch.signs import BATTERY_LOW, LATE_S, NOT_IN_PLACE, PASSED, Tone, gaps_told

# A battery that ends within so much of the plan is as planned (memory).
_NEAR_PLANNED = 0.1
# A list of what was missed, or came otherwise, has no more rows than this.
_MOST_ROWS = 60


class ReportLine(BaseModel):
    """One of the ten lines."""

    model_config = ConfigDict(frozen=True)

    label: str
    text: str
    tone: Tone = "good"


class ReportRow(BaseModel):
    """Frames that went another way than planned: which, when, and how."""

    model_config = ConfigDict(frozen=True)

    frames: str
    clock: str
    told: str


class Report(BaseModel):
    """What became of a run."""

    model_config = ConfigDict(frozen=True)

    run: UUID
    name: str
    under: str
    lines: tuple[ReportLine, ...]
    todo: tuple[str, ...]
    missed: tuple[ReportRow, ...]
    otherwise: tuple[ReportRow, ...]
    verdicts: tuple[GoVerdict, ...]
    notes: tuple[str, ...]


@dataclass(frozen=True)
class _Group:
    """Frames one after the other of which the same is said."""

    first: JournalFrame
    last: JournalFrame
    told: str

    @property
    def frames(self) -> str:
        """Their numbers."""
        a, b = self.first.number, self.last.number
        return f"{a:,}" if a == b else f"{a:,} to {b:,}"

    @property
    def named(self) -> str:
        """Their numbers in a sentence."""
        return f"frame{'s' if len(self) > 1 else ''} {self.frames}"

    def __len__(self) -> int:
        return self.last.number - self.first.number + 1


def report(
    run: Run, program: Program, journal: Sequence[JournalFrame], verdicts: Sequence[GoVerdict] = (),
    sound: Sequence[SoundRow] = (),
) -> Report:  # fmt: skip
    """The report of a run that has ended, or as it stands; `sound` is what is said of the sound of what it filmed."""
    taken = [frame for frame in journal if frame.outcome == "taken"]
    missed = _grouped([(frame, frame.reason) for frame in journal if frame.outcome == "missed"])
    other = _grouped([(frame, told) for frame in taken if (told := _setting_told(program, frame))])
    clocked = by_the_clock(program.shot)
    lines = [_whole(run, program, clocked)]
    if not clocked:
        lines += [
            *_hours(program, taken), *_missed(missed), *(_judged(one) for one in verdicts[:1]),
            *_settings(taken, other), *_sound(sound), *_battery(program, taken), *_card(taken), *_lateness(run, taken),
            *_rig(taken),
        ]  # fmt: skip
    shot, at = program.shot, program.local(program.start_s)
    return Report(
        run=run.id, name=shot.name, under=f"{shot.place.name} · {at:%A %-d %B %Y} · times in {at:%Z}",
        lines=tuple(lines[:10]), todo=tuple(_todo(run, program, taken, missed, other, verdicts, sound, clocked)),
        missed=_rows(program, missed), otherwise=_rows(program, other), verdicts=tuple(verdicts), notes=run.notes,
    )  # fmt: skip


def _whole(run: Run, program: Program, clocked: bool) -> ReportLine:
    if clocked:
        told = f"Nobody was linked to it: by the clock {count(run.frame_count, 'frame')} should be on its card."
        return ReportLine(label="what came", text=told, tone="mind")
    told, tone = gaps_told(run.state, run.frame_count, run.taken, run.missed, run.reason)
    film = "" if program.shot.live else f" {duration(round(float(run.taken / program.timing.fps), 1))} of film."
    return ReportLine(label="what came", text=told + film, tone=tone)


def _hours(program: Program, taken: Sequence[JournalFrame]) -> Iterator[ReportLine]:
    if not taken:
        yield ReportLine(label="from, to", text="No frame was taken.", tone="bad")
        return
    begins, ends = (one.fired_s or one.planned_s for one in (taken[0], taken[-1]))
    if program.shot.live:
        # One file: when it was closed is not noted with it.
        planned = f"{program.local(program.start_s):%H:%M:%S} to {program.local(program.end_s):%H:%M:%S}"
        yield ReportLine(label="from, to", text=f"It began at {program.local(begins):%H:%M:%S}; planned {planned}.")
        return
    planned = f"{program.local(program.start_s):%H:%M} to {program.local(float(program.at_s[-1])):%H:%M}"
    text = f"{program.local(begins):%H:%M:%S} to {program.local(ends):%H:%M:%S}; planned {planned}."
    yield ReportLine(label="from, to", text=text)


def _missed(missed: Sequence[_Group]) -> Iterator[ReportLine]:
    if missed:
        most = max(missed, key=len)
        more = f"; {len(missed) - 1} more gaps" if len(missed) > 2 else "; one more gap" if len(missed) == 2 else ""
        text = f"The widest gap is {most.named}: {most.told}{more.rstrip('.')}".rstrip(".") + "."
        yield ReportLine(label="missing", text=text, tone="bad")


def _judged(verdict: GoVerdict) -> ReportLine:
    tones: dict[str, Tone] = {"go": "good", "mind": "mind", "stop": "bad"}
    return ReportLine(label="first frames", text=verdict.told, tone=tones[verdict.level])


def _settings(taken: Sequence[JournalFrame], other: Sequence[_Group]) -> Iterator[ReportLine]:
    if not any(frame.settings for frame in taken):
        return
    if not other:
        yield ReportLine(label="settings", text="Every frame says of itself what was planned for it.")
        return
    several = sum(len(one) for one in other)
    text = f"{count(several, 'frame')} came otherwise, first frame {other[0].first.number:,}: {other[0].told}."
    yield ReportLine(label="settings", text=text, tone="mind")


def _sound(sound: Sequence[SoundRow]) -> Iterator[ReportLine]:
    if sound:
        text = "; ".join(one.text if one.label in ("sound", "no sound") else f"{one.label} {one.text}" for one in sound)
        tone = max((one.tone for one in sound), key=["good", "mind", "bad"].index)
        yield ReportLine(label="sound", text=f"{text[:1].upper()}{text[1:].rstrip('.')}.", tone=tone)


def _battery(program: Program, taken: Sequence[JournalFrame]) -> Iterator[ReportLine]:
    told = _batteries(taken)
    if not told:
        return
    (_, first), (number, last) = told[0], told[-1]
    planned = max(float(program.battery_left[min(number, program.frame_count) - 1]), 0.0)
    tone: Tone = "good" if last >= planned - _NEAR_PLANNED and last > BATTERY_LOW else "mind"
    text = f"From {first:.0%} to {last:.0%}; {planned:.0%} was planned to be left."
    yield ReportLine(label="battery", text=text, tone=tone)


def _batteries(taken: Sequence[JournalFrame]) -> list[tuple[int, float]]:
    """What the camera said of its battery, with the frames at which it did."""
    said = [(one.number, one.camera.battery_left) for one in taken if one.camera is not None]
    return [(number, left) for number, left in said if left is not None]


def _written(taken: Sequence[JournalFrame]) -> tuple[int, int | None]:
    """The bytes of all frames, and how many are free on the card after the last; None where it does not say."""
    said = [one.camera.card_free_bytes for one in taken if one.camera is not None]
    free = [one for one in said if one is not None]
    return sum(one.size_bytes or 0 for one in taken), free[-1] if free else None


def _card(taken: Sequence[JournalFrame]) -> Iterator[ReportLine]:
    used, free = _written(taken)
    if free is not None:
        yield ReportLine(label="card", text=f"{gigabytes(used)} written, {gigabytes(free)} left.")


def _lateness(run: Run, taken: Sequence[JournalFrame]) -> Iterator[ReportLine]:
    # The first of a run that was begun at once comes when the camera is set up.
    late = [((one.fired_s - one.planned_s) / run.speed, one.number) for one in taken if one.fired_s and one.number > 1]
    if late:
        most, number = max(late)
        middle = float(np.median([one for one, _ in late]))
        text = f"{max(middle, 0) * 1000:,.0f} ms in the middle, {max(most, 0):.2f} s at most, in frame {number:,}."
        yield ReportLine(label="late", text=text, tone="good" if most < LATE_S else "mind")


def _rig(taken: Sequence[JournalFrame]) -> Iterator[ReportLine]:
    most: dict[AxisName, float] = {}
    for rig in (one.rig for one in taken if one.rig is not None):
        for name, value in rig.reached.items():
            if name in rig.planned:
                most[name] = max(most.get(name, 0.0), abs(value - rig.planned[name]))
    told = [f"{name} {measure.show(off)}" for name, off in most.items() if (measure := driven_measure(name))]
    if told:
        stalled = _stalled(taken)
        more = f" It was stalled for {count(stalled, 'frame')}." if stalled else ""
        text = f"At most off its place: {', '.join(told)}.{more}"
        yield ReportLine(label="rig", text=text, tone="bad" if stalled else "good")


def _stalled(taken: Sequence[JournalFrame]) -> int:
    return sum(one.rig is not None and bool(one.rig.stalled) for one in taken)


def _setting_told(program: Program, frame: JournalFrame) -> str:
    """How a frame's own word differs from what was planned for it; nothing where it does not."""
    said = frame.settings
    if said is None or frame.number > program.frame_count:
        return ""
    off = furthest_off(program, frame.number, said.shutter_s, said.aperture, said.iso)
    if off is None or off.stops < allowed_stops(program.shot)[0]:
        return ""
    return f"{settings_told(said)}, planned {settings_told(planned_for(program, frame.number))}"


def _grouped(found: Sequence[tuple[JournalFrame, str]]) -> list[_Group]:
    """Frames one after the other of which the same is said, together."""
    groups: list[_Group] = []
    for told, several in groupby(found, key=lambda one: one[1]):
        for frame, _ in several:
            last = groups[-1] if groups and groups[-1].told == told else None
            if last is not None and last.last.number == frame.number - 1:
                groups[-1] = replace(last, last=frame)
            else:
                groups.append(_Group(frame, frame, told))
    return groups


def _rows(program: Program, groups: Sequence[_Group]) -> tuple[ReportRow, ...]:
    rows = [
        ReportRow(frames=one.frames, clock=f"{program.local(one.first.planned_s):%H:%M:%S}", told=one.told)
        for one in groups[:_MOST_ROWS]
    ]
    if len(groups) > _MOST_ROWS:
        rows.append(ReportRow(frames="…", clock="", told=f"{len(groups) - _MOST_ROWS:,} more; the journal has all."))
    return tuple(rows)


def _todo(
    run: Run, program: Program, taken: Sequence[JournalFrame], missed: Sequence[_Group], other: Sequence[_Group],
    verdicts: Sequence[GoVerdict], sound: Sequence[SoundRow], clocked: bool,
) -> Iterator[str]:  # fmt: skip
    """What to do before the next time, by what happened."""
    if clocked:
        yield "Bring its card home and count what is on it: nothing of it is known here."
        return
    never = run.frame_count - run.taken - run.missed
    if never > 0 and run.reason:
        yield f"See to what ended it: {run.reason[0].lower() + run.reason[1:]}"
    for told in dict.fromkeys(one.told for one in missed):
        several = sum(len(one) for one in missed if one.told == told)
        late = told.startswith((PASSED, NOT_IN_PLACE))
        helps = "A longer interval gives it room." if late else "See to camera, cable and card."
        yield f"{count(several, 'frame')} missed: {told.rstrip('.')}. {helps}"
    for why in (why for one in verdicts[:1] if one.level != "go" for why in one.reasons):
        yield f"{why.text} See to it on the desk." if why.field else why.text
    if lost := lost_told(sound):
        yield f"{lost} See to microphone, cable and level before the next take."
    if other and not verdicts:
        yield f"Look why frame {other[0].first.number:,} came with {other[0].told}."
    battery = [left for _, left in _batteries(taken)]
    if battery and battery[-1] < max(BATTERY_LOW, battery[0] - battery[-1]):
        yield f"Charge the battery: {battery[-1]:.0%} is left, the same again takes {battery[0] - battery[-1]:.0%}."
    used, free = _written(taken)
    if free is not None and free < used:
        yield f"Empty the card: {gigabytes(free)} are free, the same again takes {gigabytes(used)}."
    if _stalled(taken):
        yield "Run the move once by hand: an axis stalled."
