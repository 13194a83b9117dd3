"""Assembling a film against a bare loop that decodes and encodes the same frames."""

import tempfile
from fractions import Fraction
from pathlib import Path

import av
import numpy as np
from PIL import Image

from bench.table import Row, median_s
from revani.core.picture.render import Exposure, View, render
from revani.jobs.assemble import encode

FRAMES = 240


def _pictures(folder: Path) -> list[Path]:
    paths = []
    for number in range(FRAMES):
        view = View(1_795_541_000 + 40 * number, 57.6, -7.4, 5 - number / 12, 232, -5, 0, 0, 232, 9, 24, 36)
        path = folder / f"{number:06d}.jpg"
        Image.fromarray(render(view, Exposure(0, 4, 4, 200), 480, 270, number)).save(path, quality=88)
        paths.append(path)
    return paths


def _bare(paths: list[Path], target: Path) -> None:
    with av.open(str(target), "w") as film:
        stream = film.add_stream("libx264", rate=30, options={"preset": "veryfast", "crf": "20"})
        stream.width, stream.height, stream.pix_fmt = 480, 270, "yuv420p"
        for path in paths:
            picture = av.VideoFrame.from_ndarray(np.asarray(Image.open(path).convert("RGB")), format="rgb24")
            for packet in stream.encode(picture):
                film.mux(packet)
        for packet in stream.encode():
            film.mux(packet)


def rows() -> list[Row]:
    """The one ratio of assembling."""
    with tempfile.TemporaryDirectory() as name:
        folder = Path(name)
        paths = _pictures(folder)
        bare = median_s(lambda: _bare(paths, folder / "bare.mp4"), runs=5)
        ours = median_s(lambda: encode(paths, Fraction(30), folder / "ours.mp4", lambda _: None), runs=5)
    return [Row(f"assembling {FRAMES} frames / bare decode and encode", ours / bare, 1.3,
                detail=f"{ours:.2f} s / {bare:.2f} s")]  # fmt: skip
