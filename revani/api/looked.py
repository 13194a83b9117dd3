"""A picture as on a light table, whoever made it: how its light is spread, what is white, a piece of it at 1:1."""

from collections.abc import Callable
from typing import Annotated, Any, Protocol

import cv2
import numpy as np
from fastapi import APIRouter, Depends, Query
from fastapi.responses import Response
from numpy.typing import NDArray
from pydantic import BaseModel, Field

from revani.api.deps import Costly
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


class Lookable(Protocol):
    """A picture that is looked at: its pixels, where the level horizon lies in it, a piece of it for the loupe."""

    def picture(self) -> Picture:
        """Its pixels, red first."""
        ...

    def horizon(self) -> list[tuple[float, float]]:
        """Points of the level horizon in parts of the picture; none where that cannot be told."""
        ...

    def piece(self, across: float, down: float) -> Picture:
        """What a loupe shows that is held there, parts of the picture."""
        ...


def offer_looks(router: APIRouter, path: str, found: Callable[..., Any]) -> None:
    """Add the routes by which a picture is looked at, below a path; `found` is the dependency that gives it."""

    @router.get(f"{path}/looked", dependencies=[Costly])
    def look_at(shown: Annotated[Lookable, Depends(found)]) -> LookedAt:
        """How the light of a picture is spread, and where the level horizon lies in it."""
        light = spread(shown.picture())
        points = [list(point) for point in shown.horizon()]
        return LookedAt(shares=list(light.shares), white=light.white, black=light.black, horizon=points)

    @router.get(f"{path}/zebra", response_class=Response, dependencies=[Costly])
    def zebra(shown: Annotated[Lookable, Depends(found)]) -> Response:
        """Stripes over what is white, as PNG to be laid over the picture."""
        return as_png(striped(shown.picture()))

    @router.get(f"{path}/loupe", response_class=Response, dependencies=[Costly])
    def loupe(shown: Annotated[Lookable, Depends(found)], across: Across, down: Down) -> Response:
        """A piece of the picture in its own pixels."""
        return as_png(shown.piece(across, down))


def under_loupe(wide: int, high: int, across: float, down: float) -> Piece:
    """The piece of a picture of so many pixels that a loupe shows; it stays within the picture."""
    width, height = min(LOUPE_WIDE, wide), min(LOUPE_HIGH, high)
    left = int(np.clip(round(across * wide - width / 2), 0, wide - width))
    top = int(np.clip(round(down * high - height / 2), 0, high - height))
    return Piece(left, top, width, height)


def cut_out(picture: Picture, across: float, down: float) -> Picture:
    """The piece of a picture that a loupe shows, its own pixels."""
    piece = under_loupe(picture.shape[1], picture.shape[0], across, down)
    return picture[piece.top : piece.top + piece.height, piece.left : piece.left + piece.width]


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
