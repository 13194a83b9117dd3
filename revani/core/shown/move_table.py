"""The move table: the rig from above, the camera's picture beside it, and what parallax there is."""

from fractions import Fraction

import numpy as np
from pydantic import BaseModel, ConfigDict

from revani.core.documents import Move, Shot, Thing
from revani.core.light.dials import true_aperture
from revani.core.move.axes import Pose
from revani.core.optics.focus import circle_mm
from revani.core.optics.projection import depth_of_field, parallax_px, view_deg
from revani.core.program.compiled import Program
from revani.core.quantities.measures import DISTANCE, LENGTH
from revani.core.quantities.units import decimals
from revani.core.reframe.crop import crop
from revani.core.shown.framed_view import Way, framed_view

_SAFE = 0.05
_UPRIGHT = 0.02
# Common practice, no source: how a foreground passes, in parts of a good pace.
_WANTED_PART = 0.003
_PACES = (("gently", 0.5), ("well", 1.0), ("strongly", 2.0))


class Piece(BaseModel):
    """Base of what the move table shows; lengths in mm, places in parts of the picture."""

    model_config = ConfigDict(frozen=True)


class Board(Piece):
    """A thing in the picture: its left, top, right and bottom; farther things come first."""

    name: str
    role: str
    left: float
    top: float
    right: float
    bottom: float


class CropFrame(Piece):
    """The largest crop of another shape, in the middle of the picture."""

    name: str
    left: float
    top: float
    right: float
    bottom: float


class Standing(Piece):
    """A thing on the table, seen from above."""

    name: str
    role: str
    x_mm: float
    y_mm: float
    width_mm: float
    distance: str


class Table(Piece):
    """The rig from above at one frame, with the picture from there.

    `slider` is from and to of the slide's range (None without one), `travelled` of the move;
    `slider_ends` are the ends of the range in words; an inclined slider is as long as it looks from above,
    and `slide_per_mm` is how far the slide goes for a mm there (0 where it stands upright). `heading_deg`
    is clockwise from straight ahead; `view` is where the left edge, the middle and the right edge of the
    picture go from the camera, to the border of what is drawn (mm right, mm ahead).
    """

    number: int
    slider: list[float] | None
    slider_ends: list[str]
    travelled: list[float] | None
    camera_x_mm: float
    slide_per_mm: float
    heading_deg: float
    view: list[list[float]]
    things: list[Standing]
    aim: str | None
    extent_mm: float
    aspect: float
    horizon: float
    boards: list[Board]
    ways: list[Way]
    safe: float
    crops: list[CropFrame]
    told: list[str]


def move_table(program: Program, number: int) -> Table:
    """The table at a frame, whose number counts from 1."""
    shot = program.shot
    move = shot.move or Move.model_validate({})
    pose = _pose_at(program, number)
    slide = shot.kit.axes.get("slide")
    length = float(np.cos(np.radians(move.incline_deg)))
    travelled = None
    if program.motion is not None and "slide" in program.motion.positions:
        values = program.motion.positions["slide"] * length
        travelled = [float(values.min()), float(values.max())]
    _, horizon, _ = pose.sees_far(shot, pose.heading_deg - shot.framing.heading_deg, 0.0)
    far = [thing.y_mm for thing in move.things] + [slide.high if slide else 0.0, 2_000.0]
    camera = np.array([float(pose.right_mm), 0.0])
    extent = max(far) * _BEYOND
    return Table(
        number=number,
        slider=[slide.low * length, slide.high * length] if slide else None,
        slider_ends=[LENGTH.show(slide.low, 0), LENGTH.show(slide.high, 0)] if slide else [],
        travelled=travelled,
        camera_x_mm=float(pose.right_mm),
        slide_per_mm=1 / length if length > _UPRIGHT else 0.0,
        heading_deg=round(float(pose.heading_deg - shot.framing.heading_deg), 3),
        view=_view(shot, pose, extent * _BEYOND),
        things=[
            Standing(
                name=thing.name, role=thing.role, x_mm=thing.x_mm, y_mm=thing.y_mm, width_mm=thing.width_mm,
                distance=DISTANCE.show(float(np.hypot(*(np.array([thing.x_mm, thing.y_mm]) - camera))) / 1000, 1),
            )
            for thing in move.things
        ],
        aim=move.aim.thing if move.aim else None,
        extent_mm=extent,
        aspect=shot.body.pixels_wide / shot.body.pixels_high,
        horizon=round(float(horizon), 4),
        boards=[
            board
            for thing in sorted(move.things, key=lambda one: -one.y_mm)
            if (board := _board(shot, pose, thing)) is not None
        ],
        ways=framed_view(program, number).ways,
        safe=_SAFE,
        crops=_crops(shot),
        told=_told(program, number),
    )  # fmt: skip


_BEYOND = 1.1


