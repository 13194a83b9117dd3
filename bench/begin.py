"""From an intention to a shot that works: what drafting, resolving, ranking nights and finding passes cost."""

from datetime import date, timedelta
from time import perf_counter

from bench.compiling import _bare, _forget_sky
from bench.table import Row, median_s
from revani.core.begin.draft import draft
from revani.core.begin.intention import MOVES, Intention
from revani.core.begin.resolve import resolve
from revani.core.begin.which_night import which_night
from revani.core.documents import Kit
from revani.core.quantities.refusal import Refusal
from revani.core.sky.alignment import passes
from revani.jobs.sample import CARD_A, NOD, RAIL, SHED, TARN, WICKET, sample_shots

_DAY = date(2026, 11, 29)


def _drafts() -> float:
    """The slowest draft of all kinds, each on a day of its own, so that its sky is new."""
    kit, slowest = Kit(body=TARN, lens=WICKET, card=CARD_A, movers=(RAIL, NOD)), 0.0
    for i, moves in enumerate(MOVES):
        began = perf_counter()
        try:
            draft(Intention(moves=moves, place=SHED, day=_DAY + timedelta(days=9 * i), kit=kit))
        except Refusal:
            continue
        slowest = max(slowest, perf_counter() - began)
    return slowest


def rows() -> list[Row]:
    """Drafts and plans in seconds, nights against the bare ephemeris, a year of passes."""
    _drafts()
    bare = median_s(_bare)
    slowest = 0.0
    for shot in sample_shots(_DAY):
        began = perf_counter()
        resolve(shot)
        slowest = max(slowest, perf_counter() - began)
    ranked = median_s(lambda: which_night(SHED, _DAY, 60, "stars, as points"), prepare=_forget_sky, runs=5)
    from_s = 1_795_564_800.0
    began = perf_counter()
    for body in ("sun", "moon"):
        passes(SHED, body, 238, 2, 0.5, from_s, from_s + 365 * 86_400)  # type: ignore[arg-type]
    year = perf_counter() - began
    return [
        Row("the slowest draft of twelve", _drafts(), 0.5, "s"),
        Row("the slowest sample shot made to work", slowest, 1.5, "s"),
        Row(
            "60 nights ranked / bare sun and moon of 256 instants", ranked / bare, 12, detail=f"{ranked * 1000:.0f} ms"
        ),
        Row("a year of passes of sun and moon", year, 1.5, "s"),
    ]
