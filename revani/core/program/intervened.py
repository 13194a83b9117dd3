"""A program as a person has changed it while it was shot: what is left is compiled anew, what was taken stays.

Frames before the one from which a change holds are the same numbers as before, to the last digit.
"""

from collections.abc import Iterable, Mapping
from contextlib import suppress
from dataclasses import fields, replace
from fractions import Fraction
from typing import Any

import numpy as np

from revani.core.documents import AxisName, Shot
from revani.core.documents.run import Intervention, InterventionKind, Run
from revani.core.documents.timing import MOST_FRAMES, Timing
from revani.core.light.dials import true_iso
from revani.core.light.exposing import Exposures
from revani.core.move.axes import Motion, Nudge
from revani.core.program.compiled import Program, compile_shot
from revani.core.quantities.arrays import Array
from revani.core.quantities.refusal import Refusal
from revani.core.quantities.units import count, duration
from revani.core.timing.law import Solution
from revani.core.timing.waiting import at_the_latest

MOST_STOPS = 3.0
PASSED_OVER = "Passed over by hand"
# A change of exposure is spread over so much film, so that it is a ramp and no jump.
_SPREAD_FILM_S = 1.0
_OUT_OF_REACH = 0.2
_NUDGE_LOOKS = 2_000
_EMPTY = "The battery is empty before that."


def program_of(run: Run) -> Program:
    """What a run shoots: its shot compiled, with all that was changed while it went on."""
    return intervened(compile_shot(shot_to_run(run.shot, run.begins_s)), run.interventions)


def shot_to_run(armed: Mapping[str, Any], begins_s: float | None) -> Shot:
    """What of an armed shot is to be planned: one that waits still is taken to begin at the latest."""
    shot = Shot.model_validate(armed)
    return at_the_latest(shot) if begins_s is None else shot


def version_of(run: Run) -> tuple[bool, int]:
    """What a run's program hangs on: whether it has begun, and how many changes its runner has taken up."""
    return run.begins_s is not None, sum(one.from_number is not None for one in run.interventions)


def intervened(program: Program, told: Iterable[Intervention]) -> Program:
    """A program with the changes that a runner has taken up, one after the other."""
    for one in told:
        if one.from_number is None:
            continue
        if one.kind == "extend":
            program = extended(program, round(one.amount))
        elif one.kind == "end early":
            program = ended_early(program, round(one.amount))
        elif one.kind == "brighter":
            program = brighter(program, one.amount, one.from_number)
        elif one.kind == "nudge" and program.motion is not None:
            program = replace(program, motion=program.motion.nudged(_nudge(program, one, one.from_number)))
    return program


def check_intervention(program: Program, one: Intervention, next_number: int) -> None:
    """Refuse what cannot be done to a run whose next frame has this number. Raises Refusal."""
    shot, last = program.shot, program.frame_count
    if shot.live:
        raise Refusal("kind", "A film is one take: it can be stopped, and nothing else.", one.kind)
    if one.kind == "extend":
        if shot.pace is not None or shot.walk is not None:
            raise Refusal("kind", "A shot that changes its interval, or is walked, is not extended.", one.kind)
        if not 1 <= one.amount <= MOST_FRAMES - last:
            raise Refusal("amount", f"1 to {MOST_FRAMES - last:,} frames more.", one.amount)
    elif one.kind == "end early" and not next_number <= one.amount < last:
        raise Refusal("amount", f"A last frame from {next_number:,} to {last - 1:,}.", one.amount)
    elif one.kind == "brighter" and not 0 < abs(one.amount) <= MOST_STOPS:
        raise Refusal("amount", f"Up to {MOST_STOPS:g} stops brighter, or darker with a minus.", one.amount)
    elif one.kind == "nudge":
        _check_nudge(program, one, next_number)
    elif one.kind == "skip a leg" and leg_ends_at(program, next_number) is None:
        raise Refusal("kind", "No leg of a move is ahead.", one.kind)


def can_be_done(program: Program, number: int) -> list[InterventionKind]:
    """What can be done to a run whose next frame has this number, with the least amount of each."""
    axis = next(iter(nudgeable(program)), None)
    least: dict[InterventionKind, float] = {
        "pause": 0, "resume": 0, "brighter": 1e-3, "skip a leg": 0, "nudge": 1e-3, "end early": number, "extend": 1,
    }  # fmt: skip
    found: list[InterventionKind] = []
    for kind, amount in least.items():
        with suppress(Refusal):
            check_intervention(program, Intervention(nth=1, kind=kind, amount=amount, axis=axis), number)
            found.append(kind)
    return found


def nudgeable(program: Program) -> list[AxisName]:
    """The axes whose end can be moved by hand while they go."""
    return [] if program.motion is None else [name for name in program.motion.positions if name != "focus"]


