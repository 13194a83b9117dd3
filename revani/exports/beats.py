"""The beat of a walk by stations for the ear and for a screen: when to stand, when to go on."""

import io
import wave

import numpy as np

from revani.core.edit.walking import pause_s
from revani.core.program.compiled import Program
from revani.core.quantities.refusal import Refusal
from revani.core.shown.walk_table import station

_RATE_HZ = 8_000
_LONGEST_S = 3 * 3_600
# Stand: a high tone and a longer one for every tenth; go: a low one (our own).
_STAND_HZ, _GO_HZ, _TONE_S, _TENTH_S = 880.0, 330.0, 0.12, 0.4


def _stations(program: Program) -> list[tuple[float, float]]:
    """When one stands at each station and when one goes on, seconds from the start. Raises Refusal for no stations."""
    walk = program.shot.walk
    if walk is None or walk.filmed:
        raise Refusal("walk", "This shot is no walk by stations.")
    pause = float(pause_s(program.shot))
    return [
        (t, min(t + pause, t + slot)) for t, slot in zip(program.t_s.tolist(), program.slot_s.tolist(), strict=True)
    ]


def beats_wav(program: Program) -> bytes:
    """A tone when a station begins, and a lower one when one goes on: 8 kHz, one channel, 16 bit."""
    stations = _stations(program)
    seconds = float(program.timing.event_s) + 1
    if seconds > _LONGEST_S:
        raise Refusal("timing", f"At most {_LONGEST_S // 3_600} h of beats are written.")
    sound = np.zeros(int(seconds * _RATE_HZ), dtype=np.float32)
    for number, (stands_s, goes_s) in enumerate(stations, 1):
        _tone(sound, stands_s, _STAND_HZ, _TENTH_S if number % 10 == 0 else _TONE_S)
        _tone(sound, goes_s, _GO_HZ, _TONE_S)
    out = io.BytesIO()
    with wave.open(out, "wb") as file:
        file.setnchannels(1)
        file.setsampwidth(2)
        file.setframerate(_RATE_HZ)
        file.writeframes((np.clip(sound, -1, 1) * 20_000).astype("<i2").tobytes())
    return out.getvalue()


def _tone(sound: np.ndarray[tuple[int], np.dtype[np.float32]], at_s: float, hz: float, length_s: float) -> None:
    first, count = round(at_s * _RATE_HZ), round(length_s * _RATE_HZ)
    t = np.arange(count) / _RATE_HZ
    # Softly in and out, so that it does not click.
    tone = np.sin(2 * np.pi * hz * t) * np.clip(np.minimum(t, length_s - t) / 0.01, 0, 1)
    room = sound[first : first + count]
    room += tone[: len(room)].astype(np.float32)


def beats_vtt(program: Program) -> str:
    """A cue a station: where one stands, which way one looks, until one goes on. Source: WebVTT, W3C."""
    lines = ["WEBVTT", ""]
    for i, (stands_s, goes_s) in enumerate(_stations(program)):
        row = station(program, i)
        where = f", {row.bearing} to it" if row.bearing else ""
        lines += [str(i + 1), f"{_clock(stands_s)} --> {_clock(max(goes_s, stands_s + 0.001))}",
                  f"Station {row.number}: {row.along} along, dial {row.dial}{where}", ""]  # fmt: skip
    return "\n".join(lines)


def _clock(seconds: float) -> str:
    ms = round(seconds * 1000)
    return f"{ms // 3_600_000:02d}:{ms // 60_000 % 60:02d}:{ms // 1000 % 60:02d}.{ms % 1000:03d}"
