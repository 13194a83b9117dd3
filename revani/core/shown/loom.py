"""What the loom draws of a program: layers thinned to what a screen can show.

Positions along the wall clock are instants (seconds since 1970 UTC). Everything is computed here,
so that the drawing only scales it.
"""

from collections.abc import Callable
from datetime import datetime
from functools import lru_cache
from zoneinfo import ZoneInfo

import numpy as np
from pydantic import BaseModel, ConfigDict

from revani.core.feed.card import RESERVE
from revani.core.feed.energy import CAUTIOUS, OPTIMISTIC
from revani.core.light.dials import marked_aperture, marked_iso, show_shutter, true_iso
from revani.core.light.enough import hours_of_light
from revani.core.light.firing import by_the_clock
from revani.core.light.scene import cloud_band_stops
from revani.core.move.carried import Carried
from revani.core.picture.planned import exposed_stops
from revani.core.picture.skylight import light_strip, sky_colours
from revani.core.program.compiled import Program, card_capacity_bytes
from revani.core.quantities.arrays import Array, Window, thinned
from revani.core.quantities.measures import DISTANCE
from revani.core.quantities.units import decimals, duration, in_stops, plain_rate, stops
from revani.core.rehearsal.strip import cells
from revani.core.shown.feed_panel import file_ends
from revani.core.shown.loom_move import AxisLane, Hold, axis_lanes, holds, motion_columns
from revani.core.shown.outputs import CropLane, crop_lanes
from revani.core.sky.sun_and_moon import Sky, SkyEvent
from revani.core.timing.waiting import closes_s

MOST_POINTS = 400
_SKY_STEP_S = 600.0
_MOST_SKY = 400
_MOST_NOTES = 2
_OFF_STOPS = 0.3
_THREADS = 90


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


class Threads(Lane):
    """Threads from the wall clock to the film, as columns; `strong` ones are drawn darker."""

    number: list[int]
    at_s: list[float]
    film_s: list[float]
    strong: list[bool]


class FilmCell(Lane):
    """One small picture of the film, as the colours of its sky at the top and at the ridge."""

    from_s: float
    to_s: float
    zenith: str
    horizon: str


class Note(Lane):
    """Words on the light layer, at an instant and an exposure value."""

    at_s: float
    ev: float
    text: str


class Trace(Lane):
    """One setting over the shot, in stops of light over its least; `column` names it in `frames`."""

    name: str
    column: str
    first: str
    last: str
    most: float


class Handle(Lane):
    """A limit of the ramp that can be dragged: its field, and where it stands on its trace, in stops."""

    field: str
    label: str
    column: str
    stops: float


class Wish(Lane):
    """A key on the light layer: by its place in the document."""

    index: int
    at_s: float
    ev: float
    bias_stops: float
    text: str


class Ending(Lane):
    """Where a battery is empty, or is changed, and whose it is."""

    name: str
    at_s: float


class OtherSupply(Lane):
    """What is left beside the body's own, in the columns of the frames."""

    name: str
    left: list[float]


class Lit(Lane):
    """Hours in which the light is enough for a film at its rate."""

    from_s: float
    to_s: float


class Lanes(Lane):
    """All layers. The columns of `frames` are thinned alike; `number` names the frame of each.

    `cloud_stops` is how much darker and brighter than planned the scene may be, from overcast to
    clear; `off` tells that frames come out visibly other than they are wanted,
    `stands` what is said where no axis moves.
    """

    from_s: float
    to_s: float
    start_s: float
    end_s: float
    waits_until_s: float | None
    film_s: float
    sky: SkyStrip
    marks: list[Mark]
    wall_ticks: list[Tick]
    film_ticks: list[Tick]
    threads: Threads
    film: list[FilmCell]
    frames: dict[str, list[float]]
    card_full_at_s: float | None
    card_files_end_s: list[float]
    card_reserve: float
    battery_ends: list[Ending]
    battery_changes: list[Ending]
    other_supplies: list[OtherSupply]
    cloud_stops: list[float]
    light_enough: list[Lit]
    light_enough_told: str
    off: bool
    notes: list[Note]
    traces: list[Trace]
    handles: list[Handle]
    wishes: list[Wish]
    axes: list[AxisLane]
    holds: list[Hold]
    stands: str
    crops: list[CropLane]


def _rounded(values: Array, digits: int) -> list[float]:
    return np.round(values, digits).tolist()  # type: ignore[no-any-return]


