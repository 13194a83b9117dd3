"""The file of a frame, wherever it is."""

from uuid import UUID

from revani.jobs.assemble import frame_path
from revani.jobs.reaching import camera_of

_PATIENCE_S = 20.0


def content_of(rig: str, run_id: UUID, number: int, file: str) -> bytes:
    """A frame's bytes: from home if it has been fetched, else from the rig's camera. Raises CameraError or Refusal."""
    home = frame_path(run_id, number)
    if home.exists():
        return home.read_bytes()
    camera = camera_of(rig, _PATIENCE_S)
    try:
        with camera.fetch(file) as pieces:
            return b"".join(pieces)
    finally:
        camera.close()
