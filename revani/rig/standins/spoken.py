"""What is spoken before a simulated camera: syllables of noise, sentences, and pauses between them."""

from collections.abc import Iterator
from fractions import Fraction

import av
import numpy as np

SOUND_HZ = 16_000
# Four syllables a second, a sentence of three seconds, a breath after it (invented).
_SYLLABLES_HZ, _SENTENCE_S, _BREATH_S = 4.0, 3.0, 1.0
_BLOCK = SOUND_HZ


def spoken(seconds: float, peak_dbfs: float, seed: int) -> Iterator[av.AudioFrame]:
    """Frames of sound whose peaks lie at a level, for a film of so many seconds."""
    random, whole, peak = np.random.default_rng(seed), round(seconds * SOUND_HZ), 10 ** (peak_dbfs / 20)
    for begin in range(0, whole, _BLOCK):
        at = np.arange(begin, min(begin + _BLOCK, whole)) / SOUND_HZ
        loud = np.abs(np.sin(np.pi * _SYLLABLES_HZ * at)) * (at % (_SENTENCE_S + _BREATH_S) < _SENTENCE_S)
        tone = np.sin(2 * np.pi * 220 * at) * 0.8 + random.uniform(-0.2, 0.2, at.size)
        block = np.asarray(peak * loud * tone, dtype=np.float32)[None, :]
        frame = av.AudioFrame.from_ndarray(block, format="flt", layout="mono")
        frame.sample_rate, frame.pts, frame.time_base = SOUND_HZ, begin, Fraction(1, SOUND_HZ)
        yield frame
