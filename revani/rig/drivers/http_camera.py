"""A camera that speaks JSON over HTTP, as the simulated one does.

Whatever it answers, a method returns what it promises or raises CameraError: an answer that is no JSON, of the wrong
shape, endless, trickling or cut short costs no more than the time that was given for it.
"""

import json
import time
from collections.abc import Iterator
from contextlib import contextmanager
from typing import Any, TypeVar
from urllib.parse import quote

import httpx
from pydantic import BaseModel, TypeAdapter, ValidationError

from revani.core.documents import AxisName
from revani.rig.ports import CameraError, CameraSettings, CameraStatus, Captured, Scene, Trouble, printable

_TROUBLE: dict[int, Trouble] = {
    403: "fenced", 409: "busy", 412: "not set up", 423: "another", 503: "empty battery", 507: "full card",
}  # fmt: skip
_LONGEST_ANSWER, _LONGEST_LIST, _LONGEST_PICTURE = 200_000, 50_000_000, 20_000_000
_PIECES = TypeAdapter(list[Captured])
M = TypeVar("M", bound=BaseModel)


class HttpCamera:
    """Driver over one kept-alive connection. It is used from one thread at a time, but for `cut` and `status`."""

    def __init__(self, base_url: str, timeout_s: float = 1.5, fence: int = 0, serial: str = "") -> None:
        # An order names whom it comes from: the camera obeys the latest who set it up; and for which camera it is.
        headers = {"X-Fence": str(fence)} if fence else {}
        headers |= {"X-Serial": quote(serial)} if serial else {}
        self._http = httpx.Client(base_url=base_url, timeout=timeout_s, trust_env=False, headers=headers)
        self._timeout_s = timeout_s

    def close(self) -> None:
        """Let the connection go."""
        self._http.close()

    def status(self) -> CameraStatus:
        """Battery, card, state."""
        return self._shaped(CameraStatus, self._ask("GET", "/status"))

    def stand(self, scene: Scene) -> None:
        """Put the simulated camera before a scene."""
        self._ask("PUT", "/scene", scene.model_dump(mode="json"), timeout_s=max(5.0, self._timeout_s))

    def apply(self, settings: CameraSettings) -> CameraSettings:
        """Set up the next frame; how the camera stands then."""
        return self._shaped(CameraSettings, self._ask("PUT", "/settings", settings.model_dump(mode="json")))

    def carry(self, pose: dict[AxisName, float]) -> None:
        """Tell a simulated camera where the rig has carried it."""
        self._ask("PUT", "/pose", dict(pose))

    def capture(self, number: int, patience_s: float, pose: dict[AxisName, float] | None = None) -> Captured:
        """Open the shutter now; returns when the frame is stored."""
        answer = self._ask("POST", "/capture", {"number": number, "pose": pose or {}}, timeout_s=patience_s)
        return self._numbered(number, answer)

    def record(self, number: int, seconds: float, patience_s: float, poses: list[dict[str, float]]) -> Captured:
        """Film for so many seconds of stage time, or until `cut`; returns when the file is closed."""
        order = {"number": number, "seconds": seconds, "poses": poses}
        return self._numbered(number, self._ask("POST", "/record", order, timeout_s=patience_s))

    def cut(self) -> None:
        """End what is being filmed."""
        self._ask("POST", "/cut")

    def taken(self, number: int) -> Captured | None:
        """The frame of this number, if this scene has one."""
        answer = self._ask("GET", f"/frames/{number}")
        return None if answer == {} else self._numbered(number, answer)

    def on_card(self, label: str = "") -> list[Captured]:
        """All frames of this scene, or of the one that was called `label`."""
        answer = self._ask("GET", f"/frames?label={label}", timeout_s=max(10.0, self._timeout_s), most=_LONGEST_LIST)
        try:
            return _PIECES.validate_python(answer)
        except ValidationError as error:
            raise _garbled() from error

    def live(self) -> bytes:
        """What stands before the camera now, as a JPEG; takes no frame."""
        return self._answer("GET", "/live.jpg", None, max(5.0, self._timeout_s), _LONGEST_PICTURE)

    def switch_off(self) -> None:
        """Switch the camera off; its file is closed by then."""
        self._ask("POST", "/off", timeout_s=max(5.0, self._timeout_s))

    @contextmanager
    def fetch(self, file: str) -> Iterator[Iterator[bytes]]:
        """The bytes of a stored file, in pieces."""
        try:
            with self._http.stream("GET", f"/files/{file}") as response:
                if response.status_code != 200:
                    raise CameraError("refused", f"The camera has no file {file}.")
                yield response.iter_bytes()
        except httpx.HTTPError as error:
            raise _away(error) from error

    def _ask(
        self, method: str, path: str, body: object = None, timeout_s: float | None = None, most: int = _LONGEST_ANSWER
    ) -> Any:
        try:
            return json.loads(self._answer(method, path, body, timeout_s or self._timeout_s, most))
        except ValueError as error:
            raise _garbled() from error

    def _answer(self, method: str, path: str, body: object, timeout_s: float, most: int) -> bytes:
        """The body of an answer, of which no more is read than `most` bytes, and for no longer than `timeout_s`."""
        until_s = time.monotonic() + timeout_s
        content = bytearray()
        try:
            with self._http.stream(method, path, json=body, timeout=timeout_s) as response:
                for piece in response.iter_bytes():
                    content += piece
                    if len(content) > most:
                        raise CameraError("garbled", "The camera's answer had no end.")
                    if time.monotonic() > until_s:
                        raise CameraError("unreachable", "The camera's answer did not come to its end in time.")
                status = response.status_code
        except httpx.HTTPError as error:
            raise _away(error) from error
        if status >= 400:
            said = printable(bytes(content[:1_000]).decode(errors="replace"))
            raise CameraError(_TROUBLE.get(status, "refused"), said or f"The camera answers {status}.")
        return bytes(content)

    def _numbered(self, number: int, answer: Any) -> Captured:
        captured = self._shaped(Captured, answer)
        if captured.number != number:
            raise CameraError("garbled", f"The camera was asked for frame {number} and answered another.")
        return captured

    @staticmethod
    def _shaped(shape: type[M], answer: Any) -> M:
        try:
            return shape.model_validate(answer)
        except ValidationError as error:
            raise _garbled() from error


def _garbled() -> CameraError:
    return CameraError("garbled", "The camera's answer could not be read.")


def _away(error: httpx.HTTPError) -> CameraError:
    in_time = " in time" if isinstance(error, httpx.TimeoutException) else ""
    return CameraError("unreachable", f"The camera does not answer{in_time}.")
