"""The picture as it is framed: skyline, and the ways of sun, moon and galactic core through it."""

from datetime import datetime
from zoneinfo import ZoneInfo

import numpy as np
from numpy.typing import NDArray
from pydantic import BaseModel, ConfigDict

from revani.core.optics.projection import direction
from revani.core.picture.passages import (
    WANDERERS,
    Passage,
    Wanderer,
    directions_of,
    over_skyline_deg,
    passages,
    place_in_picture,
)
from revani.core.program.compiled import Program
from revani.core.quantities.arrays import Array
from revani.core.quantities.units import duration
from revani.core.sky.skyline import skyline_deg, skyline_points

_AROUND_S = 3 * 3600
_WAY_POINTS = 160
_OUTSIDE = 0.35


class Piece(BaseModel):
    """Base of what the framed view shows; places are parts of the picture from the left and the top."""

    model_config = ConfigDict(frozen=True)


class Hour(Piece):
    """A labelled place on a way."""

    x: float
    y: float
    label: str


class Way(Piece):
    """The way of one that wanders, in stretches that lie above the skyline and near the picture."""

    which: Wanderer
    stretches: list[list[list[float]]]
    hours: list[Hour]
    now: list[float] | None


class FramedView(Piece):
    """What the camera sees at one frame, and what comes and goes during the shot."""

    number: int
    clock: str
    aspect: float
    horizon: list[list[float]]
    skyline: list[list[float]]
    ways: list[Way]
    told: list[str]


def framed_view(program: Program, number: int) -> FramedView:
    """The framed view at a frame; `number` counts from 1."""
    at_s = float(program.at_s[number - 1])
    body = program.shot.body
    azimuths = _heading_deg(program, at_s) + np.linspace(-89, 89, 179)
    flat = skyline_deg(skyline_points(program.shot.place), azimuths)

    def line(heights: Array) -> list[list[float]]:
        x, y, before = place_in_picture(program, direction(heights, azimuths), np.full_like(azimuths, at_s))
        near = before & (np.abs(x - 0.5) < 0.5 + _OUTSIDE)
        return _points(x[near], y[near])

    return FramedView(
        number=number,
        clock=f"{program.local(at_s):%H:%M}",
        aspect=body.pixels_wide / body.pixels_high,
        horizon=line(np.zeros_like(azimuths)),
        skyline=line(flat),
        ways=[_way(program, which, at_s) for which in WANDERERS],
        told=_told(program),
    )


def _points(x: Array, y: Array) -> list[list[float]]:
    return [[round(float(a), 4), round(float(b), 4)] for a, b in zip(x, y, strict=True)]


def _way(program: Program, which: Wanderer, now_s: float) -> Way:
    sky = program.sky
    begin, end = max(sky.from_s, program.start_s - _AROUND_S), min(sky.to_s, program.end_s + _AROUND_S)
    at = np.linspace(begin, end, _WAY_POINTS)
    x, y, shown = _seen(program, which, at, now_s)
    edges = np.flatnonzero(np.diff(np.concatenate([[0], shown.astype(int), [0]])))
    stretches = [_points(x[a:b], y[a:b]) for a, b in zip(edges[::2], edges[1::2], strict=True) if b - a > 1]
    hours = np.arange(np.ceil(begin / 3600) * 3600, end, 3600.0)
    hx, hy, over = _seen(program, which, hours, now_s)
    nx, ny, there = _seen(program, which, np.array([now_s]), now_s)
    zone = ZoneInfo(program.shot.place.time_zone)
    return Way(
        which=which,
        stretches=stretches,
        hours=[
            Hour(x=round(float(a), 4), y=round(float(b), 4), label=f"{datetime.fromtimestamp(float(t), zone):%H}")
            for a, b, t, ok in zip(hx, hy, hours, over, strict=True)
            if ok
        ],
        now=_points(nx, ny)[0] if there[0] else None,
    )


def _heading_deg(program: Program, at_s: float) -> float:
    if program.motion is None:
        return program.shot.framing.heading_deg
    return float(program.motion.pose(np.array(at_s - program.start_s)).heading_deg)


def _seen(program: Program, which: Wanderer, at_s: Array, now_s: float) -> tuple[Array, Array, NDArray[np.bool_]]:
    """Places of one that wanders as the camera looks at `now_s`, and if it is near the picture and up."""
    directions = directions_of(program, which, at_s)
    x, y, before = place_in_picture(program, directions, np.full_like(at_s, now_s))
    near = before & (np.abs(x - 0.5) < 0.5 + _OUTSIDE) & (np.abs(y - 0.5) < 0.5 + _OUTSIDE)
    return x, y, near & (over_skyline_deg(program, directions) > -0.3)


def _told(program: Program) -> list[str]:
    """What comes and goes, in words; the sun's touching of the ridge among it."""
    told = [_passage(program, one) for one in passages(program)]
    for event in program.events:
        if "ridge" in event.name and program.start_s <= event.at_s <= program.end_s:
            word = "touches the ridge and goes" if "behind" in event.name else "comes over the ridge"
            told.append(f"The sun {word} at {program.local(event.at_s):%H:%M:%S}.")
    return told or ["Neither sun nor moon nor the galactic core comes into the picture."]


_AT = {"edge": "at the picture's edge", "skyline": "at the skyline", "shot": ""}


def _passage(program: Program, one: Passage) -> str:
    name = {"sun": "The sun", "moon": "The moon", "galactic core": "The galactic core"}[one.which]
    came = "is in the picture from the start" if one.begins == "shot" else (
        f"comes in at {program.local(one.from_s):%H:%M} {_AT[one.begins]}"
    )  # fmt: skip
    left = "and stays" if one.ends == "shot" else f"and leaves at {program.local(one.to_s):%H:%M} {_AT[one.ends]}"
    return f"{name} {came} {left}, {duration(round((one.to_s - one.from_s) / 60) * 60)} in all."
