"""A run as its page shows it, and its journal row by row: what is known of it, in words."""

from collections.abc import Sequence
from datetime import datetime
from typing import Any, NamedTuple
from uuid import UUID

import numpy as np
from pydantic import BaseModel

from revani.core.documents import AxisName, driven_measure
from revani.core.documents.run import (
    Intervention,
    InterventionKind,
    JournalFrame,
    RigNote,
    Run,
    RunnerSign,
    RunState,
    Taken,
    Turn,
)
from revani.core.light.dials import marked_aperture, marked_iso, show_shutter
from revani.core.light.firing import by_the_clock
from revani.core.picture.skylight import light_strip
from revani.core.program.compiled import Program
from revani.core.program.intervened import leg_ends_at
from revani.core.quantities.arrays import Array
from revani.core.quantities.units import duration, gigabytes, stops
from revani.core.shown.loom_move import turning_points
from revani.core.watch.alarms import AlarmLevel, Ending, KeptAlarm, Watched
from revani.core.watch.first_frames import GoVerdict, look_at_its_screen
from revani.core.watch.settings import planned_for
from revani.core.watch.signs import (
    BATTERY_LOW,
    BATTERY_OUT,
    CARD_LOW_BYTES,
    CLOCK_APART_S,
    LATE_S,
    Seen,
    Sign,
    Tone,
    gaps_told,
    of_clock,
    sign_of,
)
from revani.core.watch.trends import Sample, ends_at_s

# So many points show how a thing was planned to run out.
_TREND_POINTS = 60
_UNDER_WAY = 3
# So much later than its slot says a picture may come, in real seconds: it has to be fetched and noted.
_SLACK_REAL_S = 3.0
# A run that waits longer than this for its first frame says so.
_SOON_S = 5.0


class Figure(BaseModel):
    """A figure to be read from five metres."""

    label: str
    text: str
    state: Tone = "good"
    beside: str = ""


class TrendLine(BaseModel):
    """Points of a line: which part of the shot has passed, and which part is left of what runs out, 0 to 1 each."""

    passed: list[float]
    left: list[float]


class Trend(BaseModel):
    """How a thing runs out, planned and measured on one axis."""

    label: str
    planned: TrendLine
    measured: TrendLine
    told: str
    tone: Tone


class AlarmView(BaseModel):
    """What a person is called for: since when and until when in words, and who has seen it."""

    id: UUID
    level: AlarmLevel
    text: str
    advice: str
    since: str
    over: bool
    seen: bool
    seen_told: str


class RunView(BaseModel):
    """A run as the Run page shows it."""

    id: UUID
    shot_id: UUID
    rig: str
    name: str
    place: str
    state: RunState
    headline: str
    reason: str
    speed: float
    frame_count: int
    taken: int
    missed: int
    next_number: int | None
    next_in_s: float | None
    next_in: str
    progress: float
    film_so_far: str
    last_frame_clock: str
    left: str
    newest_number: int | None
    newest_settings: str
    picture_age: str
    figures: list[Figure]
    armed_clock: str
    start_clock: str
    end_clock: str
    start_s: float
    end_s: float
    now_s: float
    sky_colours: list[str]
    live: bool
    by_clock: bool
    expected: int
    turns: list[str]
    zone: str
    sign: str
    sign_tone: Tone
    overridden: list[str]
    notes: list[str]
    gaps: str
    gaps_tone: Tone
    film_name: str
    verdict: GoVerdict | None = None
    look_at: str = ""
    trends: list[Trend] = []
    alarms: list[AlarmView] = []
    settled: bool = False
    paused: bool = False
    changes: list[str] = []
    can_change: list[InterventionKind] = []
    moving: list[AxisName] = []


class FrameView(BaseModel):
    """One journal entry for reading."""

    number: int
    clock: str
    outcome: str
    reason: str
    settings: str
    planned: str
    late_s: float | None
    size: str
    rig: str


