"""From what one wants to film to a shot: the draft, the nights, gear to begin with."""

import asyncio
import time
from collections import Counter
from collections.abc import Sequence
from datetime import UTC, date, datetime
from typing import TypeVar
from uuid import UUID
from zoneinfo import ZoneInfo

from fastapi import APIRouter, Response
from pydantic import BaseModel, Field, TypeAdapter

from revani.api.deps import Costly, Db
from revani.core.begin.draft import draft, has_a_morning
from revani.core.begin.intention import FILM_S, MOVES, Intention, Moves
from revani.core.begin.resolve import Resolved, resolve
from revani.core.begin.stands import Stand, point_in_picture, point_of_thing, standings
from revani.core.begin.starters import BESIDE, STARTERS, starter
from revani.core.begin.which_night import MOST_NIGHTS, NightAhead, which_night
from revani.core.documents import (
    FIRST_YEAR,
    LAST_YEAR,
    AnyGear,
    Body,
    Card,
    Filter,
    Gear,
    Kit,
    Lens,
    Mover,
    Place,
    Record,
    Shot,
    said,
)
from revani.core.documents.take import Use
from revani.core.edit.fitting import compile_fitted
from revani.core.findings import AnyEdit, Neighbour, apply_any, judge
from revani.core.quantities.refusal import Refusal
from revani.core.quantities.units import decimals, duration, parse_duration
from revani.core.shown.sentence import Word, sentence, word_of
from revani.core.sky.alignment import Luminary
from revani.exports.calendar import Entry, calendar
from revani.store import records, shots

router = APIRouter(prefix="/api/begin")

G = TypeVar("G", bound=Gear)


class Choosable(BaseModel):
    """Something that may be chosen, and what is to be known of it."""

    id: str
    name: str
    told: str = ""


class KindOfSubject(BaseModel):
    """Something that may move in the picture; `morning` where it may be filmed then, too."""

    name: Moves
    morning: bool


class Choices(BaseModel):
    """All that a shot can begin with; `missing` says what has to be there first."""

    moves: list[KindOfSubject]
    uses: list[str]
    places: list[Choosable]
    bodies: list[Choosable]
    lenses: list[Choosable]
    cards: list[Choosable]
    movers: list[Choosable]
    starters: list[Choosable]
    beside: list[Choosable] = Field(description="What else is taken along, with usual figures.")
    missing: list[str]


class BeginAsk(BaseModel):
    """What one wants to film. What is left out is chosen: the kit that was last used together, the first place.

    `when` is `now`, `tonight`, `best` (of the next 30 nights) or a date. `edits` are changes of the draft.
    """

    moves: Moves
    of: str = Field("", max_length=80)
    place: UUID | None = None
    when: str = Field("tonight", max_length=20)
    comes: bool = False
    body: UUID | None = None
    lens: UUID | None = None
    card: UUID | None = None
    movers: list[UUID] = Field(default=[], max_length=5)
    film: str = Field("", max_length=40)
    use: Use = "for oneself"
    towards_deg: float | None = Field(None, ge=0, lt=360)
    edits: list[AnyEdit] = Field(default=[], max_length=40)


class Reasoned(BaseModel):
    """One thing that was decided: its value, which can be typed over where it is one, and why."""

    word: Word | None
    why: str


class Drafted(BaseModel):
    """A draft: the shot in words, what was decided, and what is still amiss."""

    shot: Shot
    sentence: list[list[Word]]
    decided: list[Reasoned]
    place: str
    body: str
    lens: str
    card: str
    film: str
    date: date
    fails: list[str]
    minds: list[str]


class _Owned(BaseModel):
    gear: list[AnyGear]
    places: list[Place]
    shots: list[shots.ListedShot]

    def of(self, kind: type[G]) -> list[G]:
        return [one for one in self.gear if isinstance(one, kind)]


async def _owned(db: Db) -> _Owned:
    """Gear, places and shots that are in use; the place that most is planned at first."""
    gear = [one.document for one in await records.everything(db, "gear")]
    places = [one.document for one in await records.everything(db, "place")]
    planned = [one for one in await shots.rows(db) if not one.archived]
    used = Counter(id for shot in planned for id in shot.used)
    places.sort(key=lambda one: -used[one["id"]])
    return _Owned(
        gear=TypeAdapter(list[AnyGear]).validate_python(gear),
        places=TypeAdapter(list[Place]).validate_python(places), shots=planned,
    )  # fmt: skip


@router.get("")
async def choices(db: Db) -> Choices:
    """What there is to begin with, and what stands in the way."""
    owned = await _owned(db)
    missing = [word for kind, word in ((Body, "body"), (Lens, "lens"), (Card, "card")) if not owned.of(kind)]
    return Choices(
        moves=[KindOfSubject(name=one, morning=has_a_morning(one)) for one in MOVES],
        uses=list(FILM_S), places=[Choosable(id=str(one.id), name=one.name) for one in owned.places],
        bodies=_named(owned, Body), lenses=_named(owned, Lens), cards=_named(owned, Card), movers=_named(owned, Mover),
        starters=[Choosable(id=name, name=name, told=told) for name, told in STARTERS.items()],
        beside=[Choosable(id=name, name=name, told=told) for name, told in BESIDE.items()],
        missing=missing + ([] if owned.places else ["place"]),
    )  # fmt: skip


