"""Rigs: what is linked, and what it says."""

from fastapi import APIRouter

from revani.api.deps import Db
from revani.core.shown.rigs import RigView, rig_view
from revani.store import runs

router = APIRouter(prefix="/api")


@router.get("/rigs")
async def list_rigs(db: Db) -> list[RigView]:
    """Every rig whose runner has ever given a sign, as it told of itself last."""
    return [rig_view(sign) for sign in await runs.signs(db)]
