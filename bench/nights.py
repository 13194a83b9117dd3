"""Five hundred nights with seeded faults, deaths of the runner and changes by hand: is every journal true?"""

import os
import subprocess
import sys
import tempfile
import time
from collections import Counter
from pathlib import Path

import httpx

from bench.table import Row
from tests.conftest import REVANI, free_ports
from tests.nights import a_night

NIGHTS = int(os.environ.get("REVANI_BENCH_NIGHTS", "500"))
SEED = int(os.environ.get("REVANI_BENCH_SEED", "1"))


def rows() -> list[Row]:
    """Nights of which something is not true; what happened in them is told beside it."""
    folder = Path(tempfile.mkdtemp(prefix="revani-nights-"))
    port = free_ports(10)
    environment = os.environ | {"REVANI_PORT": str(port), "REVANI_DATA_DIR": str(folder), "PYTHONWARNINGS": "ignore"}
    camera = subprocess.Popen([REVANI, "camera"], env=environment, stderr=subprocess.DEVNULL)
    address = f"http://127.0.0.1:{port + 1}"
    happened: Counter[str] = Counter()
    untrue = taken = missed = 0
    try:
        _until_up(address)
        for seed in range(SEED, SEED + NIGHTS):
            night = a_night(seed, address, folder)
            happened.update(night.happened)
            taken += sum(frame.outcome == "taken" for frame in night.journal)
            missed += sum(frame.outcome == "missed" for frame in night.journal)
            if night.untrue:
                untrue += 1
                print(f"night {seed}: {'; '.join(night.untrue)}", file=sys.stderr)
    finally:
        camera.terminate()
        camera.wait(20)
    told = ", ".join(f"{kind} {many}" for kind, many in happened.most_common())
    return [Row(f"of {NIGHTS} nights not true", untrue, 0, "", f"{taken:,} frames taken, {missed:,} missed; {told}")]


def _until_up(address: str) -> None:
    for _ in range(300):
        try:
            if httpx.get(f"{address}/status", timeout=2).status_code == 200:
                return
        except httpx.HTTPError:
            pass
        time.sleep(0.1)
    raise RuntimeError("The camera did not come up.")
