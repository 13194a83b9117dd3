"""What goes by, or is held, before the simulated camera's lens: in its live picture alone."""

import io
import time
from typing import NamedTuple

import segno
from PIL import Image, ImageDraw

# So much of the picture's height something that passes is high, and so much of its width it is wide.
_HIGH, _WIDE = 0.3, 0.2
_QUALITY = 88


class Passing(NamedTuple):
    """Something that passes, or a card with a word, from a moment on for so many real seconds."""

    word: str | None
    since_s: float
    seconds: float

    def gone_by(self) -> float | None:
        """How far it has come, 0 to 1; None where it is gone."""
        part = (time.monotonic() - self.since_s) / max(self.seconds, 1e-3)
        return part if part < 1 else None


def passing_before(content: bytes, passing: Passing, gone: float) -> bytes:
    """A JPEG with what passes before it."""
    with Image.open(io.BytesIO(content)) as opened:
        picture = opened.convert("RGB")
    wide, high = picture.size
    if passing.word is None:
        left, top = gone * (1 + _WIDE) * wide - _WIDE * wide, (1 - _HIGH) * high * 0.8
        ImageDraw.Draw(picture).rectangle((left, top, left + _WIDE * wide, top + _HIGH * high), fill=(4, 4, 4))
    else:
        side = round(0.7 * min(wide, high))
        drawn = io.BytesIO()
        segno.make(passing.word, micro=False).save(drawn, kind="png", border=4)
        with Image.open(drawn) as card:
            held = card.convert("RGB").resize((side, side), Image.Resampling.NEAREST)
        picture.paste(held, ((wide - side) // 2, (high - side) // 2))
    out = io.BytesIO()
    picture.save(out, "JPEG", quality=_QUALITY)
    return out.getvalue()
