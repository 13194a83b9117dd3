"""What the chosen way of exposing does to a film: flicker, jumps, drifting colour, a body that does as it likes."""

import numpy as np

from revani.core.documents import School
from revani.core.findings.finding import Finding, Fix, finding, usable
from revani.core.findings.relit import helping
from revani.core.light.dials import ISOS, marked_iso, show_shutter, true_iso
from revani.core.light.exposing import as_school, expose
from revani.core.light.flicker import VISIBLE_TO_MANY, VISIBLE_TO_MOST, flicker_stops, smoothed_stops
from revani.core.program.compiled import Program
from revani.core.quantities.units import count, decimals, in_stops

_STEP_STOPS = 1 / 3


def _to_school(program: Program, school: School, label: str) -> Fix | None:
    """The shot in another school, its price what the change does to flicker and error."""
    shot = program.shot.model_copy(update={"light": as_school(program.shot, school)})
    got = expose(shot, program.light_on)
    flicker = flicker_stops(got.error_stops, program.timing.fps)
    worst = float(np.abs(got.error_stops).max())
    return Fix(
        id=f"as-{school}",
        label=label,
        price=f"flicker {in_stops(flicker, 2)}, at worst {in_stops(worst)} off; a controller must set every frame",
        shot=shot,
    )


def _flicker(program: Program) -> float:
    return flicker_stops(program.exposures.error_stops, program.timing.fps)


@finding("light", "exposure.flicker", source="over 0.05 stop many see it, over 0.15 most: memory")
def flicker_over_the_limit(program: Program) -> Finding | None:
    """Brightness jumps from frame to frame by more than eyes forgive."""
    error, fps = program.exposures.error_stops, program.timing.fps
    flicker = flicker_stops(error, fps)
    if flicker <= VISIBLE_TO_MANY:
        return None
    after = flicker_stops(smoothed_stops(error, fps), fps)
    why = "The body's meter scatters" if program.shot.light.automatic else "Steps of a third follow each other fast"
    ramps: tuple[School, ...] = ("continuous",) if program.shot.body.bulb else ("stepped",)
    return Finding(
        severity="fix" if flicker > VISIBLE_TO_MOST else "mind",
        sentence=f"The film will flicker by {in_stops(flicker, 2)}.",
        figures=f"{why}; over {VISIBLE_TO_MANY} many see it, over {VISIBLE_TO_MOST} most. "
        f"Smoothed afterwards, {decimals(after, 2)} would be left.",
        turns=f"Up to {VISIBLE_TO_MANY} stop nothing is said; this is {decimals(flicker / VISIBLE_TO_MANY, 1)} × that.",
        offer=lambda: helping(
            program,
            _flicker,
            *(
                _to_school(program, school, "Plan every frame's exposure instead")
                for school in ramps
                if program.shot.light.automatic
            ),
        ),
    )


@finding("light", "exposure.iso-ceiling-shortens", source="how bodies choose by themselves: common practice")
def iso_ceiling_shortens_the_shutter(program: Program) -> Finding | None:
    """An ISO-first body takes a short shutter in the dark, because its ceiling lets it."""
    light, body, exposures = program.shot.light, program.shot.body, program.exposures
    if light.school != "automatic" or body.automatic_order != "ISO first":
        return None
    darkest = int(np.argmin(program.scene_ev))
    shutter, room = float(exposures.shutter_s[darkest]), float(program.shutter_room_s[darkest])
    could = min(room, float(body.automatic_shutter_max_s))
    raised = exposures.iso > true_iso(light.iso) * 1.3
    if not raised[darkest] or shutter >= could / 2:
        return None
    # The ceiling at which the shutter is as long as it can be and the frame as bright as it is now.
    even = float(exposures.iso[darkest]) * shutter / could
    between = next((iso for iso in ISOS if light.iso <= iso < light.iso_ceiling and true_iso(iso) >= even * 0.99), None)
    return Finding(
        severity="mind",
        turns=f"Quiet while it takes {show_shutter(could / 2)} and longer.",
        sentence=f"In the dark {body.name} will take {show_shutter(shutter)}, not {show_shutter(could)}.",
        figures=f"It raises ISO first, to {marked_iso(float(exposures.iso[darkest]))} under a ceiling of "
        f"{light.iso_ceiling}, and lengthens the shutter only then. A lower ceiling makes the shutter longer.",
        offer=lambda: usable(*(_under_ceiling(program, iso, darkest) for iso in dict.fromkeys((between, light.iso)))),
        from_s=float(program.at_s[np.argmax(raised)]),
        to_s=float(program.at_s[program.frame_count - 1 - int(np.argmax(raised[::-1]))]),
    )


