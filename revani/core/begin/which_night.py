"""Which night: the evenings ahead at a place, ranked by the hours that serve what is to be filmed, with the reason."""

from datetime import date, datetime, timedelta
from typing import NamedTuple
from zoneinfo import ZoneInfo

import numpy as np
from numpy.typing import NDArray
from pydantic import BaseModel, ConfigDict

from revani.core.begin.intention import Moves
from revani.core.documents import FIRST_YEAR, LAST_YEAR, Place
from revani.core.quantities.arrays import Array, Window, spans
from revani.core.quantities.refusal import Refusal
from revani.core.quantities.units import duration
from revani.core.sky.stars import CORE_UP_DEG, galactic_core_directions
from revani.core.sky.sun_and_moon import COARSE_S, DARK_DEG, HORIZON_DEG, STARS_FROM_DEG, sky_over

MOST_NIGHTS = 400
_LOOK_S = 300.0
_SAME_S = 600.0


class NightAhead(BaseModel):
    """One evening, its night from noon to noon on the place's clock. Lengths in seconds.

    `serves_s` are the hours that serve, from `from_s` to `to_s` (seconds since 1970 UTC) where they are longest; `rank`
    counts from 1, the best.
    """

    model_config = ConfigDict(frozen=True)

    date: date
    dark_s: float
    moonless_s: float
    moon_fraction: float
    core_s: float
    serves_s: float
    from_s: float | None
    to_s: float | None
    clock: str
    rank: int
    reason: str


class Found(NamedTuple):
    """What is in one night, before it is ranked."""

    date: date
    dark_s: float
    moonless_s: float
    core_s: float
    serves_s: float
    window: Window | None
    moon_fraction: float


def which_night(place: Place, first: date, count: int, moves: Moves, moonlight_up_to: float = 0.0) -> list[NightAhead]:
    """So many evenings from a date on, in order of time. Raises Refusal for more than can be looked at."""
    if not 1 <= count <= MOST_NIGHTS:
        raise Refusal("count", f"From 1 to {MOST_NIGHTS} nights can be looked at.", count)
    if first.year < FIRST_YEAR or (first + timedelta(days=count + 1)).year > LAST_YEAR:
        raise Refusal("first", f"A date from {FIRST_YEAR} to {LAST_YEAR}, the years of the ephemeris.", str(first))
    zone = ZoneInfo(place.time_zone)
    noons = [datetime(day.year, day.month, day.day, 12, tzinfo=zone).timestamp()
             for day in (first + timedelta(days=i) for i in range(count + 1))]  # fmt: skip
    sky = sky_over(place, noons[0], noons[-1], COARSE_S)
    at = np.arange(noons[0], noons[-1], _LOOK_S)
    sun, lit = sky.sun(at).altitude_deg, sky.moon_illuminated_fraction(at)
    parts = [(at >= noons[i]) & (at < noons[i + 1]) for i in range(count)]
    # Where a night never gets that dark, −12° are counted, as for the findings.
    dark = np.zeros(at.shape, dtype=bool)
    for part in parts:
        dark[part] = sun[part] < (DARK_DEG if sun[part].min() < DARK_DEG else STARS_FROM_DEG)
    moon_up = sky.moon(at).altitude_deg > HORIZON_DEG
    moonless = dark & ~(moon_up & (lit > moonlight_up_to))
    core = galactic_core_directions(place.latitude_deg, place.longitude_deg, at)[:, 2]
    cored = moonless & (core > np.sin(np.radians(CORE_UP_DEG)))
    serving = _open(place, at) & _serving(moves, dark, moonless, sun)
    rows = []
    for i, part in enumerate(parts):
        window = _longest(serving[part], at[part])
        middle = float(np.mean(window)) if window else (noons[i] + noons[i + 1]) / 2
        moon = float(sky.moon_illuminated_fraction(middle))
        day = first + timedelta(days=i)
        in_it = [float(what[part].sum()) * _LOOK_S for what in (dark, moonless, cored, serving)]
        rows.append(Found(day, in_it[0], in_it[1], in_it[2], in_it[3], window, moon))
    return _ranked(rows, moves, zone)


