"""Sun and moon over a place: where they stand, and when the light changes.

Positions are topocentric and apparent from JPL's DE421 through Skyfield, *without* refraction.
They are computed on a coarse grid and interpolated as unit vectors by a cubic spline; the error
of that is under 0.001°. Rise and set are at −0.8333° (34′ of refraction, 16′ of radius), the
twilights at −6°, −12° and −18° (U.S. Naval Observatory).
"""

from collections.abc import Iterator
from dataclasses import dataclass
from datetime import date, datetime, timedelta
from functools import cached_property, lru_cache
from itertools import groupby
from math import ceil, floor
from typing import Any, NamedTuple
from warnings import catch_warnings, simplefilter
from zoneinfo import ZoneInfo

import numpy as np
from numpy.typing import ArrayLike
from scipy.interpolate import CubicSpline
from skyfield.api import load, load_file, wgs84
from skyfield_data import get_skyfield_data_path

from revani.core.documents import Place
from revani.core.quantities.arrays import Array
from revani.core.quantities.refusal import Refusal

HORIZON_DEG = -0.8333
STEP_S = 900.0
_MOST_INSTANTS = 40_000
# Name of the crossing downwards, upwards, and the sun's altitude at both.
THRESHOLDS: tuple[tuple[str, str, float], ...] = (
    ("sunset", "sunrise", HORIZON_DEG),
    ("civil dusk", "civil dawn", -6.0),
    ("nautical dusk", "nautical dawn", -12.0),
    ("astronomical dusk", "astronomical dawn", -18.0),
)
DARK_DEG = -18.0
# Where a night never gets that dark, stars are filmed from here on.
STARS_FROM_DEG = -12.0


class Bearings(NamedTuple):
    """Altitude and azimuth (clockwise from north), degrees; scalars or arrays of one shape."""

    altitude_deg: Array
    azimuth_deg: Array


class SkyEvent(NamedTuple):
    """Something that the sun or moon does, and when (seconds since 1970, UTC)."""

    name: str
    at_s: float


@lru_cache(maxsize=1)
def ephemeris() -> Any:
    """JPL's DE421, which ships with a package."""
    with catch_warnings():
        # It tells that a table of the earth's rotation has expired, which is not used: Skyfield's built-in one is.
        simplefilter("ignore", RuntimeWarning)
        folder = get_skyfield_data_path()
    return load_file(f"{folder}/de421.bsp")


@lru_cache(maxsize=1)
def timescale() -> Any:
    """The leap seconds and the earth's turning that ship with Skyfield."""
    return load.timescale(builtin=True)


@dataclass(frozen=True, eq=False)
class Sky:
    """Sun and moon over one place from `from_s` to `to_s`, both seconds since 1970, UTC."""

    from_s: float
    to_s: float
    latitude_deg: float
    longitude_deg: float
    grid_s: Array
    _sun: CubicSpline
    _moon: CubicSpline
    _phase: CubicSpline

    def sun(self, at_s: ArrayLike) -> Bearings:
        """Where the sun stands at `at_s` (any shape)."""
        return _bearings(self._sun(self._inside(at_s)))

    def moon(self, at_s: ArrayLike) -> Bearings:
        """Where the moon stands at `at_s` (any shape)."""
        return _bearings(self._moon(self._inside(at_s)))

    def moon_phase_angle_deg(self, at_s: ArrayLike) -> Array:
        """Angle sun–moon–earth in degrees: 0 is full, 180 is new."""
        return np.asarray(self._phase(self._inside(at_s))[..., 0])

    def moon_parallax_deg(self, at_s: ArrayLike) -> Array:
        """The moon's equatorial horizontal parallax in degrees."""
        return np.asarray(self._phase(self._inside(at_s))[..., 1])

    def moon_illuminated_fraction(self, at_s: ArrayLike) -> Array:
        """Lit part of the disc, 0 to 1. Source: Meeus, Astronomical Algorithms, eq. 48.1."""
        return np.asarray((1 + np.cos(np.radians(self.moon_phase_angle_deg(at_s)))) / 2)

    @cached_property
    def sun_crossings(self) -> tuple[SkyEvent, ...]:
        """Rise, set and twilights within the window, in order of time."""
        events = [
            SkyEvent(down if falling else up, at)
            for down, up, altitude in THRESHOLDS
            for at, falling in self._crossings(self._sun, altitude)
        ]
        return tuple(sorted(events, key=lambda event: event.at_s))

    @cached_property
    def moon_crossings(self) -> tuple[SkyEvent, ...]:
        """Moonrise and moonset (upper limb, −0.8333° + parallax − 34′ folded in as +0.125°)."""
        # Meeus, Astronomical Algorithms, ch. 15: h0 = 0.7275 π − 0.5667°; here the altitude is
        # topocentric already, so only refraction and the radius of about 15.5′ are left.
        found = self._crossings(self._moon, -0.8250)
        return tuple(SkyEvent("moonset" if falling else "moonrise", at) for at, falling in found)

    def sun_falls_to(self, altitude_deg: float) -> tuple[float, ...]:
        """When the sun comes down to an altitude, within the window, in order."""
        return tuple(at for at, falling in self.sun_passes(altitude_deg) if falling)

    def sun_passes(self, altitude_deg: float) -> tuple[tuple[float, bool], ...]:
        """When the sun passes an altitude within the window, and whether it falls, in order."""
        return tuple(self._crossings(self._sun, altitude_deg))

    def _crossings(self, spline: CubicSpline, altitude_deg: float) -> Iterator[tuple[float, bool]]:
        height = np.sin(np.radians(altitude_deg))
        up = CubicSpline(self.grid_s, spline(self.grid_s)[:, 2] - height)
        roots = up.roots(extrapolate=False)
        slopes = up(roots, 1)
        for at, slope in zip(roots, slopes, strict=True):
            if slope != 0 and self.from_s <= at <= self.to_s:
                yield float(at), bool(slope < 0)

    def _inside(self, at_s: ArrayLike) -> Array:
        at = np.asarray(at_s, dtype=np.float64)
        if at.size and (at.min() < self.grid_s[0] or at.max() > self.grid_s[-1]):
            raise ValueError("an instant outside the computed window was asked for")
        return at


