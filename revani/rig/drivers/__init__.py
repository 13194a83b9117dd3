"""The drivers, each registered by the scheme of the address at which its gear is found."""

from collections.abc import Callable
from typing import TypeVar
from urllib.parse import parse_qsl, urlsplit

from revani.core.quantities.refusal import Refusal
from revani.rig.drivers.gcode_mover import over_serial, over_tcp
from revani.rig.drivers.http_camera import HttpCamera
from revani.rig.ports import Body, Camera, Mover

T = TypeVar("T")

CAMERAS: dict[str, Callable[[str, float, int, str], Camera]] = {
    "http": HttpCamera,
    "https": HttpCamera,
}


def _gphoto(address: str) -> Body:
    # Its library is loaded by the one process that has the body, and by no other.
    from revani.rig.drivers.gphoto_body import GphotoBody

    return GphotoBody(address)


# Bodies on a cable or a network have one connection; the link has it, and is itself a camera over HTTP.
BODIES: dict[str, Callable[[str], Body]] = {
    "ptpip": _gphoto,
    "usb": _gphoto,
}
MOVERS: dict[str, Callable[[str, str], Mover]] = {
    "gcode": over_tcp,
    "serial": over_serial,
}


def camera_at(address: str, timeout_s: float = 1.5, fence: int = 0, serial: str = "") -> Camera:
    """The camera at an address such as `http://127.0.0.1:8011`. Raises Refusal where no driver knows its scheme.

    What answers in `timeout_s` real seconds answers in time; `fence` says for which run it is driven, 0 for none. Where
    the camera's `serial` is known, another one that answers there does nothing of what it is asked.
    """
    return _known(CAMERAS, "camera", address)(address, timeout_s, fence, serial)


def is_body(address: str) -> bool:
    """Whether the camera at an address is a body that needs the link."""
    return urlsplit(address).scheme in BODIES


def body_at(address: str) -> Body:
    """The body at an address such as `ptpip://192.168.1.1` or `usb://`. Raises Refusal where no driver knows it."""
    return _known(BODIES, "camera", address)(address)


def stage_of(address: str) -> str:
    """Where a simulated body is told of its scene: `?stage=http://…` of its address; empty for a real one."""
    return dict(parse_qsl(urlsplit(address).query)).get("stage", "")


def mover_at(address: str, number: str = "") -> Mover:
    """The mover at an address such as `gcode://127.0.0.1:8013` or `serial:/dev/ttyUSB0`. Raises Refusal.

    Where its `number` is known, another one that answers there is asked for nothing.
    """
    return _known(MOVERS, "mover", address)(address, number)


def _known(drivers: dict[str, T], what: str, address: str) -> T:
    scheme = urlsplit(address).scheme
    if scheme not in drivers:
        raise Refusal(f"{what}_url", f"An address that begins with {' or '.join(drivers)}.", address)
    return drivers[scheme]
