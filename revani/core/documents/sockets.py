"""Plugs and sockets by their names: what goes into what."""

from collections.abc import Iterable, Sequence
from typing import Annotated

from pydantic import AfterValidator, Field

# Names with a comma between them, as they are printed beside the holes.
Sockets = Annotated[str, Field(max_length=200), AfterValidator(str.strip)]


def named(sockets: str) -> frozenset[str]:
    """The sockets of a piece of gear, each by its name, however it was typed."""
    return frozenset(" ".join(one.split()).casefold() for one in sockets.split(",") if one.strip())


def plug(end: str) -> str:
    """What an end of a cable goes into; after a comma stands only how one tells it from the other: `USB-C, camera`."""
    return " ".join(end.split(",")[0].split()).casefold()


def connects(first: str, ends: Sequence[tuple[str, str]], last: str) -> bool | None:
    """Whether a chain of cables and adapters, each with its two ends, leads from one's sockets to another's.

    None where it cannot be told: a side whose sockets nobody has named. Without any cable both need a like socket.
    """
    at, goal = named(first), named(last)
    if not at or not goal:
        return None
    return _leads(at, [(plug(a), plug(b)) for a, b in ends], goal)


def _leads(at: Iterable[str], ends: Sequence[tuple[str, str]], goal: frozenset[str]) -> bool:
    here = frozenset(at)
    if not ends:
        return bool(here & goal)
    (a, b), *rest = ends
    return any(near in here and _leads({far}, rest, goal) for near, far in ((a, b), (b, a)))
