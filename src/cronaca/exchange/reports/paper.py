"""A report on A4 paper."""

from __future__ import annotations

from dataclasses import replace
from io import BytesIO
from typing import Final

from reportlab.lib import colors
from reportlab.lib.pagesizes import A4, landscape
from reportlab.lib.styles import ParagraphStyle, getSampleStyleSheet
from reportlab.lib.units import mm
from reportlab.platypus import Flowable, LongTable, Paragraph, SimpleDocTemplate, Spacer, TableStyle

from cronaca.core.reports import Report
from cronaca.exchange.reports.page import percent

_INK: Final = colors.HexColor("#23282B")
_QUIET: Final = colors.HexColor("#5B6164")
_RULE: Final = colors.HexColor("#DDD7CA")
_QUIETLY: Final = ParagraphStyle("quiet", fontName="Helvetica", fontSize=9, leading=12, textColor=_QUIET)
_MOST_UPRIGHT: Final = 4
"""More pieces of equipment than these need the paper lying."""
_MOST_ACROSS: Final = 8
"""More make a second table below."""
_STYLE: Final = TableStyle([
    ("FONT", (0, 0), (-1, -1), "Helvetica", 8),
    ("TEXTCOLOR", (0, 0), (-1, 0), _QUIET),
    ("LINEBELOW", (0, 0), (-1, -1), 0.4, _RULE),
    ("ALIGN", (2, 0), (-1, -1), "RIGHT"),
    ("VALIGN", (0, 0), (-1, -1), "TOP"),
])  # fmt: skip


def to_pdf(report: Report) -> bytes:
    """The document; its table's head is repeated on every page."""
    size = A4 if len(report.rows) <= _MOST_UPRIGHT else landscape(A4)
    file = BytesIO()
    document = SimpleDocTemplate(
        file, pagesize=size, title=f"{report.title}, {report.period}", author=report.plant,
        leftMargin=15 * mm, rightMargin=15 * mm, topMargin=15 * mm, bottomMargin=15 * mm,
    )  # fmt: skip
    tables: list[Flowable] = []
    for i in range(0, len(report.rows), _MOST_ACROSS):
        some = replace(report, rows=report.rows[i : i + _MOST_ACROSS])
        tables += [Spacer(1, 4 * mm), _table(some)]
    note = Paragraph(_safe(report.note), _QUIETLY)
    document.build([*_head(report), *tables, Spacer(1, 3 * mm), note])
    return file.getvalue()


def _table(report: Report) -> Flowable:
    table = LongTable(_cells(report), repeatRows=1, hAlign="LEFT")
    off = [
        ("FONT", (2 + x, 1 + y), (2 + x, 1 + y), "Helvetica-Bold", 8)
        for x, row in enumerate(report.rows)
        for y, cell in enumerate(row.cells)
        if cell.place
    ]
    table.setStyle(_STYLE)
    table.setStyle(TableStyle(off))
    return table


def _head(report: Report) -> list[Flowable]:
    title = ParagraphStyle("title", parent=getSampleStyleSheet()["Heading2"], textColor=_INK)
    late = f" · <b>{_safe(report.late)}</b>" if report.late else ""
    return [
        Paragraph(_safe(f"{report.title}: {report.period}"), title),
        Paragraph(_safe(f"{report.plant} · {report.window} ({report.zone})"), _QUIETLY),
        Paragraph(f"{_safe(f'Made {report.made}')}{late} · {_safe(f'normal: {report.norm}')}", _QUIETLY),
        Paragraph(
            _safe(f"{percent(report.covered)} of the window recorded, {percent(report.good)} Good"), _QUIETLY
        ),
    ]


def _cells(report: Report) -> list[list[str]]:
    head = ["Tag", "Statistic", *(row.name for row in report.rows)]
    lines = [
        [member, f"{stat}, {unit}" if unit else stat, *(_cell(row.cells[i].text, row.cells[i].place)
                                                          for row in report.rows)]
        for i, (member, stat, unit) in enumerate(report.columns)
    ]  # fmt: skip
    return [
        head, *lines,
        ["Recorded", "% of the window", *(percent(row.covered) for row in report.rows)],
        ["Good", "% of the window", *(percent(row.good) for row in report.rows)],
    ]  # fmt: skip


def _cell(text: str, place: str) -> str:
    return f"{text}\n{place}" if place else text


def _safe(text: str) -> str:
    return text.replace("&", "&amp;").replace("<", "&lt;").replace(">", "&gt;")