def _named(owned: _Owned, kind: type[Gear]) -> list[Choosable]:
    """The gear of a kind, and for which shots of today and later it is planned."""
    found, today = [], datetime.now(UTC).date()
    for piece in owned.of(kind):
        planned = [
            f"{shot.name}, {shot.date:%-d %b}"
            for shot in owned.shots
            if shot.date >= today and str(piece.id) in shot.used
        ]
        found.append(Choosable(id=str(piece.id), name=piece.name, told="; ".join(planned[:3])))
    return found


def _today(place: Place) -> date:
    return datetime.fromtimestamp(time.time(), ZoneInfo(place.time_zone)).date()


@router.post("/gear/{name}", status_code=201)
async def begin_with(name: str, db: Db) -> list[AnyGear]:
    """Gear of a kind with sensible figures, saved as one's own."""
    if name not in STARTERS and name not in BESIDE:
        raise Refusal("name", f"One of: {', '.join((*STARTERS, *BESIDE))}.", name)
    pieces = starter(name)
    for piece in pieces:
        await records.insert(db, "gear", piece.id, said(piece))
    return TypeAdapter(list[AnyGear]).validate_python([said(piece) for piece in pieces])


@router.post("/draft", dependencies=[Costly])
async def drafted(ask: BeginAsk, db: Db) -> Drafted:
    """The whole shot from what one wants to film; nothing is saved."""
    owned = await _owned(db)
    return await asyncio.to_thread(_drafted, ask, owned)


def _drafted(ask: BeginAsk, owned: _Owned) -> Drafted:
    intention = _intended(ask, owned)
    found = draft(intention)
    shot = found.shot
    for edit in ask.edits:
        shot = apply_any(shot, edit)
    program = compile_fitted(shot)
    shot = program.shot
    judged = judge(program)
    return Drafted(
        shot=shot,
        sentence=[list(line) for line in sentence(shot, program.timing)],
        decided=[
            Reasoned(word=word_of(shot, one.field, program.timing) if one.field else None, why=one.why)
            for one in found.decided
        ],
        place=str(shot.place.id), body=str(shot.kit.body.id), lens=str(shot.kit.lens.id), card=str(shot.kit.card.id),
        film=duration(intention.wanted_s), date=shot.date,
        fails=[one.sentence for one in judged if one.fails],
        minds=[one.sentence for one in judged if one.severity == "mind"],
    )  # fmt: skip


def _intended(ask: BeginAsk, owned: _Owned) -> Intention:
    place = _place(ask.place, owned)
    kit = _kit(ask, owned)
    day, now_s = _day(ask, place)
    film_s = None
    if ask.film.strip():
        try:
            film_s = parse_duration(ask.film)
        except Refusal as refusal:
            raise Refusal("film", refusal.allowed, ask.film) from None
        if not 0 < film_s <= 36_000:
            raise Refusal("film", "A film of more than 0 s and at most 10 h.", ask.film)
    return Intention(
        moves=ask.moves, of=ask.of.strip(), place=place, day=day, now_s=now_s, comes=ask.comes, kit=kit, film_s=film_s,
        use=ask.use, towards_deg=ask.towards_deg,
    )  # fmt: skip


def _kit(ask: BeginAsk, owned: _Owned) -> Kit:
    """What was chosen, else what was last used together, else the first that there is."""
    used = [shot.used for shot in sorted(owned.shots, key=lambda one: one.saved_at, reverse=True)]
    bodies, lenses, cards = owned.of(Body), owned.of(Lens), owned.of(Card)
    body = _chosen(bodies, ask.body, "body") or next(
        (one for ids in used for one in bodies if str(one.id) in ids), _first(bodies, "body")
    )
    together = next((ids for ids in used if str(body.id) in ids), [])
    lens = _chosen(lenses, ask.lens, "lens") or next(
        (one for one in lenses if str(one.id) in together), _first(lenses, "lens")
    )
    quick = max(cards, key=lambda one: (one.write_mb_s, one.capacity_gb), default=None)
    card = _chosen(cards, ask.card, "card") or quick or _first(cards, "card")
    movers = [one for id in ask.movers if (one := _chosen(owned.of(Mover), id, "movers"))]
    return Kit(body=body, lens=lens, card=card, filters=tuple(owned.of(Filter)[:8]), movers=tuple(movers))


def _first(owned: Sequence[G], what: str) -> G:
    if not owned:
        raise Refusal(what, f"A shot needs a {what}: add one under Kit.")
    return owned[0]


R = TypeVar("R", bound=Record)


def _chosen(owned: Sequence[R], id: UUID | None, what: str) -> R | None:
    if id is None:
        return None
    found = next((one for one in owned if one.id == id), None)
    if found is None:
        raise Refusal(what, "It is not there any more: choose another.", str(id))
    return found


