"""A run as its page shows it, and its journal row by row: what is known of it, in words."""

from collections.abc import Sequence
from datetime import datetime
from typing import Any, NamedTuple
from uuid import UUID

import numpy as np
from pydantic import BaseModel

from revani.core.documents import driven_measure
from revani.core.documents.run import JournalFrame, RigNote, Run, RunnerSign, RunState, Taken, Turn
from revani.core.light.dials import marked_aperture, marked_iso, show_shutter
from revani.core.light.firing import by_the_clock
from revani.core.picture.skylight import light_strip
from revani.core.program.compiled import Program
from revani.core.quantities.units import duration, gigabytes, stops
from revani.core.shown.loom_move import turning_points
from revani.core.watch.first_frames import GoVerdict, look_at_its_screen
from revani.core.watch.settings import planned_for
from revani.core.watch.signs import (
    BATTERY_LOW,
    BATTERY_OUT,
    CARD_LOW_BYTES,
    CLOCK_APART_S,
    LATE_S,
    Seen,
    Tone,
    gaps_told,
    of_clock,
    sign_of,
)

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

    `now_s` is the stage's clock; `film_name` what its film will be called; `verdict` the last one on its frames.
    """

    run: Run
    program: Program
    newest: Sequence[JournalFrame]
    word: RunnerSign | None
    now_s: float
    film_name: str
    verdict: GoVerdict | None = None


def run_view(standing: Standing) -> RunView:
    """A run as it stands now, in words."""
    run, program, newest, word, now_s, film_name, verdict = standing
    shot = program.shot
    clock = by_the_clock(shot)
    # How many should be on the card by now, where nobody is linked to the camera.
    expected = int(np.searchsorted(program.at_s, now_s, side="right")) if run.state != "armed" else 0
    expected = min(expected, 1) if shot.live else expected
    used = expected if clock else run.taken + run.missed
    last_taken = next((frame for frame in reversed(newest) if frame.outcome == "taken"), None)
    live = run.state in ("armed", "running")
    next_number = used + 1 if live and used < run.frame_count else None
    next_in_s = max(0.0, float(program.at_s[used]) - now_s) if next_number else None
    head = "Waiting" if run.state == "running" and used == 0 and (next_in_s or 0) > _SOON_S else _HEADLINES[run.state]
    if run.state == "running" and shot.live and (next_in_s or 0) <= 0:
        # A film is one take: nothing more is due once it has begun.
        next_number = next_in_s = None
        head = "Filming"
    age_s = now_s - last_taken.fired_s if last_taken and last_taken.fired_s and live else None
    camera = (word.camera or {}) if word else {}
    slot_s = float(program.slot_s[min(used, program.frame_count - 1)])
    sign = sign_of(
        Seen(
            state=run.state, live=shot.live, reports=shot.body.reports_recording, taken=run.taken,
            missed=run.missed, word_age_s=word.age_s if word else None, trouble=str(camera.get("trouble", "")),
            picture_age_s=age_s, next_in_s=next_in_s, slot_s=slot_s + float(program.exposures.shutter_s.max()),
            starts=f"{program.local(program.start_s):%H:%M}", waits_for=run.waits_for,
            slack_s=_SLACK_REAL_S * run.speed, overdue_s=now_s - program.start_s if run.speed == 1 else None,
        )
    )  # fmt: skip
    if clock:
        sign = of_clock(run.state, expected, f"{program.local(program.start_s):%H:%M}")
        head = "By the clock" if run.state == "running" else head
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
        headline="Stopping" if run.stop_wanted and run.state == "running" else head,
        reason=run.reason,
        speed=run.speed,
        frame_count=run.frame_count,
        taken=run.taken,
        missed=run.missed,
        next_number=next_number,
        next_in_s=next_in_s,
        next_in=duration(round(next_in_s)) if next_in_s is not None else "",
        progress=used / run.frame_count,
        film_so_far=duration(round(_film_so_far_s(run, program, now_s), 1)),
        last_frame_clock=f"{program.local(float(program.at_s[-1])):%H:%M}",
        left=duration(max(0, round(float(program.at_s[-1]) - now_s))) if live else "",
        newest_number=last_taken.number if last_taken else None,
        newest_settings=settings_told(last_taken.settings) if last_taken else "",
        picture_age=f"{duration(max(0, round(age_s)))} ago" if age_s is not None else "",
        figures=[] if clock else _figures(run, program, last_taken, camera),
        armed_clock=f"{datetime.fromtimestamp(run.armed_at.timestamp(), program.zone):%a %-d %b, %H:%M %Z}",
        start_clock=f"{program.local(program.start_s):%H:%M}",
        end_clock=f"{program.local(program.end_s):%H:%M}",
        start_s=program.start_s,
        end_s=program.end_s,
        now_s=now_s,
        sky_colours=light_strip(program.sun_altitude_deg[:: max(1, program.frame_count // 60)]),
        live=shot.live,
        by_clock=clock,
        expected=expected,
        turns=_turns(program, last_taken),
        zone=f"{program.local(program.start_s):%Z}",
        sign=sign.text if sign else "",
        sign_tone=sign.tone if sign else "good",
        overridden=list(run.overridden),
        notes=list(run.notes),
        gaps=gaps,
        gaps_tone=gaps_tone,
        film_name=film_name,
        verdict=verdict,
        look_at=look_at_its_screen(program) if clock and live else "",
    )


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
