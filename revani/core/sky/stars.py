"""The turning sky: sidereal time, and directions between the equator's axes and the horizon's."""

from functools import lru_cache

import numpy as np
from numpy.typing import ArrayLike
from skyfield.api import Star

from revani.core.quantities.arrays import Array
from revani.core.sky.sun_and_moon import ephemeris, timescale

# The galactic centre, Sagittarius A*, J2000 (Reid & Brunthaler, Astrophysical Journal 616 (2004)).
GALACTIC_CORE_RA_H, GALACTIC_CORE_DEC_DEG = 17.761122, -29.00781
# Under this height the core is drowned in haze (common practice, no source).
CORE_UP_DEG = 10.0
TURNS_DEG_PER_S = 360.98564736629 / 86_400


def sidereal_deg(at_s: ArrayLike, longitude_deg: float) -> Array:
    """Local mean sidereal time in degrees (any shape). Source: Meeus, Astronomical Algorithms, eq. 12.4."""
    days = np.asarray(at_s, dtype=np.float64) / 86_400 + 2_440_587.5 - 2_451_545.0
    return np.asarray((280.46061837 + 360.98564736629 * days + longitude_deg) % 360)


def to_horizon(latitude_deg: float, sidereal: float) -> Array:
    """Matrix (3, 3) that turns equatorial vectors into east, north, up."""
    lat, lst = np.radians(latitude_deg), np.radians(sidereal)
    return np.array(
        [
            [-np.sin(lst), np.cos(lst), 0],
            [-np.sin(lat) * np.cos(lst), -np.sin(lat) * np.sin(lst), np.cos(lat)],
            [np.cos(lat) * np.cos(lst), np.cos(lat) * np.sin(lst), np.sin(lat)],
        ]
    )


def declination_deg(direction: ArrayLike, latitude_deg: float) -> Array:
    """Declination of directions (…, 3) in east, north, up; a fixed direction keeps its own all night."""
    vector, lat = np.asarray(direction, dtype=np.float64), np.radians(latitude_deg)
    return np.asarray(np.degrees(np.arcsin(np.clip(vector @ np.array([0, np.cos(lat), np.sin(lat)]), -1, 1))))


def equatorial(ra_deg: ArrayLike, dec_deg: ArrayLike) -> Array:
    """Unit vectors (…, 3) on the equator's axes."""
    ra, dec = np.radians(ra_deg), np.radians(dec_deg)
    return np.stack([np.cos(dec) * np.cos(ra), np.cos(dec) * np.sin(ra), np.sin(dec)], axis=-1)


def fixed_star_directions(
    ra_deg: float, dec_deg: float, latitude_deg: float, longitude_deg: float, at_s: Array
) -> Array:
    """Directions (n, 3) east, north, up of a star of date at instants; without refraction."""
    hour = np.radians(sidereal_deg(at_s, longitude_deg) - ra_deg)
    lat, dec = np.radians(latitude_deg), np.radians(dec_deg)
    east = -np.cos(dec) * np.sin(hour)
    north = np.cos(lat) * np.sin(dec) - np.sin(lat) * np.cos(dec) * np.cos(hour)
    up = np.sin(lat) * np.sin(dec) + np.cos(lat) * np.cos(dec) * np.cos(hour)
    return np.stack([east, north, up], axis=-1)


def galactic_core_directions(latitude_deg: float, longitude_deg: float, at_s: Array) -> Array:
    """Directions (n, 3) east, north, up of the galactic centre at instants; without refraction."""
    ra, dec = _core_of_date(int(float(at_s.mean()) // 86_400))
    return fixed_star_directions(ra, dec, latitude_deg, longitude_deg, at_s)


@lru_cache(maxsize=64)
def _core_of_date(day: int) -> tuple[float, float]:
    """Right ascension and declination of date, degrees; precession and aberration change little in a night."""
    star = Star(ra_hours=GALACTIC_CORE_RA_H, dec_degrees=GALACTIC_CORE_DEC_DEG)
    t = timescale().utc(1970, 1, 1 + day, 12)
    ra, dec, _ = ephemeris()["earth"].at(t).observe(star).apparent().radec(epoch="date")
    return float(ra.hours) * 15, float(dec.degrees)
