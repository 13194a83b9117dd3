"""How a drafted shot is exposed, and why."""

from fractions import Fraction

import numpy as np
from pydantic import BaseModel, ConfigDict

from revani.core.documents import School, Shot
from revani.core.documents.timing import Timing
from revani.core.edit.fitting import compile_fitted
from revani.core.light.dials import APERTURES, ISOS, SHUTTERS, show_shutter, true_aperture, true_iso
from revani.core.light.exposing import SCHOOL_NAMES, USUAL_NIGHT_STOPS
from revani.core.light.firing import schools_for
from revani.core.optics.star_limits import POINT_PX, stars_in
from revani.core.program.compiled import Program
from revani.core.quantities.units import in_stops

# The playback rate of what is drafted.
FPS = Fraction(30)
# A change of the light by more than this over a shot wants a ramp (memory).
_STEADY_STOPS = 0.7
# Less than this is not told of.
_SHORT_STOPS = 0.3


class Decided(BaseModel):
    """One thing that was decided: the field of the shot that holds it, and why."""

    model_config = ConfigDict(frozen=True)

    field: str
    why: str


def counted(shot: Shot, interval: Fraction, frames: int) -> Shot:
    """The shot with so many frames, one every interval."""
    timing = Timing.model_validate({"fps": FPS, "interval_s": interval, "frame_count": frames})
    return shot.model_copy(update={"timing": timing})


def shortest_s(shot: Shot) -> Fraction:
    """The shortest interval that a body can take by day."""
    body = shot.body
    return max(body.minimum_interval_s, body.overhead_s + Fraction(1, 10), body.controller_tick_s)


def _widest(shot: Shot) -> float:
    lens = shot.kit.lens
    widest = lens.widest_at(shot.focal_length_mm)
    return next((one for one in APERTURES if widest <= one <= lens.narrowest_at(shot.focal_length_mm)), widest)


def star_light(shot: Shot, told: list[Decided]) -> tuple[Shot, Fraction]:
    """How stars are exposed, and how long each frame is open."""
    body = shot.body
    shot = shot.with_light(aperture=_widest(shot), white_balance_k=3_900, night_stops=USUAL_NIGHT_STOPS)
    if "fixed" not in schools_for(shot):
        longest = min(body.automatic_shutter_max_s, Fraction(30))
        ceiling = body.iso_min if body.automatic_order == "ISO first" else body.iso_clean
        told.append(Decided(field="light.iso_ceiling", why="a low ceiling makes its shutter long, which gathers most"))
        return shot.with_light(school="automatic", iso=body.iso_min, iso_ceiling=max(ceiling, body.iso_min)), longest
    stars = stars_in(shot)
    limit = min(body.manual_shutter_max_s, Fraction(30))
    if shot.trails:
        wanted, why = limit, "as long as it goes: fewer gaps in a trail"
    else:
        points_s = min(stars.npf_s, POINT_PX / stars.fastest_px_s)
        wanted = min(Fraction(points_s).limit_denominator(10), limit)
        why = f"stars stay points for {show_shutter(points_s)} here"
    shutter = max((one for one in SHUTTERS if body.shutter_min_s <= one <= wanted), default=body.shutter_min_s)
    told.append(Decided(field="light.shutter_s", why=why))
    dark = compile_fitted(counted(shot, max(Fraction(120), shortest_s(shot) * 2), 2))
    iso, short = _iso_for(dark, float(dark.scene_ev.min()) - USUAL_NIGHT_STOPS, float(shutter), shot.light.aperture)
    short_told = f"; {in_stops(short)} short of it" if short > _SHORT_STOPS else ""
    told.append(Decided(field="light.iso", why=f"the night {in_stops(-USUAL_NIGHT_STOPS)} under the meter{short_told}"))
    return shot.with_light(school="fixed", shutter_s=shutter, iso=iso), shutter


def _iso_for(program: Program, ev: float, shutter_s: float, aperture: float) -> tuple[int, float]:
    """The ISO that a scene wants, as far as the body goes, and by how many stops it falls short."""
    body = program.shot.body
    wanted = true_aperture(aperture) ** 2 / shutter_s / 2.0**ev * 100
    rungs = [one for one in ISOS if body.iso_min <= one <= body.iso_max] or [body.iso_min]
    iso = next((one for one in rungs if true_iso(one) >= wanted * 0.89), rungs[-1])
    return iso, max(0.0, float(np.log2(wanted / true_iso(iso))))


def exposed(program: Program, told: list[Decided]) -> Shot:
    """How each frame is exposed: held where the light stands, ramped where it changes and somebody sets the frames."""
    shot = program.shot
    ev = program.scene_ev - program.nd_stops
    low = float(program.sun_altitude_deg.min())
    if low < -6:
        shot = shot.with_light(night_stops=USUAL_NIGHT_STOPS)
        told.append(Decided(field="light.night_stops", why="a night is to look like one"))
    shot = _white(shot, program, told)
    steady = shot.live or float(np.ptp(ev)) <= _STEADY_STOPS
    if steady and "fixed" in schools_for(shot):
        return _held(shot, program, float(np.median(ev)), told)
    ramp: School = "continuous" if shot.body.bulb else "stepped"
    if ramp in schools_for(shot):
        return _ramped(shot, program, ramp, float(np.ptp(ev)), told)
    return _by_itself(shot, told)


