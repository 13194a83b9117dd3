"""Will what is made of a shot afterwards hold: within the picture, sharp enough, quiet, and seen at all?"""

from typing import Any

import numpy as np

from revani.core.documents import CropKey, FilmOutput
from revani.core.edit.outputs import OutputEdit, apply_output_edit
from revani.core.findings.finding import Finding, Fix, finding
from revani.core.findings.made import FIFTH, Made, at_film, of_each, offered, retimed, sized, steps_of
from revani.core.move.axes import middle_mm
from revani.core.program.afterwards import CropWay, SphereWay, film_length_s, way_of
from revani.core.program.compiled import Program
from revani.core.quantities.units import count, decimals, duration

_LEAVES_PART = 0.05
_HARD_WIDTHS_S, _HARD_LN_S = 0.08, 0.06
_STROBES_PART, _PUMPS_PART = 0.04, 0.015
_UNSEEN_ZOOM, _UNSEEN_PART, _UNSEEN_DEG = 0.02, 0.01, 0.5
_EDGE = 1e-6
# A turn of the last digit of a key is no black edge.
_EDGE_PX = 0.5


@finding("after", "crop.larger-than-picture", "crop.no-sphere", source="arithmetic: pixels that are not there")
def larger_than_the_picture(program: Program) -> Finding | None:
    """An output is larger than the picture that it is cut out of, or asks for a sphere that is not recorded."""
    each = (_not_there(program, i, output) for i, output in enumerate(program.shot.outputs))
    return next((found for found in each if found is not None), None)