def _day(ask: BeginAsk, place: Place) -> tuple[date, float | None]:
    now_s = time.time()
    today = _today(place)
    if ask.when == "now":
        return today, now_s
    if ask.when in ("tonight", ""):
        return today, None
    if ask.when == "best":
        rows = which_night(place, today, 30, ask.moves)
        return min(rows, key=lambda one: one.rank).date, None
    try:
        day = date.fromisoformat(ask.when)
        if FIRST_YEAR < day.year < LAST_YEAR:
            return day, None
        raise Refusal("when", f"A date from {FIRST_YEAR + 1} to {LAST_YEAR - 1}.", ask.when)
    except ValueError:
        raise Refusal("when", "Choose now, tonight, best or a date such as 2026-12-08.", ask.when) from None


class NightsAsk(BaseModel):
    """For what, where, from which date on, how many."""

    moves: Moves
    place: UUID | None = None
    first: date | None = None
    count: int = Field(60, ge=1, le=MOST_NIGHTS)


@router.post("/nights", dependencies=[Costly])
async def nights(ask: NightsAsk, db: Db) -> list[NightAhead]:
    """The evenings ahead at a place, ranked."""
    return (await _nights(ask, db))[1]


async def _nights(ask: NightsAsk, db: Db) -> tuple[Place, list[NightAhead]]:
    place = _place(ask.place, await _owned(db))
    first = ask.first or _today(place)
    return place, await asyncio.to_thread(which_night, place, first, ask.count, ask.moves)


def _place(id: UUID | None, owned: _Owned) -> Place:
    if not owned.places:
        raise Refusal("place", "There is no place yet: add one.")
    return _chosen(owned.places, id, "place") or owned.places[0]


class ResolveAsk(BaseModel):
    """A shot, and the others that it is cut with."""

    shot: Shot
    neighbours: list[Neighbour] = Field(default=[], max_length=200)


@router.post("/resolve", dependencies=[Costly])
def resolved(ask: ResolveAsk) -> Resolved:
    """Up to three plans in which nothing fails, each of which keeps one thing."""
    return resolve(ask.shot, tuple(ask.neighbours))


class StandsAsk(BaseModel):
    """A shot, and a point: a thing of its move table, a place in its picture, or azimuth and height."""

    shot: Shot
    body: Luminary
    thing: int | None = None
    across: float | None = Field(None, ge=0, le=1)
    down: float | None = Field(None, ge=0, le=1)
    number: int = Field(1, ge=1, description="The frame whose picture is meant.")
    azimuth_deg: float | None = Field(None, ge=0, lt=360)
    altitude_deg: float | None = Field(None, ge=-5, le=90)
    within_deg: float = Field(0.5, gt=0, le=20)
    first: date | None = None
    days: int = Field(365, ge=1, le=400)


class Stands(BaseModel):
    """The point that was meant, and when it is passed."""

    azimuth_deg: float
    altitude_deg: float
    told: str
    rows: list[Stand]


@router.post("/stands", dependencies=[Costly])
def stands(ask: StandsAsk) -> Stands:
    """When sun, moon or galactic core stand at a point."""
    azimuth, altitude = _point(ask)
    first = ask.first or _today(ask.shot.place)
    rows = standings(ask.shot, ask.body, azimuth, altitude, ask.within_deg, first, ask.days)
    told = f"{decimals(azimuth, 1)}° from north, {decimals(altitude, 1)}° up"
    return Stands(azimuth_deg=round(azimuth, 3), altitude_deg=round(altitude, 3), told=told, rows=rows)


def _point(ask: StandsAsk) -> tuple[float, float]:
    if ask.thing is not None:
        return point_of_thing(compile_fitted(ask.shot), ask.thing)
    if ask.across is not None and ask.down is not None:
        return point_in_picture(compile_fitted(ask.shot), ask.number, ask.across, ask.down)
    if ask.azimuth_deg is None or ask.altitude_deg is None:
        raise Refusal("azimuth_deg", "Give a thing, a place in the picture, or azimuth and height.")
    return ask.azimuth_deg, ask.altitude_deg


@router.post("/stands/calendar", response_class=Response, dependencies=[Costly])
def stands_calendar(ask: StandsAsk) -> Response:
    """The same as iCalendar, a minute each."""
    found = stands(ask)
    entries = [
        Entry(f"{ask.shot.name}: the {ask.body} stands there", one.at_s - 30, one.at_s + 30, ask.shot.place.name,
              f"{one.told}; {found.told}")
        for one in found.rows
    ]  # fmt: skip
    return _calendar(entries)


@router.post("/nights/calendar", response_class=Response, dependencies=[Costly])
async def nights_calendar(ask: NightsAsk, db: Db) -> Response:
    """The nights that serve as iCalendar, each where it serves longest."""
    place, rows = await _nights(ask, db)
    entries = [
        Entry(f"{ask.moves}: night {one.rank}", one.from_s, one.to_s, place.name, one.reason)
        for one in rows
        if one.from_s is not None and one.to_s is not None
    ]
    return _calendar(entries)


def _calendar(entries: list[Entry]) -> Response:
    return Response(calendar(entries, time.time()), media_type="text/calendar; charset=utf-8")
