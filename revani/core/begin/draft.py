"""A whole shot drafted from an intention, by the rules, with what was decided and why."""

from dataclasses import dataclass
from datetime import date, datetime
from fractions import Fraction
from math import ceil, floor
from zoneinfo import ZoneInfo

import numpy as np
from pydantic import BaseModel, ConfigDict

from revani.core.begin.drafted_light import FPS, Decided, counted, exposed, shortest_s, star_light
from revani.core.begin.intention import Intention, Moves
from revani.core.begin.resolve import mended
from revani.core.documents import ClockStart, InstantStart, Light, Mode, Place, Shot, Start, SunStart, Walk
from revani.core.documents.timing import Timing
from revani.core.edit.fitting import compile_fitted
from revani.core.edit.moves_to_begin_with import presets
from revani.core.edit.subject import KINDS
from revani.core.light.dials import SHUTTERS, show_shutter
from revani.core.light.firing import fires_itself, interval_over_s, modes_for, recording_rates, schools_for
from revani.core.quantities.refusal import Refusal
from revani.core.quantities.units import count, decimals, duration, plain_rate
from revani.core.sky.nights import nights
from revani.core.sky.stars import CORE_UP_DEG, galactic_core_directions
from revani.core.sky.sun_and_moon import day_events, local_midnight_s, sky_over
from revani.core.timing.start import next_s

_HALF = Fraction(1, 2)
_WALK_FACTOR, _WALK_PACE_M_S = 16, 1.2


class Draft(BaseModel):
    """A shot, and what was decided about it, in the order of the job."""

    model_config = ConfigDict(frozen=True)

    shot: Shot
    decided: tuple[Decided, ...]


@dataclass(frozen=True)
class _Kind:
    """How a kind of subject is filmed: interval in seconds, shortest and longest, from the trade (no source)."""

    interval_s: tuple[float, float]
    why: str
    hours: str
    live: bool = False


_KINDS: dict[Moves, _Kind] = {
    "light that goes or comes": _Kind((4, 30), "light changes slowly", "sunset"),
    "day into night into day": _Kind((10, 120), "a night is long", "whole night"),
    "stars, as points": _Kind(KINDS["stars"], "an exposure and a short gap", "dark"),
    "stars, as trails": _Kind((15, 60), "as little dark as can be between two frames", "dark"),
    "clouds": _Kind(KINDS["fast clouds, boats"], "clouds that move", "low sun"),
    "water and tide": _Kind(KINDS["the sun's path, tides"], "the tide is slow", "low sun"),
    "people, traffic": _Kind(KINDS["people, traffic, running water"], "they are quick", "low sun"),
    "something made or grown": _Kind((20, 120), "it takes its time", "day"),
    "a pass along something": _Kind((3, 8), "slow enough for the mover to settle", "low sun"),
    "me, talking": _Kind((1, 1), "words want real time", "day", live=True),
    "a walk": _Kind((1, 1), "it is filmed and sped up afterwards", "day", live=True),
    "too fast to see": _Kind((1, 1), "it is slowed", "day", live=True),
}


def has_a_morning(moves: Moves) -> bool:
    """Whether a kind of subject may be filmed in the morning as well as in the evening."""
    return _KINDS[moves].hours in ("sunset", "low sun")


def draft(intention: Intention) -> Draft:
    """The whole shot. Raises Refusal at what the kit, the place or the day cannot serve, with what would."""
    kind = _KINDS[intention.moves]
    told: list[Decided] = []
    shot = _bare(intention, kind)
    shot = _fired(shot, intention, told)
    shot = _framed(shot, intention, told)
    if kind.live:
        shot = _filmed(shot, intention, told)
        program = compile_fitted(_begun(shot, intention, kind, told))
    elif "stars" in intention.moves:
        program = compile_fitted(_starry(shot, intention, told))
    else:
        program = compile_fitted(_lapsed(shot, intention, kind, told))
        program = compile_fitted(_moved(program.shot, intention, told))
    if "stars" not in intention.moves:
        program = compile_fitted(exposed(program, told))
    better, what = mended(program.shot)
    if what:
        told.append(Decided(field="", why=f"Made to work: {'; '.join(what)}."))
    order = {one.field: one for one in told}
    return Draft(shot=compile_fitted(better).shot, decided=tuple(order.values()))


