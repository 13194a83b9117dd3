"""Code cards as QR (ISO/IEC 18004): written by segno, with the quiet border that a reader wants."""

import io

import segno

# The border that the standard asks for, modules.
_BORDER = 4


def code_svg(text: str) -> str:
    """A QR code as one SVG, black on white."""
    out = io.BytesIO()
    _made(text).save(out, kind="svg", border=_BORDER, xmldecl=False, svgns=True, omitsize=True, light="white")
    return out.getvalue().decode()


def code_png(text: str, scale: int = 8) -> bytes:
    """A QR code as PNG, `scale` pixels a module."""
    out = io.BytesIO()
    _made(text).save(out, kind="png", border=_BORDER, scale=scale)
    return out.getvalue()


def modules(text: str) -> int:
    """How many modules a side a code has, its border with it."""
    return int(_made(text).symbol_size(border=_BORDER)[0])


def _made(text: str) -> segno.QRCode:
    # A seventh of it may be lost to creases and wet; more would want smaller modules.
    return segno.make(text, error="m", micro=False, boost_error=False)
