"""A film made of shots: which, from where to where, in which order, and what the whole is for."""

from fractions import Fraction
from typing import Literal, Self
from uuid import UUID

from pydantic import Field, model_validator

from revani.core.documents.base import Document, Name, Record
from revani.core.documents.take import Use
from revani.core.quantities.measures import Seconds, Speed
from revani.core.quantities.units import Rate

Join = Literal["a plain cut", "same position", "same action", "continued push"]
View = Literal["wide", "middle", "close"]
Shape = Literal["16:9", "9:16", "4:3", "3:2", "1:1", "21:9"]
MOST_CUTS = 200


class Cut(Document):
    """One shot as it is cut: the part of its film that is used, and how it joins the one before.

    `name` is what the shot was called when it was put in, for one that is not there any more.
    """

    shot: UUID
    name: Name
    in_s: Seconds = Field(Fraction(0), title="From", ge=0, le=10**8, description="Of the shot's own film.")
    out_s: Seconds | None = Field(None, title="To", gt=0, le=10**8, description="Empty: to its end.")
    joins: Join = Field("a plain cut", title="Joins by")
    view: View | None = Field(None, title="View", description="Empty: told from how it is framed.")

    @model_validator(mode="after")
    def _forwards(self) -> Self:
        if self.out_s is not None and self.out_s <= self.in_s:
            raise ValueError("It ends after it begins.")
        return self


class ShotSequence(Record):
    """Ordered shots, what the film of them is for, and what a day of filming them takes."""

    format: Literal["revani.sequence/1"] = "revani.sequence/1"
    use: Use = Field("part of a longer film", title="The film is for")
    wanted_s: Seconds | None = Field(None, title="Wanted length", gt=0, le=10**6)
    shape: Shape = Field("16:9", title="Shape")
    fps: Rate = Field(Fraction(30), title="Rate", ge=1, le=240)
    cuts: tuple[Cut, ...] = Field((), max_length=MOST_CUTS)
    set_up_s: Seconds = Field(
        Fraction(1200), title="Time to set up", ge=0, le=86_400, description="Of one shot, until it runs."
    )
    pace_m_s: Speed = Field(1.2, title="Pace of the way", gt=0, le=60, description="Between places: 1.2 m/s on foot.")