def _bare(intention: Intention, kind: _Kind) -> Shot:
    kit, place = intention.kit, intention.place
    lens = kit.lens
    name = f"{intention.moves[0].upper()}{intention.moves[1:]}" + (f", {intention.of}" if intention.of else "")
    return Shot(
        name=name[:80],
        date=intention.day,
        start=ClockStart(time="12:00"),
        timing=Timing.model_validate({"fps": FPS, "interval_s": 10, "playback_s": intention.wanted_s}),
        light=Light.model_validate(
            {"school": "fixed", "aperture": lens.aperture_widest, "iso": kit.body.iso_min, "shutter_s": "1/60",
             "iso_ceiling": kit.body.iso_max}
        ),
        take={"use": intention.use, "upright": intention.use == "an upright reel"},
        move={"kind": "live"} if kind.live else None,
        needs_dark="stars" in intention.moves,
        trails=intention.moves == "stars, as trails",
        kit=kit,
        place=place,
    )  # fmt: skip


def _fired(shot: Shot, intention: Intention, told: list[Decided]) -> Shot:
    """Who fires, and in which mode: linked where it can be and where a rig moves, else as the body is used to."""
    body = shot.kit.body
    if not body.modes:
        return shot
    ways = ("linked", "own timer", "own lapse film", "by hand")
    timed = any(mode.makes == "stills" and mode.intervals for mode in body.modes)
    if timed and not shot.kit.movers and not shot.live:
        ways = ("own timer", "linked", "own lapse film", "by hand")
    for way in ways:
        now = shot.model_copy(update={"fires": way})
        offered = modes_for(now)
        if not offered:
            continue
        mode = _best_mode(now, offered, intention)
        now = now.model_copy(update={"mode": mode.name, "keeps": "raw" if mode.raw else "JPEG"})
        if now.light.school not in schools_for(now):
            now = now.with_light(school=schools_for(now)[0])
        why = "it has a timer of its own" if way == "own timer" else "every frame can be set"
        told.append(Decided(field="fires", why=why))
        told.append(Decided(field="mode", why=_why_mode(mode, intention)))
        return now
    raise Refusal("kit.body", f"{body.name} has no mode that makes {'a film' if shot.live else 'stills'}.", body.name)


def _best_mode(shot: Shot, offered: tuple[Mode, ...], intention: Intention) -> Mode:
    if intention.moves == "too fast to see":
        return max(offered, key=lambda mode: max(mode.rates, default=Fraction(0)))
    if "stars" in intention.moves:
        return max(offered, key=lambda mode: (bool(mode.intervals) or not fires_itself(shot), mode.pixels_wide,
                                              _longest(shot, mode), "night" in mode.name.lower()))  # fmt: skip
    if shot.live:
        return min(offered, key=lambda mode: (FPS not in mode.rates, -mode.pixels_wide))
    return max(offered, key=lambda mode: (bool(mode.intervals) or not fires_itself(shot), mode.pixels_wide))


def _longest(shot: Shot, mode: Mode) -> Fraction:
    return mode.manual_shutter_max_s or shot.kit.body.manual_shutter_max_s


def _why_mode(mode: Mode, intention: Intention) -> str:
    if intention.moves == "too fast to see":
        return f"its fastest: {plain_rate(max(mode.rates, default=FPS))} fps"
    return f"{mode.pixels_wide:,} × {mode.pixels_high:,} px" + (", on its own timer" if mode.intervals else "")


def _sun_azimuth(place: Place, at_s: float) -> float:
    return float(sky_over(place, at_s - 3600, at_s + 3600).sun(at_s).azimuth_deg)