def _under_ceiling(program: Program, iso: int | None, darkest: int) -> Fix | None:
    """The shot under a lower ISO ceiling, its price what the darkest frame becomes."""
    if iso is None or iso >= program.shot.light.iso_ceiling:
        return None
    low = program.shot.with_light(iso_ceiling=iso)
    taken = expose(low, program.light_on)
    shutter = float(taken.shutter_s[darkest])
    if shutter <= float(program.exposures.shutter_s[darkest]) * 1.1:
        return None
    gathered = float(np.log2(shutter / float(program.exposures.shutter_s[darkest])))
    return Fix(
        id=f"iso-ceiling-{iso}",
        label=f"ISO ceiling {iso}",
        price=f"{show_shutter(shutter)} in the dark gather {in_stops(gathered)} more; "
        f"{in_stops(float(taken.error_stops[darkest]))} off",
        shot=low,
    )


@finding("light", "exposure.dead-band", source="arithmetic: a step is a third of a stop")
def steps_under_the_dead_band(program: Program) -> Finding | None:
    """A dead band that is wider than a step lets brightness run away and then jump."""
    light = program.shot.light
    if light.school != "stepped" or light.dead_band_stops <= _STEP_STOPS + 1e-9:
        return None
    jump = max(1, round(light.dead_band_stops * 3)) / 3
    return Finding(
        severity="mind",
        turns=f"Up to {in_stops(_STEP_STOPS, 2)} of dead band nothing is said.",
        sentence=f"Brightness will jump by {in_stops(jump)} at a time.",
        figures=f"The dead band, {in_stops(light.dead_band_stops, 2)}, is wider than a step of a third.",
        offer=lambda: usable(
            Fix(
                id="dead-band",
                label="A dead band of 0.25 stops",
                price="more and smaller steps",
                shot=program.shot.with_light(dead_band_stops=0.25),
            )
        ),
    )


def _fastest_change(program: Program) -> float:
    """The fastest change of the light, stops a minute; the frame at which a filter comes off is spoken of elsewhere."""
    speed = np.abs(np.diff(program.scene_ev - program.nd_stops)) / np.maximum(np.diff(program.t_s), 1e-9) * 60
    return float(np.max(np.where(np.diff(program.nd_stops) == 0, speed, 0.0)))


@finding(
    "light",
    "exposure.rate",
    source="arithmetic over the scene's light: Explanatory Supplement to the Astronomical Almanac (1992), 9.4, "
    "from memory",
)
def light_outruns_the_ramp(program: Program) -> Finding | None:
    """The light changes faster than the ramp may."""
    light = program.shot.light
    if light.school not in ("stepped", "continuous") or program.frame_count < 2:
        return None
    fastest = _fastest_change(program)
    if fastest <= light.rate_stops_per_min * 1.02:
        return None
    return Finding(
        severity="mind",
        turns=f"Up to {decimals(light.rate_stops_per_min, 2)} stops a minute; this is "
        f"{in_stops(fastest - light.rate_stops_per_min, 2)} more.",
        sentence=f"The light changes by {in_stops(fastest, 2)} a minute, the ramp by "
        f"{decimals(light.rate_stops_per_min, 2)} at most.",
        figures="Frames lag behind while it does.",
        offer=lambda: helping(
            program,
            lambda one: _fastest_change(one) / one.shot.light.rate_stops_per_min,
            Fix(
                id="faster-ramp",
                label=f"Let it follow at {in_stops(fastest * 1.1)} a minute",
                price="brightness changes as fast as the light does",
                shot=program.shot.with_light(rate_stops_per_min=min(round(fastest * 1.1, 2), 100.0)),
            ),
        ),
    )


