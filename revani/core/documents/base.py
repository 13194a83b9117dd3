"""What all documents share."""

from typing import Annotated
from uuid import UUID, uuid4

from pydantic import BaseModel, ConfigDict, Field, field_validator

Name = Annotated[str, Field(min_length=1, max_length=80, pattern=r"\S")]
# The years that the ephemeris covers whole.
FIRST_YEAR, LAST_YEAR = 1900, 2050


class Document(BaseModel):
    """What all documents share: frozen, no unknown fields, no NaN."""

    model_config = ConfigDict(frozen=True, extra="forbid", allow_inf_nan=False)

    @field_validator("*")
    @classmethod
    def _storable(cls, value: object) -> object:
        # PostgreSQL cannot keep it, and nobody types it on purpose.
        if isinstance(value, str) and "\x00" in value:
            raise ValueError("A text without the character NUL is needed.")
        return value


class Gear(Document):
    """Anything owned that is carried to a shot."""

    id: UUID = Field(default_factory=uuid4)
    name: Name
    note: str = Field("", max_length=2_000)
