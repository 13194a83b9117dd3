"""How much light there is: illuminance on the ground, and the exposure value of the scene.

Horizontal illuminance of sun and moon from their geometric altitude: polynomial fits after
P. K. Seidelmann (ed.), Explanatory Supplement to the Astronomical Almanac, 1992, section 9.4
"natural illumination" (coefficients from memory, checked against its landmarks).
"""

import numpy as np
from numpy.typing import ArrayLike

from revani.core.documents import Cloud, Light, Place, Reading
from revani.core.light.dials import ev100, true_aperture, true_iso, true_shutter_s
from revani.core.quantities.arrays import Array
from revani.core.quantities.refusal import Refusal
from revani.core.sky.sun_and_moon import Sky, sky_over
from revani.core.sky.weather import known

# Lower end of the altitude range in degrees, then a, b, c, d of log10 E over altitude/90.
_SUN = (
    (20.0, 3.74, 3.97, -4.07, 1.47),
    (5.0, 3.05, 13.28, -45.98, 64.33),
    (-0.8, 2.88, 22.26, -207.64, 1034.30),
    (-5.0, 2.88, 21.81, -258.11, -858.36),
    (-12.0, 2.70, 12.17, -431.69, -1899.83),
    (-np.inf, 13.84, 262.72, 1447.42, 2797.93),
)
_MOON = (
    (20.0, -1.95, 4.06, -4.24, 1.56),
    (5.0, -2.58, 12.58, -42.58, 59.06),
    (-np.inf, -2.79, 24.27, -252.95, 1321.29),
)
NATURAL_SKY = 21.7
NATURAL_FLOOR_LX = 0.0008
SKY_OFFSET_STOPS = 2.5
_CLOCKS_DIFFER_S = 60.0
CLOUD_STOPS: dict[Cloud, float] = {"clear": 0.0, "haze": -1.0, "light cloud": -2.0, "overcast": -3.0}


def _fit(table: tuple[tuple[float, ...], ...], altitude_deg: Array) -> Array:
    x = altitude_deg / 90
    choice = [altitude_deg >= row[0] for row in table]
    fits = [a + b * x + c * x**2 + d * x**3 for _, a, b, c, d in table]
    return np.asarray(10.0 ** np.select(choice, fits))


def sun_illuminance_lx(altitude_deg: ArrayLike) -> Array:
    """Horizontal illuminance of the sun and its twilight alone, lux.

    Below −18° the last fit is carried on, where it falls away quickly; below −30° there is none.
    """
    altitude = np.asarray(altitude_deg, dtype=np.float64)
    return np.where(altitude < -30, 0.0, _fit(_SUN, np.maximum(altitude, -30)))


def moon_illuminance_lx(altitude_deg: ArrayLike, phase_angle_deg: ArrayLike, parallax_deg: ArrayLike) -> Array:
    """Horizontal illuminance of the moon alone, lux; none once it is set.

    `phase_angle_deg` is 0 at full moon; `parallax_deg` carries the moon's distance.
    """
    altitude = np.asarray(altitude_deg, dtype=np.float64)
    phase = np.asarray(phase_angle_deg, dtype=np.float64)
    term = 10.0 ** (-0.00868 * phase - 2.2e-9 * phase**4) * (np.asarray(parallax_deg) / 0.951) ** 1.4
    return np.where(altitude < -0.8, 0.0, _fit(_MOON, np.maximum(altitude, -0.8)) * term)


def night_floor_lx(sky_brightness: ArrayLike) -> Array:
    """Light of the night sky itself, lux, from its brightness at the zenith in mag/arcsec² (memory)."""
    return np.asarray(NATURAL_FLOOR_LX * 10.0 ** (0.4 * (NATURAL_SKY - np.asarray(sky_brightness))))


def ev100_of_illuminance(illuminance_lx: ArrayLike) -> Array:
    """Exposure value at ISO 100 of an incident illuminance. Source: ISO 2720, C = 250."""
    return np.asarray(np.log2(np.asarray(illuminance_lx, dtype=np.float64) / 2.5))


