"""Stars through a lens: how fast they drift, how long they stay points, how long a trail takes."""

import numpy as np

SIDEREAL_ARCSEC_PER_S = 15.041
SIDEREAL_DEG_PER_H = 15.041


def drift_px_per_s(focal_length_mm: float, pixel_pitch_um: float, declination_deg: float) -> float:
    """Pixels a second that a star moves in the middle of the picture.

    15.041″/s × cos δ over a plate scale of 206.265 × pitch / focal length ″/px (small angles).
    """
    scale = 206.265 * pixel_pitch_um / focal_length_mm
    return float(SIDEREAL_ARCSEC_PER_S * np.cos(np.radians(declination_deg)) / scale)


def rule_500_s(focal_length_mm: float, crop_factor: float) -> float:
    """The longest shutter by the "500 rule" (common practice, no source)."""
    return 500 / (crop_factor * focal_length_mm)


def npf_s(focal_length_mm: float, aperture: float, pixel_pitch_um: float, declination_deg: float) -> float:
    """The longest shutter by the NPF rule of the Société Astronomique du Havre (memory)."""
    top = 16.856 * aperture + 0.0997 * focal_length_mm + 13.713 * pixel_pitch_um
    return float(top / (focal_length_mm * np.cos(np.radians(declination_deg))))


def trail_duration_s(arc_deg: float) -> float:
    """How long the sky takes to turn through an arc."""
    return arc_deg / SIDEREAL_DEG_PER_H * 3600
