"""A sequence as it is shown: its cuts, the wall time that each gathers, what is to be said, and the list of the day."""

from datetime import datetime
from itertools import pairwise
from typing import get_args
from uuid import UUID

import numpy as np
from pydantic import BaseModel, ConfigDict

from revani.core.documents import Place, ShotSequence
from revani.core.documents.sequence import Join, Shape, View
from revani.core.documents.take import Use
from revani.core.picture.skylight import light_strip
from revani.core.program.compiled import Program
from revani.core.quantities.measures import DISTANCE, SPEED
from revani.core.quantities.units import duration, plain_rate
from revani.core.sequence.across import Remark, judge_across
from revani.core.sequence.day import Clash, Step, clashes, day_list
from revani.core.sequence.film import Film, Piece, view_of
from revani.core.sequence.matched import match_of, seconds_told
from revani.core.sequence.way import way_between_m

_SHADES = 12
# A gap between two shots, however long, is drawn as this part of all that is filmed.
_GAP_PART = 0.02
_CHOICES = {"use": get_args(Use), "shape": get_args(Shape), "joins": get_args(Join), "view": get_args(View)}
_DOING = {"set up": "Set up", "film": "Film", "fetch": "Pack up"}


class SequencePart(BaseModel):
    """Base of what a sequence shows."""

    model_config = ConfigDict(frozen=True)


class ShownCut(SequencePart):
    """A cut in words. `in_text` and `out_text` stand in its fields; `view` is what it is taken for."""

    at: int
    shot: UUID
    name: str
    archived: bool
    trouble: str
    in_text: str
    out_text: str
    whole: str
    length: str
    begins: str
    joins: str
    view: View | None
    view_said: bool
    light: str
    place: str
    rate: str


class Skein(SequencePart):
    """The wall time of a cut and the film that becomes of it, as parts of the drawing's width, with its light."""

    at: int
    name: str
    wall_from: float
    wall_to: float
    film_from: float
    film_to: float
    clock: str
    colours: list[str]


class WallDay(SequencePart):
    """A date on the wall's edge, where it begins."""

    at: float
    label: str


class DayStep(SequencePart):
    """A line of the list of the day."""

    date: str
    clock: str
    doing: str
    shot: UUID
    name: str
    place: str
    gear: str
    way: str
    late: str
    meanwhile: str


class DoneStep(SequencePart):
    """One thing to do for a cut that matches, and how long it takes."""

    what: str
    takes: str


class MatchedCut(SequencePart):
    """How a cut that should match is framed and filmed; `at` is the second of the two."""

    at: int
    note: list[str]
    steps: list[DoneStep]
    differs: list[str]


class Twice(SequencePart):
    """Gear that is needed twice."""

    sentence: str
    figures: str


class SequenceView(SequencePart):
    """All that is shown of a sequence; `choices` are those of its words and its cuts', by the values' names."""

    sequence: ShotSequence
    choices: dict[str, tuple[str, ...]]
    length: str
    wanted: str
    set_up: str
    pace: str
    cuts: list[ShownCut]
    skeins: list[Skein]
    days: list[WallDay]
    remarks: list[Remark]
    matches: list[MatchedCut]
    day_list: list[DayStep]
    twice: list[Twice]


def sequence_view(film: Film) -> SequenceView:
    """A sequence with all that follows from it."""
    sequence = film.sequence
    set_up_s = float(sequence.set_up_s)
    programs = film.programs
    skeins, days = _skeins(film)
    return SequenceView(
        sequence=sequence,
        choices=_CHOICES,
        length=duration(round(film.length_s, 3)),
        wanted=duration(sequence.wanted_s) if sequence.wanted_s else "",
        set_up=duration(sequence.set_up_s),
        pace=SPEED.show(sequence.pace_m_s, 1),
        cuts=[_cut(one) for one in film.pieces],
        skeins=skeins,
        days=days,
        remarks=list(judge_across(film)),
        matches=[
            MatchedCut(
                at=one.at, note=list(one.note), differs=list(one.differs),
                steps=[DoneStep(what=step.what, takes=seconds_told(step)) for step in one.steps],
            )
            for join in film.joins
            if (one := match_of(join, set_up_s, sequence.pace_m_s)) is not None
        ],
        day_list=[_step(one) for one in day_list(programs, set_up_s, sequence.pace_m_s)],
        twice=[_twice(one) for one in clashes(programs, set_up_s, sequence.pace_m_s)],
    )  # fmt: skip


