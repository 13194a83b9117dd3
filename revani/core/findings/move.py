"""Can the rig do it, and will the move be seen as it is meant?"""

from collections.abc import Callable
from dataclasses import dataclass
from fractions import Fraction
from functools import lru_cache
from math import ceil

import numpy as np

from revani.core.documents import AfterStart, Axis, AxisName, Ease, MoveKey, Shot, driven_measure
from revani.core.findings.finding import Finding, Fix, finding, usable
from revani.core.findings.price import price, retimed
from revani.core.measures import WEIGHT
from revani.core.moves import driven_units
from revani.core.pace import solved
from revani.core.program import Program
from revani.core.rig import Motion
from revani.core.sky import Array
from revani.core.timing import LONGEST_EVENT_S, MOST_FRAMES, ceil_to
from revani.core.units import count, decimals, duration

_SLACK = 1.001


def with_keys(shot: Shot, change: Callable[[MoveKey], MoveKey]) -> Shot:
    """The shot with every key changed."""
    assert shot.move
    return shot.model_copy(
        update={"move": shot.move.model_copy(update={"keys": tuple(change(key) for key in shot.move.keys)})}
    )


def show(axis: AxisName, value: float, per: str = "") -> str:
    """A position or a speed of a motor with its unit: `212.4 mm`, `−3.6°/s`."""
    return driven_measure(axis).show_fine(value, per)


def _narrowed(shot: Shot, axis: AxisName, factor: float) -> Shot:
    """The travel of one axis made shorter about where it begins."""
    first = next(key.positions[axis] for key in (shot.move.keys if shot.move else ()) if axis in key.positions)

    def shorter(key: MoveKey) -> MoveKey:
        if axis not in key.positions:
            return key
        value = round(first + (key.positions[axis] - first) * factor, 3)
        return key.model_copy(update={"positions": dict(key.positions) | {axis: value}})

    return with_keys(shot, shorter)


def _slower(program: Program, factor: float) -> Shot | None:
    """The whole shot so many times slower, keys and all, where they stand by seconds."""
    shot, timing = program.shot, program.timing
    if not shot.move or not all(isinstance(key.at, AfterStart) for key in shot.move.keys):
        return None
    if not np.isfinite(factor) or float(timing.event_s) * factor * 2 > LONGEST_EVENT_S:
        return None
    if shot.live and timing.frame_count * factor * 2 > MOST_FRAMES:
        return None
    if shot.live:
        frames = ceil(timing.frame_count * factor)
        longer = retimed(
            shot, fps=timing.fps, interval_s=timing.interval_s, frame_count=frames, event_s=None, playback_s=None
        )
        true = frames / timing.frame_count
    else:
        interval = ceil_to(
            timing.interval_s * Fraction(factor).limit_denominator(1000), shot.kit.body.controller_tick_s
        )
        longer = retimed(
            shot, fps=timing.fps, interval_s=interval, frame_count=timing.frame_count, event_s=None, playback_s=None
        )
        true = float(interval / timing.interval_s)

    def later(key: MoveKey) -> MoveKey:
        after = key.at.after_s if isinstance(key.at, AfterStart) else 0.0
        return key.model_copy(update={"at": AfterStart(after_s=round(after * true, 3)), "hold_s": key.hold_s * true})

    return with_keys(longer, later)


@dataclass(frozen=True)
class Over:
    """A stretch in which an axis goes beyond a limit."""

    axis: AxisName
    reached: float
    limit: float
    from_s: float
    to_s: float

    @property
    def factor(self) -> float:
        """How many times over the limit."""
        return self.reached / self.limit