def _nudge(program: Program, one: Intervention, number: int) -> Nudge:
    """The nudge that is ordered: eased in from the frame of this number to the last key."""
    assert program.motion is not None and one.axis is not None
    from_s = float(program.t_s[min(number, program.frame_count) - 1])
    return Nudge(one.axis, one.amount, from_s, float(program.motion.path.knots.arrives_s[-1]))


def _check_nudge(program: Program, one: Intervention, number: int) -> None:
    motion, moving = program.motion, nudgeable(program)
    if motion is None or one.axis not in moving:
        raise Refusal("axis", f"One that moves: {', '.join(moving)}." if moving else "Nothing moves here.", one.axis)
    nudge, axis = _nudge(program, one, number), program.shot.kit.axes[one.axis]
    if nudge.to_s - nudge.from_s < 2 * float(program.slot_s[-1]):
        raise Refusal("kind", "The move has come to its end.", one.kind)
    if not one.amount:
        raise Refusal("amount", "By how much, in the unit of the axis; back with a minus.", one.amount)
    at = np.linspace(nudge.from_s, nudge.to_s, _NUDGE_LOOKS)
    way = motion.nudged(nudge).at(at)[one.axis]
    if way.min() < axis.low - 1e-6 or way.max() > axis.high + 1e-6:
        raise Refusal("amount", f"{axis.name} goes from {axis.low:g} to {axis.high:g}.", one.amount)
    if np.abs(np.gradient(way, at)).max() > axis.speed:
        left = duration(round(nudge.to_s - nudge.from_s))
        raise Refusal(
            "amount", f"Less: {axis.name} goes {axis.speed:g} a second at most, and {left} are left.", one.amount
        )


def leg_ends_at(program: Program, number: int) -> int | None:
    """The first frame that is due at the next key of the move or after it; None where no key is ahead."""
    if program.motion is None:
        return None
    now_s = float(program.t_s[min(number, program.frame_count) - 1])
    ahead = [one for one in program.motion.path.knots.arrives_s if one > now_s + 1e-6]
    return first_from(program, min(ahead)) if ahead else None


def first_from(program: Program, after_s: float) -> int:
    """The number of the first frame that is due so long after the start, or later; the last where none is."""
    return min(int(np.searchsorted(program.t_s, after_s - 1e-6)) + 1, program.frame_count)


def passed_over(program: Program, told: Iterable[Intervention], number: int) -> str:
    """Why a frame is passed over by hand; nothing where it is to be taken."""
    paused = leg = ""
    for one in told:
        if one.from_number is None or one.from_number > number:
            continue
        by = f" by {one.by}" if one.by else ""
        if one.kind == "pause":
            paused = f"{PASSED_OVER}: paused{by}."
        elif one.kind == "resume":
            paused = ""
        elif one.kind == "skip a leg":
            ends = leg_ends_at(program, one.from_number)
            leg = f"{PASSED_OVER}: this leg is skipped{by}." if ends is not None and number < ends else ""
    return paused or leg


def intervention_told(program: Program, one: Intervention) -> str:
    """A change in words, with who and when, for the run's notes."""
    number = one.from_number or 0
    what = {
        "pause": f"paused from frame {number:,} on",
        "resume": f"went on from frame {number:,}",
        "skip a leg": f"skipped the leg, up to frame {leg_ends_at(program, number) or number:,}",
        "extend": f"extended it by {one.amount:,.0f} frames",
        "end early": f"let it end after frame {one.amount:,.0f}",
        "nudge": f"moved the end of {one.axis} by {one.amount:+g} from frame {number:,} on",
        "brighter": f"made it {abs(one.amount):.2g} stops {_way(one.amount)} from frame {number:,} on",
    }[one.kind]
    who = one.by or "someone"
    if one.refused:
        return f"{program.local(one.at_s):%H:%M:%S} {who}: {one.kind} was not done. {one.refused}"
    return f"{program.local(one.at_s):%H:%M:%S} {who} {what}."


def _way(stops: float) -> str:
    return "brighter" if stops > 0 else "darker"


def outlook_told(before: Program, after: Program) -> str:
    """What a change comes to: its last frame and when, how much film, what is left, and what is out of reach."""
    last = f"The last frame is {after.frame_count:,}, at {after.local(float(after.at_s[-1])):%H:%M}"
    film = f"{duration(round(float(after.timing.playback_s), 1))} of film"
    left = float(after.battery_left[-1])
    told = [f"{last}: {film}.", f"{max(left, 0.0):.0%} of the battery is left then." if left > 0 else _EMPTY]
    both = min(before.frame_count, after.frame_count)
    off = np.abs(after.exposures.error_stops[:both] - before.exposures.error_stops[:both])
    short = int(np.count_nonzero(off > _OUT_OF_REACH))
    if short:
        told.append(f"{count(short, 'frame')} cannot be had so: the interval, the body or the lens leaves no more.")
    return " ".join(told)


