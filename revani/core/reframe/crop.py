"""Moves made afterwards by cropping: how much room and resolution there is."""

from fractions import Fraction
from typing import NamedTuple


class Crop(NamedTuple):
    """A crop of the output's shape; exact, in pixels of the source."""

    width_px: Fraction
    height_px: Fraction
    max_lossless_zoom: Fraction
    pan_room_each_side: Fraction
    upscale: Fraction


def crop(source_w: int, source_h: int, output_w: int, output_h: int, zoom: Fraction) -> Crop:
    """The crop at a zoom, 1 being the largest of the output's shape that the source holds.

    Lossless as long as it has the output's pixels; `pan_room_each_side` is a fraction of the
    source's width, `upscale` how far the crop must be enlarged (1 or less: not at all).
    """
    scale = min(Fraction(source_w, output_w), Fraction(source_h, output_h))
    width, height = output_w * scale / zoom, output_h * scale / zoom
    return Crop(width, height, scale, (1 - width / source_w) / 2, zoom / scale)
