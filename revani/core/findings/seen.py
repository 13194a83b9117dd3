"""Will a move be seen as it is meant: felt, sharp, smooth and in focus?"""

from fractions import Fraction
from math import ceil

import numpy as np

from revani.core.documents import MOST_THINGS, MoveKey, Thing
from revani.core.documents.move import MOST_BLUR_PX
from revani.core.documents.timing import MOST_FRAMES
from revani.core.edit.retime import price, retimed
from revani.core.edit.slower import milder, narrowable, show, with_keys
from revani.core.findings.finding import Finding, Fix, finding, usable
from revani.core.move.axes import middle_mm
from revani.core.move.key import rekeyed
from revani.core.optics.focus import circle_mm
from revani.core.optics.projection import hyperfocal_mm, sharp_limits_m
from revani.core.program.compiled import Program
from revani.core.quantities.measures import DISTANCE
from revani.core.quantities.units import count, decimals, duration
from revani.core.rehearsal.lost import blur_px

_STROBES_PART = 0.04
_SEEN_PART = 0.01
_FELT_LENGTHS = 10
_NEARER = 3


@finding("move", "move.no-foreground", source="common practice")
def slide_without_foreground(program: Program) -> Finding | None:
    """A slide is felt only if something stands near."""
    motion = program.motion
    if motion is None or "slide" not in motion.positions:
        return None
    length = float(np.ptp(motion.positions["slide"]))
    near = [thing for thing in motion.path.move.things if 0 < thing.y_mm <= _FELT_LENGTHS * length]
    if near or length < 1:
        return None
    x = float(motion.positions["slide"].mean())
    things = motion.path.move.things
    taken = {one.name for one in things}
    name = next(
        name for n in range(len(things) + 1) if (name := f"Foreground {n + 1}" if n else "Foreground") not in taken
    )
    thing = Thing(
        name=name, role="foreground", x_mm=round(x), y_mm=round(_NEARER * length), width_mm=300, height_mm=500,
        base_mm=-900,
    )  # fmt: skip
    return Finding(
        severity="mind",
        turns=f"A thing within {_FELT_LENGTHS} lengths of the slide; none stands there.",
        sentence="Nothing near the camera: the slide will hardly be felt.",
        figures=f"It travels {show('slide', length)}; a foreground within "
        f"{DISTANCE.show(_FELT_LENGTHS * length / 1000, 1)} makes it felt. Lowering the rig brings the ground near.",
        offer=lambda: usable(
            Fix(
                id="foreground",
                label=f"Put something at {DISTANCE.show(_NEARER * length / 1000, 1)}",
                price="somebody has to carry it there",
                shot=program.shot.with_move(things=[*(one.model_dump() for one in things), thing.model_dump()]),
            )
            if len(things) < MOST_THINGS
            else None
        ),
    )


@finding(
    "move",
    "move.blur",
    source="projection of the way of each thing while the shutter is open; the limit is the shot's own",
)
def blur_over_the_limit(program: Program) -> Finding | None:
    """The picture moves further while the shutter is open than is wanted."""
    blur = blur_px(program)
    if program.motion is None or not blur:
        return None
    name, worst = max(blur.items(), key=lambda pair: float(pair[1].max()))
    limit = program.motion.path.move.blur_limit_px
    if worst.max() <= limit:
        return None
    over = worst > limit
    at = int(np.argmax(worst))
    shutter = float(program.exposures.shutter_s[at]) * limit / float(worst[at])
    return Finding(
        severity="mind",
        turns=f"Up to {decimals(limit, 0)} px nothing is said; that limit is a value of the move.",
        sentence=f"{count(int(over.sum()), 'frame')} blur by up to {decimals(float(worst.max()), 0)} px.",
        figures=f"{name.capitalize()}, while the shutter is open for "
        f"{duration(round(float(program.exposures.shutter_s[at]), 2))}; {decimals(limit, 0)} px are allowed.",
        offer=lambda: usable(
            Fix(
                id="stepwise",
                label="Shoot, move, settle",
                price="sharp frames; travel and settling are taken from the shutter",
                shot=program.shot.with_move(kind="stepwise"),
            ),
            Fix(
                id="shorter-shutter",
                label=f"Shutter up to {duration(round(shutter, 2))}",
                price="ISO rises, or frames are darker",
                shot=program.shot.model_copy(
                    update={
                        "light": program.shot.light.model_copy(update={"shutter_s": Fraction(ceil(shutter * 100), 100)})
                    }
                ),
            )
            if program.shot.light.school in ("stepped", "continuous") and shutter > 0.02
            else None,
            Fix(
                id="blur-wanted",
                label="Let it blur",
                price="the finding is silenced up to there",
                shot=program.shot.with_move(blur_limit_px=float(ceil(worst.max()))),
            )
            # More than that no shot may let pass.
            if worst.max() <= MOST_BLUR_PX
            else None,
        ),
        from_s=float(program.at_s[np.argmax(over)]),
        to_s=float(program.at_s[program.frame_count - 1 - np.argmax(over[::-1])]),
    )


