"""The runner: claims the runs of one rig, has them shot, and brings the journal to the database."""

import asyncio
import fcntl
import os
import socket
from contextlib import suppress
from pathlib import Path
from typing import Any
from uuid import UUID, uuid4

import psycopg
import structlog
from psycopg_pool import PoolClosed, PoolTimeout

from revani.core.documents import Shot
from revani.core.filters import off_at_s, stack_stops
from revani.core.program import Program, compile_shot
from revani.core.refusal import Refusal
from revani.rig.drivers.gcode_mover import GcodeMover
from revani.rig.drivers.http_camera import HttpCamera
from revani.rig.ports import CameraError, Scene
from revani.rig.stage import StageClock
from revani.runner.carrier import Carrier
from revani.runner.shooter import End, Shooter, taken_frame
from revani.runner.spool import Spool
from revani.store import runs
from revani.store.pool import Pool, open_pool
from revani.store.runs import JournalFrame, Run

log = structlog.get_logger()

_AWAY = (psycopg.OperationalError, psycopg.InterfaceError, PoolTimeout, PoolClosed, OSError)
_LOOK_S = 0.25
_SIGN_S = 1.0
_LEAD_REAL_S = 1.0


class Runner:
    """One rig's runner. `folder` holds its identity and its spool; one process at a time may use it."""

    def __init__(self, pool: Pool, rig: str, camera_url: str, mover: tuple[str, int], folder: Path) -> None:
        self._pool = pool
        self._rig = rig
        self._camera_url = camera_url
        self._mover = mover
        self._folder = folder
        self._folder.mkdir(parents=True, exist_ok=True)
        self._lock_file = (folder / "lock").open("w")
        try:
            fcntl.flock(self._lock_file, fcntl.LOCK_EX | fcntl.LOCK_NB)
        except BlockingIOError:
            raise SystemExit(f"Another runner uses {folder} already.") from None
        self._name = self._identity()
        self._camera_says: dict[str, Any] | None = None

    def _identity(self) -> str:
        """A name that outlives the process, so that a restarted runner finds its own run again."""
        path = self._folder / "name"
        if not path.exists():
            path.write_text(f"{socket.gethostname()}-{uuid4().hex[:8]}")
        return path.read_text()

    async def work(self) -> None:
        """Serve the rig for ever."""
        signs = asyncio.create_task(self._give_signs())
        try:
            while True:
                try:
                    async with self._pool.connection() as conn:
                        run_id = await runs.claim(conn, self._rig, self._name)
                        run = await runs.read(conn, run_id) if run_id else None
                except _AWAY as error:
                    log.warning("database away", error=str(error).split("\n")[0])
                    await asyncio.sleep(_SIGN_S)
                    continue
                if run is None:
                    await asyncio.sleep(_LOOK_S)
                else:
                    await self._serve(run)
        finally:
            signs.cancel()

    async def _give_signs(self) -> None:
        camera = HttpCamera(self._camera_url, timeout_s=2)
        while True:
            try:
                status = await asyncio.to_thread(camera.status)
                self._camera_says = status.model_dump(mode="json")
            except CameraError as error:
                self._camera_says = {"trouble": str(error)}
            with suppress(*_AWAY):
                async with self._pool.connection(timeout=1) as conn:
                    await runs.sign(conn, self._rig, self._name, self._camera_says)
            await asyncio.sleep(_SIGN_S)

    async def _serve(self, run: Run) -> None:
        """Shoot one run from where it stands to its end."""
        log.info("run claimed", run=str(run.id), frames=run.frame_count, speed=run.speed)
        spool = Spool(self._folder, run.id)
        try:
            program = await asyncio.to_thread(compile_shot, Shot.model_validate(run.shot))
        except (Refusal, ValueError) as error:
            await self._finish(run.id, spool, 0, End("failed", f"The shot cannot be compiled: {error}"))
            return
        clock = await self._clock(run, program)
        camera = HttpCamera(self._camera_url)
        try:
            end = await self._begin(camera, run, program, clock)
            if end is None:
                carrier = self._carrier(run, program, clock)
                shooter = await self._resume(run, program, clock, camera, spool, carrier)
                shooter.start()
                end, emptied = await self._attend(run.id, shooter, spool)
            else:
                emptied = 0
        finally:
            camera.close()
        if end is not None:
            await self._finish(run.id, spool, emptied, end)

    async def _clock(self, run: Run, program: Program) -> StageClock:
        """The stage clock of a run: the one it began with, or a new one."""
        if run.clock is not None and run.speed > 1:
            return StageClock.model_validate(run.clock)
        if run.speed > 1:
            clock = StageClock.starting(program.start_s - _LEAD_REAL_S * run.speed, run.speed)
        else:
            clock = StageClock.real()
        while True:
            try:
                async with self._pool.connection() as conn:
                    await runs.set_clock(conn, run.id, clock.model_dump())
                return clock
            except _AWAY:
                await asyncio.sleep(_SIGN_S)

    async def _begin(self, camera: HttpCamera, run: Run, program: Program, clock: StageClock) -> End | None:
        """Put the camera before its scene; an End where it cannot be reached before the shot is over."""
        shot = program.shot
        scene = Scene(
            label=str(run.id), kit=shot.kit, place=shot.place, framing=shot.framing, cloud=shot.light.cloud,
            scene_offset_stops=program.scene_offset_stops, clock=clock, nd_stops=stack_stops(shot),
            nd_off_s=off_at_s(shot, program.start_s), things=shot.move.things if shot.move else (),
        )  # fmt: skip
        while clock.now_s() < program.end_s:
            try:
                await asyncio.to_thread(camera.stand, scene)
                return None
            except CameraError as error:
                log.warning("camera away", error=str(error))
                await asyncio.sleep(_LOOK_S)
                # Let the lease live while the camera is waited for.
                with suppress(*_AWAY):
                    async with self._pool.connection(timeout=1) as conn:
                        if await runs.renew(conn, run.id, self._name):
                            return End("stopped", "Stopped by hand before the camera answered.")
        return End("failed", "The camera did not answer before the shot was over.")

    def _carrier(self, run: Run, program: Program, clock: StageClock) -> Carrier | None:
        if program.motion is None:
            return None
        return Carrier(program, program.motion, GcodeMover(*self._mover), clock, str(run.id))

    async def _resume(
        self, run: Run, program: Program, clock: StageClock, camera: HttpCamera, spool: Spool, carrier: Carrier | None
    ) -> Shooter:
        """A shooter that goes on after the last frame number that is used up, whatever happened to it."""
        async with self._pool.connection() as conn:
            journalled = await runs.last_number(conn, run.id)
        interrupted = spool.unfinished
        if interrupted is not None:
            found = None
            with suppress(CameraError):
                found = await asyncio.to_thread(camera.taken, interrupted)
            due_s = float(program.at_s[interrupted - 1])
            spool.note(
                taken_frame(found, due_s)
                if found
                else JournalFrame(
                    number=interrupted, planned_s=due_s, outcome="missed",
                    reason="The runner was ended while it took this frame.",
                )
            )  # fmt: skip
        first = max(journalled, spool.last_number) + 1
        if first > 1:
            now_s = clock.now_s()
            while first <= run.frame_count and program.at_s[first - 1] + float(program.slot_s[first - 1]) <= now_s:
                reason = "The runner was not running when it was due."
                spool.note(
                    JournalFrame(
                        number=first, planned_s=float(program.at_s[first - 1]), outcome="missed", reason=reason
                    )
                )
                first += 1
        return Shooter(program, camera, clock, spool, first, carrier)

    async def _attend(self, run_id: UUID, shooter: Shooter, spool: Spool) -> tuple[End | None, int]:
        """Empty the spool and keep the lease while the shooter works; None where the lease was lost."""
        emptied, lost = 0, False
        while shooter.is_alive():
            await asyncio.sleep(_LOOK_S)
            with suppress(*_AWAY):
                async with self._pool.connection(timeout=1) as conn:
                    wanted = await runs.renew(conn, run_id, self._name)
                    if wanted is None and not lost:
                        log.error("lease lost; stopping", run=str(run_id))
                        lost = True
                    if wanted or lost:
                        shooter.stop()
                    frames = spool.after(emptied)
                    await runs.append_frames(conn, run_id, frames)
                    emptied += len(frames)
        return (None if lost else shooter.end), emptied

    async def _finish(self, run_id: UUID, spool: Spool, emptied: int, end: End) -> None:
        """Bring the rest of the journal home and close the run, however long the database is away."""
        while True:
            try:
                async with self._pool.connection() as conn:
                    await runs.append_frames(conn, run_id, spool.after(emptied))
                    await runs.end(conn, run_id, end.state, end.reason)
                break
            except _AWAY:
                await asyncio.sleep(_SIGN_S)
        spool.discard()
        log.info("run ended", run=str(run_id), state=end.state, reason=end.reason)


async def serve_rig(database_url: str, rig: str, camera_url: str, mover: tuple[str, int], folder: Path) -> None:
    """Run a runner until it is told to end."""
    # Frames are due to the millisecond: ask for precedence where the system grants it.
    with suppress(OSError):
        os.nice(-5)
    async with open_pool(database_url, most=4) as pool:
        await Runner(pool, rig, camera_url, mover, folder).work()
