"""The field sheet of a shot, and its code cards as a phone opens them."""

import asyncio
import time
from typing import Annotated, Literal
from uuid import UUID

import httpx
from fastapi import APIRouter, Query, Request, Response
from fastapi.responses import HTMLResponse, PlainTextResponse
from pydantic import BaseModel, Field

from revani.api.arming import Arm, arm
from revani.api.deps import Costly, Db
from revani.api.named import named
from revani.api.which_rig import which_rig
from revani.core.documents import Shot
from revani.core.documents.rig import Rig
from revani.core.documents.run import ENDED
from revani.core.edit.fitting import compile_fitted
from revani.core.program.compiled import Program
from revani.core.quantities.refusal import Refusal
from revani.core.rigup.code_card import Code, cards, nonce_of, read_code
from revani.core.rigup.evening import evening
from revani.core.rigup.field_sheet import FieldSheet, field_sheet
from revani.exports.calendar import Entry, calendar
from revani.exports.code_picture import modules
from revani.exports.film_name import film_name
from revani.exports.sheet import Paper, sheet_html, sheet_pdf, sheet_text
from revani.rig.known import reached
from revani.settings import settings
from revani.store import codes, rigs, runs, shots
from revani.store.pool import Connection

router = APIRouter(prefix="/api")

_CAMERA_WITHIN_S = 20.0


@router.get("/shots/{id}/sheet.pdf", dependencies=[Costly], response_class=Response)
async def sheet_as_pdf(id: UUID, db: Db, request: Request, size: Paper = "a5") -> Response:
    """The field sheet, set for paper."""
    program = await _program(db, id)
    rig = await which_rig(db, program.shot)
    pdf = await asyncio.to_thread(lambda: sheet_pdf(_sheet(program, rig, request), size))
    headers = named(film_name(program.shot, "field sheet", ".pdf"), "inline")
    return Response(pdf, media_type="application/pdf", headers=headers)


@router.get("/shots/{id}/sheet.html", dependencies=[Costly], response_class=HTMLResponse)
async def sheet_as_page(id: UUID, db: Db, request: Request) -> HTMLResponse:
    """The field sheet as one page that a phone keeps."""
    program = await _program(db, id)
    rig = await which_rig(db, program.shot)
    page = await asyncio.to_thread(lambda: sheet_html(_sheet(program, rig, request)))
    return HTMLResponse(page, headers=named(film_name(program.shot, "field sheet", ".html")))


@router.get("/shots/{id}/sheet.txt", dependencies=[Costly], response_class=PlainTextResponse)
async def sheet_as_text(id: UUID, db: Db, request: Request) -> str:
    """The field sheet as plain text."""
    program = await _program(db, id)
    rig = await which_rig(db, program.shot)
    return await asyncio.to_thread(lambda: sheet_text(_sheet(program, rig, request)))


Minutes = Annotated[float, Query(ge=0, le=1_440)]


@router.get("/shots/{id}/evening.ics", dependencies=[Costly], response_class=Response)
async def evening_as_calendar(id: UUID, db: Db, set_up_min: Minutes = 40, way_min: Minutes = 30) -> Response:
    """When to pack, to leave, to set up, to arm, when it runs and is fetched, as iCalendar with alarms."""
    program = await _program(db, id)
    due = await asyncio.to_thread(evening, program, set_up_min * 60, way_min * 60)
    where = program.shot.place.name
    text = calendar([Entry(one.what, one.from_s, one.to_s, where, one.told, one.alarm_s) for one in due], time.time())
    headers = named(film_name(program.shot, "evening", ".ics"))
    return Response(text, media_type="text/calendar", headers=headers)


def _sheet(program: Program, rig: Rig, request: Request) -> FieldSheet:
    made = tuple(cards(program, rig.key, settings().code_key(), str(request.base_url).rstrip("/")))
    return field_sheet(program, made, tuple(modules(one.text) for one in made))


async def _program(db: Connection, id: UUID) -> Program:
    return await asyncio.to_thread(compile_fitted, Shot.model_validate((await shots.read(db, id)).document))


class CodeText(BaseModel):
    """The text of a code card, with or without its address."""

    text: str = Field(max_length=2_000)


class CodeRead(BaseModel):
    """What a card orders, in words, and for which shot."""

    shot: str
    commands: list[str]
    settings: dict[str, str]


@router.post("/codes/read")
async def read(code: CodeText, db: Db) -> CodeRead:
    """What a card orders; it stays good."""
    found = await _good(db, code.text)
    return CodeRead(shot=await _name(db, found), commands=list(found.commands), settings=found.settings)


class Obeyed(BaseModel):
    """What became of each order, in words, and the run that it is about, if there is one."""

    told: list[str]
    run: UUID | None = None
    how: Literal["done", "refused"]


@router.post("/codes")
async def obey(code: CodeText, db: Db) -> Obeyed:
    """Do what a card orders, once: the run is armed, begun or stopped; what is dialled is told to the camera."""
    found = await _good(db, code.text)
    await _name(db, found)
    if not await codes.use(db, found.nonce):
        raise Refusal("code", "This card was used already; each is good once.")
    if {"arm", "start"} & set(found.commands):
        view = await arm(
            Arm(shot_id=found.shot, rig=found.rig, when="now" if "start" in found.commands else "planned"), db
        )
        return Obeyed(told=["It runs." if "start" in found.commands else "Armed."], run=view.id, how="done")
    told, run = [], None
    if "stop" in found.commands:
        for id in await runs.of_shot(db, found.shot):
            if (await runs.read(db, id)).state not in ENDED:
                run = (await runs.want_stop(db, id)).id
        told.append("It stops after this frame." if run else "Nothing runs of this shot.")
        if found.commands == ("stop",):
            return Obeyed(told=told, run=run, how="done")
    return await _shown(code.text, found.rig, told, run)


async def _shown(text: str, rig: str, told: list[str], run: UUID | None) -> Obeyed:
    """Tell the camera, which has lights for an answer."""
    its = reached(settings(), rig)
    try:
        async with httpx.AsyncClient(trust_env=False, timeout=_CAMERA_WITHIN_S) as client:
            answer = await client.post(
                f"{its.stage or its.camera}/code", content=text, headers={"Content-Type": "text/plain"}
            )
    except httpx.HTTPError:
        raise Refusal("code", "The camera does not answer. Hold the card before it.") from None
    if answer.status_code != 200:
        raise Refusal("code", f"The camera says: {answer.text[:200]}")
    lights = answer.json()
    told += [f"{one['shines']}: {one['says']}" for one in lights]
    refused = any(one["shines"] == "three short" for one in lights)
    return Obeyed(told=told, run=run, how="refused" if refused else "done")


async def _good(db: Connection, text: str) -> Code:
    used = await codes.was_used(db, nonce_of(text))
    return read_code(text, settings().code_key(), await rigs.driven(db), time.time(), used)


async def _name(db: Connection, code: Code) -> str:
    return str((await shots.read(db, code.shot)).document["name"])
