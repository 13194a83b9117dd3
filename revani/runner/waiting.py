"""A run that waits for what begins it: what was said to it, what its camera sees, where the sun stands."""

import asyncio
import io
import time
from collections.abc import Callable, Sequence
from contextlib import suppress
from zoneinfo import ZoneInfo

import numpy as np
from PIL import Image, UnidentifiedImageError

from revani.core.documents import Shot
from revani.core.documents.trigger import LONGEST_TOGETHER_S, RunReaches
from revani.core.picture.stirring import changed_part
from revani.core.program.intervened import program_of
from revani.core.program.reached import is_reached
from revani.core.quantities.arrays import Array
from revani.core.quantities.refusal import Refusal
from revani.core.sky.sun_and_moon import sky_over
from revani.core.timing.start import start_s
from revani.core.timing.trigger_words import show_condition, show_ways
from revani.core.timing.triggers import Heard, HeardAgo, Met, met, watches
from revani.core.timing.waiting import closes_s
from revani.rig.code_in_picture import read_picture
from revani.rig.ports import Camera, CameraError
from revani.rig.stage import StageClock, wall_s
from revani.runner.asking import answered
from revani.runner.beforehand import Ring
from revani.runner.home import AWAY, Home, append
from revani.runner.shooter import End
from revani.runner.spool import Spool, TakenUp
from revani.store import heard, runs

# So often, at most, the camera's picture is looked at (real seconds).
_LOOK_REAL_S = 0.4
_LISTEN_S = 0.25
# What is older than the longest for which an instant counts is of no use (stage seconds).
_KEPT_S = LONGEST_TOGETHER_S + 60.0
# A camera that has shown no picture for so long (real seconds) sees nothing of what is waited for.
_BLIND_AFTER_S = 10.0


class Waiter:
    """What one waiting run has heard until now, on its stage's clock."""

    def __init__(self, shot: Shot, clock: StageClock) -> None:
        assert shot.waits is not None
        self._waits = shot.waits
        self._clock = clock
        self.opens_s, self.closes_s = start_s(shot), closes_s(shot)
        self._sky = sky_over(shot.place, self.opens_s, self.closes_s)
        self._zone = ZoneInfo(shot.place.time_zone)
        self._heard: list[Heard] = []
        self._before: Array | None = None
        self._looked_at = -1e9
        self._blind_since: float | None = None
        self.last_row = 0
        self.seen = Ring(float(shot.waits.before_s))
        self.sees = watches(self._waits)
        self.runs = [one for way in self._waits.ways for one in way if isinstance(one, RunReaches)]

    @property
    def told(self) -> str:
        """What it waits for, in words."""
        return show_ways(self._waits.ways)

    def hear(self, rows: Sequence[HeardAgo]) -> None:
        """What sensors and people said."""
        now_s = self._clock.now_s()
        for row in rows:
            at_s = now_s - row.ago_s * self._clock.speed
            if row.kind == "hand":
                # It is taken only when the wait has begun, whatever two clocks make of that instant.
                at_s = max(at_s, self.opens_s)
            self._heard.append(Heard(row.kind, at_s, row.value, row.word))
            self.last_row = max(self.last_row, row.id)

    def has_reached(self, one: RunReaches) -> None:
        """Another run is where it is waited for."""
        word = show_condition(one)
        if all(it.word != word for it in self._heard if it.kind == "run"):
            self._heard.append(Heard("run", self._clock.now_s(), word=word))

    def look(self, camera: Camera, stand: Callable[[], None]) -> None:
        """See by the camera's own picture what stirs before it, and what card is held there.

        One that was started anew is put before its scene by `stand` first; one that is away is not seen by.
        """
        if time.monotonic() - self._looked_at < _LOOK_REAL_S:
            return
        self._looked_at = time.monotonic()
        try:
            content, now_s = answered(camera.live, stand), self._clock.now_s()
            with Image.open(io.BytesIO(content)) as picture:
                seen = np.asarray(picture.convert("L"), dtype=np.float64)
        except (CameraError, UnidentifiedImageError, OSError, ValueError):
            self._before = None
            if self._blind_since is None:
                self._blind_since = time.monotonic()
            return
        self._blind_since = None
        self.seen.add(now_s, content)
        if self._before is not None:
            self._heard.append(Heard("motion", now_s, changed_part(self._before, seen)))
        self._before = seen
        with suppress(Refusal):
            self._heard.append(Heard("code card", now_s, word=read_picture(content).strip()))

    @property
    def blind(self) -> bool:
        """Whether it has looked for a while, and got no picture of the camera."""
        since = self._blind_since
        return since is not None and time.monotonic() - since > _BLIND_AFTER_S

    def met(self) -> Met | None:
        """What has come, if anything has."""
        now_s = self._clock.now_s()
        self._heard = [one for one in self._heard if one.at_s > now_s - _KEPT_S or one.kind == "run"]
        return met(self._waits, self._heard, self._sky, self._zone, self.opens_s, min(now_s, self.closes_s))

    def over(self) -> Met | End | None:
        """What becomes of it where nothing came in its time; None while it waits still."""
        if self._clock.now_s() < self.closes_s:
            return None
        if self._waits.otherwise == "it begins all the same":
            return Met(self.closes_s, "nothing that it waited for came, and it begins all the same")
        return End("missed", f"It waited until {self.told}: nothing of that came in its time.")


async def wait(
    run: TakenUp, rig: str, waiter: Waiter, home: Home, spool: Spool, look: Callable[[], None] | None
) -> Met | End | None:
    """Wait, listening and keeping the lease, until what begins a run comes; an End where it does not begin.

    None where another has taken the run up. `look` has the waiter see by the camera, where that is needed.
    """
    while True:
        with suppress(*AWAY):
            async with home.connection(1) as conn:
                wanted = await runs.renew(conn, run.id, run.fence)
                if wanted is None:
                    return None
                if wanted:
                    return End("stopped", "Stopped by hand while it waited.")
                waiter.hear(await heard.since(conn, rig, run.id, waiter.last_row))
                for one in waiter.runs:
                    other = await runs.reached(conn, one.of, run.id)
                    if other and is_reached(one, other, await asyncio.to_thread(program_of, other), wall_s()):
                        waiter.has_reached(one)
                await append(conn, run.id, run.fence, spool.after(0))
        if look is not None:
            await asyncio.to_thread(look)
        come = await asyncio.to_thread(waiter.met) or waiter.over()
        if come is not None:
            return come
        await asyncio.sleep(_LISTEN_S)
