"""A long run: memory, descriptors and files of the processes at its beginning and at its end."""

import os
import time
from pathlib import Path

from bench.own import Own, own_revani
from bench.table import Row
from revani.core.documents import Light
from revani.core.documents.timing import Timing
from tests.conftest import make_kit, make_shot

FRAMES = int(os.environ.get("REVANI_BENCH_FRAMES", "20000"))
_WATCHED = ("runner", "web", "worker", "mover")
_SETTLED = 1_000


def rows() -> list[Row]:
    """How many times what each had after a thousand frames it has at the end."""
    kit = make_kit(body={"overhead_s": "0.2", "minimum_interval_s": "0.5", "bytes_per_frame": 1_000_000})
    shot = make_shot(
        name="Long", kit=kit, timing=Timing(fps=30, interval_s=10, frame_count=FRAMES),
        light=Light(school="fixed", aperture=2.8, shutter_s="1/60", iso=100),
    )  # fmt: skip
    with own_revani() as own:
        own.ask("POST", "/api/shots", json=shot.model_dump(mode="json"))
        order = {"shot_id": str(shot.id), "when": "planned", "speed": 110, "anyway": True}
        run = own.ask("POST", "/api/runs", json=order).json()
        first, view = {}, run
        while view["state"] in ("armed", "running"):
            time.sleep(1)
            view = own.ask("GET", f"/api/runs/{run['id']}").json()
            if not first and view["taken"] + view["missed"] >= _SETTLED:
                first = _sizes(own)
        last = _sizes(own)
    detail = f"{view['taken']:,} of {FRAMES:,} frames taken"
    found = []
    for name in _WATCHED:
        (memory, descriptors), (memory_then, descriptors_then) = last[name], first[name]
        found.append(Row(f"memory of the {name}", memory / memory_then, 1.25, "×", f"{memory / 1e6:.0f} MB; {detail}"))
        found.append(Row(f"descriptors of the {name}", descriptors - descriptors_then, 3, "more", f"{descriptors}"))
    spools = last["spool"][0] - first["spool"][0]
    return [*found, Row("files in the spool", spools, 0, "more")]


def _sizes(own: Own) -> dict[str, tuple[int, int]]:
    """Resident bytes and open descriptors of each process. Source: proc(5)."""
    found = {}
    for name, process in own.children.items():
        pages = int(Path(f"/proc/{process.pid}/statm").read_text().split()[1])
        found[name] = pages * os.sysconf("SC_PAGE_SIZE"), len(os.listdir(f"/proc/{process.pid}/fd"))
    found["spool"] = len(list((own.folder / "spool").iterdir())), 0
    return found
