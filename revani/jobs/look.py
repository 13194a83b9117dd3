"""What the file of a frame says and shows, measured."""

import hashlib
import io
from collections.abc import Sequence

import cv2
import numpy as np
from PIL import Image

from revani.core.picture.looked_at import spread, stops_apart
from revani.core.picture.passages import directions_of, place_in_picture
from revani.core.picture.planned import picture_of
from revani.core.picture.skylight import LUMINANCE, Picture
from revani.core.program.compiled import Program
from revani.core.watch.first_frames import FileSeen
from revani.jobs.residual import shifted
from revani.rig.exif import said_by

# All but the stars is looked at so wide at most.
_WIDE = 960
# A star stands out of the sky by so many times its noise, and has so many pixels.
_OVER_NOISE, _LEAST_PX, _MOST_PX, _FEWEST = 8.0, 3, 4_000, 8
# So many pixels about a star the sky is even, within that part of the star.
_ROUND, _EVEN, _LEAST_RING = 3, 0.5, 8
# Of so many points no sky is made.
_TOO_MANY = 20_000
# Before the sun is so low no star is looked for.
_DARK_DEG = -9.0
# The sun counts so far about the picture, in parts of it, and so far under the horizon.
_ABOUT, _GLOWS_DEG = 0.25, -6.0


def look(program: Program, files: Sequence[tuple[int, bytes]]) -> list[FileSeen]:
    """What the files of frames (by their numbers, from 1) say and show; one that is no picture is left out."""
    found: list[FileSeen] = []
    first: Picture | None = None
    starts: dict[bool, tuple[float | None, float | None]] = {}
    before = ""
    for number, content in files:
        told = hashlib.sha256(content).hexdigest()
        try:
            with Image.open(io.BytesIO(content)) as file:
                says = said_by(file)
                taken = np.asarray(file.convert("RGB"), dtype=np.uint8)
        except OSError:
            continue
        small = _small(taken)
        first = small if first is None else first
        part = taken.shape[1] / small.shape[1]
        size = small.shape[1], small.shape[0]
        meant = np.asarray(cv2.resize(picture_of(program, number - 1, size[0]), size), dtype=np.uint8)
        light, planned = spread(small), spread(meant)
        dark = bool(program.sun_altitude_deg[number - 1] < _DARK_DEG)
        # Stars and the sun go on from frame to frame: there each is held against what was rehearsed for its moment.
        goes_on = dark or _sun_stands_in(program, number - 1)
        off = shifted(meant if goes_on else first, small)
        start = starts.setdefault(goes_on, off)
        right, down = (None if a is None or b is None else (a - b) * part for a, b in zip(off, start, strict=True))
        found.append(
            FileSeen(
                number=number, shutter_s=says.get("shutter_s"), aperture=says.get("aperture"), iso=says.get("iso"),
                opened_s=says.get("opened_s"), automatic_white=None if "white" not in says else says["white"] == 0,
                wide_px=taken.shape[1], stops_off=stops_apart(meant, small),
                white=light.white, black=light.black, white_meant=planned.white, black_meant=planned.black,
                sharpness=sharpness(small), right_px=right,
                down_px=down, star_px=star_length_px(taken) if dark else None,
                same_as_before=told == before,
            )
        )  # fmt: skip
        before = told
    return found


def _sun_stands_in(program: Program, i: int) -> bool:
    """Whether the sun, or the glow where it has just gone or will come, is in the picture of a frame."""
    at = program.at_s[i : i + 1]
    x, y, before = place_in_picture(program, directions_of(program, "sun", at), at)
    within = all(-_ABOUT < float(one[0]) < 1 + _ABOUT for one in (x, y))
    return within and bool(before[0]) and float(program.sun_altitude_deg[i]) > _GLOWS_DEG


def sharpness(picture: Picture) -> float:
    """How much fine drawing a picture has: the variance of its Laplacian, over that of the picture.

    Source: S. Pertuz et al., Pattern Recognition 46 (2013), operator LAP4.
    """
    grey = cv2.GaussianBlur((picture @ LUMINANCE).astype(np.float32), (0, 0), 1.0)
    return float(cv2.Laplacian(grey, cv2.CV_32F).var() / max(float(grey.var()), 1e-6))


def star_length_px(picture: Picture) -> float | None:
    """How long the stars of a picture are drawn, in its pixels; None where there are too few to tell.

    The length of a line is √(12 (λ₁ − λ₂)) of the variances along and across it, so that what the lens spreads is not
    counted. A star has even sky all round it, which the edge of a ridge has not. Lamps and leaves are long, too, but
    where it shakes every star is: of the brightest points the quarter that is shortest is asked.
    """
    grey = (picture @ LUMINANCE).astype(np.float32)
    sky = cv2.medianBlur(np.asarray(np.clip(grey, 0, 255), dtype=np.uint8), 21).astype(np.float32)
    over = grey - sky
    noise = 1.4826 * float(np.median(np.abs(over - np.median(over))))
    bright = over > max(_OVER_NOISE * noise, 6.0)
    number, labels, stats, _ = cv2.connectedComponentsWithStats(bright.astype(np.uint8), connectivity=8)
    lengths: list[tuple[float, float]] = []
    if number > _TOO_MANY:
        return None
    for k in range(1, number):
        left, top, wide, high, area = (int(one) for one in stats[k])
        if not _LEAST_PX <= area <= _MOST_PX:
            continue
        box = np.s_[max(top - _ROUND, 0) : top + high + _ROUND, max(left - _ROUND, 0) : left + wide + _ROUND]
        here = labels[box] == k
        about = cv2.dilate(here.astype(np.uint8), np.ones((2 * _ROUND + 1, 2 * _ROUND + 1), np.uint8)).astype(bool)
        ring = grey[box][about & ~bright[box]]
        rows, columns = np.nonzero(here)
        weight = over[box][here]
        if ring.size < _LEAST_RING or np.ptp(np.percentile(ring, [10, 90])) > _EVEN * float(weight.max()):
            continue
        spreads = np.linalg.eigvalsh(np.cov(np.stack([columns, rows]), aweights=weight, ddof=0))
        lengths.append((float(weight.max()), float(np.sqrt(12 * max(spreads[1] - spreads[0], 0.0)))))
    if len(lengths) < _FEWEST:
        return None
    return float(np.quantile([length for _, length in sorted(lengths, reverse=True)[:40]], 0.25))


def _small(picture: Picture) -> Picture:
    part = min(1.0, _WIDE / picture.shape[1])
    return np.asarray(cv2.resize(picture, None, fx=part, fy=part, interpolation=cv2.INTER_AREA), dtype=np.uint8)
