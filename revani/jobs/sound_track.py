"""The sound of a film's file, measured."""

import io

import av
import numpy as np

from revani.core.watch.loudness import Loudness, Meter
from revani.jobs.source import Unreadable


def loudness_of(content: bytes) -> Loudness | None:
    """How loud a film is; None where it has no sound. Raises Unreadable."""
    try:
        with av.open(io.BytesIO(content), "r") as film:
            if not film.streams.audio:
                return None
            track = film.streams.audio[0]
            meter = Meter(track.rate)
            as_floats = av.AudioResampler(format="fltp")
            for frame in film.decode(track):
                for one in as_floats.resample(frame):
                    meter.add(np.clip(one.to_ndarray(), -1.0, 1.0))
            return meter.measured()
    except (av.FFmpegError, ValueError) as error:
        raise Unreadable("The sound of the file cannot be read.") from error
