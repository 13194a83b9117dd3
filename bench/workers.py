"""Processes that are ready before the clock begins."""

import subprocess
import sys
import time
from collections.abc import Sequence


def together_s(script: str, arguments: Sequence[Sequence[str]]) -> float:
    """How long processes take for their shares, from when all have printed `ready`; one for each list of arguments."""
    workers = [
        subprocess.Popen(
            [sys.executable, "-W", "ignore", "-c", script, *share],
            stdin=subprocess.PIPE, stdout=subprocess.PIPE, text=True,
        )
        for share in arguments
    ]  # fmt: skip
    for worker in workers:
        assert worker.stdout is not None and worker.stdout.readline() == "ready\n"
    begin = time.perf_counter()
    for worker in workers:
        assert worker.stdin is not None
        worker.stdin.write("go\n")
        worker.stdin.flush()
    for worker in workers:
        worker.wait()
    return time.perf_counter() - begin
