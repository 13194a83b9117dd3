"""A few things that are costly to make, kept for the next who asks."""

from collections import OrderedDict
from collections.abc import Callable, Hashable
from typing import Generic, TypeVar

K = TypeVar("K", bound=Hashable)
V = TypeVar("V")


class Kept(Generic[K, V]):
    """The last so many things made, each by its key; the one that was not asked for the longest goes first."""

    def __init__(self, most: int) -> None:
        self._most = most
        self._there: OrderedDict[K, V] = OrderedDict()

    def get(self, key: K, make: Callable[[], V]) -> V:
        """What is kept under a key, made if it is not there; two who ask at once may both make it."""
        if (found := self._there.get(key)) is None:
            found = make()
            while len(self._there) >= self._most:
                self._there.popitem(last=False)
        self._there[key] = found
        self._there.move_to_end(key)
        return found
