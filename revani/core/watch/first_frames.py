"""May I go? The first frames of a run, by what their files say and show, held against what was planned."""

from collections.abc import Sequence
from typing import Literal, NamedTuple

import numpy as np
from pydantic import BaseModel, ConfigDict

from revani.core.light.dials import marked_aperture, marked_iso, show_shutter
from revani.core.optics.star_limits import stars_in
from revani.core.program.compiled import Program
from revani.core.quantities.units import count, decimals, duration, in_stops
from revani.core.watch.settings import allowed_stops, furthest_off, planned_for

Level = Literal["go", "mind", "stop"]

# So many frames are looked at first; and again whenever the light has fallen so far since it was last looked.
FALLEN_STOPS = 3.0
_MOST_LOOKS, _LATER = 8, 2
# What lens and development do to brightness is within this (memory).
_BRIGHTNESS_STOPS = 2.5
# A picture of which so much has no drawing shows nothing (memory).
_NOTHING = 0.97
_WHITE_MORE = 0.1
_SOFTER = 0.5
_MOVED_PART = 0.003
_STAR_MORE_PX = 3.0
_LATER_PART, _LATER_S, _LATE_PART = 0.05, 0.7, 0.25
_HOUR_S = 3_600.0


class FileSeen(NamedTuple):
    """What the file of a frame says and shows. None is what it does not say, or what cannot be told of it.

    `stops_off` is against the rehearsed picture, `white` and `black` are shares of the pixels, `white_meant` and
    `black_meant` those of the rehearsed one; `sharpness`, `right_px`, `down_px` and `same_as_before` are told of frames
    beside the first that was looked at; `star_px` is how long its stars are drawn, in pixels of a file `wide_px` wide.
    """

    number: int
    shutter_s: float | None
    aperture: float | None
    iso: float | None
    opened_s: float | None
    automatic_white: bool | None
    wide_px: int
    stops_off: float | None
    white: float
    black: float
    white_meant: float
    black_meant: float
    sharpness: float
    right_px: float | None
    down_px: float | None
    star_px: float | None
    same_as_before: bool


class GoFix(BaseModel):
    """What would mend it: the words on its button, its price, and what is typed into the field of its reason."""

    model_config = ConfigDict(frozen=True)

    label: str
    price: str
    typed: str


class GoReason(BaseModel):
    """Something that is not as it was planned: how bad, in words, the field of the shot that rules it, and a fix."""

    model_config = ConfigDict(frozen=True)

    level: Level
    text: str
    field: str = ""
    fix: GoFix | None = None


class GoVerdict(BaseModel):
    """Whether one may go, after so many frames, why not, and what a start anew would cost."""

    model_config = ConfigDict(frozen=True)

    level: Level
    after: int
    told: str
    reasons: tuple[GoReason, ...] = ()
    price: str = ""


def looked_after(program: Program) -> tuple[int, ...]:
    """After which frames (counted from 1) the files are looked at: the first few, and when the light has fallen.

    A film is one file, which is closed at its end: nothing of it is looked at.
    """
    if program.shot.makes_film or program.shot.live:
        return ()
    first = first_looked_at(program)
    found, light = [first], float(program.scene_ev[first - 1])
    for number in range(first + 1, program.frame_count + 1):
        if light - float(program.scene_ev[number - 1]) >= FALLEN_STOPS:
            found.append(number)
            light = float(program.scene_ev[number - 1])
        if len(found) == _MOST_LOOKS:
            break
    return tuple(found)


def first_looked_at(program: Program) -> int:
    """After how many frames it is first said whether one may go: five, or what the shot says."""
    return min(program.shot.light.first_frames, program.frame_count)


def frames_looked_at(program: Program, after: int) -> range:
    """Which frames are looked at after so many: all of the first few, later on the last two."""
    return range(1 if after <= first_looked_at(program) else after - _LATER + 1, after + 1)


