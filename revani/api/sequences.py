"""Films made of shots: kept, planned together, read and written."""

import asyncio
import time
from collections.abc import Mapping
from typing import Annotated, Literal
from uuid import UUID

from fastapi import APIRouter, Response
from pydantic import BaseModel, Field

from revani.api.deps import Costly, Db, Over, Pooled
from revani.api.named import named
from revani.api.records import SavedDocument
from revani.core.documents import Shot, ShotSequence
from revani.core.documents.sequence import MOST_CUTS
from revani.core.edit.form import filled
from revani.core.quantities.measures import chosen
from revani.core.sequence.film import Film, Kept, laid
from revani.core.shown.sequence import SequenceView, entries_of, sequence_view
from revani.exports.calendar import Entry, calendar
from revani.exports.sequence_csv import cuts_of_csv, sequence_csv
from revani.exports.sequence_otio import cuts_of_otio, sequence_otio
from revani.store import records, sequences, shots
from revani.store.pool import Pool

router = APIRouter(prefix="/api/sequences")


class SavedSequence(SavedDocument[ShotSequence]):
    """A sequence."""


@router.get("")
async def list_sequences(db: Db) -> list[sequences.ListedSequence]:
    """All sequences by name, those that are put away too."""
    return await sequences.rows(db)


@router.post("", status_code=201)
async def add_sequence(sequence: ShotSequence, db: Db) -> SavedSequence:
    """Save a new sequence."""
    return _saved(await records.insert(db, "sequence", sequence.id, sequence.model_dump(mode="json")))


@router.get("/{id}")
async def read_sequence(id: UUID, db: Db) -> SavedSequence:
    """One sequence."""
    return _saved(await records.read(db, "sequence", id))


@router.put("/{id}")
async def save_sequence(id: UUID, sequence: ShotSequence, over: Over, db: Db, archived: bool = False) -> SavedSequence:
    """Save a sequence over the version that was read; `archived` puts it away."""
    return _saved(await records.save(db, "sequence", id, sequence.model_dump(mode="json"), over, archived))


@router.delete("/{id}", status_code=204)
async def delete_sequence(id: UUID, db: Db) -> None:
    """Delete a sequence; its shots stay."""
    await records.delete(db, "sequence", id)


def _saved(saved: records.Saved) -> SavedSequence:
    return SavedSequence(
        id=saved.id, version=saved.version, archived=saved.archived,
        document=ShotSequence.model_validate(saved.document),
    )  # fmt: skip


class SequenceAsk(BaseModel):
    """A sequence as it stands on the page, with what was typed into it since, by path: `wanted_s`, `cuts.2.in_s`."""

    sequence: ShotSequence
    typed: dict[str, Annotated[str, Field(max_length=200)]] = Field(default={}, max_length=40)


@router.post("/plan", dependencies=[Costly])
async def plan_sequence(ask: SequenceAsk, pool: Pooled) -> SequenceView:
    """What comes of a sequence: its cuts, what is to be said across them, the list of the day. Nothing is saved."""
    sequence = ask.sequence
    if ask.typed:
        sequence = filled(ShotSequence, sequence.model_dump(mode="json"), ask.typed, chosen())
    kept = await _shots(pool, sequence)
    return await asyncio.to_thread(lambda: sequence_view(laid(sequence, kept)))


async def _shots(pool: Pool, sequence: ShotSequence) -> dict[UUID, Kept]:
    """The shots of a sequence as they stand now; the connection is given back before anything is computed."""
    async with pool.connection() as db:
        found = await shots.chosen(db, {cut.shot for cut in sequence.cuts})
    return {one.id: Kept(Shot.model_validate(one.document), one.archived) for one in found}


Written = Literal["otio", "csv", "ics"]


@router.get("/{id}/file", response_class=Response, dependencies=[Costly])
async def sequence_file(id: UUID, kind: Written, pool: Pooled) -> Response:
    """The sequence as OpenTimelineIO or CSV, or its list of the day as iCalendar."""
    async with pool.connection() as db:
        sequence = ShotSequence.model_validate((await records.read(db, "sequence", id)).document)
    kept = await _shots(pool, sequence)
    text, media = await asyncio.to_thread(lambda: _written(laid(sequence, kept), kind))
    return Response(text, media_type=media, headers=named(f"{sequence.name}.{kind}"))


def _written(film: Film, kind: Written) -> tuple[str, str]:
    if kind == "otio":
        return sequence_otio(film), "application/json"
    if kind == "csv":
        return sequence_csv(film.sequence), "text/csv"
    entries = [
        Entry(what, from_s, to_s, place.name, told)
        for what, from_s, to_s, place, told in entries_of(film.programs, film.sequence)
    ]
    return calendar(entries, time.time()), "text/calendar"


class SequenceFile(BaseModel):
    """The text of a file whose cuts take the place of a sequence's own."""

    sequence: ShotSequence
    kind: Literal["otio", "csv"]
    text: str = Field(max_length=4_000_000)


_READ = {"otio": cuts_of_otio, "csv": cuts_of_csv}


@router.post("/read", dependencies=[Costly])
async def read_cuts(file: SequenceFile, pool: Pooled) -> SequenceView:
    """The sequence with the cuts of a file, planned; nothing is saved."""
    async with pool.connection() as db:
        known: Mapping[UUID, str] = await shots.names(db)
    cuts = await asyncio.to_thread(_READ[file.kind], file.text, known)
    return await plan_sequence(SequenceAsk(sequence=file.sequence.model_copy(update={"cuts": cuts})), pool)


class Put(BaseModel):
    """Shots to be put into a sequence at a place, counted from 0."""

    sequence: ShotSequence
    shots: list[UUID] = Field(min_length=1, max_length=MOST_CUTS)
    at: int = Field(ge=0, le=MOST_CUTS)


@router.post("/put", dependencies=[Costly])
async def put_in(put: Put, pool: Pooled) -> SequenceView:
    """The sequence with whole shots put into it, planned; nothing is saved."""
    async with pool.connection() as db:
        known = await shots.names(db)
    there = [id for id in put.shots if id in known]
    cuts = [cut.model_dump(mode="json") for cut in put.sequence.cuts]
    cuts[put.at : put.at] = [{"shot": str(id), "name": known[id]} for id in there]
    sequence = filled(ShotSequence, put.sequence.model_dump(mode="json") | {"cuts": cuts}, {}, chosen())
    return await plan_sequence(SequenceAsk(sequence=sequence), pool)
