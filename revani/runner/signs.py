"""The runner's sign of life, twice a second: that it is there, and what its camera and its mover say of themselves."""

import asyncio
import shutil
from typing import Any

import structlog

from revani.core.quantities.refusal import Refusal
from revani.rig.drivers import camera_at, mover_at
from revani.rig.known import Reached
from revani.rig.ports import Camera, CameraError, Mover, MoverError
from revani.runner.home import AWAY, Home
from revani.runner.waiting import Waiter
from revani.store import runs

log = structlog.get_logger()

_SIGN_S = 0.5


class Signs:
    """The signs of one rig's runner.

    `serving` is whether a run has the mover now: it is then not asked from here. `waiter` waits for what begins a run,
    if anything is waited for.
    """

    def __init__(self, home: Home, its: Reached, name: str) -> None:
        self._home, self._its, self._name = home, its, name
        self.serving = False
        self.waiter: Waiter | None = None

    async def give(self) -> None:
        """Give signs for ever; while the database is away, nobody hears them."""
        camera = camera_at(self._its.camera)
        while True:
            try:
                says = await self._says(camera)
                async with self._home.connection(1) as conn:
                    await runs.sign(conn, self._its.rig.key, self._name, says)
            except AWAY:
                pass
            except Exception:
                log.exception("no sign given")
            await asyncio.sleep(_SIGN_S)

    async def _says(self, camera: Camera) -> dict[str, Any]:
        waiter = self.waiter
        # A camera that is not needed for what is waited for is left to sleep until then.
        if waiter is not None and not waiter.sees:
            says: dict[str, Any] = {"asleep": True}
        else:
            says = await asyncio.to_thread(_word_of, camera, self._its.rig.serial)
        if waiter is not None:
            says["blind"] = waiter.blind
        says |= {} if self.serving else await asyncio.to_thread(_word_of_mover, self._its)
        return says | {"disk_free_bytes": shutil.disk_usage(self._its.spool_dir).free}


def mover_of(its: Reached) -> Mover:
    """The mover of a rig, asked whether it is the one that is meant. Raises MoverError."""
    return mover_at(its.mover, its.rig.mover_serial)


def _word_of(camera: Camera, meant: str) -> dict[str, Any]:
    """What a camera says of itself, or what is wrong with its link: that it is not the one of number `meant`, too."""
    try:
        said = camera.status()
    except CameraError as error:
        return {"trouble": str(error)}
    if meant and said.serial and said.serial != meant:
        told = f"Another camera answers: {said.serial}, where {meant} was linked."
        return {"trouble": told, "serial": said.serial}
    return said.model_dump(mode="json")


def _word_of_mover(its: Reached) -> dict[str, Any]:
    """Whether the mover stands where it says it does, and which it is; nothing where it does not answer."""
    try:
        mover = mover_of(its)
    except (MoverError, Refusal, OSError):
        return {}
    try:
        says: dict[str, Any] = {"homed": not mover.where().stalled}
        return says | {"mover_number": mover.number()}
    except MoverError as error:
        return {"mover_trouble": str(error)} if error.trouble == "another" else {}
    finally:
        mover.close()
