"""The values of a shot's light, and of what it is filmed for."""

import re
from dataclasses import replace
from datetime import datetime
from fractions import Fraction
from itertools import combinations
from uuid import UUID
from zoneinfo import ZoneInfo

from revani.core.documents import ClockStart, Shot, SunStart
from revani.core.edit.fields.derived import chosen_field, label_of
from revani.core.edit.fields.field import Field, along, read_share, whole
from revani.core.edit.wishes import LightKeyEdit, apply_light_key
from revani.core.light.dials import APERTURES, ISOS, SHUTTERS, show_shutter
from revani.core.light.exposing import SCHOOL_NAMES
from revani.core.light.firing import schools_for
from revani.core.quantities.measures import STOPS
from revani.core.quantities.refusal import Refusal
from revani.core.quantities.units import MINUS, decimals, duration, exact, parse_duration, stops
from revani.core.timing.law import Solution
from revani.core.timing.pace import solved as timing_of
from revani.core.timing.start import later_start, next_s, parse_clock, parse_start, show_start, start_s


def read_aperture(text: str) -> float:
    """An f-number from `f/2.8` or `2.8`. Raises Refusal("")."""
    try:
        return float(exact(text.lower().strip().removeprefix("f").removeprefix("/").strip()))
    except ValueError as error:
        raise Refusal("", "Type an f-number such as 2.8.", text) from error


def _angle(text: str) -> float | None:
    clean = text.strip().removesuffix("°").strip()
    if clean.lower() in ("", "none", "no"):
        return None
    try:
        return float(exact(clean))
    except ValueError as error:
        raise Refusal("", "Type an angle up to 360° such as 180, or none.", text) from error


def read_shutter(text: str) -> Fraction:
    """Seconds from `1/125`, `2.5s`, `26 s`. Raises Refusal("")."""
    try:
        return parse_duration(text)
    except Refusal:
        raise Refusal("", "Type a shutter time such as 1/125, 2.5s or 26s.", text) from None


_NO_FILTER = "no filter"


def _stacks(shot: Shot) -> dict[str, tuple[UUID, ...]]:
    """What may be on the lens, by name: nothing, a filter, or two."""
    filters = shot.kit.filters
    stacks = [(), *((one,) for one in filters), *combinations(filters, 2)]
    return {" + ".join(one.name for one in stack) or _NO_FILTER: tuple(one.id for one in stack) for stack in stacks}


def _show_filter(shot: Shot, _solved: Solution) -> str:
    on = set(shot.light.filters)
    return next((name for name, stack in _stacks(shot).items() if set(stack) == on), f"{len(on)} filters")


def _read_filter(shot: Shot, text: str) -> Shot:
    stacks = _stacks(shot)
    if text not in stacks:
        raise Refusal("", f"Choose one of: {', '.join(stacks)}.", text)
    return shot.with_light(filters=list(stacks[text]))


def _nudge_filter(shot: Shot, solved: Solution, steps: int) -> Shot:
    names = list(_stacks(shot))
    shown = _show_filter(shot, solved)
    return _read_filter(shot, names[((names.index(shown) if shown in names else 0) + steps) % len(names)])


def _read_filter_off(shot: Shot, text: str) -> Shot:
    if text.strip().lower() in ("", "never", "stays on"):
        return shot.with_light(filters_off=None)
    return shot.with_light(filters_off=parse_start(text).model_dump())


def _nudge_filter_off(shot: Shot, _solved: Solution, steps: int) -> Shot:
    off = shot.light.filters_off or SunStart(event="sunset")
    return shot.with_light(filters_off=later_start(off, shot.place, steps).model_dump())


def _read_moon(text: str) -> float:
    return read_share(text.lower().replace("of a moon", ""), "Type a part of the disc such as 25 %.")


def _iso_field(name: str) -> Field:
    return Field(
        label_of(f"light.{name}"),
        lambda shot, _: str(getattr(shot.light, name)),
        lambda shot, text: shot.with_light(**{name: whole(text, "iso", "Type an ISO such as 800.")}),
        lambda shot, _, n: shot.with_light(**{name: along(ISOS, getattr(shot.light, name), n)}),
    )


WHITES = {"fixed": "held at", "ramp": "going from", "automatic": "left to the body"}