def may_go(program: Program, after: int, seen: Sequence[FileSeen], missed: int = 0) -> GoVerdict:
    """The verdict on the frames up to one, of which the files of some were looked at and some were missed."""
    found = [one for one in (
        _missed(after, missed), _setting(program, seen), _white_balance(program, seen), _nothing_in_it(seen),
        _unchanging(seen), _in_time(program, seen), _brightness(seen), _clipped(seen), _soft(seen),
        _moved(program, seen), _stars(program, seen),
    ) if one is not None]  # fmt: skip
    if not seen:
        found.append(GoReason(level="mind", text="None of their files could be looked at."))
    level: Level = next((one for one in ("stop", "mind") if any(why.level == one for why in found)), "go")
    found.sort(key=lambda why: why.level != "stop")
    if level == "go":
        come = f"You can go: {count(len(seen), 'frame')} came as planned."
        later = f"Looked at again in less light: all as planned at frame {after:,}."
        return GoVerdict(level=level, after=after, told=come if after <= first_looked_at(program) else later)
    first = found[0].text
    told = f"{'Stop' if level == 'stop' else 'Mind'}: {first[0].lower() + first[1:]}"
    price = f"To begin anew costs the {count(after, 'frame')} so far." if level == "stop" else ""
    return GoVerdict(level=level, after=after, told=told, reasons=tuple(found), price=price)


def look_at_its_screen(program: Program) -> str:
    """What to look at where the body fires by itself, and nobody is linked to it."""
    got, film = program.exposures, program.shot.makes_film
    dials = (
        f"{show_shutter(float(got.shutter_s[0]))}, f/{marked_aperture(float(got.aperture[0])):g}, "
        f"ISO {marked_iso(float(got.iso[0])):,}"
    )
    every = "" if film else f", and that its counter goes on every {duration(float(program.slot_s[0]))}"
    return (
        "Nobody is linked to this camera, so nothing of its files is known here. Before you go, look at its screen: "
        f"that it {'films' if film else f'takes {dials}'}{every}, that the picture is sharp, and what it says is left."
    )


def _missed(after: int, missed: int) -> GoReason | None:
    if not missed:
        return None
    text = f"{missed} of the first {count(after, 'frame')} did not come."
    return GoReason(level="stop" if missed > after / 2 else "mind", text=text)


def _setting(program: Program, seen: Sequence[FileSeen]) -> GoReason | None:
    """Shutter, aperture and ISO by the files' own word, against the plan, in stops."""
    shot = program.shot
    found = [
        (off, one) for one in seen if (off := furthest_off(program, one.number, one.shutter_s, one.aperture, one.iso))
    ]
    if not found:
        text = "The files say nothing of their settings: look at the camera's screen."
        return GoReason(level="mind", text=text) if seen else None
    off, one = max(found, key=lambda both: both[0].stops)
    other, wrong = allowed_stops(shot)
    if off.stops < other:
        return None
    field, why, ceiling, fix = off.field, "", float(shot.light.iso_ceiling), None
    if field == "light.shutter_s" and shot.light.automatic and one.iso is not None and one.iso > 0.9 * ceiling:
        field, why = "light.iso_ceiling", f"; its ISO stands at the ceiling, {ceiling:,.0f}"
        fix = _other_ceiling(program, one, ceiling)
    text = f"Frame {one.number:,} came with {off.came}, {off.planned} was planned{why}."
    return GoReason(level="stop" if off.stops >= wrong else "mind", text=text, field=field, fix=fix)


def _other_ceiling(program: Program, one: FileSeen, ceiling: float) -> GoFix | None:
    """The ceiling under which the body comes to the shutter that was planned; None where it has no such ISO.

    One that raises its ISO as far as it may before it takes its time is given less room; one that has no more room and
    takes longer than was planned is given more.
    """
    assert one.shutter_s is not None
    body, planned_s = program.shot.body, planned_for(program, one.number).shutter_s
    other = marked_iso(ceiling * one.shutter_s / planned_s)
    if other == marked_iso(ceiling) or not max(body.iso_min, program.shot.light.iso) <= other <= body.iso_max:
        return None
    stops = in_stops(abs(float(np.log2(other / ceiling))))
    shutter = show_shutter(planned_s)
    if other < ceiling:
        return GoFix(label=f"Lower the ceiling to ISO {other:,}", typed=str(other),
                     price=f"{stops} less grain; the shutter takes its {shutter}")  # fmt: skip
    return GoFix(label=f"Raise the ceiling to ISO {other:,}", typed=str(other),
                 price=f"{stops} more grain; the shutter keeps to {shutter}")  # fmt: skip


def _white_balance(program: Program, seen: Sequence[FileSeen]) -> GoReason | None:
    if program.shot.light.white_balance == "automatic" or not any(one.automatic_white for one in seen):
        return None
    text = "Its white balance is automatic, where it was to stay as it is set: the film's colours will jump."
    return GoReason(level="mind", text=text, field="light.white_balance")


