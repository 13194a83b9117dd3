"""Ways beside each other: a table of what they come to, the best of each row, and what makes the difference."""

from collections.abc import Callable, Sequence
from typing import NamedTuple

from pydantic import BaseModel, ConfigDict

from revani.core.edit.differing import differences_told
from revani.core.light.gathered import fainter_magnitudes
from revani.core.quantities.units import decimals, duration, gigabytes, in_stops, stops
from revani.core.rehearsal.ruling import ruling
from revani.core.ways.measured import Measured

# Less than this between two ways is none that anybody sees, stops.
_SAME_STOPS = 0.3


class WayCell(BaseModel):
    """What one way comes to, and whether none does better."""

    model_config = ConfigDict(frozen=True)

    text: str
    best: bool


class WayRow(BaseModel):
    """One thing that ways are compared by, a cell a way."""

    model_config = ConfigDict(frozen=True)

    label: str
    cells: tuple[WayCell, ...]


class _By(NamedTuple):
    """What is compared: in words, beside the first way, and as a rank, the less the better; None: none is better."""

    label: str
    told: Callable[[Measured, Measured], str]
    rank: Callable[[Measured], float] | None = None
    asked: Callable[[Measured], bool] = lambda way: True


def _found(way: Measured) -> str:
    fails, minds = way.fails_minds
    said = [f"{fails} will fail" if fails else "", f"{minds} to mind" if minds else ""]
    return " · ".join(one for one in said if one) or "nothing"


def _trails_rank(way: Measured) -> float:
    # Where trails are wanted a longer one is no fault.
    return 0.0 if way.shot.trails else round(way.trail_px, 1)


_ROWS = (
    _By("film, stay", lambda one, _: f"{duration(round(one.outcome.film_s, 1))}, {_stay(one)}"),
    _By("over at", lambda one, _: one.ends),
    _By("findings", lambda one, _: _found(one), lambda one: 1000 * one.fails_minds[0] + one.fails_minds[1]),
    _By("shutter in the dark", lambda one, _: one.shutter),
    _By("ISO up to", lambda one, _: f"{one.iso:,}"),
    _By(
        "flicker, smoothed", lambda one, _: f"{one.flicker[0]:.2f}, {one.flicker[1]:.2f}",
        lambda one: round(one.flicker[0], 2),
    ),
    _By("clipped frames", lambda one, _: f"{one.clipped:,}", lambda one: one.clipped),
    _By("largest step", lambda one, _: in_stops(one.largest_step_stops), lambda one: round(one.largest_step_stops, 1)),
    _By(
        "light gathered", lambda one, first: stops(one.gathered_stops - first.gathered_stops),
        lambda one: -round(one.gathered_stops, 1),
    ),
    _By("grain", lambda one, first: _grain(one, first), lambda one: -round(one.gathered_stops, 1)),
    _By(
        "faintest star", lambda one, first: _magnitudes(one, first), lambda one: -round(one.gathered_stops, 1),
        lambda one: bool(one.starry.any()),
    ),
    _By(
        "star moves", lambda one, _: f"{decimals(one.trail_px, 1)} px", _trails_rank,
        lambda one: bool(one.starry.any()),
    ),
    _By(
        "gap of trails", lambda one, _: f"{decimals(one.gap_px, 1)} px", lambda one: round(one.gap_px, 1),
        lambda one: bool(one.starry.any()) and one.shot.trails,
    ),
    _By(
        "foreground", lambda one, _: f"{stops(one.foreground_stops)} stops",
        lambda one: abs(round(one.foreground_stops, 1)),
        lambda one: bool(one.starry.any()),
    ),
    _By("sharp frames", lambda one, _: f"{one.sharp_share:.0%}", lambda one: -round(one.sharp_share, 2)),
    _By(
        "battery at the end", lambda one, _: f"{one.outcome.battery_left:.0%}",
        lambda one: -round(one.outcome.battery_left, 2),
    ),
    _By(
        "card left", lambda one, _: gigabytes(max(one.outcome.card_free_bytes, 0)),
        lambda one: -round(one.outcome.card_free_bytes / 1e9, 1),
    ),
    _By(
        "work at home", lambda one, _: f"{one.work_min} min", lambda one: one.work_min or 0,
        lambda one: one.work_min is not None,
    ),
)  # fmt: skip


def compared(ways: Sequence[Measured]) -> tuple[WayRow, ...]:
    """All ways in a table, the shot as it is first. A row that cannot be told of one of them says so there."""
    rows = []
    for by in _ROWS:
        asked = [by.asked(one) for one in ways]
        if not any(asked):
            continue
        texts = [by.told(one, ways[0]) if there else "–" for one, there in zip(ways, asked, strict=True)]
        ranks = [by.rank(one) if by.rank and there else None for one, there in zip(ways, asked, strict=True)]
        known = [rank for rank in ranks if rank is not None]
        apart = len(known) > 1 and min(known) < max(known)
        cells = [WayCell(text=text, best=apart and rank == min(known)) for text, rank in zip(texts, ranks, strict=True)]
        rows.append(WayRow(label=by.label, cells=tuple(cells)))
    return tuple(rows)


def cause(first: Measured, other: Measured) -> str:
    """What sets a way apart from the shot as it is, and what that makes of its darkest frame, in a sentence or two."""
    told = differences_told(first.program, other.program)
    if not told:
        return f"“{other.name}” is the same plan."
    if len(told) == 1:
        said = f"“{other.name}” differs in one thing: {told[0]}."
    else:
        said = f"“{other.name}” differs in {len(told)} things: {'; '.join(told[:4])}{' and more' * (len(told) > 4)}."
    more = other.gathered_stops - first.gathered_stops
    if abs(more) < _SAME_STOPS:
        return " ".join(one for one in (said, *_come_and_gone(first, other)) if one)
    why = ruling(other.program, other.darkest)[0].removesuffix(".")
    amount = f"{in_stops(abs(more))} {'more' if more > 0 else 'less'} light"
    told_light = f"In its darkest frame it gathers {amount}: {_within(why)}."
    return " ".join(one for one in (said, told_light, *_come_and_gone(first, other)) if one)


def _come_and_gone(first: Measured, other: Measured) -> tuple[str, str]:
    """The worst that fails in one of two ways alone."""
    before, after = ({one.id: one.sentence for one in way.findings if one.fails} for way in (first, other))
    gone = next((said for id, said in before.items() if id not in after), "")
    come = next((said for id, said in after.items() if id not in before), "")
    return (f"Gone is: “{gone}”" if gone else "", f"New is: “{come}”" if come else "")


def _within(sentence: str) -> str:
    """A sentence after a colon: it begins small, unless it begins with a name."""
    return sentence[0].lower() + sentence[1:] if sentence.startswith(("The ", "You ")) else sentence


def _stay(way: Measured) -> str:
    return duration(round(way.outcome.ends_at_s - way.program.start_s))


def _grain(way: Measured, first: Measured) -> str:
    """Grain of the sky against the first way's at equal brightness: as the root of the light, whatever the ISO."""
    return f"{decimals(2 ** ((first.gathered_stops - way.gathered_stops) / 2), 1)} ×"


def _magnitudes(way: Measured, first: Measured) -> str:
    fainter = float(fainter_magnitudes(way.gathered_stops - first.gathered_stops))
    return f"{fainter:+.1f} mag".replace("-", "−") if abs(fainter) >= 0.05 else "0 mag"