def ended_early(program: Program, last: int) -> Program:
    """The program up to a frame, and no further."""
    return _with_rows(program, slice(0, last), _counted(program.timing, last))


def extended(program: Program, more: int) -> Program:
    """The program and so many frames more, at its last interval; exposed as its shot would be, the move held."""
    shot, many = program.shot, program.frame_count
    timing = Timing(fps=program.timing.fps, interval_s=program.timing.interval_s, frame_count=many + more)
    longer = compile_shot(shot.model_copy(update={"timing": timing, "until": None}))
    tail = slice(many, many + more)
    added: dict[str, Any] = {
        one.name: np.concatenate([getattr(program, one.name), getattr(longer, one.name)[tail]])
        for one in fields(program)
        if isinstance(getattr(program, one.name), np.ndarray)
    }
    return replace(
        program, **added, timing=longer.timing, end_s=longer.end_s, sky=longer.sky,
        exposures=_joined(program.exposures, longer.exposures, tail), motion=_held(program.motion, more, added["t_s"]),
    )  # fmt: skip


def brighter(program: Program, by_stops: float, from_number: int) -> Program:
    """From a frame on so many stops brighter, or darker below 0; by the shutter first, then by ISO.

    The change comes over a second of film. What body, lens and interval do not leave is an error of exposure.
    """
    got, light, body = program.exposures, program.shot.light, program.shot.body
    at = np.arange(program.frame_count, dtype=np.float64) - (from_number - 1)
    spread = max(float(program.timing.fps) * _SPREAD_FILM_S, 1.0)
    wanted = np.where(at >= 0, by_stops * np.clip((at + 1) / spread, 0, 1), 0.0)
    if light.school == "stepped":
        wanted = np.round(wanted * 3) / 3
    if light.automatic:
        # The body chooses: it is told the wish, frame by frame.
        return replace(program, wish_stops=program.wish_stops + wanted)
    longest = np.minimum(program.shutter_room_s, float(body.manual_shutter_max_s))
    if light.school == "continuous" and body.bulb:
        longest = program.shutter_room_s
    shortest = float(body.shutter_min_s)
    shutter = np.clip(got.shutter_s * 2**wanted, shortest, np.maximum(longest, got.shutter_s))
    left = wanted - np.log2(shutter / got.shutter_s)
    iso = np.clip(got.iso * 2**left, true_iso(body.iso_min), np.maximum(true_iso(body.iso_max), got.iso))
    reached = np.log2(shutter / got.shutter_s) + np.log2(iso / got.iso)
    exposures = replace(
        got, shutter_s=np.where(at >= 0, shutter, got.shutter_s), iso=np.where(at >= 0, iso, got.iso),
        wanted_shutter_s=np.where(at >= 0, got.wanted_shutter_s * 2**wanted, got.wanted_shutter_s),
        error_stops=got.error_stops + np.where(at >= 0, reached - wanted, 0.0),
        given_ev=got.given_ev - np.where(at >= 0, reached, 0.0),
    )  # fmt: skip
    return replace(program, exposures=exposures, wish_stops=program.wish_stops + wanted)


def _counted(timing: Solution, many: int) -> Solution:
    last_s = timing.interval_s * (many - 1)
    return timing.model_copy(
        update={"frame_count": many, "playback_s": Fraction(many) / timing.fps,
                "event_s": timing.interval_s * many, "last_frame_at_s": last_s}
    )  # fmt: skip


def _with_rows(program: Program, rows: slice, timing: Solution) -> Program:
    kept: dict[str, Any] = {
        one.name: getattr(program, one.name)[rows]
        for one in fields(program)
        if isinstance(getattr(program, one.name), np.ndarray)
    }
    exposures = Exposures(*(getattr(program.exposures, one.name)[rows] for one in fields(Exposures)))
    motion = program.motion
    if motion is not None:
        motion = replace(
            motion, positions={name: values[rows] for name, values in motion.positions.items()},
            travel_s=motion.travel_s[rows], settle_s=motion.settle_s[rows], frame_times_s=motion.frame_times_s[rows],
        )  # fmt: skip
    end_s = float(kept["at_s"][-1] + kept["slot_s"][-1])
    return replace(program, **kept, timing=timing, end_s=end_s, exposures=exposures, motion=motion)


def _joined(first: Exposures, longer: Exposures, tail: slice) -> Exposures:
    return Exposures(
        *(np.concatenate([getattr(first, one.name), getattr(longer, one.name)[tail]]) for one in fields(Exposures))
    )


def _held(motion: Motion | None, more: int, times_s: Array) -> Motion | None:
    """A move whose last place is held for so many frames more."""
    if motion is None:
        return None
    return replace(
        motion, positions={name: np.pad(values, (0, more), "edge") for name, values in motion.positions.items()},
        travel_s=np.pad(motion.travel_s, (0, more)), settle_s=np.pad(motion.settle_s, (0, more)), frame_times_s=times_s,
    )  # fmt: skip
