"""How late frames are fired in real time: 60 frames, one a second, by the real runner and camera."""

import statistics
import time

import httpx
import numpy as np

from bench.table import Row
from revani.core.timing import Timing
from revani.settings import settings
from tests.conftest import make_kit, make_shot

HOME = f"http://127.0.0.1:{settings().port}"
FRAMES = 60


def rows() -> list[Row]:
    """The 99th percentile of lateness, and the drift over the run."""
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
    late = [frame["late_s"] * 1000 for frame in frames if frame["late_s"] is not None]
    drift = float(np.polyfit(range(len(late)), late, 1)[0]) * FRAMES
    p99 = statistics.quantiles(late, n=100)[-1]
    return [
        Row(
            "lateness of firing at × 1, p99",
            p99,
            20,
            "ms",
            f"median {statistics.median(late):.1f} ms, {len(late)} frames",
        ),
        Row("drift over the run", abs(drift), 5, "ms"),
    ]
