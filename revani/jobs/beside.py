"""Rehearsed films of ways put beside each other, picture by picture, out of the films that are made of each."""

from collections.abc import Iterator
from pathlib import Path

import numpy as np
from PIL import Image, ImageDraw, ImageFont

from revani.core.ways.split import SplitFilm
from revani.jobs.encode import NotMade
from revani.jobs.resample import Picture
from revani.jobs.source import Clip, Unreadable
from revani.settings import settings

_BAR, _GAP = 28, 8
_GROUND, _INK, _SOFT = (20, 22, 30), (243, 233, 210), (160, 154, 140)


def film_file(id: str) -> Path:
    """Where a rehearsed film lies once it is whole."""
    return settings().rehearsed_dir / f"{id}.mp4"


def beside_each_other(film: SplitFilm, first: int, count: int) -> Iterator[Picture]:
    """Some of the pictures (RGB) of such a film, each side under its name. Raises NotMade."""
    page, corners = _page(film)
    clips: list[Clip] = []
    try:
        for side in film.sides:
            if not film_file(side.film).exists():
                raise NotMade(f"The film of “{side.name}” is not there: make it first.")
            clips.append(Clip(film_file(side.film)))
        for k in range(first, first + count):
            picture = page.copy()
            for side, clip, (left, top) in zip(film.sides, clips, corners, strict=True):
                at = int(side.frames[k])
                if at >= 0:
                    shown = clip.picture(at, (at + 0.5) / float(side.fps))[..., ::-1]
                    picture[top : top + shown.shape[0], left : left + shown.shape[1]] = shown
            yield picture
    except Unreadable as error:
        raise NotMade(str(error)) from error
    finally:
        for clip in clips:
            clip.close()


def _page(film: SplitFilm) -> tuple[Picture, list[tuple[int, int]]]:
    """What stands still in it: the sides' names, a field where nothing is shown; and where each picture lies."""
    across = len(film.sides) if len(film.sides) < 4 else 2
    wide, high = (max(side.size[k] for side in film.sides) for k in range(2))
    rows = -(-len(film.sides) // across)
    size = across * wide + (across - 1) * _GAP, rows * (_BAR + high) + (rows - 1) * _GAP
    page = Image.new("RGB", size, _GROUND)
    draw = ImageDraw.Draw(page)
    font = ImageFont.load_default(17)
    corners = []
    for n, side in enumerate(film.sides):
        left, top = n % across * (wide + _GAP), n // across * (_BAR + high + _GAP)
        draw.text((left + 8, top + 4), side.name, fill=_INK, font=font)
        draw.text((left + 8, top + _BAR + 8), "nothing is taken here", fill=_SOFT, font=font)
        corners.append((left, top + _BAR))
    return np.asarray(page, dtype=np.uint8), corners