def _cut(piece: Piece) -> ShownCut:
    cut, program = piece.cut, piece.program
    told = {"light": "", "place": "", "rate": "", "whole": ""}
    if program is not None:
        first, last = (program.local(float(program.at_s[frame])) for frame in piece.frames)
        told = {
            "light": f"{first:%a %-d %b, %H:%M} – {last:%H:%M} {last.tzname()}",
            "place": program.shot.place.name,
            "rate": f"{plain_rate(program.timing.fps)} fps",
            "whole": duration(program.film_length_s),
        }
    return ShownCut(
        at=piece.at, shot=cut.shot, name=piece.name, archived=piece.archived, trouble=piece.trouble,
        in_text=duration(cut.in_s), out_text=duration(cut.out_s) if cut.out_s is not None else "",
        length=duration(round(piece.length_s, 3)), begins=duration(round(piece.from_s, 3)), joins=cut.joins,
        view=view_of(piece) if program is not None else cut.view, view_said=cut.view is not None, **told,
    )  # fmt: skip


def _skeins(film: Film) -> tuple[list[Skein], list[WallDay]]:
    """Each cut's wall time to scale, what lies between them drawn short; and the dates along it."""
    spans = [(float(p.at_s[one.frames[0]]), float(p.at_s[one.frames[1]] + p.slot_s[one.frames[1]]))
             for one, p in film.planned]  # fmt: skip
    whole = film.length_s
    if not spans or whole <= 0:
        return [], []
    edges = sorted({edge for span in spans for edge in span})
    filmed = [any(a <= left and right <= b for a, b in spans) for left, right in pairwise(edges)]
    total = sum(b - a for (a, b), on in zip(pairwise(edges), filmed, strict=True) if on)
    widths = [
        (b - a) if on else min(b - a, _GAP_PART * total) for (a, b), on in zip(pairwise(edges), filmed, strict=True)
    ]
    place = np.concatenate([[0.0], np.cumsum(widths)]) / max(sum(widths), 1e-9)
    skeins = []
    for (one, program), (a, b) in zip(film.planned, spans, strict=True):
        at = np.linspace(a, b, _SHADES)
        skeins.append(
            Skein(
                at=one.at, name=one.name, wall_from=float(np.interp(a, edges, place)),
                wall_to=float(np.interp(b, edges, place)), film_from=one.from_s / whole,
                film_to=(one.from_s + one.length_s) / whole, clock=f"{program.local(a):%H:%M}",
                colours=light_strip(program.sky.sun(at).altitude_deg),
            )
        )  # fmt: skip
    return skeins, _days(film, edges, place.tolist())


def _days(film: Film, edges: list[float], place: list[float]) -> list[WallDay]:
    zone = film.planned[0][1].zone
    found: list[WallDay] = []
    for one, program in sorted(film.planned, key=lambda pair: float(pair[1].at_s[pair[0].frames[0]])):
        at_s = float(program.at_s[one.frames[0]])
        label = f"{datetime.fromtimestamp(at_s, zone):%a %-d %b}"
        if not found or found[-1].label != label:
            found.append(WallDay(at=float(np.interp(at_s, edges, place)), label=label))
    return found


def _way(metres: float) -> str:
    return DISTANCE.show(metres, 0) if metres < 1000 else DISTANCE.show(round(metres, -1), 0)


def _step(step: Step) -> DayStep:
    task = step.task
    program = task.program
    begins = program.local(task.from_s)
    ends = program.local(task.to_s)
    way = f"{_way(step.way_m)}, {duration(round(step.way_s / 60) * 60 or 60)}" if step.way_m else ""
    movers = [one.name for one in program.shot.kit.movers]
    return DayStep(
        date=f"{begins:%a %-d %b %Y}", clock=f"{begins:%H:%M} – {ends:%H:%M} {ends.tzname()}",
        doing=_DOING[task.doing], shot=program.shot.id, name=program.shot.name, place=program.shot.place.name,
        gear=", ".join([program.shot.kit.body.name, program.shot.kit.lens.name, *movers]), way=way,
        late=f"{duration(round(step.late_s))} too late for it" if step.late_s >= 1 else "",
        meanwhile=", ".join(one.shot.name for one in step.meanwhile),
    )  # fmt: skip


def _twice(one: Clash) -> Twice:
    earlier, later = one.earlier, one.later
    when = later.local(one.wanted_s)
    way = way_between_m(earlier.shot.place, later.shot.place)
    return Twice(
        sentence=f"{' and '.join(one.names)} {'is' if len(one.names) == 1 else 'are'} needed twice.",
        figures=f"{earlier.shot.name} has {'it' if len(one.names) == 1 else 'them'} until "
        f"{earlier.local(one.free_s):%H:%M}, {later.shot.name} is set up from {when:%H:%M} on"
        + (f", {_way(way)} away." if way else "."),
    )


def entries_of(programs: tuple[Program, ...], sequence: ShotSequence) -> list[tuple[str, float, float, Place, str]]:
    """The list of the day as what stands in a calendar: what, from when to when, where, with which gear."""
    found = []
    for one in day_list(programs, float(sequence.set_up_s), sequence.pace_m_s):
        told = _step(one)
        task = one.task
        found.append(
            (f"{told.doing}: {told.name}", task.from_s, task.to_s, task.program.shot.place,
             told.gear + (f"; the way {told.way}" if told.way else ""))
        )  # fmt: skip
    return found
