"""Moves made afterwards by cropping: how much room and resolution there is."""

from fractions import Fraction
from math import cos, exp, inf, log, pi, radians, sin, tan
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


def roll_room(roll_deg: float, width: float, height: float) -> float:
    """The zoom that a picture needs to be rolled without black corners: cos θ + max(w/h, h/w) · sin |θ|."""
    angle = radians(abs(roll_deg))
    return cos(angle) + max(width / height, height / width) * sin(angle)


def hand_zoom(focal_px: float, pixels_wide: int, pixels_high: int, off_deg: float, roll_deg: float) -> float:
    """How much of the picture steadying takes, as a zoom: aim off to either side, up and down, and a roll.

    f · tan e each side, of the narrower way; the roll's own room beside it (geometry). Infinite where nothing is left.
    """
    shift = focal_px * tan(radians(off_deg))
    left = 1 - 2 * shift / min(pixels_wide, pixels_high)
    return inf if left <= 0 else roll_room(roll_deg, pixels_wide, pixels_high) / left


def push_rate_per_s(zoom_from: float, zoom_to: float, duration_s: float) -> float:
    """How fast a push-in that looks even goes: ln zoom a second; negative where it pulls out."""
    return log(zoom_to / zoom_from) / duration_s


def pushed_on(rate_per_s: float, seconds: float) -> float:
    """The zoom, from 1, of a push-in that goes on so long at a rate."""
    return exp(rate_per_s * seconds)


def sphere_px_per_deg(output_width_px: int, view_deg: float) -> float:
    """Pixels of the output for a degree in the middle of a straight picture cut out of a sphere."""
    return output_width_px / 2 / tan(radians(view_deg) / 2) * pi / 180
