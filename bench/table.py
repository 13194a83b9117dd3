"""What a benchmark says, and how it is printed."""

import statistics
import time
from collections.abc import Callable
from dataclasses import dataclass


@dataclass(frozen=True)
class Row:
    """A figure with its bound; lower is better for all of them."""

    what: str
    figure: float
    most: float
    unit: str = "×"
    detail: str = ""


def median_s(work: Callable[[], object], runs: int = 9, prepare: Callable[[], object] | None = None) -> float:
    """Median seconds of a piece of work, after one run that is not counted."""
    times = []
    for run in range(runs + 1):
        if prepare:
            prepare()
        begin = time.perf_counter()
        work()
        if run:
            times.append(time.perf_counter() - begin)
    return statistics.median(times)


def show(rows: list[Row]) -> None:
    """Print the table."""
    wide = max(len(row.what) for row in rows)
    for row in rows:
        kept = "kept" if row.figure <= row.most else "OVER"
        print(f"{row.what:<{wide}}  {row.figure:9.2f} {row.unit:<3} at most {row.most:g}  {kept}  {row.detail}")
