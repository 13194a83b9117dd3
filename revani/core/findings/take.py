"""What focus, stabilising, sound, the use of the film and a forgetful body do to a shot."""

from fractions import Fraction
from math import floor

import numpy as np

from revani.core.documents import Shot, Take
from revani.core.documents.take import Use
from revani.core.edit.retime import price, retimed
from revani.core.findings.finding import Finding, Fix, finding, usable
from revani.core.findings.walk import sped_up_to
from revani.core.light.dials import show_shutter
from revani.core.light.firing import by_the_clock, interval_over_s, modes_for
from revani.core.program.compiled import Program
from revani.core.quantities.units import count, decimals, duration, in_stops, plain_rate

# Usual lengths in seconds, the least and the most (common practice, no source).
USUAL_S: dict[Use, tuple[int, int]] = {
    "part of a longer film": (4, 15),
    "a feed": (5, 60),
    "an upright reel": (5, 60),
    "a talk": (30, 1_200),
}
# Of the peaks of speech (common practice, no source).
_LEVELS_DBFS = (-12.0, -6.0)
_FOCUS_FROM_SUN_DEG = -6.0


def _taken(shot: Shot, **change: object) -> Shot:
    return shot.with_take(**change)


@finding("light", "take.focus-hunts", "take.focus-loses", source="common practice")
def focus_hunts(program: Program) -> Finding | None:
    """An autofocus that works during a lapse or in the dark goes to and fro."""
    shot = program.shot
    if shot.take.focus == "manual":
        return None
    manual = Fix(
        id="manual-focus", label="Focus by hand", price="it is set once, in the light, and taped",
        shot=_taken(shot, focus="manual"),
    )  # fmt: skip
    dark = program.sun_altitude_deg < _FOCUS_FROM_SUN_DEG
    if not shot.live:
        return Finding(
            severity="fix",
            turns="Quiet with focus set by hand.",
            sentence="An autofocus hunts from frame to frame.",
            figures="Each frame is focused anew, so that the picture breathes"
            + (f"; in {count(int(dark.sum()), 'frame')} it is too dark for it." if dark.any() else "."),
            offer=lambda: usable(manual),
        )
    if shot.take.focus != "continuous on a face":
        return None
    if not shot.recording.tracks:
        offered = [mode for mode in modes_for(shot) if mode.tracks]
        others = [
            Fix(
                id=f"in-{mode.name}", label=f"Film in {mode.name}",
                price=f"{mode.pixels_wide:,} × {mode.pixels_high:,} px",
                shot=shot.model_copy(update={"mode": mode.name}),
            )
            for mode in offered[:2]
        ]  # fmt: skip
        return Finding(
            id="take.focus-loses",
            severity="fix",
            turns="Quiet in a mode that follows a face, or with focus set by hand.",
            sentence=f"{shot.recording.name} does not follow a face.",
            figures="Focus stays where it was when the film began.",
            offer=lambda: usable(*others, manual),
        )
    if not dark.any():
        return None
    return Finding(
        severity="fix" if dark.all() else "mind",
        turns=f"Quiet while the sun is over {_FOCUS_FROM_SUN_DEG:g}°.".replace("-", "−"),
        sentence="Continuous focus hunts in the dark.",
        figures=f"The sun is under {_FOCUS_FROM_SUN_DEG:g}° in {float(dark.mean()):.0%} of the film; light the face, "
        "or focus by hand.".replace("-", "−"),
        offer=lambda: usable(manual),
        from_s=float(program.at_s[np.argmax(dark)]),
        to_s=float(program.at_s[dark.size - 1 - int(np.argmax(dark[::-1]))]),
    )


