"""Where sun, moon and the galactic core stand in the picture, and when they come and go."""

from typing import Literal, NamedTuple

import numpy as np
from numpy.typing import NDArray

from revani.core.optics.lens import lens_of
from revani.core.optics.projection import direction
from revani.core.program.compiled import Program
from revani.core.quantities.arrays import Array
from revani.core.sky.skyline import SUN_RADIUS_DEG, skyline_deg, skyline_points
from revani.core.sky.stars import galactic_core_directions

Wanderer = Literal["sun", "moon", "galactic core"]
WANDERERS: tuple[Wanderer, ...] = ("sun", "moon", "galactic core")
_STEP_S = 120.0
_FINE = 240


def place_in_picture(program: Program, directions: Array, at_s: Array) -> tuple[Array, Array, NDArray[np.bool_]]:
    """Where far directions (n, 3) stand in the picture at instants (n,), as the rig moves; and if before the camera."""
    if program.motion is None and program.carried is None:
        return lens_of(program.shot).place(directions)
    after = np.clip(at_s - program.start_s, 0.0, float(program.timing.event_s))
    azimuth = np.degrees(np.arctan2(directions[..., 0], directions[..., 1])) - program.shot.framing.heading_deg
    x, y, depth = program.pose(after).sees_far(program.shot, azimuth, altitude_deg(directions))
    return x, y, depth > 0


def directions_of(program: Program, which: Wanderer, at_s: Array) -> Array:
    """Directions (n, 3) east, north, up of one that wanders, without refraction."""
    place = program.shot.place
    if which == "galactic core":
        return galactic_core_directions(place.latitude_deg, place.longitude_deg, at_s)
    found = program.sky.sun(at_s) if which == "sun" else program.sky.moon(at_s)
    return direction(found.altitude_deg, found.azimuth_deg)


def altitude_deg(directions: Array) -> Array:
    """Altitude of directions (…, 3)."""
    return np.degrees(np.arcsin(np.clip(directions[..., 2], -1, 1)))


def over_skyline_deg(program: Program, directions: Array) -> Array:
    """How far directions stand above the raised horizon of the place, degrees."""
    azimuth = np.degrees(np.arctan2(directions[..., 0], directions[..., 1])) % 360
    return altitude_deg(directions) - skyline_deg(skyline_points(program.shot.place), azimuth)


class Passage(NamedTuple):
    """A time for which one that wanders stands in the picture, above the raised horizon.

    `begins` and `ends` say how: at the picture's edge, at the skyline, or only because the shot does.
    """

    which: Wanderer
    from_s: float
    to_s: float
    begins: Literal["edge", "skyline", "shot"]
    ends: Literal["edge", "skyline", "shot"]


def passages(program: Program, wanderers: tuple[Wanderer, ...] = WANDERERS) -> tuple[Passage, ...]:
    """When sun, moon and galactic core stand in the picture during the shot, to the second, in order."""
    found = []
    for which in wanderers:
        at = np.linspace(program.start_s, program.end_s, max(2, int((program.end_s - program.start_s) / _STEP_S) + 1))
        inside, over = _stands(program, which, at)
        shown = np.concatenate([[False], (inside > 0) & (over > 0), [False]])
        edges = np.flatnonzero(shown[1:] != shown[:-1])
        for begin, end in zip(edges[::2], edges[1::2], strict=True):
            from_s, begins = _edge(program, which, at, int(begin) - 1, int(begin), inside, over)
            to_s, ends = _edge(program, which, at, int(end), int(end) - 1, inside, over)
            found.append(Passage(which, from_s, to_s, begins, ends))
    return tuple(sorted(found, key=lambda one: one.from_s))


def _stands(program: Program, which: Wanderer, at_s: Array) -> tuple[Array, Array]:
    """How far one stands within the picture's edges (parts of the picture, negative outside) and over the skyline."""
    directions = directions_of(program, which, at_s)
    x, y, before = place_in_picture(program, directions, at_s)
    inside = np.minimum(np.minimum(x, 1 - x), np.minimum(y, 1 - y))
    radius = 0.0 if which == "galactic core" else SUN_RADIUS_DEG
    return np.where(before, inside, -1.0), over_skyline_deg(program, directions) + radius


def _edge(
    program: Program, which: Wanderer, at: Array, out: int, into: int, inside: Array, over: Array
) -> tuple[float, Literal["edge", "skyline", "shot"]]:
    """The instant between a sample outside and one inside, to half a second, and what was crossed there."""
    if not 0 <= out < at.size:
        return float(at[into]), "shot"
    why: Literal["edge", "skyline"] = "edge" if inside[out] <= 0 else "skyline"
    fine = np.linspace(float(at[out]), float(at[into]), _FINE + 1)
    shown, above = _stands(program, which, fine)
    return float(fine[np.argmax((shown > 0) & (above > 0))]), why
