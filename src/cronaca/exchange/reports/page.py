"""A report as a page: one file, with all it needs."""

from __future__ import annotations

from jinja2 import Environment, PackageLoader, StrictUndefined

from cronaca.core.reports import Report

_PAGES = Environment(
    loader=PackageLoader("cronaca.exchange.reports", "."), autoescape=True, undefined=StrictUndefined,
    trim_blocks=True, lstrip_blocks=True,
)  # fmt: skip


def percent(value: float | None) -> str:
    """Percent in words; what is not known is a stroke. What is not whole is never rounded up to 100."""
    if value is None:
        return "–"
    return "100 %" if value >= 100.0 else f"{min(value, 99.9):.1f} %"


def to_html(report: Report) -> bytes:
    """The page."""
    return _PAGES.get_template("page.html").render(report=report, percent=percent).encode()
