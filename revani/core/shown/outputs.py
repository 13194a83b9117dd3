"""What is made of a shot afterwards, as it is shown: lanes of the loom, frames in the finder, keys."""

from typing import Literal

import numpy as np
from numpy.typing import NDArray
from pydantic import BaseModel, ConfigDict

from revani.core.edit.fields.outputfields import KEY_PARTS, SPHERE_PARTS
from revani.core.edit.outputs_to_begin_with import beginnings
from revani.core.findings.made import Made, made_of
from revani.core.move.axes import middle_mm
from revani.core.program.afterwards import CropWay, SphereWay, film_length_s, rate_of
from revani.core.program.compiled import Program
from revani.core.quantities.arrays import Array, thinned
from revani.core.quantities.measures import DISTANCE
from revani.core.quantities.units import count, decimals, duration, plain_rate
from revani.core.reframe.sphere import out_of, px_per_deg, ray_of
from revani.core.shown.sentence import Word, told

_OUTLINE = 24
_WAY_POINTS = 160


class OutputPart(BaseModel):
    """Base of what is shown of outputs; places are parts of the picture from its left and top."""

    model_config = ConfigDict(frozen=True)


class CropPost(OutputPart):
    """A key of an output on the loom: the instant at which what it frames is filmed, its value, in words."""

    index: int
    at_s: float
    value: float
    said: str
    moment: str


class CropLane(OutputPart):
    """An output on the loom. `values` and `least` have a number for each drawn frame of the shot.

    Of a crop, its zoom, the least zoom that leaves no black edge and the lossless one; of a picture out of a sphere
    how wide it sees, 0, and how wide it must see to be sharp.
    """

    index: int
    name: str
    what: Literal["zoom", "view"]
    low: float
    high: float
    values: list[float]
    least: list[float]
    lossless: float
    lossless_told: str
    posts: list[CropPost]


def _at_frames(made: Made, values: Array, at: NDArray[np.intp]) -> Array:
    """Values over the film of an output at frames of the shot; those that it leaves out have that of their moment."""
    way = made.way
    return np.interp(made.program.film_s[at], way.shot_film_s, values)


def crop_lanes(program: Program, at: NDArray[np.intp]) -> list[CropLane]:
    """The outputs that can be made, at the drawn frames of their shot (indices from 0)."""
    return [_lane(made, at) for made in made_of(program)]


def _lane(made: Made, at: NDArray[np.intp]) -> CropLane:
    way, output, program = made.way, made.output, made.program
    if isinstance(way, CropWay):
        x, y = way.reach
        room_x, room_y = np.minimum(way.across, 1 - way.across), np.minimum(way.down, 1 - way.down)
        with np.errstate(divide="ignore"):
            least = np.minimum(way.zoom * np.maximum(x / np.maximum(room_x, 1e-9), y / np.maximum(room_y, 1e-9)), 100.0)
        values, lossless = way.zoom, way.lossless
        keyed = [getattr(one, "zoom", 1.0) for one in output.keys]
        high = float(max(values.max(), min(lossless * 1.15, values.max() * 2.5), 1.2, *keyed))
        lane = CropLane(
            index=made.i, name=output.name, what="zoom", low=1.0, high=round(high, 4), values=[], least=[],
            lossless=round(lossless, 4), lossless_told=f"lossless to {decimals(lossless, 2)} ×", posts=[],
        )  # fmt: skip
        posts = [(one.at_s, one.zoom, f"{decimals(one.zoom, 2)} ×") for one in output.keys]
    else:
        values, least = way.view_deg, np.zeros(way.frame_count)
        lossless = _sharp_view(made)
        high = float(max(values.max() * 1.1, lossless * 1.1))
        lane = CropLane(
            index=made.i, name=output.name, what="view", low=5.0, high=round(high, 2), values=[], least=[],
            lossless=round(lossless, 2), lossless_told=f"sharp from {decimals(lossless, 0)}° on", posts=[],
        )  # fmt: skip
        posts = [(one.at_s, one.view_deg, f"{decimals(one.view_deg, 0)}°") for one in output.sphere]
    wall = program.start_s + np.interp([at_s for at_s, _, _ in posts], way.film_s, way.after_s)
    return lane.model_copy(
        update={
            "values": np.round(_at_frames(made, values, at), 3).tolist(),
            "least": np.round(_at_frames(made, least, at), 3).tolist(),
            "posts": [
                CropPost(index=k, at_s=float(wall[k]), value=value, said=said, moment=duration(round(at_s, 2)))
                for k, (at_s, value, said) in enumerate(posts)
            ],
        }
    )


