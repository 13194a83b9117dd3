"""The code card in a picture, read by ZXing (ISO/IEC 18004)."""

import io

import zxingcpp
from PIL import Image, UnidentifiedImageError

from revani.core.quantities.refusal import Refusal

MOST_BYTES, _MOST_PX = 12_000_000, 6_000


def read_picture(content: bytes) -> str:
    """The text of the one code card in a picture. Raises Refusal("code") for none, several, or one that is blurred."""
    if len(content) > MOST_BYTES:
        raise Refusal("code", "The picture is too large: at most 12 MB.")
    try:
        with Image.open(io.BytesIO(content)) as picture:
            if max(picture.size) > _MOST_PX:
                raise Refusal("code", f"The picture is too large: at most {_MOST_PX:,} px a side.")
            grey = picture.convert("L")
    except (UnidentifiedImageError, OSError, ValueError, Image.DecompressionBombError):
        raise Refusal("code", "That is no picture.") from None
    found = [
        one
        for one in zxingcpp.read_barcodes(grey, formats=zxingcpp.BarcodeFormats(zxingcpp.BarcodeFormat.QRCode))
        if one.valid
    ]
    if not found:
        raise Refusal("code", "No code is read in this picture: nearer, sharper, and with its white border.")
    if len({one.text for one in found}) > 1:
        raise Refusal("code", "Several codes are in this picture: show one of them.")
    return str(found[0].text)
