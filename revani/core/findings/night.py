"""Will the stars come out as they are wanted?"""

from fractions import Fraction
from math import floor

import numpy as np

from revani.core.findings.finding import Finding, Fix, finding, usable
from revani.core.findings.relit import LONGEST_SHUTTER_S, helping
from revani.core.light.dials import show_shutter
from revani.core.optics.star_limits import POINT_PX, stars_in
from revani.core.program.compiled import Program
from revani.core.quantities.units import count, decimals, duration, in_stops
from revani.core.rehearsal.night import GAP_SHOWS_PX, gap_px, moon_wash_stops
from revani.core.sky.dark import dark_windows
from revani.core.sky.sun_and_moon import HORIZON_DEG

_WASH_STOPS = 1.0
_STARS_FROM_SUN_DEG = -12.0


@finding(
    "light",
    "night.trailing",
    "night.points",
    source="NPF rule (Société Astronomique du Havre), 500 rule and 3 px: memory; drift 15.041″ a second × cos δ",
)
def stars_trail(program: Program) -> Finding | None:
    """Stars move further within a frame than the stricter rule allows."""
    shot = program.shot
    if not shot.needs_dark or shot.trails:
        return None
    stars = stars_in(shot)
    longest = float(program.exposures.shutter_s.max())
    trail = stars.fastest_px_s * longest
    # The rule forgives more where the aperture is small; what is longer than a few pixels is no point all the same.
    limit_s = min(stars.npf_s, POINT_PX / stars.fastest_px_s)
    if longest <= limit_s * 1.05:
        return Finding(
            id="night.points",
            severity="good",
            sentence="Stars stay points.",
            figures=f"At most {decimals(trail, 1)} px in {show_shutter(longest)}.",
        )
    shutter = Fraction(max(1, floor(limit_s * 10)), 10)
    lost = float(np.log2(longest / float(shutter)))
    return Finding(
        severity="mind",
        turns=f"At {show_shutter(limit_s)} and less they stay points; this is {decimals(longest / limit_s, 1)} × that.",
        sentence=f"Stars become dashes of {decimals(trail, 0)} px.",
        figures=f"Up to {show_shutter(longest)}; at {decimals(stars.least_declination_deg, 0)}° of declination points "
        f"stay points for {show_shutter(stars.npf_s)} (NPF) or {show_shutter(stars.rule_500_s)} (500 rule)"
        + (f"; over {POINT_PX:g} px it shows." if limit_s < stars.npf_s else "."),
        offer=lambda: (
            *helping(
                program,
                lambda one: float(one.exposures.shutter_s.max()),
                Fix(
                    id="shutter-at-most",
                    label=f"At most {show_shutter(float(shutter))}",
                    price=f"{in_stops(lost)} less light a frame, or as much more ISO",
                    shot=shot.with_light(shutter_s=shutter),
                ),
            ),
            *usable(
                Fix(
                    id="trails-wanted",
                    label="Trails are wanted",
                    price="nothing changes but what is judged",
                    shot=shot.model_copy(update={"trails": True}),
                )
            ),
        ),
    )


@finding("light", "night.dark-gap", source="drift 15.041″ a second × cos δ; 1.5 px shows: memory")
def dark_gap_shows(program: Program) -> Finding | None:
    """Between frames stars move on unseen, so that trails come out dashed."""
    shot = program.shot
    if not shot.trails:
        return None
    night = program.sun_altitude_deg < _STARS_FROM_SUN_DEG
    if not night.any():
        return None
    gaps = gap_px(program)[night]
    shown = gaps > GAP_SHOWS_PX
    if not shown.any():
        return None
    at = int(np.argmax(gaps))
    gap_s = float((program.slot_s - program.exposures.shutter_s)[night][at])
    room = min(Fraction(floor(float(program.shutter_room_s.min()) * 10), 10), LONGEST_SHUTTER_S)
    hold = Fix(
        id="hold-shutter", label=f"Hold the shutter for {show_shutter(float(room))}",
        price="all the time that the interval leaves",
        shot=shot.with_light(shutter_s=room, noise_reduction=False),
    ) if room > 0 and not shot.light.automatic else None  # fmt: skip
    return Finding(
        severity="fix",
        turns=f"Gaps of {GAP_SHOWS_PX} px and less are not seen; the longest here is {decimals(float(gaps[at]), 1)}.",
        sentence=f"Trails will be dashed: {duration(round(gap_s, 1))} of dark between frames.",
        figures=f"Stars move {decimals(float(gaps[at]), 1)} px meanwhile; over {GAP_SHOWS_PX} px it shows, "
        f"in {count(int(shown.sum()), 'frame')}.",
        offer=lambda: helping(program, _gaps, hold),
    )


def _gaps(program: Program) -> float:
    """How far stars move unseen by night, in pixels over all frames where it shows."""
    gaps = gap_px(program)[program.sun_altitude_deg < _STARS_FROM_SUN_DEG]
    return float(gaps[gaps > GAP_SHOWS_PX].sum())


@finding("light", "night.moon", source="Krisciunas & Schaefer, PASP 103 (1991) 1033, from memory")
def moon_washes_out(program: Program) -> Finding | None:
    """The moon is up and too bright for faint stars."""
    shot = program.shot
    if not shot.needs_dark:
        return None
    lit_part = program.sky.moon_illuminated_fraction(program.at_s)
    up = (
        (program.sun_altitude_deg < _STARS_FROM_SUN_DEG)
        & (program.moon_altitude_deg > HORIZON_DEG)
        & (lit_part > shot.moonlight_up_to)
    )
    wash = np.where(up, moon_wash_stops(program), 0.0)
    if wash.max() < _WASH_STOPS:
        return None
    first, last = int(np.argmax(up)), program.frame_count - 1 - int(np.argmax(up[::-1]))
    windows = [
        f"{program.local(one.from_s):%H:%M} – {program.local(one.to_s):%H:%M}"
        for one in dark_windows(program.sky, shot.moonlight_up_to)
        if one.to_s > program.start_s - 43_200 and one.from_s < program.end_s + 43_200 and one.to_s - one.from_s > 600
    ]
    return Finding(
        severity="mind",
        turns=f"From {in_stops(_WASH_STOPS)} on, and for a moon of more than {shot.moonlight_up_to:.0%}.",
        sentence=f"A moon of {float(lit_part[first]):.0%} washes out faint stars by {in_stops(float(wash.max()))}.",
        figures=f"It is up over the shot from {program.local(float(program.at_s[first])):%H:%M} to "
        f"{program.local(float(program.at_s[last])):%H:%M}; dark without it: {', '.join(windows) or 'not this night'}.",
        offer=lambda: usable(
            Fix(
                id="moonlight-welcome",
                label="Moonlight is welcome",
                price="fainter stars are lost, the land is lit",
                shot=shot.model_copy(update={"moonlight_up_to": 1.0}),
            )
        ),
        from_s=float(program.at_s[first]),
        to_s=float(program.at_s[last]),
    )
