"""Run all benchmarks, or those named, and print a table."""

import sys
import warnings

from bench import (
    begin,
    calling,
    compiling,
    desk,
    feeding,
    film,
    firing,
    honest,
    kills,
    lists,
    long,
    moves,
    nights,
    rehearsing,
    schools,
    starting,
)
from bench.table import Row, show

PARTS = {
    "begin": begin.rows,
    "lists": lists.rows,
    "compiling": compiling.rows,
    "schools": schools.rows,
    "moves": moves.rows,
    "film": film.rows,
    "feeding": feeding.rows,
    "rehearsing": rehearsing.rows,
    "desk": desk.rows,
    "firing": firing.rows,
    "calling": calling.rows,
    "honest": honest.rows,
    "starting": starting.rows,
}
# Each takes a quarter of an hour or more, with a Revani of its own: asked for by name.
LONG = {"kills": kills.rows, "long": long.rows, "nights": nights.rows}

if __name__ == "__main__":
    warnings.simplefilter("ignore")
    rows: list[Row] = []
    for name in sys.argv[1:] or PARTS:
        print(f"measuring {name} …", file=sys.stderr)
        rows += (PARTS | LONG)[name]()
    show(rows)
