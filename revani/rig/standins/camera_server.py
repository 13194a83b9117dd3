"""The simulated camera's link: JSON over HTTP on loopback."""

import asyncio
from pathlib import Path
from typing import Annotated

from fastapi import FastAPI, Header, HTTPException, Request
from fastapi.responses import FileResponse, PlainTextResponse, Response
from pydantic import Field
from starlette.datastructures import Headers
from starlette.types import ASGIApp, Receive, Send
from starlette.types import Message as Message_
from starlette.types import Scope as HttpScope

from revani.core.documents import AxisName
from revani.core.quantities.refusal import Refusal
from revani.rig.ports import CameraError, CameraSettings, CameraStatus, Captured, Fault, Message, Scene
from revani.rig.standins.camera import SimulatedCamera
from revani.rig.standins.coded import MOST_BYTES, CodeReader, Light, read_picture

_STATUS = {
    "fenced": 403, "busy": 409, "not set up": 412, "refused": 422, "garbled": 500, "empty battery": 503,
    "unreachable": 504, "full card": 507,
}  # fmt: skip
_LOCAL = {"127.0.0.1", "localhost", "[::1]"}
Fence = Annotated[int, Header(ge=0)]


class Capture(Message):
    """The order to take a frame."""

    number: int
    pose: dict[AxisName, float] = Field(default={})


class Record(Message):
    """The order to film."""

    number: int
    seconds: float = Field(gt=0, le=36_000)
    poses: list[dict[str, float]] = Field(default=[], max_length=5_000)


class Cut(Response):
    """An answer that breaks off, so that the other side finds its connection cut."""

    async def __call__(self, scope: HttpScope, receive: Receive, send: Send) -> None:
        """Promise a body and send none."""
        headers = [(b"content-length", b"1000")]
        await send({"type": "http.response.start", "status": 200, "headers": headers})
        await send({"type": "http.response.body", "body": b""})


class Nonsense:
    """The fault of a camera that answers garbage: on whatever path, after it has done what it was asked."""

    def __init__(self, app: ASGIApp, camera: SimulatedCamera) -> None:
        self._app = app
        self._camera = camera

    async def __call__(self, scope: HttpScope, receive: Receive, send: Send) -> None:
        """Let the answer through, or put nonsense in its place."""
        kind = None if scope["type"] != "http" or scope["path"] == "/fault" else self._camera.next_nonsense()
        if kind is None:
            await self._app(scope, receive, send)
            return

        async def unheard(_message: Message_) -> None:
            return

        await self._app(scope, receive, unheard)
        length = [(b"content-length", b"1000")] if kind == "half" else []
        await send({"type": "http.response.start", "status": 200, "headers": length})
        whole = {
            "not json": b"<html>Welcome</html>", "wrong shape": b'{"number": "seven", "file": ["x"]}',
            "control characters": b'{"name": "a\\u0000b\\u001b[2J", "file": "../\\u0000"}',
            "half": b'{"number": 1, "fi',
        }  # fmt: skip
        if kind in whole:
            await send({"type": "http.response.body", "body": whole[kind]})
            return
        # At most so much, for one who would read it to its end.
        for _ in range(400):
            await send({"type": "http.response.body", "body": b"x" * (1 if kind == "trickle" else 65_536),
                        "more_body": True})  # fmt: skip
            await asyncio.sleep(0.1 if kind == "trickle" else 0)
        await send({"type": "http.response.body", "body": b""})


class Neighbours:
    """Only those on this machine, and no page from elsewhere, may say anything to the camera."""

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


def camera_app(folder: Path, key: bytes = b"", rig: str = "") -> FastAPI:
    """The application of one simulated camera whose card is `folder`; it obeys cards that `key` signed for `rig`."""
    camera = SimulatedCamera(folder)
    codes = CodeReader(camera, folder, key, rig) if key else None
    app = FastAPI(title="Simulated camera", docs_url=None, redoc_url=None)
    app.add_middleware(Nonsense, camera=camera)
    app.add_middleware(Neighbours)

    @app.exception_handler(CameraError)
    async def refuse(_request: Request, error: CameraError) -> PlainTextResponse:
        return PlainTextResponse(str(error), _STATUS[error.trouble])

    @app.get("/status")
    async def status() -> CameraStatus:
        return camera.status()

    @app.put("/scene")
    async def stand(scene: Scene) -> dict[str, str]:
        camera.stand(scene)
        return {"label": scene.label}

    @app.put("/settings")
    async def apply(settings: CameraSettings, x_fence: Fence = 0) -> CameraSettings:
        camera.obey(x_fence)
        camera.apply(settings)
        return settings

    @app.post("/capture", response_model=Captured)
    async def capture(order: Capture, x_fence: Fence = 0) -> Captured | Response:
        camera.obey(x_fence)
        fault = camera.next_fault()
        if fault and fault.kind == "refuse":
            raise CameraError("refused", "The camera says no.")
        if fault and fault.kind == "hang":
            await asyncio.sleep(fault.seconds)
            raise CameraError("refused", "The camera had hung.")
        captured = await camera.capture(order.number, order.pose)
        if fault and fault.kind == "slow":
            await asyncio.sleep(fault.seconds)
        return Cut() if fault and fault.kind == "drop" else captured

    @app.post("/record")
    async def record(order: Record, x_fence: Fence = 0) -> Captured:
        camera.obey(x_fence)
        return await camera.record(order.number, order.seconds, order.poses)

    @app.post("/cut")
    async def cut(x_fence: Fence = 0) -> dict[str, str]:
        camera.obey(x_fence)
        camera.cut()
        return {"recording": "ends"}

    @app.post("/code")
    async def show(request: Request) -> list[Light]:
        """A picture in which a code card is, or the text of one."""
        if codes is None:
            raise CameraError("refused", "This camera knows no code cards.")
        if int(request.headers.get("content-length") or MOST_BYTES + 1) > MOST_BYTES:
            raise CameraError("refused", "The picture is too large: at most 12 MB.")
        content = await request.body()
        try:
            plain = request.headers.get("content-type", "").startswith("text/plain")
            return await codes.obey(content.decode() if plain else read_picture(content))
        except (Refusal, UnicodeDecodeError) as refused:
            says = refused.allowed if isinstance(refused, Refusal) else "This is no card of Revani's."
            raise CameraError("refused", says) from None

    @app.put("/fault")
    async def break_down(fault: Fault) -> Fault:
        camera.break_down(fault)
        return fault

    @app.delete("/fault")
    async def mend() -> dict[str, str]:
        camera.break_down(None)
        return {"fault": "none"}

    @app.get("/live.jpg")
    async def live() -> Response:
        return Response(await camera.live(), media_type="image/jpeg")

    @app.get("/frames")
    async def on_card(label: str = "", x_fence: Fence = 0) -> list[Captured]:
        camera.obey(x_fence)
        return camera.on_card(label)

    @app.get("/frames/{number}")
    async def taken(number: int, x_fence: Fence = 0) -> Captured | dict[str, str]:
        camera.obey(x_fence)
        return camera.taken(number) or {}

    @app.get("/files/{card}/{name}")
    async def file(card: str, name: str) -> FileResponse:
        path = (camera.folder / card / name).resolve()
        if not path.is_relative_to(camera.folder.resolve()) or not path.is_file():
            raise HTTPException(404, "No such file.")
        return FileResponse(path, media_type="video/mp4" if path.suffix == ".mp4" else "image/jpeg")

    return app
