"""How late frames are fired in real time: 120 frames, one a second, by the real runner and camera."""

import statistics
import threading
import time
from collections.abc import Callable, Iterator
from contextlib import contextmanager

import httpx
import numpy as np

from bench.table import Row
from revani.core.documents.timing import Timing
from revani.settings import settings
from tests.conftest import make_kit, make_shot

HOME = f"http://127.0.0.1:{settings().port}"
FRAMES = 120


def rows() -> list[Row]:
    """Lateness while nothing else is asked, and while much is."""
    quiet = _lateness_ms()
    with loaded() as told:
        busy = _lateness_ms()
    drift = float(np.polyfit(range(len(quiet)), quiet, 1)[0]) * FRAMES
    return [
        Row("lateness of firing at × 1, p99", _p99(quiet), 20, "ms", _detail(quiet)),
        Row("the same under load, p99", _p99(busy), 20, "ms", f"{_detail(busy)}; {told()}"),
        Row("drift over the run", abs(drift), 5, "ms"),
    ]


def _p99(late: list[float]) -> float:
    return statistics.quantiles(late, n=100, method="inclusive")[-1]


def _detail(late: list[float]) -> str:
    return f"median {statistics.median(late):.1f} ms, {len(late)} frames"


@contextmanager
def loaded() -> Iterator[Callable[[], str]]:
    """Two films at once, twenty plans a second, and fifty pages that watch: what the house must bear while it fires."""
    over, plans, heard = threading.Event(), [0], [0]
    document = make_shot(name="Load").model_dump(mode="json")
    with httpx.Client(base_url=HOME, trust_env=False, timeout=60) as http:
        runs = http.get("/api/runs").json()
    done = next(run for run in runs if run["taken"] > 200 and not run["live"])

    def plan() -> None:
        with httpx.Client(base_url=HOME, trust_env=False, timeout=60) as own:
            while not over.is_set():
                begin = time.monotonic()
                if own.post("/api/programs", json={"shot": document, "edits": []}).is_success:
                    plans[0] += 1
                over.wait(max(0.0, 0.2 - (time.monotonic() - begin)))

    def watch() -> None:
        with httpx.Client(base_url=HOME, trust_env=False, timeout=None) as own:
            live = next((run for run in own.get("/api/runs").json() if run["state"] in ("armed", "running")), done)
            with own.stream("GET", f"/api/runs/{live['id']}/events") as events:
                for _ in events.iter_lines():
                    heard[0] += 1
                    if over.is_set():
                        return

    def assemble() -> None:
        with httpx.Client(base_url=HOME, trust_env=False, timeout=60) as own:
            while not over.is_set():
                films = own.get(f"/api/runs/{done['id']}/films").json()
                if not any(film["state"] in ("waiting", "working") for film in films):
                    for _ in range(2):
                        own.post(f"/api/runs/{done['id']}/films")
                over.wait(1)

    # Pages begin to watch once the run that is measured is there.
    def watch_later() -> None:
        if not over.wait(5):
            for _ in range(50):
                threading.Thread(target=watch, daemon=True).start()

    for work in [plan] * 4 + [assemble, watch_later]:
        threading.Thread(target=work, daemon=True).start()
    begin = time.monotonic()
    try:
        yield lambda: f"{plans[0] / (time.monotonic() - begin):.0f} plans a second, {heard[0]} lines heard by 50 pages"
    finally:
        over.set()


def _lateness_ms() -> list[float]:
    """Lateness of the frames of one run in real time."""
    kit = make_kit(body={"overhead_s": "0.2", "minimum_interval_s": "0.5"})
    light = {"school": "fixed", "shutter_s": "1/60", "aperture": 2.8}
    shot = make_shot(name="Bench firing", kit=kit, light=light, timing=Timing(fps=30, interval_s=1, frame_count=FRAMES))
    with httpx.Client(base_url=HOME, trust_env=False, timeout=30) as http:
        http.post("/api/shots", json=shot.model_dump(mode="json")).raise_for_status()
        order = {"shot_id": str(shot.id), "when": "now", "speed": 1, "anyway": True, "queue": True}
        run = http.post("/api/runs", json=order).raise_for_status().json()
        while http.get(f"/api/runs/{run['id']}").json()["state"] in ("armed", "running"):
            time.sleep(1)
        frames = http.get(f"/api/runs/{run['id']}/frames").json()
        http.put(f"/api/shots/{shot.id}?archived=true", json=shot.model_dump(mode="json"), headers={"If-Match": "1"})
    return [frame["late_s"] * 1000 for frame in frames if frame["late_s"] is not None]
