"""The values of a shot's timing: the quantities, the pace, start and date."""

from collections.abc import Callable
from datetime import date
from fractions import Fraction
from typing import Any

from revani.core.documents import FIRST_YEAR, LAST_YEAR, Framing, Pace, Shot
from revani.core.documents.timing import Quantity, Timing
from revani.core.edit.fields.derived import chosen_field, label_of
from revani.core.edit.fields.field import Field, along, by, length_step, read_count, words_field
from revani.core.light.firing import FIRES_WORDS, fires_itself, interval_over_s, modes_for, recording_rates
from revani.core.quantities.measures import MILLIMETRES
from revani.core.quantities.refusal import Refusal
from revani.core.quantities.units import count, decimals, duration, exact, parse_duration, plain_rate, rate
from revani.core.timing.law import Solution, budget_s, with_value
from revani.core.timing.pace import solved as timing_of
from revani.core.timing.start import later_start, parse_start, show_start

_INTERVALS_S = tuple(
    Fraction(text)
    for text in (
        "0.5 1 1.5 2 2.5 3 4 5 6 8 10 12 15 20 25 30 40 45 60 90 120 180 240 300 420 600 900 1200 1800 3600"
    ).split()
)
_RATES = tuple(rate(text) for text in "12 15 23.976 24 25 29.97 30 48 50 59.94 60 100 120".split())


def _timed(shot: Shot, quantity: Quantity, value: Fraction | int) -> Shot:
    if shot.walk is not None and shot.walk.filmed and quantity != "fps":
        raise Refusal("", "A walk is as long as its path takes: length, pace, factor and film say so.")
    if shot.until is None or quantity == "event_s":
        timing = with_value(shot.timing, quantity, value)
        return shot.model_copy(update={"timing": timing, "until": None})
    # The hours stay, so that of interval and frames the other one follows.
    now = timing_of(shot)
    kept: dict[str, object] = {"fps": now.fps, "event_s": now.event_s, quantity: value}
    if quantity == "fps":
        name = "interval_s" if shot.timing.interval_s is not None else "frame_count"
        kept[name] = getattr(now, name)
    return shot.model_copy(update={"timing": Timing.model_validate(kept)})


_NO_END = "when its frames are taken"


def _read_until(shot: Shot, text: str) -> Shot:
    clean = text.strip().removeprefix("until").strip()
    if clean.lower() in ("", "none", _NO_END):
        ends = timing_of(shot)
        timing = {"fps": ends.fps, "interval_s": ends.interval_s, "frame_count": ends.frame_count}
        return shot.model_copy(update={"timing": Timing.model_validate(timing), "until": None})
    if shot.walk is not None:
        raise Refusal("", "A walk ends where its path does.", text)
    return shot.model_copy(update={"until": parse_start(clean)})


def _nudge_until(shot: Shot, _solved: Solution, steps: int) -> Shot:
    if shot.until is None:
        return shot
    return shot.model_copy(update={"until": later_start(shot.until, shot.place, steps)})


def _paced(shot: Shot, pace: Pace | None) -> Shot:
    return shot.model_copy(update={"pace": pace})


def _night_s(shot: Shot, solved: Solution) -> Fraction:
    return solved.interval_s * (shot.pace.night_factor if shot.pace else 1)


def _by_night(shot: Shot, solved: Solution, night_s: Fraction) -> Shot:
    pace = shot.pace or Pace.model_validate({})
    return _paced(shot, Pace.model_validate(pace.model_dump() | {"night_factor": night_s / solved.interval_s}))


def _rate(text: str) -> Fraction:
    try:
        return rate(text)
    except ValueError:
        raise Refusal("", "Type frames a second, such as 30 or 23.976.", text) from None


def _timing_field(
    label: str, quantity: Quantity, show: Callable[[Solution], str],
    read: Callable[[str], Fraction | int], step: Callable[[Any, int], Any],
) -> Field:  # fmt: skip
    return Field(
        label=label,
        show=lambda _shot, solved: show(solved),
        read=lambda shot, text: _timed(shot, quantity, read(text)),
        nudge=lambda shot, solved, n: _timed(shot, quantity, step(getattr(solved, quantity), n)),
    )


def _nudge_start(shot: Shot, _solved: Solution, steps: int) -> Shot:
    return shot.model_copy(update={"start": later_start(shot.start, shot.place, steps)})


def _dated(shot: Shot, day: date) -> Shot:
    if not FIRST_YEAR <= day.year <= LAST_YEAR:
        raise Refusal("", f"Choose a date from {FIRST_YEAR} to {LAST_YEAR}.", day.isoformat())
    return shot.model_copy(update={"date": day})


