"""The hours ahead at a place: the light, the shots that are planned in it, what to bring."""

from collections.abc import Sequence
from datetime import datetime
from math import ceil
from zoneinfo import ZoneInfo

import numpy as np
from pydantic import BaseModel, ConfigDict

from revani.core.documents import Place
from revani.core.findings import Finding, judge
from revani.core.findings.finding import Severity
from revani.core.picture.skylight import light_strip
from revani.core.program.compiled import Program
from revani.core.quantities.arrays import Array, spans
from revani.core.quantities.measures import TEMPERATURE
from revani.core.rigup.packing import Packed, Packing, packing
from revani.core.shown.loom import Mark, SkyStrip, Tick
from revani.core.sky.sun_and_moon import sky_over

_BACK_S = 2 * 3600
_AHEAD_S = 24 * 3600


class Piece(BaseModel):
    """Base of what Tonight shows."""

    model_config = ConfigDict(frozen=True)


class PlannedShot(Piece):
    """A shot laid on the strip; `row` keeps those that overlap apart."""

    id: str
    name: str
    gear: str
    from_s: float
    to_s: float
    clock: str
    severity: Severity | None
    row: int


class Trouble(Piece):
    """Something that stands against a planned shot."""

    shot_id: str
    shot_name: str
    severity: Severity
    sentence: str
    figures: str


class Tonight(Piece):
    """The hours ahead at a place."""

    place: Place
    coldest: str
    now_s: float
    from_s: float
    to_s: float
    date: str
    zone: str
    moon: str
    dark: str
    dark_clock: str
    sky: SkyStrip
    marks: list[Mark]
    ticks: list[Tick]
    shots: list[PlannedShot]
    troubles: list[Trouble]
    preparations: list[Packed]
    weight: str


def tonight(place: Place, now_s: float, programs: Sequence[Program]) -> Tonight:
    """The strip from two hours ago to a day ahead, with the programs of shots that fall into it."""
    from_s, to_s = now_s - _BACK_S, now_s + _AHEAD_S
    zone = ZoneInfo(place.time_zone)
    # Further back, so that a dark that has begun is told from its beginning.
    sky = sky_over(place, now_s - _AHEAD_S / 2, to_s)
    night = np.linspace(now_s - _AHEAD_S / 2, to_s, 500)
    at = np.linspace(from_s, to_s, 300)
    sun, moon = sky.sun(at).altitude_deg, sky.moon(at).altitude_deg
    events = [event for event in (*sky.sun_crossings, *sky.moon_crossings) if from_s <= event.at_s <= to_s]
    shown = ahead(programs, now_s)
    dark, dark_clock = _dark(sky.sun(night).altitude_deg, night, now_s, zone)
    judged = [(program, judge(program)) for program in shown]
    packed = packing(shown)
    return Tonight(
        place=place,
        coldest=TEMPERATURE.show(place.temperature_c, 0),
        now_s=now_s,
        from_s=from_s,
        to_s=to_s,
        date=f"{datetime.fromtimestamp(now_s, zone):%a %-d %b %Y}",
        zone=datetime.fromtimestamp(now_s, zone).tzname() or place.time_zone,
        moon=f"moon {float(sky.moon_illuminated_fraction(now_s)):.0%}",
        dark=dark,
        dark_clock=dark_clock,
        sky=SkyStrip(
            at_s=[round(float(value)) for value in at], colour=light_strip(sun),
            sun_altitude_deg=[round(float(value), 1) for value in sun],
            moon_altitude_deg=[round(float(value), 1) for value in moon],
        ),
        marks=[
            Mark(name=event.name, at_s=event.at_s, clock=f"{datetime.fromtimestamp(event.at_s, zone):%H:%M}")
            for event in sorted(events, key=lambda event: event.at_s)
        ],
        ticks=_ticks(from_s, to_s, zone),
        shots=_laid(judged),
        troubles=[*_together(packed), *_troubles(judged)],
        preparations=[one for one in packed.rows if one.what != "Bring"],
        weight=packed.weight,
    )  # fmt: skip


def ahead(programs: Sequence[Program], now_s: float) -> list[Program]:
    """Those of programs that fall into the hours that Tonight shows, by their start."""
    shown = [one for one in programs if one.end_s > now_s - _BACK_S and one.start_s < now_s + _AHEAD_S]
    return sorted(shown, key=lambda program: program.start_s)


def _dark(sun: Array, at: Array, now_s: float, zone: ZoneInfo) -> tuple[str, str]:
    """What the next dark is called and when it is; it may have begun already."""
    for limit, word in ((-18.0, "dark"), (-12.0, "nautical night")):
        windows = [window for window in spans(sun < limit, at) if window.to_s > now_s]
        if windows:
            first, last = (datetime.fromtimestamp(end, zone) for end in windows[0])
            return word, f"{first:%H:%M} – {last:%H:%M}"
    return "no dark", "tonight"


def _ticks(from_s: float, to_s: float, zone: ZoneInfo) -> list[Tick]:
    first = ceil(from_s / 7200) * 7200
    return [
        Tick(at=at, label=f"{datetime.fromtimestamp(at, zone):%H}") for at in np.arange(first, to_s, 7200.0).tolist()
    ]


def _laid(judged: Sequence[tuple[Program, tuple[Finding, ...]]]) -> list[PlannedShot]:
    free_from: list[float] = []
    laid = []
    for program, findings in judged:
        row = next((i for i, at in enumerate(free_from) if at <= program.start_s), len(free_from))
        # Room for the name beside a short bar.
        until = max(program.end_s, program.start_s + 4.5 * 3600)
        free_from[row : row + 1] = [until]
        shot = program.shot
        severities = [finding.severity for finding in findings if finding.severity != "good"]
        laid.append(
            PlannedShot(
                id=str(shot.id), name=shot.name, gear=f"{shot.body.name} · {shot.kit.lens.name}",
                from_s=program.start_s, to_s=program.end_s,
                clock=f"{program.local(program.start_s):%H:%M} – {program.local(program.end_s):%H:%M}",
                severity=severities[0] if severities else None, row=row,
            )
        )  # fmt: skip
    return laid


def _together(packed: Packing) -> list[Trouble]:
    """What stands against the shots together."""
    return [
        Trouble(
            shot_id=str(one.shot_id), shot_name=one.shot, severity="stop" if one.severe else "mind",
            sentence=one.sentence, figures=one.figures,
        )
        for one in packed.troubles
    ]  # fmt: skip


def _troubles(judged: Sequence[tuple[Program, tuple[Finding, ...]]]) -> list[Trouble]:
    return [
        Trouble(
            shot_id=str(program.shot.id), shot_name=program.shot.name, severity=finding.severity,
            sentence=finding.sentence, figures=finding.figures,
        )
        for program, findings in judged
        for finding in findings
        if finding.severity in ("stop", "fix", "mind")
    ]  # fmt: skip
