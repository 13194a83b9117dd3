"""The simulated camera: real shutter times on the stage clock, a battery that drains, a card that fills.

It takes pictures of the scene that it is stood before, with the settings that it is given, and knows
nothing of any plan. Frames are small (480 × 270) but are counted on the card at the body's own size.
"""

import asyncio
import hashlib
import json
import secrets
from collections.abc import Mapping
from concurrent.futures import ThreadPoolExecutor
from contextlib import suppress
from pathlib import Path
from typing import Any
from uuid import UUID

from revani.core.documents import AxisName, Body, Card, Kit, Lens
from revani.core.feed.battery import available_wh, drawn_wh, held_wh
from revani.core.feed.card import capacity_bytes
from revani.core.sky.weather import temperature_c
from revani.rig.ports import CameraError, CameraSettings, CameraStatus, Captured, Fault, Scene
from revani.rig.stage import StageClock
from revani.rig.standins.faults import Faults
from revani.rig.standins.passing import passing_before
from revani.rig.standins.seen import by_itself, film, look, take

_INDEX = "index.jsonl"
# How many times as long a card takes that is slow.
_SLOW_CARD = 20
_BARE = Kit(body=Body(name="Simulated camera"), lens=Lens(name="Simulated lens"), card=Card(name="Simulated card"))


