"""Stars through a lens: how fast they drift, how long they stay points, how long a trail takes."""

from typing import NamedTuple

import numpy as np

from revani.core.light.dials import shutter_for, true_aperture, true_iso
from revani.core.light.gathered import sky_stops, star_stops
from revani.core.light.moonlit import moonlit_nl, nanolamberts
from revani.core.optics.lens import lens_of
from revani.core.optics.projection import direction
from revani.core.optics.star_limits import stars_in
from revani.core.program.compiled import Program
from revani.core.quantities.arrays import Array

GAP_SHOWS_PX = 1.5
"""A gap between two frames' trails of more than this shows as a break (memory)."""


def gap_px(program: Program) -> Array:
    """How far stars move unseen between a frame's closing and the next one's opening, pixels a frame."""
    return np.asarray((program.slot_s - program.exposures.shutter_s) * stars_in(program.shot).fastest_px_s)


_LOOKS = 60
_PLACES = 5


def moon_wash_stops(program: Program) -> Array:
    """By how many stops the moon brightens the sky of the picture, in each frame: the mean over 5 × 5 places of it.

    Places below the horizon count for nothing; a picture without sky is not washed out. Each direction by
    Krisciunas & Schaefer (1991); looked at in at most 60 frames, straight between them.
    """
    shot, at = program.shot, program.at_s
    look = np.unique(np.linspace(0, at.size - 1, min(at.size, _LOOKS)).astype(int))
    parts = np.linspace(0.1, 0.9, _PLACES)
    rays = lens_of(shot).rays(parts[None, :], parts[:, None]).reshape(-1, 3)
    altitude = np.degrees(np.arcsin(np.clip(rays[:, 2], -1, 1)))
    rays, altitude = rays[altitude > 0], altitude[altitude > 0]
    if not altitude.size:
        return np.zeros(at.size)
    moon = program.sky.moon(at[look])
    towards = direction(moon.altitude_deg, moon.azimuth_deg)
    apart = np.degrees(np.arccos(np.clip(towards @ rays.T, -1, 1)))
    phase = program.sky.moon_phase_angle_deg(at[look])[:, None]
    added = moonlit_nl(phase, apart, np.asarray(moon.altitude_deg)[:, None], altitude[None, :]).mean(axis=1)
    wash = np.log2(1 + added / nanolamberts(shot.place.sky_brightness))
    return np.asarray(np.interp(np.arange(at.size), look, wash))


class NightWay(NamedTuple):
    """One way to expose the darkest frame: at an ISO, with the shutter that this asks for or that there is room for."""

    iso: int
    shutter_s: float
    trail_px: float
    gap_px: float
    error_stops: float
    sky_stops: float
    star_stops: float


def night_ways(program: Program) -> tuple[NightWay, NightWay]:
    """The highest ISO with its short shutter, and the lowest with the longest, for the darkest frame of a shot.

    They are compared by the light that each gathers, of the sky and of stars; ISO is a means to the same brightness.
    """
    shot, body = program.shot, program.shot.body
    at = int(np.argmin(program.scene_ev))
    aperture, scene = true_aperture(shot.light.aperture), float(program.scene_ev[at] - program.nd_stops[at])
    limit = np.inf if body.bulb else float(body.manual_shutter_max_s)
    room = min(float(program.shutter_room_s[at]), limit)
    drift = stars_in(shot).fastest_px_s
    ways = []
    for iso in (body.iso_max, body.iso_min):
        wanted = float(shutter_for(scene, aperture, true_iso(iso)))
        shutter = min(wanted, room)
        ways.append(
            NightWay(
                iso, shutter, drift * shutter,
                (float(program.slot_s[at]) - shutter) * drift, float(np.log2(shutter / wanted)),
                float(sky_stops(shutter, aperture)), float(star_stops(shutter, aperture, shot.focal_length_mm, drift)),
            )
        )  # fmt: skip
    return ways[0], ways[1]
