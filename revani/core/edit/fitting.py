"""A shot made to fit its kit, its place and its hours, where a document asks for what cannot be had.

Gear and places change after a shot was planned, and files come from elsewhere. Such a shot is planned
with the nearest that can be had, and says what that is; only one that has no plan at all is refused.
"""

from collections.abc import Callable
from dataclasses import replace
from datetime import datetime
from functools import lru_cache
from zoneinfo import ZoneInfo

from revani.core.documents import AfterStart, ClockStart, Fires, MoveKey, Shot
from revani.core.documents.timing import Timing
from revani.core.light.dials import show_shutter
from revani.core.light.exposing import SCHOOL_NAMES, as_school
from revani.core.light.firing import (
    FIRES_WORDS,
    fires_itself,
    modes_for,
    nearest_interval_s,
    recording_rates,
    schools_for,
)
from revani.core.program.compiled import Misfit, Program, compile_shot
from revani.core.quantities.refusal import Refusal
from revani.core.quantities.units import decimals, duration, plain_rate
from revani.core.timing.law import budget_s, ceil_to
from revani.core.timing.pace import solved
from revani.core.timing.start import show_start

_MOST_STEPS = 300
_EVENING = ("sunset", "dusk", "dark", "blue hour", "low sun", "moonset", "behind")


def compile_fitted(shot: Shot) -> Program:
    """Compile a shot, brought to the nearest that can be had; what that took stands in `misfits`.

    Raises Refusal where nothing near it can be planned.
    """
    try:
        return compile_shot(shot)
    except Refusal:
        return _kept(shot.model_dump_json())


@lru_cache(maxsize=32)
def _kept(document: str) -> Program:
    shot = Shot.model_validate_json(document)
    misfits: dict[str, Misfit] = {}
    for _ in range(_MOST_STEPS):
        try:
            program = compile_shot(shot)
        except Refusal as refusal:
            nearer, instead = _nearer(shot, refusal, again=refusal.path in misfits)
            if nearer == shot:
                raise
            shot, misfits[refusal.path] = nearer, Misfit(refusal.path, refusal.allowed, instead)
        else:
            return replace(program, misfits=tuple(misfits.values())) if misfits else program
    raise Refusal("", "This shot cannot be planned.")


def check_edited(before: Shot, after: Program, field: str) -> None:
    """Refuse an edit of a field that asks for what cannot be had: there, or where all was well before."""
    known = {one.path for one in compile_fitted(before).misfits} if after.misfits else set()
    for one in after.misfits:
        if one.path not in known or one.path == field:
            raise Refusal(one.path, one.allowed)


def _nearer(shot: Shot, refusal: Refusal, *, again: bool) -> tuple[Shot, str]:
    """A shot that is refused no more for this reason, and what was done in words. Raises the refusal."""
    if refusal.path.startswith("move.keys."):
        return _without_key_fault(shot, refusal.path, again)
    mend = _MENDS.get(refusal.path)
    if mend is None:
        raise refusal
    return mend(shot)


def _aperture(shot: Shot) -> tuple[Shot, str]:
    lens, f = shot.kit.lens, shot.focal_length_mm
    value = min(max(shot.light.aperture, lens.widest_at(f)), lens.narrowest_at(f))
    return shot.with_light(aperture=value), f"f/{value:g}"


def _aperture_open(shot: Shot) -> tuple[Shot, str]:
    lens, light = shot.kit.lens, shot.light
    if not lens.electronic_aperture or light.aperture_open is None:
        return shot.with_light(aperture_open=None), "the ramp leaves the aperture alone"
    value = min(max(light.aperture_open, lens.widest_at(shot.focal_length_mm)), light.aperture)
    return shot.with_light(aperture_open=value), f"the ramp opens to f/{value:g}"


def _iso(shot: Shot) -> tuple[Shot, str]:
    body = shot.body
    value = min(max(shot.light.iso, body.iso_min), body.iso_max)
    return shot.with_light(iso=value), f"ISO {value}"


