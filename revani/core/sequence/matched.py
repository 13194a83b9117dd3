"""Cuts that match: what two neighbours must agree in, how the second is framed like the first, and in which order."""

from dataclasses import dataclass
from typing import NamedTuple

from revani.core.documents.sequence import Join
from revani.core.program.compiled import Program
from revani.core.quantities.measures import ANGLE, DISTANCE
from revani.core.quantities.units import decimals, duration, in_stops, plain_rate
from revani.core.sequence.film import Joint, Piece, across_deg, drift_across, subject_box
from revani.core.sequence.way import same_place, way_between_m

# What two frames that match agree in (common practice, no source).
SAME_DEG, SAME_WIDTH, ROLL_DEG = 1.0, 1.02, 1.0
_BOX_OFF, _BOX_SIZE, _STOPS_OFF, _WHITE_OFF_K = 0.03, 1.05, 1 / 3, 100.0
_BEAT_S, _SWITCH_S = 3.0, 30.0


class Looks(NamedTuple):
    """How the camera looks at a frame: degrees, and how wide the picture is, degrees."""

    heading_deg: float
    tilt_deg: float
    roll_deg: float
    wide_deg: float


@dataclass(frozen=True)
class Step:
    """One thing to do, with the seconds that it takes."""

    what: str
    seconds: float


@dataclass(frozen=True)
class Match:
    """How a matched cut is filmed: what it is framed like, what to do in which order, and what still differs."""

    at: int
    note: tuple[str, ...]
    steps: tuple[Step, ...]
    differs: tuple[str, ...]


def looks(piece: Piece, frame: int) -> Looks:
    """How the camera of a piece looks at a frame of its shot."""
    program = piece.program
    assert program is not None
    pose = program.pose(program.t_s[frame])
    wide_deg = across_deg(program.shot, float(pose.focal_mm))
    return Looks(float(pose.heading_deg), float(pose.tilt_deg), float(pose.roll_deg), wide_deg)


def differences(join: Joint) -> tuple[str, ...]:
    """What keeps two neighbours from matching in the way in which they are joined; nothing for a plain cut."""
    before, a, after, b = join
    how = after.cut.joins
    if how == "a plain cut":
        return ()
    last, first = before.frames[1], after.frames[0]
    off = []
    if a.timing.fps != b.timing.fps:
        off.append(f"rates of {plain_rate(a.timing.fps)} and {plain_rate(b.timing.fps)} fps")
    if a.shot.recording.projection != b.shot.recording.projection:
        off.append("another projection of the lens")
    if a.shot.light.white_balance == "automatic" or b.shot.light.white_balance == "automatic":
        off.append("automatic white balance")
    elif abs(float(b.white_balance_k[first] - a.white_balance_k[last])) > _WHITE_OFF_K:
        off.append("another white balance")
    brighter = abs(float(b.exposures.error_stops[first] - a.exposures.error_stops[last]))
    if brighter > _STOPS_OFF:
        off.append(f"{in_stops(brighter)} between their exposures")
    one, other = looks(before, last), looks(after, first)
    if abs(one.roll_deg - other.roll_deg) > ROLL_DEG:
        off.append(f"{decimals(abs(one.roll_deg - other.roll_deg), 1)}° of roll")
    off += _by_action(a, b, last, first) if how == "same action" else _by_position(how, a, b, one, other)
    if drift_across(before) * drift_across(after) == -1:
        off.append("motion the other way round")
    return tuple(off)


def turned_deg(one: Looks, other: Looks) -> float:
    """How far apart two look: the larger of turn and tilt, degrees."""
    return max(abs((other.heading_deg - one.heading_deg + 180) % 360 - 180), abs(other.tilt_deg - one.tilt_deg))


def _by_position(how: Join, a: Program, b: Program, one: Looks, other: Looks) -> list[str]:
    off = []
    if not same_place(a.shot.place, b.shot.place):
        off.append(f"{a.shot.place.name} and {b.shot.place.name}")
    degrees, wider = turned_deg(one, other), max(one.wide_deg, other.wide_deg) / min(one.wide_deg, other.wide_deg)
    if degrees > SAME_DEG:
        off.append(f"{decimals(degrees, 0)}° between where they look")
    if how == "same position" and wider > SAME_WIDTH:
        off.append(f"one {decimals(wider, 1)} × as wide")
    return off


