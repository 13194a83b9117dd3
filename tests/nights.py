"""Nights at high stage speed with seeded faults, deaths of the runner and changes by hand, and what must be true then.

The shooting thread, its spool and its accounting are the runner's own; the camera is a process of its own behind its
real link. A runner dies by an exception that nothing catches: what it leaves is what a killed process leaves.
"""

import random
import threading
from collections.abc import Callable
from pathlib import Path
from typing import Any, NamedTuple
from uuid import UUID, uuid4

import httpx

from revani.core.documents import Light
from revani.core.documents.run import Intervention, JournalFrame
from revani.core.documents.timing import Timing
from revani.core.program.compiled import compile_shot
from revani.core.program.intervened import PASSED_OVER, intervened
from revani.core.watch.signs import PASSED
from revani.rig.drivers.http_camera import HttpCamera
from revani.rig.ports import CameraError, Scene
from revani.rig.stage import StageClock
from revani.runner.resuming import ENDED_WHILE, NOT_BEGUN, NOT_RUNNING, account
from revani.runner.scene import scene_of
from revani.runner.shooter import NOT_ASKED, End, Shooter
from revani.runner.spool import Spool
from tests.conftest import make_shot, pause

FRAMES, SPEED, LEAD_REAL_S = 24, 500.0, 0.3
_MOST_DEATHS = 3
_SHOT = make_shot(
    timing=Timing(fps=30, interval_s=60, frame_count=FRAMES),
    light=Light(school="fixed", aperture=2.8, shutter_s=10, iso=200, iso_ceiling=6400),
)
_PROGRAM = compile_shot(_SHOT)
_FAULTS: tuple[dict[str, Any], ...] = (
    {"kind": "refuse", "count": 2}, {"kind": "slow", "seconds": 0.3, "count": 2}, {"kind": "hang", "seconds": 0.3},
    {"kind": "drop", "count": 2}, {"kind": "full card"}, {"kind": "empty battery"}, {"kind": "other card"},
    {"kind": "dies", "seconds": 0.4},
    *({"kind": "garble", "nonsense": one, "count": 2} for one in ("not json", "wrong shape", "half")),
)  # fmt: skip
_CHANGES = (("pause", 0), ("resume", 0), ("brighter", 1), ("extend", 5), ("end early", 20))
# After these the camera may not have answered.
_SILENT = {"hang", "drop", "slow", "garble", "death", "dies"}
# What a reason that names a cause needs to have happened.
_CAUSES = {
    "card is full": {"full card"}, "battery": {"empty battery"}, "says no": {"refuse"}, "had hung": {"hang"},
    "does not answer": _SILENT, "could not be read": {"garble"},
    "could not be asked": _SILENT, "is exposing": _SILENT, "is storing": _SILENT, PASSED_OVER: {"pause"},
    NOT_RUNNING: {"death"}, ENDED_WHILE: {"death"},
}  # fmt: skip
_ALWAYS = (PASSED, NOT_BEGUN)


class Died(BaseException):
    """The runner is gone."""


class _Mortal(HttpCamera):
    """The camera of a runner that dies at one of its requests: before it is sent, or before its answer is heard."""

    def __init__(self, address: str, fence: int, dies_in: int | None, heard: bool) -> None:
        super().__init__(address, timeout_s=1.5, fence=fence)
        self._left, self._heard, self.fence = dies_in, heard, fence

    def _answer(self, *args: Any, **more: Any) -> bytes:
        if self._left is not None:
            self._left -= 1
            if self._left == 0 and not self._heard:
                raise Died
        found = super()._answer(*args, **more)
        if self._left == 0:
            raise Died
        return found


class Night(NamedTuple):
    """What became of a night: its journal, what happened in it, how it ended, and what is not true of it."""

    journal: list[JournalFrame]
    happened: set[str]
    end: End
    untrue: list[str]


def a_night(seed: int, address: str, folder: Path) -> Night:
    """Shoot one night on the camera at an address, whatever happens, and look whether its journal is true."""
    chosen = random.Random(seed)
    id, happened = uuid4(), set[str]()
    clock = StageClock.starting(_PROGRAM.start_s - LEAD_REAL_S * SPEED, SPEED)
    deaths = chosen.randint(0, _MOST_DEATHS)
    told: list[Intervention] = []
    end: End | None = None
    # The camera obeys the highest fence that it has seen, over all nights.
    for life in range(1, deaths + 2):
        if life > 1:
            happened.add("death")
        dies = chosen.randint(3, 40) if life <= deaths else None
        camera = _Mortal(address, seed * 100 + life, dies, chosen.random() < 0.5)
        end = _live(chosen, id, camera, folder, clock, told, happened)
        if end is not None:
            break
    httpx.delete(f"{address}/fault")
    spool = Spool(folder, id)
    journal = [entry.frame for entry in spool.after(0) if entry.frame is not None]
    assert end is not None
    untrue = _untrue(journal, told, happened, end, address, id)
    untrue += _not_resumed(spool, address, folder, clock, told, seed * 100 + 99)
    spool.discard()
    return Night(journal, happened, end, untrue)


