"""When what a shot waits for has come about: from what was heard until now, and from the sun.

Everything is told on the stage's clock. What nobody heard is not held against the wait: a sensor that is silent
keeps a condition from being true, never makes it so.
"""

from collections.abc import Iterable, Sequence
from datetime import datetime, time, timedelta
from itertools import pairwise
from statistics import median
from typing import Literal, NamedTuple
from zoneinfo import ZoneInfo

from revani.core.documents.trigger import (
    ClockStands,
    CodeShown,
    Condition,
    LightPasses,
    Louder,
    RunReaches,
    SaidSo,
    Stirs,
    SunStands,
    Waiting,
)
from revani.core.quantities.arrays import Window
from revani.core.quantities.units import decimals
from revani.core.sky.sun_and_moon import Sky
from revani.core.timing.trigger_words import show_condition

HeardKind = Literal["motion", "light", "sound", "temperature", "level", "hand", "code card", "run"]
# What the camera itself can see; sensors and readers may tell of it, too.
SEEN: frozenset[HeardKind] = frozenset({"motion", "code card"})

# A reading of the light stands until the next, and no longer than this; so many in a row have to agree, by their
# median, so that a headlamp or a flash is none (common practice, no source).
FRESH_S, _AGREEING = 60.0, 3
# After so long without a word (real seconds) nothing is known of a sensor.
SILENT_S = 60.0


class Heard(NamedTuple):
    """Something that was heard: the part of a picture that changed, an EV, a peak in dBFS, °C, degrees; a word; who
    said so."""

    kind: HeardKind
    at_s: float
    value: float = 0.0
    word: str = ""


class HeardAgo(NamedTuple):
    """Something that was heard so long ago (real seconds), by its number in the order in which it was."""

    id: int
    kind: HeardKind
    value: float
    word: str
    ago_s: float


class Met(NamedTuple):
    """When what was waited for had come about, and what that was."""

    at_s: float
    told: str


def met(waiting: Waiting, heard: Iterable[Heard], sky: Sky, zone: ZoneInfo, from_s: float, now_s: float) -> Met | None:
    """The first instant from `from_s` until now at which one of the ways was wholly true; None where there is none.

    `sky` reaches over all of the wait; `zone` is that of the place's clock.
    """
    ordered = sorted((one for one in heard if from_s <= one.at_s <= now_s), key=lambda one: one.at_s)
    known = _Known(ordered, sky, zone, Window(from_s, now_s), float(waiting.together_s))
    first: Met | None = None
    for way in waiting.ways:
        at_s = _first_together([_true(one, known) for one in way])
        if at_s is not None and (first is None or at_s < first.at_s):
            first = Met(at_s, " and ".join(_came(one, known, at_s) for one in way))
    return first


class _Known(NamedTuple):
    """What is known by now: what was heard, in order; sky and clock of the place; the wait until now."""

    heard: Sequence[Heard]
    sky: Sky
    zone: ZoneInfo
    over: Window
    together_s: float


def _first_together(true: Sequence[Sequence[Window]]) -> float | None:
    """The first instant that lies in a span of every list."""
    begins = sorted(span.from_s for spans in true for span in spans)
    return next(
        (at for at in begins if all(any(one.from_s <= at <= one.to_s for one in spans) for spans in true)), None
    )


def can_come(one: Condition, sky: Sky, zone: ZoneInfo, over: Window) -> bool:
    """Whether a condition holds at any instant of a span; of what has to be heard nothing is known before."""
    if not isinstance(one, SunStands | ClockStands):
        return True
    return bool(_true(one, _Known((), sky, zone, over, 0.0)))


def clock_spans(one: ClockStands, zone: ZoneInfo, over: Window) -> list[Window]:
    """When it is after, or before, a time of day, over a span of at most a day or two.

    Each instant belongs to the nearest such time: up to half way to the next it is after, from there on before.
    """
    first = datetime.fromtimestamp(over.from_s, zone).date() - timedelta(days=1)
    days = range((datetime.fromtimestamp(over.to_s, zone).date() - first).days + 2)
    at = time.fromisoformat(one.at)
    times = [datetime.combine(first + timedelta(days=n), at, zone).timestamp() for n in days]
    spans = []
    for early, late in pairwise(times):
        middle = (early + late) / 2
        from_s, to_s = (early, middle) if one.side == "after" else (middle, late)
        if (from_s := max(from_s, over.from_s)) < (to_s := min(to_s, over.to_s)):
            spans.append(Window(from_s, to_s))
    return spans


