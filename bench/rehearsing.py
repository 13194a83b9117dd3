"""Rehearsed films: against the encoder alone, the first pictures, stopping on a frame, two workers, memory."""

import resource
import subprocess
import sys
import tempfile
import time
from pathlib import Path

import numpy as np

from bench.table import Row, median_s
from bench.workers import together_s
from revani.api.rehearsals import StopAsk, stopped
from revani.core.program.compiled import compile_shot
from revani.core.rehearsal.film import RehearsedFilm, rehearsed
from revani.core.rehearsal.strip import strip
from revani.jobs.encode import encode
from tests.conftest import make_shot

FRAMES = 400
_LONG = 5_000


def _film(frames: int = FRAMES) -> RehearsedFilm:
    """From before sunset into the night."""
    timing = {"fps": 30, "interval_s": round(6 * 3600 / frames), "frame_count": frames}
    return rehearsed(compile_shot(make_shot(timing=timing)), 480)


def make(film: RehearsedFilm, first: int, count: int, target: Path) -> None:
    """A part of a film, as a worker makes it."""
    encode((one[..., ::-1] for one in film.pictures(first, count)), film.fps, target, threads=1)


_WORKER = """
import sys
from pathlib import Path
from bench import rehearsing
film = rehearsing._film()
print('ready', flush=True)
sys.stdin.readline()
for first in sys.argv[2:]:
    rehearsing.make(film, int(first), 100, Path(sys.argv[1]) / f'{first}.mp4')
"""


def _stopping_s() -> float:
    """The 95th of a hundred stops on frames all through a film, what is asked for each."""
    shot = make_shot()
    taken = []
    for frame in np.random.default_rng(7).integers(0, 600, 100).tolist():
        begin = time.perf_counter()
        stopped(StopAsk(shot=shot, frame=frame))
        taken.append(time.perf_counter() - begin)
    return float(np.percentile(taken, 95))


def grown_mb(folder: Path) -> float:
    """By how much this process grows from the first five hundred frames of a long film to its end."""
    film = _film(_LONG)
    make(film, 0, 500, folder / "first.mp4")
    before = resource.getrusage(resource.RUSAGE_SELF).ru_maxrss
    make(film, 500, _LONG - 500, folder / "rest.mp4")
    return (resource.getrusage(resource.RUSAGE_SELF).ru_maxrss - before) / 1024


_GROWING = """
import sys
from pathlib import Path
from bench import rehearsing
print(rehearsing.grown_mb(Path(sys.argv[1])))
"""


def _grown_mb(folder: Path) -> float:
    """The same of a process of its own, in which nothing else has been as large before."""
    told = subprocess.run(
        [sys.executable, "-W", "ignore", "-c", _GROWING, str(folder)], check=True, capture_output=True, text=True
    )
    return float(told.stdout)


def rows() -> list[Row]:
    """What rehearsing costs."""
    film = _film()
    ready = [one[..., ::-1] for one in film.pictures(0, FRAMES)]
    with tempfile.TemporaryDirectory() as name:
        folder = Path(name)
        made = median_s(lambda: make(film, 0, FRAMES, folder / "made.mp4"), 3)
        alone = median_s(lambda: encode(ready, film.fps, folder / "alone.mp4", threads=1), 3)
        one, two = (
            min(together_s(_WORKER, [[name, *share] for share in shares]) for _ in range(3))
            for shares in ([["0", "100", "200", "300"]], [["0", "100"], ["200", "300"]])
        )
        first = median_s(lambda: strip(compile_shot(make_shot()), 480), 3)
        grown = _grown_mb(folder)
    return [
        Row(f"a rehearsed film of {FRAMES} frames / the encoder alone", made / alone, 3,
            detail=f"{made:.2f} s / {alone:.2f} s"),
        Row("the first 24 pictures", first, 2, "s"),
        Row("stopping on a frame, 95th of a hundred", _stopping_s() * 1000, 150, "ms"),
        Row("two workers against one, time of one / of two, at least 1.6", 1.6 / (one / two), 1,
            detail=f"{one:.2f} s / {two:.2f} s = {one / two:.2f}"),
        Row(f"a worker grows over {_LONG:,} frames by", grown, 20, "MB"),
    ]  # fmt: skip
