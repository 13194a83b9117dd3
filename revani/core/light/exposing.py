"""Exposure over a whole shot: which settings each frame gets as the light changes, in every school."""

from dataclasses import dataclass
from typing import NamedTuple

import numpy as np
from numpy.typing import ArrayLike
from scipy.interpolate import PchipInterpolator

from revani.core.documents import Light, LightKey, School, Shot
from revani.core.light.dials import SHUTTERS, ev100, shutter_for, true_aperture, true_iso, true_shutter_s
from revani.core.light.firmware import Asked, Firmware, Mode
from revani.core.quantities.arrays import Array
from revani.core.quantities.refusal import Refusal
from revani.core.quantities.units import plain_rate

BULB_FROM_S = 0.1
# How much darker than a meter would have it a night is wanted (common practice).
USUAL_NIGHT_STOPS = -2.0
_MARKED_S = np.array([float(shutter) for shutter in SHUTTERS])
_TRUE_S = np.array([true_shutter_s(float(shutter)) for shutter in SHUTTERS])
# How many frames are looked through at once for the next step of a stepped ramp.
_LOOK_FRAMES = 4096


class LightOn(NamedTuple):
    """The light that a shot is exposed to, a value a frame.

    `t_s` from the start, `scene_ev` what the scene asks for, `nd_stops` what filters take away,
    `room_s` the longest shutter that the interval leaves; `night_stops` how much brighter (below 0: darker)
    than a meter would have it the night is wanted.
    """

    t_s: Array
    scene_ev: Array
    nd_stops: Array
    room_s: Array
    night_stops: ArrayLike = 0.0


@dataclass(frozen=True)
class Exposures:
    """Settings a frame, as columns. `error_stops` is positive where a frame comes out too bright.

    `wanted_shutter_s` is the shutter that would be used if the interval left room for it, `given_ev`
    the scene that the settings render as it is wanted. The error is what the settings miss of the
    wish, not of the scene: a night that is meant to be dark is no error.
    """

    wanted_shutter_s: Array
    shutter_s: Array
    aperture: Array
    iso: Array
    error_stops: Array
    given_ev: Array


SCHOOL_NAMES: dict[School, str] = {
    "fixed": "hold the exposure",
    "automatic": "leave all of it to the body",
    "aperture priority": "leave only the shutter to the body",
    "stepped": "step by thirds after the light",
    "continuous": "let the shutter follow the light",
}


def check_settings(shot: Shot) -> None:
    """Refuse settings that the lens or the body has not, and ramps whose ends cannot be reached."""
    light, body, lens = shot.light, shot.body, shot.kit.lens
    if not set(light.filters) <= {one.id for one in shot.kit.filters}:
        raise Refusal("light.filters", "A filter that begins on the lens must be in the kit.")
    widest, narrowest = lens.widest_at(shot.focal_length_mm), lens.narrowest_at(shot.focal_length_mm)
    at = f" at {shot.focal_length_mm:g} mm" if lens.aperture_widest_long or lens.aperture_narrowest_long else ""
    for field, aperture in (("aperture", light.aperture), ("aperture_open", light.aperture_open)):
        if aperture is not None and not widest <= aperture <= narrowest:
            raise Refusal(f"light.{field}", f"{lens.name} goes from f/{widest:g} to f/{narrowest:g}{at}.", aperture)
    if light.aperture_open is not None and light.school in ("stepped", "continuous"):
        if not lens.electronic_aperture:
            raise Refusal("light.aperture_open", f"The aperture of {lens.name} is turned by hand.", light.aperture_open)
        if light.aperture_open > light.aperture:
            allowed = f"f/{light.aperture:g}, where the ramp begins, or wider."
            raise Refusal("light.aperture_open", allowed, light.aperture_open)
    slot = shot.timing.interval_s or (1 / shot.timing.fps if shot.timing.fps else None)
    if shot.live and light.school == "fixed" and slot and light.shutter_s > slot:
        rate = plain_rate(1 / slot)
        allowed = f"At most 1/{rate} s: a film at {rate} fps leaves no more to a picture."
        raise Refusal("light.shutter_s", allowed, float(light.shutter_s))
    rising = light.school in ("automatic", "stepped", "continuous")
    for field, iso in (("iso", light.iso), ("iso_ceiling", light.iso_ceiling)):
        if (field == "iso" or rising) and not body.iso_min <= iso <= body.iso_max:
            allowed = f"{body.name} goes from ISO {body.iso_min} to {body.iso_max}."
            raise Refusal(f"light.{field}", allowed, iso)
    if rising and light.iso_ceiling < light.iso:
        raise Refusal("light.iso_ceiling", f"At least ISO {light.iso}, where it starts.", light.iso_ceiling)


