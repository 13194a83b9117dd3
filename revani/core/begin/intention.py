"""What one wants to film: what moves in the picture, where, when, with what, for what."""

from datetime import date
from fractions import Fraction
from typing import Literal, get_args

from pydantic import Field

from revani.core.documents import Document, Kit, Place
from revani.core.documents.take import Use
from revani.core.quantities.measures import Angle
from revani.core.quantities.units import Exact

Moves = Literal[
    "light that goes or comes", "day into night into day", "stars, as points", "stars, as trails", "clouds",
    "water and tide", "people, traffic", "something made or grown", "a pass along something", "me, talking",
    "a walk", "too fast to see",
]  # fmt: skip
MOVES: tuple[Moves, ...] = get_args(Moves)

# How long a film is where nothing else is said, seconds (common practice, no source).
FILM_S: dict[Use, int] = {
    "for oneself": 20,
    "part of a longer film": 8,
    "a feed": 15,
    "an upright reel": 15,
    "a talk": 120,
}


class Intention(Document):
    """What one wants to film. What is left out is decided by the rules, and told.

    `of` names what it is about; `towards_deg` is where that stands, clockwise from north; `comes` tells a morning from
    an evening; `now` begins at once.
    """

    moves: Moves
    of: str = Field("", max_length=80)
    place: Place
    day: date
    now_s: float | None = Field(None, description="Begin at this instant, seconds since 1970 UTC.")
    comes: bool = False
    kit: Kit
    film_s: Exact | None = Field(None, gt=0, le=36_000)
    use: Use = "for oneself"
    towards_deg: Angle | None = Field(None, ge=0, lt=360)

    @property
    def wanted_s(self) -> Fraction:
        """How long a film is wanted."""
        return self.film_s if self.film_s is not None else Fraction(FILM_S[self.use])