def _bearings(vector: Array) -> Bearings:
    east, north, up = vector[..., 0], vector[..., 1], vector[..., 2]
    altitude = np.degrees(np.arctan2(up, np.hypot(east, north)))
    return Bearings(altitude, np.degrees(np.arctan2(east, north)) % 360)


def direct(place: Place, at_s: ArrayLike) -> tuple[Bearings, Bearings]:
    """Sun and moon straight from the ephemeris at each instant: slow, exact, what the grid is made of."""
    sun, moon, _, _ = _observe(place, np.atleast_1d(np.asarray(at_s, dtype=np.float64)))
    return _bearings(sun), _bearings(moon)


def _observe(place: Place, at_s: Array) -> tuple[Array, Array, Array, Array]:
    """Unit vectors (n, 3) east, north, up of sun and moon; phase angle and parallax in degrees (n,)."""
    planets = ephemeris()
    earth, sun, moon = planets["earth"], planets["sun"], planets["moon"]
    # Leap seconds are looked up by the day, so the seconds since 1970 are given as days and a rest.
    days = np.floor(at_s / 86_400)
    t = timescale().utc(1970, 1, 1 + days, 0, 0, at_s - days * 86_400)
    observer = (earth + wgs84.latlon(place.latitude_deg, place.longitude_deg, place.elevation_m)).at(t)
    vectors = []
    for target in (sun, moon):
        altitude, azimuth, _ = observer.observe(target).apparent().altaz()
        alt, az = altitude.radians, azimuth.radians
        vectors.append(np.stack([np.cos(alt) * np.sin(az), np.cos(alt) * np.cos(az), np.sin(alt)], axis=-1))
    centre = earth.at(t)
    to_moon = centre.observe(moon)
    to_sun = centre.observe(sun)
    moon_km, sun_km = to_moon.position.km, to_sun.position.km
    from_moon_to_sun = sun_km - moon_km
    cosine = np.sum(-moon_km * from_moon_to_sun, axis=0) / (
        np.linalg.norm(moon_km, axis=0) * np.linalg.norm(from_moon_to_sun, axis=0)
    )
    phase = np.degrees(np.arccos(np.clip(cosine, -1, 1)))
    parallax = np.degrees(np.arcsin(6378.137 / np.linalg.norm(moon_km, axis=0)))
    return vectors[0], vectors[1], phase, parallax


# For looks over months: the error of a spline over hours is under 0.01°.
COARSE_S = 3_600.0


def sky_over(place: Place, from_s: float, to_s: float, step_s: float = STEP_S) -> Sky:
    """The sky over a place for a span of time (seconds since 1970, UTC).

    The span is widened to whole hours and kept, so that editing a number of a shot does not ask
    the ephemeris again. Raises Refusal("timing.event_s") for a span too long to hold.
    """
    start, end = floor(from_s / 3600) * 3600, ceil(to_s / 3600) * 3600
    if (end - start) / STEP_S > _MOST_INSTANTS:
        raise Refusal("timing.event_s", "At most 400 days can be planned in one shot.")
    return _kept(place.latitude_deg, place.longitude_deg, place.elevation_m, start, end, step_s)


