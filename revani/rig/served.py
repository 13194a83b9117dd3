"""A camera that several may ask, as JSON over HTTP on loopback: the simulated one, and the link to a body."""

from collections.abc import Awaitable
from inspect import isawaitable
from typing import Annotated, Protocol, TypeVar
from urllib.parse import unquote

from fastapi import Depends, FastAPI, Header
from fastapi.responses import PlainTextResponse, Response
from pydantic import Field
from starlette.datastructures import Headers
from starlette.types import ASGIApp, Receive, Send
from starlette.types import Scope as HttpScope

from revani.core.documents import AxisName
from revani.rig.ports import CameraError, CameraSettings, CameraStatus, Captured, Message, Scene

_STATUS = {
    "fenced": 403, "busy": 409, "not set up": 412, "refused": 422, "another": 423, "garbled": 500, "empty battery": 503,
    "unreachable": 504, "full card": 507,
}  # fmt: skip
_LOCAL = {"127.0.0.1", "localhost", "[::1]"}
Fence = Annotated[int, Header(ge=0)]
T = TypeVar("T")


class Capture(Message):
    """The order to take a frame."""

    number: int
    pose: dict[AxisName, float] = Field(default={})


class Record(Message):
    """The order to film."""

    number: int
    seconds: float = Field(gt=0, le=36_000)
    poses: list[dict[str, float]] = Field(default=[], max_length=5_000)


class Served(Protocol):
    """What is served: a camera that numbers its frames. Every method may raise CameraError."""

    def obey(self, fence: int) -> None:
        """Refuse the orders of one whom another has taken over from; 0 is a person, who names none."""

    @property
    def serial(self) -> str:
        """The number that its maker gave it, as it said last; empty where it says none."""

    def status(self) -> CameraStatus | Awaitable[CameraStatus]:
        """Battery, card, state."""

    def stand(self, scene: Scene) -> Awaitable[None] | None:
        """What is taken from now on belongs to a scene."""

    def apply(self, settings: CameraSettings) -> CameraSettings | Awaitable[CameraSettings]:
        """Set up the next frame; how the camera stands then."""

    async def take(self, number: int, pose: dict[AxisName, float]) -> Captured | Response:
        """Take a frame, and tell of it when it is stored; or an answer that tells nothing."""

    async def record(self, number: int, seconds: float, poses: list[dict[str, float]]) -> Captured:
        """Film until the time is over or `cut` comes."""

    def cut(self) -> None:
        """End what is being filmed."""

    def taken(self, number: int) -> Captured | Awaitable[Captured | None] | None:
        """The frame of this number, if there is one."""

    def on_card(self, label: str = "") -> list[Captured] | Awaitable[list[Captured]]:
        """All frames of this scene, or of the one that was called `label`."""

    def switch_off(self) -> Awaitable[None] | None:
        """Switch it off."""

    async def live(self) -> bytes:
        """What it sees now, as a JPEG."""

    async def file(self, name: str) -> Response:
        """A stored file."""


class Neighbours:
    """Only those on this machine, and no page from elsewhere, may say anything to a camera."""

    def __init__(self, app: ASGIApp) -> None:
        self._app = app

    async def __call__(self, scope: HttpScope, receive: Receive, send: Send) -> None:
        """Let a request through, or refuse it."""
        if scope["type"] == "http":
            headers = Headers(scope=scope)
            # A browser names the page that asks; drivers are no pages.
            if headers.get("host", "").rsplit(":", 1)[0] not in _LOCAL or "origin" in headers:
                await PlainTextResponse("Only drivers on this machine.", 421)(scope, receive, send)
                return
        await self._app(scope, receive, send)


async def _had(found: T | Awaitable[T]) -> T:
    return await found if isawaitable(found) else found


def serve(app: FastAPI, camera: Served) -> None:
    """Offer a camera over an application's routes, to those on this machine."""
    app.add_middleware(Neighbours)

    @app.exception_handler(CameraError)
    async def refuse(_request: object, error: CameraError) -> PlainTextResponse:
        return PlainTextResponse(str(error), _STATUS[error.trouble])

    @app.get("/status")
    async def status() -> CameraStatus:
        return await _had(camera.status())

    @app.put("/scene")
    async def stand(scene: Scene) -> dict[str, str]:
        await _had(camera.stand(scene))
        return {"label": scene.label}

    async def meant(x_serial: Annotated[str, Header(max_length=300)] = "") -> None:
        wanted = unquote(x_serial)
        if wanted and camera.serial and wanted != camera.serial:
            told = f"Another camera answers: {camera.serial}, where {wanted} was linked."
            raise CameraError("another", told)

    its = [Depends(meant)]

    @app.put("/settings", dependencies=its)
    async def apply(settings: CameraSettings, x_fence: Fence = 0) -> CameraSettings:
        camera.obey(x_fence)
        return await _had(camera.apply(settings))

    @app.post("/capture", response_model=Captured, dependencies=its)
    async def capture(order: Capture, x_fence: Fence = 0) -> Captured | Response:
        camera.obey(x_fence)
        return await camera.take(order.number, order.pose)

    @app.post("/record", dependencies=its)
    async def record(order: Record, x_fence: Fence = 0) -> Captured:
        camera.obey(x_fence)
        return await camera.record(order.number, order.seconds, order.poses)

    @app.post("/cut")
    async def cut(x_fence: Fence = 0) -> dict[str, str]:
        camera.obey(x_fence)
        camera.cut()
        return {"recording": "ends"}

    @app.post("/off", dependencies=its)
    async def switch_off(x_fence: Fence = 0) -> dict[str, str]:
        camera.obey(x_fence)
        await _had(camera.switch_off())
        return {"camera": "off"}

    @app.get("/live.jpg")
    async def live() -> Response:
        return Response(await camera.live(), media_type="image/jpeg")

    @app.get("/frames", dependencies=its)
    async def on_card(label: str = "", x_fence: Fence = 0) -> list[Captured]:
        camera.obey(x_fence)
        return await _had(camera.on_card(label))

    @app.get("/frames/{number}", dependencies=its)
    async def taken(number: int, x_fence: Fence = 0) -> Captured | dict[str, str]:
        camera.obey(x_fence)
        return await _had(camera.taken(number)) or {}

    @app.get("/files/{name:path}", dependencies=its)
    async def file(name: str) -> Response:
        return await camera.file(name)
