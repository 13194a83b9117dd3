"""Ways of a shot: kept beside it, compared, taken."""

from collections.abc import Sequence

from fastapi import APIRouter, Response
from pydantic import BaseModel, Field

from revani.api.deps import Costly
from revani.api.named import named
from revani.core.documents import Shot
from revani.core.edit.differing import differences_told
from revani.core.edit.fitting import compile_fitted
from revani.core.findings import AnyEdit, Neighbour, apply_any
from revani.core.ways.kept import WayEdit, apply_way_edit, kept_beside
from revani.core.ways.lockstep import Lock, lockstep
from revani.core.ways.measured import Measured
from revani.core.ways.table import WayRow, cause, compared
from revani.core.ways.together import together
from revani.exports.ways_csv import ways_csv

router = APIRouter(prefix="/api/ways", dependencies=[Costly])


class BesideAsk(BaseModel):
    """What is kept beside a shot: another shot, or the same after edits; without a name it gets one."""

    shot: Shot
    other: Shot | None = None
    edits: list[AnyEdit] = Field(default=[], max_length=20)
    name: str = Field("", max_length=200, description="Cut where it is longer than a name may be.")
    neighbours: list[Neighbour] = Field(default=[], max_length=200)


@router.post("/beside")
def keep_beside(ask: BesideAsk) -> Shot:
    """The shot with another way beside it; nothing is saved."""
    other = ask.other or ask.shot
    for edit in ask.edits:
        other = apply_any(other, edit, ask.neighbours)
    if ask.edits:
        # A choice brings along what hangs on it, as on the desk.
        other = compile_fitted(other).shot
    return kept_beside(ask.shot, other, ask.name)


class WayEditAsk(BaseModel):
    """A shot, and what is done with one of its ways."""

    shot: Shot
    edit: WayEdit


@router.post("/edit")
def edit_ways(ask: WayEditAsk) -> Shot:
    """The shot after an edit of its ways; nothing is saved."""
    return apply_way_edit(ask.shot, ask.edit)


class WaysAsk(BaseModel):
    """A shot with its ways, and what the cursor is locked by."""

    shot: Shot
    lock: Lock = "film"


class WayColumn(BaseModel):
    """A way as it is shown: its shot, what sets it apart, where its film stands at each place of the cursor."""

    name: str
    shot: Shot
    told: str
    changed: list[str]
    cause: str
    seek: list[float | None]


class WayRefused(BaseModel):
    """A way that fits its shot no more: the field at fault, and what is allowed."""

    name: str
    field: str
    allowed: str


class WaysView(BaseModel):
    """All ways that fit beside each other, the shot as it is first; and those that do not."""

    columns: list[WayColumn]
    rows: list[WayRow]
    refused: list[WayRefused]
    places: list[str]


@router.post("")
def look(ask: WaysAsk) -> WaysView:
    """The ways of a shot compared."""
    shown, refused = together(ask.shot)
    seek, places = lockstep(shown, ask.lock)
    columns = [_column(shown, i, stands) for i, stands in enumerate(seek)]
    return WaysView(
        columns=columns, rows=list(compared(shown)), places=places,
        refused=[WayRefused(name=name, field=why.path, allowed=why.allowed) for name, why in refused],
    )  # fmt: skip


@router.post("/table", response_class=Response)
def table(ask: WaysAsk) -> Response:
    """The table of differences as CSV, a column a way; the best of a row has a star."""
    shown = together(ask.shot).ways
    text = ways_csv([one.name for one in shown], compared(shown))
    return Response(text, media_type="text/csv", headers=named(f"Ways of {ask.shot.name}.csv"))


def _column(shown: Sequence[Measured], i: int, seek: list[float | None]) -> WayColumn:
    first, way = shown[0], shown[i]
    return WayColumn(
        name=way.name, shot=way.shot, told=way.film.told, seek=seek,
        changed=list(differences_told(first.program, way.program)) if i else [], cause=cause(first, way) if i else "",
    )  # fmt: skip
