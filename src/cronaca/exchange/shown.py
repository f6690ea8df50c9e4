"""Samples of a trend as a file for people: one row a sample, times in the plant's zone."""

from __future__ import annotations

from collections.abc import Callable, Iterable, Iterator, Mapping, Sequence
from dataclasses import dataclass
from datetime import UTC, datetime, timedelta
from enum import StrEnum
from pathlib import Path
from typing import Final
from zoneinfo import ZoneInfo

import pyarrow as pa
import pyarrow.csv as pacsv
import pyarrow.parquet as papq

from cronaca.core import quality as q
from cronaca.core.model import Series, ValueType
from cronaca.exchange import sheets
from cronaca.exchange.guarding import Cell, harmless

_HEADING: Final = ("time", "tag", "value", "unit", "quality")
_EPOCH: Final = datetime(1970, 1, 1, tzinfo=UTC)


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


def write_shown(
    path: Path, form: Form, parts: Iterable[Shown], zone: str, texts_of: Callable[[Series], Mapping[int, str]]
) -> None:
    """Writes samples part by part as they come, so that memory stays bounded; `texts_of` gives the texts of
    the codes in a text tag's samples. Raises InvalidInput for more rows than a workbook holds."""
    if form is Form.XLSX:
        try:
            with path.open("wb") as stream:
                rows = _rows(parts, ZoneInfo(zone), texts_of)
                sheets.write_workbook(stream, [("Samples", _HEADING, rows)])
        except BaseException:
            path.unlink(missing_ok=True)
            raise
        return
    writer = _Parquet(path, zone) if form is Form.PARQUET else _Csv(path, zone)
    try:
        for part in parts:
            writer.write(part, texts_of(part.series))
    finally:
        writer.close()


def basic_text(at_us: int, zone: str) -> str:
    """A moment in the zone with its offset, without the signs that file names cannot hold (the basic format
    of ISO 8601): 20261124T060000+0100."""
    moment = (_EPOCH + timedelta(microseconds=at_us)).astimezone(ZoneInfo(zone))
    return moment.strftime("%Y%m%dT%H%M%S%z")


class _Csv:
    def __init__(self, path: Path, zone: str) -> None:
        self._zone = ZoneInfo(zone)
        schema = pa.schema([(name, pa.string()) for name in _HEADING])
        self._writer = pacsv.CSVWriter(
            str(path), schema, write_options=pacsv.WriteOptions(quoting_style="needed")
        )

    def write(self, part: Shown, texts: Mapping[int, str]) -> None:
        table = _table(part, "UTC", texts)
        values = table["value"]
        if part.series.value_type is ValueType.TEXT:
            values = pa.array([None if v is None else harmless(v) for v in values.to_pylist()], pa.string())
        times = pa.array(_local_texts(part.series.ts_us.tolist(), self._zone), pa.string())
        count = len(part.series)
        columns = [
            times, pa.array([harmless(part.tag)] * count, pa.string()), values,
            pa.array([harmless(part.unit)] * count, pa.string()), table["quality"],
        ]  # fmt: skip
        self._writer.write_table(pa.table(dict(zip(_HEADING, columns, strict=True))))

    def close(self) -> None:
        self._writer.close()


class _Parquet:
    def __init__(self, path: Path, zone: str) -> None:
        self._zone = zone
        empty = Shown("", "", Series.empty(ValueType.FLOAT))
        self._writer = papq.ParquetWriter(path, _table(empty, zone, {}).schema, compression="zstd")

    def write(self, part: Shown, texts: Mapping[int, str]) -> None:
        self._writer.write_table(_table(part, self._zone, texts))

    def close(self) -> None:
        self._writer.close()


def _table(shown: Shown, zone: str, texts: Mapping[int, str]) -> pa.Table:
    """Values as text in CSV would lose nothing; in Parquet a column holds one type: numbers or texts."""
    series, count = shown.series, len(shown.series)
    return pa.table(
        {
            "time": pa.array(series.ts_us).cast(pa.timestamp("us", tz=zone)),
            "tag": pa.array([shown.tag] * count, pa.string()),
            "value": pa.array(_values(series, texts), pa.string()),
            "unit": pa.array([shown.unit] * count, pa.string()),
            "quality": pa.array([q.describe(code) for code in series.quality.tolist()], pa.string()),
        }
    )


def _values(series: Series, texts: Mapping[int, str]) -> list[str | None]:
    bad = q.is_bad(series.quality).tolist()
    if series.value_type is ValueType.TEXT:
        values = [texts.get(code, "") for code in series.values.tolist()]
    elif series.value_type is ValueType.BOOLEAN:
        values = ["true" if value else "false" for value in series.values.tolist()]
    else:
        values = [repr(value) for value in series.values.tolist()]
    return [None if lost else value for value, lost in zip(values, bad, strict=True)]


def _local_texts(times_us: Sequence[int], zone: ZoneInfo) -> list[str]:
    return [
        (_EPOCH + timedelta(microseconds=at)).astimezone(zone).isoformat(timespec="microseconds")
        for at in times_us
    ]


def _rows(
    parts: Iterable[Shown], zone: ZoneInfo, texts_of: Callable[[Series], Mapping[int, str]]
) -> Iterator[list[Cell]]:
    count = 0
    for part in parts:
        series, texts = part.series, texts_of(part.series)
        count += len(series)
        sheets.check_sheet(count)
        numbers = series.value_type in (ValueType.FLOAT, ValueType.INTEGER, ValueType.STATE)
        shown = _values(series, texts)
        columns = zip(
            _local_texts(series.ts_us.tolist(), zone), series.values.tolist() if numbers else shown, shown,
            series.quality.tolist(), strict=True,
        )  # fmt: skip
        for at, value, text, code in columns:
            yield [at, part.tag, None if text is None else value, part.unit, q.describe(code)]
