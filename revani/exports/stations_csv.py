"""The stations of a walk as a table: where, which way, when. Source: RFC 4180."""

import csv
import io
from datetime import UTC, datetime

from revani.core.program.compiled import Program
from revani.core.quantities.refusal import Refusal

_COLUMNS = ("number", "at", "along_m", "right_mm", "ahead_mm", "heading_deg", "tilt_deg", "film_s", "scene_ev")


def stations_csv(program: Program) -> str:
    """A line a frame of a walk. Raises Refusal where the shot is none."""
    carried = program.carried
    if carried is None:
        raise Refusal("walk", "This shot is no walk.")
    text = io.StringIO()
    rows = csv.writer(text, lineterminator="\r\n")
    rows.writerow(_COLUMNS)
    pose, along = carried.pose(program.t_s), carried.along_m(program.t_s)
    for i, at_s in enumerate(program.at_s.tolist()):
        rows.writerow(
            [
                i + 1, datetime.fromtimestamp(at_s, UTC).isoformat(), f"{along[i]:.3f}", f"{pose.right_mm[i]:.0f}",
                f"{pose.ahead_mm[i]:.0f}", f"{pose.heading_deg[i] % 360:.2f}", f"{pose.tilt_deg[i]:.2f}",
                f"{program.film_s[i]:.4f}", f"{program.scene_ev[i]:.2f}",
            ]
        )  # fmt: skip
    return text.getvalue()