@lru_cache(maxsize=16)
def over_speed_or_force(program: Program) -> tuple[list[Over], list[Over]]:
    """Where axes are asked for more speed or acceleration than they have; a shoot–move–settle rig goes at its own."""
    motion = program.motion
    if motion is None or motion.path.move.kind == "stepwise":
        return [], []
    speeds: list[Over] = []
    forces: list[Over] = []
    for name, axis in motion.axes.items():
        for over, (reached, limit, begin, end) in _peaks(program, motion, name, axis):
            (speeds if over == "speed" else forces).append(
                Over(name, reached, limit, program.start_s + begin, program.start_s + end)
            )
    return speeds, forces


def _peaks(
    program: Program, motion: Motion, name: AxisName, axis: Axis
) -> list[tuple[str, tuple[float, float, float, float]]]:
    """Every leg of an axis that is over a limit: what kind, reached, limit, from and to."""
    path, found = motion.path, []
    if name in path.names and name != "focus" and not (path.move.aim and name in ("pan", "tilt")):
        speeds, forces = path.peaks(name)
        for i, (speed, force) in enumerate(zip(speeds, forces, strict=True)):
            begin, end = float(path.knots.leaves_s[i]), float(path.knots.arrives_s[i + 1])
            if speed > axis.speed * _SLACK:
                found.append(("speed", (float(speed), axis.speed, begin, end)))
            if force > axis.acceleration * _SLACK:
                found.append(("force", (float(force), axis.acceleration, begin, end)))
        return found
    # An axis that is solved for, or that goes through a scale of its own, is looked at closely instead.
    at, positions = motion.dense
    values = driven_units(program.shot.kit, name, positions[name])
    speed = np.abs(np.diff(values) / np.diff(at))
    middle = (at[1:] + at[:-1]) / 2
    force = np.abs(np.diff(np.diff(values) / np.diff(at)) / np.diff(middle))
    for kind, reached, limit, where in (
        ("speed", speed, axis.speed, middle),
        ("force", force, axis.acceleration, middle[1:]),
    ):
        if reached.size and reached.max() > limit * _SLACK:
            bad = where[: reached.size][reached > limit * _SLACK]
            found.append((kind, (float(reached.max()), limit, float(bad[0]), float(bad[-1]))))
    return found


@finding
def beyond_the_range(program: Program) -> Finding | None:
    """An axis is asked to go where it ends."""
    motion = program.motion
    if motion is None:
        return None
    at, positions = motion.dense
    worst: tuple[float, AxisName, float] | None = None
    stretch = (0.0, 0.0)
    for name, axis in motion.axes.items():
        values = driven_units(program.shot.kit, name, positions[name])
        beyond = np.maximum(axis.low - values, values - axis.high)
        part = float(beyond.max()) / (axis.high - axis.low)
        if float(beyond.max()) > 1e-6 and (worst is None or part > worst[0]):
            out = at[beyond > 0]
            worst, stretch = (part, name, float(values[np.argmax(beyond)])), (float(out[0]), float(out[-1]))
    if worst is None:
        return None
    _, name, value = worst
    axis = program.shot.kit.axes[name]
    solved_for = motion.path.move.aim is not None and name in ("pan", "tilt")

    def clip(key: MoveKey) -> MoveKey:
        if name not in key.positions:
            return key
        inside = min(max(key.positions[name], axis.low), axis.high)
        return key.model_copy(update={"positions": dict(key.positions) | {name: inside}})

    fix = (
        Fix(
            label="Let the aim go",
            price="pan and tilt stand as the keys have them; the target wanders through the picture",
            shot=program.shot.with_move(aim=None),
        )
        if solved_for
        else Fix(
            label=f"Stay between {show(name, axis.low)} and {show(name, axis.high)}",
            price=f"{name} ends at its limit instead of at {show(name, value)}",
            shot=with_keys(program.shot, clip),
        )
    )
    return Finding(
        id="move.range",
        severity="stop",
        lens="move",
        sentence=f"{name.capitalize()} is asked to {show(name, value)}.",
        figures=f"It goes from {show(name, axis.low)} to {show(name, axis.high)}"
        + ("; the locked aim needs more." if solved_for else "."),
        fixes=usable(fix),
        from_s=program.start_s + stretch[0],
        to_s=program.start_s + stretch[1],
    )


