"""Will the frames be exposed as wanted?"""

from fractions import Fraction
from math import ceil, floor

import numpy as np
from numpy.typing import NDArray

from revani.core.documents import Light, Shot
from revani.core.exposure import APERTURES, ISOS, marked_iso, show_shutter, true_aperture, true_iso
from revani.core.findings.finding import Finding, Fix, finding, usable
from revani.core.findings.price import price, retimed
from revani.core.pace import solved
from revani.core.program import Program
from revani.core.timing import budget_s, ceil_to
from revani.core.units import count, decimals, duration

# From one stop on a frame is badly exposed.
BAD_STOPS = 1.0


def lit(shot: Shot, **change: object) -> Shot:
    """The shot with other light settings."""
    light = Light.model_validate(shot.light.model_dump() | change)
    return shot.model_copy(update={"light": light})


def _roomier(program: Program, shutter_s: Fraction, label: str) -> Fix | None:
    """A longer interval over the same hours, in which a shutter fits."""
    body, timing = program.shot.kit.body, program.timing
    interval = ceil_to(budget_s(shutter_s, body.overhead_s, program.shot.light.noise_reduction), body.controller_tick_s)
    if not timing.interval_s < interval <= timing.event_s:
        return None
    shot = retimed(
        lit(program.shot, shutter_s=max(shutter_s, program.shot.light.shutter_s)), fps=timing.fps,
        interval_s=interval, event_s=timing.event_s, frame_count=None, playback_s=None,
    )  # fmt: skip
    return Fix(label=label.format(duration(interval)), price=price(timing, solved(shot)), shot=shot)


@finding
def shutter_capped_by_interval(program: Program) -> Finding | None:
    """The interval leaves no room for the shutter that the light asks for."""
    if program.shot.light.school == "fixed":
        return None
    wanted = program.exposures.wanted_shutter_s
    short = wanted > program.shutter_room_s * 1.001
    if not short.any():
        return None
    room = float(program.shutter_room_s[short].min())
    longest = Fraction(ceil(float(wanted.max()) * 10), 10)
    rise = float(np.log2(program.exposures.iso.max() / program.exposures.iso.min()))
    stay = Fraction(floor(room * 10), 10)
    fixes = usable(
        _roomier(program, longest, "A frame every {}"),
        Fix(
            label=f"Let the shutter stop at {show_shutter(float(stay))}",
            price="the frames stay as they are; the sentence says what happens",
            shot=lit(program.shot, shutter_s=stay),
        )
        if stay > 0
        else None,
    )
    return Finding(
        id="exposure.shutter-capped",
        severity="mind",
        lens="light",
        sentence=f"The interval cuts the shutter at {show_shutter(room)}.",
        figures=f"{count(int(short.sum()), 'frame')} want up to {show_shutter(float(wanted.max()))}, but every "
        f"{duration(program.timing.interval_s)} leaves {show_shutter(room)}; ISO rises by {decimals(rise, 1)} stops.",
        fixes=fixes,
        from_s=float(program.at_s[np.argmax(short)]),
        to_s=float(program.at_s[program.frame_count - 1 - np.argmax(short[::-1])]),
    )


