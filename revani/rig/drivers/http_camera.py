"""A camera that speaks JSON over HTTP, as the simulated one does."""

from collections.abc import Iterator
from contextlib import contextmanager
from typing import Any, cast

import httpx

from revani.core.documents import AxisName
from revani.rig.ports import CameraError, CameraSettings, CameraStatus, Captured, Scene, Trouble

_TROUBLE: dict[int, Trouble] = {409: "busy", 503: "empty battery", 507: "full card"}


class HttpCamera:
    """Driver over one kept-alive connection. It is used from one thread at a time."""

    def __init__(self, base_url: str, timeout_s: float = 5.0) -> None:
        self._http = httpx.Client(base_url=base_url, timeout=timeout_s, trust_env=False)

    def close(self) -> None:
        """Let the connection go."""
        self._http.close()

    def status(self) -> CameraStatus:
        """Battery, card, state."""
        return CameraStatus.model_validate(self._ask("GET", "/status"))

    def stand(self, scene: Scene) -> None:
        """Put the simulated camera before a scene."""
        self._ask("PUT", "/scene", scene.model_dump(mode="json"))

    def apply(self, settings: CameraSettings) -> None:
        """Set up the next frame."""
        self._ask("PUT", "/settings", settings.model_dump(mode="json"))

    def capture(self, number: int, patience_s: float, pose: dict[AxisName, float] | None = None) -> Captured:
        """Open the shutter now; returns when the frame is stored."""
        answer = self._ask("POST", "/capture", {"number": number, "pose": pose or {}}, timeout_s=patience_s)
        return Captured.model_validate(answer)

    def record(self, number: int, seconds: float, patience_s: float, poses: list[dict[str, float]]) -> Captured:
        """Film for so many seconds of stage time, or until `cut`; returns when the file is closed."""
        order = {"number": number, "seconds": seconds, "poses": poses}
        return Captured.model_validate(self._ask("POST", "/record", order, timeout_s=patience_s))

    def cut(self) -> None:
        """End what is being filmed."""
        self._ask("POST", "/cut")

    def taken(self, number: int) -> Captured | None:
        """The frame of this number, if this scene has one."""
        answer = self._ask("GET", f"/frames/{number}")
        return Captured.model_validate(answer) if answer else None

    def live(self) -> bytes:
        """What stands before the camera now, as a JPEG; takes no frame."""
        try:
            response = self._http.get("/live.jpg")
        except httpx.HTTPError as error:
            raise CameraError("unreachable", f"The camera does not answer ({type(error).__name__}).") from error
        if response.status_code != 200:
            raise CameraError("refused", response.text[:200])
        return response.content

    @contextmanager
    def fetch(self, file: str) -> Iterator[Iterator[bytes]]:
        """The bytes of a stored file, in pieces."""
        try:
            with self._http.stream("GET", f"/files/{file}") as response:
                if response.status_code != 200:
                    raise CameraError("refused", f"The camera has no file {file}.")
                yield response.iter_bytes()
        except httpx.HTTPError as error:
            raise CameraError("unreachable", f"The camera does not answer ({error}).") from error

    def _ask(self, method: str, path: str, body: object = None, timeout_s: float | None = None) -> dict[str, Any]:
        options: dict[str, Any] = {} if timeout_s is None else {"timeout": timeout_s}
        try:
            response = self._http.request(method, path, json=body, **options)
        except httpx.HTTPError as error:
            raise CameraError("unreachable", f"The camera does not answer ({type(error).__name__}).") from error
        if response.status_code >= 400:
            trouble = _TROUBLE.get(response.status_code, "refused")
            raise CameraError(trouble, response.text[:200])
        return cast(dict[str, Any], response.json())
