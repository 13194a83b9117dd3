"""Keys of a move are written here and nowhere else, however they were changed: as fine as they are kept."""

from collections.abc import Mapping
from typing import Any

from revani.core.documents import AfterStart, AxisName, Ease, MoveKey

# A thousandth of a second, a tenth of that of a millimetre or a degree: finer than any mover goes.
_DIGITS = 3
_PLACE_DIGITS = 4
# No key holds for longer than a document can say.
_LONGEST_S = 40_000_000.0


def key_at(after_s: float, positions: Mapping[AxisName, float], hold_s: float = 0.0) -> MoveKey:
    """A new key at seconds from the start, with the usual eases."""
    placed = {name: round(value, _PLACE_DIGITS) for name, value in positions.items()}
    at = AfterStart(after_s=round(after_s, _DIGITS))
    return MoveKey(at=at, positions=placed, hold_s=round(hold_s, _DIGITS), arrive=Ease(), leave=Ease())


def rekeyed(
    key: MoveKey,
    *,
    after_s: float | None = None,
    hold_s: float | None = None,
    positions: Mapping[AxisName, float] | None = None,
) -> MoveKey:
    """A key moved to seconds from the start, held for so long, with some axes elsewhere."""
    change: dict[str, Any] = {}
    if after_s is not None:
        change["at"] = AfterStart(after_s=min(round(after_s, _DIGITS), _LONGEST_S))
    if hold_s is not None:
        change["hold_s"] = min(round(hold_s, _DIGITS), _LONGEST_S)
    if positions is not None:
        change["positions"] = dict(key.positions) | {n: round(v, _PLACE_DIGITS) for n, v in positions.items()}
    return key.model_copy(update=change)