def bias_stops(keys: tuple[LightKey, ...], t_s: ArrayLike) -> Array:
    """How much brighter than the scene asks frames are wanted, at seconds from the start (any shape).

    Straight before the first and after the last wish, a monotone cubic in between.
    """
    t = np.asarray(t_s, dtype=np.float64)
    if len(keys) < 2:
        return np.full_like(t, keys[0].bias_stops if keys else 0.0)
    at = np.array([key.after_s for key in keys])
    wishes = PchipInterpolator(at, [key.bias_stops for key in keys])
    return np.asarray(wishes(np.clip(t, at[0], at[-1])))


def night_stops(light: Light, sun_altitude_deg: ArrayLike) -> Array:
    """How much brighter than a meter would have it the night is wanted, by the sun's altitude (any shape).

    As the shot says once the sun is under −12°, blended from −6° on (common practice).
    """
    dark = np.clip((-6.0 - np.asarray(sun_altitude_deg, dtype=np.float64)) / 6.0, 0.0, 1.0)
    return np.asarray(light.night_stops * dark)


def expose(shot: Shot, on: LightOn, school: School | None = None) -> Exposures:
    """The settings of every frame in the shot's school, or in another one for comparison.

    What the interval has no room for is cut. The limit of a shutter is the person's, the body's or
    the interval's, whichever is shortest.
    """
    light = shot.light if school is None else as_school(shot, school)
    if light is not shot.light:
        shot = shot.model_copy(update={"light": light})
    wish = bias_stops(light.keys, on.t_s) + np.asarray(on.night_stops)
    target = on.scene_ev - on.nd_stops - wish - (light.compensation_stops if light.automatic else 0.0)
    if light.school == "fixed":
        wanted, shutter, aperture, iso = _held(shot, target, on.room_s)
    elif light.automatic:
        # A body that nobody is linked to is told its compensation once, and meters the rest as it is.
        metered = target if shot.fires == "linked" else target + wish
        wanted, shutter, aperture, iso = _by_the_body(shot, metered, on.room_s)
    else:
        level = _rate_limited(target, on.t_s, light.rate_stops_per_min / 60)
        if light.school == "stepped":
            level = _stepped(level, light)
        wanted, shutter, aperture, iso = _ramped(shot, level, target, on.room_s)
    given = ev100(aperture, shutter, iso)
    return Exposures(wanted, shutter, aperture, iso, target - given, given + (on.scene_ev - target))


def as_school(shot: Shot, school: School) -> Light:
    """The shot's light in another school, with what that school needs and the shot does not say."""
    light, body = shot.light, shot.body
    if school == light.school:
        return light
    change: dict[str, object] = {"school": school}
    if school in ("automatic", "stepped", "continuous"):
        change["iso_ceiling"] = min(max(light.iso_ceiling, light.iso), body.iso_max)
    if school in ("stepped", "continuous") and light.aperture_open is not None:
        opens = shot.kit.lens.electronic_aperture and light.aperture_open <= light.aperture
        change["aperture_open"] = light.aperture_open if opens else None
    return light.model_copy(update=change)


Settings = tuple[Array, Array, Array, Array]


def _held(shot: Shot, target: Array, room_s: Array) -> Settings:
    light = shot.light
    asked = np.full_like(target, true_shutter_s(float(light.shutter_s)))
    shutter = np.minimum(asked, np.minimum(room_s, float(shot.body.manual_shutter_max_s)))
    aperture = np.full_like(target, true_aperture(light.aperture))
    return asked, shutter, aperture, np.full_like(target, true_iso(light.iso))


def _by_the_body(shot: Shot, target: Array, room_s: Array) -> Settings:
    """What the body's program will take, its meter scattering as it does; the scatter is the shot's own."""
    body, lens, light = shot.body, shot.kit.lens, shot.light
    mode: Mode = "aperture priority" if light.school == "aperture priority" else "automatic"
    asked = Asked(mode, light.aperture, light.iso, light.iso_ceiling)
    metered = target + scatter_stops(shot.id.int & 0xFFFFFFFF, target.size, body.metering_scatter_stops)
    firmware = Firmware.of(body, lens, shot.focal_length_mm, asked, room_s)
    free = Firmware.of(body, lens, shot.focal_length_mm, asked, np.inf)
    taken = firmware.take(metered)
    return free.take(metered).shutter_s, taken.shutter_s, taken.aperture, taken.iso


def scatter_stops(seed: int, count: int, sigma_stops: float) -> Array:
    """What a meter adds to each frame's light, in stops."""
    return np.random.default_rng(seed).normal(0.0, sigma_stops, count) if sigma_stops else np.zeros(count)


