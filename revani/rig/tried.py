"""What is found on this machine's sockets, and what answers at an address: tried without a run.

A test frame is taken on a card of its own where the camera is simulated, and stays on a real one. A dry move takes an
axis one unit of its own (a millimetre, a degree) and back.
"""

import time
from collections.abc import Callable, Iterator
from contextlib import closing
from typing import Literal

from pydantic import BaseModel

from revani.core.quantities.refusal import Refusal
from revani.core.quantities.units import gigabytes
from revani.rig.drivers import body_at, camera_at, is_body, mover_at
from revani.rig.ports import CameraError, CameraSettings, MoverError

_PATIENCE_S, _STEP, _NEAR = 20.0, 1.0, 0.2


class Tried(BaseModel):
    """One thing that was tried, and what came of it; `went` is None where nothing can be said."""

    what: str
    told: str
    went: bool | None = True


class Found(BaseModel):
    """Gear that was found, and the address at which it is driven."""

    what: Literal["camera", "mover"]
    name: str
    address: str


def found() -> list[Found]:
    """Bodies on USB that libgphoto2 knows, and serial ports that a mover may be at."""
    import gphoto2
    from serial.tools.list_ports import comports

    bodies = gphoto2.Camera.autodetect()
    cameras = [
        Found(what="camera", name=bodies.get_name(i), address=f"usb://{bodies.get_value(i).removeprefix('usb:')}")
        for i in range(bodies.count())
        if bodies.get_value(i).startswith("usb:")
    ]
    return cameras + [
        Found(what="mover", name=one.description, address=f"serial:{one.device}") for one in sorted(comports())
    ]


def try_camera(address: str, frame: bool) -> Iterator[Tried]:
    """What a camera says of itself, how far its clock is off, and a test frame where that is wanted."""
    try:
        yield from _body(address, frame) if is_body(address) else _served(address, frame)
    except (CameraError, Refusal) as error:
        told = error.allowed if isinstance(error, Refusal) else str(error)
        yield Tried(what="camera", told=told, went=False)


def _body(address: str, frame: bool) -> Iterator[Tried]:
    with closing(body_at(address)) as body:
        said, now_s = body.says(), time.time()
        yield Tried(what="camera", told=said.name)
        yield _said("battery", said.battery_left, lambda left: f"{left:.0%}")
        yield _said("card", said.card_free_bytes, lambda free: f"{gigabytes(free)} free")
        yield _said("clock", said.clock_s, lambda clock: f"{clock - now_s:+.0f} s, to within 3 s")
        stands = body.dial(CameraSettings(shutter_s=1 / 125, aperture=8, iso=100, white_balance_k=5200))
        yield Tried(what="dials", told=f"{stands.shutter_s:.4g} s, f/{stands.aperture:.3g}, ISO {stands.iso:.0f}")
        if frame:
            begun_s = time.monotonic()
            stored = body.fire()
            told = f"{stored.file}, {gigabytes(stored.size_bytes)}, after {time.monotonic() - begun_s:.1f} s"
            yield Tried(what="test frame", told=told)


def _served(address: str, frame: bool) -> Iterator[Tried]:
    with closing(camera_at(address, _PATIENCE_S)) as camera:
        said = camera.status()
        yield Tried(what="camera", told=f"{said.name}, {said.state}", went=said.state != "empty battery")
        yield _said("battery", said.battery_left, lambda left: f"{left:.0%}")
        yield _said("card", said.card_free_bytes, lambda free: f"{gigabytes(free)} free")
        yield _said("clock", said.clock_ahead_s, lambda ahead: f"{ahead:+.1f} s")
        if frame:
            # Its frames are numbered for a run; without one it shows what it sees.
            told = f"the finder's picture came, {len(camera.live()) / 1_000:,.0f} kB; a frame is taken in a run"
            yield Tried(what="test frame", told=told)


def _said(what: str, value: float | None, word: Callable[[float], str]) -> Tried:
    return Tried(what=what, told="it does not say", went=None) if value is None else Tried(what=what, told=word(value))


def try_mover(address: str, move: bool) -> Iterator[Tried]:
    """Where a mover's axes stand, and each a little way and back where that is wanted."""
    try:
        with closing(mover_at(address)) as mover:
            where = mover.where()
            at = ", ".join(f"{name} {value:,.1f}" for name, value in where.positions.items())
            yield Tried(what="mover", told=at or "it has no axes")
            if number := mover.number():
                yield Tried(what="its number", told=number)
            if where.stalled:
                yield Tried(what="stalled", told=", ".join(where.stalled), went=False)
            for name, start in where.positions.items() if move else ():
                mover.go({name: start + _STEP})
                mover.rest(_PATIENCE_S)
                there = mover.where().positions[name]
                mover.go({name: start})
                mover.rest(_PATIENCE_S)
                back = mover.where().positions[name]
                went = abs(there - start - _STEP) < _NEAR and abs(back - start) < _NEAR
                told = f"asked for {_STEP:+g}, went {there - start:+.2f}, came back to {back - start:+.2f}"
                yield Tried(what=f"{name}, dry", told=told, went=went)
    except (MoverError, Refusal) as error:
        yield Tried(what="mover", told=error.allowed if isinstance(error, Refusal) else str(error), went=False)
