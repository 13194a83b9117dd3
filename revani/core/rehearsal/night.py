"""Stars through a lens: how fast they drift, how long they stay points, how long a trail takes."""

from dataclasses import dataclass
from typing import NamedTuple

import numpy as np

from revani.core.documents import Shot
from revani.core.light.dials import shutter_for, true_aperture, true_iso
from revani.core.light.gathered import sky_stops, star_stops
from revani.core.light.moonlit import moonlit_nl, nanolamberts
from revani.core.optics.lens import lens_of
from revani.core.optics.projection import diagonal_mm, direction
from revani.core.program import Program, Window, spans
from revani.core.sky.stars import TURNS_DEG_PER_S, declination_deg
from revani.core.sky.sun_and_moon import DARK_DEG, HORIZON_DEG, Array


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


GAP_SHOWS_PX = 1.5
"""A gap between two frames' trails of more than this shows as a break (memory)."""


def gap_px(program: Program) -> Array:
    """How far stars move unseen between a frame's closing and the next one's opening, pixels a frame."""
    return np.asarray((program.slot_s - program.exposures.shutter_s) * stars_in(program.shot).fastest_px_s)


def dark_windows(program: Program, moon_up_to: float = 1.0) -> list[Window]:
    """When the sun is under −18° around the shot; −12° where the night never gets that dark.

    With `moon_up_to` below 1, also only while the moon is down or its disc lit no more than that.
    """
    at = np.arange(program.sky.from_s, program.sky.to_s + 1, 60.0)
    altitude = program.sky.sun(at).altitude_deg
    limit = DARK_DEG if altitude.min() < DARK_DEG else -12.0
    dark = altitude < limit
    if moon_up_to < 1:
        up = program.sky.moon(at).altitude_deg > HORIZON_DEG
        dark &= ~(up & (program.sky.moon_illuminated_fraction(at) > moon_up_to))
    return spans(dark, at)


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