def _live(
    chosen: random.Random, id: UUID, camera: _Mortal, folder: Path, clock: StageClock,
    told: list[Intervention], happened: set[str],
) -> End | None:  # fmt: skip
    """One life of a runner: how the night ended, or None where the runner died."""
    spool, halt = Spool(folder, id), threading.Event()
    told[:] = [spool.told[nth] for nth in sorted(spool.told)]
    program = intervened(_PROGRAM, told)
    scene = scene_of(_PROGRAM, clock, str(id), camera.fence)
    address = str(camera._http.base_url)
    over = threading.Event()
    try:
        _stood(camera, scene)
        resumed = account(program, camera, lambda: camera.stand(scene), clock, spool, {}, halt)
    except Died:
        return None
    shooter = Shooter(program, camera, scene, clock, spool, resumed.first, halt, None, resumed.unsure, told)
    # A death is no error of the test's.
    shooter.run = _quietly(shooter.run)  # type: ignore[method-assign]
    harm = threading.Thread(target=_harm, args=(chosen, address, shooter, over, len(told), happened), daemon=True)
    shooter.start()
    harm.start()
    shooter.join(120)
    over.set()
    harm.join(10)
    told[:] = [spool.told[nth] for nth in sorted(spool.told)]
    return shooter.end


def _stood(camera: HttpCamera, scene: Scene) -> None:
    """Put the camera before its scene, as the runner does: until it answers."""
    for _ in range(100):
        try:
            camera.stand(scene)
            return
        except CameraError:
            pause()
    raise AssertionError("The camera did not come.")


def _quietly(work: Callable[[], None]) -> Callable[[], None]:
    def run() -> None:
        try:
            work()
        except Died:
            return

    return run


def _harm(
    chosen: random.Random, address: str, shooter: Shooter, over: threading.Event, before: int, happened: set[str]
) -> None:
    """A few faults and changes by hand, at moments of their own."""
    nth = before
    for _ in range(chosen.randint(0, 3)):
        if over.wait(chosen.uniform(0.1, 1.5)):
            return
        if chosen.random() < 0.3:
            kind, amount = chosen.choice(_CHANGES)
            nth += 1
            happened.add(kind)
            shooter.order(Intervention(nth=nth, kind=kind, amount=amount, by="Ilse", at_s=_PROGRAM.start_s))  # type: ignore[arg-type]
            continue
        fault = chosen.choice(_FAULTS)
        happened.add(fault["kind"])
        httpx.put(f"{address}/fault", json=fault)


def _untrue(
    journal: list[JournalFrame], told: list[Intervention], happened: set[str], end: End, address: str, id: UUID
) -> list[str]:
    """What is not as it must be: numbers, reasons, and what is on the card."""
    rows: dict[int, JournalFrame] = {}
    found = []
    for frame in journal:
        if frame.number in rows and not frame.first_said:
            found.append(f"frame {frame.number} is there twice")
        rows[frame.number] = frame
    if sorted(rows) != list(range(1, max(rows, default=0) + 1)):
        found.append(f"numbers are not all there: {sorted(rows)}")
    count = intervened(_PROGRAM, told).frame_count
    if end.state == "finished" and len(rows) != count:
        found.append(f"finished with {len(rows)} of {count}")
    for frame in rows.values():
        if frame.outcome == "missed":
            found += _wrong(frame, happened)
    if "other card" not in happened:
        card = {one["number"]: one["file"] for one in httpx.get(f"{address}/frames", params={"label": str(id)}).json()}
        taken = {number: frame.file for number, frame in rows.items() if frame.outcome == "taken"}
        if taken != card:
            found.append(f"journal {sorted(taken)}, card {sorted(card)}")
    if end.state == "failed":
        found.append(f"broke off: {end.reason}")
    return found


def _wrong(frame: JournalFrame, happened: set[str]) -> list[str]:
    if not frame.reason:
        return [f"frame {frame.number} is missed without a reason"]
    named = [needs for words, needs in _CAUSES.items() if words in frame.reason]
    if not named and not frame.reason.startswith(_ALWAYS):
        return [f"frame {frame.number} is missed for a reason that nobody knows: {frame.reason}"]
    if any(not needs & happened for needs in named) and NOT_ASKED not in frame.reason:
        return [f"frame {frame.number}: {frame.reason} Nothing of that happened, but {sorted(happened)}"]
    return []


def _not_resumed(
    spool: Spool, address: str, folder: Path, clock: StageClock, told: list[Intervention], fence: int
) -> list[str]:
    """Whether a runner that comes now goes on where the journal ends, and changes nothing before."""
    camera, program, id = HttpCamera(address, fence=fence), intervened(_PROGRAM, told), spool.run_id
    scene = scene_of(_PROGRAM, clock, str(id), fence)
    _stood(camera, scene)
    before = sorted(spool.numbers)
    again = Spool(folder, id)
    first = account(program, camera, lambda: camera.stand(scene), clock, again, {}, threading.Event()).first
    if sorted(again.numbers)[: len(before)] != before or first <= max(before, default=0):
        return [f"resumed at {first} after {before[-1:]}"]
    return []