def _by_action(a: Program, b: Program, last: int, first: int) -> list[str]:
    one, other = subject_box(a, last), subject_box(b, first)
    if one is None or other is None:
        return []
    off = []
    shift = max(abs((one.left + one.right) - (other.left + other.right)) / 2,
                abs((one.top + one.bottom) - (other.top + other.bottom)) / 2)  # fmt: skip
    if shift > _BOX_OFF:
        off.append(f"subjects {shift:.0%} of the picture apart")
    sizes = one.bottom - one.top, other.bottom - other.top
    if max(sizes) / max(min(sizes), 1e-6) > _BOX_SIZE:
        off.append(f"subjects of {sizes[0]:.0%} and {sizes[1]:.0%} of the picture's height")
    return off


def match_of(join: Joint, set_up_s: float, pace_m_s: float) -> Match | None:
    """How a cut that should match is filmed; None for a plain one."""
    before, a, after, _ = join
    if after.cut.joins == "a plain cut":
        return None
    steps = _in_two_places if after.cut.joins == "same action" else _from_one_place
    return Match(after.at, _note(before, a), tuple(steps(join, set_up_s, pace_m_s)), differences(join))


def _note(before: Piece, a: Program) -> tuple[str, ...]:
    """What the second is framed like: the last frame of the first."""
    frame, shot = before.frames[1], a.shot
    one = looks(before, frame)
    note = [
        f"looks towards {ANGLE.show(one.heading_deg % 360, 0)}, tilted by {ANGLE.show(one.tilt_deg, 0)}",
        f"{decimals(shot.focal_length_mm, 0)} mm, {decimals(one.wide_deg, 0)}° across, {shot.recording.name}",
        f"{plain_rate(a.timing.fps)} fps, white at {float(a.white_balance_k[frame]):,.0f} K",
    ]
    thing, box = shot.subject, subject_box(a, frame)
    if thing is not None and box is not None:
        note.append(f"the lens {DISTANCE.show(-thing.base_mm / 1000, 2)} above the foot of {thing.name}")
        note.append(
            f"{thing.name} from {box.left:.0%} to {box.right:.0%} across and {box.top:.0%} to {box.bottom:.0%} down"
        )
    return tuple(note)


def _from_one_place(join: Joint, set_up_s: float, pace_m_s: float) -> list[Step]:
    del pace_m_s
    before, a, after, b = join
    return [
        Step("Set up and frame for both; weigh the stand down, lock every joint, and focus by hand.", set_up_s),
        Step(f"Film {before.name} to its end, and {decimals(_BEAT_S, 0)} s more.", float(a.timing.event_s) + _BEAT_S),
        Step(
            "Change the mode alone: do not touch the stand, do not zoom, do not refocus, do not step on its ground.",
            _SWITCH_S,
        ),
        Step(f"Film {after.name} from the same place.", float(b.timing.event_s)),
    ]


def _in_two_places(join: Joint, set_up_s: float, pace_m_s: float) -> list[Step]:
    before, a, after, b = join
    way_s = way_between_m(a.shot.place, b.shot.place) / pace_m_s
    return [
        Step("Choose the movement, and practise it: as fast, from the same foot, the same way round.", 60.0),
        Step(f"Set up {before.name}; tape where one stands.", set_up_s),
        Step(
            f"Film {before.name}: begin the movement, and go on {decimals(_BEAT_S, 0)} s past its middle.",
            float(a.timing.event_s) + _BEAT_S,
        ),
        Step("Keep a picture of its middle: the second is framed by it.", _SWITCH_S),
        Step(f"Go to {b.shot.place.name}." if way_s else "Change the place or the dress.", way_s or set_up_s),
        Step(f"Set up {after.name} from the framing note; lay the picture over the finder.", set_up_s),
        Step(
            f"Film {after.name}: begin the movement {decimals(_BEAT_S, 0)} s before its middle, and cut there.",
            float(b.timing.event_s) + _BEAT_S,
        ),
    ]


def seconds_told(step: Step) -> str:
    """How long a step takes, in words."""
    return duration(round(step.seconds))