_HEADLINES: dict[RunState, str] = {
    "armed": "Armed", "running": "Running", "finished": "Finished", "stopped": "Stopped", "failed": "Broken off",
    "missed": "Missed its start",
}  # fmt: skip


class Standing(NamedTuple):
    """What a run stands on: its rows, its program, its newest journal entries, its runner's last word, the time.

    `now_s` is the stage's clock; `film_name` what its film will be called; `verdict` the last one on its frames;
    `battery` what the camera told of its battery, from time to time; `alarms` all that were raised;
    `settled` whether it has ended and no more will be said of it; `passed_over` frames were missed by order.
    """

    run: Run
    program: Program
    newest: Sequence[JournalFrame]
    word: RunnerSign | None
    now_s: float
    film_name: str
    verdict: GoVerdict | None = None
    battery: Sequence[Sample] = ()
    alarms: Sequence[KeptAlarm] = ()
    settled: bool = False
    passed_over: int = 0


class _Progress(NamedTuple):
    """How far a run is: frames used up, the newest that was taken, the next one and when, the newest's age.

    `expected` is how many should be on the card by now, where nobody is linked to the camera.
    """

    expected: int
    used: int
    newest: JournalFrame | None
    next_number: int | None
    next_in_s: float | None
    age_s: float | None


def _progress(standing: Standing) -> _Progress:
    run, program, now_s = standing.run, standing.program, standing.now_s
    expected = int(np.searchsorted(program.at_s, now_s, side="right")) if run.state != "armed" else 0
    expected = min(expected, 1) if program.shot.live else expected
    used = expected if by_the_clock(program.shot) else run.taken + run.missed
    newest = next((frame for frame in reversed(standing.newest) if frame.outcome == "taken"), None)
    live = run.state in ("armed", "running")
    next_number = used + 1 if live and used < run.frame_count else None
    next_in_s = max(0.0, float(program.at_s[used]) - now_s) if next_number else None
    age_s = now_s - newest.fired_s if newest and newest.fired_s and live else None
    return _Progress(expected, used, newest, next_number, next_in_s, age_s)


def _filming(standing: Standing, at: _Progress) -> bool:
    """Whether its one take has begun: a film has nothing more to wait for then."""
    return standing.run.state == "running" and standing.program.shot.live and (at.next_in_s or 0) <= 0


def _camera_says(standing: Standing) -> dict[str, Any]:
    return (standing.word.camera or {}) if standing.word else {}


def _sign(standing: Standing, at: _Progress) -> Sign | None:
    """What can be said of the run just now."""
    run, program, word = standing.run, standing.program, standing.word
    starts = f"{program.local(program.start_s):%H:%M}"
    if by_the_clock(program.shot):
        return of_clock(run.state, at.expected, starts)
    slot_s = float(program.slot_s[min(at.used, program.frame_count - 1)])
    return sign_of(
        Seen(
            state=run.state, live=program.shot.live, reports=program.shot.body.reports_recording, taken=run.taken,
            missed=run.missed, word_age_s=word.age_s if word else None,
            trouble=str(_camera_says(standing).get("trouble", "")), picture_age_s=at.age_s,
            next_in_s=None if _filming(standing, at) else at.next_in_s,
            slot_s=slot_s + float(program.exposures.shutter_s.max()), starts=starts, waits_for=run.waits_for,
            slack_s=_SLACK_REAL_S * run.speed, overdue_s=standing.now_s - program.start_s if run.speed == 1 else None,
        )
    )  # fmt: skip


def watched(standing: Standing) -> Watched:
    """What a run is watched for, as it stands."""
    run, at, verdict = standing.run, _progress(standing), standing.verdict
    live = run.state in ("armed", "running")
    return Watched(
        state=run.state, sign=_sign(standing, at), reason=run.reason, missed=run.missed - standing.passed_over,
        verdict=verdict.level if verdict else None, verdict_told=verdict.told if verdict else "",
        endings=_endings(standing),
        # Until it is well under way the last word may be of a scene before this one.
        clock_ahead_s=_camera_says(standing).get("clock_ahead_s") if live and run.taken > _UNDER_WAY else None,
        stalled=bool(at.newest and at.newest.rig and at.newest.rig.stalled),
    )  # fmt: skip


