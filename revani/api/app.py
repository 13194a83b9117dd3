"""The web process: the API and the built interface, on one port of loopback."""

from collections.abc import AsyncIterator
from contextlib import asynccontextmanager
from typing import Any
from urllib.parse import urlsplit

from fastapi import FastAPI, HTTPException, Request, Response
from fastapi.middleware.gzip import GZipMiddleware
from fastapi.responses import FileResponse, JSONResponse
from fastapi.staticfiles import StaticFiles
from starlette.types import ASGIApp, Receive, Scope, Send

from revani.api import arming, calculators, films, measures, programs, records, runs, tonight
from revani.api.deps import Db
from revani.api.problems import answer, install
from revani.exports.problem import Problem
from revani.jobs.queue import open_queue
from revani.settings import settings
from revani.store import runs as run_store
from revani.store.pool import open_pool

MOST_BYTES = 2_000_000
_RUNNER_FRESH_S = 6.0
_LOCAL = {"127.0.0.1", "localhost", "[::1]"}


class Guard:
    """Refuses foreign hosts, foreign origins and bodies that are too large, before anything reads them."""

    def __init__(self, app: ASGIApp) -> None:
        self._app = app

    async def __call__(self, scope: Scope, receive: Receive, send: Send) -> None:
        """Let a request through, or answer it."""
        if scope["type"] != "http":
            await self._app(scope, receive, send)
            return
        request = Request(scope)
        refused = self._refused(request)
        if refused is not None:
            await answer(refused)(scope, receive, send)
            return
        taken = 0

        async def counted() -> Any:
            nonlocal taken
            message = await receive()
            taken += len(message.get("body", b""))
            if taken > MOST_BYTES:
                raise HTTPException(413, "A document may have at most 2 MB.")
            return message

        await self._app(scope, counted, send)

    def _refused(self, request: Request) -> Problem | None:
        host = request.headers.get("host", "").rsplit(":", 1)[0]
        if host not in _LOCAL:
            return Problem(title="Wrong host", status=421, detail="Open Revani at 127.0.0.1 or localhost.")
        origin = request.headers.get("origin")
        if (
            origin
            and request.method not in ("GET", "HEAD")
            and urlsplit(origin).hostname not in ("127.0.0.1", "localhost", "::1")
        ):
            return Problem(title="Wrong origin", status=403, detail="Only Revani's own pages may change anything.")
        length = request.headers.get("content-length", "0")
        if not length.isdecimal() or int(length) > MOST_BYTES:
            return Problem(title="Too large", status=413, detail="A document may have at most 2 MB.")
        return None


@asynccontextmanager
async def _lifespan(app: FastAPI) -> AsyncIterator[None]:
    async with open_pool(settings().database) as pool:
        app.state.pool = pool
        async with pool.connection() as conn:
            app.state.measures = await measures.stored(conn)
        async with open_queue(settings().database):
            yield


def make_app() -> FastAPI:
    """The web application."""
    app = FastAPI(
        title="Revani",
        version="0.1.0",
        lifespan=_lifespan,
        docs_url=None,
        redoc_url=None,
        openapi_url="/api/openapi.json",
        separate_input_output_schemas=False,
    )
    app.state.measures = "metric"
    app.add_middleware(GZipMiddleware, minimum_size=1_000, compresslevel=1)
    app.add_middleware(measures.Measured)
    app.add_middleware(Guard)
    install(app)
    for room in (arming, calculators, films, measures, programs, records, runs, tonight):
        app.include_router(room.router)

    @app.get("/api/health")
    async def health(db: Db) -> Response:
        """200 when the database answers and a runner has given a sign just now."""
        signs = await run_store.signs(db)
        fresh = [sign for sign in signs if sign["age_s"] < _RUNNER_FRESH_S]
        if not fresh:
            return answer(Problem(title="No runner", status=503, detail="The database answers, but no runner is up."))
        return JSONResponse({"database": "up", "runner": "up", "rigs": fresh})

    _serve_interface(app)
    return app


def _serve_interface(app: FastAPI) -> None:
    dist = settings().web_dist
    if not (dist / "index.html").exists():
        return
    app.mount("/assets", StaticFiles(directory=dist / "assets"), name="assets")

    @app.get("/api/{rest:path}", include_in_schema=False)
    async def no_such_route(rest: str) -> Response:
        return answer(Problem(title="Not there", status=404, detail=f"There is no /api/{rest}."))

    @app.get("/{rest:path}", include_in_schema=False)
    async def page(rest: str) -> FileResponse:
        """Every other address is the interface, which knows its own pages."""
        icon = dist / rest
        if rest in ("favicon.svg",) and icon.exists():
            return FileResponse(icon)
        return FileResponse(dist / "index.html", headers={"Cache-Control": "no-cache"})
