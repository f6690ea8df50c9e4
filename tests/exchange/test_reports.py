"""A report in open forms: what is written is harmless, whole, and never rounded up to the whole."""

from __future__ import annotations

import csv
import io
import re
from dataclasses import replace

from openpyxl import load_workbook

from cronaca.core.reports import Report, ReportCell, ReportRow
from cronaca.exchange.reports import MEDIA_TYPES, in_all_forms
from cronaca.exchange.reports.page import percent

ROW = ReportRow("Line 1", (ReportCell("12.30 ?", "far above", 12.3), ReportCell("–", "", None)), 99.97, 98.0)
REPORT = Report(
    "Dryers", "Pastificio Ombralta", "Early 2026-11-25", "06:00 to 14:00", "Europe/Rome", "14:01",
    "", "fleet", (("Damper", "Travel", "%"), ("=Jam", "Starts", "")),
    (ROW, replace(ROW, name="Line 2", covered=None)),
)  # fmt: skip


def test_all_forms_are_there() -> None:
    assert set(in_all_forms(REPORT)) == set(MEDIA_TYPES) == {"html", "pdf", "csv", "xlsx"}


def test_percent_is_whole_only_where_it_is() -> None:
    assert [percent(one) for one in (99.97, 100.0, 0.0, None)] == ["99.9 %", "100 %", "0.0 %", "–"]


def test_tables_hold_numbers_and_no_formula() -> None:
    files = in_all_forms(REPORT)
    rows = list(csv.DictReader(io.StringIO(files["csv"].decode("utf-8-sig"))))
    assert [row["value"] for row in rows] == ["12.3", "", "12.3", ""]
    assert rows[1]["tag"] == "'=Jam"
    assert rows[2]["recorded %"] == "", "what is not known is empty"
    figures = list(load_workbook(io.BytesIO(files["xlsx"]))["Figures"].values)
    assert [row[3] for row in figures[1:]] == [12.3, None, 12.3, None]
    cell = load_workbook(io.BytesIO(files["xlsx"]))["Figures"]["B3"]
    assert (cell.value, cell.data_type) == ("=Jam", "s"), "a text, marked as one"


def test_the_page_tells_places_and_the_mean_of_rows() -> None:
    page = in_all_forms(REPORT)["html"].decode()
    assert "far above" in page
    assert "99.9 % of the window recorded, 98.0 % Good" in page
    assert "created late" not in page
    assert (
        "<strong>created late</strong>" in in_all_forms(replace(REPORT, late="created late"))["html"].decode()
    )


def test_many_pieces_are_put_below_each_other_and_nothing_is_too_large_for_the_paper() -> None:
    many = tuple(replace(ROW, name=f"Line {i}") for i in range(40))
    paper = in_all_forms(replace(REPORT, rows=many))["pdf"]
    few = in_all_forms(REPORT)["pdf"]
    assert paper.startswith(b"%PDF-")
    assert len(re.findall(rb"/Type /Page\b", few)) == 1
    assert len(paper) > len(few)
