"""A shot: what is planned, with all that is needed to compile it."""

from collections.abc import Iterable
from datetime import date
from datetime import date as Day
from fractions import Fraction
from math import pi
from typing import Literal, Self
from uuid import UUID, uuid4

from pydantic import Field, field_validator

from revani.core.documents.base import FIRST_YEAR, LAST_YEAR, Document, Name
from revani.core.documents.gear import Body, Usage
from revani.core.documents.kit import Kit
from revani.core.documents.light import Light, Pace
from revani.core.documents.mode import Fires, Keeps, Mode
from revani.core.documents.moment import Start
from revani.core.documents.move import Move, MoveKey, Thing
from revani.core.documents.output import MOST_OUTPUTS, FilmOutput
from revani.core.documents.place import Place
from revani.core.documents.take import Take
from revani.core.documents.timing import Timing
from revani.core.documents.trigger import Waiting
from revani.core.documents.walk import Walk
from revani.core.documents.way import MOST_WAYS, KeptWay
from revani.core.quantities.measures import Angle, Millimetres, Part


class Framing(Document):
    """Where the camera looks and how wide."""

    heading_deg: Angle = Field(270.0, title="Looks towards", ge=0, lt=360, description="Azimuth, clockwise from north.")
    tilt_deg: Angle = Field(8.0, title="Tilted up by", ge=-90, le=90, description="Up is positive.")
    focal_length_mm: Millimetres | None = Field(
        None, title="Focal length", ge=1, le=2_000, description="On a zoom; else the lens's shortest."
    )


