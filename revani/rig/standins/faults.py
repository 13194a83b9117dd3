"""The faults that a simulated camera shows to order, and what passes before its lens."""

import time

from revani.rig.ports import Fault
from revani.rig.standins.passing import Passing

# These last until they are mended, or garble answers and no frames.
_OF_NO_CAPTURE = ("full card", "empty battery", "garble", "slow card", "no sound")


class Faults:
    """What is wrong with one camera just now. `jumped_s` is by how much its clock has jumped ahead."""

    def __init__(self) -> None:
        self._now: Fault | None = None
        self._left = 0
        self._wakes_at_s = self._another_until_s = 0.0
        self._dies_for_s: float | None = None
        self.jumped_s = 0.0
        self.passes: Passing | None = None

    def show(self, fault: Fault) -> None:
        """Show a fault from now on; what happens once has happened then."""
        now_s = time.monotonic()
        if fault.kind == "clock jump":
            self.jumped_s += fault.seconds
        elif fault.kind in ("passes", "card"):
            self.passes = Passing(fault.word if fault.kind == "card" else None, now_s, fault.seconds)
        elif fault.kind == "another camera":
            self._another_until_s = now_s + fault.seconds
        elif fault.kind == "asleep":
            self._wakes_at_s = now_s + fault.seconds
        elif fault.kind == "dies":
            self._dies_for_s = fault.seconds
        else:
            self._now, self._left = fault, fault.count

    def has(self, kind: str) -> bool:
        """Whether it shows a fault that lasts until it is mended."""
        return self._now is not None and self._now.kind == kind

    @property
    def asleep(self) -> bool:
        """Whether it answers nobody just now."""
        return time.monotonic() < self._wakes_at_s

    @property
    def another(self) -> bool:
        """Whether another camera answers in its place."""
        return time.monotonic() < self._another_until_s

    def dies(self) -> bool:
        """Whether its battery gives out now, in the middle of a frame: it is away for a while then."""
        if self._dies_for_s is None:
            return False
        self._wakes_at_s, self._dies_for_s = time.monotonic() + self._dies_for_s, None
        return True

    def next_fault(self) -> Fault | None:
        """The fault that the next capture shows, used up by it; full and empty ones stay."""
        if self._now is None or self._now.kind in _OF_NO_CAPTURE:
            return None
        return self._use_up(self._now)

    def next_nonsense(self) -> str | None:
        """How the next answer is garbled, if it is."""
        if self._now is None or self._now.kind != "garble":
            return None
        return self._use_up(self._now).nonsense

    def _use_up(self, fault: Fault) -> Fault:
        self._left -= 1
        if self._left <= 0:
            self._now = None
        return fault
