"""Metric or imperial, chosen once; every answer is worded in what was chosen."""

from fastapi import APIRouter, Request
from pydantic import BaseModel
from starlette.types import ASGIApp, Receive, Scope, Send

from revani.api.deps import Db
from revani.core.quantities.measures import SYSTEMS, System, chosen, measured_in
from revani.store import preferences
from revani.store.pool import Connection

router = APIRouter(prefix="/api")
_NAME = "measures"


class Measures(BaseModel):
    """The measures in which lengths, temperatures and weights are shown, and read where no unit is typed."""

    system: System


async def stored(conn: Connection) -> System:
    """What was chosen; metric where nothing was."""
    kept = await preferences.read(conn, _NAME)
    return next((system for system in SYSTEMS if system == kept), "metric")


class Measured:
    """Answers every request in the measures that were chosen, which the application keeps in `state.measures`."""

    def __init__(self, app: ASGIApp) -> None:
        self._app = app

    async def __call__(self, scope: Scope, receive: Receive, send: Send) -> None:
        """Answer in them."""
        if scope["type"] != "http":
            await self._app(scope, receive, send)
            return
        with measured_in(scope["app"].state.measures):
            await self._app(scope, receive, send)


@router.get("/measures")
async def read_measures() -> Measures:
    """What is chosen."""
    return Measures(system=chosen())


@router.put("/measures")
async def choose_measures(measures: Measures, db: Db, request: Request) -> Measures:
    """Choose; from then on every page shows them."""
    await preferences.write(db, _NAME, measures.system)
    await db.commit()
    request.app.state.measures = measures.system
    return measures