def _not_there(program: Program, i: int, output: FilmOutput) -> Finding | None:
    body, mode = program.shot.body, program.shot.recording
    if output.sphere and mode.projection != "sphere":
        return Finding(
            severity="stop", id="crop.no-sphere",
            sentence=f"{output.name}: {mode.name} records no sphere to look about in.",
            figures=f"{count(len(output.sphere), 'key')} of yaw, pitch and view.",
            turns="In a mode that records a sphere nothing is said.",
            offer=lambda: _without_sphere(program, i, output),
        )  # fmt: skip
    part = min(body.pixels_wide / output.pixels_wide, body.pixels_high / output.pixels_high)
    if part >= 1:
        return None
    wide, high = (int(side * part) // 2 * 2 for side in (output.pixels_wide, output.pixels_high))
    return Finding(
        severity="stop",
        sentence=f"{output.name}: the picture has no {output.pixels_wide:,} × {output.pixels_high:,} px.",
        figures=f"It has {body.pixels_wide:,} × {body.pixels_high:,}.",
        turns=f"Up to {wide:,} × {high:,} of this shape nothing is said.",
        offer=lambda: _smaller(program, i, output, wide, high),
    )


def _without_sphere(program: Program, i: int, output: FilmOutput) -> tuple[Fix, ...]:
    outputs = list(program.shot.outputs)
    outputs[i] = output.model_copy(update={"sphere": ()})
    return (Fix(id="plain", label="Without those keys", price="what was led by them is lost",
                shot=program.shot.with_outputs(outputs)),)  # fmt: skip


def _smaller(program: Program, i: int, output: FilmOutput, wide: int, high: int) -> tuple[Fix, ...]:
    if min(wide, high) < 64:
        return ()
    outputs = list(program.shot.outputs)
    outputs[i] = output.model_copy(update={"pixels_wide": wide, "pixels_high": high})
    return (Fix(id="smaller", label=f"{wide:,} × {high:,}", price="a smaller film",
                shot=program.shot.with_outputs(outputs)),)  # fmt: skip


@of_each("after", "crop.past-the-end", source="arithmetic over the film's length")
def past_the_end(made: Made) -> Finding | None:
    """Keys of an output stand after the film's end, so that what they say never comes."""
    ends = film_length_s(made.program, made.output)
    over = [one for one in made.keys if one.at_s > ends + _EDGE]
    if not over:
        return None
    last = made.keys[-1].at_s
    return Finding(
        severity="fix",
        sentence=f"{made.output.name}: {count(len(over), 'key')} after the film's end "
        f"{'is' if len(over) == 1 else 'are'} never reached.",
        figures=f"The film is {duration(round(ends, 2))} long, the last key stands at {duration(round(last, 2))}.",
        turns=f"With a film {duration(round(last - ends, 2))} longer all are reached.",
        offer=lambda: offered(
            made, past_the_end, "together", "All within the film", "what moves is quicker",
            lambda: retimed(made, made.keys[0].at_s * ends / last, ends),
        ),
    )  # fmt: skip


@of_each("after", "crop.black-edges", "crop.not-wide-enough", source="geometry of a turned rectangle in another")
def black_edges(made: Made) -> Finding | None:
    """The frame of an output lies over the picture's edge, where there is nothing but black."""
    way = made.way
    if not isinstance(way, CropWay):
        return None
    slack = _EDGE_PX / way.source_px[0]
    over = way.over > slack
    if not over.any():
        return None
    reach = np.maximum(*way.reach)
    narrow = reach > 0.5 + slack
    by = float(way.over.max())
    wider = float(2 * reach.max())
    where = at_film(way.film_s, over)
    if narrow.any():
        return Finding(
            severity="stop", id="crop.not-wide-enough",
            sentence=f"{made.output.name}: the picture is too narrow to turn and shake in, {where}.",
            figures=f"It would have to be {decimals(wider, 3)} × as wide.",
            turns=f"With a zoom of {decimals(wider, 3)} × more there is room.",
            offer=lambda: _inside_fixes(made),
        )  # fmt: skip
    return Finding(
        severity="stop",
        sentence=f"{made.output.name}: black shows at its edge, {where}.",
        figures=f"The frame lies up to {decimals(by * way.source_px[0], 0)} px over the picture's edge.",
        turns=f"{decimals(by * 100, 2)} % of the picture nearer to its middle nothing is said.",
        offer=lambda: _inside_fixes(made),
    )  # fmt: skip


def _inside_fixes(made: Made) -> tuple[Fix, ...]:
    return (
        *offered(made, black_edges, "to-the-middle", "Nearer to the middle", "the frame moves less far",
                 lambda: _kept_inside(made, False)),
        *offered(made, black_edges, "closer", "Closer, until it is within", "fewer pixels, less of the picture",
                 lambda: _kept_inside(made, True)),
    )  # fmt: skip


def _kept_inside(made: Made, closer: bool) -> FilmOutput | None:
    """The keys moved towards the middle, or zoomed in, until no edge shows at any frame."""
    output = made.output
    keys: list[dict[str, Any]] = [one.model_dump() for one in output.keys or (CropKey(),)]
    for _ in range(24):
        now = way_of(made.program, made.with_keys(keys))
        assert isinstance(now, CropWay)
        over = float(now.over.max())
        if over <= 0:
            return made.with_keys(keys)
        if closer:
            for key in keys:
                key["zoom"] = round(min(key["zoom"] * (1 + 2.2 * over) + 1e-4, 40.0), 4)
        else:
            shrink = 1 - min(over * 2.5 + 1e-3, 1.0)
            for key in keys:
                for side in ("across", "down"):
                    key[side] = round(0.5 + (key[side] - 0.5) * shrink, 5)
    return None


@of_each(
    "after", "crop.soft", source="pixels of the source for one of the film; up to 1.2 × few notice: common practice"
)
def soft(made: Made) -> Finding | None:
    """An output is enlarged beyond the pixels that the picture has."""
    way = made.way
    if not isinstance(way, CropWay):
        return None
    enlarged = float(way.zoom.max()) / way.lossless
    let = FIFTH if made.output.enlarging == "by a fifth" else 1.0
    if enlarged <= let + 1e-4:
        return None
    where = at_film(way.film_s, way.zoom > way.lossless * let)
    gentle = enlarged <= FIFTH + 1e-4
    return Finding(
        severity="mind" if gentle else "fix",
        sentence=f"{made.output.name}: enlarged {decimals(enlarged, 2)} × beyond its pixels, {where}.",
        figures=f"No pixel is enlarged up to a zoom of {decimals(way.lossless, 2)} ×; up to "
        f"{decimals(way.lossless * FIFTH, 2)} × few notice.",
        turns=f"Up to a zoom of {decimals(way.lossless * let, 2)} × nothing is said; it goes to "
        f"{decimals(float(way.zoom.max()), 2)} ×.",
        offer=lambda: (
            *offered(made, soft, "less", f"At most {decimals(way.lossless * let, 2)} ×", "it goes less close",
                     lambda: _at_most(made, way.lossless * let)),
            *(offered(made, soft, "let-it", "Let it be enlarged by a fifth", "few notice",
                      lambda: made.output.model_copy(update={"enlarging": "by a fifth"})) if gentle else ()),
            *offered(made, soft, "smaller", "A smaller film", "fewer pixels, all of them sharp",
                     lambda: sized(made.output, let / enlarged)),
        ),
    )  # fmt: skip


def _at_most(made: Made, zoom: float) -> FilmOutput | None:
    if zoom < 1:
        return None
    down = int(zoom * 10_000) / 10_000
    return made.with_keys([one.model_dump() | {"zoom": min(getattr(one, "zoom", 1.0), down)} for one in made.keys])


@of_each("after", "crop.subject-leaves", source="the subject's way through the picture by its projection (geometry)")
def subject_leaves(made: Made) -> Finding | None:
    """The subject is in the picture, and not in the frame that is cut out of it."""
    shot = made.program.shot
    thing = shot.subject
    if thing is None:
        return None
    way = made.way
    if not isinstance(way, CropWay):
        return None
    x, y, depth = made.program.pose(way.after_s).sees(shot, middle_mm(thing))
    seen = (depth > 0) & (x >= 0) & (x <= 1) & (y >= 0) & (y <= 1)
    (wide, high), (w, h) = way.source_px, way.whole_px
    turn = np.radians(way.roll_deg)
    dx, dy = (x - way.across) * wide, (y - way.down) * high
    off_x, off_y = dx * np.cos(turn) + dy * np.sin(turn), dy * np.cos(turn) - dx * np.sin(turn)
    inside = (np.abs(off_x) <= w / way.zoom / 2) & (np.abs(off_y) <= h / way.zoom / 2)
    lost = seen & ~inside
    part = float(lost.mean())
    if part <= _LEAVES_PART:
        return None
    return Finding(
        severity="fix",
        sentence=f"{made.output.name}: {thing.name} is outside the frame, {at_film(way.film_s, lost)}.",
        figures=f"For {part:.0%} of the film it is in the picture and not in what is cut out of it.",
        turns=f"Up to {_LEAVES_PART:.0%} of the film nothing is said.",
        offer=lambda: offered(
            made, subject_leaves, "follow", f"Go after {thing.name}", "the keys are written anew",
            lambda: _gone_after(made, thing.name),
        ),
    )  # fmt: skip


def _gone_after(made: Made, name: str) -> FilmOutput:
    edit = OutputEdit(do="follow", output=made.i, name=name)
    return apply_output_edit(made.program, edit).outputs[made.i]


@of_each("after", "crop.stops-hard", source="arithmetic over the eases; how fast is hard: common practice, no source")
def stops_hard(made: Made) -> Finding | None:
    """A frame that moves stops from one film frame to the next."""
    way = made.way
    if not isinstance(way, CropWay):
        return None
    if len(made.keys) < 2 or way.frame_count < 4:
        return None
    step = float(way.film_s[1] - way.film_s[0])
    calm = way_of(made.program, made.output.unshaken)
    shift, scale = (part / step for part in steps_of(calm))
    hard = None
    for key in made.keys[:-1] if made.keys[-1].at_s >= way.film_s[-1] - 1.5 * step else made.keys:
        j = int(np.searchsorted(way.film_s, key.at_s))
        if not 1 <= j < len(shift) - 1:
            continue
        before, after = max(j - 2, 0), min(j + 1, len(shift) - 1)
        for speed, limit in ((shift, _HARD_WIDTHS_S), (scale, _HARD_LN_S)):
            if speed[before] > limit and speed[after] < limit * 0.05:
                hard = (key, float(speed[before]), limit)
    if hard is None:
        return None
    key, speed_then, limit = hard
    return Finding(
        severity="mind",
        sentence=f"{made.output.name}: the frame stops at once, at {duration(round(key.at_s, 1))}.",
        figures=f"From {decimals(speed_then * 100, 0)} % a second to none.",
        turns=f"Under {decimals(limit * 100, 0)} % a second nothing is said.",
        offer=lambda: offered(
            made, stops_hard, "softly", "Arrive softly", "it is quicker in the middle",
            lambda: made.with_keys(
                [one.model_dump() | {"arrive": {"kind": "jerk"}, "leave": {"kind": "jerk"}} for one in made.keys]
            ),
        ),
    )  # fmt: skip


@of_each(
    "after", "crop.strobes", "crop.pumps", "sphere.whirls",
    source="over 4 % of the width a film frame strobes, over 1.5 % in scale pumps: common practice",
)  # fmt: skip
def strobes(made: Made) -> Finding | None:
    """The frame goes so far from one film frame to the next that the film jerks instead of moving."""
    way = made.way
    if way.frame_count < 2:
        return None
    shift, scale = steps_of(way)
    sphere = isinstance(way, SphereWay)
    worst, most = float(shift.max()), _STROBES_PART
    id, does = ("sphere.whirls", "whirls") if sphere else ("crop.strobes", "strobes")
    where = shift > most
    if worst <= most:
        worst, most, where = float(scale.max()), _PUMPS_PART, scale > _PUMPS_PART
        id, does = "crop.pumps", "pumps"
    if worst <= most:
        return None
    ends = film_length_s(made.program, made.output)
    return Finding(
        severity="mind", id=id,
        sentence=f"{made.output.name}: it {does}, {at_film(way.film_s[:-1], where)}.",
        figures=f"Up to {decimals(worst * 100, 1)} % {'of the width ' if does != 'pumps' else 'in scale '}"
        "from one film frame to the next.",
        turns=f"Up to {decimals(most * 100, 1)} % nothing is said.",
        offer=lambda: (
            *offered(made, strobes, "slower", "Over the whole film", "it moves all the time",
                     lambda: retimed(made, 0.0, ends) if len(made.keys) > 1 else None),
            *offered(made, strobes, "still", "Without the shake", "it stands still",
                     lambda: made.output.unshaken),
        ),
    )  # fmt: skip


@of_each("after", "crop.unseen", source="under these changes nobody sees a move: common practice, no source")
def unseen(made: Made) -> Finding | None:
    """Keys move the frame so little that nobody will see it."""
    way = made.way
    if not isinstance(way, CropWay):
        return None
    if len(made.keys) < 2:
        return None
    zoom = float(np.ptp([np.log(one.zoom) for one in made.output.keys]))
    part = max(float(np.ptp([getattr(one, side) for one in made.output.keys])) for side in ("across", "down"))
    part *= float(way.zoom.max())
    roll = float(np.ptp([one.roll_deg for one in made.output.keys]))
    if zoom > _UNSEEN_ZOOM or part > _UNSEEN_PART or roll > _UNSEEN_DEG:
        return None
    return Finding(
        severity="mind",
        sentence=f"{made.output.name}: its move will not be seen.",
        figures=f"{decimals(zoom * 100, 1)} % in scale, {decimals(part * 100, 1)} % of the width, "
        f"{decimals(roll, 1)}° over the film.",
        turns=f"From {_UNSEEN_ZOOM:.0%} in scale, {_UNSEEN_PART:.0%} of the width or {_UNSEEN_DEG}° on it is seen.",
        offer=lambda: offered(
            made, unseen, "stand", "Stand still", "one key is left", lambda: made.with_keys([made.keys[0]]),
        ),
    )  # fmt: skip
