"""Ways to do the same shot otherwise: a name, and what is other than in the shot itself."""

from typing import Any

from pydantic import Field

from revani.core.documents.base import Document, Name

# A shot keeps so many.
MOST_WAYS = 6


class WayChange(Document):
    """A value of the shot that is other: where it stands, by its path, and what it is."""

    path: str = Field(max_length=200, description="Such as light.iso_ceiling.")
    value: Any = None


class KeptWay(Document):
    """A shot done otherwise; it keeps up with the shot, whose other values are its own."""

    name: Name
    changes: tuple[WayChange, ...] = Field(max_length=200)