LIGHT_FIELDS: dict[str, Field] = {
    "light.school": replace(
        chosen_field("light.school", dict(SCHOOL_NAMES)),
        choices=lambda shot, _: tuple(SCHOOL_NAMES[school] for school in schools_for(shot)),
    ),
    "light.shutter_s": Field(
        label_of("light.shutter_s"),
        lambda shot, _: show_shutter(float(shot.light.shutter_s)),
        lambda shot, text: shot.with_light(shutter_s=read_shutter(text)),
        lambda shot, _, n: shot.with_light(shutter_s=along(SHUTTERS, shot.light.shutter_s, n)),
    ),
    "light.iso": _iso_field("iso"),
    "light.iso_ceiling": _iso_field("iso_ceiling"),
    "light.aperture": Field(
        label_of("light.aperture"),
        lambda shot, _: f"f/{shot.light.aperture:g}",
        lambda shot, text: shot.with_light(aperture=read_aperture(text)),
        lambda shot, _, n: shot.with_light(aperture=along(APERTURES, shot.light.aperture, n)),
    ),
    "light.aperture_open": Field(
        label_of("light.aperture_open"),
        lambda shot, _: f"f/{shot.light.aperture_open or shot.light.aperture:g}",
        lambda shot, text: shot.with_light(aperture_open=read_aperture(text)),
        lambda shot, _, n: shot.with_light(
            aperture_open=along(APERTURES, shot.light.aperture_open or shot.light.aperture, n)
        ),
    ),
    "light.white_balance": chosen_field("light.white_balance", dict(WHITES)),
    "light.angle_deg": Field(
        label_of("light.angle_deg"),
        lambda shot, _: "none" if shot.light.angle_deg is None else f"{decimals(shot.light.angle_deg, 0)}°",
        lambda shot, text: shot.with_light(angle_deg=_angle(text)),
        lambda shot, _, n: shot.with_light(angle_deg=min(360.0, max(15.0, (shot.light.angle_deg or 0) + 15 * n))),
    ),
    "light.filters": Field(
        label_of("light.filters"), _show_filter, _read_filter, _nudge_filter, lambda shot, _: tuple(_stacks(shot))
    ),
    "light.filters_off": Field(
        label_of("light.filters_off"),
        lambda shot, _: show_start(shot.light.filters_off, shot.place) if shot.light.filters_off else "never",
        _read_filter_off,
        _nudge_filter_off,
    ),
    "needs_dark": chosen_field("needs_dark", {False: "not filmed", True: "filmed"}),
    "moonlight_up_to": Field(
        label_of("moonlight_up_to"),
        lambda shot, _: f"{shot.moonlight_up_to:.0%} of a moon",
        lambda shot, text: shot.model_copy(update={"moonlight_up_to": _read_moon(text)}),
        lambda shot, _, n: shot.model_copy(
            update={"moonlight_up_to": min(1.0, max(0.0, round(shot.moonlight_up_to + n * 0.05, 2)))}
        ),
    ),
}


_WISH = re.compile(r"([+-]?[\d.]+)\s*(?:stops?)?\s*(?:at\s+(\d{1,2}:\d{2}))?")


def wish_field(index: int) -> Field:
    """One wish of the light layer: `+0.7 at 21:30`; `none` takes it away."""

    def show(shot: Shot, _solved: Solution) -> str:
        key = shot.light.keys[index]
        try:
            begin_s = start_s(shot)
        except Refusal:
            return f"{stops(key.bias_stops)} after {duration(key.after_s)}"
        at = datetime.fromtimestamp(begin_s + key.after_s, ZoneInfo(shot.place.time_zone))
        return f"{stops(key.bias_stops)} at {at:%H:%M}"

    def read(shot: Shot, text: str) -> Shot:
        event_s = float(timing_of(shot).event_s)
        if text.strip().lower() in ("", "none"):
            return apply_light_key(shot, LightKeyEdit(action="remove", index=index), event_s)
        found = _WISH.fullmatch(text.lower().replace(MINUS, "-").strip())
        if found is None:
            raise Refusal("", "Type stops and a time such as +0.7 at 21:30, or none.", text)
        at = None
        if found.group(2):
            clock = ClockStart(time=f"{parse_clock(found.group(2)):%H:%M}")
            at = next_s(clock, shot.place, start_s(shot), "")
        edit = LightKeyEdit(action="move", index=index, at_s=at, bias_stops=STOPS.read(found.group(1)))
        return apply_light_key(shot, edit, event_s)

    def nudge(shot: Shot, _solved: Solution, steps: int) -> Shot:
        bias = shot.light.keys[index].bias_stops + steps / 3
        edit = LightKeyEdit(action="move", index=index, bias_stops=bias)
        return apply_light_key(shot, edit, float(timing_of(shot).event_s))

    return Field(f"Wish {index + 1}", show, read, nudge)
