"""Stills of a walk brought into register: by what they have in common around the place of their aim."""

from collections.abc import Callable, Iterable
from contextlib import suppress
from typing import NamedTuple

import cv2
import numpy as np
from numpy.typing import NDArray

from revani.jobs.resample import Picture

_FEATURES = 1_200
# From one picture of a clip to the next little changes.
_FEW = 300
# Of two likenesses the second must be so much worse; within so many pixels two agree.
_RATIO, _AGREE_PX = 0.75, 1.5
_LEAST = 8
# The part of the picture around the aim that is looked at, and how wide at most.
_WINDOW, _WIDEST_PX = 0.6, 1_200


class Aligned(NamedTuple):
    """How a still was off its neighbour, about the place of the aim: pixels to the right and down, degrees clockwise,
    times as large; and what brings it back (2, 3). `left_px` is how far off its marks are after that, in the middle."""

    right_px: float
    down_px: float
    roll_deg: float
    scale: float
    left_px: float
    matrix: tuple[tuple[float, float, float], tuple[float, float, float]]


class NotAligned(Exception):
    """Two stills have too little in common."""


class Marks(NamedTuple):
    """What is found again of a still: places in pixels of it, and what they look like."""

    places: NDArray[np.float32]
    looks: NDArray[np.float32]


def marks_of(picture: Picture, across: float, down: float, most: int = _FEATURES) -> Marks:
    """The marks of a still around a place, parts of the picture."""
    high, wide = picture.shape[:2]
    left, right = (int(np.clip((across + side * _WINDOW / 2) * wide, 0, wide)) for side in (-1, 1))
    top, foot = (int(np.clip((down + side * _WINDOW / 2) * high, 0, high)) for side in (-1, 1))
    piece = cv2.cvtColor(picture[top:foot, left:right], cv2.COLOR_BGR2GRAY)
    part = min(1.0, _WIDEST_PX / max(piece.shape))
    if part < 1:
        piece = cv2.resize(piece, None, fx=part, fy=part, interpolation=cv2.INTER_AREA)
    found, looks = cv2.SIFT.create(most).detectAndCompute(piece, None)
    places = np.array([one.pt for one in found], dtype=np.float32).reshape(-1, 2)
    # Pixel centres lie on whole numbers, in the small picture and in the large one.
    places = (places + 0.5) / part - 0.5 + np.array([left, top])
    known = np.zeros((0, 128)) if looks is None else looks
    return Marks(places.astype(np.float32), np.asarray(known, dtype=np.float32))


def likeness(of: Marks, to: Marks) -> tuple[NDArray[np.float64], float]:
    """The similarity (2, 3) that takes places of one still to those of another, and how far off its marks are then.

    Source: scale-invariant features (Lowe, IJCV 60 (2004)), agreed on by RANSAC. Raises NotAligned.
    """
    if min(len(of.places), len(to.places)) < _LEAST:
        raise NotAligned
    pairs = cv2.BFMatcher(cv2.NORM_L2).knnMatch(of.looks, to.looks, k=2)
    good = [pair[0] for pair in pairs if len(pair) == 2 and pair[0].distance < _RATIO * pair[1].distance]
    if len(good) < _LEAST:
        raise NotAligned
    a = of.places[[one.queryIdx for one in good]]
    b = to.places[[one.trainIdx for one in good]]
    matrix, agreed = cv2.estimateAffinePartial2D(a, b, ransacReprojThreshold=_AGREE_PX)
    kept = None if agreed is None else agreed.ravel().astype(bool)
    if matrix is None or kept is None or kept.sum() < _LEAST:
        raise NotAligned
    off = a[kept] @ matrix[:, :2].T + matrix[:, 2] - b[kept]
    return np.asarray(matrix, dtype=np.float64), float(np.median(np.hypot(off[:, 0], off[:, 1])))


def aligned(of: Marks, to: Marks, about_px: tuple[float, float]) -> Aligned:
    """How one still is off another, about a place, and what turns and shifts it back. Raises NotAligned.

    Its size stays: one comes nearer on a walk: what is looked at grows, and is let grow.
    """
    matrix, left = likeness(of, to)
    turn = float(np.arctan2(matrix[1, 0], matrix[0, 0]))
    scale = float(np.hypot(matrix[0, 0], matrix[1, 0]))
    about = np.array(about_px)
    moved = matrix[:, :2] @ about + matrix[:, 2] - about
    # Where what belongs there lies in the still itself.
    lies = np.linalg.solve(matrix[:, :2], about - matrix[:, 2]) - about
    rigid = np.array([[np.cos(turn), -np.sin(turn)], [np.sin(turn), np.cos(turn)]])
    shift = about + moved - rigid @ about
    rows = tuple((float(rigid[k, 0]), float(rigid[k, 1]), float(shift[k])) for k in range(2))
    return Aligned(
        float(lies[0]), float(lies[1]), -float(np.degrees(turn)), 1 / scale, left, (rows[0], rows[1])
    )  # fmt: skip


def joined(first: Aligned | None, then: Aligned) -> Aligned:
    """A still's alignment to the first of all, from its own to its neighbour and its neighbour's."""
    if first is None:
        return then
    a, b = (np.vstack([np.array(one.matrix), [0, 0, 1]]) for one in (first, then))
    both = (a @ b)[:2]
    rows = tuple((float(row[0]), float(row[1]), float(row[2])) for row in both)
    return then._replace(matrix=(rows[0], rows[1]))


def brought_together(
    stills: Iterable[tuple[int, Picture]], place: tuple[float, float], tell: Callable[[int], None]
) -> dict[int, Aligned]:
    """How each still is brought onto the first, by its neighbour; one that has nothing in common with it stays.

    `stills` are told one after the other, by the numbers of their frames; `place` is where their aim is, parts of the
    picture; `tell` hears how many are done.
    """
    found: dict[int, Aligned] = {}
    before: Marks | None = None
    last: Aligned | None = None
    for n, (index, picture) in enumerate(stills):
        tell(n)
        now = marks_of(picture, *place)
        if before is not None:
            with suppress(NotAligned):
                last = joined(last, aligned(now, before, (place[0] * picture.shape[1], place[1] * picture.shape[0])))
                found[index] = last
        before = now
    return found


def straightened(picture: Picture, how: Aligned) -> Picture:
    """A still brought back into register; what comes in from beyond its edge is black."""
    size = (picture.shape[1], picture.shape[0])
    return np.asarray(cv2.warpAffine(picture, np.array(how.matrix), size, flags=cv2.INTER_CUBIC), dtype=np.uint8)


def motion_of(pictures: list[Picture]) -> NDArray[np.float64]:
    """The motion of a clip (n, 3): shifts across and down in parts of the width, and roll in degrees, added up."""
    found = np.zeros((len(pictures), 3))
    before: Marks | None = None
    for i, picture in enumerate(pictures):
        now = marks_of(picture, 0.5, 0.5, _FEW)
        if before is not None:
            step = np.zeros(3)
            try:
                matrix, _ = likeness(before, now)
                middle = np.array([picture.shape[1], picture.shape[0]]) / 2
                shift = (matrix[:, :2] @ middle + matrix[:, 2] - middle) / picture.shape[1]
                step = np.array([shift[0], shift[1], np.degrees(np.arctan2(matrix[1, 0], matrix[0, 0]))])
            except NotAligned:
                pass
            found[i] = found[i - 1] + step
        before = now
    return found
