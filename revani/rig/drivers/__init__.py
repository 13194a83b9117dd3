"""The drivers, each registered by the scheme of the address at which its gear is found."""

from collections.abc import Callable
from typing import TypeVar
from urllib.parse import urlsplit

from revani.core.quantities.refusal import Refusal
from revani.rig.drivers.gcode_mover import GcodeMover
from revani.rig.drivers.http_camera import HttpCamera
from revani.rig.ports import Camera, Mover

T = TypeVar("T")

CAMERAS: dict[str, Callable[[str, float, int], Camera]] = {
    "http": HttpCamera,
    "https": HttpCamera,
}
MOVERS: dict[str, Callable[[str, int], Mover]] = {
    "gcode": GcodeMover,
}


def camera_at(address: str, timeout_s: float = 1.5, fence: int = 0) -> Camera:
    """The camera at an address such as `http://127.0.0.1:8011`. Raises Refusal where no driver knows its scheme.

    What answers in `timeout_s` real seconds answers in time; `fence` says for which run it is driven, 0 for none.
    """
    return _known(CAMERAS, "camera", address)(address, timeout_s, fence)


def mover_at(address: str) -> Mover:
    """The mover at an address such as `gcode://127.0.0.1:8013`. Raises Refusal where no driver knows its scheme."""
    make = _known(MOVERS, "mover", address)
    parts = urlsplit(address)
    try:
        port = parts.port
    except ValueError:
        port = None
    if not parts.hostname or port is None:
        raise Refusal("mover_url", "An address with host and port, such as gcode://127.0.0.1:8013.", address)
    return make(parts.hostname, port)


def _known(drivers: dict[str, T], what: str, address: str) -> T:
    scheme = urlsplit(address).scheme
    if scheme not in drivers:
        raise Refusal(f"{what}_url", f"An address that begins with {' or '.join(drivers)}.", address)
    return drivers[scheme]
