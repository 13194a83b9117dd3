"""A machine that sleeps, whose clock is set, or that is started anew while it shoots. Its clocks are stepped here."""

import asyncio
import threading
import time
from collections.abc import Iterator
from pathlib import Path
from uuid import uuid4

import pytest

from revani.core.documents import ClockStart, Light, Shot
from revani.core.documents.run import JournalFrame
from revani.core.documents.timing import Timing
from revani.core.program.compiled import compile_shot
from revani.rig import stage
from revani.rig.drivers.http_camera import HttpCamera
from revani.rig.known import reached
from revani.rig.ports import Scene
from revani.rig.stage import Disturbances, StageClock
from revani.runner import main
from revani.runner.main import Runner
from revani.runner.shooter import Shooter
from revani.runner.spool import Spool, TakenUp
from revani.settings import Settings
from revani.store.pool import open_pool
from tests.conftest import Database, Stack, eventually, make_kit, make_shot


class Machine:
    """The machine's clocks, which may be stepped: it sleeps, or somebody sets the wall's."""

    def __init__(self) -> None:
        self.slept_s = 0.0
        self.set_by_s = 0.0

    def steady_s(self) -> float:
        return time.monotonic() + self.slept_s

    def awake_s(self) -> float:
        return time.monotonic()

    def wall_s(self) -> float:
        return time.time() + self.slept_s + self.set_by_s


@pytest.fixture
def machine(monkeypatch: pytest.MonkeyPatch) -> Machine:
    one = Machine()
    for name in ("steady_s", "awake_s", "wall_s"):
        monkeypatch.setattr(stage, name, getattr(one, name))
    monkeypatch.setattr(main, "wall_s", one.wall_s)
    return one


def test_what_is_slept_through_counts_as_waited(machine: Machine) -> None:
    clock, done = StageClock.starting(0.0, 1.0), threading.Event()
    waiting = threading.Thread(target=lambda: (clock.wait(3600, 0, threading.Event()), done.set()), daemon=True)
    waiting.start()
    assert not done.wait(0.2)
    machine.slept_s = 3600
    assert done.wait(10) and clock.now_s() >= 3600


def test_the_stage_keeps_its_pace_whatever_is_done_to_the_wall(machine: Machine) -> None:
    clock, seen = StageClock.real(), Disturbances()
    begin_s = clock.now_s()
    machine.set_by_s = -7200
    assert 0 <= clock.now_s() - begin_s < 60 and seen.news() == (0.0, pytest.approx(-7200, abs=1))
    assert seen.news() == (0.0, 0.0)
    machine.slept_s = 90
    slept_s, set_by_s = seen.news()
    assert slept_s == pytest.approx(90, abs=1) and set_by_s == 0 and clock.now_s() - begin_s >= 90


@pytest.fixture
def camera(stack: Stack) -> Iterator[HttpCamera]:
    driver = HttpCamera(stack.camera)
    yield driver
    driver.close()


def shooter(camera: HttpCamera, shot: Shot, speed: float, folder: Path) -> tuple[Shooter, Spool]:
    program = compile_shot(shot)
    clock = StageClock.starting(program.start_s - 0.3 * speed, speed)
    before = Scene(
        label=str(uuid4()), kit=shot.kit, place=shot.place, framing=shot.framing, cloud=shot.light.cloud,
        scene_offset_stops=program.scene_offset_stops, clock=clock,
    )  # fmt: skip
    camera.stand(before)
    spool = Spool(folder, uuid4())
    return Shooter(program, camera, before, clock, spool, 1, threading.Event()), spool


def frames(spool: Spool) -> dict[int, JournalFrame]:
    return {entry.frame.number: entry.frame for entry in spool.after(0) if entry.frame}


def notes(spool: Spool) -> list[str]:
    return [entry.note for entry in spool.after(0) if entry.note]


