"""One frame in words, as the foot of the desk and the rehearsal read it out."""

from typing import Literal

from pydantic import BaseModel, ConfigDict

from revani.core.light.dials import marked_aperture, marked_iso, show_shutter
from revani.core.light.gathered import sky_stops
from revani.core.move.words import show_position
from revani.core.optics.star_limits import STARS_FROM_DEG, stars_in
from revani.core.program.compiled import Program, card_capacity_bytes
from revani.core.quantities.units import decimals, duration, gigabytes, in_stops, stops


class Readout(BaseModel):
    """One value in words."""

    model_config = ConfigDict(frozen=True)

    label: str
    text: str
    tone: Literal["plain", "bad"] = "plain"


def readout(program: Program, number: int) -> list[Readout]:
    """One frame in words; `number` counts from 1."""
    i = number - 1
    exposures = program.exposures
    error = float(exposures.error_stops[i])
    battery = float(program.battery_left[i])
    free = card_capacity_bytes(program.shot) - float(program.card_bytes[i])
    return [
        Readout(label="frame", text=f"{number:,}"),
        Readout(label="clock", text=program.clock_told(float(program.at_s[i]), "%H:%M:%S")),
        Readout(label="film", text=duration(round(float(program.film_s[i]), 2))),
        Readout(label="sun", text=f"{decimals(round(float(program.sun_altitude_deg[i]), 1), 1)}°"),
        Readout(label="scene", text=f"EV {decimals(round(float(program.scene_ev[i]), 1), 1)}"),
        Readout(label="shutter", text=show_shutter(float(exposures.shutter_s[i]))),
        Readout(label="f", text=f"{marked_aperture(float(exposures.aperture[i])):g}"),
        Readout(label="ISO", text=str(marked_iso(float(exposures.iso[i])))),
        Readout(label="error", text=stops(error), tone="bad" if abs(error) >= 1 else "plain"),
        *(
            Readout(label=name, text=show_position(name, float(values[i])))
            for name, values in (program.motion.positions if program.motion else {}).items()
        ),
        Readout(label="white", text=f"{program.white_balance_k[i]:,.0f} K"),
        *([Readout(label="filter", text=f"{in_stops(float(program.nd_stops[i]))}")] if program.nd_stops[i] else []),
        Readout(label="battery", text=f"{max(0.0, battery):.0%}", tone="bad" if battery <= 0 else "plain"),
        *(
            Readout(
                label=one.name if one.role == "feeds" else f"battery of {one.name}",
                text=f"{max(0.0, float(one.left[i])):.0%}",
                tone="bad" if one.left[i] <= 0 else "plain",
            )
            for one in program.supplies[1:]
            if one.role != "beside it"
        ),
        Readout(label="card left", text=gigabytes(max(0.0, free)), tone="bad" if free < 0 else "plain"),
    ]


def gathered(program: Program, number: int) -> list[Readout]:
    """What a frame, counted from 1, gathers of the sky's light, and by night how far its stars move."""
    i, got = number - 1, program.exposures
    light = float(sky_stops(got.shutter_s[i], got.aperture[i]))
    found = [Readout(label="light gathered", text=f"{stops(light)} stops, 1 s at f/1 is 0")]
    if program.sun_altitude_deg[i] < STARS_FROM_DEG:
        moves = stars_in(program.shot).fastest_px_s * float(got.shutter_s[i])
        found.append(Readout(label="stars move", text=f"{decimals(moves, 1)} px"))
    return found
