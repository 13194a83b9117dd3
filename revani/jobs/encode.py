"""Pictures to H.264 at an exact rate, in parts that are joined as they are."""

import os
import shutil
from collections.abc import Iterable
from fractions import Fraction
from pathlib import Path
from uuid import uuid4

import av
import numpy as np

from revani.jobs.resample import Picture

# So many frames are a part: each begins with a frame that stands alone, so that parts join without a new encoding.
PART_FRAMES = 200
_LEAST_FREE = 200_000_000
# A constant quantiser, and nothing that looks over a part's edge: a part is the same whoever makes it, and when.
_ENCODING = {
    "preset": "veryfast", "qp": "21", "x264-params": f"keyint={PART_FRAMES}:min-keyint={PART_FRAMES}:scenecut=0:"
    "bframes=0:rc-lookahead=0:sliced-threads=0",
}  # fmt: skip


class NotMade(Exception):
    """Why a film cannot be made, in words for whoever ordered it."""


def encode(pictures: Iterable[Picture], fps: Fraction, target: Path, threads: int = 2) -> int:
    """Encode pictures (BGR) to an H.264 film at exactly `fps` frames a second; returns its size in bytes.

    The film appears under its name only when it is whole. `threads` is how many of them encode: with one, parts that
    are made at once do not stand in each other's way. Raises NotMade for no frames, or no room.
    """
    if shutil.disk_usage(target.parent).free < _LEAST_FREE:
        raise NotMade("Under 200 MB are free on the disk: make room, then try again.")
    partial = _partial(target)
    try:
        with av.open(str(partial), "w", format="mp4", options={"movflags": "faststart"}) as film:
            options = _ENCODING | {"x264-params": f"{_ENCODING['x264-params']}:threads={threads}"}
            stream = film.add_stream("libx264", rate=fps, options=options)
            stream.time_base = 1 / fps
            stream.pix_fmt = "yuv420p"
            number = 0
            for pixels in pictures:
                if number == 0:
                    # H.264 in 4:2:0 has even sides.
                    stream.height, stream.width = (side // 2 * 2 for side in pixels.shape[:2])
                even = np.ascontiguousarray(pixels[: stream.height, : stream.width])
                picture = av.VideoFrame.from_ndarray(even, format="bgr24")
                picture.pts, picture.time_base = number, 1 / fps
                for packet in stream.encode(picture):
                    film.mux(packet)
                number += 1
            if not number:
                raise NotMade("There are no frames to make a film of.")
            for packet in stream.encode():
                film.mux(packet)
        _whole(partial, target)
    finally:
        partial.unlink(missing_ok=True)
    return target.stat().st_size


def join(parts: list[Path], fps: Fraction, target: Path) -> int:
    """Films of one encoding one after the other, not encoded anew; returns the size in bytes. Raises NotMade."""
    if len(parts) == 1:
        partial = _partial(target)
        shutil.copyfile(parts[0], partial)
        _whole(partial, target)
        return target.stat().st_size
    partial = _partial(target)
    try:
        with av.open(str(partial), "w", format="mp4", options={"movflags": "faststart"}) as film:
            stream, number = None, 0
            for path in parts:
                with av.open(str(path)) as part:
                    video = part.streams.video[0]
                    if stream is None:
                        stream = film.add_stream_from_template(video)
                        stream.time_base = 1 / fps
                    for packet in part.demux(video):
                        if packet.dts is None:
                            continue
                        # Without frames that are told of the next, frames stand in the order of the film.
                        packet.stream = stream
                        packet.time_base = 1 / fps
                        packet.pts = packet.dts = number
                        packet.duration = 1
                        film.mux(packet)
                        number += 1
        _whole(partial, target)
    except av.FFmpegError as error:
        raise NotMade("The parts of the film could not be joined.") from error
    finally:
        partial.unlink(missing_ok=True)
    return target.stat().st_size


def _partial(target: Path) -> Path:
    """Where it is written first: a worker that is taken for dead and its successor may both be at it."""
    return target.with_name(f"{target.stem}.{uuid4().hex[:8]}.part.mp4")


def _whole(partial: Path, target: Path) -> None:
    """What is written whole appears under its name, and is on the disk."""
    with partial.open("rb") as written:
        os.fsync(written.fileno())
    partial.rename(target)
