"""What the mechanics of a rig will make of a move: stairs, play, weight, slope, jumps."""

from functools import partial

import numpy as np

from revani.core.documents import AxisName
from revani.core.documents.kit import weight_of_kg
from revani.core.edit.retime import price, retimed
from revani.core.edit.slower import show
from revani.core.findings.finding import Finding, Fix, finding, usable
from revani.core.light.firing import by_the_clock, modes_for
from revani.core.move.key import rekeyed
from revani.core.program.compiled import Program
from revani.core.quantities.arrays import Array
from revani.core.quantities.measures import WEIGHT
from revani.core.quantities.units import count, decimals, duration


@finding("move", "move.staircase", source="the axis's own figures; a pixel is seen")
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
            fix = Fix(id="fewer-frames", label="Fewer frames, a step each", price=price(timing, wider), shot=wider)
            return Finding(
                severity="mind",
                turns=f"With steps of {show(name, usual)} and less nothing is said.",
                sentence=f"{name.capitalize()} will climb in stairs: a step every "
                f"{decimals(axis.step / usual, 1)} frames.",
                figures=f"{show(name, usual)} a frame are wanted, its smallest step is {show(name, axis.step)}.",
                offer=partial(usable, fix),
            )
    return None


@finding("move", "move.backlash", source="the axis's own figures")
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
                severity="mind",
                turns=f"Quiet without play, or where no turn is wider than {show(name, _TURN_STEPS * axis.step)}.",
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
    shot, body = program.shot, program.shot.body
    focal = shot.focal_length_mm / body.sensor_width_mm * body.pixels_wide
    if axis in ("pan", "tilt", "roll"):
        return float(focal * np.radians(1.0))
    things = shot.things
    nearest = min((thing.y_mm for thing in things if thing.y_mm > 0), default=10_000.0)
    return float(focal / nearest) if axis in ("slide", "lift") else 0.0


@finding("move", "move.payload", source="the mover's own figure")
def too_heavy(program: Program) -> Finding | None:
    """A mover carries more than it may."""
    kit = program.shot.kit
    above = kit.body.weight_kg + kit.lens.weight_kg
    for mover in reversed(kit.movers):
        if above > mover.payload_kg:
            return Finding(
                severity="stop",
                turns=f"{WEIGHT.show(above - mover.payload_kg, 1)} less on it.",
                sentence=f"{mover.name} carries {WEIGHT.show(above, 1)} "
                f"and may carry {WEIGHT.show(mover.payload_kg, 1)}.",
                figures="Motors slip and lose their place; take a lighter body or lens, or a stronger mover.",
            )
        above += mover.weight_kg
    return None


@finding("move", "move.support", source="the support's own figure")
def too_heavy_for_its_support(program: Program) -> Finding | None:
    """What a camera stands on carries more than it may."""
    kit = program.shot.kit
    above = kit.body.weight_kg + kit.lens.weight_kg + sum(one.weight_kg for one in kit.movers)
    weak = next((one for one in kit.supports if above > one.payload_kg), None)
    if weak is None:
        return None
    return Finding(
        severity="fix",
        turns=f"{WEIGHT.show(above - weak.payload_kg, 1)} less on it.",
        sentence=f"{weak.name} carries {WEIGHT.show(above, 1)} and may carry {WEIGHT.show(weak.payload_kg, 1)}.",
        figures="It sinks, or lets go, in the course of a night; take a stronger one, or less on it.",
    )


@finding("move", "move.load", source="arithmetic: what all of it weighs")
def too_much_to_carry(program: Program) -> Finding | None:
    """All that comes along weighs more than one wants to carry."""
    kit = program.shot.kit
    most = kit.carries_at_most_kg
    if most is None or kit.weight_kg <= most:
        return None
    heaviest = sorted(kit.pieces, key=weight_of_kg, reverse=True)[:3]
    return Finding(
        severity="mind",
        turns=f"Up to {WEIGHT.show(most, 1)} nothing is said.",
        sentence=f"It weighs {WEIGHT.show(kit.weight_kg, 1)}, and {WEIGHT.show(most, 1)} is what you carry.",
        figures="The heaviest: "
        + ", ".join(f"{one.name} {WEIGHT.show(weight_of_kg(one), 1)}" for one in heaviest)
        + ".",
    )


@finding("move", "move.incline", source="the mover's own figure")
def too_steep(program: Program) -> Finding | None:
    """The slider stands steeper than it climbs."""
    move = program.shot.move
    if move is None or not move.incline_deg:
        return None
    for mover in program.shot.kit.movers:
        if any(axis.name == "slide" for axis in mover.axes) and move.incline_deg > mover.incline_deg:
            flatter = program.shot.with_move(incline_deg=mover.incline_deg)
            fix = Fix(
                id="less-steep", label=f"Set it up at {decimals(mover.incline_deg, 0)}°",
                price="the camera rises less", shot=flatter,
            )  # fmt: skip
            return Finding(
                severity="stop",
                turns=f"{decimals(move.incline_deg - mover.incline_deg, 0)}° flatter.",
                sentence=f"{mover.name} climbs {decimals(mover.incline_deg, 0)}°, "
                f"not {decimals(move.incline_deg, 0)}°.",
                figures="Under load it would run back.",
                offer=partial(usable, fix),
            )
    return None


