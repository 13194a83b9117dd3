"""Can the rig do it: range, speed, acceleration, and the time between frames."""

from fractions import Fraction
from math import ceil

import numpy as np

from revani.core.documents import AxisName, Ease, Kit, MoveKey
from revani.core.edit.retime import price
from revani.core.edit.slower import milder, narrowable, show, slower, with_keys
from revani.core.findings.finding import Finding, Fix, finding, usable
from revani.core.light.firing import interval_over_s
from revani.core.move.overload import Over, over_speed_or_force
from revani.core.move.path import driven_units
from revani.core.optics.focus import distance_of
from revani.core.program.compiled import Program
from revani.core.quantities.units import count, decimals, duration

_NEAREST_M = 0.01


def _within(kit: Kit, name: AxisName, position: float) -> float:
    """The nearest position that an axis reaches; focus is limited on the lens's own scale, and said as a distance."""
    axis = kit.axes[name]
    if name == "focus":
        on_scale = float(driven_units(kit, name, np.array(position)))
        reached = min(max(on_scale, axis.low), axis.high)
        if on_scale == reached:
            return position
        marks = kit.lens.focus_marks
        return max(float(distance_of(marks, reached)) if marks else reached, _NEAREST_M)
    return min(max(position, axis.low), axis.high)


@finding("move", "move.range", source="the axis's own figures")
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
        inside = _within(program.shot.kit, name, key.positions[name])
        return key.model_copy(update={"positions": dict(key.positions) | {name: inside}})

    fix = (
        Fix(
            id="no-aim",
            label="Let the aim go",
            price="pan and tilt stand as the keys have them; the target wanders through the picture",
            shot=program.shot.with_move(aim=None),
        )
        if solved_for
        else Fix(
            id="within-range",
            label=f"Stay between {show(name, axis.low)} and {show(name, axis.high)}",
            price=f"{name} ends at its limit instead of at {show(name, value)}",
            shot=with_keys(program.shot, clip),
        )
    )
    return Finding(
        severity="stop",
        turns=f"Between {show(name, axis.low)} and {show(name, axis.high)} nothing is said.",
        sentence=f"{name.capitalize()} is asked to {show(name, value)}.",
        figures=f"It goes from {show(name, axis.low)} to {show(name, axis.high)}"
        + ("; the locked aim needs more." if solved_for else "."),
        offer=lambda: usable(fix),
        from_s=program.start_s + stretch[0],
        to_s=program.start_s + stretch[1],
    )


def _worst(over: list[Over]) -> Over | None:
    return max(over, key=lambda one: one.factor, default=None)


@finding("move", "move.speed", source="the axis's own figures; least jerk peaks at 1.875 of the mean speed (textbook)")
def too_fast(program: Program) -> Finding | None:
    """A leg is faster than its axis."""
    worst = _worst(over_speed_or_force(program.motion, program.start_s)[0])
    if worst is None:
        return None
    shorter = narrowable(program, worst.axis, 1 / worst.factor)
    longer = slower(program, worst.factor)
    return Finding(
        severity="fix",
        turns=f"Up to {show(worst.axis, worst.limit, '/s')}; this is {decimals(worst.factor, 2)} × that.",
        sentence=f"{worst.axis.capitalize()} would need {show(worst.axis, worst.reached, '/s')}.",
        figures=f"It does {show(worst.axis, worst.limit, '/s')}; from {program.local(worst.from_s):%H:%M:%S} "
        f"to {program.local(worst.to_s):%H:%M:%S}.",
        offer=lambda: usable(
            Fix(id="travel-less", label="Travel less", price=f"{1 / worst.factor:.0%} of the way", shot=shorter)
            if shorter
            else None,
            Fix(id="take-longer", label="Take longer", price=price(program.timing, longer), shot=longer)
            if longer
            else None,
        ),
        from_s=worst.from_s,
        to_s=worst.to_s,
    )


def _hardest(program: Program) -> float:
    """How many times over its limit an axis is asked to speed up or slow down; 0 within."""
    worst = _worst(over_speed_or_force(program.motion, program.start_s)[1])
    return worst.factor if worst else 0.0