def _framed(shot: Shot, intention: Intention, told: list[Decided]) -> Shot:
    """Towards what was named, else as the light or the sky want it."""
    events = day_events(shot.place, shot.date)
    moves = intention.moves
    tilt = 25.0 if "stars" in moves else 0.0 if shot.live else 8.0
    if intention.towards_deg is not None:
        heading, why = intention.towards_deg, f"towards {intention.of or 'what was named'}"
    elif moves == "stars, as trails":
        heading, why = 0.0 if shot.place.latitude_deg >= 0 else 180.0, "about the pole, where trails are circles"
        tilt = min(abs(shot.place.latitude_deg), 50.0)
    elif moves == "stars, as points":
        heading, tilt, why = _core_or_dark(shot)
    else:
        event = "sunrise" if intention.comes else "sunset"
        at_s = events[event]
        if at_s is None:
            heading, why = shot.framing.heading_deg, "no sun rises or sets that day"
        elif moves in ("light that goes or comes", "day into night into day"):
            heading, why = _sun_azimuth(shot.place, at_s), f"towards the {event}"
        elif moves in ("clouds", "water and tide"):
            heading, why = (_sun_azimuth(shot.place, at_s) + 90) % 360, "across the light, which shapes them"
        else:
            heading, why = (_sun_azimuth(shot.place, at_s) + 180) % 360, "the sun behind the camera"
    told.append(Decided(field="framing.heading_deg", why=why))
    towards = {"heading_deg": float(round(heading) % 360), "tilt_deg": float(round(tilt))}
    framing = shot.framing.model_copy(update=towards)
    return shot.model_copy(update={"framing": framing})


def _core_or_dark(shot: Shot) -> tuple[float, float, str]:
    (night,) = nights(shot.place, shot.date, 1, -12.0, 1.0)
    if night.from_s is not None and night.to_s is not None:
        at = np.linspace(night.from_s, night.to_s, 25)
        core = galactic_core_directions(shot.place.latitude_deg, shot.place.longitude_deg, at)
        high = int(np.argmax(core[:, 2]))
        up = float(np.degrees(np.arcsin(core[high, 2])))
        if up > CORE_UP_DEG:
            return (
                float(np.degrees(np.arctan2(core[high, 0], core[high, 1])) % 360),
                up,
                "the galactic core at its highest",
            )
        sky = sky_over(shot.place, night.from_s, night.to_s)
        middle = (night.from_s + night.to_s) / 2
        moon = sky.moon(middle)
        if float(moon.altitude_deg) > 0:
            return (float(moon.azimuth_deg) + 180) % 360, 30.0, "away from the moon"
    return (180.0 if shot.place.latitude_deg >= 0 else 0.0), 30.0, "where stars stand highest"


def _at(intention: Intention, start: Start) -> Start:
    return start if intention.now_s is None else InstantStart(epoch_s=float(ceil(intention.now_s / 60) * 60))


def _filmed(shot: Shot, intention: Intention, told: list[Decided]) -> Shot:
    """Rates and length of a film at speed."""
    rates = recording_rates(shot, FPS)
    fps = FPS if rates else max(shot.recording.rates)
    rates = recording_rates(shot, fps)
    if intention.moves == "too fast to see":
        fastest = max(rates)
        if fastest == fps:
            allowed = f"{shot.kit.body.name} records no faster than it plays: it takes a mode of 60 fps and more."
            raise Refusal("kit.body", allowed, shot.kit.body.name)
        factor = fastest / fps
        event_s = max(intention.wanted_s / factor, Fraction(1))
        told.append(Decided(field="recording", why=f"{decimals(factor, 1)} × slower than life"))
        told.append(Decided(field="timing.event_s", why=f"{duration(event_s * factor)} once it is slowed"))
        return _timed(shot, fps, 1 / fastest, event_s)
    if intention.moves == "a walk":
        return _walked(shot, intention, fps, told)
    event_s = intention.wanted_s
    told.append(Decided(field="timing.event_s", why="as long as the film is wanted"))
    sound = {"sound": "its own microphone", "wind_filter": True}
    if shot.recording.tracks and shot.kit.body.modes:
        sound["focus"] = "continuous on a face"
        told.append(Decided(field="take.focus", why="a face moves to and fro"))
    told.append(Decided(field="take.sound", why="words are wanted; a filter keeps the wind out"))
    return _timed(shot.with_take(**sound), fps, 1 / fps, event_s)


