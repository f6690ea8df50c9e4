"""Samples for people: each type as text, times in the plant's zone, what a workbook cannot hold is
refused."""

from __future__ import annotations

import csv
from pathlib import Path

import numpy as np
import pyarrow.parquet as papq
import pytest
from openpyxl import load_workbook

from cronaca.core import quality as q
from cronaca.core.errors import InvalidInput
from cronaca.core.model import SECOND, Series, ValueType
from cronaca.exchange.sheets import MOST_SHEET_ROWS
from cronaca.exchange.shown import Form, Shown, write_shown

SPRING = 1_774_746_000 * SECOND
"""29 March 2026, 01:00:00 UTC: the moment at which Rome goes from 01:59:59 to 03:00."""


def parts() -> list[Shown]:
    ts = [SPRING - SECOND, SPRING]
    return [
        Shown("Line 1 Zone 1 air temperature", "°C", Series.of(ValueType.FLOAT, ts, [0.1, 61.25])),
        Shown(
            "Line 1 Counter",
            "",
            Series.of(ValueType.INTEGER, ts, [2**62 + 1, 5], [q.GOOD, q.BAD_OUT_OF_RANGE]),
        ),
        Shown("Line 1 Dryer door open", "", Series.of(ValueType.BOOLEAN, ts, [1, 0])),
        Shown("Line 1 State", "", Series.of(ValueType.STATE, ts, [3, 4])),
        Shown("Line 1 Lot", "", Series.of(ValueType.TEXT, ts, [7, 8])),
        Shown("=SUM(A1)", "", Series.of(ValueType.FLOAT, ts[:1], [1.5])),
    ]


def test_each_type_is_exact_in_csv_and_times_have_their_offset(tmp_path: Path) -> None:
    path = tmp_path / "x.csv"
    write_shown(path, Form.CSV, parts(), "Europe/Rome", lambda _: {7: "A-4711", 8: 'semola, "fine"'})
    with path.open(encoding="utf-8", newline="") as stream:
        rows = list(csv.DictReader(stream))
    assert [row["value"] for row in rows] == [
        "0.1", "61.25", str(2**62 + 1), "", "true", "false", "3", "4", "A-4711", 'semola, "fine"', "1.5",
    ]  # fmt: skip
    assert rows[0]["time"] == "2026-03-29T01:59:59.000000+01:00"
    assert rows[1]["time"] == "2026-03-29T03:00:00.000000+02:00", "the hour in between was left out"
    assert rows[3]["quality"] == "Bad, out of range"
    assert rows[-1]["tag"] == "'=SUM(A1)", "no spreadsheet takes a name for a formula"


def test_a_workbook_has_numbers_where_there_are_numbers(tmp_path: Path) -> None:
    path = tmp_path / "x.xlsx"
    write_shown(path, Form.XLSX, parts(), "Europe/Rome", lambda _: {7: "A-4711", 8: "b"})
    sheet = load_workbook(path).active
    assert sheet is not None
    values = [row[2] for row in sheet.iter_rows(min_row=2, values_only=True)]
    assert values[:2] == [0.1, 61.25]
    assert values[3] is None
    assert values[4:10] == ["true", "false", 3, 4, "A-4711", "b"]


def test_parquet_keeps_the_instant_and_the_zone(tmp_path: Path) -> None:
    path = tmp_path / "x.parquet"
    write_shown(path, Form.PARQUET, parts()[:1], "Europe/Rome", lambda _: {})
    table = papq.read_table(path)
    assert str(table.schema.field("time").type) == "timestamp[us, tz=Europe/Rome]"
    assert round(table["time"][1].as_py().timestamp() * SECOND) == SPRING


def test_more_rows_than_a_sheet_holds_are_refused_before_anything_is_written(tmp_path: Path) -> None:
    count = MOST_SHEET_ROWS + 1
    many = Series.of(ValueType.FLOAT, np.arange(count), np.zeros(count))
    with pytest.raises(InvalidInput, match="more than 1,048,575 rows"):
        write_shown(tmp_path / "x.xlsx", Form.XLSX, [Shown("t", "", many)], "UTC", lambda _: {})
    assert not (tmp_path / "x.xlsx").exists()


def test_nothing_is_a_file_with_a_heading(tmp_path: Path) -> None:
    empty = Shown("t", "", Series.empty(ValueType.FLOAT))
    for form in Form:
        path = tmp_path / f"x.{form.value}"
        write_shown(path, form, [empty], "UTC", lambda _: {})
        assert path.stat().st_size > 0
    assert (tmp_path / "x.csv").read_text().strip().replace('"', "") == "time,tag,value,unit,quality"
