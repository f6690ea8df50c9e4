"""A report as tables: one row a figure."""

from __future__ import annotations

from collections.abc import Iterator
from io import BytesIO
from typing import Final

from cronaca.core.reports import Report
from cronaca.exchange import sheets

_HEADING: Final = ("equipment", "tag", "statistic", "value", "unit", "place", "recorded %", "good %")
Cell = str | float | None


def to_csv(report: Report) -> bytes:
    """RFC 4180 with a byte order mark, as spreadsheets read it; what is not a number is empty."""
    return sheets.write_csv(_HEADING, _rows(report))


def to_xlsx(report: Report) -> bytes:
    """A workbook with the figures as numbers, and a sheet about the report."""
    about = (
        ("Report", report.title), ("Period", report.period), ("Plant", report.plant),
        ("Window", report.window), ("Time zone", report.zone), ("Made", report.made), ("Late", report.late),
        ("Normal", report.norm), ("Recorded, %", report.covered), ("Good, %", report.good),
        ("Note", report.note),
    )  # fmt: skip
    file = BytesIO()
    sheets.write_workbook(file, [("Figures", _HEADING, _rows(report)), ("Report", (), about)])
    return file.getvalue()


def _rows(report: Report) -> Iterator[tuple[Cell, ...]]:
    for row in report.rows:
        for (member, stat, unit), cell in zip(report.columns, row.cells, strict=True):
            yield (
                row.name, member, stat, cell.number, unit, cell.place, row.covered, row.good,
            )  # fmt: skip