@finding
def manual_shutter_limit(program: Program) -> Finding | None:
    """The body cannot hold its shutter as long as the sentence says."""
    body, light = program.shot.kit.body, program.shot.light
    held_open = body.bulb and light.school in ("continuous", "stepped")
    limit = body.manual_shutter_max_s
    if held_open or light.shutter_s <= limit:
        return None
    if not (program.exposures.wanted_shutter_s > float(limit) * 1.001).any():
        return None
    lost = float(np.log2(float(light.shutter_s / limit)))
    iso = next((one for one in ISOS if true_iso(one) >= true_iso(light.iso) * 2**lost * 0.99), body.iso_max)
    brighter = None
    if light.school == "fixed" and light.iso < body.iso_max:
        iso = min(iso, body.iso_max)
        brighter = Fix(
            label=f"{show_shutter(float(limit))} at ISO {iso}",
            price=f"{decimals(np.log2(iso / light.iso), 1)} stops more grain",
            shot=lit(program.shot, shutter_s=limit, iso=iso),
        )
    plain = Fix(
        label=f"Up to {show_shutter(float(limit))}",
        price="the frames stay as they are; the sentence says what happens",
        shot=lit(program.shot, shutter_s=limit),
    )
    return Finding(
        id="exposure.manual-limit",
        severity="fix" if light.school == "fixed" else "mind",
        lens="light",
        sentence=f"{body.name} holds its shutter for {show_shutter(float(limit))} at most in manual.",
        figures=f"{show_shutter(float(light.shutter_s))} are wanted: {decimals(lost, 1)} stops less light a frame.",
        fixes=usable(brighter, plain),
    )


def _longest_stretch(bad: NDArray[np.bool_]) -> tuple[int, int]:
    """First and last index of the longest run of true values."""
    padded = np.concatenate([[False], bad, [False]])
    edges = np.flatnonzero(padded[1:] != padded[:-1])
    begins, ends = edges[::2], edges[1::2]
    longest = int(np.argmax(ends - begins))
    return int(begins[longest]), int(ends[longest]) - 1


def _spoken(seconds: float) -> str:
    """A length of time to the minute, once it is longer than ten."""
    return duration(round(seconds / 60) * 60 if seconds >= 600 else round(seconds))


@finding
def frames_too_dark(program: Program) -> Finding | None:
    """Part of the shot comes out dark because shutter and ISO stand at their limits."""
    error = program.exposures.error_stops
    bad = error <= -BAD_STOPS
    if not bad.any():
        return None
    first, last = _longest_stretch(bad)
    worst = -float(error[first : last + 1].min())
    clipped = int((error < -program.shot.kit.body.clips_under_stops).sum())
    interval = float(program.timing.interval_s)
    exposures, light = program.exposures, program.shot.light
    at = first + int(np.argmin(error[first : last + 1]))
    return Finding(
        id="exposure.too-dark",
        severity="stop" if clipped else "fix",
        lens="light",
        sentence=f"The darkest {_spoken((last - first + 1) * interval)} come out {decimals(worst, 1)} stops short.",
        figures=f"Shutter stands at {show_shutter(float(exposures.shutter_s[at]))}, "
        f"ISO at {marked_iso(float(exposures.iso[at]))}, from {program.local(float(program.at_s[first])):%H:%M} "
        f"to {program.local(float(program.at_s[last])):%H:%M}"
        + (f"; {count(clipped, 'frame')} will be black." if clipped else "."),
        fixes=usable(
            _follow_the_light(program, True) if light.school == "fixed" else _open_iso(program, worst, bad),
            _open_aperture(program, worst),
            None if light.school == "fixed" else _longer_shutter(program, worst),
        ),
        from_s=float(program.at_s[first]),
        to_s=float(program.at_s[last]),
    )


def _follow_the_light(program: Program, brighter: bool) -> Fix | None:
    """An exposure a frame, where that reaches further than the held one does."""
    body, light = program.shot.kit.body, program.shot.light
    room = Fraction(floor(float(program.shutter_room_s.min()) * 10), 10)
    longest = max(min(room, Fraction(30)), Fraction(1, 10))
    ceiling = min(body.iso_max, max(3_200, light.iso))
    if brighter and longest * ceiling <= light.shutter_s * light.iso:
        return None
    return Fix(
        label="Let the shutter follow the light",
        price=f"every frame has its own exposure, up to {show_shutter(float(longest))} and ISO {ceiling}",
        shot=lit(program.shot, school="continuous", shutter_s=longest, iso=body.iso_min, iso_ceiling=ceiling),
    )


