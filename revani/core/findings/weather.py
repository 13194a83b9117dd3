"""What the weather by the hour does to a shot: dew, wind, and hours that nobody has noted."""

import numpy as np
from numpy.typing import NDArray

from revani.core.feed.dew import HEATER_WARMS_C, LENS_COOLS_C, dew_point_c
from revani.core.findings.finding import Finding, finding
from revani.core.program.compiled import Program
from revani.core.program.rigged import unfed
from revani.core.quantities.measures import SPEED, TEMPERATURE
from revani.core.quantities.units import count
from revani.core.sky.sun_and_moon import HORIZON_DEG
from revani.core.sky.weather import known

# From such a wind on stands and sliders shake (common practice, no source).
_SHAKES_M_S = 8.0


def _span(program: Program, holds: NDArray[np.bool_]) -> tuple[float, float]:
    first, last = int(np.argmax(holds)), holds.size - 1 - int(np.argmax(holds[::-1]))
    return float(program.at_s[first]), float(program.at_s[last])


@finding(
    "feed", "feed.dew", source="Magnus formula (WMO Guide, memory); a lens cools by 2 °C under an open sky: memory"
)
def dew_on_the_lens(program: Program) -> Finding | None:
    """A lens that gets colder than the air's dew point is wet, and every frame from then on is soft."""
    place = program.shot.place
    humidity, has_humidity = known(place, "humidity_percent", program.at_s)
    air, has_air = known(place, "temperature_c", program.at_s)
    both = has_humidity & has_air
    if not both.any():
        return None
    dew = dew_point_c(air, np.where(both, humidity, 50.0))
    lens = air - np.where(program.sun_altitude_deg < HORIZON_DEG, LENS_COOLS_C, 0.0)
    heated = _heated(program)
    wet = both & (lens + np.where(heated, HEATER_WARMS_C, 0.0) <= dew)
    if not wet.any():
        return None
    from_s, to_s = _span(program, wet)
    at = int(np.argmax(wet))
    return Finding(
        severity="mind",
        sentence=f"Dew settles on the lens from {program.local(from_s):%H:%M}.",
        figures=f"Air {TEMPERATURE.show(float(air[at]), 1)} at {humidity[at]:.0f} %: it dews at "
        f"{TEMPERATURE.show(float(dew[at]), 1)}, and the lens is about {LENS_COOLS_C:g}° colder than the air; "
        f"{count(int(wet.sum()), 'frame')}. A heater about the lens, or a shield over it, keeps it clear.",
        turns=f"Over the dew point by more than {LENS_COOLS_C:g}° nothing is said; least apart are "
        f"{float((lens - dew)[both].min()):.1f}°.".replace("-", "−"),
        from_s=from_s,
        to_s=to_s,
    )


def _heated(program: Program) -> NDArray[np.bool_]:
    """Where a heater is on and still has power (n,)."""
    warm = np.zeros(program.frame_count, dtype=bool)
    kit = program.shot.kit
    left = {one.id: one.left for one in program.supplies}
    for heater in (one for one in kit.loads if one.is_a == "heater" and one not in unfed(kit)):
        lasts = left[heater.id] >= 0 if heater.id in left else True
        on = program.sun_altitude_deg < HORIZON_DEG if heater.on == "by night" else True
        warm |= np.asarray(lasts & on)
    return warm


def _against_wind(program: Program) -> str:
    """What helps against wind, for what it stands on."""
    stands = {one.stands_as for one in program.shot.kit.supports}
    if "mast" in stands:
        return "lower the mast, guy it, and stay clear of where it would fall."
    return "stand low, weigh the stand down, keep the strap off."


@finding("feed", "feed.wind", source="8 m/s: common practice, no source")
def wind_shakes_it(program: Program) -> Finding | None:
    """Wind shakes what stands on a mast or a slider."""
    wind, has_wind = known(program.shot.place, "wind_m_s", program.at_s)
    strong = has_wind & (wind >= _SHAKES_M_S)
    if not strong.any():
        return None
    from_s, to_s = _span(program, strong)
    most = float(wind[strong].max())
    return Finding(
        severity="mind",
        sentence=f"Wind of {SPEED.show(most, 0)} shakes the camera from {program.local(from_s):%H:%M}.",
        figures=f"In {count(int(strong.sum()), 'frame')}: {_against_wind(program)}",
        turns=f"Under {SPEED.show(_SHAKES_M_S, 0)} nothing is said.",
        from_s=from_s,
        to_s=to_s,
    )


@finding("feed", "feed.weather-hole", source="what was noted of the place; six hours change the weather: memory")
def weather_has_a_hole(program: Program) -> Finding | None:
    """Part of a shot whose weather is noted for the rest only is planned with the usual values."""
    place = program.shot.place
    _, has_air = known(place, "temperature_c", program.at_s)
    _, has_cloud = known(place, "cloud", program.at_s)
    some = has_air | has_cloud
    whole = (has_air if has_air.any() else True) & (has_cloud if has_cloud.any() else True)
    missing = ~np.broadcast_to(whole, some.shape)
    if not some.any() or not missing.any():
        return None
    from_s, to_s = _span(program, missing)
    return Finding(
        severity="mind",
        turns="Quiet where every hour of the shot is noted, or none is.",
        sentence=f"No weather is noted from {program.local(from_s):%H:%M} to {program.local(to_s):%H:%M}.",
        figures=f"There the usual values stand: {TEMPERATURE.show(place.temperature_c, 0)}, "
        f"{program.shot.light.cloud}.",
        from_s=from_s,
        to_s=to_s,
    )
