"""A report in open forms: HTML, PDF, CSV, XLSX."""

from __future__ import annotations

from cronaca.core.reports import Report

MEDIA_TYPES = {
    "html": "text/html; charset=utf-8",
    "pdf": "application/pdf",
    "csv": "text/csv; charset=utf-8",
    "xlsx": "application/vnd.openxmlformats-officedocument.spreadsheetml.sheet",
}

__all__ = ["MEDIA_TYPES", "in_all_forms"]


def in_all_forms(report: Report) -> dict[str, bytes]:
    """The files by form."""
    # Only now: the libraries for pages and PDF take a part of a second, which no start should wait for.
    from cronaca.exchange.reports.page import to_html
    from cronaca.exchange.reports.paper import to_pdf
    from cronaca.exchange.reports.tables import to_csv, to_xlsx

    return {
        "html": to_html(report), "pdf": to_pdf(report), "csv": to_csv(report), "xlsx": to_xlsx(report)
    }  # fmt: skip
