"""Gear, places and shots."""

import asyncio
import time
from contextlib import suppress
from datetime import date, datetime
from functools import cache
from hashlib import md5
from pathlib import Path
from typing import Annotated, Any, Generic, Literal, Self, TypeVar
from uuid import UUID

from fastapi import APIRouter, Response
from pydantic import BaseModel, Field, TypeAdapter, model_validator

import revani.core
from revani.api.deps import Costly, Db, Over, Pooled
from revani.api.named import named
from revani.core.documents import RECORDS, AnyGear, Place, Record, Shot, said
from revani.core.edit.differing import differences_told
from revani.core.edit.fitting import compile_fitted
from revani.core.edit.form import filled
from revani.core.edit.weather_read import with_weather
from revani.core.findings import Neighbour, judge
from revani.core.findings.finding import WORST_FIRST
from revani.core.light.scene import check_reading
from revani.core.quantities.measures import chosen
from revani.core.quantities.refusal import Refusal
from revani.core.quantities.units import count
from revani.core.shown.records import Form, assumed_of, differences, forms, measured_told, summary, worded
from revani.core.timing.pace import solved
from revani.exports.kit_file import KitFile, kit_json
from revani.store import records, shots
from revani.store.records import Saved

router = APIRouter(prefix="/api")

T = TypeVar("T")


class SavedDocument(BaseModel, Generic[T]):
    """A document with the version that the next save must name.

    `shown` has the values of gear and places as they stand in their form, each by its path: `closest_m`,
    `axes.0.low`; `summary` its chief figures; `assumed` names the fields that nobody filled in, so that what
    stands there is only assumed; `measured` says what was found beside nominal figures.
    """

    id: UUID
    version: int
    archived: bool
    document: T
    saved_at: datetime | None = None
    shown: dict[str, str] = {}
    summary: str = ""
    assumed: list[str] = []
    measured: list[str] = []

    @model_validator(mode="after")
    def _worded(self) -> Self:
        if isinstance(self.document, Record):
            self.shown = worded(self.document)
            self.summary = summary(self.document)
            self.assumed = list(assumed_of(self.document))
            self.measured = list(measured_told(self.document))
        return self


class SavedGear(SavedDocument[AnyGear]):
    """A piece of gear."""


class SavedPlace(SavedDocument[Place]):
    """A place."""


class SavedShot(SavedDocument[Shot]):
    """A shot."""


def _fields(saved: Saved) -> dict[str, Any]:
    return {
        "id": saved.id, "version": saved.version, "archived": saved.archived, "document": saved.document,
        "saved_at": saved.saved_at,
    }  # fmt: skip


class EarlierShot(BaseModel):
    """A version of a shot that was saved over."""

    version: int
    saved_at: datetime
    document: Shot


@router.get("/forms")
async def list_forms() -> tuple[Form, ...]:
    """How each kind of gear, and a place, is listed and edited."""
    return forms()


class Typed(BaseModel):
    """A form as it is left: the document that it was opened with, and what was typed into it, by path."""

    document: dict[str, Any]
    typed: dict[str, Annotated[str, Field(max_length=4_000)]] = Field(max_length=400)


@router.post("/forms/{kind}")
async def read_form(kind: str, form: Typed) -> dict[str, Any]:
    """The document that a form stands for, to be saved; what was typed is read in the measures that are shown."""
    if kind not in RECORDS:
        raise Refusal("kind", f"One of: {', '.join(RECORDS)}.", kind)
    return said(filled(RECORDS[kind], form.document, form.typed, chosen()))


@router.get("/gear")
async def list_gear(db: Db, archived: bool = False) -> list[SavedGear]:
    """All gear by kind and name."""
    return [SavedGear(**_fields(saved)) for saved in await records.everything(db, "gear", archived)]


@router.post("/gear", status_code=201)
async def add_gear(gear: AnyGear, db: Db) -> SavedGear:
    """Save new gear."""
    return SavedGear(**_fields(await records.insert(db, "gear", gear.id, said(gear))))


@router.put("/gear/{id}")
async def save_gear(id: UUID, gear: AnyGear, over: Over, db: Db, archived: bool = False) -> SavedGear:
    """Save gear over the version that was read; `archived` puts it away."""
    document = said(gear)
    return SavedGear(**_fields(await records.save(db, "gear", id, document, over, archived)))


class BroughtIn(BaseModel):
    """What came of a kit that was brought in, in words."""

    added: list[str]
    known: list[str]


@router.get("/kit/file", response_class=Response)
async def kit_as_file(db: Db) -> Response:
    """All gear and all places that are not put away, as one file."""
    gear = [TypeAdapter[AnyGear](AnyGear).validate_python(one.document) for one in await records.everything(db, "gear")]
    places = [Place.model_validate(one.document) for one in await records.everything(db, "place")]
    return Response(kit_json(gear, places), media_type="application/json", headers=named("kit.json"))


