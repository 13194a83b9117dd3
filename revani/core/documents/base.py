"""What all documents share."""

from collections.abc import Mapping
from dataclasses import dataclass
from datetime import date
from typing import Annotated, ClassVar, Literal, get_args
from uuid import UUID, uuid4

from pydantic import BaseModel, ConfigDict, Field, field_validator

Name = Annotated[str, Field(min_length=1, max_length=80, pattern=r"\S")]
# The steps of the job that a shot is planned in, in their order.
Step = Literal["time", "light", "move", "feed", "after"]
STEPS: tuple[Step, ...] = get_args(Step)
# The years that the ephemeris covers whole.
FIRST_YEAR, LAST_YEAR = 1900, 2050


class Document(BaseModel):
    """What all documents share: frozen, no unknown fields, no NaN."""

    # Built when it is first used: a small question needs few of them.
    model_config = ConfigDict(frozen=True, extra="forbid", allow_inf_nan=False, defer_build=True)

    @field_validator("*")
    @classmethod
    def _storable(cls, value: object) -> object:
        # PostgreSQL cannot keep it, and nobody types it on purpose.
        if isinstance(value, str) and "\x00" in value:
            raise ValueError("A text without the character NUL is needed.")
        return value


@dataclass(frozen=True)
class KindWords:
    """What a kind of record is called where they are listed: all of them, the way to add one, and why one should."""

    title: str
    add: str
    empty: str


class Record(Document):
    """What is kept by itself, under a name, and edited in a form that is derived from it.

    A value's title is its label, its description what one should know of it; its type says how it is counted.
    """

    said_of: ClassVar[KindWords]

    id: UUID = Field(default_factory=uuid4)
    name: Name = Field(title="Name")
    note: str = Field("", title="Note", max_length=2_000)

    def in_short(self, words: Mapping[str, str]) -> str:
        """Its chief figures, beside its name; `words` has its values as they are shown, by path."""
        del words
        return ""


class Measured(Document):
    """What a figure of a piece of gear was found to be, over so many runs; it stands beside the nominal one."""

    figure: str = Field(min_length=1, max_length=60, description="The name of the value, such as battery_wh.")
    value: float
    on: date
    runs: int = Field(ge=1, le=100_000)


class Gear(Record):
    """Anything owned that is carried to a shot."""

    measured: tuple[Measured, ...] = Field((), max_length=100)

    @field_validator("measured")
    @classmethod
    def _of_its_own(cls, rows: tuple[Measured, ...]) -> tuple[Measured, ...]:
        for row in rows:
            if row.figure not in cls.model_fields or row.figure in ("id", "name", "note", "kind", "measured"):
                raise ValueError(f"“{row.figure}” is no figure of it.")
        if len({row.figure for row in rows}) < len(rows):
            raise ValueError("Each figure stands there once, as it was measured last.")
        return rows


def build_documents() -> None:
    """Build all models of documents now, for a process that will need them all."""
    waiting = [Document]
    while waiting:
        model = waiting.pop()
        model.model_config["defer_build"] = False
        model.model_rebuild()
        waiting += model.__subclasses__()
