"""A step of rigging up, and the order of steps: each after all that it needs."""

from collections.abc import Iterable
from dataclasses import dataclass
from heapq import heapify, heappop, heappush
from typing import Literal

# What a device can say of itself, by which a step is ticked without anybody.
Answer = Literal["camera answers", "clock", "drive", "white balance", "card", "homed"]
Phase = Literal["stand", "camera", "connect", "check", "leave", "afterwards"]


@dataclass(frozen=True)
class RigStep:
    """One thing to do: what, why, what happens otherwise where that is a classic, and which steps come before it.

    `needs` names steps; those that a shot has not are no hindrance. `answer` is what a device can say of it.
    """

    id: str
    says: str
    why: str
    phase: Phase
    needs: tuple[str, ...] = ()
    otherwise: str = ""
    answer: Answer | None = None


def in_order(steps: Iterable[RigStep]) -> tuple[RigStep, ...]:
    """The steps, none before one that it needs; of those that might come next the one that was given first.

    Raises ValueError for steps that need each other in a ring, or two of one id.
    """
    given = list(steps)
    places = {step.id: place for place, step in enumerate(given)}
    if len(places) < len(given):
        raise ValueError("two steps of one id")
    waits = {step.id: {need for need in step.needs if need in places} for step in given}
    ready = [places[id] for id, needs in waits.items() if not needs]
    heapify(ready)
    found: list[RigStep] = []
    while ready:
        step = given[heappop(ready)]
        found.append(step)
        for other in given:
            if step.id in waits[other.id]:
                waits[other.id].remove(step.id)
                if not waits[other.id]:
                    heappush(ready, places[other.id])
    if len(found) < len(given):
        ring = ", ".join(step.id for step in given if waits[step.id])
        raise ValueError(f"these steps wait for each other: {ring}")
    return tuple(found)