@router.post("/kit/file", status_code=201)
async def bring_in_kit(found: KitFile, db: Db) -> BroughtIn:
    """Add the gear and the places of a file that are not known yet; those that are known stay as they are."""
    added, known = [], []
    async with db.transaction():
        for kind, pieces in (("gear", found.gear), ("place", found.places)):
            there = {one.id for one in await records.everything(db, kind, archived=True)}  # type: ignore[arg-type]
            for piece in pieces:
                if piece.id in there:
                    known.append(piece.name)
                    continue
                await records.insert(db, kind, piece.id, said(piece))  # type: ignore[arg-type]
                there.add(piece.id)
                added.append(piece.name)
    return BroughtIn(added=added, known=known)


@router.get("/places")
async def list_places(db: Db, archived: bool = False) -> list[SavedPlace]:
    """All places by name."""
    return [SavedPlace(**_fields(saved)) for saved in await records.everything(db, "place", archived)]


@router.post("/places", status_code=201)
async def add_place(place: Place, db: Db) -> SavedPlace:
    """Save a new place."""
    return SavedPlace(**_fields(await records.insert(db, "place", place.id, said(place))))


@router.put("/places/{id}")
async def save_place(id: UUID, place: Place, over: Over, db: Db, archived: bool = False) -> SavedPlace:
    """Save a place over the version that was read; `archived` puts it away."""
    document = said(place)
    return SavedPlace(**_fields(await records.save(db, "place", id, document, over, archived)))


class RecordVersion(BaseModel):
    """A version of gear or of a place that was saved over: when, what the next save changed, and what it was."""

    version: int
    saved_at: datetime
    changed: list[str]
    document: dict[str, Any]


@router.get("/gear/{id}/history")
async def gear_history(id: UUID, db: Db) -> list[RecordVersion]:
    """The versions of a piece of gear, newest first."""
    return await _versions(db, "gear", id)


@router.get("/places/{id}/history")
async def place_history(id: UUID, db: Db) -> list[RecordVersion]:
    """The versions of a place, newest first."""
    return await _versions(db, "place", id)


_ANY_RECORD: TypeAdapter[AnyGear | Place] = TypeAdapter(AnyGear | Place)


async def _versions(db: Db, record: Literal["gear", "place"], id: UUID) -> list[RecordVersion]:
    newer = _ANY_RECORD.validate_python((await records.read(db, record, id)).document)
    found = []
    for row in (await records.earlier(db, record, id))[:40]:
        document = _ANY_RECORD.validate_python(row["document"])
        changed = list(differences(document, newer))
        found.append(
            RecordVersion(version=row["version"], saved_at=row["saved_at"], changed=changed, document=said(document))
        )
        newer = document
    return found


@router.delete("/gear/{id}", status_code=204)
async def delete_gear(id: UUID, db: Db) -> None:
    """Delete a piece of gear that no shot is made with."""
    await _delete_unused(db, "gear", id)


@router.delete("/places/{id}", status_code=204)
async def delete_place(id: UUID, db: Db) -> None:
    """Delete a place at which no shot is planned."""
    await _delete_unused(db, "place", id)


async def _delete_unused(db: Db, record: Literal["gear", "place"], id: UUID) -> None:
    used = await records.used_in(db, id)
    if used:
        others = f" and {count(len(used) - 2, 'other')}" if len(used) > 2 else ""
        raise Refusal("id", f"It is used in {', '.join(used[:2])}{others}: put it away instead.", str(id))
    await records.delete(db, record, id)


class Noted(BaseModel):
    """Weather by the hour as it was typed or pasted, beginning on a date."""

    day: date
    text: str = Field(max_length=40_000)


class NotedWeather(BaseModel):
    """The place with its weather, and what was read and is missing."""

    place: SavedPlace
    told: str


@router.post("/places/{id}/weather")
async def note_weather(id: UUID, noted: Noted, db: Db) -> NotedWeather:
    """Note the weather of a place by the hour; every shot there is planned with it."""
    saved = await records.read(db, "place", id)
    place, told = with_weather(Place.model_validate(saved.document), noted.day, noted.text, chosen())
    kept = await records.save(db, "place", id, said(place), saved.version, saved.archived)
    return NotedWeather(place=SavedPlace(**_fields(kept)), told=told)


@router.get("/shots")
async def list_shots(db: Db, archived: bool = False) -> list[SavedShot]:
    """All shots by date, each with its present kit and place; those that are put away where asked for."""
    return [SavedShot(**_fields(saved)) for saved in await shots.everything(db, archived)]


@router.get("/shots/rows")
async def list_rows(db: Db) -> list[shots.ListedShot]:
    """All shots as a list shows them, those that are put away too; quick however many they are."""
    return await shots.rows(db, _rules_stamp())


@cache
def _rules_stamp() -> str:
    """Stands for the rules as they are: what was judged by others has to be judged again."""
    files = sorted(Path(revani.core.__file__).parent.rglob("*.py"))
    return md5(b"".join(file.read_bytes() for file in files), usedforsecurity=False).hexdigest()


