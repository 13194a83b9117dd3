"""The values of a shot's light, and of what it is filmed for."""

import re
from collections.abc import Mapping
from datetime import datetime
from fractions import Fraction
from itertools import combinations
from typing import Any, get_args
from uuid import UUID
from zoneinfo import ZoneInfo

from revani.core.documents import ClockStart, Cloud, Shot, SunStart
from revani.core.edit.fields.field import Field, along, read_count, read_share, whole, words_field
from revani.core.edit.wishes import LightKeyEdit, apply_light_key
from revani.core.light.dials import APERTURES, ISOS, SHUTTERS, show_shutter
from revani.core.quantities.refusal import Refusal
from revani.core.quantities.units import MINUS, count, decimals, duration, exact, in_stops, parse_duration, stops
from revani.core.rehearsal.schools import SCHOOL_NAMES
from revani.core.timing.law import Solution
from revani.core.timing.pace import solved as timing_of
from revani.core.timing.start import later_start, next_s, parse_clock, parse_start, show_start, start_s

_KELVINS = tuple(range(2_000, 10_100, 100))


def read_aperture(text: str) -> float:
    """An f-number from `f/2.8` or `2.8`. Raises Refusal("")."""
    try:
        return float(exact(text.lower().strip().removeprefix("f").removeprefix("/").strip()))
    except ValueError as error:
        raise Refusal("", "Type an f-number such as 2.8.", text) from error


def _read_stops(text: str) -> float:
    try:
        return float(exact(text.lower().replace(MINUS, "-").replace("stops", "").replace("stop", "").strip()))
    except ValueError as error:
        raise Refusal("", "Type a number of stops such as 0.3 or −1.", text) from error


def _stops_field(label: str, name: str, step: float) -> Field:
    return Field(
        label,
        lambda shot, _: f"{in_stops(getattr(shot.light, name), 2)}",
        lambda shot, text: shot.with_light(**{name: _read_stops(text)}),
        lambda shot, _, n: shot.with_light(**{name: round(getattr(shot.light, name) + n * step, 3)}),
    )


def _kelvin_field(label: str, name: str) -> Field:
    return Field(
        label,
        lambda shot, _: f"{getattr(shot.light, name):,} K",
        lambda shot, text: shot.with_light(**{name: whole(text, "k", "Type a temperature such as 4800 K.")}),
        lambda shot, _, n: shot.with_light(**{name: along(_KELVINS, getattr(shot.light, name), n)}),
    )


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


def _choice_field(label: str, name: str, words: Mapping[Any, str]) -> Field:
    return words_field(
        label, words, lambda shot: getattr(shot.light, name), lambda shot, value: shot.with_light(**{name: value})
    )


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


def _iso_field(label: str, name: str) -> Field:
    return Field(
        label,
        lambda shot, _: str(getattr(shot.light, name)),
        lambda shot, text: shot.with_light(**{name: whole(text, "iso", "Type an ISO such as 800.")}),
        lambda shot, _, n: shot.with_light(**{name: along(ISOS, getattr(shot.light, name), n)}),
    )


WHITES = {"fixed": "held at", "ramp": "going from", "automatic": "left to the body"}

