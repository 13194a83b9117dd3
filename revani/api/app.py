"""The web process: the API and the built interface, on one port of loopback."""

from collections.abc import AsyncIterator
from contextlib import asynccontextmanager

from fastapi import FastAPI, Response
from fastapi.middleware.gzip import GZipMiddleware
from fastapi.responses import FileResponse, JSONResponse
from fastapi.staticfiles import StaticFiles

from revani.api import (
    alarms,
    arming,
    begin,
    calculators,
    codes,
    films,
    handbook,
    journal,
    measures,
    presets,
    programs,
    records,
    rehearsals,
    reports,
    rigs,
    rigup,
    runs,
    sensors,
    sequences,
    tonight,
    ways,
)
from revani.api.deps import Db
from revani.api.following import Following
from revani.api.guard import Guard
from revani.api.problems import answer, install
from revani.exports.problem import Problem
from revani.jobs.queue import open_queue
from revani.settings import settings
from revani.store import rigs as rig_store
from revani.store import runs as run_store
from revani.store.pool import open_pool

_RUNNER_FRESH_S = 6.0


@asynccontextmanager
async def _lifespan(app: FastAPI) -> AsyncIterator[None]:
    async with open_pool(settings().database) as pool:
        app.state.pool = pool
        app.state.following = Following(lambda id: runs.look(pool, id))
        async with pool.connection() as conn:
            app.state.measures = await measures.stored(conn)
        await rig_store.copy(pool, settings())
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
    app.add_middleware(Guard, port=settings().port)
    install(app)
    rooms = (
        alarms, arming, begin, calculators, codes, films, handbook, journal, measures, presets, programs, records,
        rehearsals, reports, rigs, rigup, runs, sensors, sequences, tonight, ways,
    )  # fmt: skip
    for room in rooms:
        app.include_router(room.router)

    @app.get("/api/health")
    async def health(db: Db) -> Response:
        """200 when the database answers and a runner has given a sign just now; `silent` are rigs whose own has not."""
        signs = await run_store.signs(db)
        fresh = [sign for sign in signs if sign.age_s < _RUNNER_FRESH_S]
        if not fresh:
            return answer(Problem(title="No runner", status=503, detail="The database answers, but no runner is up."))
        silent = sorted(set(await rig_store.driven(db)) - {sign.rig for sign in fresh})
        told = {"database": "up", "runner": "up", "rigs": [sign.model_dump() for sign in fresh], "silent": silent}
        return JSONResponse(told)

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
