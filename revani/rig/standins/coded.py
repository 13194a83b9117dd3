"""What the simulated camera does about a code card held before it: read, check, obey, answer with its lights."""

import asyncio
import time
from collections.abc import Mapping
from contextlib import suppress
from fractions import Fraction
from pathlib import Path
from typing import Literal

from revani.core.quantities.refusal import Refusal
from revani.core.rigup.code_card import Code, Command, nonce_of, read_code
from revani.rig.ports import CameraError, Message, Text
from revani.rig.standins.camera import SimulatedCamera

# Its answer to each order: done, not needed for it was so already, refused.
Shines = Literal["one long", "two short", "three short"]
_USED = "codes.used"


class Light(Message):
    """What its lights say to an order, and in words what that means."""

    command: Command
    shines: Shines
    says: Text


class CodeReader:
    """The part of a camera that obeys code cards of its own rig, each once."""

    def __init__(self, camera: SimulatedCamera, folder: Path, key: bytes, rig: str) -> None:
        self._camera = camera
        self._file = folder / _USED
        self._key, self._rig = key, rig
        self._taking: asyncio.Task[None] | None = None
        self._armed = False

    async def obey(self, text: str) -> list[Light]:
        """Do what a card orders, in its order; from the first that cannot be done nothing more is done.

        Raises Refusal("code") for a card that is not good, and does nothing then.
        """
        code = read_code(text, self._key, {self._rig}, time.time(), nonce_of(text) in self._used())
        with self._file.open("a") as used:
            used.write(f"{code.nonce}\n")
        lights: list[Light] = []
        for command in code.commands:
            try:
                lights.append(await self._do(command, code))
            except (CameraError, Refusal) as error:
                says = error.allowed if isinstance(error, Refusal) else str(error)
                lights.append(Light(command=command, shines="three short", says=says))
                break
        return lights

    def _used(self) -> set[str]:
        with suppress(FileNotFoundError):
            return set(self._file.read_text().split())
        return set()

    async def _do(self, command: Command, code: Code) -> Light:
        camera = self._camera
        if command == "power down":
            await self._rest()
            camera.switch_off()
            return Light(command=command, shines="one long", says="Written, and off.")
        camera.off = False
        if command == "set the clock":
            right = camera.clock_set
            camera.set_clock()
            return Light(command=command, shines="two short" if right else "one long", says="The clock is right.")
        if command == "set":
            camera.dial(_dialled(code.settings))
            return Light(command=command, shines="one long", says="Set.")
        if command == "arm":
            self._armed = True
            return Light(command=command, shines="one long", says="Armed; it waits for its start.")
        if command == "start":
            if self._taking is not None and not self._taking.done():
                return Light(command=command, shines="two short", says="It runs already.")
            interval, frames = _paced(code.settings)
            camera.check_ready()
            self._taking = asyncio.get_running_loop().create_task(self._take(interval, frames))
            return Light(command=command, shines="one long", says=f"It takes {frames:,} frames.")
        ran = self._taking is not None and not self._taking.done()
        await self._rest()
        return Light(command=command, shines="one long" if ran else "two short", says="It stands still.")

    async def _take(self, interval_s: float, frames: int) -> None:
        """Take frames by itself until they are taken or it is stopped; one that cannot be taken ends it."""
        for _ in range(frames):
            begun = self._camera.now_s()
            try:
                await self._camera.capture(self._camera.next_number(), {})
            except CameraError:
                return
            while (left := self._camera.wait_s(begun + interval_s)) > 0:
                await asyncio.sleep(left)

    async def _rest(self) -> None:
        """Let the frame that is being taken be finished and written, and take no more."""
        self._camera.cut()
        while self._camera.busy:
            await asyncio.sleep(0.01)
        if self._taking is not None and not self._taking.done():
            self._taking.cancel()
            with suppress(asyncio.CancelledError):
                await self._taking


def _paced(settings: Mapping[str, str]) -> tuple[float, int]:
    """Interval and number of frames of a start. Raises Refusal("code")."""
    try:
        interval, frames = float(Fraction(settings["interval"])), int(settings["frames"])
        if not (0 < interval <= 86_400 and 1 <= frames <= 1_000_000):
            raise ValueError
    except (KeyError, ValueError, ZeroDivisionError):
        raise Refusal("code", "This card does not say how often, and how many.") from None
    return interval, frames


def _dialled(settings: Mapping[str, str]) -> dict[str, float | int | str]:
    """The values of a “set”, each as the camera takes it. Raises Refusal("code"); sets nothing then."""
    found: dict[str, float | int | str] = {}
    for dial, text in settings.items():
        try:
            if dial == "drive":
                found[dial] = text
            elif dial in ("iso", "white_balance_k"):
                found[dial] = int(text)
            elif dial in ("shutter_s", "aperture"):
                found[dial] = float(Fraction(text))
            else:
                raise Refusal("code", f"This camera has no dial “{dial}”.")
        except (ValueError, ZeroDivisionError):
            raise Refusal("code", f"“{text}” is nothing that {dial} can be set to.") from None
    return found
