"""How loud the sound of a film is: its peak and its RMS, how long it is silent, and whether it clips.

Levels are in dBFS: 0 is the largest sample that there can be, for the RMS too (a full sine has −3.01). Source of the
bounds: handbook 8, common practice.
"""

from typing import NamedTuple

import numpy as np
from numpy.typing import NDArray

from revani.core.watch.around import CLIPS_DBFS, SILENT_DBFS

# Peaks are looked at in pieces of so many seconds; under this there is nothing but silence.
_PIECE_S, FLOOR_DBFS = 0.1, -120.0


class Loudness(NamedTuple):
    """Peak and RMS of all channels (dBFS), its length, the seconds and the longest stretch (s) under −50 dBFS, and the
    seconds in which it clips."""

    peak_dbfs: float
    rms_dbfs: float
    seconds: float
    silent_s: float
    longest_silent_s: float
    clips_s: float


class Meter:
    """Measures sound that comes in blocks of any length; a channel that is silent beside a loud one does not count."""

    def __init__(self, rate_hz: int) -> None:
        self._rate = rate_hz
        self._piece = max(1, round(rate_hz * _PIECE_S))
        self._rest = np.zeros(0)
        self._peaks: list[float] = []
        self._squares = 0.0
        self._samples = self._counted = 0

    def add(self, block: NDArray[np.floating]) -> None:
        """Samples (channels, n), full scale −1 to 1."""
        found = np.abs(np.asarray(block, dtype=np.float64))
        self._squares += float(np.sum(np.square(found)))
        self._samples += found.size
        self._counted += found.shape[1]
        loudest = np.concatenate([self._rest, found.max(axis=0)])
        whole = loudest.size // self._piece
        pieces = loudest[: whole * self._piece].reshape(whole, self._piece)
        self._peaks += pieces.max(axis=1).tolist()
        self._rest = loudest[whole * self._piece :]

    def measured(self) -> Loudness | None:
        """What was measured until now; None of nothing."""
        if not self._counted:
            return None
        last = [float(self._rest.max())] if self._rest.size else []
        peaks = np.array([*self._peaks, *last])
        lengths = np.full(peaks.size, self._piece / self._rate)
        if last:
            lengths[-1] = self._rest.size / self._rate
        silent = peaks < 10 ** (SILENT_DBFS / 20)
        stretch = longest = 0.0
        for is_silent, length in zip(silent, lengths, strict=True):
            stretch = stretch + float(length) if is_silent else 0.0
            longest = max(longest, stretch)
        return Loudness(
            peak_dbfs=_dbfs(float(peaks.max())), rms_dbfs=_dbfs((self._squares / self._samples) ** 0.5),
            seconds=self._counted / self._rate, silent_s=float(lengths[silent].sum()), longest_silent_s=longest,
            clips_s=float(lengths[peaks >= 10 ** (CLIPS_DBFS / 20)].sum()),
        )  # fmt: skip


def _dbfs(part: float) -> float:
    return max(20 * float(np.log10(part)), FLOOR_DBFS) if part > 0 else FLOOR_DBFS
