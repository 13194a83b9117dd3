"""The link to a body: it has the body's one connection, numbers its frames, and lets several ask.

A body on a cable or a network talks to one, and knows no numbers of ours. Runner, worker and page ask the link, over
the same routes as the simulated camera's. What it has fired it notes before and after on its own disk: whatever ends
it, a file that turns up on the card afterwards is the frame of the number that was open.
"""

import asyncio
import json
import re
import time
from collections.abc import Callable
from concurrent.futures import ThreadPoolExecutor
from contextlib import suppress
from pathlib import Path
from typing import Any, TypeVar

import structlog
from fastapi import FastAPI
from fastapi.responses import Response

from revani.core.documents import AxisName
from revani.rig.drivers.http_camera import HttpCamera
from revani.rig.ports import Body, BodySays, CameraError, CameraSettings, CameraStatus, Captured, Scene
from revani.rig.served import serve
from revani.rig.stage import StageClock

log = structlog.get_logger()

T = TypeVar("T")
_ASKED_AFTER_S = 10.0
# What it said longer ago than this (real seconds) says nothing of now: there was no room to ask it again.
_SAID_HOLDS_S = 60.0
_STUCK_AFTER_S = 120.0
_ANSWERS_WITHIN_S = 20.0
_FETCH_WAITS_S = 15.0
_LOOK_S = 0.05
_STORES_REAL_S = 3.0
_CLOCK_TELLS_S = 3.0
# What a link brings at first sight; it is measured with every file.
_BYTES_A_SECOND = 2e6


class Notes:
    """What was fired for one label, on the disk: `frames` by number, and `open`, of which it is not known.

    With an open number stands the stage time by which it must be on the card, if it was taken.
    """

    def __init__(self, path: Path) -> None:
        self._path = path
        self.before: set[str] = set()
        self.frames: dict[int, Captured] = {}
        self.open: dict[int, float] = {}
        self.known = False
        with suppress(FileNotFoundError):
            for line in path.read_text().split("\n"):
                # A line that was half written when the power went is no note.
                with suppress(ValueError, KeyError):
                    self._take(json.loads(line))

    def _take(self, said: dict[str, Any]) -> None:
        self.known = True
        if "before" in said:
            self.before = set(said["before"])
        elif "firing" in said:
            self.open[int(said["firing"])] = float(said["by_s"])
        else:
            number = int(said["number"]) if "number" in said else int(said["not"])
            self.open.pop(number, None)
            if "number" in said:
                self.frames[number] = Captured.model_validate(said)

    def put(self, said: dict[str, Any]) -> None:
        """Note the files that were there `before`, that a number is `firing`, a frame, or that it was `not` taken."""
        self._path.parent.mkdir(parents=True, exist_ok=True)
        with self._path.open("a") as file:
            file.write(json.dumps(said) + "\n")
        self._take(said)

    @property
    def files(self) -> set[str]:
        """The files whose frame is known, or that were there before."""
        return self.before | {one.file for one in self.frames.values()}