LIGHT_FIELDS: dict[str, Field] = {
    "light.school": _choice_field("Way of exposing", "school", SCHOOL_NAMES),
    "light.shutter_s": Field(
        "Shutter",
        lambda shot, _: show_shutter(float(shot.light.shutter_s)),
        lambda shot, text: shot.with_light(shutter_s=read_shutter(text)),
        lambda shot, _, n: shot.with_light(shutter_s=along(SHUTTERS, shot.light.shutter_s, n)),
    ),
    "light.iso": _iso_field("ISO", "iso"),
    "light.iso_ceiling": _iso_field("ISO ceiling", "iso_ceiling"),
    "light.aperture": Field(
        "Aperture",
        lambda shot, _: f"f/{shot.light.aperture:g}",
        lambda shot, text: shot.with_light(aperture=read_aperture(text)),
        lambda shot, _, n: shot.with_light(aperture=along(APERTURES, shot.light.aperture, n)),
    ),
    "light.aperture_open": Field(
        "Aperture that a ramp opens to",
        lambda shot, _: f"f/{shot.light.aperture_open or shot.light.aperture:g}",
        lambda shot, text: shot.with_light(aperture_open=read_aperture(text)),
        lambda shot, _, n: shot.with_light(
            aperture_open=along(APERTURES, shot.light.aperture_open or shot.light.aperture, n)
        ),
    ),
    "light.compensation_stops": _stops_field("Compensation", "compensation_stops", 1 / 3),
    "light.dead_band_stops": _stops_field("Dead band", "dead_band_stops", 0.05),
    "light.hold_frames": Field(
        "Least number of frames between two steps",
        lambda shot, _: count(shot.light.hold_frames, "frame"),
        lambda shot, text: shot.with_light(hold_frames=read_count(text)),
        lambda shot, _, n: shot.with_light(hold_frames=max(1, shot.light.hold_frames + n)),
    ),
    "light.white_balance": _choice_field("White balance", "white_balance", WHITES),
    "light.white_balance_k": _kelvin_field("White balance, kelvin", "white_balance_k"),
    "light.white_balance_night_k": _kelvin_field("White balance by night", "white_balance_night_k"),
    "light.angle_deg": Field(
        "Wanted shutter angle",
        lambda shot, _: "none" if shot.light.angle_deg is None else f"{decimals(shot.light.angle_deg, 0)}°",
        lambda shot, text: shot.with_light(angle_deg=_angle(text)),
        lambda shot, _, n: shot.with_light(angle_deg=min(360.0, max(15.0, (shot.light.angle_deg or 0) + 15 * n))),
    ),
    "light.filters": Field("Filter", _show_filter, _read_filter, _nudge_filter, lambda shot: tuple(_stacks(shot))),
    "light.filters_off": Field(
        "Filter taken off",
        lambda shot, _: show_start(shot.light.filters_off, shot.place) if shot.light.filters_off else "never",
        _read_filter_off,
        _nudge_filter_off,
    ),
    "light.scene": _choice_field("What fills the picture", "scene", {"sky": "sky", "ground": "ground"}),
    "light.noise_reduction": words_field(
        "Noise reduction", {False: "no", True: "yes"}, lambda shot: shot.light.noise_reduction,
        lambda shot, on: shot.with_light(noise_reduction=on),
    ),
    "needs_dark": words_field(
        "Stars", {False: "not filmed", True: "filmed"}, lambda shot: shot.needs_dark,
        lambda shot, dark: shot.model_copy(update={"needs_dark": dark}),
    ),
    "moonlight_up_to": Field(
        "Moonlight that is let pass",
        lambda shot, _: f"{shot.moonlight_up_to:.0%} of a moon",
        lambda shot, text: shot.model_copy(update={"moonlight_up_to": _read_moon(text)}),
        lambda shot, _, n: shot.model_copy(
            update={"moonlight_up_to": min(1.0, max(0.0, round(shot.moonlight_up_to + n * 0.05, 2)))}
        ),
    ),
    "light.cloud": _choice_field("Cloud", "cloud", {cloud: cloud for cloud in get_args(Cloud)}),
}  # fmt: skip


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
        edit = LightKeyEdit(action="move", index=index, at_s=at, bias_stops=_read_stops(found.group(1)))
        return apply_light_key(shot, edit, event_s)

    def nudge(shot: Shot, _solved: Solution, steps: int) -> Shot:
        bias = shot.light.keys[index].bias_stops + steps / 3
        edit = LightKeyEdit(action="move", index=index, bias_stops=bias)
        return apply_light_key(shot, edit, float(timing_of(shot).event_s))

    return Field(f"Wish {index + 1}", show, read, nudge)