def _widths_a_frame(program: Program) -> float:
    """How far the picture moves from frame to frame, in widths; the fastest fiftieth left out."""
    assert program.motion
    largest = np.max(np.stack(list(program.motion.steps_px().values())), axis=0)
    return float(np.quantile(largest, 0.98)) / program.shot.body.pixels_wide


@finding("move", "move.strobes", "move.too-small", source="over 4 % of the width a frame strobes: common practice")
def too_small_or_too_fast_in_the_film(program: Program) -> Finding | None:
    """A move that nobody sees, or that strobes."""
    motion = program.motion
    if motion is None or program.frame_count < 3:
        return None
    wide, fps = program.shot.body.pixels_wide, float(program.timing.fps)
    per_frame = _widths_a_frame(program)
    total = max(float(values.sum()) for values in motion.steps_px().values()) / wide
    if per_frame > _STROBES_PART:
        factor = per_frame / (_STROBES_PART / 2)
        longer = ceil(program.frame_count * factor)
        more = retimed(
            program.shot, fps=program.timing.fps, frame_count=longer, interval_s=program.timing.interval_s,
            event_s=None, playback_s=None,
        ) if program.shot.live and longer <= MOST_FRAMES else None  # fmt: skip
        return Finding(
            severity="fix",
            turns=f"Up to {_STROBES_PART:.0%} of the width; this is {decimals(per_frame / _STROBES_PART, 1)} × that.",
            sentence=f"The picture moves {decimals(per_frame * fps, 1)} widths a second: it will strobe.",
            figures=f"{per_frame:.1%} of the width a frame; over {_STROBES_PART:.0%} the eye sees jumps.",
            offer=lambda: usable(
                Fix(id="take-longer", label="Take longer", price=price(program.timing, more), shot=more)
                if more
                else None,
                *(
                    Fix(id="travel-less", label=f"Less {name}", price=f"{1 / factor:.0%} of the way", shot=shorter)
                    for name in motion.path.names
                    if (shorter := narrowable(program, name, 1 / factor)) is not None
                    and milder(shorter, _widths_a_frame, per_frame)
                ),
            ),
        )
    zoomed = "zoom" in motion.positions or "focus" in motion.positions
    if total < _SEEN_PART and not zoomed:
        return Finding(
            id="move.too-small",
            severity="mind",
            turns=f"From {_SEEN_PART:.0%} of the width on; this is {total:.1%}.",
            sentence="The move is too small to be seen.",
            figures=f"Over the whole film the picture moves by {total:.1%} of its width.",
        )
    return None


@finding("move", "move.focus", source="depth of field from the circle of confusion, diagonal / 1500 (textbook)")
def subject_out_of_focus(program: Program) -> Finding | None:
    """A subject stands outside what is sharp while focus is pulled."""
    motion, shot = program.motion, program.shot
    if motion is None or "focus" not in motion.positions:
        return None
    pose, focus = motion.frame_pose, motion.positions["focus"]
    circle = circle_mm(shot.body)
    near, far = sharp_limits_m(pose.focal_mm, program.exposures.aperture, focus, circle)
    sharp_any = np.zeros(program.frame_count, dtype=bool)
    shown_any = np.zeros(program.frame_count, dtype=bool)
    for thing in motion.path.move.things:
        if thing.role != "subject":
            continue
        x, y, depth = pose.sees(shot, middle_mm(thing))
        shown = (depth > 0) & (x >= 0) & (x <= 1) & (y >= 0) & (y <= 1)
        shown_any |= shown
        sharp_any |= shown & (depth / 1000 >= near) & (depth / 1000 <= far)
    soft = shown_any & ~sharp_any
    if not soft.any():
        return None
    at = int(np.argmax(soft))
    f, n = shot.focal_length_mm, float(program.exposures.aperture[0])
    hyperfocal = float(hyperfocal_mm(f, n, circle)) / 1000

    def everywhere(key: MoveKey) -> MoveKey:
        if "focus" not in key.positions:
            return key
        return rekeyed(key, positions={"focus": round(hyperfocal, 2)})

    return Finding(
        severity="fix",
        turns="A subject within what is sharp, or a narrower aperture, and nothing is said.",
        sentence=f"No subject is sharp in {count(int(soft.sum()), 'frame')}.",
        figures=f"From {program.local(float(program.at_s[np.argmax(soft)])):%H:%M:%S}; sharp there is "
        f"{DISTANCE.show(float(near[at]), 1)} to "
        + ("infinity." if np.isinf(far[at]) else f"{DISTANCE.show(float(far[at]), 1)}."),
        offer=lambda: usable(
            Fix(
                id="hyperfocal",
                label=f"Focus at {DISTANCE.show(hyperfocal, 1)} throughout",
                price=f"sharp from {DISTANCE.show(hyperfocal / 2, 1)} to infinity; no pull of focus",
                shot=with_keys(shot, everywhere),
            )
        ),
        from_s=float(program.at_s[np.argmax(soft)]),
        to_s=float(program.at_s[program.frame_count - 1 - np.argmax(soft[::-1])]),
    )
