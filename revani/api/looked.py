"""A picture as on a light table, whoever made it: how its light is spread, what is white, a piece of it at 1:1."""

from typing import Annotated

import cv2
import numpy as np
from fastapi import Query
from fastapi.responses import Response
from numpy.typing import NDArray
from pydantic import BaseModel, Field

from revani.core.picture.looked_at import spread, striped
from revani.core.picture.raster import Piece
from revani.core.picture.skylight import Picture
from revani.store.records import NotThere

# What a loupe shows, pixels.
LOUPE_WIDE, LOUPE_HIGH = 320, 220

# Where a loupe is held, parts of the picture.
Across = Annotated[float, Query(ge=0, le=1)]
Down = Annotated[float, Query(ge=0, le=1)]


class LookedAt(BaseModel):
    """How the light of a picture is spread, and where the level horizon lies in it."""

    shares: list[float] = Field(description="Of the pixels by their brightness, from black to white.")
    white: float
    black: float
    horizon: list[list[float]] = Field(description="Points of it in parts of the picture.")


def looked_at(picture: Picture, horizon: list[tuple[float, float]]) -> LookedAt:
    """What is told of a picture."""
    light = spread(picture)
    points = [list(point) for point in horizon]
    return LookedAt(shares=list(light.shares), white=light.white, black=light.black, horizon=points)


def zebra(picture: Picture) -> Response:
    """Stripes over what is white, as PNG to be laid over the picture."""
    return as_png(striped(picture))


def under_loupe(wide: int, high: int, across: float, down: float) -> Piece:
    """The piece of a picture of so many pixels that a loupe shows; it stays within the picture."""
    width, height = min(LOUPE_WIDE, wide), min(LOUPE_HIGH, high)
    left = int(np.clip(round(across * wide - width / 2), 0, wide - width))
    top = int(np.clip(round(down * high - height / 2), 0, high - height))
    return Piece(left, top, width, height)


def loupe(picture: Picture, across: float, down: float) -> Response:
    """The piece of a picture that a loupe shows, its own pixels, as PNG."""
    high, wide = picture.shape[:2]
    piece = under_loupe(wide, high, across, down)
    return as_png(picture[piece.top : piece.top + piece.height, piece.left : piece.left + piece.width])


def as_png(pixels: NDArray[np.uint8]) -> Response:
    """A picture (h, w, 3 or 4), red first, as PNG."""
    order = cv2.COLOR_RGB2BGR if pixels.shape[2] == 3 else cv2.COLOR_RGBA2BGRA
    _, packed = cv2.imencode(".png", cv2.cvtColor(np.ascontiguousarray(pixels), order))
    return Response(packed.tobytes(), media_type="image/png", headers={"Cache-Control": "max-age=3600"})


def picture_in(content: bytes) -> Picture:
    """A picture out of its file, red first. Raises NotThere for what is none."""
    read = cv2.imdecode(np.frombuffer(content, dtype=np.uint8), cv2.IMREAD_COLOR)
    if read is None:
        raise NotThere("This is no picture that can be looked at here.")
    return np.asarray(cv2.cvtColor(read, cv2.COLOR_BGR2RGB), dtype=np.uint8)
