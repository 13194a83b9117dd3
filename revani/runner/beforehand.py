"""What the camera saw just before a run that waited began: a ring while it waits, files in the spool, then home."""

import asyncio
from collections import deque
from collections.abc import Sequence
from contextlib import suppress
from typing import NamedTuple

from revani.core.quantities.units import count
from revani.runner.spool import Spool
from revani.store import befores
from revani.store.pool import Connection

# Pictures are looked at two or three times a second: more than these are none of a minute.
MOST_KEPT = 200
# So many are brought home at once, that the journal comes home between them.
_AT_ONCE = 10


class Seen(NamedTuple):
    """A picture (JPEG), and when by the stage's clock it was seen."""

    at_s: float
    picture: bytes


class Ring:
    """The pictures of the last `keeps_s` stage seconds, and the one before them; none where `keeps_s` is 0."""

    def __init__(self, keeps_s: float) -> None:
        self._keeps_s = keeps_s
        self._pictures: deque[Seen] = deque(maxlen=MOST_KEPT)

    def add(self, at_s: float, picture: bytes) -> None:
        """One more; what it makes too old is forgotten."""
        if not self._keeps_s:
            return
        self._pictures.append(Seen(at_s, picture))
        while len(self._pictures) > 1 and self._pictures[1].at_s <= at_s - self._keeps_s:
            self._pictures.popleft()

    def until(self, at_s: float) -> list[Seen]:
        """Those up to an instant."""
        return [one for one in self._pictures if one.at_s <= at_s]


def keep(spool: Spool, pictures: Sequence[Seen], came_s: float) -> None:
    """Put pictures into the spool, by how long (ms) before it came they were seen, and say how many there are."""
    if not pictures:
        spool.remark("Nothing is kept of what it saw before it began: the camera showed no picture.")
        return
    try:
        spool.before.mkdir(parents=True, exist_ok=True)
        for number, one in enumerate(pictures, 1):
            name = f"{number:04d}-{round((came_s - one.at_s) * 1000)}.jpg"
            partial = spool.before / f"{name}.part"
            partial.write_bytes(one.picture)
            partial.rename(spool.before / name)
    except OSError as error:
        spool.remark(f"What it saw before it began is not all kept: {error.strerror}.")
    else:
        spool.remark(f"Kept of what it saw before it began: {count(len(pictures), 'picture')}.")


async def bring_home(conn: Connection, spool: Spool, most: int = _AT_ONCE) -> None:
    """Bring the next pictures of a spool to the database, in order; one that cannot be read stops nothing."""
    for path in sorted(spool.before.glob("*.jpg"))[:most]:
        number, ago_ms = (int(part) for part in path.stem.split("-"))
        try:
            picture = await asyncio.to_thread(path.read_bytes)
        except OSError as error:
            spool.remark(f"A picture of what it saw before it began cannot be read: {error.strerror}.")
        else:
            await befores.put(conn, spool.run_id, befores.Before(number=number, ago_s=ago_ms / 1000), picture)
        with suppress(OSError):
            path.unlink()
