"""The rig that something is asked about: the one that is named, or the one that a shot is for."""

from collections.abc import Mapping

from revani.core.arming.rigs import rig_for
from revani.core.documents import Shot
from revani.core.documents.rig import Rig
from revani.core.quantities.refusal import Refusal
from revani.settings import settings
from revani.store import rigs
from revani.store.pool import Connection


async def named_rig(db: Connection, key: str) -> Rig:
    """The rig of a key, this machine's own where none is named. Raises Refusal("rig")."""
    return _one_of(await rigs.driven(db), key or settings().rig)


async def which_rig(db: Connection, shot: Shot, key: str = "") -> Rig:
    """The rig of a key, or where none is named the one that has the shot's body. Raises Refusal("rig")."""
    there = await rigs.driven(db)
    return _one_of(there, key or rig_for(shot, [*there.values()], settings().rig))


def _one_of(there: Mapping[str, Rig], key: str) -> Rig:
    if key not in there:
        raise Refusal("rig", f"One of: {', '.join(there)}.", key)
    return there[key]
