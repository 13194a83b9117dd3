"""Memory cards: what fits, what is kept free, and into how many files a recording falls."""

from fractions import Fraction
from math import ceil

from revani.core.documents import Card, Mode

RESERVE = Fraction(1, 10)
# The longest file of FAT32: 2³² − 1 bytes (Microsoft, FAT32 File System Specification).
FAT32_BYTES = 4_294_967_295
# What a class printed on a card promises it writes at least, MB/s (SD Association, speed classes).
CLASS_MB_S = {
    "C2": 2, "C4": 4, "C6": 6, "C10": 10, "U1": 10, "U3": 30, "V6": 6, "V10": 10, "V30": 30, "V60": 60, "V90": 90,
}  # fmt: skip
# The last name that a body's counter gives; then it begins anew (DCF, JEITA CP-3461).
LAST_NUMBER = 9_999


def capacity_bytes(capacity_gb: Fraction | float) -> int:
    """Bytes on a card sold as `capacity_gb` decimal gigabytes."""
    return int(capacity_gb * 1_000_000_000)


def frames_that_fit(bytes_per_frame: int, capacity_gb: Fraction | float, reserve: Fraction = Fraction(0)) -> int:
    """Whole frames that a card takes when `reserve`, a fraction of it, stays free."""
    return int(capacity_bytes(capacity_gb) * (1 - reserve)) // bytes_per_frame


def chapter_duration_s(bitrate_mbps: Fraction, chapter_bytes: int) -> Fraction:
    """How long one file of a recording lasts when the file system or the body ends it at a size."""
    return Fraction(chapter_bytes * 8) / (bitrate_mbps * 1_000_000)


def chapter_bytes(card: Card, mode: Mode) -> int | None:
    """At what size a file of a recording ends: by the mode, or by the card's file system; None where it does not."""
    own = None if mode.chapter_gb is None else int(mode.chapter_gb * 1_000_000_000)
    limits = [one for one in (own, FAT32_BYTES if card.file_system == "FAT32" else None) if one is not None]
    return min(limits, default=None)


def promised_mb_s(card: Card) -> float:
    """What a card is sure to write, MB/s: the class printed on it, or the owner's own figure where none is."""
    return float(min(card.write_mb_s, CLASS_MB_S.get(card.speed_class, card.write_mb_s)))


def wraps_at(next_number: int | None, frame_count: int) -> int | None:
    """How many frames come before the counter begins anew; None where it does not within the shot."""
    if next_number is None:
        return None
    before = LAST_NUMBER - next_number + 1
    return before if frame_count > before else None


def offload_s(size_bytes: float, reads_mb_s: float) -> float:
    """How long a copy takes, read back once to be compared: twice the reading."""
    return 2 * size_bytes / (reads_mb_s * 1e6)


def chapter_count(duration_s: Fraction, one_chapter_s: Fraction) -> int:
    """Into how many files a recording falls."""
    return max(1, ceil(duration_s / one_chapter_s))