def illuminance_lx(sky: Sky, at_s: ArrayLike, sky_brightness: float) -> Array:
    """Sun, moon and the night's own light together on level ground under a clear sky, lux."""
    moon = moon_illuminance_lx(sky.moon(at_s).altitude_deg, sky.moon_phase_angle_deg(at_s), sky.moon_parallax_deg(at_s))
    return _moonless_lx(sky, at_s, sky_brightness) + moon


def moonlight_stops(sky: Sky, at_s: ArrayLike, sky_brightness: float) -> Array:
    """By how many stops the moon brightens the ground at instants (any shape); 0 where it is down."""
    return np.log2(illuminance_lx(sky, at_s, sky_brightness) / _moonless_lx(sky, at_s, sky_brightness))


def _moonless_lx(sky: Sky, at_s: ArrayLike, sky_brightness: float) -> Array:
    return sun_illuminance_lx(sky.sun(at_s).altitude_deg) + night_floor_lx(sky_brightness)


def reading_ev100(reading: Reading) -> float:
    """The exposure value that a meter reading found."""
    if reading.illuminance_lx is not None:
        return float(ev100_of_illuminance(reading.illuminance_lx))
    assert reading.aperture and reading.shutter_s and reading.iso
    settings = true_aperture(reading.aperture), true_shutter_s(float(reading.shutter_s)), true_iso(reading.iso)
    return float(ev100(*settings))


def check_reading(light: Light, now_s: float) -> None:
    """Refuse a meter reading that has not been taken yet; `now_s` is the clock of who asks."""
    if light.reading is not None and light.reading.at_s > now_s + _CLOCKS_DIFFER_S:
        raise Refusal("light.reading.at_s", "A reading is taken before it is noted: give a time that has passed.")


def scene_offset_stops(light: Light, place: Place) -> float:
    """How far the scene reads above the light on level ground; a meter reading replaces the usual."""
    reading = light.reading
    if reading is not None:
        sky = sky_over(place, reading.at_s, reading.at_s)
        level = ev100_of_illuminance(illuminance_lx(sky, reading.at_s, place.sky_brightness))
        return reading_ev100(reading) - float(level) - CLOUD_STOPS[reading.cloud]
    if light.scene_offset_stops is not None:
        return light.scene_offset_stops
    return SKY_OFFSET_STOPS if light.scene == "sky" else 0.0


def cloud_stops(place: Place, planned: Cloud, at_s: ArrayLike) -> Array:
    """What cloud takes at instants (any shape): by the weather where that is known, else as it is planned.

    A sky that is covered takes as much as an overcast one, a part of it in proportion (memory).
    """
    parts, is_known = known(place, "cloud", at_s)
    return np.where(is_known, CLOUD_STOPS["overcast"] * parts, CLOUD_STOPS[planned])


def cloud_at(place: Place, planned: Cloud, at_s: float) -> Cloud:
    """How the sky looks at an instant, in the word that takes as much light: by the weather, else as it is planned."""
    taken = float(cloud_stops(place, planned, at_s))
    return min(CLOUD_STOPS, key=lambda one: abs(CLOUD_STOPS[one] - taken))


def scene_ev100(sky: Sky, at_s: ArrayLike, sky_brightness: float, cloud_stops: ArrayLike, offset_stops: float) -> Array:
    """The exposure value (ISO 100) that renders the scene as it should be, at each instant."""
    level = ev100_of_illuminance(illuminance_lx(sky, at_s, sky_brightness))
    return np.asarray(level + np.asarray(cloud_stops) + offset_stops)


def cloud_band_stops(cloud: Cloud) -> tuple[float, float]:
    """How much darker and brighter than planned the scene may turn out, from overcast to clear."""
    return min(CLOUD_STOPS.values()) - CLOUD_STOPS[cloud], max(CLOUD_STOPS.values()) - CLOUD_STOPS[cloud]