def _sharp_view(made: Made) -> float:
    """How wide a straight picture out of the sphere must see for the film to have no more pixels than it."""
    per_deg = made.program.shot.body.pixels_wide / 360
    view = np.linspace(5, 170, 331)
    return float(np.interp(-per_deg, -px_per_deg(made.output.pixels_wide, view, 0.0), view))


class Outline(OutputPart):
    """The frame of an output in the finder at a frame of the shot: its corners, or its edge on an unrolled sphere.

    `way` is where its middle goes over the film.
    """

    index: int
    name: str
    pieces: list[list[list[float]]]
    way: list[list[list[float]]]
    film_s: float


class OutputRow(OutputPart):
    """An output: what it is in words, its keys, what is to be known of it before one films."""

    index: int
    line: list[Word]
    more: list[Word]
    columns: list[str]
    keys: list[list[Word]]
    told: list[str]
    sections: int


class BeginningRow(OutputPart):
    """A way to begin."""

    name: str
    told: str


class ThingMark(OutputPart):
    """Where a thing of the table stands in the finder."""

    name: str
    x: float
    y: float


class OutputPanel(OutputPart):
    """All that the desk shows of what is made afterwards, at a frame of the shot."""

    number: int
    aspect: float
    sphere: bool
    outputs: list[OutputRow]
    outlines: list[Outline]
    beginnings: list[BeginningRow]
    things: list[str]
    marks: list[ThingMark]


def output_panel(program: Program, number: int) -> OutputPanel:
    """The outputs of a program at a frame; `number` counts from 1."""
    shot, body = program.shot, program.shot.body
    made = {one.i: one for one in made_of(program)}
    things = shot.things
    pose = program.pose(float(program.t_s[number - 1]))
    marks = []
    for one in things:
        x, y, depth = (float(part) for part in pose.sees(shot, middle_mm(one)))
        if depth > 0 and -0.2 < x < 1.2 and -0.2 < y < 1.2:
            marks.append(ThingMark(name=one.name, x=round(x, 4), y=round(y, 4)))
    return OutputPanel(
        number=number, aspect=body.pixels_wide / body.pixels_high, sphere=program.round,
        outputs=[_row(program, i, made.get(i)) for i in range(len(shot.outputs))],
        outlines=[_outline(one, number - 1) for one in made.values()],
        beginnings=[BeginningRow(name=one.name, told=one.told) for one in beginnings(program)],
        things=[one.name for one in things], marks=marks,
    )  # fmt: skip


def film_frame_at(made: Made, frame: int) -> int:
    """The film frame of an output that is nearest to a frame of the shot; both count from 0."""
    return int(np.abs(made.way.shot_film_s - float(made.program.film_s[frame])).argmin())


def _outline(made: Made, frame: int) -> Outline:
    way, j = made.way, film_frame_at(made, frame)
    at = thinned(way.frame_count, _WAY_POINTS)
    if isinstance(way, CropWay):
        edge, middles = _corners(way, j), np.stack([way.across[at], way.down[at]], axis=1)
    else:
        edge, middles = _edge(way, j), np.concatenate([_on_sphere(way, int(k), np.zeros((1, 2))) for k in at])
    moves = float(np.ptp(middles, axis=0).max()) > 1e-3
    return Outline(
        index=made.i, name=made.output.name, pieces=_lines(way, edge), way=_lines(way, middles) if moves else [],
        film_s=float(way.film_s[j]),
    )  # fmt: skip


def _corners(way: CropWay, j: int) -> Array:
    """The corners of a film frame in its source, parts of it, and the first again."""
    wide, high = way.output.pixels_wide - 0.5, way.output.pixels_high - 0.5
    corners = [[-0.5, -0.5, 1], [wide, -0.5, 1], [wide, high, 1], [-0.5, high, 1], [-0.5, -0.5, 1]]
    return np.asarray((np.array(corners) @ way.matrix(j).T + 0.5) / way.source_px)


def _edge(way: SphereWay, j: int) -> Array:
    """The edge of a film frame on the unrolled sphere, all round."""
    side, one = np.linspace(-1, 1, _OUTLINE, endpoint=False), np.ones(_OUTLINE)
    sides = [(side, -one), (one, side), (-side, one), (-one, -side)]
    round_it = np.concatenate([np.stack(each, axis=1) for each in sides])
    tall = way.output.pixels_high / way.output.pixels_wide
    return _on_sphere(way, j, np.concatenate([round_it, round_it[:1]]) * [1, tall])