def _walked(shot: Shot, intention: Intention, fps: Fraction, told: list[Decided]) -> Shot:
    """A walk straight ahead whose film is as long as it is wanted; its path is drawn on the desk."""
    film = max(intention.wanted_s, Fraction(1))
    # A second as it was at each end, where the film is long enough to have ends.
    ends = Fraction(1) if film > 3 else Fraction(0)
    event_s = 2 * ends + (film - 2 * ends) * _WALK_FACTOR
    length_mm = round(float(event_s) * _WALK_PACE_M_S * 1000)
    walk = Walk.model_validate(
        {
            "points": [{"x_mm": 0, "y_mm": 0}, {"x_mm": 0, "y_mm": length_mm}], "factor": _WALK_FACTOR,
            "pace_m_s": _WALK_PACE_M_S, "head_s": ends, "tail_s": ends,
        }
    )  # fmt: skip
    told.append(Decided(field="walk.factor", why="a usual factor, at which a walk is brisk and can be followed"))
    told.append(Decided(field="walk.length_m", why=f"so far one walks for {duration(film)} of film"))
    told.append(Decided(field="walk.pace_m_s", why="an easy pace; the path is drawn under Walk"))
    told.append(Decided(field="take.stabilising", why="what is sped up shakes as much faster"))
    now = shot.model_copy(update={"walk": walk}).with_take(stabilising="afterwards")
    return _timed(now, fps, 1 / fps, event_s)


def _timed(shot: Shot, fps: Fraction, interval_s: Fraction, event_s: Fraction) -> Shot:
    timing = Timing.model_validate({"fps": fps, "interval_s": interval_s, "event_s": event_s})
    return shot.model_copy(update={"timing": timing})


def _begun(shot: Shot, intention: Intention, kind: _Kind, told: list[Decided]) -> Shot:
    """When it begins, for what needs no window of its own."""
    start, why = _start_for(shot, intention, kind, float(shot.timing.event_s or 0))
    told.append(Decided(field="start", why=why))
    return shot.model_copy(update={"start": _at(intention, start)})


def _start_for(shot: Shot, intention: Intention, kind: _Kind, length_s: float) -> tuple[Start, str]:
    if intention.now_s is not None:
        return shot.start, "now"
    events = day_events(shot.place, shot.date)
    if kind.hours == "low sun":
        event = "sunrise" if intention.comes else "sunset"
        if events[event] is not None:
            offset = 0 if intention.comes else -5400
            return SunStart.model_validate({"event": event, "offset_s": offset}), "low sun gives everything a shape"
        return ClockStart(time="15:00"), "the sun neither rises nor sets that day"
    return _by_day(shot, length_s, events["sunrise"], events["sunset"])


_FORENOON = "11:00"
_FROM_THE_EDGE_S = 1_800


def _by_day(shot: Shot, length_s: float, rise_s: float | None, set_s: float | None) -> tuple[Start, str]:
    """Late in the forenoon, or so much earlier that it ends by day."""
    forenoon = ClockStart(time=_FORENOON)
    at_s = next_s(forenoon, shot.place, local_midnight_s(shot.place, shot.date), "start")
    if rise_s is None or set_s is None or at_s + length_s <= set_s - _FROM_THE_EDGE_S:
        return forenoon, "by day, when the light hardly changes"
    begins, _ = _on_the_clock(shot.place, max(rise_s + _FROM_THE_EDGE_S, set_s - _FROM_THE_EDGE_S - length_s))
    return begins, "so that it ends by day, as far as the day is long enough"


