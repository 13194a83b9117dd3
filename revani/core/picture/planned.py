"""The picture that a frame of a program would be, as far as it is drawn: the rig's pose, the light, the exposure."""

import numpy as np
from numpy.typing import ArrayLike

from revani.core.light.dials import ev100
from revani.core.light.scene import cloud_at
from revani.core.picture.raster import Piece
from revani.core.picture.render import render
from revani.core.picture.skylight import Picture
from revani.core.picture.view import Exposure, View
from revani.core.program.compiled import Program
from revani.core.quantities.arrays import Array
from revani.core.sky.skyline import skyline_points


def view_of(program: Program, i: int, posed_at: int | None = None) -> View:
    """What stands before the camera at a frame (counted from 0), and how it looks at it.

    `posed_at` is the frame at which the rig has come to stand, where it has.
    """
    shot, place, sky = program.shot, program.shot.place, program.sky
    at = np.array([program.at_s[i]])
    sun, moon = sky.sun(at), sky.moon(at)
    pose = program.pose(float(program.t_s[i if posed_at is None else posed_at]))
    return View(
        at_s=float(at[0]), latitude_deg=place.latitude_deg, longitude_deg=place.longitude_deg,
        sun_altitude_deg=float(sun.altitude_deg[0]), sun_azimuth_deg=float(sun.azimuth_deg[0]),
        moon_altitude_deg=float(moon.altitude_deg[0]), moon_azimuth_deg=float(moon.azimuth_deg[0]),
        moon_fraction=float(sky.moon_illuminated_fraction(float(at[0]))),
        heading_deg=float(pose.heading_deg) % 360, tilt_deg=float(pose.tilt_deg), roll_deg=float(pose.roll_deg),
        focal_length_mm=float(pose.focal_mm), sensor_width_mm=shot.body.sensor_width_mm, 
        cloud=cloud_at(place, shot.light.cloud, float(at[0])),
        skyline=skyline_points(place), ahead_deg=shot.framing.heading_deg, slide_mm=float(pose.right_mm),
        ahead_mm=float(pose.ahead_mm), lift_mm=float(pose.up_mm),
        things=shot.things, projection=shot.recording.projection,
        focused_mm=_focused_mm(program, i if posed_at is None else posed_at),
        turns_deg=_turns_deg(program, i, posed_at),
    )  # fmt: skip


def _focused_mm(program: Program, posed_at: int) -> float | None:
    """How far away a frame is sharp: where the rig focuses, else on the subject; None, at infinity, on stars."""
    shot = program.shot
    if program.motion is not None and "focus" in program.motion.positions:
        return float(program.motion.positions["focus"][posed_at]) * 1000
    if shot.needs_dark or shot.trails or shot.subject is None:
        return None
    pose = program.pose(float(program.t_s[posed_at]))
    subject = shot.subject
    return float(np.hypot(subject.x_mm - float(pose.right_mm), subject.y_mm - float(pose.ahead_mm)))


def _turns_deg(program: Program, i: int, posed_at: int | None) -> tuple[float, float, float]:
    """By how much the rig turns the camera while the shutter of a frame is open; not where it stands for that."""
    motion = program.motion
    if motion is None or posed_at not in (None, i) or motion.path.move.kind == "stepwise":
        return 0.0, 0.0, 0.0
    opens = float(program.t_s[i])
    at, on = program.pose(opens), program.pose(opens + float(program.exposures.shutter_s[i]))
    turned = (on.heading_deg - at.heading_deg, on.tilt_deg - at.tilt_deg, on.roll_deg - at.roll_deg)
    return float(turned[0]), float(turned[1]), float(turned[2])


def exposed_stops(program: Program, at: ArrayLike) -> Array:
    """By how much frames (any shape, from 0) are exposed over what the scene is metered as; a dark night is dark."""
    i, got = np.asarray(at, dtype=np.intp), program.exposures
    taken = ev100(got.aperture[i], got.shutter_s[i], got.iso[i])
    return np.asarray(program.scene_ev[i] - program.nd_stops[i] - taken)


def picture_of(program: Program, i: int, width: int, posed_at: int | None = None) -> Picture:
    """The picture of a frame (counted from 0), so many pixels wide, as bright as it would be; of a rig that stands."""
    body = program.shot.body
    height = round(width * body.pixels_high / body.pixels_wide)
    return render(view_of(program, i, posed_at), _exposure_of(program, i), width, height, seed=i)


def piece_of(program: Program, i: int, piece: Piece, posed_at: int | None = None) -> Picture:
    """A piece of the picture of a frame (counted from 0), in the pixels of the body itself."""
    body = program.shot.body
    view, exposure = view_of(program, i, posed_at), _exposure_of(program, i)
    return render(view, exposure, body.pixels_wide, body.pixels_high, seed=i, piece=piece)


def _exposure_of(program: Program, i: int) -> Exposure:
    body, exposures = program.shot.body, program.exposures
    return Exposure(
        float(exposed_stops(program, i)), float(exposures.shutter_s[i]), float(exposures.aperture[i]),
        float(exposures.iso[i]), float(program.white_balance_k[i]), float(program.nd_stops[i]),
        float(body.clips_over_stops),
    )  # fmt: skip