def _view(shot: Shot, pose: Pose, reach_mm: float) -> list[list[float]]:
    wide = view_deg(shot.recording.projection, shot.body.sensor_width_mm, float(pose.focal_mm)) or 360.0
    ahead = float(pose.heading_deg) - shot.framing.heading_deg
    towards = np.radians([ahead - wide / 2, ahead, ahead + wide / 2])
    across, up = float(pose.right_mm) + np.sin(towards) * reach_mm, np.cos(towards) * reach_mm
    return [[round(float(x), 1), round(float(y), 1)] for x, y in zip(across, up, strict=True)]


_SHAPES = (("16:9", 16, 9), ("1:1", 1, 1), ("9:16", 9, 16))


def _crops(shot: Shot) -> list[CropFrame]:
    body = shot.body
    frames = []
    for name, wide, high in _SHAPES:
        found = crop(body.pixels_wide, body.pixels_high, wide, high, Fraction(1))
        across, down = float(found.width_px / body.pixels_wide), float(found.height_px / body.pixels_high)
        if across > 0.995 and down > 0.995:
            continue
        left, top = (1 - across) / 2, (1 - down) / 2
        frames.append(CropFrame(name=name, left=left, top=top, right=1 - left, bottom=1 - top))
    return frames


def _pose_at(program: Program, number: int) -> Pose:
    return program.pose(program.t_s[number - 1])


def _board(shot: Shot, pose: Pose, thing: Thing) -> Board | None:
    half = thing.width_mm / 2
    corners = np.array(
        [
            [thing.x_mm - half, thing.y_mm, thing.base_mm + thing.height_mm],
            [thing.x_mm + half, thing.y_mm, thing.base_mm],
        ]
    )
    x, y, depth = Pose(*(np.broadcast_to(part, (2,)) for part in vars(pose).values())).sees(shot, corners)
    if (depth <= 1).any():
        return None
    left, right = sorted((float(x[0]), float(x[1])))
    return Board(
        name=thing.name, role=thing.role, left=round(left, 4), top=round(float(y[0]), 4), right=round(right, 4),
        bottom=round(float(y[1]), 4),
    )  # fmt: skip


def _told(program: Program, number: int) -> list[str]:
    """Parallax a frame and over the shot, what a foreground must be for more, and what is sharp."""
    motion, shot = program.motion, program.shot
    told: list[str] = []
    pitch_um = shot.body.sensor_width_mm / shot.body.pixels_wide * 1000
    if motion is not None and program.frame_count > 1:
        steps = motion.steps_px()
        at = min(number, program.frame_count - 1) - 1
        for name, values in steps.items():
            who = "What is far away" if name == "far away" else name
            told.append(
                f"{who} moves {decimals(float(values[at]), 1)} px to the next frame, "
                f"{decimals(float(values.sum()) / shot.body.pixels_wide, 1)} picture widths over the shot."
            )
        if "slide" in motion.positions:
            step = float(np.abs(np.diff(motion.positions["slide"])).max())
            wanted = _WANTED_PART * shot.body.pixels_wide
            if step > 0:
                paces = [
                    f"{word} ({decimals(wanted * part, 0)} px a frame) at "
                    f"{DISTANCE.show(shot.focal_length_mm * step / (wanted * part * pitch_um / 1000) / 1000)}"
                    for word, part in _PACES
                ]
                told.append(f"A foreground would pass {', '.join(paces)}.")
                told.append(_lowering(shot, pitch_um, step))
    focus = motion.positions["focus"][number - 1] if motion and "focus" in motion.positions else None
    if focus is not None:
        circle = circle_mm(shot.body)
        limits = depth_of_field(shot.focal_length_mm, true_aperture(shot.light.aperture), float(focus), circle)
        far = "infinity" if limits.far_m is None else DISTANCE.show(limits.far_m, 1)
        told.append(
            f"Focus at {DISTANCE.show(float(focus))}: sharp from {DISTANCE.show(limits.near_m)} to {far}; "
            f"hyperfocal {DISTANCE.show(limits.hyperfocal_m, 1)}."
        )
    return told or ["Set keys below, or begin with one of the moves beside."]


def _view_down_deg(shot: Shot) -> float:
    return view_deg(shot.recording.projection, shot.body.sensor_height_mm, shot.focal_length_mm) or 360.0


def _lowering(shot: Shot, pitch_um: float, step_mm: float) -> str:
    """What halving the height of the lens gains: the ground at the picture's foot comes twice as near."""
    things = shot.things
    height_mm = max((-thing.base_mm for thing in things), default=1_200.0)
    half_view = np.radians(_view_down_deg(shot) / 2)
    foot = float(np.tan(half_view - np.radians(shot.framing.tilt_deg)))
    if height_mm <= 0 or foot <= 0:
        return "The ground is not in the picture: lowering the rig changes nothing there."
    now = float(parallax_px(shot.focal_length_mm, pitch_um, step_mm, height_mm / foot / 1000))
    return (
        f"The ground at the picture's foot passes at {decimals(now, 0)} px a frame; at half the height of the lens, "
        f"at {decimals(2 * now, 0)}."
    )