def _lapsed(shot: Shot, intention: Intention, kind: _Kind, told: list[Decided]) -> Shot:
    """Interval, frames and hours of a lapse by day or through a change of light."""
    frames = max(1, floor(intention.wanted_s * FPS + _HALF))
    low, high = kind.interval_s
    shortest = shortest_s(shot)
    if kind.hours in ("sunset", "whole night"):
        start, length_s, why = _through_the_change(shot, intention, kind)
        told.append(Decided(field="start", why=why))
        wanted = max(_even(Fraction(round(length_s)) / frames), Fraction(low), shortest)
        interval = interval_over_s(shot, wanted)
        fit = max(1, floor(Fraction(round(length_s)) / interval))
        told.append(Decided(field="timing.interval_s", why=f"{count(fit, 'frame')} over {duration(round(length_s))}"))
        if fit < frames * 0.97:
            told.append(Decided(field="timing.playback_s", why=_shorter(fit, frames, interval)))
        # A night that is much longer than the film is wanted is taken with frames further apart.
        n = min(fit, frames)
        return counted(shot.model_copy(update={"start": _at(intention, start)}), interval, n)
    wanted = max(Fraction(round(float(np.sqrt(low * high)), 1)).limit_denominator(100), shortest)
    interval = interval_over_s(shot, wanted)
    told.append(Decided(field="timing.interval_s", why=f"{kind.why}: {low:g} to {high:g} s are usual"))
    start, why = _start_for(shot, intention, kind, float(interval * frames))
    told.append(Decided(field="start", why=why))
    return counted(shot.model_copy(update={"start": _at(intention, start)}), interval, frames)