_DIGITS = {
    "number": 0, "at_s": 1, "film_s": 3, "scene_ev": 2, "given_ev": 2, "battery_left": 4,
    "battery_best": 4, "battery_worst": 4, "card_filled": 4,
    "shutter_stops": 2, "iso_stops": 2, "aperture_stops": 2,
}  # fmt: skip


def _enough_told(program: Program, enough: list[Window]) -> str:
    if not program.shot.live:
        return ""
    rate = f"{plain_rate(1 / program.timing.interval_s)} fps"
    hours = []
    for one in enough:
        begins, ends = (f"{program.local(at):%H:%M}" for at in one)
        whole = one.from_s <= program.sky.from_s, one.to_s >= program.sky.to_s - 300
        hours.append(
            "all the time" if all(whole) else f"until {ends}" if whole[0] else f"from {begins}" if whole[1]
            else f"{begins} – {ends}"
        )  # fmt: skip
    return f"Light enough for {rate}: {', '.join(hours)}." if hours else f"At no hour is the light enough for {rate}."


def lanes(program: Program, most: int = MOST_POINTS, rates: bool = False) -> Lanes:
    """The layers of a program, thinned to at most `most` points each; with speeds and accelerations on demand."""
    light = _light_columns(program)
    filled = np.minimum(program.card_bytes / card_capacity_bytes(program.shot), 1.0)
    columns = program.columns() | light | {"given_ev": program.exposures.given_ev, "card_filled": filled}
    columns["battery_left"] = np.maximum(program.battery_left, 0.0)
    for name, scope in (("battery_best", OPTIMISTIC), ("battery_worst", CAUTIOUS)):
        columns[name] = np.maximum(program.energy(scope)[0].left, 0.0)
    at = thinned(program.frame_count, most)
    drawn = {name: digits for name, digits in _DIGITS.items() if name not in light or np.ptp(light[name]) > 0}
    frames = {name: _rounded(columns[name][at], digits) for name, digits in drawn.items()}
    if program.shot.pace is not None:
        frames["speed_up"] = _rounded((program.slot_s * float(program.timing.fps))[at], 2)
    frames |= motion_columns(program, at, rates)
    shot, sky = program.shot, program.sky
    enough = hours_of_light(shot, program.timing, sky) if shot.live else []
    return Lanes(
        from_s=sky.from_s,
        to_s=sky.to_s,
        start_s=program.start_s,
        end_s=program.end_s,
        waits_until_s=closes_s(shot) if shot.waits is not None and not by_the_clock(shot) else None,
        film_s=float(program.film_length_s),
        sky=_sky_strip(sky),
        marks=list(_marks(program.events, program.shot.place.time_zone)),
        wall_ticks=_wall_ticks(program),
        film_ticks=list(_film_ticks(float(program.film_length_s))),
        threads=_threads(program),
        film=_film(program),
        frames=frames,
        card_full_at_s=float(program.at_s[np.argmax(filled >= 1)]) if filled[-1] >= 1 else None,
        battery_ends=[
            Ending(name=one.name, at_s=float(program.at_s[one.ends_at]))
            for one in program.supplies
            if one.ends_at is not None
        ],
        card_files_end_s=file_ends(program),
        card_reserve=float(RESERVE),
        battery_changes=[
            Ending(name=one.name, at_s=float(program.at_s[slot])) for one in program.supplies for slot in one.swaps[:50]
        ],
        other_supplies=[
            OtherSupply(name=one.name, left=_rounded(np.maximum(one.left[at], 0.0), 4)) for one in program.supplies[1:]
        ],
        cloud_stops=list(cloud_band_stops(program.shot.light.cloud)),
        light_enough=[Lit(from_s=one.from_s, to_s=one.to_s) for one in enough],
        light_enough_told=_enough_told(program, enough),
        off=bool(np.abs(program.exposures.error_stops).max() >= _OFF_STOPS),
        notes=_notes(program),
        traces=_traces(program, light),
        handles=_handles(program),
        wishes=_wishes(program),
        axes=axis_lanes(program),
        holds=holds(program),
        stands=_stands(program),
        crops=crop_lanes(program, at),
    )


def _stands(program: Program) -> str:
    """What is said where no axis moves."""
    if program.carried is None:
        return "Nothing moves."
    return f"Walked: {DISTANCE.show(program.carried.track.length_m, 1)}, looking at {_aim(program.carried)}."


def _aim(carried: Carried) -> str:
    walk = carried.walk
    if walk.towards == "a thing":
        return walk.thing or ""
    return "the way ahead" if walk.towards == "the way ahead" else f"{decimals(walk.direction_deg, 0)}°"


