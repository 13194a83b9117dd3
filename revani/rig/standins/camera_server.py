"""The simulated camera's link: JSON over HTTP on loopback."""

from pathlib import Path

from fastapi import FastAPI, HTTPException, Request
from fastapi.responses import FileResponse, PlainTextResponse

from revani.rig.ports import CameraError, CameraSettings, CameraStatus, Captured, Message, Scene
from revani.rig.standins.camera import SimulatedCamera

_STATUS = {"busy": 409, "empty battery": 503, "full card": 507, "refused": 422, "unreachable": 504}


class Capture(Message):
    """The order to take a frame."""

    number: int


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

    @app.post("/capture")
    async def capture(order: Capture) -> Captured:
        return await camera.capture(order.number)

    @app.get("/frames/{number}")
    async def taken(number: int) -> Captured | dict[str, str]:
        return camera.taken(number) or {}

    @app.get("/files/{card}/{name}")
    async def file(card: str, name: str) -> FileResponse:
        path = (camera.folder / card / name).resolve()
        if not path.is_relative_to(camera.folder.resolve()) or not path.is_file():
            raise HTTPException(404, "No such file.")
        return FileResponse(path, media_type="image/jpeg")

    return app
