"""What of a shot's kit draws on what: its drains and banks, slot by slot."""

from collections.abc import Sequence
from itertools import chain
from math import isfinite

import numpy as np

from revani.core.documents import AxisName, Body, Kit, Load, Mover, Shot, Source
from revani.core.feed.energy import Bank, Drain, Role
from revani.core.light.firing import fires_itself
from revani.core.move.axes import Motion
from revani.core.quantities.arrays import Array
from revani.core.timing.triggers import watches


def rigged(
    shot: Shot, slot_s: Array, elapsed_s: Array, night: Array, motion: Motion | None
) -> tuple[tuple[Drain, ...], tuple[Bank, ...]]:
    """All drains of a shot, the body's first, and the banks that feed them.

    `elapsed_s` is the time from the start to the end of each slot, `night` where the sun is down; all (n,).
    """
    kit, body = shot.kit, shot.body
    banks = [one for one in kit.sources if not one.cells]
    places = {one.id: place for place, one in enumerate(banks)}

    def drain(piece: Body | Mover | Load, role: Role, watts: Array, waits_w: float, usable: float = 1.0) -> Drain:
        sources = kit.feeding(piece.id)
        # What fires or films by itself ends with its battery: there is nothing to go on with another one.
        cells = [one for one in sources if one.cells and (role != "records" or cells_can_be_changed(shot))]
        return Drain(
            id=piece.id, name=piece.name, role=role, watts=watts,
            own_wh=None if piece.battery_wh is None else piece.battery_wh * usable,
            cells=tuple(chain.from_iterable([one.capacity_wh * usable] * one.count for one in cells)),
            swap_s=max((float(one.swap_s) for one in cells), default=0.0),
            fed=tuple(places[one.id] for one in sources if not one.cells), waits_w=waits_w,
        )  # fmt: skip

    always = np.ones_like(slot_s)
    drains = (
        drain(kit.body, "records", _body_w(shot, slot_s), _waiting_w(shot), body.battery_usable),
        *(drain(one, "carries", _mover_w(one, slot_s, elapsed_s, motion), one.idle_w) for one in kit.movers),
        *(
            drain(one, "beside it", one.draws_w * on, one.draws_w * float(on[0]))
            for one, on in ((one, always if one.on == "all the time" else night) for one in kit.loads)
        ),
    )
    return drains, tuple(_bank(one) for one in banks)


def cells_can_be_changed(shot: Shot) -> bool:
    """Whether the body goes on with another battery: where somebody else fires it, frame by frame."""
    return not shot.live and not fires_itself(shot)


def _bank(source: Source) -> Bank:
    cut_off_w = source.cut_off_w if isfinite(source.gives_wh) else 0.0
    return Bank(source.id, source.name, source.gives_wh, source.most_w, cut_off_w)


def _body_w(shot: Shot, slot_s: Array) -> Array:
    """What the body draws, averaged over each slot, watts."""
    body = shot.body
    if shot.live:
        return np.full_like(slot_s, body.film_w if body.film_w is not None else body.idle_w)
    return body.idle_w + body.frame_j / slot_s


def _waiting_w(shot: Shot) -> float:
    """What the body draws while it is waited: one that has to see what comes shows itself a picture all the while."""
    body = shot.body
    if shot.waits is None or not watches(shot.waits):
        return 0.0
    return body.film_w if body.film_w is not None else body.idle_w


def _mover_w(mover: Mover, slot_s: Array, elapsed_s: Array, motion: Motion | None) -> Array:
    """What a mover draws, averaged over each slot, watts."""
    moving = np.zeros_like(slot_s)
    if motion is not None:
        axes: list[AxisName] = [axis.name for axis in mover.axes]
        moving = np.diff(motion.moving_s(axes, elapsed_s), prepend=0.0)
    return np.asarray((mover.idle_w * (slot_s - moving) + mover.moving_w * moving) / slot_s)


def unfed(kit: Kit) -> Sequence[Load]:
    """What draws energy and has neither a battery nor anything that feeds it; a mover is taken to be on the mains."""
    return [one for one in kit.loads if one.battery_wh is None and not kit.feeding(one.id)]
