"""How far places are from each other, and how long the way between them is."""

import numpy as np

from revani.core.documents import Place

# A way is longer than the line between its ends (from memory: 1.2 to 1.4 on foot and on the road).
_DETOUR = 1.3
_EARTH_M = 6_371_008.8
_SAME_PLACE_M = 50.0


def apart_m(a: Place, b: Place) -> float:
    """The great-circle distance of two places on a sphere of the Earth's mean radius (haversine formula)."""
    (lat, lon), (lat2, lon2) = (np.radians([one.latitude_deg, one.longitude_deg]) for one in (a, b))
    half = np.sin((lat2 - lat) / 2) ** 2 + np.cos(lat) * np.cos(lat2) * np.sin((lon2 - lon) / 2) ** 2
    return float(2 * _EARTH_M * np.arcsin(np.sqrt(np.clip(half, 0, 1))))


def way_between_m(a: Place, b: Place) -> float:
    """How long the way between two places is; none within a place."""
    return 0.0 if same_place(a, b) else apart_m(a, b) * _DETOUR


def same_place(a: Place, b: Place) -> bool:
    """Whether two places are one, or so near that a camera is carried over in no time."""
    return a.id == b.id or apart_m(a, b) < _SAME_PLACE_M
