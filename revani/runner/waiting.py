"""A run that waits for what begins it: what was said to it, what its camera sees, where the sun stands."""

import io
import time
from collections.abc import Callable, Sequence
from contextlib import suppress

import numpy as np
from PIL import Image, UnidentifiedImageError

from revani.core.documents import Shot
from revani.core.documents.run import Begun
from revani.core.documents.trigger import RunReaches
from revani.core.picture.stirring import changed_part
from revani.core.program.compiled import Program
from revani.core.quantities.arrays import Array
from revani.core.quantities.refusal import Refusal
from revani.core.sky.sun_and_moon import sky_over
from revani.core.timing.start import start_s
from revani.core.timing.trigger_words import show_condition, show_ways
from revani.core.timing.triggers import Heard, HeardAgo, Met, listens_to, met
from revani.core.timing.waiting import closes_s
from revani.rig.code_in_picture import read_picture
from revani.rig.ports import Camera, CameraError
from revani.rig.stage import StageClock
from revani.runner.asking import answered

# So often, at most, the camera's picture is looked at (real seconds).
_LOOK_REAL_S = 0.4
# What is older than this is of no use to any condition but one that a person may set so long (stage seconds).
_KEPT_S = 3_700.0


class Waiter:
    """What one waiting run has heard until now, on its stage's clock."""

    def __init__(self, shot: Shot, clock: StageClock) -> None:
        assert shot.waits is not None
        self._waits = shot.waits
        self._clock = clock
        self.opens_s, self.closes_s = start_s(shot), closes_s(shot)
        self._sky = sky_over(shot.place, self.opens_s, self.closes_s)
        self._heard: list[Heard] = []
        self._before: Array | None = None
        self._looked_at = -1e9
        self.last_row = 0
        self.sees = bool(listens_to(self._waits) & {"motion", "code card"})
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
        if not self.sees or time.monotonic() - self._looked_at < _LOOK_REAL_S:
            return
        self._looked_at = time.monotonic()
        try:
            content, now_s = answered(camera.live, stand), self._clock.now_s()
            with Image.open(io.BytesIO(content)) as picture:
                seen = np.asarray(picture.convert("L"), dtype=np.float64)
        except (CameraError, UnidentifiedImageError, OSError, ValueError):
            self._before = None
            return
        if self._before is not None:
            self._heard.append(Heard("motion", now_s, changed_part(self._before, seen)))
        self._before = seen
        with suppress(Refusal):
            self._heard.append(Heard("code card", now_s, word=read_picture(content).strip()))

    def met(self) -> Met | None:
        """What has come, if anything has."""
        now_s = self._clock.now_s()
        self._heard = [one for one in self._heard if one.at_s > now_s - _KEPT_S or one.kind == "run"]
        return met(self._waits, self._heard, self._sky, self.opens_s, min(now_s, self.closes_s))

    @property
    def over(self) -> bool:
        """Whether nothing is waited for any longer."""
        return self._clock.now_s() >= self.closes_s

    @property
    def anyway(self) -> bool:
        """Whether it begins although nothing came."""
        return self._waits.otherwise == "it begins all the same"


def begun_of(program: Program, told: str) -> Begun:
    """What is noted of a run that has begun."""
    shot = program.shot
    return Begun(
        told=told, begins_s=program.start_s, shot=shot.model_dump(mode="json"), end_s=program.end_s,
        frame_count=1 if shot.live else program.frame_count,
    )  # fmt: skip


def key_frame(program: Program, key: int) -> int | None:
    """The first frame that is due at a key of the move or after it; None where there is no such key."""
    if program.motion is None or key > len(program.motion.path.knots.arrives_s):
        return None
    arrives_s = sorted(program.motion.path.knots.arrives_s)[key - 1]
    return min(int(np.searchsorted(program.t_s, arrives_s - 1e-6)) + 1, program.frame_count)
