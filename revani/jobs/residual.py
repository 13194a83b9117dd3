"""What came home against what was rehearsed: how much brighter it is, how far it is shifted."""

from typing import NamedTuple

import cv2
import numpy as np
from numpy.typing import NDArray

from revani.core.picture.looked_at import stops_apart
from revani.core.picture.planned import picture_of
from revani.core.picture.skylight import Picture
from revani.core.program.compiled import Program

# Both are held against each other so wide at most.
_WIDE = 960
# The peak of the correlation under which two pictures have too little in common (measured on frames of the simulated
# camera against those of another hour and another heading).
_ALIKE = 0.18


class Residual(NamedTuple):
    """A taken frame against the rehearsed one: stops brighter, pixels of the taken picture to the right and down.

    None is what cannot be told: pictures all black or white, or with nothing in common to register them by. A shift is
    told to within `within_px`, a pixel of the size at which they are held against each other.
    """

    stops: float | None
    right_px: float | None
    down_px: float | None
    within_px: float


def residual(program: Program, i: int, taken: Picture) -> Residual:
    """How far a taken frame (counted from 0) is off the one that was rehearsed."""
    wide = min(_WIDE, taken.shape[1])
    meant = picture_of(program, i, wide)
    size = meant.shape[1], meant.shape[0]
    got = np.asarray(cv2.resize(taken, size, interpolation=cv2.INTER_AREA), dtype=np.uint8)
    right, down = shifted(meant, got)
    part = taken.shape[1] / wide
    shift = None if right is None else right * part, None if down is None else down * part
    return Residual(stops_apart(meant, got), *shift, part)


def shifted(meant: Picture, got: Picture) -> tuple[float | None, float | None]:
    """By how many pixels a picture is shifted to the right and down against another.

    Source: phase correlation, C. D. Kuglin and D. C. Hines, Proc. IEEE Conf. Cybernetics and Society (1975).
    """
    one, other = (_edges(picture) for picture in (meant, got))
    window = cv2.createHanningWindow((one.shape[1], one.shape[0]), cv2.CV_32F)
    (right, down), alike = cv2.phaseCorrelate(one, other, window)
    return (float(right), float(down)) if alike >= _ALIKE else (None, None)


def _edges(picture: Picture) -> NDArray[np.float32]:
    """What a picture is known again by, whatever its exposure: where it changes, not how bright it is."""
    grey = cv2.GaussianBlur(cv2.cvtColor(picture, cv2.COLOR_RGB2GRAY).astype(np.float32), (0, 0), 1.5)
    return np.asarray(
        np.log1p(np.hypot(cv2.Sobel(grey, cv2.CV_32F, 1, 0), cv2.Sobel(grey, cv2.CV_32F, 0, 1))), dtype=np.float32
    )
