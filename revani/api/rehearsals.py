"""Rehearsed films: asked for, followed, cancelled, fetched."""

import asyncio
from typing import Annotated, NamedTuple

from fastapi import APIRouter, Path
from fastapi.responses import FileResponse, Response
from pydantic import BaseModel, Field

from revani.api.deps import Costly, Db
from revani.api.kept import Kept
from revani.api.looked import cut_out, offer_looks, under_loupe
from revani.api.named import named
from revani.core.documents import Shot
from revani.core.edit.fitting import compile_fitted
from revani.core.findings import judge
from revani.core.picture.looked_at import horizon
from revani.core.picture.planned import piece_of
from revani.core.picture.skylight import Picture
from revani.core.quantities.refusal import Refusal
from revani.core.rehearsal.film import RehearsedFilm
from revani.core.rehearsal.practice import MISHAPS, Mishap, practised
from revani.core.rehearsal.ruling import ruling
from revani.core.shown.readout import Readout, gathered, readout
from revani.core.ways.lockstep import Lock
from revani.core.ways.split import FEWEST, MOST
from revani.exports.contact_sheet import contact_sheet
from revani.exports.film_name import film_name
from revani.jobs import rehearse
from revani.store import rehearsals
from revani.store.pool import Connection
from revani.store.records import NotThere
from revani.store.rehearsals import Rehearsed

router = APIRouter(prefix="/api/rehearsals")

FilmId = Annotated[str, Path(pattern="^[0-9a-f]{64}$")]


class RehearsalAsk(BaseModel):
    """The shot whose film is wanted, and how wide."""

    shot: Shot
    width: int = Field(480, ge=160, le=1920)
    mishaps: list[Mishap] = Field(default=[], max_length=len(MISHAPS), description="What goes wrong, to practise it.")
    output: int | None = Field(None, ge=0, le=100, description="Of the shot, from 0; without: as its frames are taken.")


class RehearsalView(BaseModel):
    """A film as it stands. `left_s` is how long it will take still, once that can be told."""

    id: str
    state: str
    reason: str
    done: int
    total: int
    left_s: float | None
    told: str = ""


class MishapRow(BaseModel):
    """Something that can be practised, and what it means."""

    mishap: Mishap
    told: str


@router.get("/mishaps")
def mishaps() -> list[MishapRow]:
    """All that can go wrong in a rehearsal."""
    return [MishapRow(mishap=one, told=told) for one, told in MISHAPS]


@router.post("", dependencies=[Costly])
async def wanted(ask: RehearsalAsk, db: Db) -> RehearsalView:
    """Ask for the film of a shot; one with the same in it is not made again."""
    told, noted = await asyncio.to_thread(rehearse.order, ask.shot, ask.width, ask.mishaps, ask.output)
    return (await _ordered(db, noted)).model_copy(update={"told": told})


class BesideEachOther(BaseModel):
    """Ways of a shot whose films are wanted beside each other, and what their cursor is locked by."""

    shot: Shot
    names: list[str] = Field(min_length=FEWEST, max_length=MOST)
    lock: Lock = "film"


@router.post("/beside", dependencies=[Costly])
async def beside_wanted(ask: BesideEachOther, db: Db) -> RehearsalView:
    """Ask for the film of ways beside each other; the film of each has to be there."""
    film, noted = await asyncio.to_thread(rehearse.order_beside, ask.shot, ask.names, ask.lock)
    if not_there := [one.name for one in film.sides if not rehearse.film_file(one.film).exists()]:
        raise Refusal("names", f"Made first: the film of {', '.join(f'“{name}”' for name in not_there)}.")
    return await _ordered(db, noted)


class StopAsk(BaseModel):
    """A frame of the rehearsed film of a shot, counted from 0."""

    shot: Shot
    frame: int = Field(ge=0, le=1_000_000)
    mishaps: list[Mishap] = Field(default=[], max_length=len(MISHAPS))
    output: int | None = Field(None, ge=0, le=100)


class Stopped(BaseModel):
    """What is known of a frame of the film: which frame of the shot it is, what rules it, what is said of it."""

    number: int
    readout: list[Readout]
    ruled_by: str
    field: str
    findings: list[str]


@router.post("/frame", dependencies=[Costly])
def stopped(ask: StopAsk) -> Stopped:
    """The frame of the shot that stands at a frame of its film, why it looks as it does, and what is said of it."""
    film = rehearse.film_of(ask.shot, 480, ask.mishaps, ask.output)
    program, i = film.program, film.shown(min(ask.frame, film.length - 1))
    ruled_by, field = ruling(program, i)
    at = float(program.at_s[i])
    said = [
        one.sentence for one in judge(program)
        if one.severity != "good" and one.from_s is not None and one.to_s is not None and one.from_s <= at <= one.to_s
    ]  # fmt: skip
    told = [*readout(program, i + 1), *gathered(program, i + 1)]
    return Stopped(number=i + 1, readout=told, ruled_by=ruled_by, field=field, findings=said)