def _true(one: Condition, known: _Known) -> list[Window]:
    """The spans in which a condition holds, in order; they may overlap."""
    if isinstance(one, SunStands):
        return _sun_spans(one, known.sky, known.over)
    if isinstance(one, ClockStands):
        return clock_spans(one, known.zone, known.over)
    if isinstance(one, LightPasses):
        return _light_spans(one, [reading for reading in known.heard if reading.kind == "light"], known.over.to_s)
    return [Window(it.at_s, it.at_s + known.together_s) for it in known.heard if _is(one, it)]


def _is(one: Condition, it: Heard) -> bool:
    """Whether what was heard is a condition that is over in an instant."""
    if isinstance(one, Stirs):
        return it.kind == "motion" and it.value >= one.part
    if isinstance(one, Louder):
        return it.kind == "sound" and it.value >= one.than_dbfs
    if isinstance(one, CodeShown):
        return it.kind == "code card" and it.word.casefold() == one.word.casefold()
    if isinstance(one, RunReaches):
        return it.kind == "run" and it.word == show_condition(one)
    return isinstance(one, SaidSo) and it.kind == "hand"


def _sun_spans(one: SunStands, sky: Sky, over: Window) -> list[Window]:
    edges = [at for at, _ in sky.sun_passes(one.altitude_deg) if over.from_s < at < over.to_s]
    spans = [Window(*pair) for pair in zip([over.from_s, *edges], [*edges, over.to_s], strict=True)]
    under = one.side == "under"
    middles = [sky.sun((span.from_s + span.to_s) / 2).altitude_deg for span in spans]
    return [span for span, height in zip(spans, middles, strict=True) if (height < one.altitude_deg) == under]


def _light_spans(one: LightPasses, readings: Sequence[Heard], now_s: float) -> list[Window]:
    spans = []
    for last in range(_AGREEING - 1, len(readings)):
        some = readings[last - _AGREEING + 1 : last + 1]
        fresh = all(b.at_s - a.at_s <= FRESH_S for a, b in pairwise(some))
        ev = median(reading.value for reading in some)
        if fresh and (ev < one.ev if one.side == "under" else ev > one.ev):
            at_s = readings[last].at_s
            following = readings[last + 1].at_s if last + 1 < len(readings) else now_s
            spans.append(Window(at_s, min(following, at_s + FRESH_S)))
    return spans


def _came(one: Condition, known: _Known, at_s: float) -> str:
    """What came about, in words."""
    if isinstance(one, SunStands):
        return f"the sun stood at {decimals(float(known.sky.sun(at_s).altitude_deg), 1)}°"
    if isinstance(one, ClockStands):
        return f"it was {datetime.fromtimestamp(at_s, known.zone):%H:%M}"
    if isinstance(one, LightPasses):
        newest = [it for it in known.heard if it.kind == "light" and it.at_s <= at_s][-1]
        return f"the light was EV {decimals(newest.value, 1)}"
    it = next(it for it in known.heard if _is(one, it) and it.at_s <= at_s <= it.at_s + known.together_s)
    if isinstance(one, Stirs):
        return f"it moved, {decimals(it.value * 100, 1)} % of the picture"
    if isinstance(one, Louder):
        return f"a sound came up to {decimals(it.value, 1)} dBFS"
    if isinstance(one, SaidSo):
        return f"{it.word or 'someone'} said so"
    return show_condition(one)


def listens_to(waiting: Waiting) -> set[HeardKind]:
    """What has to be heard for it, beside the sun and the clock."""
    return {one.by for way in waiting.ways for one in way if not isinstance(one, SunStands | ClockStands)}


def watches(waiting: Waiting) -> bool:
    """Whether the camera itself has to see while it is waited: one that has not is left to sleep."""
    return waiting.before_s > 0 or bool(listens_to(waiting) & SEEN)