def _iso_ceiling(shot: Shot) -> tuple[Shot, str]:
    body = shot.body
    value = min(max(shot.light.iso_ceiling, shot.light.iso, body.iso_min), body.iso_max)
    return shot.with_light(iso_ceiling=value), f"ISO up to {value}"


def _film_shutter(shot: Shot) -> tuple[Shot, str]:
    half = solved(shot).interval_s / 2
    return shot.with_light(shutter_s=half), show_shutter(float(half))


def _even_pace(shot: Shot) -> tuple[Shot, str]:
    return shot.model_copy(update={"pace": None}), "the same interval throughout"


def _looks_ahead(shot: Shot) -> tuple[Shot, str]:
    return shot.with_walk(towards="the way ahead", thing=None), "it looks the way ahead"


def _without_keys(shot: Shot) -> tuple[Shot, str]:
    return shot.with_keys(()), "the mover stands still"


def _other_way(shot: Shot) -> tuple[Shot, str]:
    way = "filmed and sped up" if shot.live else "stills by stations"
    return shot.with_walk(way=way), f"it is {way}"


def _filter_on(shot: Shot) -> tuple[Shot, str]:
    return shot.with_light(filters_off=None), "the filter stays on"


def _clock_start(shot: Shot) -> tuple[Shot, str]:
    if isinstance(shot.start, ClockStart):
        # A time that the clocks skip: as much later as they go forward.
        local = datetime.fromisoformat(f"{shot.date.isoformat()}T{shot.start.time}")
        zone = ZoneInfo(shot.place.time_zone)
        clock = f"{datetime.fromtimestamp(local.replace(tzinfo=zone).timestamp(), zone):%H:%M}"
    else:
        said = show_start(shot.start, shot.place)
        clock = "18:00" if any(word in said for word in _EVENING) else "06:00"
    return shot.model_copy(update={"start": ClockStart(time=clock)}), f"it starts at {clock}"


def _interval(shot: Shot) -> tuple[Shot, str]:
    if shot.pace is not None:
        return _even_pace(shot)
    timing, body = solved(shot), shot.body
    if fires_itself(shot) and not shot.live and shot.recording.intervals:
        # As many frames, so that the film stays as long as it was.
        interval = nearest_interval_s(shot, timing.interval_s)
    elif shot.live:
        recorded = 1 / timing.interval_s
        interval = 1 / min(recording_rates(shot, timing.fps), key=lambda rate: abs(rate - recorded))
        fixed = Timing(fps=timing.fps, interval_s=interval, event_s=timing.event_s)
        return shot.model_copy(update={"timing": fixed}), f"recorded at {plain_rate(1 / interval)} fps"
    else:
        need = budget_s(body.shutter_min_s, body.overhead_s, shot.held_times)
        # Strictly longer, so that there is time for the shutter.
        interval = ceil_to(max(body.minimum_interval_s, need), body.controller_tick_s) + body.controller_tick_s
    fixed = Timing(fps=timing.fps, interval_s=interval, frame_count=timing.frame_count)
    if shot.until is not None:
        fixed = Timing(fps=timing.fps, interval_s=interval, event_s=timing.event_s)
    return shot.model_copy(update={"timing": fixed}), f"a frame every {duration(interval)}"


def _carried_filters(shot: Shot) -> tuple[Shot, str]:
    carried = {one.id for one in shot.kit.filters}
    kept = [one for one in shot.light.filters if one in carried]
    return shot.with_light(filters=kept), "no filter" if not kept else "the filters of the kit"


def _no_aim(shot: Shot) -> tuple[Shot, str]:
    return shot.with_move(aim=None), "the aim is let go"


def _mode(shot: Shot) -> tuple[Shot, str]:
    name = modes_for(shot)[0].name
    return shot.model_copy(update={"mode": name}), f"in {name}"