def test_frames_that_were_due_while_the_machine_slept_say_so_and_the_rest_is_taken(
    machine: Machine, camera: HttpCamera, tmp_path: Path
) -> None:
    light = Light(aperture=2.8, shutter_s=10)
    shot = make_shot(timing=Timing(fps=30, interval_s=60, frame_count=40), light=light)
    taking, spool = shooter(camera, shot, 200, tmp_path)
    taking.start()
    eventually(lambda: len(spool.numbers) >= 5)
    # Four real seconds at this speed are thirteen frames.
    machine.slept_s = 4.0
    taking.join(60)
    assert taking.end and taking.end.state == "finished" and sorted(spool.numbers) == list(range(1, 41))
    asleep = [frame.number for frame in frames(spool).values() if frame.reason == "The machine slept when it was due."]
    # A machine that others share stands still for more of them; those at the end are taken all the same.
    assert len(asleep) >= 8 and asleep == list(range(asleep[0], asleep[-1] + 1)) and asleep[-1] < 40
    assert notes(spool) == ["The machine slept for 4 s; frames due meanwhile are missed."]
    assert frames(spool)[40].outcome == "taken"


def test_a_clock_that_is_set_while_it_shoots_is_told_and_moves_no_frame(
    machine: Machine, camera: HttpCamera, tmp_path: Path
) -> None:
    kit = make_kit(body={"overhead_s": "0.1", "minimum_interval_s": "0.5"})
    light = Light(school="fixed", aperture=2.8, shutter_s="1/60", iso=100)
    shot = make_shot(timing=Timing(fps=30, interval_s=1, frame_count=4), kit=kit, light=light)
    taking, spool = shooter(camera, shot, 1, tmp_path)
    taking.start()
    eventually(lambda: len(spool.numbers) >= 1)
    machine.set_by_s = 3600
    taking.join(60)
    assert [frame.outcome for frame in frames(spool).values()] == ["taken"] * 4
    late = [(frame.fired_s or 0) - frame.planned_s for frame in frames(spool).values()]
    # An hour that the clock was set by, and a busy machine's second.
    assert max(late) - min(late) < 60
    assert notes(spool) == ["The machine's clock was set by +3600 s; the frames kept their pace."]


def test_before_its_start_a_run_follows_the_wall_and_a_new_boot_begins_a_new_clock(
    machine: Machine, database: Database, tmp_path: Path
) -> None:
    start = time.time() + 120
    local = time.gmtime(start)
    shot = make_shot(
        date=time.strftime("%Y-%m-%d", local), start=ClockStart(time=time.strftime("%H:%M:%S", local)),
        timing=Timing(fps=30, interval_s=60, frame_count=30),
    )  # fmt: skip
    program = compile_shot(shot)
    run = TakenUp(id=uuid4(), shot=shot.model_dump(mode="json"), speed=1, frame_count=30, fence=1)

    async def story() -> None:
        async with open_pool(database.url, most=1) as pool:
            nowhere = {"camera": "http://127.0.0.1:1", "mover": "gcode://127.0.0.1:1", "spool_dir": tmp_path}
            runner = Runner(pool, reached(Settings(rig="rig-clock"), "rig-clock")._replace(**nowhere))
            waiting = asyncio.create_task(runner._stopped_before_its_time(run, program.start_s))
            done, _ = await asyncio.wait({waiting}, timeout=0.5)
            assert not done
            # The wall's clock is set forward to three seconds before the start: that is what counts.
            machine.set_by_s = 117.0
            assert await asyncio.wait_for(waiting, 10) is False

            spool = Spool(tmp_path, run.id)
            clock = runner._clock(run, program, spool, program.start_s)
            resumed = run.model_copy(update={"clock": clock.model_dump()})
            machine.set_by_s = 5_000
            assert runner._clock(resumed, program, spool, program.start_s) == clock and not notes(spool)
            elsewhere = resumed.model_copy(update={"clock": clock.model_dump() | {"boot": "before", "steady_s": 9e9}})
            anew = runner._clock(elsewhere, program, spool, program.start_s)
            assert abs(anew.now_s() - machine.wall_s()) < 5
            assert notes(spool) == ["The machine was started anew during the run."]

    asyncio.run(story())