def _read_date(shot: Shot, text: str) -> Shot:
    try:
        day = date.fromisoformat(text.strip())
    except ValueError:
        raise Refusal("", "Type a date as year-month-day, such as 2026-11-24.", text) from None
    return _dated(shot, day)


def _nudge_date(shot: Shot, _solved: Solution, steps: int) -> Shot:
    return _dated(shot, date.fromordinal(shot.date.toordinal() + steps))


def _through(shot: Shot, focal_mm: float) -> Shot:
    lens = shot.kit.lens
    low, high = lens.focal_length_min_mm, lens.focal_length_max_mm
    if not low <= focal_mm <= high:
        raise Refusal("", f"{lens.name} goes from {low:g} to {high:g} mm.", focal_mm)
    framing = shot.framing.model_copy(update={"focal_length_mm": focal_mm})
    return shot.model_copy(update={"framing": framing})


def _zoomed(shot: Shot, _solved: Solution, steps: int) -> Shot:
    lens = shot.kit.lens
    to = min(max(shot.focal_length_mm + steps, lens.focal_length_min_mm), lens.focal_length_max_mm)
    return _through(shot, to)


def _modes(shot: Shot) -> tuple[str, ...]:
    return tuple(mode.name for mode in modes_for(shot))


def _in_mode(shot: Shot, text: str) -> Shot:
    if text not in _modes(shot):
        raise Refusal("", f"Choose one of: {', '.join(_modes(shot))}.", text)
    return shot.model_copy(update={"mode": text})


def _next_mode(shot: Shot, _solved: Solution, steps: int) -> Shot:
    names = _modes(shot)
    at = names.index(shot.recording.name) if shot.recording.name in names else 0
    return _in_mode(shot, names[(at + steps) % len(names)]) if shot.kit.body.modes else shot


def _film(shot: Shot, fps: Fraction, recording: Fraction) -> Shot:
    """A film of the same hours, recorded and played at these rates."""
    fixed = Timing.model_validate({"fps": fps, "interval_s": 1 / recording, "event_s": timing_of(shot).event_s})
    return shot.model_copy(update={"timing": fixed})


def _played(shot: Shot, fps: Fraction) -> Shot:
    """Another playback rate. A film that is not slowed is recorded at it, too, where the body can."""
    if not shot.live:
        return _timed(shot, "fps", fps)
    timing = timing_of(shot)
    slowed = timing.interval_s * timing.fps != 1
    return _film(shot, fps, 1 / timing.interval_s if slowed else fps)


def _read_recording(shot: Shot, text: str) -> Shot:
    return _film(shot, timing_of(shot).fps, _rate(text))


def _next_recording(shot: Shot, solved: Solution, steps: int) -> Shot:
    if not shot.live:
        return shot
    return _film(shot, solved.fps, along(recording_rates(shot, solved.fps), 1 / solved.interval_s, steps))


def _factor(fps: Fraction, recording: Fraction) -> str:
    return f"{decimals(recording / fps, 2)} ×"


def _read_factor(shot: Shot, text: str) -> Shot:
    """The recording rate that slows the film so many times, its playback rate as it is."""
    if not shot.live:
        return shot
    fps = timing_of(shot).fps
    try:
        factor = exact(text.replace("×", "").replace("x", "").strip())
    except ValueError:
        raise Refusal("", "Type how many times slower it plays, such as 8.", text) from None
    rates = recording_rates(shot, fps)
    near = min(rates, key=lambda rate: abs(rate / fps - factor), default=None)
    # A rate such as 119.88 at 29.97 is four times, as near as makes no difference.
    if near is None or factor <= 0 or abs(near / fps / factor - 1) > _FACTOR_NEAR:
        offered = ", ".join(_factor(fps, rate) for rate in rates) or "nothing"
        raise Refusal("", f"{shot.recording.name} slows by {offered}, played at {plain_rate(fps)} fps.", text)
    return _film(shot, fps, near)


_FACTOR_NEAR = Fraction(1, 100)


def _factors(shot: Shot, solved: Solution) -> tuple[str, ...]:
    rates = recording_rates(shot, solved.fps)
    return tuple(_factor(solved.fps, rate) for rate in rates) if len(rates) > 1 else ()


def _recordings(shot: Shot, solved: Solution) -> tuple[str, ...]:
    rates = recording_rates(shot, solved.fps)
    return tuple(f"{plain_rate(rate)} fps" for rate in rates) if len(rates) > 1 else ()


