"""Asking a camera what became of a frame, when its own answer was lost."""

import threading
import time
from collections.abc import Callable
from enum import Enum
from typing import TypeVar

from revani.rig.ports import Camera, CameraError, Captured

_LOOK_REAL_S = 0.03
_GRACE_REAL_S = 1.0
_MOST_WAIT_REAL_S = 120.0
T = TypeVar("T")


class Unknown(Enum):
    """Why nobody can say whether a frame was taken."""

    AWAY = "the camera does not answer"
    STUCK = "the camera does not get done with it"


def outcome_of(
    camera: Camera, number: int, open_real_s: float, halt: threading.Event, stand: Callable[[], None]
) -> Captured | Unknown | None:
    """The frame if it is on the card, None if it is not and will not be, or why that cannot be known.

    A camera that exposes or stores it is waited for: `open_real_s` and as much again as it may be stuck, or not
    much longer than `open_real_s` once `halt` is set. One that was started anew is put before its scene by `stand`.
    Raises CameraError("fenced") where another has taken over.
    """
    begun_s = time.monotonic()
    tried_again = False
    while True:
        try:
            if camera.status().busy_with == number:
                waited_s = time.monotonic() - begun_s
                most_s = open_real_s + (_GRACE_REAL_S if halt.is_set() else _MOST_WAIT_REAL_S)
                if waited_s > most_s:
                    return Unknown.STUCK
                time.sleep(_LOOK_REAL_S)
                continue
            return answered(lambda: camera.taken(number), stand)
        except CameraError as error:
            if error.trouble == "fenced":
                raise
            if tried_again:
                return Unknown.AWAY
            # An answer may be lost, or garbled, once.
            tried_again = True


def answered(ask: Callable[[], T], stand: Callable[[], None]) -> T:
    """What a camera answers; one that was started anew is put before its scene by `stand` first. Raises CameraError."""
    try:
        return ask()
    except CameraError as error:
        if error.trouble != "not set up":
            raise
    stand()
    return ask()
