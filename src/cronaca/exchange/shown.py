"""Samples of a trend as a file for people: one row a sample, times in the plant's zone."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from datetime import UTC, datetime, timedelta
from enum import StrEnum
from pathlib import Path
from typing import Final
from zoneinfo import ZoneInfo

import pyarrow as pa
import pyarrow.csv as pacsv
import pyarrow.parquet as papq
from openpyxl import Workbook

from cronaca.core import quality as q
from cronaca.core.errors import InvalidInput
from cronaca.core.model import Series, ValueType

MOST_ROWS: Final = 1_048_575
"""What a sheet of a workbook holds below its heading."""
_HEADING: Final = ("time", "tag", "value", "unit", "quality")
_EPOCH: Final = datetime(1970, 1, 1, tzinfo=UTC)
_GUARD: Final = ("=", "+", "-", "@")


class Form(StrEnum):
    """Open formats."""

    CSV = "csv"
    XLSX = "xlsx"
    PARQUET = "parquet"


@dataclass(frozen=True, slots=True)
class Shown:
    """The samples of one tag."""

    tag: str
    unit: str
    series: Series


def write_shown(path: Path, form: Form, parts: Sequence[Shown], zone: str, texts: Mapping[int, str]) -> None:
    """Writes samples of tags, one tag after the other; `texts` are those of text tags' codes. Raises
    InvalidInput for more rows than a workbook holds."""
    if form is Form.XLSX:
        _write_workbook(path, parts, ZoneInfo(zone), texts)
        return
    table = pa.concat_tables([_table(one, zone, texts) for one in parts])
    if form is Form.PARQUET:
        papq.write_table(table, path, compression="zstd")
        return
    times = pa.array(_local_texts(table["time"].cast(pa.int64()).to_pylist(), ZoneInfo(zone)), pa.string())
    pacsv.write_csv(table.set_column(0, "time", times), path, pacsv.WriteOptions(quoting_style="needed"))


def _table(one: Shown, zone: str, texts: Mapping[int, str]) -> pa.Table:
    """Values as text in CSV would lose nothing; in Parquet a column holds one type: numbers or texts."""
    series, count = one.series, len(one.series)
    return pa.table(
        {
            "time": pa.array(series.ts_us).cast(pa.timestamp("us", tz=zone)),
            "tag": pa.array([harmless(one.tag)] * count, pa.string()),
            "value": pa.array(_values(series, texts), pa.string()),
            "unit": pa.array([one.unit] * count, pa.string()),
            "quality": pa.array([q.describe(code) for code in series.quality.tolist()], pa.string()),
        }
    )


def _values(series: Series, texts: Mapping[int, str]) -> list[str | None]:
    bad = q.is_bad(series.quality).tolist()
    if series.value_type is ValueType.TEXT:
        found = [texts.get(code, "") for code in series.values.tolist()]
    elif series.value_type is ValueType.BOOLEAN:
        found = ["true" if value else "false" for value in series.values.tolist()]
    else:
        found = [repr(value) for value in series.values.tolist()]
    return [None if lost else value for value, lost in zip(found, bad, strict=True)]


def _local_texts(times_us: Sequence[int], zone: ZoneInfo) -> list[str]:
    return [
        (_EPOCH + timedelta(microseconds=at)).astimezone(zone).isoformat(timespec="microseconds")
        for at in times_us
    ]


def _write_workbook(path: Path, parts: Sequence[Shown], zone: ZoneInfo, texts: Mapping[int, str]) -> None:
    rows = sum(len(one.series) for one in parts)
    if rows > MOST_ROWS:
        problem = f"it would have {rows:,} rows, a sheet holds {MOST_ROWS:,}"
        raise InvalidInput("form", problem, "Take CSV or Parquet, a shorter window, or what is shown.")
    book = Workbook(write_only=True)
    sheet = book.create_sheet("Samples")
    sheet.freeze_panes = "A2"
    sheet.append(_HEADING)
    for one in parts:
        numbers = one.series.value_type in (ValueType.FLOAT, ValueType.INTEGER, ValueType.STATE)
        plain = one.series.values.tolist() if numbers else _values(one.series, texts)
        for at, value, text, code in zip(
            _local_texts(one.series.ts_us.tolist(), zone), plain, _values(one.series, texts),
            one.series.quality.tolist(), strict=True,
        ):  # fmt: skip
            shown = None if text is None else value
            sheet.append([at, harmless(one.tag), shown, one.unit, q.describe(code)])
    book.save(path)


def harmless(text: str) -> str:
    """A text that a spreadsheet would take for a formula gets an apostrophe."""
    return f"'{text}" if text.startswith(_GUARD) else text