class Worst(shots.Verdict):
    """What is wrong with a shot at worst, and how much."""

    id: UUID


@router.post("/shots/worst", dependencies=[Costly])
async def worst_of(ids: Annotated[list[UUID], Field(max_length=60)], pool: Pooled) -> list[Worst]:
    """What is wrong with some shots, such as those that are on screen; it is known from then on."""
    async with pool.connection() as db:
        asked = await shots.stamped(db, ids, _rules_stamp())
    unknown = [one for one in asked if one.verdict is None]
    judged = await asyncio.to_thread(lambda: [(one.shot.id, one.stamp, _verdict(one.shot)) for one in unknown])
    if judged:
        async with pool.connection() as db:
            await shots.keep_verdicts(db, judged)
    new = {id: verdict for id, _, verdict in judged}
    return [Worst(id=one.shot.id, **(one.verdict or new[one.shot.id]).model_dump()) for one in asked]


def _verdict(shot: Shot) -> shots.Verdict:
    try:
        said = [one.severity for one in judge(compile_fitted(shot))]
    except Refusal:
        said = ["stop"]
    fails = sum(one in ("stop", "fix") for one in said)
    worst = min(said, key=WORST_FIRST.index, default=None)
    return shots.Verdict(severity=worst, fails=fails, minds=said.count("mind"))


@router.post("/shots", status_code=201)
async def add_shot(shot: Shot, db: Db) -> SavedShot:
    """Save a new shot. Gear and a place that are not known here come in with it."""
    await _check(shot)
    return SavedShot(**_fields(await shots.bring_in(db, shot)))


@router.get("/shots/{id}")
async def read_shot(id: UUID, db: Db) -> SavedShot:
    """One shot with its present kit and place."""
    return SavedShot(**_fields(await shots.read(db, id)))


@router.get("/shots/{id}/file")
async def shot_file(id: UUID, db: Db) -> Response:
    """The shot in the open JSON format, with its kit and place, to be kept or sent."""
    shot = Shot.model_validate((await shots.read(db, id)).document)
    headers = named(f"{shot.name}.shot.json")
    return Response(shot.model_dump_json(indent=1), media_type="application/json", headers=headers)


@router.get("/shots/{id}/neighbours")
async def neighbours(id: UUID, db: Db) -> list[Neighbour]:
    """The other shots, as the desk hands them on to be judged beside this one."""
    others = [Shot.model_validate(saved.document) for saved in await shots.everything(db) if saved.id != id]
    found = []
    for shot in others[:200]:
        # Its place may have changed so that it cannot be timed any more; then it is no company.
        with suppress(Refusal):
            found.append(Neighbour(name=shot.name, fps=solved(shot).fps))
    return found


@router.delete("/shots/{id}", status_code=204)
async def delete_shot(id: UUID, db: Db) -> None:
    """Delete a shot that was never run."""
    await shots.delete(db, id)


class Version(BaseModel):
    """A version of a shot that was saved over: when, what the next save changed, and the shot as it was."""

    version: int
    saved_at: datetime
    changed: list[str]
    shot: Shot


@router.get("/shots/{id}/history")
async def history(id: UUID, pool: Pooled) -> list[Version]:
    """The versions of a shot, newest first, each with the difference to the one after it in words."""
    async with pool.connection() as db:
        after = Shot.model_validate((await shots.read(db, id)).document)
        kept = [EarlierShot.model_validate(row) for row in await records.earlier(db, "shot", id)][:40]

    def told() -> list[Version]:
        found, newer = [], after
        for one in kept:
            old = one.document
            found.append(Version(version=one.version, saved_at=one.saved_at, changed=_difference(old, newer), shot=old))
            newer = old
        return found

    return await asyncio.to_thread(told)


def _difference(old: Shot, new: Shot) -> list[str]:
    try:
        return list(differences_told(compile_fitted(old), compile_fitted(new)))
    except Refusal:
        return ["it could not be planned"]


@router.get("/shots/{id}/earlier")
async def earlier_shots(id: UUID, db: Db) -> list[EarlierShot]:
    """The versions that saves have replaced, newest first."""
    await shots.read(db, id)
    return [EarlierShot.model_validate(row) for row in await records.earlier(db, "shot", id)]


async def _check(shot: Shot) -> None:
    """What is saved can be opened again: a plan can be made of it, if with other values. Raises Refusal."""
    check_reading(shot.light, time.time())
    await asyncio.to_thread(compile_fitted, shot)


@router.put("/shots/{id}")
async def save_shot(id: UUID, shot: Shot, over: Over, db: Db, archived: bool | None = None) -> SavedShot:
    """Save a shot over the version that was read; `archived` puts it away or takes it back, else it stays."""
    await _check(shot)
    return SavedShot(**_fields(await shots.save(db, id, shot, over, archived)))