def _battery_ends_s(standing: Standing) -> float | None:
    """When the camera's battery ends at the drain that it tells; None where that cannot be said."""
    return ends_at_s(standing.battery, BATTERY_OUT)


def _endings(standing: Standing) -> tuple[Ending, ...]:
    """What runs out before the last frame, as it is measured."""
    program, at_s = standing.program, _battery_ends_s(standing)
    last_s = float(program.at_s[-1])
    if at_s is None or at_s >= last_s:
        return ()
    in_s = (at_s - standing.now_s) / standing.run.speed
    return (Ending("the battery", in_s, f"{program.local(at_s):%H:%M}", f"{program.local(last_s):%H:%M}"),)


def _battery_trend(standing: Standing) -> Trend | None:
    """The camera's battery as planned and as told, over the shot; None where it tells nothing."""
    program, told = standing.program, standing.battery
    if len(told) < 2:
        return None
    start_s, length_s = program.start_s, max(program.end_s - program.start_s, 1.0)

    def over(at_s: Array, left: Array) -> TrendLine:
        passed = np.round((at_s - start_s) / length_s, 4)
        return TrendLine(passed=passed.tolist(), left=np.round(np.clip(left, 0.0, 1.0), 4).tolist())

    some = np.linspace(0, program.frame_count - 1, min(program.frame_count, _TREND_POINTS)).astype(int)
    ends_s = _battery_ends_s(standing)
    early = bool(_endings(standing))
    return Trend(
        label="battery", planned=over(program.at_s[some], program.battery_left[some]),
        measured=over(*np.array(told).T),
        told="" if ends_s is None else f"at this rate it ends at {program.local(ends_s):%H:%M}"
        if early else "at this rate it lasts",
        tone="mind" if early else "good",
    )  # fmt: skip


