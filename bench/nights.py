"""Five hundred nights with seeded faults, deaths of the runner and changes by hand: is every journal true?"""

import os
import subprocess
import sys
import tempfile
import time
from collections import Counter
from concurrent.futures import ProcessPoolExecutor
from pathlib import Path
from typing import NamedTuple

import httpx

from bench.table import Row
from tests.conftest import REVANI, free_ports
from tests.nights import a_night

NIGHTS = int(os.environ.get("REVANI_BENCH_NIGHTS", "500"))
AT_ONCE = int(os.environ.get("REVANI_BENCH_AT_ONCE", "4"))
SEED = int(os.environ.get("REVANI_BENCH_SEED", "1"))


def rows() -> list[Row]:
    """Nights of which something is not true; what happened in them is told beside it."""
    shares = [range(SEED + first, SEED + NIGHTS, AT_ONCE) for first in range(AT_ONCE)]
    happened: Counter[str] = Counter()
    untrue = taken = missed = 0
    with ProcessPoolExecutor(AT_ONCE) as pool:
        for share in pool.map(_shot, shares):
            happened += share.happened
            untrue, taken, missed = untrue + share.untrue, taken + share.taken, missed + share.missed
    told = ", ".join(f"{kind} {many}" for kind, many in happened.most_common())
    return [Row(f"of {NIGHTS} nights not true", untrue, 0, "", f"{taken:,} frames taken, {missed:,} missed; {told}")]


class _Share(NamedTuple):
    """What came of some of the nights."""

    happened: Counter[str]
    untrue: int
    taken: int
    missed: int


def _shot(seeds: range) -> _Share:
    """Shoot nights one after the other, on a camera of their own."""
    folder = Path(tempfile.mkdtemp(prefix="revani-nights-"))
    port = free_ports(10)
    environment = os.environ | {"REVANI_PORT": str(port), "REVANI_DATA_DIR": str(folder), "PYTHONWARNINGS": "ignore"}
    camera = subprocess.Popen([REVANI, "camera"], env=environment, stderr=subprocess.DEVNULL)
    address = f"http://127.0.0.1:{port + 1}"
    happened: Counter[str] = Counter()
    untrue = taken = missed = 0
    try:
        _until_up(address)
        for seed in seeds:
            night = a_night(seed, address, folder)
            happened.update(night.happened)
            taken += sum(frame.outcome == "taken" for frame in night.journal)
            missed += sum(frame.outcome == "missed" for frame in night.journal)
            if night.untrue:
                untrue += 1
                print(f"night {seed}: {'; '.join(night.untrue)}", file=sys.stderr, flush=True)
    finally:
        camera.terminate()
        camera.wait(20)
    return _Share(happened, untrue, taken, missed)


def _until_up(address: str) -> None:
    for _ in range(300):
        try:
            if httpx.get(f"{address}/status", timeout=2).status_code == 200:
                return
        except httpx.HTTPError:
            pass
        time.sleep(0.1)
    raise RuntimeError("The camera did not come up.")
