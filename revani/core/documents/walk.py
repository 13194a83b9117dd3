"""A walk with the camera: its path, how it becomes a film, what it looks at, and who carries it how."""

from fractions import Fraction
from itertools import pairwise
from typing import Literal, Self

from pydantic import Field, field_validator, model_validator

from revani.core.documents.base import Document, Name
from revani.core.quantities.measures import Angle, Degrees, Distance, Part, Room, Seconds, Speed
from revani.core.quantities.units import Exact

Way = Literal["filmed and sped up", "stills by stations"]
Support = Literal["held", "on a stick", "on the chest", "in the backpack", "on a vehicle"]
Towards = Literal["a thing", "a direction", "the way ahead"]
WalkQuantity = Literal["length_m", "factor", "film_s"]
MOST_POINTS = 500
# Nearer to each other than this, two points are one.
LEAST_LEG_MM = 10.0


class PathPoint(Document):
    """A point of the path, from above: mm to the right of where it begins, mm ahead, as things stand on the table."""

    x_mm: Room = Field(title="To the right", ge=-1e7, le=1e7)
    y_mm: Room = Field(title="Ahead", ge=-1e7, le=1e7)


class Walk(Document):
    """How the camera is walked along a path.

    A walk that is filmed takes as long as the shot's event; its film is sped up by the factor between a head and a
    tail that play as they were. By stations, each frame of the shot is a still that is taken standing.
    """

    way: Way = Field("filmed and sped up", title="Way")
    points: tuple[PathPoint, ...] = Field(min_length=2, max_length=MOST_POINTS)
    pace_m_s: Speed = Field(1.2, title="Pace", gt=0, le=60)
    factor: Exact = Field(Fraction(16), title="Sped up", ge=1, le=1_000)
    free: WalkQuantity = Field("film_s", description="What follows from the other two.")
    head_s: Seconds = Field(Fraction(1), title="As it was, at the beginning", ge=0, le=3_600)
    tail_s: Seconds = Field(Fraction(1), title="As it was, at the end", ge=0, le=3_600)
    settle_s: Seconds = Field(Fraction(3, 2), title="Settling at a station", ge=0, le=3_600)
    towards: Towards = Field("the way ahead", title="Looks at")
    thing: Name | None = Field(None, description="On the move table, where it looks at a thing.")
    direction_deg: Angle = Field(0.0, title="Direction", ge=0, lt=360, description="Azimuth, where it looks at one.")
    across: Part = Field(0.5, title="Kept across", ge=0, le=1)
    down: Part = Field(0.5, title="Kept down", ge=0, le=1)
    hand_deg: Degrees = Field(1.0, title="Hands are off by", ge=0, le=20)
    roll_deg: Degrees = Field(1.0, title="Hands roll by", ge=0, le=45)
    support: Support = Field("held", title="Carried")
    stick_m: Distance = Field(0.9, title="Length of the stick", ge=0.1, le=10)

    @field_validator("points")
    @classmethod
    def _apart(cls, points: tuple[PathPoint, ...]) -> tuple[PathPoint, ...]:
        for i, (a, b) in enumerate(pairwise(points), 2):
            if max(abs(a.x_mm - b.x_mm), abs(a.y_mm - b.y_mm)) < LEAST_LEG_MM:
                raise ValueError(f"Each point is somewhere else than the one before it; point {i} is not.")
        return points

    @model_validator(mode="after")
    def _aimed(self) -> Self:
        if self.towards == "a thing" and self.thing is None:
            raise ValueError("Which thing it looks at is needed.")
        return self

    @property
    def filmed(self) -> bool:
        """Whether it is filmed as one walks, and sped up afterwards."""
        return self.way == "filmed and sped up"
