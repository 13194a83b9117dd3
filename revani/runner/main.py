"""The runner: claims the runs of one rig, has them shot, and brings the journal to the database.

Nothing ends it but a signal: what it meets on the way costs a frame at most, and is told.
"""

import asyncio
import fcntl
import socket
import threading
from contextlib import suppress
from uuid import uuid4

import psycopg
import structlog

from revani.core.documents import Shot
from revani.core.documents.run import ENDED
from revani.core.program.compiled import Program
from revani.core.quantities.refusal import Refusal
from revani.core.quantities.units import count
from revani.core.timing.start import start_s
from revani.core.timing.triggers import Met
from revani.processes import boot
from revani.rig.drivers import camera_at
from revani.rig.known import Reached
from revani.rig.ports import Camera, CameraError, Scene, Stage, printable
from revani.rig.stage import StageClock, wall_s
from revani.runner.beforehand import MOST_KEPT, bring_home, keep
from revani.runner.carrier import Carrier, Halted, Late, Stalled
from revani.runner.filming import Filmer
from revani.runner.home import AWAY, Home, append
from revani.runner.planned import as_noted, begin, once_more, program_for, told_of, waiting_shot
from revani.runner.resuming import account
from revani.runner.scene import scene_of
from revani.runner.shooter import End, Shooter, TakenOver, switched_off
from revani.runner.signs import Signs, mover_of
from revani.runner.spool import Spool, TakenUp, left_over
from revani.runner.waiting import Waiter, wait
from revani.store import runs
from revani.store.pool import Connection, Pool, open_pool
from revani.store.records import NotThere

log = structlog.get_logger()

_LOOK_S = 0.25
_AGAIN_S = 0.5
_LEAD_REAL_S = 1.0
# So long it takes to set everything up once it has come.
_SET_UP_REAL_S = 1.0
# So long the rig may take to its start while a run waits.
_READY_REAL_S = 300.0
# So long before its first frame a run on the wall's clock leaves that clock, and keeps its own pace.
_ANCHOR_S = 8.0