class Shot(Document):
    """What is planned, with all that is needed to compile it."""

    format: Literal["revani.shot/1"] = "revani.shot/1"
    id: UUID = Field(default_factory=uuid4)
    name: Name
    date: date
    start: Start
    waits: Waiting | None = Field(None, description="What it waits for from its start on; None: it begins then.")
    until: Start | None = Field(None, title="End", description="When it ends, where its end hangs on that.")
    timing: Timing
    pace: Pace | None = Field(None, description="None: one interval throughout.")
    light: Light = Light.model_validate({})
    framing: Framing = Framing.model_validate({})
    move: Move | None = None
    walk: Walk | None = Field(None, description="The camera is carried along a path; no mover has keys then.")
    needs_dark: bool = Field(False, title="Stars", description="Stars or aurora: only the astronomical night counts.")
    moonlight_up_to: Part = Field(
        0.25,
        title="Moonlight that is let pass",
        ge=0,
        le=1,
        description="Lit part of the moon that may be up while stars are filmed.",
    )
    trails: bool = Field(
        False, title="Star trails", description="Star trails are wanted: stars may move within a frame."
    )
    fires: Fires = Field("linked", title="Who fires")
    keeps: Keeps = Field("raw", title="What is kept", description="Of each still.")
    mode: str = Field("", title="Mode", max_length=80, description="Of the body's table; empty: the first.")
    take: Take = Take.model_validate({})
    outputs: tuple[FilmOutput, ...] = Field(
        (), title="Outputs", max_length=MOST_OUTPUTS, description="What is made of it afterwards."
    )
    ways: tuple[KeptWay, ...] = Field(
        (), title="Ways", max_length=MOST_WAYS, description="The same shot done otherwise, to be compared."
    )
    kit: Kit
    place: Place
    note: str = Field("", max_length=10_000)

    @field_validator("outputs")
    @classmethod
    def _told_apart(cls, outputs: tuple[FilmOutput, ...]) -> tuple[FilmOutput, ...]:
        if len({one.name for one in outputs}) < len(outputs):
            raise ValueError("Each output needs a name of its own.")
        return outputs

    @field_validator("ways")
    @classmethod
    def _named_apart(cls, ways: tuple[KeptWay, ...]) -> tuple[KeptWay, ...]:
        if len({one.name for one in ways}) < len(ways):
            raise ValueError("Each way needs a name of its own.")
        return ways

    @field_validator("date")
    @classmethod
    def _in_the_ephemeris(cls, day: Day) -> Day:
        if not FIRST_YEAR <= day.year <= LAST_YEAR:
            raise ValueError(f"A date from {FIRST_YEAR} to {LAST_YEAR}, the years of the ephemeris.")
        return day

    def with_keys(self, keys: Iterable[MoveKey]) -> Self:
        """The same shot, its move with other keys."""
        move = self.move or Move.model_validate({})
        return self.model_copy(update={"move": move.model_copy(update={"keys": tuple(keys)})})

    def with_move(self, **change: object) -> Self:
        """The shot with other values of its move, which begins empty where there is none. Raises ValidationError."""
        move = Move.model_validate((self.move or Move.model_validate({})).model_dump() | change)
        return self.model_copy(update={"move": move})

    def with_take(self, **change: object) -> Self:
        """The shot with other decisions. Raises ValidationError."""
        return self.model_copy(update={"take": Take.model_validate(self.take.model_dump() | change)})

    def with_waits(self, **change: object) -> Self:
        """The shot with other values of what it waits for. Raises ValidationError."""
        assert self.waits is not None
        return self.model_copy(update={"waits": Waiting.model_validate(self.waits.model_dump() | change)})

    def with_outputs(self, outputs: Iterable[FilmOutput]) -> Self:
        """The same shot with other outputs. Raises ValidationError for too many."""
        return self.model_validate(dict(self) | {"outputs": tuple(outputs)})

    def with_walk(self, **change: object) -> Self:
        """The shot with other values of its walk. Raises ValidationError."""
        assert self.walk is not None
        return self.model_copy(update={"walk": Walk.model_validate(self.walk.model_dump() | change)})

    def with_light(self, **change: object) -> Self:
        """The shot with other values of its light. Raises ValidationError."""
        return self.model_copy(update={"light": Light.model_validate(self.light.model_dump() | change)})

    @property
    def things(self) -> tuple[Thing, ...]:
        """What stands on the move table."""
        return self.move.things if self.move else ()

    @property
    def subject(self) -> Thing | None:
        """The first subject on the table."""
        return next((one for one in self.things if one.role == "subject"), None)

    @property
    def live(self) -> bool:
        """Whether it is filmed at real speed rather than frame by frame."""
        return self.move is not None and self.move.kind == "live"

    @property
    def makes_film(self) -> bool:
        """Whether the body writes a film, at real speed or of its own making, rather than stills."""
        return self.live or self.fires == "own lapse film"

    @property
    def body(self) -> Body:
        """The body as it is used, in its mode: all that is computed of a shot is computed of it."""
        take = self.take
        lapse = not self.live and self.fires != "own lapse film"
        return self.kit.body.used(
            Usage(
                self.mode, self.keeps, take.stabilised, take.upright and self.recording.projection != "sphere",
                take.brackets if lapse else 1,
            )
        )  # fmt: skip

    @property
    def recording(self) -> Mode:
        """The mode that is used; the first, where the body has none of that name."""
        mode = self.kit.body.mode(self.mode) or self.kit.body.table[0]
        # A sphere is steadied and unrolled already; a picture is cut out of it afterwards.
        dewarped = self.take.dewarp and mode.projection != "sphere"
        return mode.model_copy(update={"projection": "straight"}) if dewarped else mode

    @property
    def held_times(self) -> Fraction:
        """How often the shutter's time is spent on one frame: twice with a dark frame after it, more with brackets."""
        if self.live:
            return Fraction(1)
        held = self.take.held_times if self.fires != "own lapse film" else Fraction(1)
        return held * (2 if self.light.noise_reduction else 1)

    @property
    def focal_length_mm(self) -> float:
        """The focal length that is used; of a sphere, that which makes a degree as wide everywhere along its middle."""
        if self.recording.projection == "sphere":
            return self.body.sensor_width_mm / (2 * pi)
        return self.framing.focal_length_mm or self.kit.lens.focal_length_min_mm
