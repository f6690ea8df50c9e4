"""A report as tables: one row a figure."""

from __future__ import annotations

import csv
from collections.abc import Iterator
from io import BytesIO, StringIO
from typing import Final

from openpyxl import Workbook
from openpyxl.styles import Font

from cronaca.core.reports import Report
from cronaca.exchange.shown import harmless

_HEADING: Final = ("equipment", "tag", "statistic", "value", "unit", "place", "recorded %", "good %")
Cell = str | float | None


def to_csv(report: Report) -> bytes:
    """RFC 4180 with a byte order mark, as spreadsheets read it; what is no number is empty."""
    file = StringIO(newline="")
    writer = csv.writer(file)
    writer.writerow(_HEADING)
    writer.writerows(_rows(report))
    return file.getvalue().encode("utf-8-sig")


def to_xlsx(report: Report) -> bytes:
    """A workbook with the figures as numbers, and a sheet about the report."""
    book = Workbook()
    sheet = book.active
    sheet.title = "Figures"
    sheet.append(_HEADING)
    for cell in sheet[1]:
        cell.font = Font(bold=True)
    for row in _rows(report):
        sheet.append(row)
    sheet.freeze_panes = "A2"
    about = book.create_sheet("Report")
    for line in (
        ("Report", report.title), ("Period", report.period), ("Plant", report.plant),
        ("Window", report.window), ("Time zone", report.zone), ("Made", report.made), ("Late", report.late),
        ("Normal", report.norm), ("Recorded, %", report.covered), ("Good, %", report.good),
        ("Note", report.note),
    ):  # fmt: skip
        about.append(tuple(harmless(one) if isinstance(one, str) else one for one in line))
    file = BytesIO()
    book.save(file)
    return file.getvalue()


def _rows(report: Report) -> Iterator[tuple[Cell, ...]]:
    for row in report.rows:
        for (member, stat, unit), cell in zip(report.columns, row.cells, strict=True):
            yield (
                harmless(row.name), harmless(member), harmless(stat), cell.number, harmless(unit), cell.place,
                row.covered, row.good,
            )  # fmt: skip
