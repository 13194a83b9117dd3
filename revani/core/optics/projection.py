"""Field of view, depth of field, parallax and projection: where things fall on the sensor."""

from collections.abc import Callable
from math import atan, degrees, hypot, inf, pi
from typing import NamedTuple, get_args

import numpy as np
from numpy.typing import ArrayLike

from revani.core.documents import Projection
from revani.core.quantities.arrays import Array
from revani.core.quantities.refusal import Refusal


def field_of_view_deg(size_mm: float, focal_length_mm: float) -> float:
    """Angle seen across a sensor dimension by a rectilinear lens at infinity, `2 atan(w / 2f)`."""
    return degrees(2 * atan(size_mm / (2 * focal_length_mm)))


# How far from the middle a direction falls, in focal lengths, against its angle from the axis (textbook).
PROJECTIONS: tuple[Projection, ...] = get_args(Projection)
_OUT: dict[Projection, Callable[[Array], Array]] = {
    "straight": np.tan,
    "equidistant": lambda angle: angle,
    "stereographic": lambda angle: 2 * np.tan(angle / 2),
    "equisolid": lambda angle: 2 * np.sin(angle / 2),
    # Along the middle of an unrolled sphere; off it, a sphere is no matter of the angle alone.
    "sphere": lambda angle: angle,
}
_BACK: dict[Projection, Callable[[Array], Array]] = {
    "straight": np.arctan,
    "equidistant": lambda out: out,
    "stereographic": lambda out: 2 * np.arctan(out / 2),
    "equisolid": lambda out: 2 * np.arcsin(np.clip(out / 2, -1, 1)),
    "sphere": lambda out: out,
}
# As far from the middle as the whole world reaches, in focal lengths.
_WORLD: dict[Projection, float] = {
    "straight": inf,
    "equidistant": pi,
    "stereographic": inf,
    "equisolid": 2.0,
    "sphere": 3.15,
}


def view_deg(projection: Projection, size_mm: float, focal_length_mm: float) -> float | None:
    """Angle seen across a sensor dimension; None where the picture of the whole world is smaller than that.

    Check: 3 mm on 6.17 mm: straight 91.6°, equidistant 117.8°.
    """
    out = size_mm / 2 / focal_length_mm
    return None if out > _WORLD[projection] else degrees(2 * float(_BACK[projection](np.array(out))))


def bent(right: Array, up: Array, depth: Array, projection: Projection) -> tuple[Array, Array, Array]:
    """Where tangents of directions fall, in focal lengths, through a lens of a projection; and what is in the picture.

    `depth` says on which side of the camera they are. The third that is given is ≤ 0 for what is not in the
    picture: for a lens what lies behind it, for a sphere nothing.
    """
    if projection == "sphere":
        x, y = right * depth, up * depth
        flat = np.hypot(x, depth)
        return np.arctan2(x, depth), np.arctan2(y, flat), np.hypot(flat, y)
    if projection == "straight":
        return right, up, depth
    out = np.hypot(right, up)
    safe = np.where(out > 1e-9, out, 1.0)
    part = np.where(out > 1e-9, _OUT[projection](np.arctan(out)) / safe, 1.0)
    return right * part, up * part, depth


def ray(right: ArrayLike, up: ArrayLike, projection: Projection) -> Array:
    """Unit vectors (…, 3) to the right, up and forward, of places in the picture in focal lengths from its middle."""
    x, y = np.broadcast_arrays(np.asarray(right, dtype=np.float64), np.asarray(up, dtype=np.float64))
    if projection == "sphere":
        return np.stack([np.sin(x) * np.cos(y), np.sin(y), np.cos(x) * np.cos(y)], axis=-1)
    out = np.hypot(x, y)
    angle = _BACK[projection](out)
    part = np.where(out > 1e-12, np.sin(angle) / np.where(out > 1e-12, out, 1.0), 1.0)
    return np.stack([x * part, y * part, np.cos(angle)], axis=-1)


def diagonal_mm(width_mm: float, height_mm: float) -> float:
    """Diagonal of a sensor, mm."""
    return hypot(width_mm, height_mm)


def hyperfocal_mm(focal_length_mm: ArrayLike, aperture: ArrayLike, circle_mm: float) -> Array:
    """The distance from which on all is sharp when it is focused on, mm; all broadcast. f²/(N c) + f."""
    f, n = np.asarray(focal_length_mm, dtype=np.float64), np.asarray(aperture, dtype=np.float64)
    return np.asarray(f * f / (n * circle_mm) + f)


def sharp_limits_m(focal_mm: ArrayLike, aperture: ArrayLike, focus_m: ArrayLike, circle: float) -> tuple[Array, Array]:
    """Near and far limit of sharpness, metres; far is infinite from the hyperfocal distance on. All broadcast.

    Near s(H − f)/(H + s − 2f), far s(H − f)/(H − s), by the thin lens. Source: S. F. Ray, Applied
    Photographic Optics, the depth-of-field formulas.
    """
    f, s = np.asarray(focal_mm, dtype=np.float64), np.asarray(focus_m, dtype=np.float64) * 1000
    hyperfocal = hyperfocal_mm(f, aperture, circle)
    near = s * (hyperfocal - f) / (hyperfocal + s - 2 * f)
    beyond = hyperfocal - s
    far = np.where(beyond > 0, s * (hyperfocal - f) / np.where(beyond > 0, beyond, 1.0), np.inf)
    return np.asarray(near / 1000), np.asarray(far / 1000)