def _white(shot: Shot, program: Program, told: list[Decided]) -> Shot:
    day, night = (program.sun_altitude_deg > 0).any(), (program.sun_altitude_deg < -6).any()
    if day and night and shot.fires == "linked":
        told.append(Decided(field="light.white_balance", why="from day to night in small steps"))
        return shot.with_light(white_balance="ramp", white_balance_k=5_200, white_balance_night_k=3_900)
    kelvins = 4_800 if day and night else 5_200 if day else 3_900
    told.append(Decided(field="light.white_balance_k", why="held, so that colour does not wander"))
    return shot.with_light(white_balance="fixed", white_balance_k=kelvins)


def _held(shot: Shot, program: Program, ev: float, told: list[Decided]) -> Shot:
    """One exposure: the shutter half of what there is time for, the aperture and then ISO as the scene asks."""
    body, lens = shot.body, shot.kit.lens
    slot_s = float(program.slot_s.min())
    if shot.live:
        half = program.timing.interval_s / 2
        shutter = max((one for one in SHUTTERS if one <= half * Fraction(101, 100)), default=body.shutter_min_s)
    else:
        room = min(float(program.shutter_room_s.min()), slot_s / 2, float(body.manual_shutter_max_s))
        shutter = max((one for one in SHUTTERS if one <= room), default=body.shutter_min_s)
    shutter = max(shutter, body.shutter_min_s)
    widest, narrowest = lens.widest_at(shot.focal_length_mm), lens.narrowest_at(shot.focal_length_mm)
    stopped = [one for one in APERTURES if widest <= one <= min(narrowest, max(11.0, widest))] or [widest]
    # So much light that the shutter has to be shorter, narrow; else as wide as the scene asks for at base ISO.
    aperture = min(stopped, key=lambda one: abs(float(np.log2(true_aperture(one) ** 2 / float(shutter))) - ev))
    over = ev - float(np.log2(true_aperture(aperture) ** 2 / float(shutter)) - np.log2(true_iso(body.iso_min) / 100))
    if over > _SHORT_STOPS:
        wanted = float(shutter) / 2**over
        rungs = [one for one in SHUTTERS if body.shutter_min_s <= one <= shutter] or [body.shutter_min_s]
        shutter = min(rungs, key=lambda one: abs(float(np.log2(float(one) / wanted))))
    iso, short = _iso_for(program, ev, float(shutter), aperture)
    why = "the light stands still meanwhile" + (f"; {in_stops(short)} short" if short > _SHORT_STOPS else "")
    told.append(Decided(field="light.school", why=f"{SCHOOL_NAMES['fixed']}: {why}"))
    told.append(Decided(field="light.shutter_s", why="half of each picture's time, as films are used to" if shot.live
                        else "as long as the light allows"))  # fmt: skip
    return shot.with_light(school="fixed", shutter_s=shutter, aperture=aperture, iso=iso)


def _ramped(shot: Shot, program: Program, school: School, spread: float, told: list[Decided]) -> Shot:
    body, lens = shot.body, shot.kit.lens
    room = min(float(program.shutter_room_s.min()), 30.0)
    limit = room if body.bulb else min(room, float(body.manual_shutter_max_s))
    cap = max((one for one in SHUTTERS if one <= limit), default=body.shutter_min_s)
    widest, narrowest = lens.widest_at(shot.focal_length_mm), lens.narrowest_at(shot.focal_length_mm)
    aperture = next((one for one in APERTURES if one >= max(widest, 4.0) and one <= narrowest), widest)
    # By day a ramp begins at base ISO and its shortest shutter; where that is too bright, narrower.
    bright = float((program.scene_ev - program.nd_stops).max())
    for one in APERTURES:
        if one > aperture and one <= min(narrowest, 16.0):
            shortest = true_aperture(aperture) ** 2 / 2.0**bright * 100 / true_iso(body.iso_min)
            if shortest >= float(body.shutter_min_s):
                break
            aperture = one
    ceiling = max(min(body.iso_clean, body.iso_max), body.iso_min)
    opens = widest if lens.electronic_aperture and widest < aperture else None
    told.append(Decided(field="light.school", why=f"{SCHOOL_NAMES[school]}: it changes by {in_stops(spread)}"))
    told.append(Decided(field="light.iso_ceiling", why=f"clean on {body.name} up to there"))
    return shot.with_light(
        school=school, shutter_s=cap, aperture=aperture, aperture_open=opens, iso=body.iso_min, iso_ceiling=ceiling
    )


def _by_itself(shot: Shot, told: list[Decided]) -> Shot:
    """Left to the body, under the ISO ceiling that comes out best."""
    body = shot.body
    school: School = "automatic"
    ceilings = sorted({body.iso_min, max(min(body.iso_clean, body.iso_max), body.iso_min), body.iso_max})
    tried = [
        shot.with_light(school=school, aperture=_widest(shot), iso=body.iso_min, iso_ceiling=one) for one in ceilings
    ]
    worst = [float(np.abs(compile_fitted(one).exposures.error_stops).max()) for one in tried]
    best = min(range(len(tried)), key=lambda i: (round(worst[i], 1), i))
    told.append(Decided(field="light.school", why=f"{SCHOOL_NAMES[school]}: nobody sets its frames"))
    told.append(Decided(field="light.iso_ceiling", why=f"at worst {in_stops(worst[best])} off"))
    return tried[best]
