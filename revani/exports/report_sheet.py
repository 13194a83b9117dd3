"""The morning report as a sheet: PDF, text or one page that a phone keeps, by the same hands as the field sheet."""

from collections.abc import Sequence

from revani.core.rigup.field_sheet import FieldSheet, Part
from revani.core.shown.report import Report, ReportRow


def as_sheet(report: Report) -> FieldSheet:
    """The report laid out: the lines, what to do, then the details."""
    todo = report.todo or ("Nothing: the same again works as it stands.",)
    lines = tuple((one.label, one.text) for one in report.lines)
    parts = [
        Part(title="What became of it", heads=("about", "what became of it"), rows=lines),
        Part(title="Before the next time", lines=todo, ticked=bool(report.todo)),
    ]
    for verdict in report.verdicts:
        said = tuple(why.text for why in verdict.reasons) or (verdict.told,)
        parts.append(Part(title=f"Looked at after frame {verdict.after:,}", lines=said))
    for title, rows in (("Missed", report.missed), ("Came otherwise", report.otherwise)):
        if rows:
            parts.append(Part(title=title, heads=("frame", "at", ""), rows=_cells(rows)))
    if report.notes:
        parts.append(Part(title="Noted by the runner", lines=report.notes))
    return FieldSheet(
        name=f"{report.name}: the morning after", under=report.under, parts=tuple(parts), wider=None, cards=(),
        cards_told="",
    )  # fmt: skip


def _cells(rows: Sequence[ReportRow]) -> tuple[tuple[str, ...], ...]:
    return tuple((one.frames, one.clock, one.told) for one in rows)