def _worst(over: list[Over]) -> Over | None:
    return max(over, key=lambda one: one.factor, default=None)


@finding
def too_fast(program: Program) -> Finding | None:
    """A leg is faster than its axis."""
    worst = _worst(over_speed_or_force(program)[0])
    if worst is None:
        return None
    shorter = narrowable(program, worst.axis, 1 / worst.factor)
    slower = _slower(program, worst.factor)
    return Finding(
        id="move.speed",
        severity="fix",
        lens="move",
        sentence=f"{worst.axis.capitalize()} would need {show(worst.axis, worst.reached, '/s')}.",
        figures=f"It does {show(worst.axis, worst.limit, '/s')}; from {program.local(worst.from_s):%H:%M:%S} "
        f"to {program.local(worst.to_s):%H:%M:%S}.",
        fixes=usable(
            Fix(label="Travel less", price=f"{1 / worst.factor:.0%} of the way", shot=shorter) if shorter else None,
            Fix(label="Take longer", price=price(program.timing, solved(slower)), shot=slower) if slower else None,
        ),
        from_s=worst.from_s,
        to_s=worst.to_s,
    )


def narrowable(program: Program, axis: AxisName, factor: float) -> Shot | None:
    """Shorter travel of one axis, where the keys name it."""
    named = program.shot.move is not None and any(axis in key.positions for key in program.shot.move.keys)
    return _narrowed(program.shot, axis, factor * 0.999) if named else None


@finding
def too_hard(program: Program) -> Finding | None:
    """A leg speeds up or slows down harder than its axis can."""
    worst = _worst(over_speed_or_force(program)[1])
    if worst is None:
        return None
    soft = with_keys(program.shot, lambda key: key.model_copy(update={"arrive": Ease(), "leave": Ease()}))
    fixes = [Fix(label="Ease over half of each leg", price="faster in the middle, softer at the ends", shot=soft)]
    jumps = not np.isfinite(worst.reached)
    if not jumps:
        shorter = narrowable(program, worst.axis, 1 / worst.factor)
        slower = _slower(program, float(np.sqrt(worst.factor)) * 1.001)
        if shorter:
            fixes.append(Fix(label="Travel less", price=f"{1 / worst.factor:.0%} of the way", shot=shorter))
        if slower:
            fixes.append(Fix(label="Take longer", price=price(program.timing, solved(slower)), shot=slower))
    return Finding(
        id="move.acceleration",
        severity="fix",
        lens="move",
        sentence=f"{worst.axis.capitalize()} cannot start or stop that hard.",
        figures=(
            "Without an ease it would have to be at speed at once"
            if jumps
            else f"It would need {show(worst.axis, worst.reached, '/s²')}"
        )
        + f"; it does {show(worst.axis, worst.limit, '/s²')}.",
        fixes=usable(*fixes),
        from_s=worst.from_s,
        to_s=worst.to_s,
    )