class DepthOfField(NamedTuple):
    """What is sharp, in metres from the camera; `far_m` is None where it reaches to infinity."""

    hyperfocal_m: float
    near_m: float
    far_m: float | None


def depth_of_field(focal_length_mm: float, aperture: float, distance_m: float, circle_mm: float) -> DepthOfField:
    """Limits of sharpness for a circle of confusion.

    Raises Refusal("subject_distance_m") for a subject nearer than the lens can focus, which is its focal length.
    """
    if distance_m * 1000 <= focal_length_mm:
        raise Refusal("subject_distance_m", f"More than the focal length, {focal_length_mm / 1000:g} m.", distance_m)
    near, far = sharp_limits_m(focal_length_mm, aperture, distance_m, circle_mm)
    hyperfocal_m = float(hyperfocal_mm(focal_length_mm, aperture, circle_mm)) / 1000
    return DepthOfField(hyperfocal_m, float(near), float(far) if np.isfinite(far) else None)


def parallax_px(focal_length_mm: float, pixel_pitch_um: float, step_mm: ArrayLike, distance_m: ArrayLike) -> Array:
    """Image shift, in pixels, of a point while the camera slides past it.

    `step_mm` and `distance_m` broadcast against each other. A point at infinity does not move.
    Pinhole projection: shift = f · step / (distance · pitch).
    """
    step, distance = np.asarray(step_mm, dtype=np.float64), np.asarray(distance_m, dtype=np.float64)
    return np.asarray(focal_length_mm * step / (distance * 1000) / (pixel_pitch_um / 1000))


def camera_axes(heading_deg: float, tilt_deg: float, roll_deg: float = 0.0) -> Array:
    """Right, up and forward of a camera, as rows (3, 3) in east, north, up; a positive roll turns it clockwise."""
    h, t = np.radians(heading_deg), np.radians(tilt_deg)
    forward = np.array([np.sin(h) * np.cos(t), np.cos(h) * np.cos(t), np.sin(t)])
    right = np.array([np.cos(h), -np.sin(h), 0.0])
    up = np.cross(right, forward)
    if roll_deg:
        r = np.radians(roll_deg)
        right, up = np.cos(r) * right - np.sin(r) * up, np.sin(r) * right + np.cos(r) * up
    return np.stack([right, up, forward])


def direction(altitude_deg: ArrayLike, azimuth_deg: ArrayLike) -> Array:
    """Unit vectors (…, 3) east, north, up of altitudes and azimuths."""
    alt, az = np.radians(altitude_deg), np.radians(azimuth_deg)
    return np.stack([np.cos(alt) * np.sin(az), np.cos(alt) * np.cos(az), np.sin(alt)], axis=-1)


def project(
    vectors: Array, axes: Array, focal_px: float, width: int, height: int, projection: Projection = "straight"
) -> tuple[Array, Array, Array]:
    """Pixel columns, rows and depth of directions (…, 3); those that are not in the picture have depth ≤ 0."""
    seen = vectors @ axes.T
    depth = seen[..., 2]
    if projection == "sphere":
        depth = safe = np.where(np.abs(depth) > 1e-9, depth, 1e-9)
    else:
        safe = np.where(depth > 1e-6, depth, 1.0)
    right, up, depth = bent(seen[..., 0] / safe, seen[..., 1] / safe, depth, projection)
    return width / 2 + focal_px * right, height / 2 - focal_px * up, depth


def seen_from(
    away: ArrayLike, heading_deg: ArrayLike, tilt_deg: ArrayLike, roll_deg: ArrayLike = 0.0
) -> tuple[Array, Array, Array]:
    """Tangents to the right and up, and depth, of vectors (…, 3) as cameras see them; depth ≤ 0 is behind.

    Vectors and headings are in right, ahead, up of the ground, headings clockwise from ahead; a positive
    roll turns the camera clockwise as seen from behind it. All broadcast against each other.
    """
    x, y, z = np.moveaxis(np.asarray(away, dtype=np.float64), -1, 0)
    h, t = np.radians(heading_deg), np.radians(tilt_deg)
    sin_h, cos_h, sin_t, cos_t = np.sin(h), np.cos(h), np.sin(t), np.cos(t)
    along = x * sin_h + y * cos_h
    right, up, depth = x * cos_h - y * sin_h, z * cos_t - along * sin_t, along * cos_t + z * sin_t
    if np.any(roll_deg):
        sin_r, cos_r = np.sin(np.radians(roll_deg)), np.cos(np.radians(roll_deg))
        right, up = cos_r * right - sin_r * up, sin_r * right + cos_r * up
    safe = np.where(np.abs(depth) > 1e-9, depth, 1e-9)
    return right / safe, up / safe, depth


def focal_pixels(focal_length_mm: float, sensor_width_mm: float, pixels_wide: int) -> float:
    """A focal length in pixels of the picture."""
    return focal_length_mm / sensor_width_mm * pixels_wide
