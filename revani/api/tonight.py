"""The home page's hours."""

import asyncio
import time
from collections.abc import Iterator, Sequence
from contextlib import suppress
from uuid import UUID

from fastapi import APIRouter
from pydantic import TypeAdapter

from revani.api.deps import Db
from revani.core.documents import Place, Shot
from revani.core.edit.fitting import compile_fitted
from revani.core.program.compiled import Program
from revani.core.quantities.refusal import Refusal
from revani.core.shown.tonight import Tonight, tonight
from revani.store import records, shots
from revani.store.pool import Connection
from revani.store.records import NotThere, Saved

router = APIRouter(prefix="/api")


@router.get("/tonight")
async def hours_ahead(db: Db, place: UUID | None = None) -> Tonight:
    """The next day at a place (the first, if none is named), with the shots that are planned there."""
    if place is None:
        places = await records.everything(db, "place")
        if not places:
            raise NotThere("There is no place yet: add one under Places.")
        found = await _busiest(db, [TypeAdapter(Place).validate_python(saved.document) for saved in places])
    else:
        found = Place.model_validate((await records.read(db, "place", place)).document)
    return await asyncio.to_thread(tonight, found, time.time(), await planned(db, found.id))


async def planned(db: Connection, place: UUID | None = None) -> list[Program]:
    """The programs of all shots (at a place, if one is named) that can be planned."""
    return await compiled([one for one in await shots.everything(db) if place in (None, _place_of(one))])


async def compiled(saved: Sequence[Saved]) -> list[Program]:
    """The programs of those shots that can be planned."""

    def each() -> Iterator[Program]:
        for one in saved:
            # What can never be planned says so on its own desk.
            with suppress(Refusal):
                yield compile_fitted(Shot.model_validate(one.document))

    return await asyncio.to_thread(lambda: list(each()))


def _place_of(saved: Saved) -> UUID:
    return UUID(saved.document["place"]["id"])


async def _busiest(db: Db, places: list[Place]) -> Place:
    """The place with the most shots."""
    count = {place.id: 0 for place in places}
    for saved in await shots.everything(db):
        id = _place_of(saved)
        count[id] = count.get(id, 0) + 1
    return max(places, key=lambda place: count[place.id])