def _serving(moves: Moves, dark: NDArray[np.bool_], moonless: NDArray[np.bool_], sun: Array) -> NDArray[np.bool_]:
    """Which instants serve a kind of subject."""
    if moves in ("stars, as points", "stars, as trails"):
        return moonless
    if moves == "light that goes or comes":
        return np.asarray((sun < 6) & (sun > -12))
    if moves == "day into night into day":
        return dark
    return np.asarray(sun > 0)


def _open(place: Place, at: Array) -> NDArray[np.bool_]:
    """When one may be at the place."""
    if place.window is None:
        return np.ones(at.shape, dtype=bool)
    zone = ZoneInfo(place.time_zone)
    # The clock of a place changes on whole hours; a look at each is exact enough.
    hours = np.unique(at // 3600)
    offsets = np.array([(datetime.fromtimestamp(hour * 3600, zone).utcoffset() or timedelta()).total_seconds()
                        for hour in hours])  # fmt: skip
    clock = (at + offsets[np.searchsorted(hours, at // 3600)]) % 86_400
    opens, closes = (int(text[:2]) * 3600 + int(text[3:5]) * 60 for text in (place.window.opens, place.window.closes))
    if closes > opens:
        return np.asarray((clock >= opens) & (clock <= closes))
    return np.asarray((clock >= opens) | (clock <= closes))


def _longest(holds: NDArray[np.bool_], at: Array) -> Window | None:
    return max(spans(holds, at), key=lambda one: one.to_s - one.from_s, default=None)


def _ranked(found: list[Found], moves: Moves, zone: ZoneInfo) -> list[NightAhead]:
    """The rows in order of time, ranked by the hours that serve; stars with the core first, the sooner the better."""
    stars = moves == "stars, as points"

    def better(row: Found) -> tuple[float, float, date]:
        return (-(row.serves_s // _SAME_S), -(row.core_s // _SAME_S) if stars else 0.0, row.date)

    order = {row.date: place for place, row in enumerate(sorted(found, key=better), 1)}
    rows = []
    for day, dark_s, moonless_s, core_s, serves_s, window, moon in found:
        clock = ""
        if window is not None:
            begins, ends = (datetime.fromtimestamp(one, zone) for one in window)
            clock = f"{begins:%H:%M} – {ends:%H:%M}"
        rows.append(
            NightAhead(
                date=day, dark_s=dark_s, moonless_s=moonless_s, moon_fraction=moon, core_s=core_s, serves_s=serves_s,
                from_s=window.from_s if window else None, to_s=window.to_s if window else None, clock=clock,
                rank=order[day], reason=_reason(moves, dark_s, moonless_s, core_s, serves_s, moon, clock),
            )
        )  # fmt: skip
    return rows


def _reason(
    moves: Moves, dark_s: float, moonless_s: float, core_s: float, serves_s: float, moon: float, clock: str
) -> str:
    if "stars" in moves:
        if not dark_s:
            return "it does not get dark"
        if not moonless_s:
            return f"dark for {_spoken(dark_s)}, but a moon of {moon:.0%} is up all the time"
        with_moon = (
            f"; {_spoken(dark_s - moonless_s)} more with a moon of {moon:.0%}" if dark_s > moonless_s + 600 else ""
        )
        core = f"; the core is up for {_spoken(core_s)} of it" if core_s else ""
        return f"{_spoken(serves_s)} dark without a moon, {clock}{with_moon}{core}"
    if not serves_s:
        return "no light that goes or comes" if moves == "light that goes or comes" else "no hour that serves"
    what = {"light that goes or comes": "of changing light", "day into night into day": "of night"}
    return f"{_spoken(serves_s)} {what.get(moves, 'of day')}, longest {clock}"


def _spoken(seconds: float) -> str:
    return duration(round(seconds / 60) * 60)
