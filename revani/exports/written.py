"""The formats that a shot is written out in, each registered once: command line, API and page offer these."""

from collections.abc import Callable
from dataclasses import dataclass
from typing import Literal

from revani.core.program.compiled import Program
from revani.core.quantities.refusal import Refusal
from revani.core.shown.dial_card import dial_card_text
from revani.exports.beats import beats_vtt, beats_wav
from revani.exports.findings import findings_json
from revani.exports.gcode import move_gcode
from revani.exports.move_csv import move_csv
from revani.exports.outputs import outputs_csv, outputs_json, outputs_otio
from revani.exports.program import program_csv, program_json
from revani.exports.stations_csv import stations_csv
from revani.exports.walk_gpx import walk_gpx

# What of a shot is written: the program, what is said of it, or its move or walk alone.
About = Literal["program", "findings", "move", "dials", "walk", "outputs"]


@dataclass(frozen=True)
class Format:
    """A format by its name: what it is called on a button, what it is about, its ending, and who writes it."""

    name: str
    label: str
    about: About
    ending: str
    media_type: str
    write: Callable[[Program], str | bytes]


_ALL = (
    Format("program-json", "Program as JSON", "program", "json", "application/json", program_json),
    Format("program-csv", "Program as CSV", "program", "csv", "text/csv", program_csv),
    Format("findings-json", "Findings as JSON", "findings", "json", "application/json", findings_json),
    Format("dials-text", "Dial card as text", "dials", "txt", "text/plain", dial_card_text),
    Format("move-csv", "Move as CSV", "move", "csv", "text/csv", move_csv),
    Format("walk-gpx", "Path as GPX", "walk", "gpx", "application/gpx+xml", walk_gpx),
    Format("walk-csv", "Stations as CSV", "walk", "csv", "text/csv", stations_csv),
    Format("walk-wav", "Beat as sound", "walk", "wav", "audio/wav", beats_wav),
    Format("walk-vtt", "Beat as cues", "walk", "vtt", "text/vtt", beats_vtt),
    Format("outputs-json", "Keys as JSON", "outputs", "json", "application/json", outputs_json),
    Format("outputs-csv", "Frames as CSV", "outputs", "csv", "text/csv", outputs_csv),
    Format("outputs-otio", "Timeline", "outputs", "otio", "application/json", outputs_otio),
    Format("move-gcode", "Move as G-code", "move", "ngc", "text/plain", move_gcode),
)
FORMATS: dict[str, Format] = {one.name: one for one in _ALL}


def format_of(about: About, kind: str) -> Format:
    """The format of one kind, `csv`, of what is written. Raises Refusal("format") that names those there are."""
    known = {name.removeprefix(f"{about}-"): one for name, one in FORMATS.items() if one.about == about}
    if kind not in known:
        raise Refusal("format", f"{' or '.join(known)}.", kind)
    return known[kind]