@finding("light", "exposure.white-balance-automatic", source="common practice")
def white_balance_left_to_the_body(program: Program) -> Finding | None:
    """Automatic white balance drifts from frame to frame."""
    light = program.shot.light
    if light.white_balance != "automatic":
        return None
    kelvins = program.white_balance_k
    held = round(float(np.median(kelvins)) / 100) * 100
    return Finding(
        severity="mind" if program.shot.live else "fix",
        turns="Quiet where it is held, or goes in steps.",
        sentence="White balance is left to the body: colour will drift from frame to frame.",
        figures=f"It wanders between {kelvins.min():,.0f} and {kelvins.max():,.0f} K over the shot; "
        "raw files can be mended later, frame by frame.",
        offer=lambda: usable(
            Fix(
                id="hold-white",
                label=f"Hold {held:,} K",
                price="day or night will be a little off, but even",
                shot=program.shot.with_light(white_balance="fixed", white_balance_k=held),
            ),
            Fix(
                id="white-ramp",
                label="Go from day to night in small steps",
                price=f"{light.white_balance_k:,} to {light.white_balance_night_k:,} K, "
                f"{light.white_balance_step_k} K at a time",
                shot=program.shot.with_light(white_balance="ramp"),
            ),
        ),
    )


@finding("light", "exposure.noise-reduction", source="a dark frame is as long as the frame before it: common practice")
def long_exposure_noise_reduction(program: Program) -> Finding | None:
    """A dark frame after each frame takes as long again."""
    if not program.shot.light.noise_reduction:
        return None
    longest = float(program.exposures.shutter_s.max())
    if longest < 1:
        return None
    return Finding(
        severity="mind",
        turns="Under 1 s of shutter nothing is said.",
        sentence=f"A dark frame follows each: {show_shutter(longest)} more in every slot.",
        figures=f"It leaves {show_shutter(float(program.shutter_room_s.min()))} for the shutter, and gaps in trails.",
        offer=lambda: usable(
            Fix(
                id="no-dark-frames",
                label="No dark frames",
                price=f"hot pixels stay in up to {count(program.frame_count, 'frame')}; "
                "take a few dark frames by hand afterwards",
                shot=program.shot.with_light(noise_reduction=False),
            )
        ),
    )


@finding(
    "light",
    "exposure.grain",
    source="grain follows the light gathered (photon statistics); the limit is the body's own figure",
)
def ceiling_over_clean(program: Program) -> Finding | None:
    """The shot goes to an ISO at which this body's frames are seen to be grainy."""
    body, iso = program.shot.body, program.exposures.iso
    grainy = iso > true_iso(body.iso_clean) * 1.01
    if not grainy.any():
        return None
    most = marked_iso(float(iso.max()))
    light = program.shot.light
    rises = light.school in ("automatic", "stepped", "continuous")
    cleaner = program.shot.with_light(iso_ceiling=max(body.iso_clean, light.iso)) if rises else None
    return Finding(
        severity="mind",
        turns=f"At ISO {body.iso_clean:,} and less it is quiet; that is a figure of {body.name}, under Kit.",
        sentence=f"{count(int(grainy.sum()), 'frame')} go over ISO {body.iso_clean:,}, the last that is clean here.",
        figures=f"Up to ISO {most:,}, {in_stops(float(np.log2(iso.max() / true_iso(body.iso_clean))))} more. "
        "Grain follows the light that is gathered: a longer shutter or a wider lens gathers more.",
        offer=lambda: usable(
            Fix(
                id="clean-ceiling",
                label=f"ISO ceiling {max(body.iso_clean, light.iso):,}",
                price="the dark end is darker where the shutter cannot be longer",
                shot=cleaner,
            )
            if cleaner is not None and light.iso <= body.iso_clean < light.iso_ceiling
            else None
        ),
        from_s=float(program.at_s[np.argmax(grainy)]),
        to_s=float(program.at_s[program.frame_count - 1 - int(np.argmax(grainy[::-1]))]),
    )