@finding("move", "move.loop-jump", source="arithmetic over the keys")
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
        severity="fix",
        turns="Quiet where each axis ends within a millionth of where it begins.",
        sentence="At the end of each round the rig would have to jump back.",
        figures=f"In no time: {said}.",
        offer=lambda: usable(
            Fix(
                id="back-and-forth",
                label="Go back and forth",
                price="each round takes twice as long",
                shot=program.shot.with_move(repeat="ping-pong"),
            )
        ),
    )


# Common practice, no source: a way there and back that is shown by fewer frames is not seen as one.
_FRAMES_A_ROUND = 8


@finding("move", "move.sampled", source="eight frames a round are seen as one: common practice, no source")
def rounds_are_sampled(program: Program) -> Finding | None:
    """A move repeats so fast that the frames pick single places out of it."""
    motion = program.motion
    if motion is None or motion.path.move.repeat == "once" or program.shot.live or motion.path.pass_s <= 0:
        return None
    path = motion.path
    round_s = path.pass_s * (2 if path.move.repeat == "ping-pong" else 1)
    first = int(np.searchsorted(program.t_s, path.begins_s))
    slot_s = float(np.median(program.slot_s[min(first, program.frame_count - 1) :]))
    frames = round_s / slot_s
    if frames >= _FRAMES_A_ROUND:
        return None
    return Finding(
        severity="fix" if frames < _FRAMES_A_ROUND / 2 else "mind",
        turns=f"From {_FRAMES_A_ROUND} frames a round on; here they are {decimals(frames, 1)}.",
        sentence="The film will not show this move, but single places of it.",
        figures=f"A round takes {duration(round(round_s, 1))}, a frame comes every {duration(round(slot_s, 2))}: "
        f"{decimals(frames, 1)} frames a round, so the picture jumps to and fro.",
        offer=lambda: usable(_one_pass(program)),
        from_s=program.start_s + path.begins_s,
        to_s=program.end_s,
    )


def _one_pass(program: Program) -> Fix | None:
    """The keys once, stretched over what is left of the shot from the first one on."""
    assert program.motion and program.shot.move
    begins, pass_s = program.motion.path.begins_s, program.motion.path.pass_s
    factor = (float(program.timing.event_s) - begins) / pass_s
    keys = [
        rekeyed(key, after_s=begins + (at - begins) * factor, hold_s=key.hold_s * factor)
        for key, at in zip(program.shot.move.keys, program.key_moments_s, strict=True)
    ]
    shot = program.shot.with_move(repeat="once", keys=[key.model_dump() for key in keys])
    return Fix(id="one-way", label="One way over the whole shot", price="slower, and no way back", shot=shot)


@finding("move", "move.ramps-cut", source="arithmetic over the legs")
def ramps_cut(program: Program) -> Finding | None:
    """Eases that do not fit into their leg are cut short."""
    if program.motion is None or program.motion.path.move.path == "smooth":
        return None
    for i, leg in enumerate(program.motion.path.legs):
        if leg.shortened:
            return Finding(
                severity="mind",
                turns=f"Together at most {duration(round(leg.duration_s, 2))}, as long as the leg.",
                sentence=f"The eases of leg {i + 1} are longer than the leg.",
                figures=f"They are cut to {duration(round(leg.up.s, 2))} and {duration(round(leg.down.s, 2))} of "
                f"{duration(round(leg.duration_s, 2))}.",
            )
    return None


@finding("move", "move.not-driven", source="how the runner works")
def nobody_drives_it(program: Program) -> Finding | None:
    """A move of a shot whose camera nobody is linked to: the rig is not moved either."""
    shot = program.shot
    if program.motion is None or not by_the_clock(shot):
        return None
    linked = shot.model_copy(update={"fires": "linked"})
    offered = modes_for(linked)
    if offered and shot.recording.name not in [mode.name for mode in offered]:
        linked = linked.model_copy(update={"mode": offered[0].name})
    fix = Fix(
        id="link", label="Link the camera", price="a link to it at the place; Revani sets and fires every frame",
        shot=linked,
    )  # fmt: skip
    return Finding(
        severity="fix",
        turns="Quiet where the camera is linked, or where nothing moves.",
        sentence="Nobody drives this move.",
        figures="Revani moves a rig for a camera that it is linked to: set the move on the mover itself, or link it.",
        offer=partial(usable, fix),
    )
