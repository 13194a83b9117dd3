"""The field sheet: a shot on paper, for cold hands and a red lamp; what is on it, whatever it is printed as."""

from collections.abc import Iterator
from math import ceil, hypot

from pydantic import BaseModel, ConfigDict

from revani.core.findings import judge
from revani.core.move.words import show_moment, show_position
from revani.core.optics.code_card import module_needed_mm, readable_from_m
from revani.core.program.compiled import Program
from revani.core.quantities.measures import DISTANCE, LENGTH, TEMPERATURE
from revani.core.quantities.units import count, duration
from revani.core.rigup.cautions import cautions
from revani.core.rigup.code_card import CodeCard
from revani.core.rigup.steps import rig_up
from revani.core.shown.dial_card import dial_card
from revani.core.shown.outputs import wider_told, widest_needed
from revani.core.shown.sentence import aside, sentence
from revani.core.shown.walk_table import station

# More stations than these are not printed one by one.
_MOST_STATIONS = 60


class Part(BaseModel):
    """A part of the sheet: lines of text, or a table with its heads; `ticked` has a box before each line."""

    model_config = ConfigDict(frozen=True)

    title: str
    lines: tuple[str, ...] = ()
    heads: tuple[str, ...] = ()
    rows: tuple[tuple[str, ...], ...] = ()
    ticked: bool = False


class PrintedCard(BaseModel):
    """A code card as it is printed, and from how far the body reads it at so many millimetres a side."""

    model_config = ConfigDict(frozen=True)

    title: str
    does: str
    text: str
    reads: str


class FieldSheet(BaseModel):
    """All that stands on the sheet. `wider` is the rectangle of the finder that the film ends with, if any."""

    model_config = ConfigDict(frozen=True)

    name: str
    under: str
    parts: tuple[Part, ...]
    wider: float | None
    cards: tuple[PrintedCard, ...]
    cards_told: str


# How wide a card is printed, and from how far one may want it read.
CARD_MM, _AWAY_M = 34.0, 2.0


def field_sheet(program: Program, cards: tuple[CodeCard, ...] = (), modules: tuple[int, ...] = ()) -> FieldSheet:
    """The sheet of a program; `modules` is how many modules a side each card has, its border with it."""
    shot = program.shot
    times = 1.0 if program.round else widest_needed(program)
    printed = tuple(
        PrintedCard(title=card.title, does=card.does, text=card.text, reads=_reads(program, CARD_MM / wide))
        for card, wide in zip(cards, modules, strict=True)
    )
    return FieldSheet(
        name=shot.name,
        under=f"{shot.place.name} · {program.local(program.start_s):%A %-d %B %Y} · "
        f"times in {program.local(program.start_s).tzname()}",
        parts=tuple(_parts(program, times)),
        wider=1 / times if times > 1.0005 else None,
        cards=printed,
        cards_told=_cards_told(program, modules) if printed else "",
    )  # fmt: skip


def _reads(program: Program, module_mm: float) -> str:
    metres = readable_from_m(program.shot.focal_length_mm, _pitch_um(program), module_mm)
    return f"read from up to {DISTANCE.show(metres, 1)}"


def _pitch_um(program: Program) -> float:
    body = program.shot.body
    return body.sensor_width_mm / body.pixels_wide * 1000


def _cards_told(program: Program, modules: tuple[int, ...]) -> str:
    """For what and how long the cards are good, and how large one is printed to be read from some way off."""
    wide_mm = max(modules) * module_needed_mm(program.shot.focal_length_mm, _pitch_um(program), _AWAY_M)
    return (
        "Each card is good once, for this shot on this rig, until twelve hours after its end. To be read from "
        f"{DISTANCE.show(_AWAY_M, 0)} away print it {LENGTH.show(wide_mm, 0)} wide."
    )