@finding
def travel_does_not_fit(program: Program) -> Finding | None:
    """Shooting, moving and settling take longer than the interval."""
    motion, body = program.motion, program.shot.kit.body
    if motion is None or motion.path.move.kind != "stepwise":
        return None
    shutter = np.minimum(program.exposures.wanted_shutter_s, float(program.shot.light.shutter_s))
    need = shutter + float(body.overhead_s) + motion.travel_s + motion.settle_s
    short = need > program.slot_s * 1.0005
    if not short.any():
        return None
    at = int(np.argmax(need - program.slot_s))
    interval = ceil_to(Fraction(ceil(float(need.max()) * 1000), 1000), body.controller_tick_s)
    longer = _slower(program, float(interval / program.timing.interval_s) * 1.0)
    fixes = [
        Fix(label=f"A frame every {duration(interval)}", price=price(program.timing, solved(longer)), shot=longer)
        if longer
        else None,
        Fix(
            label="Move without stopping",
            price="frames blur by the way of each shutter; nothing settles",
            shot=program.shot.with_move(kind="continuous"),
        ),
    ]
    return Finding(
        id="move.travel",
        severity="stop" if (program.slot_s - need + shutter).min() <= 0 else "fix",
        lens="move",
        sentence=f"Shoot, move and settle take {duration(round(float(need[at]), 2))}, not "
        f"{duration(round(float(program.slot_s[at]), 2))}.",
        figures=f"Travel {duration(round(float(motion.travel_s[at]), 2))}, settling "
        f"{duration(float(motion.settle_s[at]))}, {duration(float(body.overhead_s))} to store; the shutter is cut to "
        f"{duration(round(float(program.shutter_room_s[at]), 2))} in {count(int(short.sum()), 'frame')}.",
        fixes=usable(*fixes),
        from_s=float(program.at_s[np.argmax(short)]),
        to_s=float(program.at_s[program.frame_count - 1 - np.argmax(short[::-1])]),
    )


@finding
def staircase(program: Program) -> Finding | None:
    """Frames are so close that an axis stands still for several, then steps."""
    motion = program.motion
    if motion is None or program.frame_count < 3 or program.shot.live:
        return None
    # A rig that goes step by step stands on whole steps already: what was meant is looked at.
    meant = motion.at(program.t_s) if motion.path.move.kind == "stepwise" else motion.positions
    for name, axis in motion.axes.items():
        if name == "focus":
            continue
        way = np.abs(np.diff(meant[name]))
        moving = way > 1e-9
        if not moving.any():
            continue
        usual = float(np.median(way[moving]))
        if usual < axis.step * 0.999 and abs(_px_per_unit(program, name)) * axis.step > _SEEN_PX:
            fewer = max(2, int(program.frame_count * usual / axis.step))
            timing = program.timing
            wider = retimed(
                program.shot, fps=timing.fps, frame_count=fewer, interval_s=timing.event_s / fewer, event_s=None,
                playback_s=None,
            )  # fmt: skip
            return Finding(
                id="move.staircase",
                severity="mind",
                lens="move",
                sentence=f"{name.capitalize()} will climb in stairs: a step every "
                f"{decimals(axis.step / usual, 1)} frames.",
                figures=f"{show(name, usual)} a frame are wanted, its smallest step is {show(name, axis.step)}.",
                fixes=usable(Fix(label="Fewer frames, a step each", price=price(timing, solved(wider)), shot=wider)),
            )
    return None


@finding
def backlash_on_turning(program: Program) -> Finding | None:
    """An axis turns round and first takes up its play."""
    motion = program.motion
    if motion is None:
        return None
    at, positions = motion.dense
    for name, axis in motion.axes.items():
        if not axis.backlash:
            continue
        turns = _turns(positions[name], _TURN_STEPS * axis.step)
        if turns:
            seen = abs(_px_per_unit(program, name)) * axis.backlash
            return Finding(
                id="move.backlash",
                severity="mind",
                lens="move",
                sentence=f"{name.capitalize()} turns round {count(turns, 'time')} and loses "
                f"{show(name, axis.backlash)}.",
                figures=f"That is {decimals(seen, 1)} px in the picture each time, until the play is taken up; "
                "come to keys from one side where it matters.",
                from_s=program.start_s + float(at[1]),
                to_s=program.end_s,
            )
    return None


_TURN_STEPS = 5
# A step that moves the picture by no more than a pixel is not seen.
_SEEN_PX = 1.0


def _turns(values: Array, least: float) -> int:
    """How often a column turns round by more than a least way; smaller ripples are none."""
    turns, direction, extreme = 0, 0, float(values[0])
    # Only places where the direction changes can be turns, so few are looked at.
    sign = np.sign(np.diff(values))
    for value in [*values[1:-1][sign[1:] != sign[:-1]], values[-1]]:
        way = float(value) - extreme
        if direction * way >= 0:
            extreme, direction = float(value), direction or int(np.sign(way)) * (abs(way) > least)
        elif abs(way) > least:
            turns, direction, extreme = turns + 1, -direction, float(value)
    return turns


