"""How quick a small question is from the command line."""

import subprocess
import sys
from pathlib import Path

from bench.table import Row, median_s

REVANI = str(Path(sys.executable).parent / "revani")
ASK = [REVANI, "calc", "timing", '{"fps": 30, "interval_s": 2, "playback_s": 10}']


def rows() -> list[Row]:
    """A calculator against the import of what it computes with."""

    def run(command: list[str]) -> float:
        return median_s(lambda: subprocess.run(command, check=True, capture_output=True), runs=11)

    bare, asked = run([sys.executable, "-c", "import numpy, pydantic"]), run(ASK)
    return [Row("`revani calc timing` / python that imports numpy and pydantic", asked / bare, 2.5,
                detail=f"{asked * 1000:.0f} ms / {bare * 1000:.0f} ms")]  # fmt: skip
