"""The film of a shot on one page: pictures all through it, each with its frame, its hour and its settings."""

import io

from PIL import Image, ImageDraw, ImageFont

from revani.core.light.dials import marked_aperture, marked_iso, show_shutter
from revani.core.picture.planned import picture_of
from revani.core.quantities.units import duration
from revani.core.rehearsal.practice import Practised
from revani.core.rehearsal.strip import cells

_ACROSS, _TILE, _GAP, _LINE = 6, 320, 12, 22
_GROUND, _INK, _SOFT = (20, 22, 30), (243, 233, 210), (160, 154, 140)


def contact_sheet(rehearsal: Practised) -> bytes:
    """Up to 24 pictures as PNG; a frame that would not be taken is an empty field that says so."""
    program, taken = rehearsal.program, rehearsal.taken
    shot = program.shot
    _, shown = cells(program)
    height = round(_TILE * shot.body.pixels_high / shot.body.pixels_wide)
    rows = -(-len(shown) // _ACROSS)
    step = height + 2 * _LINE + _GAP
    size = _ACROSS * (_TILE + _GAP) + _GAP, rows * step + 2 * _LINE + 2 * _GAP
    page = Image.new("RGB", size, _GROUND)
    draw = ImageDraw.Draw(page)
    large, small = ImageFont.load_default(20), ImageFont.load_default(15)
    begins = program.local(program.start_s)
    title = f"{shot.name}, {begins:%a %-d %b %Y}: {duration(program.film_length_s)} of film"
    draw.text((_GAP, _GAP), title, fill=_INK, font=large)
    for n, i in enumerate(shown.tolist()):
        left, top = _GAP + n % _ACROSS * (_TILE + _GAP), 2 * _LINE + _GAP + n // _ACROSS * step
        if taken[i]:
            shown_there = picture_of(program, i, _TILE, int(rehearsal.posed_at(i)))[:height]
            page.paste(Image.fromarray(shown_there), (left, top))
        else:
            draw.rectangle((left, top, left + _TILE, top + height), outline=_SOFT)
            draw.text((left + 8, top + 8), "not taken", fill=_SOFT, font=small)
        got, local = program.exposures, program.local(float(program.at_s[i]))
        draw.text((left, top + height + 3), f"{i + 1:,}  {local:%H:%M:%S}", fill=_INK, font=small)
        dials = (
            f"{show_shutter(float(got.shutter_s[i]))}  f/{marked_aperture(float(got.aperture[i])):g}  "
            f"ISO {marked_iso(float(got.iso[i])):,}"
        )
        draw.text((left, top + height + 3 + _LINE), dials, fill=_SOFT, font=small)
    out = io.BytesIO()
    page.save(out, "PNG")
    return out.getvalue()
