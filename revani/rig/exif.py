"""What the file of a frame says of itself. Source: Exif 2.3 (CIPA DC-008)."""

import io
from contextlib import suppress
from datetime import datetime

from PIL import ExifTags, Image, UnidentifiedImageError

_TAGS: dict[str, int] = {name: number for number, name in ExifTags.TAGS.items()}
_NAMES = {"shutter_s": "ExposureTime", "aperture": "FNumber", "iso": "ISOSpeedRatings", "white": "WhiteBalance"}
SETTINGS = ("shutter_s", "aperture", "iso")


def said_by(file: Image.Image) -> dict[str, float]:
    """`shutter_s`, `aperture`, `iso`, `white` (1: chosen by hand) and `opened_s`; what it does not say is not there."""
    inside = file.getexif().get_ifd(ExifTags.IFD.Exif)
    found = {name: float(inside[tag]) for name, one in _NAMES.items() if (tag := _TAGS[one]) in inside}
    stamp, part, offset = (
        str(inside.get(_TAGS[one], usual))
        for one, usual in (("DateTimeOriginal", ""), ("SubsecTimeOriginal", "0"), ("OffsetTimeOriginal", "+00:00"))
    )
    with suppress(ValueError):
        at = datetime.strptime(f"{stamp} {offset}", "%Y:%m:%d %H:%M:%S %z")
        found["opened_s"] = at.timestamp() + float(f"0.{part.strip() or 0}")
    return found


def settings_in(beginning: bytes) -> dict[str, float]:
    """Shutter, aperture and ISO by the beginning of a file; nothing of one that is not read, such as many raw ones."""
    with suppress(UnidentifiedImageError, OSError, ValueError, SyntaxError), Image.open(io.BytesIO(beginning)) as file:
        found = said_by(file)
        return {name: found[name] for name in SETTINGS if found.get(name, 0) > 0}
    return {}