class SimulatedCamera:
    """One camera before one scene."""

    def __init__(self, folder: Path) -> None:
        self._folder = folder
        self._render = ThreadPoolExecutor(1, thread_name_prefix="sensor")
        self._scene: Scene | None = None
        self._since_s = 0.0
        self._frames: dict[int, Captured] = {}
        self._settings = CameraSettings(shutter_s=0.01, aperture=8, iso=100, white_balance_k=5200)
        self._state: str = "ready"
        self._card = 0
        self._written_at_s: list[float] = []
        self.faults = Faults()
        self._fence = 0
        self._busy_with: int | None = None
        self.drive = "single"
        self._right_body: UUID | None = None
        self._number = ""
        # When the battery was changed last, and how many frames there were by then.
        self._battery_since_s, self._battery_frames = -1e12, 0
        self.off = False
        # Where the rig has carried it, as whoever drives both has said last.
        self.pose: dict[AxisName, float] = {}
        self._cut = asyncio.Event()

    @property
    def folder(self) -> Path:
        """The card."""
        return self._folder

    @property
    def clock_set(self) -> bool:
        """Whether somebody has set the clock of this very body."""
        return self._right_body == self.kit.body.id

    def set_clock(self) -> None:
        """Set the clock of this body: it goes right from now on."""
        self._right_body = self.kit.body.id

    @property
    def serial(self) -> str:
        """Its maker's number, which it keeps; another's while it shows that fault."""
        if self.faults.another:
            return "SIM-OTHER"
        if not self._number:
            file = self._folder / "serial"
            if not file.exists():
                file.write_text(f"SIM-{secrets.token_hex(3).upper()}")
            self._number = file.read_text().strip()
        return self._number

    def obey(self, fence: int) -> None:
        """Refuse the orders of one whom another has taken over from; 0 is a person, who names none."""
        if fence and fence < self._fence:
            raise CameraError("fenced", "Another runner has taken over.")
        self._fence = max(self._fence, fence)

    def stand(self, scene: Scene) -> None:
        """Stand before a scene; under a new label with a fresh battery and an empty card.

        A camera that was switched off finds the card of a label that it knows as it was left.
        """
        self.obey(scene.fence)
        # Whoever stands it before a scene switches it on.
        self.off = False
        fresh = self._scene is None or self._scene.label != scene.label
        self._scene = scene
        if fresh:
            self._written_at_s = []
            if not self._find_card(scene.label):
                self._new_card(scene)
                self._battery_since_s = -1e12
            # The first look at a sky is slow; have it now and not when the first frame is due.
            take(scene, self._settings, 0, self._since_s, {})

    def _new_card(self, scene: Scene) -> None:
        self._since_s, self._frames = scene.clock.now_s(), {}
        self._card = 1 + max((int(path.name) for path in self._folder.glob("[0-9]" * 4)), default=0)
        self._card_folder.mkdir(parents=True)
        self._index.write_text(json.dumps({"label": scene.label, "since_s": self._since_s}) + "\n")

    def _find_card(self, label: str) -> bool:
        """Take the card of a label, if there is one, with what its index says of it."""
        index = self._index_of(label)
        if index is None:
            return False
        self._since_s, self._card = float(_about(index.parent)["since_s"]), int(index.parent.name)
        self._frames = _stored(index)
        return True

    def _index_of(self, label: str) -> Path | None:
        for folder in sorted(self._folder.glob("[0-9]" * 4), reverse=True):
            if label_of_card(folder) == label:
                return folder / _INDEX
        return None

    @property
    def _card_folder(self) -> Path:
        return self._folder / f"{self._card:04d}"

    @property
    def _index(self) -> Path:
        return self._card_folder / _INDEX

    def _store(self, captured: Captured) -> None:
        self._frames[captured.number] = captured
        with self._index.open("a") as index:
            index.write(captured.model_dump_json() + "\n")

    def break_down(self, fault: Fault | None) -> None:
        """Show a fault from now on, or none."""
        if fault is None:
            self.faults = Faults()
        elif fault.kind != "other card":
            self.faults.show(fault)
        elif self._scene is not None:
            since_s = self._since_s
            self._new_card(self._scene)
            # The battery is the same as before.
            self._since_s = since_s

    def apply(self, settings: CameraSettings) -> CameraSettings:
        """Set up the next frame; it has every value that it is asked for."""
        if self._scene is None:
            raise CameraError("not set up", "The camera stands nowhere yet.")
        self._settings = settings
        return settings

    def dial(self, values: Mapping[str, float | int | str]) -> None:
        """Turn its dials: drive, shutter, aperture, ISO, white balance. Raises CameraError for what it has not."""
        rest = {name: value for name, value in values.items() if name != "drive"}
        try:
            settings = CameraSettings.model_validate(self._settings.model_dump() | rest)
        except ValueError:
            raise CameraError("refused", "It cannot be set so.") from None
        self._settings = settings
        self.drive = str(values.get("drive", self.drive))

    @property
    def busy(self) -> bool:
        """Whether it exposes or stores just now."""
        return self._state != "ready"

    def now_s(self) -> float:
        """What time it is on the stage."""
        return self._clock().now_s()

    def wait_s(self, at_s: float) -> float:
        """How many real seconds it is until then."""
        return self._clock().wait_s(at_s)

    def next_number(self) -> int:
        """The number of its next frame."""
        return max(self._frames, default=0) + 1

    def check_ready(self) -> Scene:
        """The scene of a frame that can be taken now. Raises CameraError where none can."""
        scene = self._ready()
        if self.battery_left() <= 0:
            raise CameraError("empty battery", "The battery is empty.")
        if self.card_free() < scene.kit.body.bytes_per_frame:
            raise CameraError("full card", "The card is full.")
        return scene

    @property
    def kit(self) -> Kit:
        """What it is and what is on it."""
        return self._scene.kit if self._scene else _BARE

    @property
    def settings(self) -> CameraSettings:
        """How its dials stand."""
        return self._settings

    @property
    def focal_mm(self) -> float:
        """How far the lens is zoomed."""
        scene = self._scene
        return (scene.framing.focal_length_mm if scene else None) or self.kit.lens.focal_length_min_mm

    @property
    def card(self) -> str:
        """The folder of its card in which it stores."""
        return f"{self._card:04d}"

    def path(self, file: str) -> Path:
        """Where a stored file lies. Raises CameraError where there is none."""
        path = (self._folder / file).resolve()
        if not path.is_relative_to(self._folder.resolve()) or not path.is_file():
            raise CameraError("refused", "The camera has no such file.")
        return path

    def erase(self, number: int) -> None:
        """Delete a frame from the card, and from its index."""
        gone = self._frames.pop(number)
        index = [json.dumps({"label": self._scene.label if self._scene else "", "since_s": self._since_s})]
        self._index.write_text("\n".join([*index, *(one.model_dump_json() for one in self._frames.values()), ""]))
        (self._folder / gone.file).unlink(missing_ok=True)

    @property
    def frames(self) -> dict[int, Captured]:
        """What is on its card, by number."""
        return self._frames

    def _ready(self) -> Scene:
        if self._scene is None:
            raise CameraError("not set up", "The camera stands nowhere yet.")
        if self.off:
            raise CameraError("refused", "The camera is switched off.")
        if self._state != "ready":
            raise CameraError("busy", f"The camera is {self._state}.")
        return self._scene

    def status(self) -> CameraStatus:
        """What the camera says of itself."""
        battery = self.battery_left()
        return CameraStatus(
            name=self._scene.kit.body.name if self._scene else "simulated camera",
            state="off" if self.off else self._state if battery > 0 else "empty battery",
            battery_left=max(battery, 0.0),
            card_free_bytes=self.card_free(),
            frames=len(self._frames),
            buffered=self._buffered(),
            clock_s=self._clock().now_s() + self.clock_ahead_s(),
            clock_ahead_s=self.clock_ahead_s(),
            newest=self._frames[max(self._frames)].file if self._frames else None,
            busy_with=self._busy_with,
            drive=self.drive,
            white_balance_k=None if self._settings.automatic_white_balance else self._settings.white_balance_k,
            serial=self.serial,
        )

    def taken(self, number: int) -> Captured | None:
        """The frame of this number before this scene."""
        if self._scene is None:
            raise CameraError("not set up", "The camera stands nowhere yet.")
        return self._frames.get(number)

    def on_card(self, label: str = "") -> list[Captured]:
        """The frames before this scene, or before the one that was called `label`. Raises CameraError for no such."""
        frames = self._frames
        if label and (self._scene is None or self._scene.label != label):
            index = self._index_of(label)
            if index is None:
                raise CameraError("refused", "The camera has no card of that.")
            frames = _stored(index)
        elif self._scene is None:
            raise CameraError("not set up", "The camera stands nowhere yet.")
        return [frames[number] for number in sorted(frames)]

    async def capture(self, number: int, pose: dict[AxisName, float] | None = None) -> Captured:
        """Expose with the present settings and store. Raises CameraError as a camera would refuse."""
        scene, asked = self.check_ready(), self._settings
        if number in self._frames:
            raise CameraError("refused", f"Frame {number} has been taken already.")
        loop = asyncio.get_running_loop()
        try:
            self._busy_with = number
            await self._room_in_buffer(scene)
            self._state = "exposing"
            opened_s = scene.clock.now_s()
            settings = by_itself(scene, asked, number, opened_s)
            # What the sensor will have seen is worked out while the shutter is open.
            seen = loop.run_in_executor(self._render, take, scene, settings, number, opened_s, _plain(pose))
            await _until(scene.clock, opened_s + settings.shutter_s * settings.held_times)
            closed_s = scene.clock.now_s()
            self._state = "storing"
            read_out_by_s = closed_s + float(scene.kit.body.overhead_s)
            content = await seen
            file = f"{self._card:04d}/F{number:05d}.jpg"
            if self.faults.dies():
                await loop.run_in_executor(None, (self._folder / file).write_bytes, content[: len(content) // 2])
                self._die()
                raise CameraError("unreachable", "The camera's battery gave out.")
            await loop.run_in_executor(None, (self._folder / file).write_bytes, content)
            self._hand_to_card(scene, closed_s)
            await _until(scene.clock, read_out_by_s)
        finally:
            self._state, self._busy_with = "ready", None
        captured = Captured(
            number=number, file=file, size_bytes=len(content), sha256=hashlib.sha256(content).hexdigest(),
            opened_s=opened_s, closed_s=closed_s, settings=settings,
            battery_left=max(0.0, self.battery_left(1)),
            card_free_bytes=self.card_free() - scene.kit.body.bytes_per_frame,
        )  # fmt: skip
        self._store(captured)
        return captured

    async def record(self, number: int, seconds: float, poses: list[dict[str, float]]) -> Captured:
        """Film until the time is over or `cut` comes; the file is closed before anything else happens."""
        scene, settings = self._ready(), self._settings
        if number in self._frames:
            raise CameraError("refused", f"Clip {number} has been filmed already.")
        self._state, self._busy_with, self._cut = "exposing", number, asyncio.Event()
        opened_s = scene.clock.now_s()
        try:
            while (left := scene.clock.wait_s(opened_s + seconds)) > 0 and not self._cut.is_set():
                with suppress(TimeoutError):
                    await asyncio.wait_for(self._cut.wait(), min(left, 0.2))
                if self.battery_left() <= 0:
                    break
            closed_s = min(scene.clock.now_s(), opened_s + seconds)
            self._state = "storing"
            file = f"{self._card:04d}/F{number:05d}.mp4"
            loop = asyncio.get_running_loop()
            target = self._folder / file
            await loop.run_in_executor(
                self._render,
                film,
                scene,
                settings,
                number,
                opened_s,
                closed_s - opened_s,
                poses,
                target,
                self.faults.has("no sound"),
            )
        finally:
            self._state, self._busy_with = "ready", None
        content = target.read_bytes()
        captured = Captured(
            number=number, file=file, size_bytes=len(content), sha256=hashlib.sha256(content).hexdigest(),
            opened_s=opened_s, closed_s=closed_s, settings=settings, battery_left=max(0.0, self.battery_left(1)),
            card_free_bytes=self.card_free(),
        )  # fmt: skip
        self._store(captured)
        return captured

    def switch_off(self) -> None:
        """Switch itself off, unless a file is open. Raises CameraError."""
        if self.busy:
            raise CameraError("busy", f"The camera is {self._state}.")
        self.off = True

    def cut(self) -> None:
        """End what is being filmed."""
        self._cut.set()

    async def _room_in_buffer(self, scene: Scene) -> None:
        """Wait, as a body does, until its buffer has room for one more frame."""
        while self._buffered() >= scene.kit.body.buffer_frames:
            self._state = "storing"
            await asyncio.sleep(max(0.001, scene.clock.wait_s(self._written_at_s[0])))

    def _die(self) -> None:
        """Have another battery, and no scene, as after any start."""
        assert self._scene is not None
        self._battery_since_s, self._battery_frames = self._scene.clock.now_s(), len(self._frames)
        self._scene = None

    def _hand_to_card(self, scene: Scene, at_s: float) -> None:
        """The frame waits its turn; the card writes one after the other."""
        takes_s = scene.kit.body.bytes_per_frame / (scene.kit.card.write_mb_s * 1e6)
        if self.faults.has("slow card"):
            takes_s *= _SLOW_CARD
        begins_s = max([at_s, *self._written_at_s])
        self._written_at_s.append(begins_s + takes_s)

    def _buffered(self) -> int:
        now_s = self._clock().now_s()
        self._written_at_s = [at_s for at_s in self._written_at_s if at_s > now_s]
        return len(self._written_at_s)

    def clock_ahead_s(self) -> float:
        """Seconds by which its clock is ahead of the true time."""
        own_s = self._scene.kit.body.clock_offset_s if self._scene and not self.clock_set else 0.0
        return own_s + self.faults.jumped_s

    async def live(self) -> bytes:
        """A picture of what is before the camera now, well exposed, that is not stored."""
        scene = self._scene
        if scene is None:
            raise CameraError("not set up", "The camera stands nowhere yet.")
        loop = asyncio.get_running_loop()
        seen = await loop.run_in_executor(self._render, look, scene, scene.clock.now_s())
        passes = self.faults.passes
        if passes is None or (gone := passes.gone_by()) is None:
            return seen
        return await loop.run_in_executor(None, passing_before, seen, passes, gone)

    def _clock(self) -> StageClock:
        return self._scene.clock if self._scene else StageClock.real()

    def battery_left(self, more_frames: int = 0) -> float:
        """How full its battery is, after so many more frames; under 0 once it is drawn empty."""
        if self.faults.has("empty battery"):
            return 0.0
        if self._scene is None:
            return 1.0
        body, place = self._scene.kit.body, self._scene.place
        cold_c = temperature_c(place, self._scene.clock.now_s())
        available = float(available_wh(held_wh(self._scene.kit), 1.0, cold_c))
        # On an earlier scene's clock nothing of it was drawn here.
        since_s, before = self._since_s, 0
        if since_s < self._battery_since_s <= self._scene.clock.now_s():
            since_s, before = self._battery_since_s, self._battery_frames
        elapsed = max(0.0, self._scene.clock.now_s() - since_s)
        frames = len(self._frames) - before + more_frames
        return 1 - float(drawn_wh(body.idle_w, body.frame_j, elapsed, frames)) / float(available)

    def card_free(self) -> int:
        """Bytes that its card has room for."""
        if self.faults.has("full card"):
            return 0
        return capacity_bytes(self.kit.card.capacity_gb) - len(self._frames) * self.kit.body.bytes_per_frame


async def _until(clock: StageClock, at_s: float) -> None:
    """Wait for a stage time; a sleep alone may end a millisecond early."""
    while (left_s := clock.wait_s(at_s)) > 0:
        await asyncio.sleep(left_s)


def label_of_card(folder: Path) -> str:
    """What a card was used for; empty where it does not say."""
    return str(_about(folder).get("label", ""))


def _about(folder: Path) -> dict[str, Any]:
    try:
        with (folder / _INDEX).open() as index:
            about = json.loads(index.readline())
    except (OSError, ValueError):
        return {}
    return about if isinstance(about, dict) else {}


def _stored(index: Path) -> dict[int, Captured]:
    """The frames that an index names; a line that was half written when the power went is a frame not stored."""
    frames = {}
    for line in index.read_text().split("\n")[1:]:
        with suppress(ValueError):
            stored = Captured.model_validate_json(line)
            frames[stored.number] = stored
    return frames


def _plain(pose: Mapping[AxisName, float] | None) -> dict[str, float]:
    return {str(name): value for name, value in (pose or {}).items()}
