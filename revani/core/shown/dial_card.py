"""The dial card: what is set on a body that nobody is linked to, in the order in which it is dialled."""

from pydantic import BaseModel, ConfigDict

from revani.core.documents import Shot
from revani.core.light.dials import marked_aperture, marked_iso, show_shutter
from revani.core.light.firing import by_the_clock, fires_itself
from revani.core.program.compiled import Program
from revani.core.quantities.units import count, decimals, duration, plain_rate, stops
from revani.core.shown.outputs import widest_needed


class DialRow(BaseModel):
    """One setting: what is dialled, to what, and why or what to mind."""

    model_config = ConfigDict(frozen=True)

    dial: str
    to: str
    mind: str = ""


def dial_card(program: Program) -> tuple[DialRow, ...]:
    """The settings of a shot on its body, in order; none where Revani sets them itself.

    What is forgotten when the body is switched off is told at its place, and is dialled after the last switching on.
    """
    shot = program.shot
    if not by_the_clock(shot):
        return ()
    rows = [*_body(shot), *_timer(program), *_exposure(program), *_picture(shot), *_framed(program), *_start(program)]
    return tuple(rows)


def _body(shot: Shot) -> list[DialRow]:
    body, mode = shot.kit.body, shot.recording
    rows = [DialRow(dial="clock", to="set to the second", mind="frames are found again by it")]
    if body.modes:
        forgets = f"after the last switching on: it forgets {mode.forgets}" if mode.forgets else ""
        rows.append(DialRow(dial="mode", to=mode.name, mind=forgets))
    return rows


def _timer(program: Program) -> list[DialRow]:
    shot, timing = program.shot, program.timing
    if shot.live:
        length = DialRow(dial="length", to=duration(timing.event_s))
        return [DialRow(dial="rate", to=f"{plain_rate(timing.fps)} fps"), length]
    if shot.fires == "by hand":
        return [DialRow(dial="drive", to="single", mind=f"{count(timing.frame_count, 'frame')} by hand")]
    if shot.fires == "controller":
        return [
            DialRow(dial="drive", to="single", mind="the body's own interval mode stays off"),
            DialRow(dial="controller, interval", to=duration(timing.interval_s)),
            DialRow(dial="controller, frames", to=f"{timing.frame_count:,}"),
        ]
    rows = [DialRow(dial="interval", to=duration(timing.interval_s))]
    if shot.fires == "own lapse film":
        rows.append(DialRow(dial="film plays at", to=f"{plain_rate(timing.fps)} fps"))
    return [*rows, DialRow(dial="frames, or length", to=f"{timing.frame_count:,}, or {duration(timing.event_s)}")]


def _exposure(program: Program) -> list[DialRow]:
    shot, light = program.shot, program.shot.light
    aperture = DialRow(dial="aperture", to=f"f/{marked_aperture(light.aperture):g}")
    turned = [aperture] if shot.kit.lens.aperture_narrowest > shot.kit.lens.aperture_widest else []
    if light.school == "fixed":
        shutter = DialRow(dial="shutter", to=show_shutter(float(program.exposures.shutter_s[0])))
        return [
            DialRow(dial="exposure", to="manual"), *turned, shutter,
            DialRow(dial="ISO", to=str(marked_iso(light.iso))),
        ]  # fmt: skip
    if light.school == "continuous":
        held = DialRow(dial="exposure", to="bulb", mind="the controller times the shutter")
        return [held, *turned, DialRow(dial="ISO", to=str(light.iso))]
    rows = [DialRow(dial="exposure", to="automatic" if light.school == "automatic" else "aperture priority"), *turned]
    if light.school == "automatic":
        longest = show_shutter(float(program.exposures.shutter_s.max()))
        rows += [
            DialRow(dial="least ISO", to=str(light.iso)),
            DialRow(dial="highest ISO", to=str(light.iso_ceiling), mind=f"in the dark it will take {longest}"),
        ]
    else:
        rows.append(DialRow(dial="ISO", to=str(light.iso)))
    if light.compensation_stops:
        rows.append(DialRow(dial="compensation", to=stops(light.compensation_stops)))
    return rows


