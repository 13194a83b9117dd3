"""Gear to begin with where none is owned yet: believable figures by kind, to be changed under Kit."""

from collections.abc import Mapping
from typing import Any
from uuid import uuid4

from revani.core.documents import Body, Card, Gear, Lens, Load, Mover, SmallPart, Source, Support

# Figures of the usual, from memory; what one owns says more exactly.
_SMALL = {
    "sensor_width_mm": 6.2, "sensor_height_mm": 4.65, "pixels_wide": 4000, "pixels_high": 3000, "iso_max": 3_200,
    "shutter_min_s": "1/8000", "manual_shutter_max_s": 30, "automatic_shutter_max_s": 30, "bulb": False,
    "weight_kg": 0.15, "minimum_interval_s": "0.5", "overhead_s": "0.4", "controller_tick_s": "0.5",
    "bytes_per_frame": 9_000_000, "jpeg_bytes": 4_500_000, "battery_wh": 6.6, "idle_w": 1.1, "frame_j": 2.5,
    "film_w": 2.9, "iso_clean": 800, "reports_recording": False,
}  # fmt: skip
_SMALL_MODES = [
    {"name": "Photo", "pixels_wide": 4000, "pixels_high": 3000, "intervals": ["0.5", 1, 2, 5, 10, 30, 60],
     "projection": "equidistant", "forgets": "its interval"},
    {"name": "Lapse film", "makes": "own lapse film", "pixels_wide": 3840, "pixels_high": 2160, "raw": False,
     "intervals": ["0.5", 1, 2, 5, 10, 30, 60], "rates": [30], "film_mbps": 60, "chapter_gb": 4,
     "projection": "equidistant"},
    {"name": "Film", "makes": "film", "pixels_wide": 3840, "pixels_high": 2160, "raw": False,
     "rates": [24, 25, 30, 60], "film_mbps": 60, "chapter_gb": 4, "drain_w": 2.9, "projection": "equidistant"},
    {"name": "Slow film", "makes": "film", "pixels_wide": 1920, "pixels_high": 1080, "raw": False,
     "rates": [120, 240], "film_mbps": 60, "chapter_gb": 4, "drain_w": 3.3, "projection": "equidistant"},
]  # fmt: skip
_AXES = {
    "slide": {"name": "slide", "low": 0, "high": 1000, "speed": 100, "acceleration": 60, "step": 0.02, "settle_s": 0.4},
    "pan": {"name": "pan", "low": -170, "high": 170, "speed": 30, "acceleration": 60, "step": 0.01, "settle_s": 0.3},
    "tilt": {"name": "tilt", "low": -45, "high": 60, "speed": 30, "acceleration": 60, "step": 0.01, "settle_s": 0.3},
}

STARTERS: Mapping[str, str] = {
    "an action camera": "It fires itself, from a list of modes, through a very wide lens.",
    "a pocket gimbal": "A camera and its head in one: it pans and tilts.",
    "a camera with its lens": "Raw stills, any shutter; a controller or a link fires it.",
    "a camera on a slider": "The same, carried along a rail, with a head that pans and tilts.",
}
# What else is taken along.
BESIDE: Mapping[str, str] = {
    "power for a night": "A power bank with its lead, spare cells, a charger, and a heater against dew.",
    "what it stands on": "A tripod with a weight, a stick, a clamp.",
}


def starter(name: str) -> tuple[Gear, ...]:
    """The gear of a kind of kit, each piece new. Raises KeyError for a name that there is none of."""
    card = _piece(Card, "Card, 128 GB", capacity_gb=128)
    if name == "an action camera":
        lens = {"focal_length_min_mm": 3, "focal_length_max_mm": 3, "aperture_widest": 2.8, "aperture_narrowest": 2.8}
        small = _piece(Body, "Action camera", modes=_SMALL_MODES, **_SMALL)
        return small, _piece(Lens, "Its own lens", weight_kg=0.01, electronic_aperture=False, **lens), card
    if name == "a pocket gimbal":
        lens = {"focal_length_min_mm": 9, "focal_length_max_mm": 9, "aperture_widest": 2, "aperture_narrowest": 2}
        neck = _piece(Mover, "Its head", payload_kg=0.4, weight_kg=0, axes=[_AXES["pan"], _AXES["tilt"]])
        figures = _SMALL | {"sensor_width_mm": 13.2, "sensor_height_mm": 8.8, "iso_max": 6_400, "iso_clean": 1_600}
        straight = [mode | {"projection": "straight"} for mode in _SMALL_MODES]
        return (
            _piece(Body, "Pocket gimbal", modes=straight, **figures),
            _piece(Lens, "Its own lens", weight_kg=0.01, electronic_aperture=False, **lens), card, neck,
        )  # fmt: skip
    if name == "power for a night":
        return (
            _piece(Source, "Power bank", capacity_wh=74, sockets="USB-A, USB-C", cut_off_w=0.4, most_w=18),
            _piece(Source, "Spare cells", gives="cells to change", capacity_wh=16, count=2, weight_kg=0.08),
            _piece(Load, "Dew heater", draws_w=5, sockets="USB-A"),
            _piece(SmallPart, "Power lead", end_a="USB-C, bank", end_b="USB-C, camera"),
            _piece(SmallPart, "Charger", is_a="charger", charges_w=18, weight_kg=0.2),
        )  # fmt: skip
    if name == "what it stands on":
        return (
            _piece(Support, "Tripod"), _piece(SmallPart, "Weight", is_a="weight", weight_kg=3),
            _piece(Support, "Stick", stands_as="stick", weight_kg=0.4, payload_kg=0.5, height_m=3),
            _piece(Support, "Clamp", stands_as="clamp", weight_kg=0.3, payload_kg=1.5, height_m=0.2),
        )  # fmt: skip
    if name not in STARTERS:
        raise KeyError(name)
    body, lens_24 = _piece(Body, "Camera"), _piece(Lens, "24 mm f/2.8")
    if name == "a camera with its lens":
        return body, lens_24, card
    rail = _piece(Mover, "Slider", payload_kg=5, weight_kg=3, axes=[_AXES["slide"]], battery_wh=90, moving_w=12)
    return body, lens_24, card, rail, _piece(Mover, "Head", payload_kg=3, axes=[_AXES["pan"], _AXES["tilt"]])


def _piece(kind: type[Gear], name: str, **figures: Any) -> Gear:
    return kind.model_validate({"id": uuid4(), "name": name, **figures})
