"""The rig that something is asked about: the one that is named, or the one that a shot is for."""

from revani.core.arming.rigs import rig_for
from revani.core.documents import Shot
from revani.core.documents.rig import Rig
from revani.settings import settings
from revani.store import rigs
from revani.store.pool import Connection


async def which_rig(db: Connection, shot: Shot, named: str = "") -> Rig:
    """The rig of that name, or the one that has the shot's body. Raises Refusal("rig")."""
    there = [one.rig for one in await rigs.everything(db) if not one.archived]
    return await rigs.offered(db, named or rig_for(shot, there, settings().rig))
