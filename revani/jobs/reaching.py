"""The camera that took a run, to be asked for what it has."""

from revani.rig.drivers import camera_at
from revani.rig.known import reached
from revani.rig.ports import Camera
from revani.settings import settings


def camera_of(rig: str, timeout_s: float = 1.5) -> Camera:
    """The camera of a rig, be it put away or not. Raises Refusal where nobody knows the rig."""
    its = reached(settings(), rig)
    return camera_at(its.camera, timeout_s, serial=its.rig.serial)
