"""A refusal as problem+json (RFC 9457): what is wrong, at which field, and what is allowed."""

from collections.abc import Sequence
from typing import Any, Protocol

from pydantic import BaseModel

from revani.core.documents import GEAR
from revani.core.documents.allowed import allowed_of


class Failed(Protocol):
    """What Pydantic, and what stands on it, raises where a document cannot be used."""

    def errors(self) -> Sequence[Any]:
        """A dict a fault, with its place `loc` and what is wrong, `msg`."""
        ...


class Fault(BaseModel):
    """One field that cannot be used."""

    path: str
    allowed: str


class Problem(BaseModel):
    """The body of every answer that refuses."""

    type: str = "about:blank"
    title: str
    status: int
    detail: str
    path: str = ""
    faults: list[Fault] = []
    current: Any = None


_MOST_FAULTS = 60
_WHERE = ("body", "query", "path", "header")


def path_of(location: Sequence[int | str]) -> str:
    """`body.shot.timing.interval_s` as the document's own path."""
    parts = [str(part) for part in (location[1:] if location[:1] and location[0] in _WHERE else location)]
    # The names of a union's branches are ours, not the document's.
    parts = [part for part in parts if not part.startswith(("function-", "tagged-", "lax-", "json-"))]
    return ".".join(parts[1:] if len(parts) > 1 and parts[0] in GEAR else parts)


def faults_of(error: Failed) -> list[Fault]:
    """What a failed validation says, a field at a time."""
    return [Fault(path=path_of(one["loc"]), allowed=allowed_of(one)) for one in error.errors()[:_MOST_FAULTS]]