def _even(interval: Fraction) -> Fraction:
    """An interval that one would dial, no longer: whole seconds from ten on, fives from a minute on."""
    step = Fraction(5) if interval > 60 else Fraction(1) if interval > 10 else Fraction(1, 10)
    return max(interval // step * step, step)


def _shorter(fit: int, frames: int, interval: Fraction) -> str:
    return f"{duration(Fraction(frames) / FPS)} need {frames:,} frames; {fit:,} fit, one every {duration(interval)}"


def _through_the_change(shot: Shot, intention: Intention, kind: _Kind) -> tuple[Start, float, str]:
    """From when on and for how long the light changes; refused where it does not on that day."""
    events = day_events(shot.place, shot.date)
    set_s, dusk_s = events["sunset"], events["nautical dusk"] or events["civil dusk"]
    if kind.hours == "whole night":
        if set_s is None:
            raise Refusal("day", f"The sun does not set at {shot.place.name} on that day.", str(shot.date))
        sky = sky_over(shot.place, set_s, set_s + 86_400)
        rise_s = next((one.at_s for one in sky.sun_crossings if one.name == "sunrise" and one.at_s > set_s), None)
        if rise_s is None:
            raise Refusal("day", f"The sun does not rise again at {shot.place.name} the day after.", str(shot.date))
        length = rise_s - set_s + 2 * 3600
        return SunStart(event="sunset", offset_s=-3600), length, "an hour of day at either end of the night"
    if intention.comes:
        rise_s, dawn_s = events["sunrise"], events["nautical dawn"] or events["civil dawn"]
        if rise_s is None:
            raise Refusal("day", f"The sun does not rise at {shot.place.name} on that day.", str(shot.date))
        begins = rise_s - 3600 if dawn_s is None or dawn_s > rise_s else dawn_s
        offset = round((begins - rise_s) / 60) * 60
        return SunStart(event="sunrise", offset_s=offset), rise_s + 2400 - begins, "from the first light to the low sun"
    if set_s is None:
        raise Refusal("day", f"The sun does not set at {shot.place.name} on that day.", str(shot.date))
    ends = set_s + 3600 if dusk_s is None or dusk_s < set_s else dusk_s
    return SunStart(event="sunset", offset_s=-2400), ends - set_s + 2400, "from the low sun into the dusk"


def _moved(shot: Shot, intention: Intention, told: list[Decided]) -> Shot:
    """A move to begin with, where a mover was chosen; a pass needs one."""
    if not shot.kit.movers:
        if intention.moves == "a pass along something":
            raise Refusal("kit.movers", "A pass needs a mover that slides or pans: choose one, or add one under Kit.")
        return shot
    offered = [one for one in presets(shot) if one.shot is not None]
    if not offered:
        return shot
    first = offered[0]
    assert first.shot
    told.append(Decided(field="move.kind", why=f"{first.name.lower()}: {first.told}"))
    return first.shot


def _starry(shot: Shot, intention: Intention, told: list[Decided]) -> Shot:
    """The dark of the night, exposures that keep stars points or trails whole."""
    place = shot.place
    found = nights(place, shot.date, 1, -18.0, shot.moonlight_up_to)[0]
    if found.dark_s < 1_800:
        with_moon = nights(place, shot.date, 1, -18.0, 1.0)[0]
        if with_moon.dark_s < 1_800:
            with_moon = nights(place, shot.date, 1, -12.0, 1.0)[0]
        if with_moon.dark_s < 900:
            allowed = f"It does not get dark at {place.name} on that day: choose another night."
            raise Refusal("day", allowed, str(shot.date))
        found = with_moon
        told.append(Decided(field="moonlight_up_to", why="the moon is up whenever it is dark"))
        shot = shot.model_copy(update={"moonlight_up_to": 1.0})
    assert found.from_s is not None and found.to_s is not None
    begins = ceil(found.from_s / 60) * 60
    begins_at, day = _on_the_clock(place, begins)
    moonless = ", without a moon" if shot.moonlight_up_to < 1 else ""
    told.append(Decided(field="start", why=f"dark from there for {duration(round(found.dark_s / 60) * 60)}{moonless}"))
    shot = shot.model_copy(update={"start": _at(intention, begins_at), "date": day})
    shot, shutter = star_light(shot, told)
    overhead = shot.body.overhead_s
    shot, shutter = _for_the_menu(shot, shutter)
    interval = interval_over_s(shot, max(shutter + overhead, shortest_s(shot)))
    wanted = max(1, floor(intention.wanted_s * FPS + _HALF))
    fit = max(1, floor((Fraction(floor(found.to_s)) - begins) / interval))
    gap = float(interval - shutter)
    why = f"{show_shutter(float(shutter))} and {duration(round(gap, 2))} to store it"
    told.append(Decided(field="timing.interval_s", why=why))
    if fit < wanted:
        told.append(Decided(field="timing.playback_s", why=f"{_shorter(fit, wanted, interval)} in the dark"))
    return counted(shot, interval, min(fit, wanted))


def _for_the_menu(shot: Shot, shutter: Fraction) -> tuple[Shot, Fraction]:
    """A shutter that fills an interval of the body's own menu, where it fires itself: the least dark between frames."""
    menu = shot.recording.intervals if fires_itself(shot) else ()
    if not menu or shot.light.school != "fixed":
        return shot, shutter
    overhead = shot.body.overhead_s

    def fitting(interval: Fraction) -> Fraction:
        room = min(shutter, interval - overhead)
        return max((one for one in SHUTTERS if shot.body.shutter_min_s <= one <= room), default=Fraction(0))

    # A shutter that is half as long is worth a stop: no less than that is given for a shorter gap.
    able = [one for one in menu if fitting(one) >= shutter / 2]
    if not able:
        return shot, shutter
    best = min(able, key=lambda one: (one - fitting(one)) / one)
    return shot.with_light(shutter_s=fitting(best)), fitting(best)


def _on_the_clock(place: Place, at_s: float) -> tuple[ClockStart, date]:
    """An instant as the place's clock says it, to the minute, and its date."""
    local = datetime.fromtimestamp(at_s, ZoneInfo(place.time_zone))
    return ClockStart(time=f"{local:%H:%M}"), local.date()