def _parts(program: Program, times: float) -> Iterator[Part]:
    shot = program.shot
    yield Part(title="The shot", lines=tuple(_in_words(program)))
    yield Part(title="Times", heads=("what", "clock"), rows=tuple(_times(program)))
    wrong = [one for one in judge(program) if one.fails]
    if wrong:
        yield Part(title="Will fail", lines=tuple(f"{one.sentence} {one.figures}" for one in wrong))
    dials = dial_card(program)
    if dials:
        rows = tuple((row.dial, row.to, row.mind) for row in dials)
        yield Part(title="Dial card", heads=("dial", "to", "mind"), rows=rows)
    if shot.move is not None and shot.move.keys:
        yield Part(title="Keys", heads=("", "clock", "when", *map(str, shot.kit.axes)), rows=tuple(_keys(program)))
    if shot.things:
        yield Part(
            title="By the tape measure, from where the slider begins",
            heads=("what", "ahead", "aside", "away"), rows=tuple(_things(program)),
        )  # fmt: skip
    if program.carried is not None:
        yield from _stations(program)
    if times > 1.0005:
        yield Part(title="Framed wider", lines=(wider_told(program, times),))
    steps = rig_up(program)
    yield Part(
        title="Rig up", ticked=True,
        lines=tuple(f"{one.says} {('Otherwise: ' + one.otherwise) if one.otherwise else ''}".strip() for one in steps),
    )  # fmt: skip
    yield Part(title="Take care", lines=tuple(f"{one.title}: {one.says} {one.defers}" for one in cautions(program)))
    if shot.note:
        yield Part(title="Note", lines=(shot.note,))


def _in_words(program: Program) -> Iterator[str]:
    lines = [*sentence(program.shot, program.timing), *aside(program.shot, program.timing).values()]
    for line in lines:
        text = "".join(word.text for word in line).strip()
        if text:
            yield text


def _times(program: Program) -> Iterator[tuple[str, str]]:
    def clock(at_s: float) -> str:
        days = (program.local(at_s).date() - program.local(program.start_s).date()).days
        return f"{program.local(at_s):%H:%M:%S}" + (f" + {count(days, 'day')}" if days else "")

    rows = [(program.start_s, "first frame"), (program.end_s, "ends")]
    rows += [(one.at_s, one.name) for one in program.events if program.start_s - 7200 <= one.at_s <= program.end_s]
    if program.shot.kit.movers:
        for i, after in enumerate(program.key_moments_s):
            rows.append((program.start_s + after, f"key {i + 1}"))
    for at_s, what in sorted(rows):
        yield what, clock(at_s)
    yield "coldest", TEMPERATURE.show(float(program.temperature_c.min()), 0)


def _keys(program: Program) -> Iterator[tuple[str, ...]]:
    shot = program.shot
    assert shot.move is not None
    for i, (key, after) in enumerate(zip(shot.move.keys, program.key_moments_s, strict=True)):
        at = program.motion.at(after) if program.motion is not None else {}
        places = []
        for axis in shot.kit.axes:
            value = float(at[axis]) if axis in at else key.positions.get(axis)
            places.append("" if value is None else show_position(axis, value))
        hold = f", holds {duration(key.hold_s)}" if key.hold_s else ""
        clock = f"{program.local(program.start_s + after):%H:%M:%S}"
        yield str(i + 1), clock, show_moment(key.at, shot) + hold, *places


def _things(program: Program) -> Iterator[tuple[str, ...]]:
    for thing in program.shot.things:
        side = "right" if thing.x_mm >= 0 else "left"
        yield (
            thing.name, LENGTH.show(thing.y_mm, 0), f"{LENGTH.show(abs(thing.x_mm), 0)} {side}",
            DISTANCE.show(hypot(thing.x_mm, thing.y_mm) / 1000, 2),
        )  # fmt: skip


def _stations(program: Program) -> Iterator[Part]:
    n = program.frame_count
    every = max(1, ceil(n / _MOST_STATIONS))
    filmed = program.carried is not None and program.carried.walk.filmed
    heads = ("", "clock", "along", "bearing", "dial", "its height", "away")
    rows = []
    for i in range(0, n, every):
        one = station(program, i)
        rows.append((str(one.number), one.clock, one.along, one.bearing, one.dial, one.height, one.away))
    title = "Along the way" if filmed or every > 1 else "Stations"
    yield Part(title=title if every == 1 else f"{title}, every {every:,}. frame", heads=heads, rows=tuple(rows))