def _jpeg(shot: Shot) -> tuple[Shot, str]:
    return shot.model_copy(update={"keeps": "JPEG"}), "kept as JPEG"


def _rate(shot: Shot) -> tuple[Shot, str]:
    rate = max(shot.recording.rates)
    fixed = Timing(fps=rate, interval_s=1 / rate, event_s=solved(shot).event_s)
    return shot.model_copy(update={"timing": fixed}), f"{plain_rate(rate)} fps"


def _white(shot: Shot) -> tuple[Shot, str]:
    return shot.with_light(white_balance="fixed"), f"white held at {shot.light.white_balance_k:,} K"


def _fired(shot: Shot) -> tuple[Shot, str]:
    ways: tuple[Fires, ...] = ("linked", "controller", "own timer", "own lapse film", "by hand")
    able = [one for one in ways if modes_for(shot.model_copy(update={"fires": one}))]
    way = able[0] if able else "linked"
    return shot.model_copy(update={"fires": way}), FIRES_WORDS[way]


def _school(shot: Shot) -> tuple[Shot, str]:
    school = next((one for one in ("automatic", "fixed") if one in schools_for(shot)), schools_for(shot)[0])
    return shot.model_copy(update={"light": as_school(shot, school)}), SCHOOL_NAMES[school]


def _length(shot: Shot) -> tuple[Shot, str]:
    timing = solved(shot)
    length = min(shot.recording.lengths, key=lambda one: (abs(one - timing.event_s), one))
    fixed = Timing(fps=timing.fps, interval_s=timing.interval_s, event_s=length)
    return shot.model_copy(update={"timing": fixed, "until": None}), f"{duration(length)} long"


def _no_end(shot: Shot) -> tuple[Shot, str]:
    return shot.model_copy(update={"until": None}), "it ends when its frames are taken"


_MENDS: dict[str, Callable[[Shot], tuple[Shot, str]]] = {
    "walk.thing": _looks_ahead,
    "walk.way": _other_way,
    "move.keys": _without_keys,
    "light.aperture": _aperture,
    "light.aperture_open": _aperture_open,
    "light.iso": _iso,
    "light.iso_ceiling": _iso_ceiling,
    "light.shutter_s": _film_shutter,
    "light.filters": _carried_filters,
    "light.filters_off": _filter_on,
    "pace": _even_pace,
    "start": _clock_start,
    "until": _no_end,
    "timing.interval_s": _interval,
    "timing.event_s": _length,
    "recording": _interval,
    "timing.fps": _rate,
    "light.white_balance": _white,
    "mode": _mode,
    "keeps": _jpeg,
    "fires": _fired,
    "light.school": _school,
    "move.aim": _no_aim,
}


def _without_key_fault(shot: Shot, path: str, again: bool) -> tuple[Shot, str]:
    """Without an axis that the rig lacks; a key that cannot be where it is goes to the end, or away."""
    assert shot.move
    _, _, index, *part = path.split(".")
    keys, at = list(shot.move.keys), int(index)
    if part[:1] == ["positions"]:
        kept = tuple(key for key in (_without_axis(key, part[1]) for key in keys) if key is not None)
        return shot.with_keys(kept), f"no key moves {part[1]}"
    event_s = round(float(solved(shot).event_s), 3)
    ends = AfterStart(after_s=event_s)
    if not again and event_s <= 40_000_000 and keys[at].at != ends:
        keys[at] = keys[at].model_copy(update={"at": ends})
        return shot.with_keys(keys), f"key {at + 1} stands at the end, + {decimals(event_s, 0)} s"
    return shot.with_keys((*keys[:at], *keys[at + 1 :])), f"key {at + 1} is left out"


def _without_axis(key: MoveKey, axis: str) -> MoveKey | None:
    positions = {name: value for name, value in key.positions.items() if name != axis}
    return key.model_copy(update={"positions": positions}) if positions else None
