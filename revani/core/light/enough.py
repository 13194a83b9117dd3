"""The hours of the day in which the light is enough for a film at its rate."""

import numpy as np

from revani.core.documents import Shot
from revani.core.light.dials import ev100, true_aperture, true_iso
from revani.core.light.exposing import night_stops
from revani.core.light.scene import cloud_stops, scene_ev100, scene_offset_stops
from revani.core.quantities.arrays import Array, Window, spans
from revani.core.sky.sun_and_moon import Sky
from revani.core.timing.law import Solution

# Less than this is not seen (memory).
_SPARE_STOPS = 1 / 3
_STEP_S = 120.0


def least_ev(shot: Shot, timing: Solution) -> float:
    """The darkest scene, EV at ISO 100, that a film can show: its longest shutter at the ISO limit that is chosen."""
    light, lens = shot.light, shot.kit.lens
    aperture = light.aperture
    if light.school == "automatic" and lens.electronic_aperture:
        aperture = lens.widest_at(shot.focal_length_mm)
    longest = timing.interval_s if light.automatic else min(light.shutter_s, timing.interval_s)
    held = light.school in ("fixed", "aperture priority")
    iso = true_iso(light.iso if held else light.iso_ceiling)
    return float(ev100(true_aperture(aperture), float(longest), iso))


def hours_of_light(shot: Shot, timing: Solution, sky: Sky) -> list[Window]:
    """When the scene is no darker than that, over the whole sky that is known; filters that are on count."""
    at = np.arange(sky.from_s, sky.to_s + 1, _STEP_S)
    offset = scene_offset_stops(shot.light, shot.place)
    scene: Array = scene_ev100(
        sky, at, shot.place.sky_brightness, cloud_stops(shot.place, shot.light.cloud, at), offset
    )
    filtered = sum(one.stops for one in shot.kit.filters if one.id in set(shot.light.filters))
    wanted = np.asarray(night_stops(shot.light, sky.sun(at).altitude_deg))
    return spans(scene - filtered - wanted >= least_ev(shot, timing) - _SPARE_STOPS, at)