@finding("light", "take.steadied-on-a-stand", source="common practice")
def steadied_on_a_stand(program: Program) -> Finding | None:
    """Stabilising in the body moves the picture of a camera that stands, and fights one that is carried by a rig."""
    shot = program.shot
    moves = program.motion is not None
    if not shot.take.stabilised or (shot.live and not moves):
        return None
    lost = shot.recording.crop
    return Finding(
        severity="fix",
        turns="Quiet with stabilising off, or where a hand carries it.",
        sentence="Stabilising fights the mover." if moves else "On a stand, stabilising moves the picture by itself.",
        figures="It takes a planned move for a shake." if moves else "From frame to frame it settles elsewhere.",
        offer=lambda: usable(
            Fix(
                id="stabilising-off",
                label="Stabilising off",
                price=f"the picture is {1 / (1 - lost):.0%} as wide" if lost else "nothing is lost",
                shot=_taken(shot, stabilising="off"),
            )
        ),
    )


@finding("light", "take.too-long-to-steady", source="1/(4 × rate) at the longest: memory")
def too_long_to_steady(program: Program) -> Finding | None:
    """What moves while the shutter is open stays blurred, however steady the picture is made afterwards."""
    shot, rate = program.shot, 1 / program.timing.interval_s
    if not shot.live or shot.take.stabilising == "off":
        return None
    # 1/(4 × rate) at the longest (memory).
    longest = 1 / (4 * rate)
    used = float(program.exposures.shutter_s.max())
    if used <= float(longest) * 1.02:
        return None
    lost = float(np.log2(used / float(longest)))
    return Finding(
        severity="mind",
        turns=f"Up to {show_shutter(float(longest))} it is quiet; this is {in_stops(lost)} more.",
        sentence=f"A shutter of {show_shutter(used)} is too long to be steadied.",
        figures=f"Shakes blur within a picture; at {plain_rate(rate)} fps, {show_shutter(float(longest))} at most.",
        offer=lambda: usable(
            Fix(
                id="shutter-to-steady",
                label=f"Up to {show_shutter(float(longest))}",
                price=f"{in_stops(lost)} less light, and less blur of what moves",
                shot=shot.with_light(shutter_s=longest),
            )
            if not shot.light.automatic
            else None
        ),
    )


@finding(
    "feed",
    "take.sound-slowed",
    "take.wind",
    "take.level",
    source="arithmetic; speech peaks at −12 to −6 dBFS: common practice",
)
def sound_suffers(program: Program) -> Finding | None:
    """Sound that is slowed, blown over, or too loud or low."""
    shot, take, timing = program.shot, program.shot.take, program.timing
    if not shot.live or take.sound == "off":
        return None
    slowed = 1 / timing.interval_s / timing.fps
    if slowed != 1:
        off = Fix(id="sound-off", label="No sound", price="the film is silent", shot=_taken(shot, sound="off"))
        return Finding(
            id="take.sound-slowed",
            severity="mind",
            turns="Quiet where it is played as fast as it is recorded.",
            sentence=f"The sound is slowed {decimals(slowed, 1)} × with the picture, or left out.",
            figures=f"Recorded at {plain_rate(1 / timing.interval_s)} fps, played at {plain_rate(timing.fps)}.",
            offer=lambda: usable(off),
        )
    low, high = _LEVELS_DBFS
    if not low <= take.level_dbfs <= high:
        loud = take.level_dbfs > high
        level = Take.model_fields["level_dbfs"].default
        return Finding(
            id="take.level",
            severity="mind",
            turns=f"From {low:g} to {high:g} dBFS nothing is said.".replace("-", "−"),
            sentence="Loud words will be cut off." if loud else "The sound will be drowned in noise once it is raised.",
            figures=f"Peaks at {decimals(take.level_dbfs, 0)} dBFS are wanted; speech peaks at −12 to −6.",
            offer=lambda: usable(
                Fix(
                    id="level", label=f"Peaks at {decimals(level, 0)} dBFS", price="room for a laugh is left",
                    shot=_taken(shot, level_dbfs=level),
                )
            ),
        )  # fmt: skip
    if take.sound != "a recorder beside it" and not take.wind_filter:
        return Finding(
            id="take.wind",
            severity="mind",
            turns="Quiet with a wind filter, or a recorder beside the camera.",
            sentence="Outdoors, wind is louder than a voice.",
            figures="A microphone without a fur or foam before it rumbles from a light breeze on.",
            offer=lambda: usable(
                Fix(
                    id="wind-filter", label="With a wind filter", price="a small part more to bring",
                    shot=_taken(shot, wind_filter=True),
                )
            ),
        )  # fmt: skip
    return None