def _px_per_unit(program: Program, axis: AxisName) -> float:
    """Pixels in the middle of the picture for a unit of an axis; a slide by the nearest thing."""
    shot, body = program.shot, program.shot.kit.body
    focal = shot.focal_length_mm / body.sensor_width_mm * body.pixels_wide
    if axis in ("pan", "tilt", "roll"):
        return float(focal * np.radians(1.0))
    things = shot.move.things if shot.move else ()
    nearest = min((thing.y_mm for thing in things if thing.y_mm > 0), default=10_000.0)
    return float(focal / nearest) if axis in ("slide", "lift") else 0.0


@finding
def too_heavy(program: Program) -> Finding | None:
    """A mover carries more than it may."""
    kit = program.shot.kit
    above = kit.body.weight_kg + kit.lens.weight_kg
    for mover in reversed(kit.movers):
        if above > mover.payload_kg:
            return Finding(
                id="move.payload",
                severity="stop",
                lens="move",
                sentence=f"{mover.name} carries {WEIGHT.show(above, 1)} "
                f"and may carry {WEIGHT.show(mover.payload_kg, 1)}.",
                figures="Motors slip and lose their place; take a lighter body or lens, or a stronger mover.",
            )
        above += mover.weight_kg
    return None


@finding
def too_steep(program: Program) -> Finding | None:
    """The slider stands steeper than it climbs."""
    move = program.shot.move
    if move is None or not move.incline_deg:
        return None
    for mover in program.shot.kit.movers:
        if any(axis.name == "slide" for axis in mover.axes) and move.incline_deg > mover.incline_deg:
            return Finding(
                id="move.incline",
                severity="stop",
                lens="move",
                sentence=f"{mover.name} climbs {decimals(mover.incline_deg, 0)}°, "
                f"not {decimals(move.incline_deg, 0)}°.",
                figures="Under load it would run back.",
                fixes=usable(
                    Fix(
                        label=f"Set it up at {decimals(mover.incline_deg, 0)}°",
                        price="the camera rises less",
                        shot=program.shot.with_move(incline_deg=mover.incline_deg),
                    )
                ),
            )
    return None


@finding
def loop_jumps(program: Program) -> Finding | None:
    """A move that loops jumps from its last key back to its first."""
    motion = program.motion
    if motion is None or motion.path.move.repeat != "loop":
        return None
    apart = {name: float(v[-1] - v[0]) for name, v in motion.path.knots.positions.items() if abs(v[-1] - v[0]) > 1e-6}
    if not apart:
        return None
    said = ", ".join(f"{name} by {show(name, -way)}" for name, way in apart.items() if name != "focus")
    return Finding(
        id="move.loop-jump",
        severity="fix",
        lens="move",
        sentence="At the end of each round the rig would have to jump back.",
        figures=f"In no time: {said}.",
        fixes=usable(
            Fix(
                label="Go back and forth",
                price="each round takes twice as long",
                shot=program.shot.with_move(repeat="ping-pong"),
            )
        ),
    )


@finding
def ramps_cut(program: Program) -> Finding | None:
    """Eases that do not fit into their leg are cut short."""
    if program.motion is None or program.motion.path.move.path == "smooth":
        return None
    for i, leg in enumerate(program.motion.path.legs):
        if leg.shortened:
            return Finding(
                id="move.ramps-cut",
                severity="mind",
                lens="move",
                sentence=f"The eases of leg {i + 1} are longer than the leg.",
                figures=f"They are cut to {duration(round(leg.up.s, 2))} and {duration(round(leg.down.s, 2))} of "
                f"{duration(round(leg.duration_s, 2))}.",
            )
    return None
