"""Every refusal as problem+json (RFC 9457): what is wrong, at which field, and what is allowed."""

from collections.abc import Sequence
from typing import Any

import psycopg
from fastapi import FastAPI, Request
from fastapi.exceptions import RequestValidationError
from fastapi.responses import JSONResponse
from psycopg_pool import PoolTimeout
from pydantic import BaseModel, ValidationError
from starlette.exceptions import HTTPException

from revani.core.refusal import Refusal
from revani.store.records import NotThere, StaleVersion


class Fault(BaseModel):
    """One field that cannot be used."""

    path: str
    allowed: str


class Problem(BaseModel):
    """The body of every answer that refuses."""

    type: str = "about:blank"
    title: str
    status: int
    detail: str
    path: str = ""
    faults: list[Fault] = []
    current: Any = None


def answer(problem: Problem) -> JSONResponse:
    """A problem as a response."""
    return JSONResponse(problem.model_dump(exclude_none=True), problem.status, media_type="application/problem+json")


_GEAR_KINDS = ("lens", "card", "filter", "mover")


def path_of(location: Sequence[int | str]) -> str:
    """`body.shot.timing.interval_s` as the document's own path."""
    parts = [str(part) for part in location if part not in ("body", "query", "path", "header")]
    # The names of a union's branches are ours, not the document's.
    parts = [part for part in parts if not part.startswith(("function-", "tagged-", "lax-", "json-"))]
    return ".".join(parts[1:] if len(parts) > 1 and parts[0] in _GEAR_KINDS else parts)


def faults_of(error: RequestValidationError | ValidationError) -> list[Fault]:
    """What a failed validation says, a field at a time."""
    return [
        Fault(path=path_of(one["loc"]), allowed=one["msg"].removeprefix("Value error, ")) for one in error.errors()[:20]
    ]


def install(app: FastAPI) -> None:
    """Translate every exception that means a refusal."""

    @app.exception_handler(Refusal)
    async def refusal(_request: Request, error: Refusal) -> JSONResponse:
        fault = Fault(path=error.path, allowed=error.allowed)
        return answer(Problem(title="Not possible", status=422, detail=error.allowed, path=error.path, faults=[fault]))

    @app.exception_handler(RequestValidationError)
    @app.exception_handler(ValidationError)
    async def invalid(_request: Request, error: RequestValidationError | ValidationError) -> JSONResponse:
        faults = faults_of(error) or [Fault(path="", allowed="A JSON document is needed.")]
        return answer(
            Problem(title="Not possible", status=422, detail=faults[0].allowed, path=faults[0].path, faults=faults)
        )

    @app.exception_handler(StaleVersion)
    async def stale(_request: Request, error: StaleVersion) -> JSONResponse:
        current = error.current
        detail = f"It was saved elsewhere in between; version {current.version} stands there now."
        body = {
            "id": str(current.id),
            "version": current.version,
            "archived": current.archived,
            "document": current.document,
        }
        return answer(Problem(title="Saved elsewhere", status=409, detail=detail, current=body))

    @app.exception_handler(NotThere)
    async def missing(_request: Request, error: NotThere) -> JSONResponse:
        return answer(Problem(title="Not there", status=404, detail=str(error)))

    @app.exception_handler(HTTPException)
    async def http(_request: Request, error: HTTPException) -> JSONResponse:
        response = answer(Problem(title=str(error.detail), status=error.status_code, detail=str(error.detail)))
        response.headers.update(error.headers or {})
        return response

    @app.exception_handler(PoolTimeout)
    @app.exception_handler(psycopg.OperationalError)
    async def away(_request: Request, _error: Exception) -> JSONResponse:
        detail = "The database does not answer; runs go on without it. Try again in a moment."
        return answer(Problem(title="Database away", status=503, detail=detail))