def _light_columns(program: Program) -> dict[str, Array]:
    """The settings in stops of light over their least; one that stands still is not drawn."""
    got = program.exposures
    return {
        "shutter_stops": np.log2(got.shutter_s / got.shutter_s.min()),
        "iso_stops": np.log2(got.iso / got.iso.min()),
        "aperture_stops": 2 * np.log2(got.aperture.max() / got.aperture),
    }


def _traces(program: Program, columns: dict[str, Array]) -> list[Trace]:
    got = program.exposures

    def trace(name: str, column: str, values: Array, show: Callable[[float], str], stops_of: Array) -> Trace:
        return Trace(
            name=name, column=column, first=show(float(values[0])), last=show(float(values[-1])),
            most=round(float(stops_of.max()), 2),
        )  # fmt: skip

    return [
        trace("shutter", "shutter_stops", got.shutter_s, show_shutter, columns["shutter_stops"]),
        trace("ISO", "iso_stops", got.iso, lambda iso: str(marked_iso(iso)), columns["iso_stops"]),
        trace(
            "aperture", "aperture_stops", got.aperture, lambda n: f"f/{marked_aperture(n):g}", columns["aperture_stops"]
        ),
    ]


def _handles(program: Program) -> list[Handle]:
    """The limits of a ramp, or of the body's program, that can be dragged."""
    light, got = program.shot.light, program.exposures
    handles = []
    if light.school in ("stepped", "continuous"):
        height = float(np.log2(float(light.shutter_s) / got.shutter_s.min()))
        label = f"shutter up to {show_shutter(float(light.shutter_s))}"
        handles.append(Handle(field="light.shutter_s", label=label, column="shutter_stops", stops=round(height, 2)))
    if light.school in ("stepped", "continuous", "automatic"):
        height = float(np.log2(true_iso(light.iso_ceiling) / got.iso.min()))
        label = f"ISO up to {light.iso_ceiling}"
        handles.append(Handle(field="light.iso_ceiling", label=label, column="iso_stops", stops=round(height, 2)))
    return handles


def _wishes(program: Program) -> list[Wish]:
    keys = program.shot.light.keys
    at = program.start_s + np.array([key.after_s for key in keys])
    scene = np.interp(at, program.at_s, program.scene_ev) if keys else at
    return [
        Wish(
            index=i, at_s=float(at[i]), ev=round(float(scene[i]) - key.bias_stops, 2), bias_stops=key.bias_stops,
            text=f"{stops(key.bias_stops)} at {program.local(float(at[i])):%H:%M}",
        )
        for i, key in enumerate(keys)
    ]  # fmt: skip


_NOTED_STOPS = 0.5


def _notes(program: Program) -> list[Note]:
    """Where frames are half a stop off or more, at the worst frame of each stretch, and what stands in their way."""
    error = program.exposures.error_stops
    notes = []
    for off, worst, word in ((error <= -_NOTED_STOPS, np.argmin, "short"), (error >= _NOTED_STOPS, np.argmax, "over")):
        edges = np.flatnonzero(np.diff(np.concatenate([[0], off.astype(int), [0]])))
        stretches = sorted(zip(edges[::2], edges[1::2], strict=True), key=lambda pair: pair[0] - pair[1])[:_MOST_NOTES]
        for begin, end in stretches:
            i = int(begin + worst(error[begin:end]))
            text = f"{in_stops(abs(float(error[i])))} {word}: {_limit(program, i)}"
            middle = (float(program.at_s[begin]) + float(program.at_s[end - 1])) / 2
            notes.append(Note(at_s=middle, ev=round(float(program.scene_ev[i]), 2), text=text))
    return notes


def _limit(program: Program, i: int) -> str:
    """What keeps a frame from coming out right: which setting stands where, and whose limit that is."""
    light, body, got = program.shot.light, program.shot.body, program.exposures
    shutter, room = float(got.shutter_s[i]), float(program.shutter_room_s[i])
    said = f"shutter at {show_shutter(shutter)}"
    if got.error_stops[i] < 0 and shutter >= room * 0.99:
        said += " (the interval)"
    elif got.error_stops[i] < 0 and light.automatic and shutter >= float(body.automatic_shutter_max_s) * 0.99:
        said += " (the body)"
    said += f", ISO {marked_iso(float(got.iso[i]))}"
    return said + (", through the filter" if program.nd_stops[i] else "")


