"""Memory cards: what fits, what is kept free, and into how many files a recording falls."""

from fractions import Fraction
from math import ceil

RESERVE = Fraction(1, 10)


def capacity_bytes(capacity_gb: Fraction | float) -> int:
    """Bytes on a card sold as `capacity_gb` decimal gigabytes."""
    return int(capacity_gb * 1_000_000_000)


def frames_that_fit(bytes_per_frame: int, capacity_gb: Fraction | float, reserve: Fraction = Fraction(0)) -> int:
    """Whole frames that a card takes when `reserve`, a fraction of it, stays free."""
    return int(capacity_bytes(capacity_gb) * (1 - reserve)) // bytes_per_frame


def chapter_duration_s(bitrate_mbps: Fraction, chapter_bytes: int) -> Fraction:
    """How long one file of a recording lasts when the file system or the body ends it at a size."""
    return Fraction(chapter_bytes * 8) / (bitrate_mbps * 1_000_000)


def chapter_count(duration_s: Fraction, one_chapter_s: Fraction) -> int:
    """Into how many files a recording falls."""
    return max(1, ceil(duration_s / one_chapter_s))