class LinkedCamera:
    """One body as a camera that numbers its frames.

    `stage` is where a simulated body is told of its scene; a real one stands before it. `stuck` is called where the
    body's driver does not come back at all.
    """

    def __init__(self, body: Body, folder: Path, stage: HttpCamera | None, stuck: Callable[[], None]) -> None:
        self._body = body
        self._folder = folder
        self._stage = stage
        self._stuck = stuck
        self._hand = ThreadPoolExecutor(1, thread_name_prefix="body")
        self._notes: Notes | None = None
        self._label = ""
        self._clock = StageClock.real()
        self._settings = CameraSettings(shutter_s=0.01, aperture=8, iso=100, white_balance_k=5200)
        self._fence = 0
        self._busy_with: int | None = None
        self._said: BodySays | None = None
        self._said_at_s = -1e9
        self._ahead_s: float | None = None
        self._opened: list[float] = []
        self._bytes_a_second = _BYTES_A_SECOND

    def obey(self, fence: int) -> None:
        """Refuse the orders of one whom another has taken over from; 0 is a person, who names none."""
        if fence and fence < self._fence:
            raise CameraError("fenced", "Another runner has taken over.")
        self._fence = max(self._fence, fence)

    @property
    def serial(self) -> str:
        """The body's number, as it said when its link was made last."""
        return self._body.serial

    async def status(self) -> CameraStatus:
        """What the body says of itself; while it is shot with, what it said after the last frame."""
        if self._busy() is None and not self._shooting() and self._age_s() > 1:
            await self._hear()
        if self._said is None:
            raise CameraError("unreachable", "The camera has not answered yet.")
        frames = self._notes.frames if self._notes else {}
        said = self._of_now() or self._said.model_copy(update={"battery_left": None, "card_free_bytes": None})
        return CameraStatus(
            name=said.name, state="ready" if self._busy() is None else "exposing",
            battery_left=said.battery_left, card_free_bytes=said.card_free_bytes, frames=len(frames), buffered=0,
            clock_s=said.clock_s, clock_ahead_s=self._ahead_s, newest=frames[max(frames)].file if frames else None,
            busy_with=self._busy(), drive=said.drive, serial=said.serial,
        )  # fmt: skip

    async def stand(self, scene: Scene) -> None:
        """What is taken from now on belongs to a label; what the card holds before is none of it."""
        self.obey(scene.fence)
        if self._stage is not None:
            await asyncio.to_thread(self._stage.stand, scene)
        self._clock = scene.clock
        if self._notes is not None and self._label == scene.label:
            return
        notes = self._notes_of(scene.label)
        if not notes.known:
            notes.put({"before": [one.file for one in await self._ask(self._body.stored)]})
        self._notes, self._label, self._opened = notes, scene.label, []

    async def apply(self, settings: CameraSettings) -> CameraSettings:
        """Turn the dials to the nearest; how they stand then."""
        self._settings = await self._ask(lambda: self._body.dial(settings))
        return self._settings

    async def take(self, number: int, pose: dict[AxisName, float]) -> Captured:
        """Take a frame. Where it is not known whether it was taken, its number stays open until the card is read."""
        notes = self._here()
        if number in notes.frames:
            raise CameraError("refused", f"Frame {number} has been taken already.")
        if self._busy() is not None:
            raise CameraError("busy", "The camera is exposing.")
        if self._stage is not None and pose:
            await asyncio.to_thread(self._stage.carry, pose)
        opened_s = self._clock.now_s()
        shutter_s = self._settings.shutter_s * self._settings.held_times
        notes.put({"firing": number, "by_s": opened_s + shutter_s + _STORES_REAL_S * self._clock.speed})
        self._busy_with = number
        try:
            stored = await self._ask(self._body.fire, shutter_s / self._clock.speed)
            captured = self._captured(number, stored.file, stored.size_bytes, opened_s, await self._took(stored.file))
            notes.put(captured.model_dump(mode="json"))
        except CameraError as error:
            if error.trouble not in ("unreachable", "garbled", "busy"):
                notes.put({"not": number})
            raise
        finally:
            self._busy_with = None
        self._opened = [*self._opened[-1:], opened_s]
        if self._age_s() > _ASKED_AFTER_S and self._room_s() > 1:
            # Now the next frame is furthest.
            with suppress(CameraError):
                await self._hear()
        return captured

    async def _took(self, file: str) -> CameraSettings:
        """What a frame was taken with: as it was set, but for what the body has chosen by itself."""
        if self._settings.mode == "manual":
            return self._settings
        with suppress(CameraError):
            return self._settings.model_copy(update=await self._ask(lambda: self._body.took(file)))
        return self._settings

    def _captured(self, number: int, file: str, size_bytes: int, opened_s: float, settings: CameraSettings) -> Captured:
        said, shutter_s = self._of_now(), settings.shutter_s * settings.held_times
        return Captured(
            number=number, file=file, size_bytes=size_bytes, opened_s=opened_s, closed_s=opened_s + shutter_s,
            settings=settings, battery_left=said.battery_left if said else None,
            card_free_bytes=said.card_free_bytes if said else None,
        )  # fmt: skip

    async def record(self, number: int, seconds: float, poses: list[dict[str, float]]) -> Captured:
        """A body's film is begun by hand."""
        raise CameraError("refused", "Over its link this camera takes stills: its film is begun at the camera.")

    def cut(self) -> None:
        """Nothing is filmed over a link."""

    async def taken(self, number: int) -> Captured | None:
        """The frame of this number; one that is open is looked for on the card."""
        notes = self._here()
        if number in notes.open:
            await self._look_for_open(notes)
        return notes.frames.get(number)

    async def on_card(self, label: str = "") -> list[Captured]:
        """All frames of a label, as they were noted; those that are open are looked for."""
        notes = self._notes_of(label) if label and label != self._label else self._here()
        if not notes.known:
            raise CameraError("refused", "The camera has no card of that.")
        if notes is self._notes and notes.open:
            await self._look_for_open(notes)
        return [notes.frames[number] for number in sorted(notes.frames)]

    async def _look_for_open(self, notes: Notes) -> None:
        """Give the files that nobody knows to the numbers that are open, in order.

        Raises CameraError where there are more files than numbers, so that nobody can tell.
        """
        if self._busy() is not None:
            raise CameraError("busy", "The camera is exposing.")
        numbers = sorted(notes.open)
        new = [one for one in await self._ask(self._body.stored) if one.file not in notes.files]
        if len(new) > len(numbers):
            raise CameraError("garbled", f"{len(new)} files are on the card that nobody here has ordered.")
        # Where there are fewer, the last that were ordered are the likeliest to have been taken.
        for number, stored in zip(numbers[len(numbers) - len(new) :], new, strict=True):
            opened_s = stored.stamped_s if stored.stamped_s is not None else self._clock.now_s()
            settings = await self._took(stored.file)
            captured = self._captured(number, stored.file, stored.size_bytes, opened_s, settings)
            notes.put(captured.model_dump(mode="json"))
        for number in list(notes.open):
            notes.put({"not": number})

    async def switch_off(self) -> None:
        """Switch the body off, once it is done."""
        if self._busy() is not None:
            raise CameraError("busy", "The camera is exposing.")
        await self._ask(self._body.switch_off)
        # Nothing of what it said holds any more, and no frame is to come.
        self._said_at_s, self._opened = -1e9, []

    async def live(self) -> bytes:
        """What it sees now; a simulated body shows it over its stage."""
        if self._stage is not None:
            return await asyncio.to_thread(self._stage.live)
        await self._room_for(1.0)
        return await self._ask(self._body.live)

    async def file(self, name: str) -> Response:
        """A stored file, fetched when the next frame leaves room for it."""
        sizes = {one.file: one.size_bytes for one in (self._notes.frames.values() if self._notes else ())}
        await self._room_for(sizes.get(name, 0) / self._bytes_a_second)

        def fetched() -> bytes:
            with self._body.fetch(name) as pieces:
                return b"".join(pieces)

        begun_s = time.monotonic()
        content = await self._ask(fetched, _STUCK_AFTER_S)
        if len(content) > 100_000:
            self._bytes_a_second = len(content) / max(time.monotonic() - begun_s, 1e-3)
        return Response(content, media_type="image/jpeg")

    def close(self) -> None:
        """Let the body go."""
        self._body.close()

    def _notes_of(self, label: str) -> Notes:
        if not re.fullmatch(r"[A-Za-z0-9-]{1,80}", label):
            raise CameraError("refused", "A label of letters, digits and hyphens, at most 80.")
        return Notes(self._folder / f"{label}.jsonl")

    def _here(self) -> Notes:
        if self._notes is None:
            raise CameraError("not set up", "The camera stands nowhere yet.")
        return self._notes

    def _busy(self) -> int | None:
        """The number of the frame that is exposed or stored, or may be: one whose answer was lost goes on."""
        if self._busy_with is not None or self._notes is None:
            return self._busy_with
        now_s = self._clock.now_s()
        return next((number for number, by_s in self._notes.open.items() if now_s < by_s), None)

    def _of_now(self) -> BodySays | None:
        """What the body said, where that is not long ago."""
        return self._said if self._age_s() <= _SAID_HOLDS_S else None

    def _age_s(self) -> float:
        return time.monotonic() - self._said_at_s

    async def _hear(self) -> None:
        self._said = await self._ask(self._body.says)
        self._said_at_s = time.monotonic()
        ahead_s = None if self._said.clock_s is None else self._said.clock_s - self._clock.now_s()
        # Bodies tell it to the second, and libgphoto2 keeps it for two: what is nearer than that is not known.
        known = ahead_s is not None and self._clock.speed == 1 and abs(ahead_s) > _CLOCK_TELLS_S
        self._ahead_s = float(round(ahead_s)) if known and ahead_s is not None else None

    def _shooting(self) -> bool:
        """Whether frames are being taken at a pace just now."""
        return self._pace_s() is not None and self._room_s() > -2 * (self._pace_s() or 0)

    def _pace_s(self) -> float | None:
        """Real seconds from a frame to the next; None where there is no pace."""
        return None if len(self._opened) < 2 else (self._opened[1] - self._opened[0]) / self._clock.speed

    def _room_s(self) -> float:
        """Real seconds until the next frame is likely to be ordered."""
        pace_s = self._pace_s()
        return 0.0 if pace_s is None else self._clock.wait_s(self._opened[-1]) + pace_s

    async def _room_for(self, needs_s: float) -> None:
        """Wait until the next frame is so far away. Raises CameraError where it never is."""
        until_s = time.monotonic() + _FETCH_WAITS_S
        while self._busy() is not None or (self._shooting() and self._room_s() < needs_s):
            if time.monotonic() > until_s:
                raise CameraError("busy", "The camera takes its frames too fast to be asked for anything else.")
            await asyncio.sleep(_LOOK_S)

    async def _ask(self, call: Callable[[], T], more_s: float = 0.0) -> T:
        """Have the body do something, after what it does already. Raises CameraError.

        A driver that never comes back cannot be ended; the link is, and is started anew.
        """
        work = asyncio.get_running_loop().run_in_executor(self._hand, call)
        try:
            return await asyncio.wait_for(asyncio.shield(work), _ANSWERS_WITHIN_S + more_s)
        except TimeoutError:
            asyncio.get_running_loop().call_later(_STUCK_AFTER_S, self._give_up, work)
            raise CameraError("unreachable", "The camera does not answer in time.") from None

    def _give_up(self, work: asyncio.Future[Any]) -> None:
        if not work.done():
            log.error("the body's driver does not come back")
            self._stuck()


def link_app(camera: LinkedCamera) -> FastAPI:
    """The application of a link."""
    app = FastAPI(title="Link to a camera", docs_url=None, redoc_url=None)
    serve(app, camera)
    return app
