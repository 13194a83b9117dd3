"""Code cards before a lens: how large one of their modules falls on the sensor."""

# A module is read where it is as wide as this on the sensor (common practice, no source).
READABLE_PX = 3.0


def module_px(focal_length_mm: float, pixel_pitch_um: float, module_mm: float, distance_m: float) -> float:
    """How wide a module of a card is on the sensor, pixels. Pinhole projection."""
    return focal_length_mm * module_mm / (distance_m * pixel_pitch_um)


def readable_from_m(focal_length_mm: float, pixel_pitch_um: float, module_mm: float) -> float:
    """How far away a card may be held so that it is still read, m."""
    return focal_length_mm * module_mm / (READABLE_PX * pixel_pitch_um)


def module_needed_mm(focal_length_mm: float, pixel_pitch_um: float, distance_m: float) -> float:
    """How wide a module must be printed to be read from so far, mm."""
    return READABLE_PX * distance_m * pixel_pitch_um / focal_length_mm
