"""Energy over a shot: batteries, cells that are changed, banks and the mains, against all that draws on them.

Time goes in slots (n,), watt by watt: `watts` is the average over a slot. What is fed by a cable takes from there
first, one source after the other, and from its own battery where that is not enough; what a bank has to spare fills the
battery again. A bank that is asked for too little switches itself off, and stays off.
"""

from collections.abc import Sequence
from dataclasses import dataclass, replace
from typing import Literal, NamedTuple
from uuid import UUID

import numpy as np
from numpy.typing import ArrayLike

from revani.core.feed.battery import cold_factor
from revani.core.quantities.arrays import Array

Role = Literal["records", "carries", "beside it", "feeds"]
# A lithium cell takes back so much of what is put into it (memory).
_TAKES_BACK = 0.9
# So many steps are reckoned at most where something is fed from outside.
_STEPS = 1200


class Scope(NamedTuple):
    """How kindly things are reckoned: what is drawn, what batteries hold, and how much warmer it is, °C."""

    draws: float = 1.0
    holds: float = 1.0
    warmer_c: float = 0.0


# Of a figure on paper, a measured one is rarely further off (memory).
EXPECTED, OPTIMISTIC, CAUTIOUS = Scope(), Scope(0.9, 1.0, 3.0), Scope(1.15, 0.9, -3.0)


@dataclass(frozen=True, eq=False)
class Drain:
    """What draws energy: watts (n,) slot by slot, its own battery (usable Wh; None: none), the cells that are changed
    in it, and the sources that feed it, by their places, in the order in which they are used. `id` is its gear's;
    `waits_w` is what it draws before the first slot, while the shot waits."""

    id: UUID
    name: str
    role: Role
    watts: Array
    own_wh: float | None
    cells: tuple[float, ...] = ()
    swap_s: float = 0.0
    fed: tuple[int, ...] = ()
    waits_w: float = 0.0


class Bank(NamedTuple):
    """What feeds by a cable: what it gives in all (Wh after conversion; infinite: the mains), and its limits in W."""

    id: UUID
    name: str
    gives_wh: float
    most_w: float
    cut_off_w: float


class Supply(NamedTuple):
    """What is left for one drain, or in one bank, after each slot (n,), as a fraction of all that it has.

    Below 0 it is empty. `gives_wh` is all that it has, as the coldest hour leaves it: its battery, the cells that are
    changed, its share of banks. Without the body's there are no pictures; without a mover's the rig stands still.
    `swaps` are the slots at whose end cells are changed; `off_from` is the slot from which a bank has switched itself
    off; `short_w` the most that a bank cannot give of what is asked of it. `id` is that of the gear.
    """

    id: UUID
    name: str
    left: Array
    gives_wh: float
    role: Role
    swaps: tuple[int, ...] = ()
    off_from: int | None = None
    short_w: float = 0.0

    @property
    def carries(self) -> bool:
        """Whether it drives a mover."""
        return self.role == "carries"

    @property
    def ends_at(self) -> int | None:
        """The index of the first slot that it does not last for; None where it lasts."""
        return int(np.argmax(self.left < 0)) if (self.left < 0).any() else None


def spent(
    drains: Sequence[Drain],
    banks: Sequence[Bank],
    slot_s: ArrayLike,
    air_c: ArrayLike,
    scope: Scope = EXPECTED,
    waited_s: float = 0.0,
) -> tuple[Supply, ...]:
    """What is left for every drain that can run out, in their order, and then in every bank that has an end.

    `air_c` is how cold it is in each slot; `waited_s` is how long it has waited before the first, in the cold of that.
    A drain with neither a battery nor a source needs not last.
    """  # fmt: skip
    slot = np.asarray(slot_s, dtype=np.float64)
    air = np.broadcast_to(np.asarray(air_c, dtype=np.float64), slot.shape)
    if waited_s > 0:
        before = [replace(one, watts=np.concatenate([[one.waits_w], one.watts])) for one in drains]
        found = spent(before, banks, np.concatenate([[waited_s], slot]), np.concatenate([air[:1], air]), scope)
        return tuple(map(_from_its_start, found))
    cold = cold_factor(air + scope.warmer_c) * scope.holds
    lasting = [one for one in drains if one.own_wh is not None or one.fed]
    if not any(one.fed or one.cells for one in lasting):
        return tuple(_alone(one, slot, cold, scope) for one in lasting)
    return _Net(lasting, banks, slot, cold, scope).supplies()


def _from_its_start(supply: Supply) -> Supply:
    """A supply without its first slot, which was the wait."""
    off = supply.off_from
    return supply._replace(
        left=supply.left[1:], swaps=tuple(slot - 1 for slot in supply.swaps if slot > 0),
        off_from=None if off is None else max(off - 1, 0),
    )  # fmt: skip


def _alone(drain: Drain, slot: Array, cold: Array, scope: Scope) -> Supply:
    """A battery with nothing beside it: what is drawn in the cold takes more of it than in the warm."""
    assert drain.own_wh is not None
    part = drain.watts * scope.draws * slot / 3600 / (drain.own_wh * cold)
    # What lasts just to the end lasts: sums of many slots are off in their last digits.
    return Supply(drain.id, drain.name, np.round(1 - np.cumsum(part), 10), float(drain.own_wh * cold.min()), drain.role)


