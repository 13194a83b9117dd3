"""Cautions where they apply: short, never to be switched off, each deferring to local rules and to who is qualified.

Common practice, without a source; they replace no law, no manual and no training.
"""

from collections.abc import Callable, Iterator
from dataclasses import dataclass

import numpy as np

from revani.core.program.compiled import Program
from revani.core.quantities.measures import SPEED, TEMPERATURE
from revani.core.sky.sun_and_moon import HORIZON_DEG
from revani.core.sky.weather import known

DEFERS = "Local rules come first, and people who are trained for it."
# So near the middle of the picture the sun is looked at (memory: it wanders in with a turn of the head).
_SUN_NEAR_DEG = 40.0
_WINDY_M_S = 8.0


@dataclass(frozen=True)
class Caution:
    """Something that hurts people, gear or others' rights, and what is done about it."""

    id: str
    title: str
    says: str
    defers: str = DEFERS


Judge = Callable[[Program], str | None]
_RULES: list[tuple[str, str, Judge, str]] = []


def _caution(id: str, title: str, defers: str = DEFERS) -> Callable[[Judge], Judge]:
    def register(judge: Judge) -> Judge:
        _RULES.append((id, title, judge, defers))
        return judge

    return register


def cautions(program: Program) -> tuple[Caution, ...]:
    """The cautions that apply to a shot, those that can kill first."""
    return tuple(_found(program))


def _found(program: Program) -> Iterator[Caution]:
    for id, title, judge, defers in _RULES:
        says = judge(program)
        if says:
            yield Caution(id, title, says, defers)


@_caution("vehicle", "On a vehicle", "The traffic law of the place decides; ask its police or a workshop.")
def _vehicle(program: Program) -> str | None:
    on = any(one.stands_as == "vehicle mount" for one in program.shot.kit.supports)
    if not on and not (program.shot.walk and program.shot.walk.support == "on a vehicle"):
        return None
    return (
        "Mounts that are rated for it, a tether besides, nothing in the driver's sight. Who drives does not touch the "
        "camera, and does not look at it."
    )


@_caution("mains", "Mains outdoors", "A qualified electrician decides what may be plugged where.")
def _mains(program: Program) -> str | None:
    if not any(one.gives == "the mains" for one in program.shot.kit.sources):
        return None
    return "Only through a protected supply that is made for outdoors; plugs off the ground, dry, and not coiled up."


@_caution("sun", "Sun in the lens", "Certified filters alone; an eye is not tried out.")
def _sun(program: Program) -> str | None:
    up = program.sun_altitude_deg > 0
    if not up.any():
        return None
    pose = program.pose(program.t_s)
    sun = program.sky.sun(program.at_s)
    apart = np.degrees(np.arccos(np.clip(_cos_between(pose.heading_deg, pose.tilt_deg, sun), -1, 1)))
    if not (up & (apart < _SUN_NEAR_DEG)).any() and not program.round:
        return None
    return (
        "The sun stands in the picture or near it. Nobody looks through a finder or a long lens at it; a shutter and a "
        "sensor burn too. Without a solar filter keep it short and the lens wide."
    )


def _cos_between(heading_deg: np.ndarray, tilt_deg: np.ndarray, body: object) -> np.ndarray:
    azimuth, altitude = np.radians(body.azimuth_deg), np.radians(body.altitude_deg)  # type: ignore[attr-defined]
    heading, tilt = np.radians(heading_deg), np.radians(tilt_deg)
    return np.asarray(np.sin(altitude) * np.sin(tilt) + np.cos(altitude) * np.cos(tilt) * np.cos(azimuth - heading))


@_caution("alone", "Alone at night")
def _alone(program: Program) -> str | None:
    if not (program.sun_altitude_deg < HORIZON_DEG).any():
        return None
    return (
        "Tell somebody where you are and when you are back; know the way back in the dark; a second lamp. What was "
        "plain by day is not seen."
    )


@_caution("water", "Water and tides", "Tide tables and the people of the place know better.")
def _water(program: Program) -> str | None:
    place = program.shot.place
    words = f"{place.name} {place.note} {place.window.reason if place.window else ''}".casefold()
    if not any(word in words for word in ("tid", "water", "sea", "shore", "beach", "river", "cause", "sand")):
        return None
    return "Know when the water is back, for the camera and for the way; leave an hour to spare."


@_caution("motors", "Motors")
def _motors(program: Program) -> str | None:
    if not program.shot.kit.movers:
        return None
    return "Rails and heads pinch: fingers, hair, straps and cables stay out of their way; the stop is within reach."


@_caution("mast", "Masts and wind")
def _mast(program: Program) -> str | None:
    high = any(one.stands_as == "mast" or one.height_m > 3 for one in program.shot.kit.supports)
    wind, has_wind = known(program.shot.place, "wind_m_s", program.at_s)
    strong = bool((has_wind & (wind >= _WINDY_M_S)).any())
    if not high and not strong:
        return None
    told = f" {SPEED.show(float(wind[has_wind].max()), 0)} are foretold." if strong else ""
    return f"What stands high falls far: guyed, weighed down, nobody under it, and no power line near.{told}"


@_caution("cells", "Lithium cells", "The maker's paper and the carrier's rules decide.")
def _cells(program: Program) -> str | None:
    coldest = float(program.temperature_c.min())
    cold = f" Under 0 °C they are not charged; {TEMPERATURE.show(coldest, 0)} are expected." if coldest < 0 else ""
    return (
        f"Not wet, not hot, not dented, and not charged where nobody is.{cold} In an aeroplane they go into the cabin, "
        "ends covered."
    )


@_caution("fire", "Fire and heat")
def _fire(program: Program) -> str | None:
    shot = program.shot
    words = f"{shot.name} {shot.note} {' '.join(one.name for one in shot.things)}".casefold()
    burns = any(word in words for word in ("fire", "kiln", "flame", "stove", "candle"))
    hot = [one.name for one in shot.kit.loads if one.is_a in ("heater", "lamp")]
    if not burns and not hot:
        return None
    near = f"{' and '.join(hot)}: what gets hot touches nothing that burns. " if hot else ""
    return f"{near}{'Fire is never left alone; water stands by. ' if burns else ''}".strip()


@_caution("light", "Strong light on the sensor")
def _light(program: Program) -> str | None:
    if not any(one.is_a == "lamp" for one in program.shot.kit.loads):
        return None
    return "Lasers and stage lights burn sensors and eyes; keep lamps out of drivers' and pilots' sight."


@_caution("ground", "The ground, the weather, animals")
def _ground(program: Program) -> str | None:
    del program
    return (
        "Keep from edges and from what may fall; look at the forecast before you go, and leave when it thunders; "
        "animals and their young are left alone."
    )


@_caution("ways", "People and ways")
def _ways(program: Program) -> str | None:
    cable = any(one.is_a == "cable" for one in program.shot.kit.parts)
    walked = " Walk where you have looked; nobody films and crosses a road." if program.shot.walk else ""
    return f"Stands{' and cables' if cable else ''} are stumbled over: off the way, and marked.{walked}"


@_caution("eyes", "Eyes that are used to the dark")
def _eyes(program: Program) -> str | None:
    return "White light ends the night of all who are there: red, dim, and down." if program.shot.needs_dark else None


@_caution("permission", "People, and others' ground", "The law of the place decides; when in doubt, ask.")
def _permission(program: Program) -> str | None:
    del program
    return "Ask whom you film and whose ground it is; protected places, animals and memorials have rules of their own."
