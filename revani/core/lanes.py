"""What the loom draws of a program: layers thinned to what a screen can show.

Positions along the wall clock are instants (seconds since 1970 UTC). Everything is computed here,
so that the drawing only scales it.
"""

from datetime import timedelta
from typing import Literal

import numpy as np
from pydantic import BaseModel, ConfigDict

from revani.core.exposure import marked_iso, show_shutter
from revani.core.picture import light_strip, sky_colours
from revani.core.program import Program, card_capacity_bytes
from revani.core.sky import Array
from revani.core.units import decimals, duration, gigabytes, stops

MOST_POINTS = 800
_SKY_STEP_S = 600.0
_MOST_SKY = 400
_THREADS = 90
_FILM_CELLS = 12


class Lane(BaseModel):
    """Base of what is drawn."""

    model_config = ConfigDict(frozen=True)


class SkyStrip(Lane):
    """The light behind the wall clock: an instant, a colour and altitudes, all of one length."""

    at_s: list[float]
    colour: list[str]
    sun_altitude_deg: list[float]
    moon_altitude_deg: list[float]


class Mark(Lane):
    """Something that the sky does: name and instant."""

    name: str
    at_s: float
    clock: str


class Tick(Lane):
    """A labelled position on a clock."""

    at: float
    label: str


class Thread(Lane):
    """A thread from the wall clock to the film; `strong` ones are drawn darker."""

    number: int
    at_s: float
    film_s: float
    strong: bool


class FilmCell(Lane):
    """One small picture of the film: sky at the top and at the ridge, and whether stars show."""

    from_s: float
    to_s: float
    zenith: str
    horizon: str
    stars: bool


class Note(Lane):
    """Words on the light layer, at an instant and an exposure value."""

    at_s: float
    ev: float
    text: str


class Lanes(Lane):
    """All layers. The columns of `frames` are thinned alike; `number` names the frame of each."""

    from_s: float
    to_s: float
    start_s: float
    end_s: float
    film_s: float
    sky: SkyStrip
    marks: list[Mark]
    wall_ticks: list[Tick]
    film_ticks: list[Tick]
    threads: list[Thread]
    film: list[FilmCell]
    frames: dict[str, list[float]]
    card_capacity_bytes: int
    shutter_room_s: float
    notes: list[Note]


class Reading(Lane):
    """One value in words, as the foot of the desk reads it out."""

    label: str
    text: str
    tone: Literal["plain", "bad"] = "plain"


def thinned(length: int, most: int) -> np.ndarray:
    """Indices of at most `most` frames, the first and the last among them, evenly spread."""
    if length <= most:
        return np.arange(length)
    return np.unique(np.round(np.linspace(0, length - 1, most)).astype(int))


def _rounded(values: Array, digits: int) -> list[float]:
    return [float(value) for value in np.round(np.asarray(values, dtype=np.float64), digits)]


_DIGITS = {
    "at_s": 1, "film_s": 3, "scene_ev": 2, "shutter_s": 5, "wanted_shutter_s": 5, "aperture": 2, "iso": 0,
    "error_stops": 2, "battery_left": 4, "card_bytes": 0, "number": 0, "sun_altitude_deg": 2,
}  # fmt: skip


def lanes(program: Program, most: int = MOST_POINTS) -> Lanes:
    """The layers of a program, thinned to at most `most` points each."""
    columns = program.columns()
    at = thinned(program.frame_count, most)
    frames = {name: _rounded(columns[name][at], digits) for name, digits in _DIGITS.items()}
    sky = program.sky
    return Lanes(
        from_s=sky.from_s,
        to_s=sky.to_s,
        start_s=program.start_s,
        end_s=program.end_s,
        film_s=float(program.timing.playback_s),
        sky=sky_strip(program),
        marks=[
            Mark(name=e.name, at_s=round(e.at_s, 1), clock=f"{program.local(e.at_s):%H:%M}") for e in program.events
        ],
        wall_ticks=_wall_ticks(program),
        film_ticks=_film_ticks(program),
        threads=_threads(program),
        film=_film(program),
        frames=frames,
        card_capacity_bytes=card_capacity_bytes(program.shot),
        shutter_room_s=program.shutter_room_s,
        notes=_notes(program),
    )


def _notes(program: Program) -> list[Note]:
    """The worst frame of either kind, where it is half a stop off or more, and what stood in its way."""
    error, exposures = program.exposures.error_stops, program.exposures
    notes = []
    for i, word in ((int(np.argmin(error)), "short"), (int(np.argmax(error)), "over")):
        if (error[i] <= -0.5 and word == "short") or (error[i] >= 0.5 and word == "over"):
            stands = (
                f"shutter at {show_shutter(float(exposures.shutter_s[i]))}, ISO {marked_iso(float(exposures.iso[i]))}"
            )
            text = f"{decimals(abs(float(error[i])), 1)} stops {word}: {stands}"
            notes.append(Note(at_s=float(program.at_s[i]), ev=round(float(program.scene_ev[i]), 2), text=text))
    return notes


