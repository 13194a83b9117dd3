"""Shutter, aperture and ISO: APEX arithmetic and the ladders on the dials.

Dials show rounded numbers (1/125, f/5.6) and mean exact powers of two (2^-7, 2^2.5): all
arithmetic is on what they mean. Source: ISO 2720 and the annex on APEX of Exif 2.3.
"""

from bisect import bisect_left
from fractions import Fraction
from math import log2

import numpy as np
from numpy.typing import ArrayLike

from revani.core.quantities.arrays import Array

# Marked shutter speeds in thirds of a stop, and the power of two that each means.
_MARKED_SHUTTERS = (
    "1/8000 1/6400 1/5000 1/4000 1/3200 1/2500 1/2000 1/1600 1/1250 1/1000 1/800 1/640 1/500 1/400"
    " 1/320 1/250 1/200 1/160 1/125 1/100 1/80 1/60 1/50 1/40 1/30 1/25 1/20 1/15 1/13 1/10 1/8 1/6"
    " 1/5 1/4 0.3 0.4 0.5 0.6 0.8 1 1.3 1.6 2 2.5 3.2 4 5 6 8 10 13 15 20 25 30 40 50 60 80 100 120"
).split()
_FIRST_SHUTTER_THIRDS = -39
SHUTTERS: tuple[Fraction, ...] = tuple(Fraction(text) for text in _MARKED_SHUTTERS)
APERTURES: tuple[float, ...] = (
    1.0, 1.1, 1.2, 1.4, 1.6, 1.8, 2.0, 2.2, 2.5, 2.8, 3.2, 3.5, 4.0, 4.5, 5.0, 5.6, 6.3, 7.1,
    8.0, 9.0, 10.0, 11.0, 13.0, 14.0, 16.0, 18.0, 20.0, 22.0, 25.0, 29.0, 32.0,
)  # fmt: skip
_ISO_TENS = (100, 125, 160, 200, 250, 320, 400, 500, 640, 800, 1000, 1250)
ISOS: tuple[int, ...] = (
    50, 64, 80, *_ISO_TENS, 1600, 2000, 2500, 3200, 4000, 5000, 6400, 8000, 10000, 12800, 16000,
    20000, 25600, 32000, 40000, 51200, 64000, 80000, 102400,
)  # fmt: skip


def _rung(ladder: tuple[float, ...], value: float) -> int | None:
    """Where `value` stands on a ladder, within 1 %; None where it is not a marked value."""
    at = bisect_left(ladder, value * 0.99)
    return at if at < len(ladder) and abs(ladder[at] / value - 1) < 0.01 else None


_SHUTTER_FLOATS = tuple(float(shutter) for shutter in SHUTTERS)


def true_shutter_s(marked_s: float) -> float:
    """The time that a marked shutter speed means: 1/125 is 2^-7 s; others mean themselves.

    So do those of a second and more, which a controller times by its own clock.
    """
    rung = _rung(_SHUTTER_FLOATS, marked_s) if marked_s < 0.99 else None
    return marked_s if rung is None else float(2.0 ** ((_FIRST_SHUTTER_THIRDS + rung) / 3))


def true_aperture(marked: float) -> float:
    """The f-number that a marked aperture means: f/5.6 is 2^2.5; others mean themselves."""
    rung = _rung(APERTURES, marked)
    return marked if rung is None else float(2.0 ** (rung / 6))


_ISO_FLOATS = tuple(float(iso) for iso in ISOS)


def true_iso(marked: float) -> float:
    """The speed that a marked ISO means: 640 is 100 · 2^(8/3); others mean themselves."""
    rung = _rung(_ISO_FLOATS, marked)
    return float(marked) if rung is None else float(100 * 2.0 ** ((rung - 3) / 3))


def marked_iso(iso: float) -> int:
    """The number on the dial for a speed in thirds of a stop: 317 is ISO 320."""
    rung = round(log2(iso / 100) * 3) + 3
    return ISOS[min(max(rung, 0), len(ISOS) - 1)]


def marked_aperture(aperture: float) -> float:
    """The number on the ring for a true aperture: 5.657 is f/5.6."""
    rung = min(max(round(log2(aperture) * 6), 0), len(APERTURES) - 1)
    return APERTURES[rung] if abs(2.0 ** (rung / 6) / aperture - 1) < 0.03 else round(aperture, 1)


def ev100(aperture: ArrayLike, shutter_s: ArrayLike, iso: ArrayLike) -> Array:
    """The exposure value, at ISO 100, of settings taken at their face: log2(N²/t) − log2(ISO/100)."""
    n, t = np.asarray(aperture, dtype=np.float64), np.asarray(shutter_s, dtype=np.float64)
    return np.asarray(np.log2(n**2 / t) - np.log2(np.asarray(iso, dtype=np.float64) / 100))


def shutter_for(ev100_scene: ArrayLike, aperture: ArrayLike, iso: ArrayLike) -> Array:
    """The shutter, in seconds, that exposes a scene correctly at an aperture and ISO."""
    n = np.asarray(aperture, dtype=np.float64)
    return np.asarray(n**2 / (2.0 ** np.asarray(ev100_scene) * np.asarray(iso, dtype=np.float64) / 100))


def show_shutter(shutter_s: float) -> str:
    """`1/125`, `0.4 s`, `2.5 s`, `26 s`: the mark on the dial where the time is one that a mark means."""
    if shutter_s < 0.29:
        rung = _rung(_SHUTTER_FLOATS, shutter_s)
        if rung is None:
            meant = round(log2(shutter_s) * 3) - _FIRST_SHUTTER_THIRDS
            true = 2.0 ** ((meant + _FIRST_SHUTTER_THIRDS) / 3)
            rung = meant if 0 <= meant < len(SHUTTERS) and abs(shutter_s / true - 1) < 0.005 else None
        if rung is not None:
            return _MARKED_SHUTTERS[rung]
        # From there on a whole fraction says it too roughly.
        if shutter_s < 0.26:
            return f"1/{round(1 / shutter_s):,}"
    return f"{shutter_s:.3g} s" if shutter_s < 1000 else f"{shutter_s:,.0f} s"