@finding("move", "move.acceleration", source="the axis's own figures; least jerk peaks at 5.7735 d/T² (textbook)")
def too_hard(program: Program) -> Finding | None:
    """A leg speeds up or slows down harder than its axis can."""
    worst = _worst(over_speed_or_force(program.motion, program.start_s)[1])
    if worst is None:
        return None
    soft = with_keys(program.shot, lambda key: key.model_copy(update={"arrive": Ease(), "leave": Ease()}))
    fixes = []
    if milder(soft, _hardest, worst.factor):
        fixes.append(
            Fix(
                id="softest-ease",
                label="Ease over half of each leg",
                price="faster in the middle, softer at the ends",
                shot=soft,
            )
        )
    jumps = not np.isfinite(worst.reached)
    if not jumps:
        shorter = narrowable(program, worst.axis, 1 / worst.factor)
        longer = slower(program, float(np.sqrt(worst.factor)) * 1.001)
        if shorter:
            fixes.append(
                Fix(id="travel-less", label="Travel less", price=f"{1 / worst.factor:.0%} of the way", shot=shorter)
            )
        if longer:
            fixes.append(Fix(id="take-longer", label="Take longer", price=price(program.timing, longer), shot=longer))
    return Finding(
        severity="fix",
        turns=f"Up to {show(worst.axis, worst.limit, '/s²')}"
        + ("." if jumps else f"; this is {decimals(worst.factor, 2)} × that."),
        sentence=f"{worst.axis.capitalize()} cannot start or stop that hard.",
        figures=(
            "Without an ease it would have to be at speed at once"
            if jumps
            else f"It would need {show(worst.axis, worst.reached, '/s²')}"
        )
        + f"; it does {show(worst.axis, worst.limit, '/s²')}.",
        offer=lambda: usable(*fixes),
        from_s=worst.from_s,
        to_s=worst.to_s,
    )


@finding("move", "move.travel", source="arithmetic: shutter, storing, travel and settling share the interval")
def travel_does_not_fit(program: Program) -> Finding | None:
    """Shooting, moving and settling take longer than the interval."""
    motion, body = program.motion, program.shot.body
    if motion is None or motion.path.move.kind != "stepwise":
        return None
    shutter = np.minimum(program.exposures.wanted_shutter_s, float(program.shot.light.shutter_s))
    need = shutter * float(program.shot.held_times) + float(body.overhead_s) + motion.travel_s + motion.settle_s
    short = need > program.slot_s * 1.0005
    if not short.any():
        return None
    at = int(np.argmax(need - program.slot_s))
    wanted = Fraction(ceil(float(need.max()) * 1000), 1000)
    interval = interval_over_s(program.shot, wanted)
    longer = slower(program, float(interval / program.timing.interval_s)) if interval >= wanted else None
    fixes = [
        Fix(
            id="longer-interval",
            label=f"A frame every {duration(interval)}",
            price=price(program.timing, longer),
            shot=longer,
        )
        if longer
        else None,
        Fix(
            id="continuous",
            label="Move without stopping",
            price="frames blur by the way of each shutter; nothing settles",
            shot=program.shot.with_move(kind="continuous"),
        ),
    ]
    return Finding(
        severity="stop" if (program.slot_s - need + shutter).min() <= 0 else "fix",
        turns=f"{duration(round(float((need - program.slot_s)[at]), 2))} more between the frames, or less to do in it.",
        sentence=f"Shoot, move and settle take {duration(round(float(need[at]), 2))}, not "
        f"{duration(round(float(program.slot_s[at]), 2))}.",
        figures=f"Travel {duration(round(float(motion.travel_s[at]), 2))}, settling "
        f"{duration(float(motion.settle_s[at]))}, {duration(float(body.overhead_s))} to store"
        + (", a dark frame after each" if program.shot.light.noise_reduction else "")
        + f"; the shutter is cut to "
        f"{duration(round(float(program.shutter_room_s[at]), 2))} in {count(int(short.sum()), 'frame')}.",
        offer=lambda: usable(*fixes),
        from_s=float(program.at_s[np.argmax(short)]),
        to_s=float(program.at_s[program.frame_count - 1 - np.argmax(short[::-1])]),
    )
