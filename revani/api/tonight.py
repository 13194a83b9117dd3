"""The home page's hours."""

import time
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
from revani.store.records import NotThere

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
    programs: list[Program] = []
    for saved in await shots.everything(db):
        shot = Shot.model_validate(saved.document)
        if shot.place.id != found.id:
            continue
        try:
            programs.append(compile_fitted(shot))
        except Refusal:
            # What can never be planned says so on its own desk.
            continue
    return tonight(found, time.time(), programs)


async def _busiest(db: Db, places: list[Place]) -> Place:
    """The place with the most shots."""
    count = {place.id: 0 for place in places}
    for saved in await shots.everything(db):
        id = UUID(saved.document["place"]["id"])
        count[id] = count.get(id, 0) + 1
    return max(places, key=lambda place: count[place.id])