class Runner:
    """One rig's runner. Its folder holds its identity and its spool; one process at a time may use it."""

    def __init__(self, pool: Pool, its: Reached) -> None:
        self._home = Home(pool)
        self._its, self._rig = its, its.rig.key
        self._folder = its.spool_dir
        self._folder.mkdir(parents=True, exist_ok=True)
        self._lock_file = (self._folder / "lock").open("w")
        try:
            fcntl.flock(self._lock_file, fcntl.LOCK_EX | fcntl.LOCK_NB)
        except BlockingIOError:
            raise SystemExit(f"Another runner uses {self._folder} already.") from None
        self._name = self._identity()
        self._boot = boot()
        self._signs = Signs(self._home, its, self._name)

    def _identity(self) -> str:
        """A name that outlives the process, so that a restarted runner finds its own run again."""
        path = self._folder / "name"
        with suppress(OSError, UnicodeDecodeError):
            if (name := path.read_text().strip()) and name.isprintable():
                return name
        name = f"{socket.gethostname()}-{uuid4().hex[:8]}"
        with suppress(OSError):
            path.write_text(name)
        return name

    async def work(self) -> None:
        """Serve the rig for ever."""
        signs = asyncio.create_task(self._signs.give())
        try:
            while True:
                try:
                    run = await self._next()
                    if run is None:
                        await asyncio.sleep(_LOOK_S)
                    else:
                        self._signs.serving = True
                        try:
                            await self._serve(run)
                        finally:
                            self._signs.serving = False
                except Exception:
                    log.exception("the runner met an error of its own")
                    await asyncio.sleep(_AGAIN_S)
        finally:
            signs.cancel()

    async def _next(self) -> TakenUp | None:
        """The run to shoot, from the database; while that is away, the one that was being shot before."""
        try:
            async with self._home.connection() as conn:
                id = await runs.claim(conn, self._rig, self._name)
                run = await runs.read(conn, id) if id else None
        except psycopg.errors.UniqueViolation:
            # Another runner of this rig was a moment faster.
            return None
        except AWAY as error:
            log.warning("database away", error=printable(str(error)))
            await asyncio.sleep(_LOOK_S)
            return self._from_spool()
        if run is None:
            await self._bring_home_left_overs()
            return None
        return TakenUp(
            id=run.id, shot=run.shot, speed=run.speed, frame_count=run.frame_count, fence=run.fence, clock=run.clock,
            interventions=run.interventions, begins_s=run.begins_s,
        )  # fmt: skip

    def _from_spool(self) -> TakenUp | None:
        for id in left_over(self._folder):
            if (run := Spool(self._folder, id).taken_up) is not None:
                return run
        return None

    async def _bring_home_left_overs(self) -> None:
        """Bring home what spools hold of runs that ended without their runner; those that another has are set aside."""
        for id in left_over(self._folder):
            with suppress(*AWAY):
                spool = Spool(self._folder, id)
                async with self._home.connection() as conn:
                    try:
                        state = (await runs.read(conn, id)).state
                    except NotThere:
                        state = None
                    fence = spool.taken_up.fence if spool.taken_up else -1
                    home = state in ENDED and await append(conn, id, fence, spool.after(0))
                if home:
                    spool.discard()
                elif state != "running":
                    spool.leave()

    def _camera_for(self, run: TakenUp) -> Camera:
        return camera_at(self._its.camera, fence=run.fence, serial=self._its.rig.serial)

    async def _serve(self, run: TakenUp) -> None:
        """Shoot one run from where it stands to its end."""
        log.info("run taken up", run=str(run.id), frames=run.frame_count, speed=run.speed)
        spool = Spool(self._folder, run.id)
        run = as_noted(run, spool)
        spool.take_up(run)
        halt = threading.Event()
        try:
            program = await asyncio.to_thread(program_for, run, spool)
        except (Refusal, ValueError) as error:
            log.error("shot not compiled", run=str(run.id), error=printable(str(error)))
            why = error.allowed if isinstance(error, Refusal) else "It is of an older form."
            await self._finish(run, spool, 0, End("failed", f"The shot that was armed cannot be compiled. {why}"))
            return
        waiting = waiting_shot(run)
        opens_s = program.start_s if waiting is None else start_s(waiting)
        if await self._stopped_before_its_time(run, opens_s):
            await self._finish(run, spool, 0, End("stopped", "Stopped by hand before it began."))
            return
        clock = self._clock(run, program, spool, opens_s)
        run = run.model_copy(update={"clock": clock.model_dump()})
        spool.take_up(run)
        if waiting is not None:
            come = await self._wait(run, waiting, program, clock, spool)
            if not isinstance(come, Program):
                await self._close(run, spool, 0, come)
                return
            program, run = come, as_noted(run, spool)
            spool.take_up(run)
        camera = self._camera_for(run)
        try:
            end, emptied = await self._shoot(run, program, clock, camera, spool, halt)
        except TakenOver:
            end, emptied = None, 0
        finally:
            camera.close()
        await self._close(run, spool, emptied, end)

    async def _close(self, run: TakenUp, spool: Spool, emptied: int, end: End | None) -> None:
        """Finish a run, or leave it to the other runner that has it now."""
        if end is None:
            log.error("the run is another runner's now", run=str(run.id))
            spool.leave()
            return
        await self._finish(run, spool, emptied, end)

    async def _wait(
        self, run: TakenUp, shot: Shot, latest: Program, clock: StageClock, spool: Spool
    ) -> Program | End | None:
        """Wait for what begins a run; the program then, an End where it does not begin, None where another has it."""
        await self._home.if_there(lambda conn: runs.set_clock(conn, run.id, clock.model_dump()))
        self._signs.waiter = waiter = Waiter(shot, clock)
        halt = threading.Event()
        spool.remark(f"It waits until {waiter.told}.")
        ready = asyncio.create_task(self._stand_ready(run, latest, clock, spool, halt))
        camera = self._camera_for(run)
        scene = scene_of(latest, clock, str(run.id), run.fence)

        def look() -> None:
            # What it sees while the rig goes to its start is nothing that moves before it.
            if ready.done():
                waiter.look(camera, lambda: camera.stand(scene))

        try:
            if waiter.sees:
                with suppress(CameraError):
                    await asyncio.to_thread(camera.stand, scene)
            come = await wait(run, self._rig, waiter, self._home, spool, look if waiter.sees else None)
            if not isinstance(come, Met):
                return come
            soon_s = clock.now_s() + _SET_UP_REAL_S * clock.speed
            program = await asyncio.to_thread(begin, shot, come, soon_s, spool)
            if shot.waits and shot.waits.before_s:
                await asyncio.to_thread(keep, spool, waiter.seen.until(come.at_s), come.at_s)
            return program
        finally:
            self._signs.waiter = None
            halt.set()
            await ready
            camera.close()

    async def _stand_ready(
        self, run: TakenUp, program: Program, clock: StageClock, spool: Spool, halt: threading.Event
    ) -> None:
        """Have the rig stand at its start while it is waited; where it does not come there, that is noted."""
        if (carrier := self._carrier(run, program, clock, spool, halt)) is None:
            return
        try:
            await asyncio.to_thread(carrier.stand_ready, clock.now_s() + _READY_REAL_S * clock.speed)
        except Halted:
            return
        except (Stalled, Late) as error:
            spool.remark(f"The rig does not stand at its start while it waits: {error}")

    async def _stopped_before_its_time(self, run: TakenUp, opens_s: float) -> bool:
        """Wait, by the wall's clock wherever it is set to, until shortly before the start; True where a stop came."""
        while run.speed == 1 and run.clock is None and wall_s() < opens_s - _ANCHOR_S:
            await asyncio.sleep(_LOOK_S)
            if await self._home.if_there(lambda conn: runs.renew(conn, run.id, run.fence)):
                return True
        return False

    def _clock(self, run: TakenUp, program: Program, spool: Spool, opens_s: float) -> StageClock:
        """The stage clock of a run: the one it began with, unless the machine was started anew since."""
        if run.clock is not None:
            clock = StageClock.model_validate(run.clock)
            if clock.boot in ("", self._boot):
                return clock
            spool.remark("The machine was started anew during the run.")
            if run.speed > 1:
                # Where a simulated stage stood is not known any more; it goes on where the journal ends.
                done = max(spool.numbers, default=0)
                at_s = float(program.at_s[min(done, program.frame_count - 1)]) if done else opens_s
                return StageClock.starting(at_s - _LEAD_REAL_S * run.speed, run.speed, self._boot)
        if run.speed > 1:
            return StageClock.starting(opens_s - _LEAD_REAL_S * run.speed, run.speed, self._boot)
        return StageClock.real(self._boot)

    async def _shoot(
        self, run: TakenUp, program: Program, clock: StageClock, camera: Camera, spool: Spool, halt: threading.Event
    ) -> tuple[End | None, int]:
        """Have the frames taken; the End, None where another has taken over, and how much of the spool is home."""
        scene = scene_of(program, clock, str(run.id), run.fence)
        await self._home.if_there(lambda conn: runs.set_clock(conn, run.id, clock.model_dump()))
        journalled = await self._home.if_there(lambda conn: runs.journal(conn, run.id)) or []
        if end := await self._set_up(camera, run, program, scene, clock):
            return end, 0
        by_number = {frame.number: frame for frame in journalled}
        try:
            resumed = await asyncio.to_thread(
                account,
                program,
                camera,
                lambda: camera.stand(scene),
                clock,
                spool,
                by_number,
                halt,
            )
        except CameraError as error:
            raise TakenOver from error
        carrier = self._carrier(run, program, clock, spool, halt)
        kind = Filmer if program.shot.live else Shooter
        told = told_of(run, spool)
        shooter = kind(program, camera, scene, clock, spool, resumed.first, halt, carrier, resumed.unsure, told)
        shooter.start()
        end, emptied = await self._attend(run, shooter, spool, halt)
        if end is not None and shooter.goes_off:
            spool.remark(await self._put_out(run, camera, shooter.is_closed))
        return end, emptied

    async def _put_out(self, run: TakenUp, camera: Camera, is_closed: bool) -> str:
        """Switch the camera off, unless a file may be open or somebody waits for it; in words."""
        if not is_closed:
            return "The camera is left on, for a file may be open."
        armed = await self._home.if_there(lambda conn: runs.on_rig(conn, self._rig))
        if armed is None:
            return "The camera is left on: whether another run waits for it is not known."
        again = await asyncio.to_thread(once_more, run, self._rig)
        if again is not None or any(one.id != run.id for one in armed):
            return "The camera is left on: another run is armed on this rig."
        return await asyncio.to_thread(switched_off, camera)

    async def _set_up(
        self, camera: Camera, run: TakenUp, program: Program, scene: Scene, clock: StageClock
    ) -> End | None:
        """Put the camera before its scene; one that does not answer is asked until the shot is over.

        An End where a stop came meanwhile. Raises TakenOver.
        """
        while True:
            try:
                await asyncio.to_thread(camera.stand, scene)
                return None
            except CameraError as error:
                if error.trouble == "fenced":
                    raise TakenOver from error
                log.warning("camera away", error=str(error))
            if clock.now_s() >= program.end_s:
                return None
            await asyncio.sleep(_LOOK_S)
            # Let the lease live while the camera is waited for.
            if await self._home.if_there(lambda conn: runs.renew(conn, run.id, run.fence)):
                return End("stopped", "Stopped by hand before the camera answered.")

    def _carrier(
        self, run: TakenUp, program: Program, clock: StageClock, spool: Spool, halt: threading.Event
    ) -> Carrier | None:
        if program.motion is None:
            return None
        axes = tuple(program.shot.kit.axes.values())
        stage = Stage(label=str(run.id), axes=axes, clock=clock, fence=run.fence)
        return Carrier(program, program.motion, mover_of(self._its), clock, stage, halt, spool.remark)

    async def _attend(
        self, run: TakenUp, shooter: Shooter, spool: Spool, halt: threading.Event
    ) -> tuple[End | None, int]:
        """Empty the spool and keep the lease while the shooter works; None where the lease was lost."""
        emptied, lost = 0, False
        heard = max((one.nth for one in told_of(run, spool)), default=0)
        while shooter.is_alive():
            await asyncio.sleep(_LOOK_S)
            with suppress(*AWAY):
                async with self._home.connection(1) as conn:
                    wanted = await runs.renew(conn, run.id, run.fence)
                    if wanted is None and not lost:
                        log.error("lease lost; stopping", run=str(run.id))
                        lost = True
                    if wanted or lost:
                        halt.set()
                    for order in await runs.interventions(conn, run.id, heard):
                        heard = order.nth
                        if not order.refused:
                            shooter.order(order)
                    entries = spool.after(emptied)
                    if not lost and await append(conn, run.id, run.fence, entries):
                        emptied += len(entries)
                        spool.home(emptied)
                        await bring_home(conn, spool)
        if lost and shooter.end is not None:
            # Ended from the page while no word came from here, or another's: what was noted is brought home if it may.
            return await self._after_the_lease(run, spool, emptied)
        return shooter.end, emptied

    async def _after_the_lease(self, run: TakenUp, spool: Spool, emptied: int) -> tuple[End | None, int]:
        home = await self._home.patiently(lambda conn: append(conn, run.id, run.fence, spool.after(emptied)))
        return (End("stopped", "Stopped by hand while no word came from the runner.") if home else None), emptied

    async def _finish(self, run: TakenUp, spool: Spool, emptied: int, end: End) -> None:
        """Bring the rest of the journal home and close the run, however long the database is away.

        One that begins several times is armed once more.
        """
        following = await asyncio.to_thread(once_more, run, self._rig)

        async def close(conn: Connection) -> bool:
            if not await append(conn, run.id, run.fence, spool.after(emptied)):
                return False
            await bring_home(conn, spool, MOST_KEPT)
            stands = await runs.read(conn, run.id)
            told = _with_losses(end, stands.taken, stands.missed, spool)
            await runs.end(conn, run.id, run.fence, told.state, told.reason)
            # Once: where the word that it was done was lost, it is asked again.
            if following is not None and told.state == "finished" and stands.state == "running":
                await runs.arm(conn, following)
            log.info("run ended", run=str(run.id), state=told.state, reason=told.reason)
            return True

        if await self._home.patiently(close):
            spool.discard()
        else:
            spool.leave()


def _with_losses(end: End, taken: int, missed: int, spool: Spool) -> End:
    """A run that lost frames says how many; one that got none did not finish."""
    if end.state != "finished" or not missed:
        return end
    if taken:
        return End("finished", f"{count(missed, 'frame')} missed.")
    last = spool.missed[max(spool.missed)].reason if spool.missed else ""
    return End("failed", f"No frame was taken. {last}".strip())


async def serve_rig(database_url: str, its: Reached) -> None:
    """Run the runner of a rig until it is told to end."""
    async with open_pool(database_url, most=4, asleep_s=runs.LEASE_S) as pool:
        await Runner(pool, its).work()
