"""A meter reading as a person notes it: a clock time, and what the meter said."""

from datetime import date, datetime, timedelta
from zoneinfo import ZoneInfo

from revani.core.documents import Document, Reading, Shot
from revani.core.edit.fields.lightfields import read_aperture, read_shutter
from revani.core.light.scene import check_reading
from revani.core.quantities.refusal import Refusal
from revani.core.quantities.units import exact
from revani.core.timing.start import parse_clock


class ReadingNote(Document):
    """What is typed: settings that were right, or lux; `clock` on the place's clock, today if it has passed."""

    day: date | None = None
    clock: str
    aperture: str = ""
    shutter: str = ""
    iso: str = ""
    lux: str = ""
    by: str = ""


def noted(shot: Shot, note: ReadingNote, now_s: float) -> Shot:
    """The shot calibrated by a reading. Raises Refusal naming the field of the note that cannot be used."""
    zone = ZoneInfo(shot.place.time_zone)
    now = datetime.fromtimestamp(now_s, zone)
    clock = parse_clock(note.clock)
    day = note.day or now.date()
    at = datetime.combine(day, clock, zone)
    if note.day is None and at.timestamp() > now_s + 60:
        # A clock time that is still to come was yesterday's, when no day is given.
        at -= timedelta(days=1)
    settings = {
        "aperture": read_aperture(note.aperture) if note.aperture.strip() else None,
        "shutter_s": read_shutter(note.shutter) if note.shutter.strip() else None,
        "iso": _number(note.iso, "iso"),
        "illuminance_lx": _number(note.lux, "lux"),
    }
    if settings["illuminance_lx"] is None:
        for field in ("aperture", "shutter", "iso"):
            if not getattr(note, field).strip():
                raise Refusal(field, "Give aperture, shutter and ISO of the reading, or its lux.")
    reading = Reading.model_validate(settings | {"at_s": at.timestamp(), "cloud": shot.light.cloud, "by": note.by})
    light = shot.light.model_copy(update={"reading": reading})
    try:
        check_reading(light, now_s)
    except Refusal as refusal:
        raise Refusal("clock", refusal.allowed, note.clock) from None
    return shot.model_copy(update={"light": light})


def _number(text: str, path: str) -> float | None:
    clean = text.lower().removeprefix("iso").removesuffix("lx").replace(",", "").strip()
    if not clean:
        return None
    try:
        return float(exact(clean))
    except ValueError:
        raise Refusal(path, "Type a number.", text) from None
