"""What a run stands on just now, and what is known of it: for its page, and for the watch."""

from collections.abc import Sequence
from typing import Any, NamedTuple

from revani.core.documents.run import JournalFrame, Run, RunnerSign
from revani.core.light.firing import by_the_clock
from revani.core.program.compiled import Program
from revani.core.shown.sound import SoundRow, lost_told
from revani.core.sky.weather import temperature_c
from revani.core.timing.trigger_words import show_ways
from revani.core.timing.triggers import SEEN, SILENT_S, HeardAgo, listens_to
from revani.core.timing.waiting import first_frame_s
from revani.core.watch.alarm import Alarm
from revani.core.watch.alarms import Ending, KeptAlarm, Watched
from revani.core.watch.around import Around, alarms_around
from revani.core.watch.first_frames import GoVerdict
from revani.core.watch.following import beside_told, late_told
from revani.core.watch.signs import BATTERY_OUT, Seen, Sign, of_clock, sign_of
from revani.core.watch.trends import Sample, ends_at_s

# After so many frames the camera's last word is of this scene, and not of the one before.
_UNDER_WAY = 3
# So much later than its slot says a picture may come, in real seconds: it has to be fetched and noted.
_SLACK_REAL_S = 3.0


class Standing(NamedTuple):
    """What a run stands on: its rows, its program, its newest journal entries, its runner's last word, the time.

    `now_s` is the stage's clock; `film_name` what its film will be called; `verdict` the last one on its frames;
    `battery` and `card` what the camera told of what is left of them, from time to time; `heard` the newest that its
    sensors said, while it waits, `around` what they tell of its surroundings; `alarms` all that were raised;
    `settled` whether it has ended and no more will be said of it; `passed_over` frames were missed by order; `sound`
    what is said of the sound of what it filmed.
    """

    run: Run
    program: Program
    newest: Sequence[JournalFrame]
    word: RunnerSign | None
    now_s: float
    film_name: str
    verdict: GoVerdict | None = None
    battery: Sequence[Sample] = ()
    card: Sequence[Sample] = ()
    heard: Sequence[HeardAgo] = ()
    around: Around = Around()
    alarms: Sequence[KeptAlarm] = ()
    settled: bool = False
    passed_over: int = 0
    sound: Sequence[SoundRow] = ()


class Progress(NamedTuple):
    """How far a run is: frames used up, the newest that was taken, the next one and when, the newest's age.

    `expected` is how many should be on the card by now, where nobody is linked to the camera.
    """

    expected: int
    used: int
    newest: JournalFrame | None
    next_number: int | None
    next_in_s: float | None
    age_s: float | None


def progress(standing: Standing) -> Progress:
    """How far a run is just now."""
    run, program, now_s = standing.run, standing.program, standing.now_s
    expected = program.due_by(now_s) if run.state != "armed" else 0
    used = expected if by_the_clock(program.shot) else run.taken + run.missed
    newest = next((frame for frame in reversed(standing.newest) if frame.outcome == "taken"), None)
    live = run.state in ("armed", "running")
    next_number = used + 1 if live and used < run.frame_count else None
    next_in_s = max(0.0, float(program.at_s[used]) - now_s) if next_number else None
    age_s = now_s - newest.fired_s if newest and newest.fired_s and live else None
    return Progress(expected, used, newest, next_number, next_in_s, age_s)


def waits(standing: Standing) -> bool:
    """Whether it waits for what begins it, or will."""
    run = standing.run
    return run.state in ("armed", "running") and run.begins_s is None and standing.program.shot.waits is not None


def starts_s(standing: Standing) -> float:
    """When it begins: to take frames, or to wait for what begins it."""
    return standing.run.planned_start_s if waits(standing) else standing.program.start_s


def waits_until(standing: Standing) -> str:
    """Until what it waits and how long, in words; nothing where it does not."""
    program = standing.program
    if not waits(standing) or program.shot.waits is None:
        return ""
    # Its program begins at the last moment, after the lead-in.
    closes = program.local(program.start_s - first_frame_s(program.shot, 0))
    at = f"{closes:%H:%M}" if closes.date() == program.local(standing.now_s).date() else f"{closes:%H:%M on %-d %b}"
    return f"until {show_ways(program.shot.waits.ways)}, to {at} at the latest"


def may_begin(standing: Standing) -> bool:
    """Whether a person may say just now that it begins: it waits for that, and has begun to."""
    run, waiting = standing.run, standing.program.shot.waits
    open_now = run.state == "running" and waits(standing) and standing.now_s >= starts_s(standing)
    return open_now and waiting is not None and "hand" in listens_to(waiting)


def filming(standing: Standing, at: Progress) -> bool:
    """Whether its one take has begun: a film has nothing more to wait for then."""
    return standing.run.state == "running" and standing.program.shot.live and (at.next_in_s or 0) <= 0


def camera_says(standing: Standing) -> dict[str, Any]:
    """What the camera said of itself with its runner's last word; nothing where there was none."""
    return (standing.word.camera or {}) if standing.word else {}