@lru_cache(maxsize=64)
def _kept(latitude_deg: float, longitude_deg: float, elevation_m: float, start: int, end: int, step_s: float) -> Sky:
    # Two steps beyond either end keep the spline's free ends out of the window.
    first, last = round(start / step_s) - 2, round(end / step_s) + 2
    grid = np.arange(first, last + 1, dtype=np.float64) * step_s
    sun, moon, phase, parallax = _observed((latitude_deg, longitude_deg, elevation_m), first, last, step_s)
    return Sky(
        from_s=start,
        to_s=end,
        latitude_deg=latitude_deg,
        longitude_deg=longitude_deg,
        grid_s=grid,
        _sun=CubicSpline(grid, sun),
        _moon=CubicSpline(grid, moon),
        _phase=CubicSpline(grid, np.stack([phase, parallax], axis=-1)),
    )


# What was observed, in blocks of so many steps: windows that overlap, as those of one shot do, share them.
_BLOCK = 96
_MOST_BLOCKS = 2_000
_Block = tuple[Array, Array, Array, Array]
_blocks: dict[tuple[tuple[float, float, float], float, int], _Block] = {}


def _observed(where: tuple[float, float, float], first: int, last: int, step_s: float) -> _Block:
    """What `_observe` gives at the instants `first × step_s` to `last × step_s`, asking only for what is not known."""
    numbers = range(first // _BLOCK, last // _BLOCK + 1)
    known = {number: _blocks.get((where, step_s, number)) for number in numbers}
    for missing, group in groupby(numbers, lambda number: known[number] is None):
        if missing:
            run = list(group)
            place = Place(name="grid", latitude_deg=where[0], longitude_deg=where[1], elevation_m=where[2])
            instants = np.arange(run[0] * _BLOCK, (run[-1] + 1) * _BLOCK, dtype=np.float64) * step_s
            seen = _observe(place, instants)
            for i, number in enumerate(run):
                known[number] = _blocks[where, step_s, number] = _cut(seen, i * _BLOCK, (i + 1) * _BLOCK)
    while len(_blocks) > _MOST_BLOCKS:
        # The oldest; another thread may have been faster.
        _blocks.pop(next(iter(_blocks)), None)
    parts = zip(*(block for block in known.values() if block is not None), strict=True)
    sun, moon, phase, parallax = (np.concatenate(part) for part in parts)
    return _cut((sun, moon, phase, parallax), first - numbers[0] * _BLOCK, last + 1 - numbers[0] * _BLOCK)


def _cut(seen: _Block, begin: int, end: int) -> _Block:
    sun, moon, phase, parallax = (one[begin:end] for one in seen)
    return sun, moon, phase, parallax


def local_midnight_s(place: Place, day: date) -> float:
    """Midnight at the beginning of a civil date on the place's clock, seconds since 1970 UTC."""
    return datetime(day.year, day.month, day.day, tzinfo=ZoneInfo(place.time_zone)).timestamp()


# The evening's own events: name, and the sun's altitudes at which they begin, the first that is reached.
_EVENING: tuple[tuple[str, tuple[float, ...]], ...] = (
    ("low sun", (6.0,)), ("blue hour", (-4.0,)), ("dark", (DARK_DEG, -12.0)),
)  # fmt: skip


def day_events(place: Place, day: date) -> dict[str, float | None]:
    """What sun and moon do on a date at a place, by the names that a start may have; None where it does not happen.

    Rise, set and twilights as they fall on that civil date, like moonrise and moonset; the low sun, the
    blue hour (both common practice, no source) and the dark of that date's evening, from noon to noon.
    """
    return sun_events_of(place, day) | _moon_and_evening(place, day)


def day_event(place: Place, day: date, name: str) -> float | None:
    """One of them, without looking for the others where that takes longer."""
    found = sun_events_of(place, day)
    return found[name] if name in found else _moon_and_evening(place, day)[name]


@lru_cache(maxsize=64)
def _moon_and_evening(place: Place, day: date) -> dict[str, float | None]:
    found: dict[str, float | None] = {}
    start, end = local_midnight_s(place, day), local_midnight_s(place, day + timedelta(days=1))
    noon = start + (end - start) / 2
    sky = sky_over(place, start, noon + 86_400)
    moon = [one for one in sky.moon_crossings if start <= one.at_s < end]
    for name in ("moonrise", "moonset"):
        found[name] = next((one.at_s for one in moon if one.name == name), None)
    for name, altitudes in _EVENING:
        found[name] = next(
            (at for limit in altitudes for at in sky.sun_falls_to(limit) if noon <= at < noon + 86_400), None
        )
    return found


def sun_events_of(place: Place, day: date) -> dict[str, float | None]:
    """Rise, set and twilights that fall on a civil date at a place; None where there is none."""
    start, end = local_midnight_s(place, day), local_midnight_s(place, day + timedelta(days=1))
    found: dict[str, float | None] = {name: None for pair in THRESHOLDS for name in pair[:2]}
    for event in sky_over(place, start, end).sun_crossings:
        if start <= event.at_s < end and found[event.name] is None:
            found[event.name] = event.at_s
    return found