def _rate_limited(level: Array, t_s: Array, stops_per_s: float) -> Array:
    """A level that follows another one no faster than a rate: falls are slowed first, then rises."""
    run = stops_per_s * t_s
    falling = np.maximum.accumulate(level + run) - run
    return np.asarray(np.minimum.accumulate(falling - run) + run)


def _stepped(level: Array, light: Light) -> Array:
    """A level in planned steps of a third: it stays until the light has left the dead band, and so many frames.

    One that goes the other way than the last waits for as much more as the hysteresis says.
    """
    out = np.empty_like(level)
    stands = round(float(level[0]) * 3) / 3
    direction, at = 0.0, 0
    while at < level.size:
        away = level[at : at + _LOOK_FRAMES] - stands
        turned = light.dead_band_stops + light.hysteresis_stops
        up = light.dead_band_stops if direction >= 0 else turned
        down = light.dead_band_stops if direction <= 0 else turned
        left = (away > up) | (away < -down)
        first = int(np.argmax(left)) if left.any() else away.size
        out[at : at + first] = stands
        at += first
        if first < away.size:
            gone = float(away[first])
            direction = 1.0 if gone > 0 else -1.0
            stands += direction * max(1, round(abs(gone) * 3)) / 3
            out[at : at + light.hold_frames] = stands
            at += light.hold_frames
    return out


def _ramped(shot: Shot, level: Array, target: Array, room_s: Array) -> Settings:
    """Shutter to its cap, then ISO to its ceiling, then the aperture where it may open; reversed as light returns.

    Continuous shutters of 1/10 s and over are exact where the body can be held open; all others
    stand on thirds of a stop.
    """
    light, body = shot.light, shot.body
    exact_shutter = body.bulb and light.school == "continuous"
    aperture = true_aperture(light.aperture)
    base = true_iso(light.iso)
    needed = shutter_for(level, aperture, base)
    asked = np.minimum(shutter_for(target, aperture, base), float(light.shutter_s))
    longest = _longest_s(shot, room_s)
    shortest = np.minimum(true_shutter_s(float(body.shutter_min_s)), longest)
    exact = np.clip(needed, shortest, longest)
    stepped = np.clip(2.0 ** (np.round(np.log2(exact) * 3) / 3), shortest, longest)
    shutter = np.where(exact >= BULB_FROM_S, exact, stepped) if exact_shutter else stepped
    thirds = np.log2(np.maximum(base * needed / exact, base) / 100) * 3
    # Where the shutter can be held open, ISO goes a third too far and the shutter takes that back.
    iso_steps = 100 * 2.0 ** ((np.ceil(thirds - 1e-6) if exact_shutter else np.round(thirds)) / 3)
    iso = np.clip(iso_steps, base, true_iso(light.iso_ceiling))
    if exact_shutter:
        trimmed = np.clip(shutter_for(level, aperture, iso), BULB_FROM_S, exact)
        shutter = np.where((iso > base) & (exact >= BULB_FROM_S), trimmed, shutter)
    opened = np.full_like(level, aperture)
    if light.aperture_open is not None:
        wanted = np.sqrt(2.0**level * shutter * iso / 100)
        sixths = 2.0 ** (np.round(np.log2(wanted) * 6) / 6)
        opened = np.where(wanted < aperture, np.clip(sixths, true_aperture(light.aperture_open), aperture), opened)
    return asked, shutter, opened, iso


def _longest_s(shot: Shot, room_s: Array) -> Array:
    """The longest shutter that a ramp may use; on a body that cannot be held open, one that it has."""
    longest = np.minimum(room_s, float(shot.light.shutter_s))
    if shot.body.bulb:
        return longest
    longest = np.minimum(longest, float(shot.body.manual_shutter_max_s))
    rung = np.searchsorted(_MARKED_S, longest * 1.001, side="right") - 1
    return np.where(rung < 0, longest, _TRUE_S[np.maximum(rung, 0)])


def shutter_room_s(shot: Shot, slot_s: ArrayLike, moving_s: ArrayLike = 0.0) -> Array:
    """The longest shutter that a frame's slot leaves on this body (any shape); 0 where there is none.

    `moving_s` is what shoot–move–settle takes of each slot. A film of its own has no gap between frames.
    """
    if shot.live:
        return np.asarray(slot_s, dtype=np.float64)
    moving = np.asarray(moving_s, dtype=np.float64)
    room = np.asarray(slot_s, dtype=np.float64) - float(shot.body.overhead_s) - moving
    return np.asarray(np.maximum(room / float(shot.held_times), 0.0))