def sign_now(standing: Standing, at: Progress) -> Sign | None:
    """What can be said of the run just now."""
    run, program, word = standing.run, standing.program, standing.word
    start_s = starts_s(standing)
    starts = f"{program.local(start_s):%H:%M}"
    if by_the_clock(program.shot):
        return of_clock(run.state, at.expected, starts)
    slot_s = _slot_s(program, at)
    return sign_of(
        Seen(
            state=run.state, live=program.shot.live, reports=program.shot.body.reports_recording, taken=run.taken,
            missed=run.missed, word_age_s=word.age_s if word else None,
            trouble=str(camera_says(standing).get("trouble", "")), picture_age_s=at.age_s,
            next_in_s=None if filming(standing, at) else at.next_in_s,
            slot_s=slot_s + float(program.exposures.shutter_s.max()), starts=starts, waits_for=run.waits_for,
            slack_s=_SLACK_REAL_S * run.speed, overdue_s=standing.now_s - start_s if run.speed == 1 else None,
            waits=waits(standing),
        )
    )  # fmt: skip


def _slot_s(program: Program, at: Progress) -> float:
    return float(program.slot_s[min(at.used, program.frame_count - 1)])


def _around(standing: Standing) -> tuple[Alarm, ...]:
    """What sensors tell that a person is called for, of a run that goes on."""
    program, shot = standing.program, standing.program.shot
    if standing.run.state != "running":
        return ()
    stands = program.carried is None and not {"tilt", "roll"} & {*(program.motion.axes if program.motion else ())}
    hears = shot.take.hears and filming(standing, progress(standing))
    # On a faster stage it is another hour than the sensors'.
    planned_c = float(temperature_c(shot.place, standing.now_s)) if standing.run.speed == 1 else None
    return tuple(alarms_around(standing.around, planned_c, stands, hears))


def _beside_told(standing: Standing) -> str:
    """That the rig stands beside its plan, in words; nothing where it does not, or nobody says."""
    motion = standing.program.motion
    if motion is None or standing.program.shot.live:
        return ""
    stepwise = motion.path.move.kind == "stepwise"
    return beside_told(standing.newest, {name: axis.step for name, axis in motion.axes.items()}, stepwise)


def watched(standing: Standing) -> Watched:
    """What a run is watched for, as it stands."""
    run, at, verdict = standing.run, progress(standing), standing.verdict
    live = run.state in ("armed", "running")
    return Watched(
        state=run.state, sign=sign_now(standing, at), reason=run.reason, missed=run.missed - standing.passed_over,
        verdict=verdict.level if verdict else None, verdict_told=verdict.told if verdict else "",
        endings=endings_ahead(standing),
        # Until it is well under way the last word may be of a scene before this one.
        clock_ahead_s=camera_says(standing).get("clock_ahead_s") if live and run.taken > _UNDER_WAY else None,
        no_light_told=no_light_told(standing), blind=blind(standing), around=_around(standing),
        beside=_beside_told(standing),
        late=late_told(standing.newest, _slot_s(standing.program, at)) if run.speed == 1 else "",
        stalled=bool(at.newest and at.newest.rig and at.newest.rig.stalled), soundless=lost_told(standing.sound),
    )  # fmt: skip


def battery_ends_s(standing: Standing) -> float | None:
    """When the camera's battery ends at the drain that it tells; None where that cannot be said."""
    return ends_at_s(standing.battery, BATTERY_OUT)


def card_ends_s(standing: Standing) -> float | None:
    """When the card is full if it fills as it tells; None where that cannot be said."""
    return ends_at_s(standing.card, 0.0)


def endings_ahead(standing: Standing) -> tuple[Ending, ...]:
    """What runs out before the last frame, as it is measured."""
    program = standing.program
    last_s = float(program.at_s[-1])
    found = (("the battery", battery_ends_s(standing)), ("the card", card_ends_s(standing)))
    return tuple(
        Ending(
            what, (at_s - standing.now_s) / standing.run.speed, f"{program.local(at_s):%H:%M}",
            f"{program.local(last_s):%H:%M}",
        )
        for what, at_s in found
        if at_s is not None and at_s < last_s
    )  # fmt: skip


def blind(standing: Standing) -> bool:
    """Whether it waits for what its camera is to see, the camera shows no picture, and no sensor has told of it."""
    waiting = standing.program.shot.waits
    says = camera_says(standing)
    # One that does not answer at all is told of as that.
    if waiting is None or not waits(standing) or not says.get("blind") or says.get("trouble"):
        return False
    return bool((listens_to(waiting) & SEEN) - {one.kind for one in standing.heard})


def no_light_told(standing: Standing) -> bool:
    """Whether it waits for the light, and no sensor has told of that for a while.

    Other sensors may well speak only when there is something: that they are silent says nothing.
    """
    waiting = standing.program.shot.waits
    if standing.run.state != "running" or not waits(standing) or waiting is None:
        return False
    told = any(one.kind == "light" and one.ago_s <= SILENT_S for one in standing.heard)
    return "light" in listens_to(waiting) and not told and standing.now_s >= starts_s(standing)
