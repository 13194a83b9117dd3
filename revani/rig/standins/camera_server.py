"""The simulated camera's link: JSON over HTTP on loopback."""

import asyncio
from collections.abc import AsyncIterator
from contextlib import asynccontextmanager
from pathlib import Path

from fastapi import FastAPI, HTTPException, Request
from fastapi.responses import FileResponse, Response
from starlette.types import ASGIApp, Receive, Send
from starlette.types import Message as Message_
from starlette.types import Scope as HttpScope

from revani.core.documents import AxisName
from revani.core.quantities.refusal import Refusal
from revani.rig.code_in_picture import MOST_BYTES, read_picture
from revani.rig.ports import CameraError, Captured, Fault
from revani.rig.served import serve
from revani.rig.standins.camera import SimulatedCamera
from revani.rig.standins.coded import CodeReader, Light
from revani.rig.standins.ptp_server import listen


class Cut(Response):
    """An answer that breaks off, so that the other side finds its connection cut."""

    async def __call__(self, scope: HttpScope, receive: Receive, send: Send) -> None:
        """Promise a body and send none."""
        headers = [(b"content-length", b"1000")]
        await send({"type": "http.response.start", "status": 200, "headers": headers})
        await send({"type": "http.response.body", "body": b""})


class Nonsense:
    """The faults of a camera that sleeps, or answers garbage: on whatever path, after it has done what it was asked."""

    def __init__(self, app: ASGIApp, camera: SimulatedCamera) -> None:
        self._app = app
        self._camera = camera

    async def __call__(self, scope: HttpScope, receive: Receive, send: Send) -> None:
        """Let the answer through, or put nonsense in its place."""
        told = scope["type"] != "http" or scope["path"] == "/fault"
        if not told and self._camera.faults.asleep:
            await Cut()(scope, receive, send)
            return
        kind = None if told else self._camera.faults.next_nonsense()
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


class _Stubborn(SimulatedCamera):
    """The simulated camera as it answers over HTTP, with the faults that it shows there."""

    async def take(self, number: int, pose: dict[AxisName, float]) -> Captured | Response:
        """Take a frame; a fault may come before it or after."""
        fault = self.faults.next_fault()
        if fault and fault.kind == "refuse":
            raise CameraError("refused", "The camera says no.")
        if fault and fault.kind == "hang":
            await asyncio.sleep(fault.seconds)
            raise CameraError("refused", "The camera had hung.")
        try:
            captured = await self.capture(number, pose)
        except CameraError as error:
            if error.trouble == "unreachable":
                return Cut()
            raise
        if fault and fault.kind == "slow":
            await asyncio.sleep(fault.seconds)
        return Cut() if fault and fault.kind == "drop" else captured

    async def file(self, name: str) -> Response:
        """A stored file."""
        kind = "video/mp4" if name.endswith(".mp4") else "image/jpeg"
        try:
            return FileResponse(self.path(name), media_type=kind)
        except CameraError:
            raise HTTPException(404, "No such file.") from None


def camera_app(folder: Path, key: bytes = b"", rig: str = "", ptp_port: int | None = None) -> FastAPI:
    """The application of one simulated camera whose card is `folder`; it obeys cards that `key` signed for `rig`.

    On `ptp_port` it speaks PTP/IP, as bodies do.
    """
    camera = _Stubborn(folder)
    codes = CodeReader(camera, folder, key, rig) if key else None

    @asynccontextmanager
    async def linked(_app: FastAPI) -> AsyncIterator[None]:
        server = None if ptp_port is None else await listen(camera, ptp_port)
        yield
        if server is not None:
            server.close()

    app = FastAPI(title="Simulated camera", docs_url=None, redoc_url=None, lifespan=linked)
    app.add_middleware(Nonsense, camera=camera)
    serve(app, camera)

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

    @app.put("/pose")
    async def carry(pose: dict[AxisName, float]) -> dict[AxisName, float]:
        camera.pose = pose
        return pose

    @app.put("/fault")
    async def break_down(fault: Fault) -> Fault:
        camera.break_down(fault)
        return fault

    @app.delete("/fault")
    async def mend() -> dict[str, str]:
        camera.break_down(None)
        return {"fault": "none"}

    return app