class _Net:
    """Drains and banks together, reckoned step by step; a step is a slot, or several where there are very many."""

    def __init__(self, drains: Sequence[Drain], banks: Sequence[Bank], slot: Array, cold: Array, scope: Scope) -> None:
        n = slot.size
        self._edges = np.unique(np.linspace(0, n, min(n, _STEPS) + 1).round().astype(int))
        starts = self._edges[:-1]
        self._dt = np.add.reduceat(slot, starts)
        self._cold = np.add.reduceat(cold * slot, starts) / self._dt
        self._watts = np.array([np.add.reduceat(one.watts * slot, starts) / self._dt for one in drains]) * scope.draws
        self._drains, self._banks, self._n, self._least = drains, banks, n, float(cold.min())
        steps = self._dt.size
        self._own = np.zeros((len(drains), steps + 1))
        self._bank = np.ones((len(banks), steps + 1))
        self._cells: list[list[float]] = [[0.0 if one.own_wh is None else one.own_wh, *one.cells] for one in drains]
        self._swaps: list[list[int]] = [[] for _ in drains]
        self._off: list[int | None] = [None for _ in banks]
        self._short = [0.0 for _ in banks]
        # Wh at 20 °C that a drain still has in its cells; it may fall under 0, which tells how much was wanting.
        self._has = np.array([sum(cells) for cells in self._cells])
        self._whole = self._has.copy()
        self._own[:, 0] = self._has
        for step in range(steps):
            self._go(step)

    def _go(self, step: int) -> None:
        dt, cold = float(self._dt[step]), float(self._cold[step])
        wants = self._watts[:, step].copy()
        for b, bank in enumerate(self._banks):
            if self._off[b] is not None or self._bank[b, step] <= 0:
                self._bank[b, step + 1] = self._bank[b, step]
                continue
            self._bank[b, step + 1] = self._bank[b, step] - self._feed(b, bank, wants, step, dt, cold)
        for d in range(len(self._drains)):
            self._draw(d, float(wants[d]), step, dt, cold)
            self._own[d, step + 1] = self._has[d]

    def _feed(self, b: int, bank: Bank, wants: Array, step: int, dt: float, cold: float) -> float:
        """What a bank gives in a step, as a part of it; what it gives is taken off what is wanted."""
        fed = [d for d, one in enumerate(self._drains) if b in one.fed and self._serves(d, b, step)]
        asked = float(sum(wants[d] for d in fed))
        room = [self._room_w(d, dt, cold) for d in fed]
        if asked + sum(room) < bank.cut_off_w:
            self._off[b] = step
            return 0.0
        self._short[b] = max(self._short[b], asked - bank.most_w)
        holds_wh = bank.gives_wh * cold
        most = min(bank.most_w, float(self._bank[b, step]) * holds_wh * 3600 / dt)
        given = min(asked, most)
        spare = most - given
        for d, wide in zip(fed, room, strict=True):
            part = wants[d] * (given / asked if asked else 0.0)
            fills = min(wide, spare)
            spare -= fills
            wants[d] -= part
            self._has[d] += fills * dt / 3600 * _TAKES_BACK / cold
            given += fills
        return given * dt / 3600 / holds_wh if np.isfinite(holds_wh) else 0.0

    def _serves(self, d: int, b: int, step: int) -> bool:
        """Whether a bank is the one that a drain takes from: the first of its own that still gives."""
        alive = (one for one in self._drains[d].fed if self._off[one] is None and self._bank[one, step] > 0)
        return next(alive, None) == b

    def _room_w(self, d: int, dt: float, cold: float) -> float:
        """How many watts its battery would take to be full at the end of the step."""
        if self._drains[d].own_wh is None or self._has[d] < 0:
            return 0.0
        missing = self._cells[d][0] - max(self._has[d] - sum(self._cells[d][1:]), 0.0)
        return max(float(missing), 0.0) * cold / _TAKES_BACK * 3600 / dt

    def _draw(self, d: int, wants_w: float, step: int, dt: float, cold: float) -> None:
        # What rounding leaves of a want that was met is none.
        if wants_w > 1e-9:
            self._has[d] -= wants_w * dt / 3600 / cold
        cells = self._cells[d]
        while len(cells) > 1 and self._has[d] < sum(cells[1:]):
            cells.pop(0)
            self._swaps[d].append(step)

    def supplies(self) -> tuple[Supply, ...]:
        """What is left of all, slot by slot."""
        wants = np.array([float(self._watts[d] @ self._dt) for d in range(len(self._drains))])
        wired = np.array([[b in one.fed for b in range(len(self._banks))] for one in self._drains], dtype=bool)
        asked = np.where(wired, wants[:, None], 0.0)
        shares = asked / np.maximum(asked.sum(axis=0), 1e-12)
        endless = np.array([np.isinf(one.gives_wh) for one in self._banks], dtype=bool)
        gives = np.where(endless, 0.0, [one.gives_wh for one in self._banks])
        found = []
        for d, drain in enumerate(self._drains):
            beside, has = shares[d] * gives, self._own[d]
            whole = float(self._whole[d] + beside.sum())
            left = (has + beside @ np.maximum(self._bank, 0.0)) / whole if whole else np.ones_like(has)
            # Empty is empty, whatever a bank that is too weak has left.
            left = np.where(has < 0, np.minimum(has / max(whole, 1e-3), -1e-6), left)
            swaps = tuple(int(self._edges[one + 1]) - 1 for one in self._swaps[d])
            found.append(Supply(drain.id, drain.name, self._by_slot(left), whole * self._least, drain.role, swaps))
        for b, bank in enumerate(self._banks):
            if not endless[b] and any(b in one.fed for one in self._drains):
                off = self._off[b]
                found.append(
                    Supply(bank.id, bank.name, self._by_slot(self._bank[b]), bank.gives_wh * self._least, "feeds", (),
                           None if off is None else int(self._edges[off]), self._short[b])
                )  # fmt: skip
        return tuple(found)

    def _by_slot(self, after: Array) -> Array:
        """From after each step to after each slot."""
        return np.interp(np.arange(1, self._n + 1), self._edges, after)