def run_view(standing: Standing) -> RunView:
    """A run as it stands now, in words."""
    run, program, now_s = standing.run, standing.program, standing.now_s
    shot, at = program.shot, _progress(standing)
    clock, last_taken, age_s = by_the_clock(shot), at.newest, at.age_s
    live = run.state in ("armed", "running")
    head = "Waiting" if run.state == "running" and at.used == 0 and (at.next_in_s or 0) > _SOON_S else ""
    filming = _filming(standing, at)
    next_number, next_in_s = (None, None) if filming else (at.next_number, at.next_in_s)
    head = "Filming" if filming else head or _HEADLINES[run.state]
    if clock and run.state == "running":
        head = "By the clock"
    sign = _sign(standing, at)
    gaps, gaps_tone = (
        (run.reason, "mind") if clock else gaps_told(run.state, run.frame_count, run.taken, run.missed, run.reason)
    )
    return RunView(
        id=run.id,
        shot_id=run.shot_id,
        rig=run.rig,
        name=shot.name,
        place=shot.place.name,
        state=run.state,
        headline="Stopping" if run.stop_wanted and run.state == "running" else "Paused" if _paused(run) else head,
        reason=run.reason,
        speed=run.speed,
        frame_count=run.frame_count,
        taken=run.taken,
        missed=run.missed,
        next_number=next_number,
        next_in_s=next_in_s,
        next_in=duration(round(next_in_s)) if next_in_s is not None else "",
        progress=at.used / run.frame_count,
        film_so_far=duration(round(_film_so_far_s(run, program, now_s), 1)),
        last_frame_clock=f"{program.local(float(program.at_s[-1])):%H:%M}",
        left=duration(max(0, round(float(program.at_s[-1]) - now_s))) if live else "",
        newest_number=last_taken.number if last_taken else None,
        newest_settings=settings_told(last_taken.settings) if last_taken else "",
        picture_age=f"{duration(max(0, round(age_s)))} ago" if age_s is not None else "",
        figures=[] if clock else _figures(run, program, last_taken, _camera_says(standing)),
        armed_clock=f"{datetime.fromtimestamp(run.armed_at.timestamp(), program.zone):%a %-d %b, %H:%M %Z}",
        start_clock=f"{program.local(program.start_s):%H:%M}",
        end_clock=f"{program.local(program.end_s):%H:%M}",
        start_s=program.start_s,
        end_s=program.end_s,
        now_s=now_s,
        sky_colours=light_strip(program.sun_altitude_deg[:: max(1, program.frame_count // 60)]),
        live=shot.live,
        by_clock=clock,
        expected=at.expected,
        turns=_turns(program, last_taken),
        zone=f"{program.local(program.start_s):%Z}",
        sign=sign.text if sign else "",
        sign_tone=sign.tone if sign else "good",
        overridden=list(run.overridden),
        notes=list(run.notes),
        gaps=gaps,
        gaps_tone=gaps_tone,
        film_name=standing.film_name,
        verdict=standing.verdict,
        look_at=look_at_its_screen(program) if clock and live else "",
        trends=[trend for trend in (_battery_trend(standing),) if trend],
        alarms=_alarms(standing),
        settled=standing.settled,
        paused=_paused(run),
        changes=[f"{one.by}: {one.kind}, not taken up yet" for one in run.interventions if _waits(one)]
        if run.state == "running"
        else [],
        can_change=_can_change(run, program, at.used + 1),
        moving=[name for name in program.motion.positions if name != "focus"] if program.motion else [],
    )


def _waits(one: Intervention) -> bool:
    return one.from_number is None and not one.refused


def _paused(run: Run) -> bool:
    """Whether the last word on it was to pause."""
    words = [one.kind for one in run.interventions if one.kind in ("pause", "resume") and not one.refused]
    return run.state == "running" and bool(words) and words[-1] == "pause"


def _can_change(run: Run, program: Program, number: int) -> list[InterventionKind]:
    """What can be changed of it now."""
    if run.state != "running" or program.shot.live or by_the_clock(program.shot):
        return []
    found: list[InterventionKind] = ["resume" if _paused(run) else "pause", "brighter"]
    if leg_ends_at(program, number) is not None:
        found += ["skip a leg", "nudge"]
    if number < program.frame_count:
        found.append("end early")
    if program.shot.pace is None and program.shot.walk is None:
        found.append("extend")
    return found


def _alarms(standing: Standing) -> list[AlarmView]:
    """Those that a person has to do with, first those that nobody has seen, the worst first."""
    zone = standing.program.zone
    there = [one for one in standing.alarms if not one.done_with]
    there.sort(key=lambda one: (one.acknowledged_at is not None, one.level != "come", -one.raised_at.timestamp()))
    return [
        AlarmView(
            id=one.id, level=one.level, text=one.text, advice=one.advice, over=one.over_at is not None,
            since=f"since {one.raised_at.astimezone(zone):%H:%M:%S}" if one.over_at is None
            else f"{one.raised_at.astimezone(zone):%H:%M:%S} – {one.over_at.astimezone(zone):%H:%M:%S}, over",
            seen=one.acknowledged_at is not None,
            seen_told="" if one.acknowledged_at is None
            else f"seen {one.acknowledged_at.astimezone(zone):%H:%M:%S} by {one.acknowledged_by}",
        )
        for one in there
    ]  # fmt: skip


def _film_so_far_s(run: Run, program: Program, now_s: float) -> float:
    """How much film there is: of the frames that are taken, or of a film that is being made."""
    if program.shot.live and run.state == "running" and not run.taken:
        return min(max(now_s - program.start_s, 0.0), float(program.timing.event_s))
    return float(program.timing.playback_s * run.taken if program.shot.live else run.taken / program.timing.fps)


def _turns(program: Program, taken: JournalFrame | None) -> list[str]:
    """The turning points of a filmed move: those that the rig reported, else those that are planned."""
    motion = program.motion
    if not program.shot.live or motion is None:
        return []
    reported = taken.rig.turns if taken and taken.rig else ()
    if reported:
        return [f"{duration(round(turn.due_s - program.start_s, 1))}: {_rig_text(turn)}" for turn in reported]
    return [f"{at}: planned" for at in turning_points(program)]


def _set_up_for(run: Run, frame: JournalFrame) -> bool:
    """Whether a frame is the first of a run that was started at once: it comes when the camera is set up."""
    return frame.number == 1 and run.shot["start"]["by"] == "instant"


def _planned_battery(program: Program, newest: JournalFrame | None) -> str:
    """What was planned to be left of the battery by the newest frame; of a film at its end, of which it is one."""
    if newest is None:
        return ""
    at = program.frame_count - 1 if program.shot.live else min(newest.number, program.frame_count) - 1
    return f"planned {max(float(program.battery_left[at]), 0.0):.0%}"


def _figures(run: Run, program: Program, newest: JournalFrame | None, camera: dict[str, Any]) -> list[Figure]:
    ahead = camera.get("clock_ahead_s")
    says = newest.camera if newest else None
    battery, free = (says.battery_left, says.card_free_bytes) if says else (None, None)
    late_s = None
    if newest and newest.fired_s and not _set_up_for(run, newest):
        late_s = (newest.fired_s - newest.planned_s) / run.speed
    late = "–" if late_s is None else f"{late_s * 1000:.0f} ms" if late_s < 1 else f"{late_s:.1f} s"
    return [
        Figure(
            label="battery", text="–" if battery is None else f"{battery:.0%}",
            state="good" if battery is None or battery > BATTERY_LOW else "mind" if battery > BATTERY_OUT else "bad",
            beside=_planned_battery(program, newest),
        ),
        *(
            Figure(label=f"power of {one.name}", text=f"until {program.local(float(program.at_s[one.ends_at])):%H:%M}",
                   state="mind")
            for one in program.supplies
            if one.carries and one.ends_at is not None
        ),
        Figure(
            label="card left", text="–" if free is None else gigabytes(free),
            state="good" if free is None or free > CARD_LOW_BYTES else "mind",
        ),
        Figure(label="missed", text=f"{run.missed:,}", state="bad" if run.missed else "good"),
        Figure(
            label="late", text=late, state="good" if late_s is None or late_s < LATE_S else "mind",
        ),
        *(
            [
                Figure(
                    label="camera clock", text=f"{ahead:+.1f} s", state="good" if abs(ahead) < CLOCK_APART_S else "mind"
                )
            ]
            if ahead is not None
            else []
        ),
    ]  # fmt: skip


def settings_told(taken: Taken | None) -> str:
    """Shutter, aperture and ISO in words; nothing where they are not known."""
    if taken is None:
        return ""
    return f"{show_shutter(taken.shutter_s)} · f/{marked_aperture(taken.aperture):g} · ISO {marked_iso(taken.iso)}"


def _rig_text(rig: RigNote | Turn | None) -> str:
    """Where the axes were, and how far off that was: `slide 1,000.1 mm (0.07 mm off)`."""
    if rig is None:
        return ""
    return ", ".join(
        f"{name} {measure.show(value, 1)} ({measure.show(value - rig.planned[name])} off)"
        for name, value in rig.reached.items()
        if name in rig.planned and (measure := driven_measure(name))
    )


def frame_view(run: Run, program: Program, frame: JournalFrame) -> FrameView:
    """A journal entry, planned beside actual."""
    set_up = _set_up_for(run, frame)
    at = frame.number - 1
    planned = planned_for(program, frame.number)
    return FrameView(
        number=frame.number,
        clock=f"{program.local(frame.fired_s or frame.planned_s):%H:%M:%S}",
        outcome=frame.outcome,
        reason=frame.reason,
        settings=settings_told(frame.settings),
        planned=f"{settings_told(planned)} · {stops(float(program.exposures.error_stops[at]))}",
        late_s=None if frame.fired_s is None or set_up else round(frame.fired_s - frame.planned_s, 3),
        size=gigabytes(frame.size_bytes) if frame.size_bytes else "",
        rig=_rig_text(frame.rig),
    )
