"""Pictures cut out of pictures: crops by a matrix, pictures out of a sphere by a map. OpenCV does the resampling."""

import io
from functools import lru_cache
from math import ceil

import cv2
import numpy as np
from numpy.typing import NDArray
from PIL import Image

from revani.core.program.afterwards import CropWay, SphereWay
from revani.core.quantities.arrays import Array
from revani.core.reframe.sphere import out_of, ray_of

Picture = NDArray[np.uint8]
Floats = NDArray[np.float32]


def scaled_matrix(matrix: Array, from_px: tuple[int, int], planned_px: tuple[int, int], part: float) -> Array:
    """The matrix (2, 3) of a crop for a picture of another size than was planned, and an output so many times as large.

    Pixel centres lie on whole numbers, so that a picture of twice the size has them half a pixel aside.
    """
    sx, sy = from_px[0] / planned_px[0], from_px[1] / planned_px[1]
    shrunk = np.asarray(matrix, dtype=np.float64).copy()
    # Out: a pixel of the smaller output stands for 1/part of the planned one.
    shrunk[:, 2] += shrunk[:, :2] @ np.full(2, 0.5 / part - 0.5)
    shrunk[:, :2] /= part
    shrunk[:, 2] = (shrunk[:, 2] + 0.5) * [sx, sy] - 0.5
    shrunk[:, :2] *= np.array([[sx], [sy]])
    return shrunk


def cut(picture: Picture, way: CropWay, j: int, width: int, height: int) -> Picture:
    """The frame of a crop at film frame j, out of a picture of any size; what lies outside is black."""
    part = width / way.output.pixels_wide
    size = (picture.shape[1], picture.shape[0])
    matrix = scaled_matrix(way.matrix(j), size, way.source_px, part)
    scale = float(np.hypot(matrix[0, 0], matrix[1, 0]))
    # What is made smaller is sampled as finely as the source is, then averaged, so that fine things do not flicker.
    finer = max(ceil(scale - 1e-6), 1)
    if finer > 1:
        matrix = scaled_matrix(way.matrix(j), size, way.source_px, part * finer)
    how = cv2.INTER_LINEAR if finer > 1 else cv2.INTER_CUBIC
    fine = cv2.warpAffine(picture, matrix, (width * finer, height * finer), flags=how | cv2.WARP_INVERSE_MAP)
    if finer > 1:
        fine = cv2.resize(fine, (width, height), interpolation=cv2.INTER_AREA)
    return np.asarray(fine, dtype=np.uint8)


def looked(sphere: Picture, way: SphereWay, j: int, width: int, height: int) -> Picture:
    """The picture of film frame j out of an unrolled sphere of any size."""
    view, curve = round(float(way.view_deg[j]), 6), round(float(way.curve[j]), 6)
    turned = way.turned(j)
    x, y = _places(width, height, view, curve, turned)
    high, wide = sphere.shape[:2]
    columns = (x * np.float32(wide / (2 * np.pi)) + np.float32(wide / 2 - 0.5)) % np.float32(wide)
    rows = np.float32(high / 2 - 0.5) - y * np.float32(high / np.pi)
    # One column more on the right, so that nothing tears where the sphere is cut open.
    wrapped = cv2.copyMakeBorder(sphere, 0, 0, 0, 1, cv2.BORDER_WRAP)
    seen = cv2.remap(wrapped, columns, rows, cv2.INTER_LINEAR, borderMode=cv2.BORDER_REPLICATE)
    return np.asarray(seen, dtype=np.uint8)


# Longitude and latitude bend so little over so many pixels that between them a straight way is right to 0.03 px; not
# around a pole.
_EVERY = 8
_POLE_DEG = 80.0


def _places(width: int, height: int, view_deg: float, curve: float, turned: Array) -> tuple[Floats, Floats]:
    """Longitude and latitude (height, width) of every pixel, radians; longitudes may go on over half a turn."""
    towards = _towards(width, height, view_deg, curve, _EVERY)
    middle = turned[2]
    reach = np.degrees(np.arccos(np.clip(towards[0, 0, 2], -1, 1)))
    every = _EVERY if np.degrees(np.arcsin(np.clip(abs(middle[1]), 0, 1))) + reach < _POLE_DEG else 1
    if every == 1:
        towards = _towards(width, height, view_deg, curve, 1)
    seen = towards @ turned.astype(np.float32)
    # Counted from where it looks, so that nothing jumps within the picture.
    around = float(np.arctan2(middle[0], middle[2]))
    sin, cos = np.float32(np.sin(around)), np.float32(np.cos(around))
    ahead, aside = seen[..., 2] * cos + seen[..., 0] * sin, seen[..., 0] * cos - seen[..., 2] * sin
    lon = np.arctan2(aside, ahead) + np.float32(around)
    lat = np.arcsin(np.clip(seen[..., 1], -1, 1))
    if every == 1:
        return lon, lat
    size = (lon.shape[1] * every, lon.shape[0] * every)
    inside = (slice(every, every + height), slice(every, every + width))
    return cv2.resize(lon, size)[inside], cv2.resize(lat, size)[inside]  # type: ignore[return-value]


@lru_cache(maxsize=6)
def _towards(width: int, height: int, view_deg: float, curve: float, every: int) -> Floats:
    """Where pixels look, every one, or the middles of squares of so many with a square more on each side."""
    unit = 2 * float(out_of(np.radians(view_deg) / 2, curve)) / width
    more = 0 if every == 1 else 1
    columns, rows = (np.arange(-more, -(-side // every) + more) for side in (width, height))
    x = ((columns + 0.5) * every - width / 2) * unit
    y = (height / 2 - (rows + 0.5) * every) * unit
    return ray_of(x[None, :], y[:, None], curve).astype(np.float32)


def framed(picture: Picture, way: CropWay | SphereWay, j: int, width: int, height: int) -> Picture:
    """What film frame j of an output shows of a picture of its shot."""
    shown = cut(picture, way, j, width, height) if isinstance(way, CropWay) else looked(picture, way, j, width, height)
    return np.asarray(shown, dtype=np.uint8)


def as_jpeg(picture: Picture, quality: int = 88) -> bytes:
    """A picture as JPEG."""
    out = io.BytesIO()
    Image.fromarray(picture).save(out, "JPEG", quality=quality)
    return out.getvalue()