def _read_interval(shot: Shot, text: str) -> Shot:
    if text.strip().lower() in _QUICKEST:
        body, light = shot.body, shot.light
        need = budget_s(light.shutter_s if not light.automatic else body.shutter_min_s, body.overhead_s,
                        shot.held_times)  # fmt: skip
        return _timed(shot, "interval_s", interval_over_s(shot, max(body.minimum_interval_s, need)))
    return _timed(shot, "interval_s", parse_duration(text))


_QUICKEST = ("as quick as it can be", "as quick as can be", "quickest", "fastest")


def _intervals(shot: Shot) -> tuple[str, ...]:
    """What its own timer offers, where the body fires itself."""
    return tuple(duration(one) for one in shot.recording.intervals) if fires_itself(shot) else ()


def _lengths(shot: Shot) -> tuple[str, ...]:
    """The lengths that it offers, where the body fires itself."""
    return tuple(duration(one) for one in shot.recording.lengths) if fires_itself(shot) else ()


def _nudge_event(shot: Shot, solved: Solution, steps: int) -> Shot:
    now = solved.event_s
    to = along(shot.recording.lengths, now, steps) if _lengths(shot) else by(now, length_step(now), steps)
    return _timed(shot, "event_s", to)


TIME_FIELDS: dict[str, Field] = {
    "fires": chosen_field("fires", dict(FIRES_WORDS)),
    "framing.focal_length_mm": Field(
        Framing.model_fields["focal_length_mm"].title or "", lambda shot, _: MILLIMETRES.show(shot.focal_length_mm, 1),
        lambda shot, text: _through(shot, MILLIMETRES.read(text)), _zoomed,
    ),
    "mode": Field(
        label_of("mode"), lambda shot, _: shot.recording.name, _in_mode, _next_mode, lambda shot, _: _modes(shot)
    ),
    "timing.playback_s": _timing_field(
        "Film length", "playback_s", lambda solved: duration(solved.playback_s), parse_duration,
        lambda value, n: by(value, length_step(value), n),
    ),
    "timing.fps": Field(
        "Playback rate", lambda _, solved: f"{plain_rate(solved.fps)} fps",
        lambda shot, text: _played(shot, _rate(text)),
        lambda shot, solved, n: _played(shot, along(_RATES, solved.fps, n)),
    ),
    "recording": Field(
        "Recording rate", lambda _, solved: f"{plain_rate(1 / solved.interval_s)} fps", _read_recording,
        _next_recording, _recordings,
    ),
    "slowed": Field(
        "Slowed", lambda shot, solved: _factor(solved.fps, 1 / solved.interval_s if shot.live else solved.fps),
        _read_factor, _next_recording, _factors,
    ),
    "timing.interval_s": Field(
        "Interval", lambda _, solved: duration(solved.interval_s), _read_interval,
        lambda shot, solved, n: _timed(
            shot, "interval_s",
            along(shot.recording.intervals if _intervals(shot) else _INTERVALS_S, solved.interval_s, n),
        ),
        lambda shot, _: _intervals(shot),
    ),
    "timing.event_s": Field(
        "Event length", lambda _, solved: duration(solved.event_s),
        lambda shot, text: _timed(shot, "event_s", parse_duration(text)), _nudge_event,
        lambda shot, _: _lengths(shot),
    ),
    "timing.frame_count": _timing_field(
        "Frame count", "frame_count", lambda solved: count(solved.frame_count, "frame"), read_count,
        lambda value, n: int(by(Fraction(value), Fraction(10), n)),
    ),
    "pace": words_field(
        "Pace", {False: "the same throughout", True: "longer by night"}, lambda shot: shot.pace is not None,
        lambda shot, paced: _paced(shot, (shot.pace or Pace.model_validate({})) if paced else None),
    ),
    "pace.night_s": Field(
        "Interval by night",
        lambda shot, solved: duration(_night_s(shot, solved)),
        lambda shot, text: _by_night(shot, timing_of(shot), parse_duration(text)),
        lambda shot, solved, n: _by_night(shot, solved, along(_INTERVALS_S, _night_s(shot, solved), n)),
    ),
    "start": Field(
        "Start",
        lambda shot, _: show_start(shot.start, shot.place),
        lambda shot, text: shot.model_copy(update={"start": parse_start(text)}),
        _nudge_start,
    ),
    "until": Field(
        label_of("until"), lambda shot, _: show_start(shot.until, shot.place) if shot.until else _NO_END, _read_until,
        _nudge_until,
    ),
    "date": Field("Date", lambda shot, _: shot.date.isoformat(), _read_date, _nudge_date),
}  # fmt: skip
