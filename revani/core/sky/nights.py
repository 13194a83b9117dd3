"""Nights to choose from: how long each is dark, and without how much of a moon."""

from datetime import date, datetime, timedelta
from typing import NamedTuple
from zoneinfo import ZoneInfo

import numpy as np
from numpy.typing import NDArray

from revani.core.documents import Place
from revani.core.quantities.arrays import Array
from revani.core.sky.sun_and_moon import HORIZON_DEG, Sky, sky_over

_LOOK_S = 60.0
_EXACT_S = 0.01


class Night(NamedTuple):
    """The longest unbroken dark of an evening's night, seconds since 1970; None where it is never dark.

    `moon_fraction` is the lit part of the moon in the middle of it, or at midnight.
    """

    date: date
    from_s: float | None
    to_s: float | None
    moon_fraction: float

    @property
    def dark_s(self) -> float:
        """How long it is dark."""
        return 0.0 if self.from_s is None or self.to_s is None else self.to_s - self.from_s


def nights(place: Place, first: date, count: int, sun_below_deg: float, moonlight_up_to: float) -> list[Night]:
    """The nights of so many evenings, each from noon to noon on the place's clock.

    Dark is the sun below an altitude, and no more than a part of the moon up (over −0.8333°, airless).
    """
    zone = ZoneInfo(place.time_zone)
    noons = [datetime.combine(first + timedelta(days=i), datetime.min.time(), zone) for i in range(count + 1)]
    noons_s = [noon.replace(hour=12).timestamp() for noon in noons]
    sky = sky_over(place, noons_s[0], noons_s[-1])
    found = []
    for i in range(count):
        from_s, to_s = _longest(sky, noons_s[i], noons_s[i + 1], sun_below_deg, moonlight_up_to)
        midnight_s = noons[i + 1].timestamp()
        middle_s = midnight_s if from_s is None or to_s is None else (from_s + to_s) / 2
        moon = float(sky.moon_illuminated_fraction(middle_s))
        found.append(Night(first + timedelta(days=i), from_s, to_s, moon))
    return found


def _dark(sky: Sky, at_s: Array, sun_below_deg: float, moonlight_up_to: float) -> NDArray[np.bool_]:
    dark = np.asarray(sky.sun(at_s).altitude_deg < sun_below_deg)
    up = sky.moon(at_s).altitude_deg > HORIZON_DEG
    return dark & ~(up & (sky.moon_illuminated_fraction(at_s) > moonlight_up_to))


def _longest(
    sky: Sky, begin_s: float, end_s: float, sun_below_deg: float, moonlight_up_to: float
) -> tuple[float | None, float | None]:
    at = np.append(np.arange(begin_s, end_s, _LOOK_S), end_s)
    holds = _dark(sky, at, sun_below_deg, moonlight_up_to)
    if not holds.any():
        return None, None
    edges = np.flatnonzero(np.diff(np.concatenate([[False], holds, [False]]).astype(int)))
    spans = []
    for first, after in zip(edges[::2], edges[1::2], strict=True):
        # Between the last look that was light and the first that was dark, and the other way round.
        begins = at[first] if first == 0 else _turn(sky, at[first - 1], at[first], sun_below_deg, moonlight_up_to)
        ends = end_s if after == at.size else _turn(sky, at[after], at[after - 1], sun_below_deg, moonlight_up_to)
        spans.append((float(begins), float(ends)))
    return max(spans, key=lambda span: span[1] - span[0])


def _turn(sky: Sky, light_s: float, dark_s: float, sun_below_deg: float, moonlight_up_to: float) -> float:
    """The instant at which it gets dark between one that is light and one that is dark."""
    while abs(dark_s - light_s) > _EXACT_S:
        middle = (light_s + dark_s) / 2
        if _dark(sky, np.array([middle]), sun_below_deg, moonlight_up_to)[0]:
            dark_s = middle
        else:
            light_s = middle
    return dark_s
