"""Stars through a lens: how fast they drift, how long they stay points, how long a trail takes."""

from dataclasses import dataclass

import numpy as np

from revani.core.documents import Shot
from revani.core.optics.lens import lens_of
from revani.core.optics.projection import diagonal_mm
from revani.core.quantities.arrays import Array
from revani.core.sky.stars import TURNS_DEG_PER_S, declination_deg

# A star that crosses more than this is seen as a dash (memory).
POINT_PX = 3.0
# Stars are seen from here on (sun below the horizon, degrees); in brighter skies nothing is said of them.
STARS_FROM_DEG = -12.0


def drift_px_per_s(focal_length_mm: float, pixel_pitch_um: float, declination_deg: float) -> float:
    """Pixels a second that a star moves in the middle of the picture.

    15.041″/s × cos δ (how fast the sky turns) over a plate scale of 206.265 × pitch / focal length ″/px (small angles).
    """
    scale = 206.265 * pixel_pitch_um / focal_length_mm
    return float(3600 * TURNS_DEG_PER_S * np.cos(np.radians(declination_deg)) / scale)


def rule_500_s(focal_length_mm: float, crop_factor: float) -> float:
    """The longest shutter by the "500 rule" (common practice, no source)."""
    return 500 / (crop_factor * focal_length_mm)


def npf_s(focal_length_mm: float, aperture: float, pixel_pitch_um: float, declination_deg: float) -> float:
    """The longest shutter by the NPF rule of the Société Astronomique du Havre (memory)."""
    top = 16.856 * aperture + 0.0997 * focal_length_mm + 13.713 * pixel_pitch_um
    return float(top / (focal_length_mm * np.cos(np.radians(declination_deg))))


def trail_duration_s(arc_deg: float) -> float:
    """How long the sky takes to turn through an arc."""
    return arc_deg / TURNS_DEG_PER_S


@dataclass(frozen=True)
class Stars:
    """What a frame's picture does to stars: rules, and how far they move, over the whole picture.

    `drift_px_s` (rows, columns) is how fast a star moves in each part of the picture; `rule_500_s`
    and `npf_s` are taken where stars move fastest, at the least |declination| in the picture.
    """

    rule_500_s: float
    npf_s: float
    least_declination_deg: float
    declination_deg: Array
    drift_px_s: Array

    @property
    def fastest_px_s(self) -> float:
        """The fastest drift in the picture."""
        return float(self.drift_px_s.max())


_GRID = 9


_TURN_S = 1.0


def stars_in(shot: Shot) -> Stars:
    """How stars move across the picture of a shot as it is framed, at 9 × 9 points of it.

    Drift is the way of a projected star over a second, so the corners of a wide lens are right too.
    """
    body, place = shot.body, shot.place
    lens = lens_of(shot)
    parts = np.linspace(0, 1, _GRID)
    rays = lens.rays(parts[None, :], parts[:, None])
    declination = declination_deg(rays, place.latitude_deg)
    # The sky turns about the pole, from east over the meridian to west.
    turned = rays @ _turn(place.latitude_deg, TURNS_DEG_PER_S * _TURN_S).T
    x0, y0, _ = lens.place(rays)
    x1, y1, _ = lens.place(turned)
    drift = np.hypot((x1 - x0) * lens.width, (y1 - y0) * lens.height) / _TURN_S
    least = 0.0 if declination.min() < 0 < declination.max() else float(np.abs(declination).min())
    pitch_um = body.sensor_width_mm / body.pixels_wide * 1000
    crop = diagonal_mm(36, 24) / diagonal_mm(body.sensor_width_mm, body.sensor_height_mm)
    focal = shot.focal_length_mm
    return Stars(
        rule_500_s=rule_500_s(focal, crop),
        npf_s=npf_s(focal, shot.light.aperture, pitch_um, least),
        least_declination_deg=least,
        declination_deg=declination,
        drift_px_s=drift,
    )


def _turn(latitude_deg: float, angle_deg: float) -> Array:
    """Matrix (3, 3) of the sky's turning about the pole in east, north, up."""
    lat, a = np.radians(latitude_deg), np.radians(angle_deg)
    pole = np.array([0.0, np.cos(lat), np.sin(lat)])
    cross = np.array([[0, -pole[2], pole[1]], [pole[2], 0, -pole[0]], [-pole[1], pole[0], 0]])
    # Seen from inside, stars go clockwise about the northern pole when it is looked down upon from above.
    return np.asarray(np.eye(3) - np.sin(a) * cross + (1 - np.cos(a)) * cross @ cross)
