"""What is said of stars, filters and the meter reading beside the light layer."""

from datetime import datetime

from pydantic import BaseModel, ConfigDict

from revani.core.documents import Shot
from revani.core.findings.relit import moment_at
from revani.core.light.dials import show_shutter
from revani.core.light.filters import advise
from revani.core.light.scene import reading_ev100
from revani.core.optics.star_limits import stars_in, trail_duration_s
from revani.core.program.compiled import Program
from revani.core.quantities.units import count, decimals, in_stops, stops
from revani.core.rehearsal.night import NightWay, night_ways
from revani.core.sky.dark import dark_windows


class NightRow(BaseModel):
    """One way to expose the darkest frame, in words."""

    model_config = ConfigDict(frozen=True)

    name: str
    iso: str
    shutter: str
    sky: str
    stars: str
    trail: str
    gap: str
    error: str


class FilterRow(BaseModel):
    """A filter or a stack: what it does, and the shot that begins with it."""

    model_config = ConfigDict(frozen=True)

    name: str
    stops: str
    told: str
    shot: Shot


def night_rows(program: Program) -> list[NightRow]:
    """The highest ISO against the lowest, for the darkest frame."""
    high, low = night_ways(program)
    return [_row("Highest ISO, short shutter", high, high), _row("Lowest ISO, long shutter", low, high)]


def _row(name: str, way: NightWay, beside: NightWay) -> NightRow:
    return NightRow(
        name=name, iso=str(way.iso), shutter=show_shutter(way.shutter_s),
        sky=stops(way.sky_stops - beside.sky_stops), stars=stops(way.star_stops - beside.star_stops),
        trail=f"{decimals(way.trail_px, 1)} px", gap=f"{decimals(way.gap_px, 1)} px", error=stops(way.error_stops),
    )  # fmt: skip


def stars_told(program: Program) -> list[str]:
    """Star limits, trails, the dark that can be used, and the moon."""
    stars, longest = stars_in(program.shot), float(program.exposures.shutter_s.max())
    corners = (stars.drift_px_s[0, 0], stars.drift_px_s[0, -1], stars.drift_px_s[-1, 0], stars.drift_px_s[-1, -1])
    arc = float(program.timing.event_s) / trail_duration_s(1.0)
    told = [
        f"Points stay points for {show_shutter(stars.npf_s)} by the NPF rule, {show_shutter(stars.rule_500_s)} by the "
        f"500 rule; the least declination in the picture is {decimals(stars.least_declination_deg, 0)}°.",
        f"In {show_shutter(longest)}, the longest shutter, stars move "
        f"{decimals(float(stars.drift_px_s.min()) * longest, 1)} to {decimals(stars.fastest_px_s * longest, 1)} px; "
        f"in the corners {', '.join(decimals(float(corner) * longest, 1) for corner in corners)} px.",
        f"Over the whole shot they turn by {decimals(arc, 0)}°.",
    ]
    windows = [
        f"{program.local(one.from_s):%H:%M} – {program.local(one.to_s):%H:%M}"
        for one in dark_windows(program.sky, program.shot.moonlight_up_to)
        if one.to_s - one.from_s > 600
    ]
    part = f"{program.shot.moonlight_up_to:.0%}"
    told.append(
        f"Dark with no more than {part} of a moon up: {', '.join(windows)}."
        if windows
        else f"There is no dark with no more than {part} of a moon up."
    )
    middle = (program.start_s + program.end_s) / 2
    phase = float(program.sky.moon_illuminated_fraction(middle))
    events = [one for one in program.sky.moon_crossings if abs(one.at_s - middle) < 86_400]
    moves = ", ".join(f"{one.name} {program.local(one.at_s):%a %H:%M}" for one in events)
    told.append(f"The moon is lit to {phase:.0%}" + (f": {moves}." if moves else "."))
    return told


def filter_rows(program: Program) -> list[FilterRow]:
    """The filters of the kit against the wanted shutter angle, best first; none where no angle is wanted."""
    if program.shot.light.angle_deg is None:
        return []
    rows = []
    for one in advise(program.shot, program.light_on, program.slot_s)[:4]:
        change: dict[str, object] = {"filters": [piece.id for piece in one.filters], "filters_off": None}
        told = f"near the wanted angle for {count(one.frames_near, 'frame')}"
        if one.off_frame is not None:
            when = moment_at(program, float(program.at_s[one.off_frame]))
            told += f"; off at {program.local(float(program.at_s[one.off_frame])):%H:%M}"
            change["filters_off"] = when.model_dump()
        names = " + ".join(piece.name for piece in one.filters)
        shot = program.shot.with_light(**change)
        rows.append(FilterRow(name=names, stops=f"{in_stops(one.stops)}", told=told, shot=shot))
    return rows


def reading_told(program: Program) -> str:
    """Where the scene's offset comes from."""
    reading, offset = program.shot.light.reading, stops(program.scene_offset_stops)
    if reading is None:
        return f"No reading yet: the scene is taken to be {offset} stops over the light on level ground."
    at: datetime = program.local(reading.at_s)
    who = f" by {reading.by}" if reading.by else ""
    ev = decimals(reading_ev100(reading), 1)
    return f"Read {at:%a %-d %b %H:%M}{who}: EV {ev}, {offset} stops over the light on level ground."
