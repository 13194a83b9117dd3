"""A shot to begin with, where there is none like it."""

from collections.abc import Sequence
from datetime import datetime
from typing import TypeVar
from zoneinfo import ZoneInfo

from revani.core.documents import Body, Card, Gear, Kit, Lens, Light, Place, Shot, SunStart
from revani.core.documents.timing import Timing
from revani.core.edit.fitting import compile_fitted
from revani.core.quantities.refusal import Refusal

# Where grain of most bodies begins to be seen (common practice, no source).
_CEILING = 3_200

G = TypeVar("G", bound=Gear)


def begun_with(gear: Sequence[Gear], places: Sequence[Place], now_s: float) -> Shot:
    """Sunset tonight at the first place, with the first body, lens and card: 10 s of film, a frame every 10 s.

    Brought to what that gear and that night have. Raises Refusal("kit") or ("place") where something is missing.
    """
    missing = [word for kind, word in ((Body, "body"), (Lens, "lens"), (Card, "card")) if not _first(gear, kind)]
    if missing:
        them = "it" if len(missing) == 1 else "them"
        raise Refusal("kit", f"A shot needs a {', a '.join(missing)}: add {them} under Kit.")
    if not places:
        raise Refusal("place", "A shot needs a place: add one under Places.")
    body, lens, card = _first(gear, Body), _first(gear, Lens), _first(gear, Card)
    assert body and lens and card
    place = places[0]
    shot = Shot(
        name="New shot",
        date=datetime.fromtimestamp(now_s, ZoneInfo(place.time_zone)).date(),
        start=SunStart(event="sunset", offset_s=-1800),
        timing=Timing.model_validate({"fps": "30", "interval_s": 10, "playback_s": 10}),
        light=Light(
            aperture=lens.aperture_widest,
            shutter_s=5,
            iso=body.iso_min,
            iso_ceiling=max(body.iso_min, min(body.iso_max, _CEILING)),
        ),
        kit=Kit(body=body, lens=lens, card=card),
        place=place,
    )
    return compile_fitted(shot).shot


def _first(gear: Sequence[Gear], kind: type[G]) -> G | None:
    return next((one for one in gear if isinstance(one, kind)), None)
