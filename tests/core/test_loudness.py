"""Levels of sound against FFmpeg's astats filter and against tones of known level; what is said of them."""

import math

import av
import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from revani.core.documents.take import Take
from revani.core.shown.sound import sound_rows
from revani.core.watch.loudness import FLOOR_DBFS, Loudness, Meter

HZ = 16_000
SPEECH = Take(sound="its own microphone", level_dbfs=-9.0)


def measured(*blocks: np.ndarray, rate: int = HZ) -> Loudness:
    meter = Meter(rate)
    for block in blocks:
        meter.add(np.atleast_2d(block))
    found = meter.measured()
    assert found is not None
    return found


def tone(dbfs: float, seconds: float) -> np.ndarray:
    return 10 ** (dbfs / 20) * np.sin(2 * np.pi * 997 * np.arange(round(seconds * HZ)) / HZ)


def by_astats(samples: np.ndarray) -> tuple[float, float]:
    """Peak and RMS level of a mono signal. Source: FFmpeg, filter astats."""
    graph = av.filter.Graph()
    source = graph.add_abuffer(sample_rate=HZ, format="dbl", layout="mono", time_base=f"1/{HZ}")
    stats, sink = graph.add("astats", "metadata=1:reset=0"), graph.add("abuffersink")
    source.link_to(stats)
    stats.link_to(sink)
    graph.configure()
    frame = av.AudioFrame.from_ndarray(samples[None, :], format="dbl", layout="mono")
    frame.sample_rate, frame.pts = HZ, 0
    source.push(frame)
    source.push(None)
    said = sink.pull().metadata
    return float(said["lavfi.astats.Overall.Peak_level"]), float(said["lavfi.astats.Overall.RMS_level"])


@settings(max_examples=25)
@given(st.floats(-60, 0), st.floats(20, 4_000), st.floats(0.05, 3), st.integers(0, 9))
def test_peak_and_rms_are_those_of_a_reference(dbfs: float, hz: float, seconds: float, seed: int) -> None:
    at = np.arange(round(seconds * HZ)) / HZ
    noise = np.random.default_rng(seed).normal(0, 0.1, at.size)
    samples = np.clip(10 ** (dbfs / 20) * (np.sin(2 * np.pi * hz * at) + noise), -1, 1)
    found, (peak, rms) = measured(samples), by_astats(samples)
    assert found.peak_dbfs == pytest.approx(peak, abs=0.01) and found.rms_dbfs == pytest.approx(rms, abs=0.01)


@given(st.lists(st.integers(1, 5_000), min_size=1, max_size=12), st.integers(0, 9))
def test_it_is_the_same_however_the_sound_is_cut_into_blocks(lengths: list[int], seed: int) -> None:
    samples = np.random.default_rng(seed).uniform(-1, 1, (2, sum(lengths))) * np.linspace(0, 1, sum(lengths)) ** 4
    cut = np.split(samples, np.cumsum(lengths)[:-1], axis=1)
    whole, pieces = measured(samples), measured(*cut)
    assert np.allclose(whole, pieces, atol=1e-9)


def test_silence_and_clipping_are_counted_where_they_are() -> None:
    # The handbook's bounds: under −50 dBFS is silence, −1 dBFS and over is clipping.
    found = measured(tone(-9, 2), tone(-51, 6), tone(-9, 1), tone(-60, 2), tone(-0.5, 0.5))
    assert (found.seconds, found.silent_s, found.longest_silent_s, found.clips_s) == pytest.approx((11.5, 8, 6, 0.5))
    assert measured(tone(-49, 6)).silent_s == 0 and measured(tone(-1.5, 1)).clips_s == 0
    # A full sine: peak 0, RMS 3.01 dB under it.
    full = measured(tone(0, 1))
    assert full.peak_dbfs == pytest.approx(0, abs=0.01) and full.rms_dbfs == pytest.approx(
        -10 * math.log10(2), abs=0.01
    )
    nothing = measured(np.zeros(HZ))
    assert nothing.peak_dbfs == nothing.rms_dbfs == FLOOR_DBFS and nothing.silent_s == pytest.approx(1)
    assert Meter(HZ).measured() is None


def test_one_channel_that_is_plugged_in_is_sound() -> None:
    found = measured(np.stack([tone(-10, 6), np.zeros(6 * HZ)]))
    assert found.silent_s == 0 and found.peak_dbfs == pytest.approx(-10, abs=0.01)


@pytest.mark.parametrize(
    ("take", "blocks", "label", "tone_", "said"),
    [
        (SPEECH, (tone(-9, 8),), "peak", "good", "−9 dBFS, −9 dBFS was wanted"),
        (SPEECH, (tone(-20, 8),), "peak", "mind", "−20 dBFS"),
        (SPEECH, (tone(-9, 8), tone(-70, 6)), "no sound", "mind", "6 s under −50 dBFS, 6 s at once"),
        (SPEECH, (tone(-70, 8),), "no sound", "bad", "all of it lies under −50 dBFS"),
        (SPEECH, (tone(-9, 8), tone(-70, 2)), "pauses", "good", "2 s under"),
        (SPEECH, (tone(-0.2, 1),), "clips", "mind", "for 1 s"),
        (SPEECH, (tone(-9, 1),), "clips", "good", "nowhere"),
        (SPEECH, (), "sound", "bad", "the file has none, though it was wanted"),
        (Take(), (), "sound", "good", "none, as wanted"),
        (Take(sound="a recorder beside it"), (), "sound", "good", "none, as wanted"),
        # A guide for the recorder's, or one that was left on: at whatever level, it is held against nothing.
        (Take(sound="a recorder beside it"), (tone(-40, 2),), "sound", "good", "up to −40 dBFS; none was wanted"),
        (Take(), (tone(-70, 8),), "sound", "good", "none was wanted of the camera"),
    ],
)
def test_what_is_said_of_it(take: Take, blocks: tuple[np.ndarray, ...], label: str, tone_: str, said: str) -> None:
    rows = {row.label: row for row in sound_rows(take, measured(*blocks) if blocks else None)}
    assert rows[label].tone == tone_ and said in rows[label].text
