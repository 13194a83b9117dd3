"""The simulated camera's link: JSON over HTTP on loopback."""

import asyncio
from pathlib import Path

from fastapi import FastAPI, HTTPException, Request
from fastapi.responses import FileResponse, PlainTextResponse, Response
from pydantic import Field
from starlette.types import Receive, Send
from starlette.types import Scope as HttpScope

from revani.core.documents import AxisName
from revani.rig.ports import CameraError, CameraSettings, CameraStatus, Captured, Fault, Message, Scene
from revani.rig.standins.camera import SimulatedCamera

_STATUS = {"busy": 409, "empty battery": 503, "full card": 507, "refused": 422, "unreachable": 504}


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


def camera_app(folder: Path) -> FastAPI:
    """The application of one simulated camera whose card is `folder`."""
    camera = SimulatedCamera(folder)
    app = FastAPI(title="Simulated camera", docs_url=None, redoc_url=None)

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
    async def apply(settings: CameraSettings) -> CameraSettings:
        camera.apply(settings)
        return settings

    @app.post("/capture", response_model=Captured)
    async def capture(order: Capture) -> Captured | Response:
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
    async def record(order: Record) -> Captured:
        return await camera.record(order.number, order.seconds, order.poses)

    @app.post("/cut")
    async def cut() -> dict[str, str]:
        camera.cut()
        return {"recording": "ends"}

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

    @app.get("/frames/{number}")
    async def taken(number: int) -> Captured | dict[str, str]:
        return camera.taken(number) or {}

    @app.get("/files/{card}/{name}")
    async def file(card: str, name: str) -> FileResponse:
        path = (camera.folder / card / name).resolve()
        if not path.is_relative_to(camera.folder.resolve()) or not path.is_file():
            raise HTTPException(404, "No such file.")
        return FileResponse(path, media_type="video/mp4" if path.suffix == ".mp4" else "image/jpeg")

    return app
