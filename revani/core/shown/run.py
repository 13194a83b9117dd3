"""A run as its page shows it: what is known of it, in words."""

from datetime import datetime
from typing import Any
from uuid import UUID

from pydantic import BaseModel

from revani.core.documents import AxisName
from revani.core.documents.run import Intervention, InterventionKind, JournalFrame, Run, RunState
from revani.core.light.firing import by_the_clock
from revani.core.picture.skylight import light_strip
from revani.core.program.compiled import Program
from revani.core.program.intervened import can_be_done, nudgeable
from revani.core.quantities.units import decimals, duration, gigabytes
from revani.core.shown.called import AlarmView, Trend, alarms_shown, trends
from revani.core.shown.frames import rig_text, set_up_for, settings_told
from revani.core.shown.loom_move import turning_points
from revani.core.shown.standing import (
    Standing,
    camera_says,
    filming,
    may_begin,
    progress,
    sign_now,
    starts_s,
    waits,
    waits_until,
)
from revani.core.watch.around import Around
from revani.core.watch.first_frames import GoVerdict, look_at_its_screen
from revani.core.watch.signs import BATTERY_LOW, BATTERY_OUT, CARD_LOW_BYTES, CLOCK_APART_S, LATE_S, Tone, gaps_told

# A run that waits longer than this for its first frame says so.
_SOON_S = 5.0


class Figure(BaseModel):
    """A figure to be read from five metres."""

    label: str
    text: str
    state: Tone = "good"
    beside: str = ""


class RunView(BaseModel):
    """A run as the Run page shows it."""

    id: UUID
    shot_id: UUID
    rig: str
    rig_name: str
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
    changes: list[str] = []
    can_change: list[InterventionKind] = []
    moving: list[AxisName] = []
    waits_until: str = ""
    may_begin: bool = False
    kept_before: bool = False
    camera_sleeps: bool = False


_HEADLINES: dict[RunState, str] = {
    "armed": "Armed", "running": "Running", "finished": "Finished", "stopped": "Stopped", "failed": "Broken off",
    "missed": "Missed its start",
}  # fmt: skip


def run_view(standing: Standing) -> RunView:
    """A run as it stands now, in words."""
    run, program, now_s = standing.run, standing.program, standing.now_s
    shot, at = program.shot, progress(standing)
    clock, last_taken, age_s = by_the_clock(shot), at.newest, at.age_s
    live = run.state in ("armed", "running")
    soon = (at.next_in_s or 0) <= _SOON_S and not waits(standing)
    head = "Waiting" if run.state == "running" and at.used == 0 and not soon else ""
    films = filming(standing, at)
    next_number, next_in_s = (None, None) if films or waits(standing) else (at.next_number, at.next_in_s)
    head = "Filming" if films else head or _HEADLINES[run.state]
    if clock and run.state == "running":
        head = "By the clock"
    sign = sign_now(standing, at)
    gaps, gaps_tone = (
        (run.reason, "mind") if clock else gaps_told(run.state, run.frame_count, run.taken, run.missed, run.reason)
    )
    return RunView(
        id=run.id,
        shot_id=run.shot_id,
        rig=run.rig,
        rig_name=run.rig_name or "",
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
        figures=[]
        if clock
        else [*_figures(run, program, last_taken, camera_says(standing)), *_around(standing.around)],
        armed_clock=f"{datetime.fromtimestamp(run.armed_at.timestamp(), program.zone):%a %-d %b, %H:%M %Z}",
        start_clock=f"{program.local(starts_s(standing)):%H:%M}",
        end_clock=f"{program.local(program.end_s):%H:%M}",
        start_s=starts_s(standing),
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
        trends=trends(standing),
        alarms=alarms_shown(standing),
        settled=standing.settled,
        changes=[f"{one.by}: {one.kind}, not taken up yet" for one in run.interventions if _waits(one)]
        if run.state == "running"
        else [],
        can_change=[] if waits(standing) else _can_change(run, program, at.used + 1),
        moving=nudgeable(program),
        waits_until=waits_until(standing),
        may_begin=may_begin(standing),
        kept_before=run.begins_s is not None and shot.waits is not None and shot.waits.before_s > 0,
        camera_sleeps=bool(camera_says(standing).get("asleep")) and waits(standing),
    )


def _waits(one: Intervention) -> bool:
    return one.from_number is None and not one.refused


def _paused(run: Run) -> bool:
    """Whether the last word on it was to pause."""
    words = [one.kind for one in run.interventions if one.kind in ("pause", "resume") and not one.refused]
    return run.state == "running" and bool(words) and words[-1] == "pause"


def _can_change(run: Run, program: Program, number: int) -> list[InterventionKind]:
    """What can be changed of it now."""
    if run.state != "running" or by_the_clock(program.shot):
        return []
    other: InterventionKind = "pause" if _paused(run) else "resume"
    return [kind for kind in can_be_done(program, number) if kind != other]


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
        return [f"{duration(round(turn.due_s - program.start_s, 1))}: {rig_text(turn)}" for turn in reported]
    return [f"{at}: planned" for at in turning_points(program)]


def _planned_battery(program: Program, newest: JournalFrame | None) -> str:
    """What was planned to be left of the battery by the newest frame; of a film at its end, of which it is one."""
    if newest is None:
        return ""
    at = program.frame_count - 1 if program.shot.live else min(newest.number, program.frame_count) - 1
    return f"planned {max(float(program.battery_left[at]), 0.0):.0%}"


def _around(around: Around) -> list[Figure]:
    """What sensors tell of its surroundings; what none tells is not there."""
    found = []
    if (now_c := around.temperature_c) is not None:
        found.append(Figure(label="at the camera", text=f"{decimals(now_c, 0)} °C"))
    if (tilted := around.tilted_deg) is not None:
        found.append(Figure(label="tilted since frame 1", text=f"{decimals(tilted, 1)}°"))
    return found


def _figures(run: Run, program: Program, newest: JournalFrame | None, camera: dict[str, Any]) -> list[Figure]:
    ahead = camera.get("clock_ahead_s")
    says = newest.camera if newest else None
    battery, free = (says.battery_left, says.card_free_bytes) if says else (None, None)
    late_s = None
    if newest and newest.fired_s and not set_up_for(run, newest):
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