def _nothing_in_it(seen: Sequence[FileSeen]) -> GoReason | None:
    for one in seen:
        if one.black >= _NOTHING and one.black_meant < _NOTHING - 0.2:
            return GoReason(level="stop", text=f"Frame {one.number:,} is black: is the cap on the lens?")
        if one.white >= _NOTHING and one.white_meant < _NOTHING - 0.2:
            return GoReason(level="stop", text=f"Frame {one.number:,} is white: nothing is drawn in it.")
    return None


def _unchanging(seen: Sequence[FileSeen]) -> GoReason | None:
    same = sum(one.same_as_before for one in seen)
    if not same:
        return None
    text = f"The same picture came {same + 1} times, to the last pixel: the camera gives an old one."
    return GoReason(level="stop", text=text)


def _in_time(program: Program, seen: Sequence[FileSeen]) -> GoReason | None:
    """The files' own clock against the plan, from the first to the last that were looked at."""
    told = [(one.number, one.opened_s) for one in seen if one.opened_s is not None]
    if len(told) < 2:
        return None
    (first, begins), (last, ends) = told[0], told[-1]
    planned, came = float(program.t_s[last - 1] - program.t_s[first - 1]), ends - begins
    steps = last - first
    bearable = max(_LATER_PART * planned, _LATER_S * 2)
    # A camera that keeps the clock of its place goes forward or back an hour, and its file may not say so.
    if planned <= 0 or min(abs(came - planned), abs(abs(came - planned) - _HOUR_S)) < bearable:
        return None
    text = (
        f"By their own clock the frames come every {duration(round(came / steps, 1))}, "
        f"{duration(round(planned / steps, 1))} was planned."
    )
    level: Level = "stop" if abs(came - planned) > _LATE_PART * planned else "mind"
    return GoReason(level=level, text=text, field="timing.interval_s")


def _brightness(seen: Sequence[FileSeen]) -> GoReason | None:
    off = [one.stops_off for one in seen if one.stops_off is not None]
    if not off or abs(middle := float(np.median(off))) < _BRIGHTNESS_STOPS:
        return None
    way = "brighter" if middle > 0 else "darker"
    return GoReason(
        level="mind", text=f"They are {in_stops(abs(middle))} {way} than was rehearsed.", field="light.aperture"
    )


def _clipped(seen: Sequence[FileSeen]) -> GoReason | None:
    for one in seen:
        if one.white - one.white_meant > _WHITE_MORE:
            text = f"{one.white:.0%} of frame {one.number:,} is white, {one.white_meant:.0%} was rehearsed."
            return GoReason(level="mind", text=text, field="light.compensation_stops")
    return None


def _soft(seen: Sequence[FileSeen]) -> GoReason | None:
    if len(seen) < 2 or seen[0].sharpness <= 0:
        return None
    least = min(seen[1:], key=lambda one: one.sharpness)
    if least.sharpness >= _SOFTER * seen[0].sharpness:
        return None
    text = f"Frame {least.number:,} is softer than frame {seen[0].number:,}: focus, dew, or wind."
    return GoReason(level="mind", text=text)


def _moved(program: Program, seen: Sequence[FileSeen]) -> GoReason | None:
    if program.motion is not None or program.carried is not None:
        return None
    for one in seen[1:]:
        if one.right_px is None or one.down_px is None:
            continue
        off = float(np.hypot(one.right_px, one.down_px))
        if off > max(_MOVED_PART * one.wide_px, 2.0):
            beside = f"frame {one.number:,} lies {decimals(off, 0)} px beside frame {seen[0].number:,}"
            text = f"The camera has moved: {beside}."
            return GoReason(level="mind", text=text, field="framing.heading_deg")
    return None


def _stars(program: Program, seen: Sequence[FileSeen]) -> GoReason | None:
    shot = program.shot
    if shot.trails or program.motion is not None or program.carried is not None:
        return None
    for one in seen:
        if one.star_px is None:
            continue
        part = one.wide_px / shot.body.pixels_wide
        planned = stars_in(shot).fastest_px_s * float(program.exposures.shutter_s[one.number - 1]) * part
        if one.star_px > 2 * planned + _STAR_MORE_PX:
            text = (
                f"The stars of frame {one.number:,} are {decimals(one.star_px, 0)} px long, {decimals(planned, 1)} px "
                "at most were planned: it shakes."
            )
            return GoReason(level="mind", text=text)
    return None