def _on_sphere(way: SphereWay, j: int, places: Array) -> Array:
    """Where places of the picture of a film frame, half widths to the right and down, lie on the unrolled sphere."""
    unit = float(out_of(np.radians(way.view_deg[j]) / 2, float(way.curve[j])))
    towards = ray_of(places[:, 0] * unit, -places[:, 1] * unit, float(way.curve[j])) @ way.turned(j)
    lon = np.arctan2(towards[:, 0], towards[:, 2])
    lat = np.arcsin(np.clip(towards[:, 1], -1, 1))
    return np.stack([0.5 + lon / (2 * np.pi), 0.5 - lat / np.pi], axis=1)


def _lines(way: CropWay | SphereWay, places: Array) -> list[list[list[float]]]:
    """A line in the picture; on an unrolled sphere it is broken where it goes over the edge."""
    if not isinstance(way, SphereWay):
        return [np.round(places, 4).tolist()]
    breaks = np.flatnonzero(np.abs(np.diff(places[:, 0])) > 0.5) + 1
    return [np.round(part, 4).tolist() for part in np.split(places, breaks) if len(part) > 1]


_AVERAGED = ("a blended film", "a comet film")


def _row(program: Program, i: int, made: Made | None) -> OutputRow:
    shot, output = program.shot, program.shot.outputs[i]
    over = f" over [outputs.{i}.frames]" if output.becomes in _AVERAGED else ""
    line = told(shot, f"[outputs.{i}.name]: [outputs.{i}.size] at [outputs.{i}.fps], [outputs.{i}.becomes]{over}.",
                program.timing)  # fmt: skip
    sphere = program.round
    more = f"Yaw follows [outputs.{i}.lock]."
    if not sphere:
        more = (
            f"Pushed by [outputs.{i}.push] a second; enlarged [outputs.{i}.enlarging]; shaken by "
            f"[outputs.{i}.shake_part] of the width and [outputs.{i}.shake_roll_deg] at [outputs.{i}.shake_hz], seed "
            f"[outputs.{i}.shake_seed]."
        )
    sections = "".join(
        f" From [outputs.{i}.sections.{k}.from_s] of the shot's film on [outputs.{i}.sections.{k}.factor] as fast."
        for k in range(len(output.sections))
    )
    parts, name = (SPHERE_PARTS, "sphere") if sphere else (KEY_PARTS, "keys")
    keys = getattr(output, name)
    words = [
        list(told(shot, "".join(f"[outputs.{i}.{name}.{k}.{part}]" for part in parts), program.timing))
        for k in range(len(keys))
    ]
    return OutputRow(
        index=i, line=list(line), more=list(told(shot, more + sections, program.timing)),
        columns=[word.label.partition(", ")[2] for word in words[0]] if words else [],
        keys=words,
        told=_told(program, made) if made is not None else [], sections=len(output.sections),
    )  # fmt: skip


def _told(program: Program, made: Made) -> list[str]:
    way, output = made.way, made.output
    length = film_length_s(program, output)
    said = [
        f"{duration(round(length, 2))}, {count(way.frame_count, 'frame')} at {plain_rate(rate_of(program, output))} fps"
        if output.is_film
        else f"One picture of {count(program.frame_count, 'frame')}."
    ]
    if isinstance(way, CropWay):
        said.append(
            f"No pixel is enlarged up to {decimals(way.lossless, 2)} ×; "
            f"it goes to {decimals(float(way.zoom.max()), 2)} ×."
        )
        if way.needed > 1.0005:
            said.append(wider_told(program, way.needed))
    return said


def wider_told(program: Program, times: float) -> str:
    """How much wider to frame, as a focal length, as a distance, and as a rectangle in the finder."""
    shot = program.shot
    focal = shot.focal_length_mm
    thing = shot.subject
    ways = [f"at {decimals(focal / times, 1)} mm instead of {decimals(focal, 1)} mm"]
    if thing is not None:
        metres = float(np.hypot(thing.x_mm, thing.y_mm)) / 1000
        ways.append(f"or from {DISTANCE.show(metres * times, 1)} instead of {DISTANCE.show(metres, 1)}")
    return (
        f"Frame {decimals(times, 2)} × wider than what it ends with: {', '.join(ways)}; that fills "
        f"{1 / times:.0%} of the finder, across and down."
    )


def widest_needed(program: Program) -> float:
    """How many times wider than what its crops end with the picture must be framed; 1 where there are none."""
    ways = [one.way for one in made_of(program)]
    return max([way.needed for way in ways if isinstance(way, CropWay)], default=1.0)