@lru_cache(maxsize=64)
def _marks(events: tuple[SkyEvent, ...], zone_name: str) -> tuple[Mark, ...]:
    """What the sky does, with the time on the place's clock."""
    zone = ZoneInfo(zone_name)
    return tuple(
        Mark(name=name, at_s=round(at_s, 1), clock=f"{datetime.fromtimestamp(at_s, zone):%H:%M}")
        for name, at_s in events
    )


@lru_cache(maxsize=32)
def _sky_strip(sky: Sky) -> SkyStrip:
    """Sky and altitudes over all the nights of a sky, at most 400 points; kept as long as the sky is."""
    span = sky.to_s - sky.from_s
    at = np.linspace(sky.from_s, sky.to_s, min(_MOST_SKY, int(span / _SKY_STEP_S) + 1))
    sun = sky.sun(at).altitude_deg
    return SkyStrip(
        at_s=_rounded(at, 0), colour=light_strip(sun), sun_altitude_deg=_rounded(sun, 1),
        moon_altitude_deg=_rounded(sky.moon(at).altitude_deg, 1),
    )  # fmt: skip


_TICK_STEPS_S = (10, 30, 60, 300, 900, 1_800, 3_600, 7_200, 10_800, 21_600, 43_200, 86_400, 259_200, 604_800)


def _wall_ticks(program: Program) -> list[Tick]:
    """Labels of the wall clock: around the shot at the step that suits it, further off every so many hours."""
    sky, span_s = program.sky, program.end_s - program.start_s
    fine = next((step for step in _TICK_STEPS_S if span_s / step <= 11), 2_592_000)
    coarse = max(3_600, next((step for step in _TICK_STEPS_S if (sky.to_s - sky.from_s) / step <= 30), 2_592_000))
    zone = program.shot.place.time_zone
    near = _ticks(zone, program.start_s - span_s / 4, program.end_s + span_s / 4, fine)
    far = _ticks(zone, sky.from_s, sky.to_s, coarse)
    found = {tick.at: tick for tick in (*far, *near) if sky.from_s <= tick.at <= sky.to_s}
    return [found[at] for at in sorted(found)]


@lru_cache(maxsize=256)
def _ticks(zone_name: str, from_s: float, to_s: float, step_s: int) -> tuple[Tick, ...]:
    """Ticks on whole steps since local midnight."""
    zone = ZoneInfo(zone_name)
    day = datetime.fromtimestamp(from_s, zone).replace(hour=0, minute=0, second=0, microsecond=0)
    first = day.timestamp() + step_s * ((from_s - day.timestamp()) // step_s)
    shape = "%H:%M:%S" if step_s < 60 else "%H:%M" if step_s < 86_400 else "%-d %b"
    return tuple(
        Tick(at=at, label=datetime.fromtimestamp(at, zone).strftime(shape))
        for at in np.arange(first, to_s, step_s).tolist()
    )


@lru_cache(maxsize=256)
def _film_ticks(length_s: float) -> tuple[Tick, ...]:
    steps = (0.1, 0.2, 0.5, 1, 2, 5, 10, 15, 30, 60, 120, 300, 600, 1800, 3600, 36_000)
    # Labels with minutes are longer than those with seconds alone.
    most = 10 if length_s <= 60 else 5
    step = next((step for step in steps if length_s / step <= most), 360_000)
    whole = int(length_s / step + 1e-9)
    return tuple(Tick(at=i * step, label=duration(round(i * step, 3))) for i in range(whole + 1))


def _threads(program: Program) -> Threads:
    """One thread a frame where there are few, else one for a handful; every tenth or so is strong."""
    at = thinned(program.frame_count, _THREADS)
    strong = np.arange(at.size) % max(1, at.size // 10) == 0
    strong[-1] = True
    return Threads(
        number=(at + 1).tolist(), at_s=_rounded(program.at_s[at], 2), film_s=_rounded(program.film_s[at], 4),
        strong=strong.tolist(),
    )  # fmt: skip


def _film(program: Program) -> list[FilmCell]:
    edges, middle = cells(program)
    sun = program.sun_altitude_deg[middle]
    error = exposed_stops(program, middle)
    zenith, horizon = sky_colours(sun, error, 0.9), sky_colours(sun, error, 0.1)
    return [
        FilmCell(
            from_s=float(edges[i]),
            to_s=float(edges[i + 1]),
            zenith=zenith[i], horizon=horizon[i],
        )
        for i in range(len(middle))
    ]  # fmt: skip