@finding("time", "take.too-long-for-use", "take.lies", source="usual lengths: common practice, no source")
def unlike_its_use(program: Program) -> Finding | None:
    """A film that is longer than its use bears, or lies where it should stand."""
    shot = program.shot
    usual = USUAL_S.get(shot.take.use)
    if usual is not None and program.film_length_s > usual[1]:
        return _too_long(program, usual)
    if shot.take.use != "an upright reel" or shot.take.upright:
        return None
    body = shot.body
    left = min(body.pixels_wide, floor(body.pixels_high * 9 / 16))
    return Finding(
        id="take.lies",
        severity="mind",
        turns="Quiet where it is held upright, or the film is for something else.",
        sentence="An upright reel is wanted of a picture that lies.",
        figures=f"Cut to 9:16, {left:,} × {body.pixels_high:,} px are left of {body.pixels_wide:,} × "
        f"{body.pixels_high:,}.",
        offer=lambda: usable(
            Fix(
                id="upright", label="Hold it upright", price="less is seen to the sides, more above and below",
                shot=_taken(shot, upright=True),
            )
        ),
    )  # fmt: skip


def _too_long(program: Program, usual: tuple[int, int]) -> Finding:
    shot, timing = program.shot, program.timing
    frames = floor(usual[1] * timing.fps)
    sooner = wider = None
    film_s, walk = program.film_length_s, shot.walk
    if walk is not None and walk.filmed:
        wider = sped_up_to(program, Fraction(usual[1]))
    elif frames >= 1:
        short = retimed(
            shot, fps=timing.fps, interval_s=timing.interval_s, frame_count=frames, playback_s=None, event_s=None
        )
        sooner = Fix(id="stop-sooner", label=f"Stop after {usual[1]} s of film", price=price(timing, short), shot=short)
    if walk is None and frames >= 1 and not shot.live and shot.pace is None:
        interval = interval_over_s(shot, timing.event_s / frames)
        apart = retimed(
            shot, fps=timing.fps, interval_s=interval, event_s=timing.event_s, frame_count=None, playback_s=None
        )
        fits = Fraction(timing.event_s) // interval <= frames
        label = f"A frame every {duration(interval)}, same hours"
        wider = Fix(id="further-apart", label=label, price=price(timing, apart), shot=apart) if fits else None
    return Finding(
        id="take.too-long-for-use",
        severity="mind",
        turns=f"Up to {duration(usual[1])} nothing is said; {duration(film_s - usual[1])} are over that.",
        sentence=f"{duration(film_s)} are long for {shot.take.use}.",
        figures=f"Usual are {usual[0]} s to {duration(usual[1])}; who watches is gone by then.",
        offer=lambda: usable(wider, sooner),
    )


@finding("feed", "take.forgets", source="the body's own figure")
def forgets_when_off(program: Program) -> Finding | None:
    """A body that forgets settings when it is switched off has to be dialled after the last switching on."""
    shot = program.shot
    forgets = shot.recording.forgets
    if not forgets or not by_the_clock(shot):
        return None
    return Finding(
        severity="mind",
        turns="Quiet with a mode that keeps what is dialled.",
        sentence=f"{shot.kit.body.name} forgets {forgets} when it is switched off.",
        figures=f"In {shot.recording.name}: dial it after the last switching on, and do not let it fall asleep.",
    )