def _picture(shot: Shot) -> list[DialRow]:
    light = shot.light
    white = "automatic" if light.white_balance == "automatic" else f"{decimals(light.white_balance_k, 0)} K"
    rows = [DialRow(dial="white balance", to=white)]
    take = shot.take
    by_hand = "an autofocus hunts in the dark" if not shot.live else ""
    rows.append(DialRow(dial="focus", to=take.focus, mind=by_hand if take.focus == "manual" else ""))
    if not shot.live and shot.fires != "own lapse film":
        rows.append(DialRow(dial="files", to=shot.keeps))
    if not shot.live:
        stays = "on, a dark frame after each" if light.noise_reduction else "off"
        rows.append(DialRow(dial="long-exposure noise reduction", to=stays))
    steadied = {"off": "on a tripod it moves the picture by itself", "afterwards": "off in the body; keep files whole"}
    to = "off" if take.stabilising == "afterwards" else take.stabilising
    rows.append(DialRow(dial="stabilisation", to=to, mind=steadied.get(take.stabilising, "")))
    if shot.take.brackets > 1 and not shot.live and shot.fires != "own lapse film":
        rows.append(DialRow(dial="bracket", to=f"{take.brackets} frames at ± {stops(take.bracket_stops)}"))
    style = [("profile", take.profile), ("sharpness", take.sharpness), ("codec", take.codec)]
    rows += [DialRow(dial=dial, to=to) for dial, to in style if to and to != "as it comes"]
    if take.dewarp:
        rows.append(DialRow(dial="lens correction", to="straight", mind="the edge of the picture is lost"))
    return [*rows, *_sound(shot)]


def _framed(program: Program) -> list[DialRow]:
    """How much wider it is framed for what is made of it afterwards; nothing where it is not."""
    times = widest_needed(program)
    if times <= 1.0005:
        return []
    return [
        DialRow(
            dial="framing", to=f"{decimals(times, 2)} × wider",
            mind=f"what the film ends with fills {1 / times:.0%} of the finder, across and down",
        )
    ]  # fmt: skip


def _sound(shot: Shot) -> list[DialRow]:
    take = shot.take
    if not shot.live:
        return []
    if take.sound == "off":
        return [DialRow(dial="sound", to="off")]
    return [
        DialRow(dial="sound", to=take.sound, mind="with a wind filter" if take.wind_filter else ""),
        DialRow(dial="level", to=f"peaks at {decimals(take.level_dbfs, 0)} dBFS", mind="speak as loud as you will"),
        DialRow(dial="telephone", to="airplane mode", mind="within 30 cm it buzzes through the sound"),
    ]


def _start(program: Program) -> list[DialRow]:
    shot = program.shot
    start, end = program.local(program.start_s), program.local(program.end_s)
    press = "press" if fires_itself(shot) or shot.live else "first frame"
    off_s = shot.kit.body.clock_offset_s
    mind = f"its own clock then says {program.local(program.start_s + off_s):%H:%M:%S}" if abs(off_s) >= 1 else ""
    return [
        DialRow(dial=press, to=f"{start:%H:%M:%S}", mind=mind),
        DialRow(dial="ends", to=f"{end:%H:%M:%S}", mind=f"{start:%a %-d %b} to {end:%a %-d %b}, {end.tzname()}"),
    ]


def dial_card_text(program: Program) -> str:
    """The card as text to be printed or copied, a line a setting; a line that says so where nothing is dialled."""
    rows = dial_card(program)
    if not rows:
        return f"{program.shot.name}: Revani sets this camera itself; nothing is dialled.\n"
    wide, to = max(len(row.dial) for row in rows), max(len(row.to) for row in rows)
    lines = [
        f"{i + 1:>2}  {row.dial:<{wide}}  {row.to:<{to}}  {row.mind}".rstrip() for i, row in enumerate(rows)
    ]  # fmt: skip
    return "\n".join([program.shot.name, f"{program.shot.kit.body.name}, {program.shot.place.name}", "", *lines, ""])
