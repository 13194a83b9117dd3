"""All ways of a shot, those that can be compared and those that fit it no more."""

from typing import NamedTuple

from revani.core.documents import Shot
from revani.core.quantities.refusal import Refusal
from revani.core.ways.kept import way_shot
from revani.core.ways.measured import Measured, measured

AS_IT_IS = "As it is"


class Together(NamedTuple):
    """The ways that can be compared, the shot as it is first; and the others by their names, with why not."""

    ways: tuple[Measured, ...]
    refused: tuple[tuple[str, Refusal], ...]


def together(shot: Shot) -> Together:
    """The ways of a shot. Raises Refusal where the shot itself cannot be planned, or nothing would be taken."""
    ways = [_filmed(AS_IT_IS, shot.model_copy(update={"ways": ()}))]
    refused = []
    for way in shot.ways:
        try:
            ways.append(_filmed(way.name, way_shot(shot, way)))
        except Refusal as refusal:
            refused.append((way.name, refusal))
    return Together(tuple(ways), tuple(refused))


def _filmed(name: str, shot: Shot) -> Measured:
    way = measured(name, shot)
    if not len(way.film.frames):
        raise Refusal("shot", f"“{name}”: no frame would be taken, so there is nothing to compare.")
    return way