def _open_iso(program: Program, stops: float, bad: NDArray[np.bool_]) -> Fix | None:
    light, body = program.shot.light, program.shot.kit.body
    wanted = true_iso(light.iso_ceiling) * 2**stops
    ceiling = next((iso for iso in ISOS if true_iso(iso) >= wanted * 0.99 and iso <= body.iso_max), body.iso_max)
    if ceiling <= light.iso_ceiling:
        return None
    grain = float(np.log2(ceiling / light.iso_ceiling))
    return Fix(
        label=f"Open ISO to {ceiling}",
        price=f"{decimals(grain, 1)} stops more grain in {count(int(bad.sum()), 'frame')}",
        shot=lit(program.shot, iso_ceiling=ceiling),
    )


def _open_aperture(program: Program, stops: float) -> Fix | None:
    light, lens = program.shot.light, program.shot.kit.lens
    wanted = true_aperture(light.aperture) / 2 ** (stops / 2)
    choices = [one for one in APERTURES if lens.aperture_widest <= one < light.aperture]
    if not choices:
        return None
    aperture = next((one for one in reversed(choices) if true_aperture(one) <= wanted * 1.01), choices[0])
    gain = 2 * float(np.log2(true_aperture(light.aperture) / true_aperture(aperture)))
    return Fix(
        label=f"Open to f/{aperture:g}",
        price=f"{decimals(gain, 1)} stops; less is sharp in depth",
        shot=lit(program.shot, aperture=aperture),
    )


def _longer_shutter(program: Program, stops: float) -> Fix | None:
    body = program.shot.kit.body
    longest = Fraction(ceil(float(program.exposures.shutter_s.max()) * 2**stops))
    if not body.bulb:
        longest = min(longest, body.manual_shutter_max_s)
    if longest <= program.shot.light.shutter_s or longest > 600:
        return None
    if float(longest) <= float(program.shutter_room_s.min()):
        return Fix(
            label=f"Let the shutter go to {show_shutter(float(longest))}",
            price="stars trail further in each frame",
            shot=lit(program.shot, shutter_s=longest),
        )
    return _roomier(program, longest, "A frame every {}, with a longer shutter")


@finding
def frames_too_bright(program: Program) -> Finding | None:
    """Part of the shot comes out bright: the shutter cannot be shorter, or the exposure is held."""
    error = program.exposures.error_stops
    bad = error >= BAD_STOPS
    if not bad.any():
        return None
    first, last = _longest_stretch(bad)
    worst = float(error[first : last + 1].max())
    clipped = int((error > program.shot.kit.body.clips_over_stops).sum())
    light, lens = program.shot.light, program.shot.kit.lens
    narrower = [one for one in APERTURES if light.aperture < one <= lens.aperture_narrowest]
    wanted = true_aperture(light.aperture) * 2 ** (worst / 2)
    aperture = next((one for one in narrower if true_aperture(one) >= wanted * 0.99), None)
    close = None
    if aperture is not None and light.school in ("continuous", "stepped"):
        close = Fix(
            label=f"Close to f/{aperture:g}",
            price=f"the dark end loses {decimals(worst, 1)} stops too",
            shot=lit(program.shot, aperture=aperture),
        )
    return Finding(
        id="exposure.too-bright",
        severity="stop" if clipped > program.frame_count / 20 else "fix",
        lens="light",
        sentence=f"The brightest {_spoken((last - first + 1) * float(program.timing.interval_s))} "
        f"come out {decimals(worst, 1)} stops over.",
        figures=f"From {program.local(float(program.at_s[first])):%H:%M} to "
        f"{program.local(float(program.at_s[last])):%H:%M}, "
        f"at {show_shutter(float(program.exposures.shutter_s[first]))}"
        + (f"; {count(clipped, 'frame')} will be white." if clipped else "."),
        fixes=usable(_follow_the_light(program, False) if light.school == "fixed" else close),
        from_s=float(program.at_s[first]),
        to_s=float(program.at_s[last]),
    )
