"""The table of a shot's ways as CSV: a column a way, the best of a row with a star."""

import csv
import io
from collections.abc import Sequence

from revani.core.ways.table import WayRow


def ways_csv(names: Sequence[str], rows: Sequence[WayRow]) -> str:
    """The table as text, its first line the names."""
    out = io.StringIO()
    write = csv.writer(out, lineterminator="\r\n")
    write.writerow(["", *names])
    for row in rows:
        write.writerow([row.label, *(f"{cell.text} *" if cell.best else cell.text for cell in row.cells)])
    return out.getvalue()
