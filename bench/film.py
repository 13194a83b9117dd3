"""Assembling a film, cutting a crop and a sphere, and two workers, each against a bare loop over the same frames."""

import tempfile
from fractions import Fraction
from pathlib import Path

import av
import cv2
import numpy as np

from bench.table import Row, median_s
from bench.workers import together_s
from revani.core.documents import Shot
from revani.core.picture.render import Exposure, View, render
from revani.core.program.compiled import compile_shot
from revani.jobs.encode import PART_FRAMES, encode
from revani.jobs.render import Recipe
from revani.jobs.source import Stills
from tests.conftest import make_kit, make_shot

FRAMES = 60
_PACE = {"preset": "veryfast", "qp": "21", "x264-params": "bframes=0:rc-lookahead=0:threads=2:scenecut=0"}


def _pictures(folder: Path, wide: int, high: int) -> list[Path]:
    paths = []
    for number in range(FRAMES):
        view = View(1_795_541_000 + 40 * number, 57.6, -7.4, 5 - number / 12, 232, -5, 0, 0, 232, 9, 24, 36)
        picture = render(view, Exposure(0, 4, 4, 200), 480, 270, number)
        path = folder / f"{number:06d}.jpg"
        # Without its grain, on which an encoder would spend most of the time.
        cv2.imwrite(str(path), cv2.GaussianBlur(cv2.resize(picture, (wide, high)), (0, 0), 3))
        paths.append(path)
    return paths


def _bare(paths: list[Path], target: Path, size: tuple[int, int] | None) -> None:
    """Decode, make another size, encode: what anything that makes a film must do."""
    with av.open(str(target), "w") as film:
        stream = film.add_stream("libx264", rate=30, options=_PACE)
        stream.pix_fmt = "yuv420p"
        for n, path in enumerate(paths):
            picture = cv2.imdecode(np.fromfile(path, dtype=np.uint8), cv2.IMREAD_COLOR)
            if size is not None:
                picture = cv2.resize(picture, size, interpolation=cv2.INTER_AREA)
            if n == 0:
                stream.height, stream.width = picture.shape[:2]
            for packet in stream.encode(av.VideoFrame.from_ndarray(picture, format="bgr24")):
                film.mux(packet)
        for packet in stream.encode():
            film.mux(packet)


def _recipe(wide: int, high: int, output: dict[str, object] | None, sphere: bool = False) -> Recipe:
    mode = {"name": "Round", "projection": "sphere", "pixels_wide": wide, "pixels_high": high}
    body = {"pixels_wide": wide, "pixels_high": high} | ({"modes": [mode]} if sphere else {})
    shot = make_shot(
        kit=make_kit(body=body), timing={"fps": 30, "interval_s": 30, "frame_count": FRAMES},
        outputs=[output] if output else [], mode="Round" if sphere else "",
    )  # fmt: skip
    shot = Shot.model_validate_json(shot.model_dump_json())
    return Recipe(compile_shot(shot), shot.outputs[0] if output else None, tuple(range(FRAMES)), {})


def _made(recipe: Recipe, paths: list[Path], target: Path) -> None:
    encode(recipe.frames(Stills(dict(enumerate(paths))), recipe.film_frames()), Fraction(30), target)


_CROP: dict[str, object] = {
    "name": "Crop", "pixels_wide": 1280, "pixels_high": 720, "keys": [{"at_s": 0}, {"at_s": 4, "zoom": 1.3}],
}  # fmt: skip
_LOOK: dict[str, object] = {
    "name": "Look", "pixels_wide": 1280, "pixels_high": 720, "sphere": [{"at_s": 0}, {"at_s": 4, "yaw_deg": 60}],
}  # fmt: skip


_WORKER = """
import sys
from pathlib import Path
import cv2
from bench import film
cv2.setNumThreads(1)
folder = Path(sys.argv[1])
paths, recipe = sorted(folder.glob('*.jpg')), film._recipe(1920, 1080, film._CROP)
print('ready', flush=True)
sys.stdin.readline()
for n in sys.argv[2:]:
    film.part(recipe, paths, int(n), folder / f'part-{n}.mp4')
"""


def part(recipe: Recipe, paths: list[Path], number: int, target: Path) -> None:
    """A quarter of the film, as a worker makes it."""
    first = number * FRAMES // 4
    wanted = recipe.film_frames()[first : first + FRAMES // 4]
    encode(recipe.frames(Stills(dict(enumerate(paths))), wanted), Fraction(30), target, threads=1)


def _bare_remap(paths: list[Path], target: Path) -> None:
    """Decode, one map for all, encode."""
    y, x = np.mgrid[0:720, 0:1280].astype(np.float32)
    x, y = x * 1.1 + 200, y * 1.05 + 100
    with av.open(str(target), "w") as film:
        stream = film.add_stream("libx264", rate=30, options=_PACE)
        stream.pix_fmt, stream.width, stream.height = "yuv420p", 1280, 720
        for path in paths:
            picture = cv2.imdecode(np.fromfile(path, dtype=np.uint8), cv2.IMREAD_COLOR)
            picture = cv2.remap(picture, x, y, cv2.INTER_LINEAR)
            for packet in stream.encode(av.VideoFrame.from_ndarray(picture, format="bgr24")):
                film.mux(packet)
        for packet in stream.encode():
            film.mux(packet)


def rows() -> list[Row]:
    """The ratios of making films."""
    assert FRAMES <= PART_FRAMES
    with tempfile.TemporaryDirectory() as name:
        folder = Path(name)
        paths = _pictures(folder, 1920, 1080)
        whole = median_s(lambda: _bare(paths, folder / "bare.mp4", None), runs=3)
        plain = median_s(lambda: _made(_recipe(1920, 1080, None), paths, folder / "plain.mp4"), runs=3)
        sized = median_s(lambda: _bare(paths, folder / "sized.mp4", (1280, 720)), runs=3)
        crop = median_s(lambda: _made(_recipe(1920, 1080, _CROP), paths, folder / "crop.mp4"), runs=3)
        one, two = (together_s(_WORKER, [[name, *share] for share in shares]) for shares in (["0123"], ["01", "23"]))
        (folder / "round").mkdir()
        round_paths = _pictures(folder / "round", 2880, 1440)
        remap = median_s(lambda: _bare_remap(round_paths, folder / "remap.mp4"), runs=3)
        sphere = median_s(lambda: _made(_recipe(2880, 1440, _LOOK, True), round_paths, folder / "look.mp4"), runs=3)
    return [
        Row(f"assembling {FRAMES} frames / bare decode and encode", plain / whole, 1.3,
            detail=f"{plain:.2f} s / {whole:.2f} s"),
        Row("rendering a crop / bare decode, resize and encode", crop / sized, 1.4,
            detail=f"{crop:.2f} s / {sized:.2f} s"),
        Row("a picture out of a sphere / bare decode, remap and encode", sphere / remap, 2,
            detail=f"{sphere:.2f} s / {remap:.2f} s"),
        Row("two workers against one, time of one / of two, at least 1.6", 1.6 / (one / two), 1,
            detail=f"{one:.2f} s / {two:.2f} s = {one / two:.2f}"),
    ]  # fmt: skip