def sky_strip(program: Program) -> SkyStrip:
    """Sky and altitudes over all the nights around a program, at most 400 points."""
    span = program.sky.to_s - program.sky.from_s
    at = np.linspace(program.sky.from_s, program.sky.to_s, min(_MOST_SKY, int(span / _SKY_STEP_S) + 1))
    sun = program.sky.sun(at).altitude_deg
    return SkyStrip(
        at_s=_rounded(at, 0), colour=light_strip(sun), sun_altitude_deg=_rounded(sun, 1),
        moon_altitude_deg=_rounded(program.sky.moon(at).altitude_deg, 1),
    )  # fmt: skip


def _wall_ticks(program: Program) -> list[Tick]:
    """Ticks on whole local hours, at the step that suits the whole window; finer ones for the shot."""
    span_h = (program.end_s - program.start_s) / 3600
    step = next((step for step in (0.25, 0.5, 1, 2, 3, 6, 12, 24, 72, 168, 720) if span_h / step <= 11), 2160)
    first = program.local(program.sky.from_s).replace(minute=0, second=0, microsecond=0)
    ticks: list[Tick] = []
    at = first.timestamp()
    while at <= program.sky.to_s and len(ticks) < 200:
        local = program.local(at)
        if local.timestamp() >= program.sky.from_s:
            label = f"{local:%H:%M}" if step < 24 else f"{local:%-d %b}"
            ticks.append(Tick(at=at, label=label))
        at += step * 3600
    return ticks


def _film_ticks(program: Program) -> list[Tick]:
    length = float(program.timing.playback_s)
    steps = (0.1, 0.2, 0.5, 1, 2, 5, 10, 15, 30, 60, 120, 300, 600, 1800, 3600, 36_000)
    step = next((step for step in steps if length / step <= 10), 360_000)
    whole = int(length / step + 1e-9)
    return [Tick(at=i * step, label=duration(round(i * step, 3))) for i in range(whole + 1)]


def _threads(program: Program) -> list[Thread]:
    """One thread a frame where there are few, else one for a handful; every tenth or so is strong."""
    at = thinned(program.frame_count, _THREADS)
    strong = set(at[:: max(1, len(at) // 10)].tolist()) | {int(at[-1])}
    return [
        Thread(
            number=int(i) + 1, at_s=round(float(program.at_s[i]), 2), film_s=round(float(program.film_s[i]), 4),
            strong=int(i) in strong,
        )
        for i in at
    ]  # fmt: skip


def _film(program: Program) -> list[FilmCell]:
    edges = np.linspace(0, program.frame_count, min(_FILM_CELLS, program.frame_count) + 1)
    middle = ((edges[:-1] + edges[1:]) / 2).astype(int)
    sun = program.sun_altitude_deg[middle]
    error = program.exposures.error_stops[middle]
    length = float(program.timing.playback_s)
    zenith, horizon = sky_colours(sun, error, 0.9), sky_colours(sun, error, 0.1)
    return [
        FilmCell(
            from_s=float(edges[i] / program.frame_count * length),
            to_s=float(edges[i + 1] / program.frame_count * length),
            zenith=zenith[i], horizon=horizon[i], stars=bool(sun[i] < -9 and program.shot.light.cloud != "overcast"),
        )
        for i in range(len(middle))
    ]  # fmt: skip


def readout(program: Program, number: int) -> list[Reading]:
    """One frame in words; `number` counts from 1."""
    i = number - 1
    local = program.local(float(program.at_s[i]))
    exposures = program.exposures
    error = float(exposures.error_stops[i])
    battery = float(program.battery_left[i])
    free = card_capacity_bytes(program.shot) - float(program.card_bytes[i])
    days = (local.date() - program.local(program.start_s).date()) // timedelta(days=1)
    return [
        Reading(label="frame", text=f"{number:,}"),
        Reading(label="clock", text=f"{local:%H:%M:%S}" + (f" +{days} d" if days else "")),
        Reading(label="film", text=duration(round(float(program.film_s[i]), 2))),
        Reading(label="sun", text=f"{decimals(round(float(program.sun_altitude_deg[i]), 1), 1)}°"),
        Reading(label="scene", text=f"EV {decimals(round(float(program.scene_ev[i]), 1), 1)}"),
        Reading(label="shutter", text=show_shutter(float(exposures.shutter_s[i]))),
        Reading(label="f", text=f"{program.shot.light.aperture:g}"),
        Reading(label="ISO", text=str(marked_iso(float(exposures.iso[i])))),
        Reading(label="error", text=stops(error), tone="bad" if abs(error) >= 1 else "plain"),
        Reading(label="battery", text=f"{max(0.0, battery):.0%}", tone="bad" if battery <= 0 else "plain"),
        Reading(label="card left", text=gigabytes(max(0.0, free)), tone="bad" if free < 0 else "plain"),
    ]
