"""Field of view and projection: where things fall in the picture."""

from math import atan, degrees, hypot

import numpy as np
from numpy.typing import ArrayLike

from revani.core.sky import Array


def field_of_view_deg(size_mm: float, focal_length_mm: float) -> float:
    """Angle seen across a sensor dimension by a rectilinear lens at infinity, `2 atan(w / 2f)`."""
    return degrees(2 * atan(size_mm / (2 * focal_length_mm)))


def diagonal_mm(width_mm: float, height_mm: float) -> float:
    """Diagonal of a sensor, mm."""
    return hypot(width_mm, height_mm)


def camera_axes(heading_deg: float, tilt_deg: float) -> Array:
    """Right, up and forward of a level camera, as rows (3, 3) in east, north, up."""
    h, t = np.radians(heading_deg), np.radians(tilt_deg)
    forward = np.array([np.sin(h) * np.cos(t), np.cos(h) * np.cos(t), np.sin(t)])
    right = np.array([np.cos(h), -np.sin(h), 0.0])
    return np.stack([right, np.cross(right, forward), forward])


def direction(altitude_deg: ArrayLike, azimuth_deg: ArrayLike) -> Array:
    """Unit vectors (…, 3) east, north, up of altitudes and azimuths."""
    alt, az = np.radians(altitude_deg), np.radians(azimuth_deg)
    return np.stack([np.cos(alt) * np.sin(az), np.cos(alt) * np.cos(az), np.sin(alt)], axis=-1)


def project(vectors: Array, axes: Array, focal_px: float, width: int, height: int) -> tuple[Array, Array, Array]:
    """Pixel columns, rows and depth of directions (…, 3); those behind the camera have depth ≤ 0."""
    seen = vectors @ axes.T
    depth = seen[..., 2]
    safe = np.where(depth > 1e-6, depth, 1.0)
    x = width / 2 + focal_px * seen[..., 0] / safe
    y = height / 2 - focal_px * seen[..., 1] / safe
    return x, y, depth
