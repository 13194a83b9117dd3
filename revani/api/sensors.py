"""What sensors say over a webhook, and a person at the page, that a run may wait for."""

import time
from collections import deque
from typing import Annotated, Literal, Self
from uuid import UUID

from fastapi import APIRouter, Header, HTTPException
from pydantic import BaseModel, Field, model_validator

from revani.api.deps import Db
from revani.api.runs import view_of
from revani.api.which_rig import named_rig
from revani.api.who import Plain, Who
from revani.core.documents.rig import RigKey
from revani.core.quantities.refusal import Refusal
from revani.core.shown.rigs import Hears, hears
from revani.core.shown.run import RunView
from revani.store import heard, runs
from revani.store.heard import Said

router = APIRouter(prefix="/api")

# What one rig's sensors may say: so much in so many seconds. A sensor that floods is told so, and nothing of it kept.
_MOST, _IN_S = 200, 10.0
_AT_ONCE = 50
_BOUNDS: dict[str, tuple[float, float]] = {
    "motion": (0, 1), "light": (-10, 25), "sound": (-120, 0), "temperature": (-60, 90), "level": (-90, 90),
}  # fmt: skip


class SensorWord(BaseModel):
    """One thing that a sensor says: the part of its picture that changed, the light in EV at ISO 100, a peak in dBFS,
    the temperature at the camera in °C, how far from level it stands in degrees, or the word of a code card."""

    kind: Literal["motion", "light", "sound", "temperature", "level", "code card"]
    value: float = Field(0.0, allow_inf_nan=False)
    word: Annotated[Plain, Field(max_length=40)] = ""

    @model_validator(mode="after")
    def _within(self) -> Self:
        low, high = _BOUNDS.get(self.kind, (0.0, 0.0))
        if self.kind in _BOUNDS and not low <= self.value <= high:
            raise ValueError(f"A {self.kind} from {low:g} to {high:g} is needed.")
        if self.kind == "code card" and not self.word:
            raise ValueError("The word of the card is needed.")
        return self


class Kept(BaseModel):
    """How many words were kept."""

    kept: int


_said_at: dict[str, deque[float]] = {}


def _make_room(rig: str, many: int) -> None:
    """Count what a rig's sensors say. Raises HTTPException(429) where it is too much."""
    at = _said_at.setdefault(rig, deque())
    now = time.monotonic()
    while at and at[0] < now - _IN_S:
        at.popleft()
    if len(at) + many > _MOST:
        told = f"At most {_MOST} words in {_IN_S:.0f} s are taken of one rig's sensors."
        raise HTTPException(429, told, {"Retry-After": f"{_IN_S:.0f}"})
    at.extend([now] * many)


@router.post("/sensors")
async def say(
    words: Annotated[list[SensorWord], Field(min_length=1, max_length=_AT_ONCE)],
    db: Db,
    authorization: Annotated[str, Header(max_length=200)] = "",
) -> Kept:
    """What the sensors of a rig say now; they show the rig's own token (`Authorization: Bearer …`)."""
    scheme, _, token = authorization.partition(" ")
    rig = await heard.rig_of(db, token.strip()) if scheme.lower() == "bearer" else None
    if rig is None:
        raise HTTPException(
            401, "The token of a rig is needed: Authorization: Bearer …", {"WWW-Authenticate": "Bearer"}
        )
    _make_room(rig, len(words))
    await heard.put(db, rig, [Said(one.kind, one.value, one.word) for one in words])
    return Kept(kept=len(words))


class SensorsView(BaseModel):
    """What the sensors of a rig said last, and whether any may say something."""

    rig: str
    may: bool
    hears: list[Hears]


@router.get("/sensors")
async def list_sensors(db: Db, rig: RigKey = "") -> SensorsView:
    """What the sensors of a rig said last; of this machine's own, where none is named."""
    rig = (await named_rig(db, rig)).key
    return SensorsView(rig=rig, may=await heard.has_token(db, rig), hears=hears(await heard.newest(db, rig)))


class Token(BaseModel):
    """A token that is told once."""

    token: str


@router.post("/sensors/token")
async def new_token(db: Db, rig: RigKey = "") -> Token:
    """A new token for the sensors of a rig; the one before is void."""
    return Token(token=await heard.new_token(db, (await named_rig(db, rig)).key))


class Begin(BaseModel):
    """Who says that a run is to begin."""

    by: Who = Field("", validate_default=True)


@router.post("/runs/{id}/begin")
async def begin(id: UUID, order: Begin, db: Db) -> RunView:
    """Say so, to a run that waits for it. Raises Refusal where it does not."""
    run = await runs.read(db, id)
    if not (await view_of(db, run)).may_begin:
        raise Refusal("id", "Only a run that waits for somebody to say so just now is told to begin.", str(id))
    await heard.put(db, run.rig, [Said("hand", word=order.by)], id)
    return await view_of(db, run)
