"""Every refusal as problem+json (RFC 9457): what is wrong, at which field, and what is allowed."""

import psycopg
from fastapi import FastAPI, Request
from fastapi.exceptions import RequestValidationError
from fastapi.responses import JSONResponse
from psycopg_pool import PoolTimeout
from pydantic import ValidationError
from starlette.exceptions import HTTPException

from revani.core.documents import RECORDS
from revani.core.quantities.refusal import Refusal, Refusals
from revani.core.shown.records import assumed_of, worded
from revani.exports.problem import Fault, Problem, faults_of
from revani.store.records import NotThere, StaleVersion


def answer(problem: Problem) -> JSONResponse:
    """A problem as a response."""
    return JSONResponse(problem.model_dump(exclude_none=True), problem.status, media_type="application/problem+json")


def install(app: FastAPI) -> None:
    """Translate every exception that means a refusal."""

    @app.exception_handler(Refusal)
    async def refusal(_request: Request, error: Refusal) -> JSONResponse:
        fault = Fault(path=error.path, allowed=error.allowed)
        return answer(Problem(title="Not possible", status=422, detail=error.allowed, path=error.path, faults=[fault]))

    @app.exception_handler(Refusals)
    async def refusals(_request: Request, error: Refusals) -> JSONResponse:
        faults = [Fault(path=one.path, allowed=one.allowed) for one in error.refused]
        return answer(
            Problem(title="Not possible", status=422, detail=faults[0].allowed, path=faults[0].path, faults=faults)
        )

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
        # A form shows what stands there in the words in which it is typed.
        kind = RECORDS.get(current.document.get("kind", "place" if "latitude_deg" in current.document else ""))
        if kind is not None:
            record = kind.model_validate(current.document)
            body |= {"document": record.model_dump(mode="json"), "shown": worded(record)}
            body |= {"assumed": assumed_of(record)}
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
