"""Exposure over a whole shot: which settings each frame gets as the light changes."""

from dataclasses import dataclass
from fractions import Fraction

import numpy as np

from revani.core.documents import Shot
from revani.core.exposure import SHUTTERS, ev100, shutter_for, true_aperture, true_iso, true_shutter_s
from revani.core.refusal import Refusal
from revani.core.sky import Array

BULB_FROM_S = 0.1


@dataclass(frozen=True)
class Exposures:
    """Settings a frame, as columns. `error_stops` is positive where a frame comes out too bright."""

    wanted_shutter_s: Array
    shutter_s: Array
    aperture: Array
    iso: Array
    error_stops: Array


def check_settings(shot: Shot) -> None:
    """Refuse settings that the lens or the body has not."""
    light, body, lens = shot.light, shot.kit.body, shot.kit.lens
    if not lens.aperture_widest <= light.aperture <= lens.aperture_narrowest:
        allowed = f"{lens.name} goes from f/{lens.aperture_widest:g} to f/{lens.aperture_narrowest:g}."
        raise Refusal("light.aperture", allowed, light.aperture)
    for field, iso in (("iso", light.iso), ("iso_ceiling", light.iso_ceiling)):
        if (field == "iso" or light.school == "continuous") and not body.iso_min <= iso <= body.iso_max:
            allowed = f"{body.name} goes from ISO {body.iso_min} to {body.iso_max}."
            raise Refusal(f"light.{field}", allowed, iso)
    if light.school == "continuous" and light.iso_ceiling < light.iso:
        raise Refusal("light.iso_ceiling", f"At least ISO {light.iso}, where it starts.", light.iso_ceiling)


def expose(shot: Shot, scene_ev: Array, room_s: float) -> Exposures:
    """The settings of every frame, for scene EV a frame and the longest shutter the interval leaves.

    A fixed shot holds its settings; what the interval has no room for is cut. A continuous one
    lengthens the shutter to its limit, then raises ISO to its ceiling; the limit is the person's,
    the body's or the interval's, whichever is shortest. Shutters of 1/10 s and over are exact where
    the body can be held open, others stand on thirds of a stop.
    """
    light, body = shot.light, shot.kit.body
    aperture = true_aperture(light.aperture)
    base = true_iso(light.iso)
    if light.school == "fixed":
        asked = np.full_like(scene_ev, true_shutter_s(float(light.shutter_s)))
        longest = min(room_s, float(body.manual_shutter_max_s))
        shutter, iso = np.minimum(asked, longest), np.full_like(scene_ev, base)
    else:
        asked = np.minimum(shutter_for(scene_ev, aperture, base), float(light.shutter_s))
        longest = _longest_s(shot, room_s)
        shortest = min(true_shutter_s(float(body.shutter_min_s)), longest)
        exact = np.clip(shutter_for(scene_ev, aperture, base), shortest, longest)
        stepped = np.clip(2.0 ** (np.round(np.log2(exact) * 3) / 3), shortest, longest)
        shutter = np.where((exact >= BULB_FROM_S) & body.bulb, exact, stepped)
        needed = base * shutter_for(scene_ev, aperture, base) / exact
        thirds = np.log2(np.maximum(needed, base) / 100) * 3
        # Where the shutter can be held open, ISO goes a third too far and the shutter takes that back.
        iso_steps = 100 * 2.0 ** ((np.ceil(thirds - 1e-6) if body.bulb else np.round(thirds)) / 3)
        iso = np.clip(iso_steps, base, true_iso(light.iso_ceiling))
        if body.bulb:
            trimmed = np.clip(shutter_for(scene_ev, aperture, iso), BULB_FROM_S, exact)
            shutter = np.where((iso > base) & (exact >= BULB_FROM_S), trimmed, shutter)
    return Exposures(
        wanted_shutter_s=asked,
        shutter_s=shutter,
        aperture=np.full_like(scene_ev, aperture),
        iso=iso,
        error_stops=scene_ev - ev100(aperture, shutter, iso),
    )


def _longest_s(shot: Shot, room_s: float) -> float:
    """The longest shutter that a ramp may use; on a body that cannot be held open, one that it has."""
    longest = min(room_s, float(shot.light.shutter_s))
    if shot.kit.body.bulb:
        return longest
    longest = min(longest, float(shot.kit.body.manual_shutter_max_s))
    return max((true_shutter_s(float(one)) for one in SHUTTERS if one <= longest * 1.001), default=longest)


def shutter_room_s(shot: Shot, interval_s: Fraction) -> float:
    """The longest shutter that an interval leaves on this body."""
    room = interval_s - shot.kit.body.overhead_s
    return max(float(room) / (2 if shot.light.noise_reduction else 1), 0.0)