@router.get("/{id}")
async def follow(id: FilmId, db: Db) -> RehearsalView:
    """How far a film is."""
    return await _view(db, id)


@router.delete("/{id}", status_code=204)
async def cancel(id: FilmId, db: Db) -> None:
    """Make it no further; what is made of it is kept for the next time."""
    await _view(db, id)
    await rehearsals.cancel(db, id)


@router.get("/{id}/film", response_class=FileResponse)
async def film(id: FilmId, db: Db) -> FileResponse:
    """The film, once it is whole."""
    found = await rehearsals.read(db, id)
    file = rehearse.film_file(id)
    if found is None or found.state != "done" or not file.exists():
        raise NotThere("This film is not made yet.")
    shot = Shot.model_validate(found.shot)
    headers = named(film_name(shot, "ways beside each other" if found.beside else "rehearsed"), "inline")
    return FileResponse(file, media_type="video/mp4", headers=headers)


FilmFrame = Annotated[int, Path(ge=0, le=1_000_000, description="Of the film, counted from 0.")]
_films: Kept[str, rehearse.Film] = Kept(6)


class FrameOfFilm(NamedTuple):
    """A frame of a film, counted from 0."""

    film: rehearse.Film
    frame: int

    def picture(self) -> Picture:
        """The picture as the film has it."""
        return next(rehearse.pictures(self.film, self.frame, 1))

    def horizon(self) -> list[tuple[float, float]]:
        """Where the level horizon lies in it; in what is cut out of the picture none is told."""
        film = self.film
        return horizon(film.program, int(film.posed_at[self.frame])) if isinstance(film, RehearsedFilm) else []

    def piece(self, across: float, down: float) -> Picture:
        """A piece of it in the pixels of the body itself; of what is made of it, in the pixels of the film."""
        film = self.film
        if not isinstance(film, RehearsedFilm):
            return cut_out(self.picture(), across, down)
        body = film.program.shot.body
        piece = under_loupe(body.pixels_wide, body.pixels_high, across, down)
        return piece_of(film.program, film.shown(self.frame), piece, int(film.posed_at[self.frame]))


async def _of_one_shot(db: Connection, id: str) -> Rehearsed:
    """The film of one shot. Raises NotThere, too for ways beside each other."""
    found = await rehearsals.read(db, id)
    if found is None or found.beside:
        raise NotThere("There is no such film of one shot.")
    return found


async def _frame_of(db: Db, id: FilmId, frame: FilmFrame) -> FrameOfFilm:
    """A frame of a film that is known: what it was made of."""
    found = await _of_one_shot(db, id)
    film = await asyncio.to_thread(_films.get, id, lambda: rehearse.made_anew(found))
    if frame >= film.length:
        raise Refusal("frame", f"The film has {film.length:,} frames, counted from 0.", frame)
    return FrameOfFilm(film, frame)


offer_looks(router, "/{id}/frames/{frame}", _frame_of)


@router.get("/{id}/sheet", response_class=Response, dependencies=[Costly])
async def contact_sheet_of(id: FilmId, db: Db) -> Response:
    """Pictures all through the film on one page, as PNG."""
    found = await _of_one_shot(db, id)
    shot = Shot.model_validate(found.shot)
    page = await asyncio.to_thread(lambda: contact_sheet(practised(compile_fitted(shot), found.mishaps)))
    headers = named(film_name(shot, "contact sheet", ".png"))
    return Response(page, media_type="image/png", headers=headers)


async def _ordered(db: Connection, noted: Rehearsed) -> RehearsalView:
    there = await rehearsals.read(db, noted.id)
    if there is not None and there.state == "done" and not rehearse.film_file(noted.id).exists():
        await rehearsals.again(db, noted.id)
    if await rehearsals.want(db, noted):
        await db.commit()
        await rehearse.put_on_queue(noted)
    return await _view(db, noted.id)


async def _view(db: Connection, id: str) -> RehearsalView:
    found = await rehearsals.read(db, id)
    if found is None:
        raise NotThere("There is no such film.")
    done = sum(part.count if part.finished else part.done for part in found.parts)
    left = None
    if found.state == "working" and found.elapsed_s and done >= 5:
        left = found.elapsed_s / done * (found.total - done)
    return RehearsalView(
        id=id, state=found.state, reason=found.reason, done=min(done, found.total), total=found.total, left_s=left
    )
