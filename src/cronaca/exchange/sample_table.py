"""A table of samples as a file for people: its rows as they are shown, times in the plant's zone."""

from __future__ import annotations

import io
from collections.abc import Mapping, Sequence
from datetime import UTC, datetime, timedelta
from typing import Any, Final
from zoneinfo import ZoneInfo

import pyarrow as pa
import pyarrow.parquet as papq

from cronaca.core import quality as q
from cronaca.core.model import Tag, ValueType
from cronaca.core.samples import Cell, SampleRow
from cronaca.exchange import sheets
from cronaca.exchange.shown import Form

Names = Mapping[str, Mapping[int, str]]
"""By uid of a tag: what its numbers are called."""
_EPOCH: Final = datetime(1970, 1, 1, tzinfo=UTC)
_COLUMN: Final = {ValueType.FLOAT: pa.float64(), ValueType.INTEGER: pa.int64(), ValueType.BOOLEAN: pa.bool_()}


def write_sample_table(
    form: Form, tags: Sequence[Tag], rows: Sequence[SampleRow], names: Names, zone: str
) -> bytes:
    """A line for each row of the table. Where a row is one sample: time, tag, value, unit, quality; otherwise
    time and, for each tag, a column for its values and one for their quality. What is Bad has no value;
    states and texts stand as they are called."""
    single = any(row.tag is not None for row in rows)
    if form is Form.PARQUET:
        return _parquet(tags, rows, names, zone, single=single)
    header = ["Time", "Tag", "Value", "Unit", "Quality"] if single else ["Time", *_titles(tags)]
    lines = [[_local(row.ts_us, zone), *_cells(row, tags, names)] for row in rows]
    if form is Form.CSV:
        return sheets.write_csv(header, lines)
    stream = io.BytesIO()
    sheets.write_workbook(stream, [("Samples", header, lines)])
    return stream.getvalue()


def _titles(tags: Sequence[Tag]) -> list[str]:
    return [
        title
        for tag in tags
        for title in (f"{tag.name} ({tag.unit})" if tag.unit else tag.name, f"{tag.name}, quality")
    ]


def _local(at_us: int, zone: str) -> str:
    moment = (_EPOCH + timedelta(microseconds=at_us)).astimezone(ZoneInfo(zone))
    return moment.isoformat(timespec="microseconds")


def _cells(row: SampleRow, tags: Sequence[Tag], names: Names) -> list[Any]:
    if row.tag is None:
        pairs = zip(tags, row.cells, strict=True)
        return [part for tag, cell in pairs for part in (_shown(cell, tag, names), q.describe(cell.quality))]
    tag, cell = tags[row.tag], row.cells[0]
    return [tag.name, _shown(cell, tag, names), tag.unit, q.describe(cell.quality)]


def _shown(cell: Cell, tag: Tag, names: Names) -> float | int | bool | str | None:
    if cell.value is None:
        return None
    if tag.value_type is ValueType.TEXT:
        return names[tag.uid].get(int(cell.value), "")
    if tag.value_type is ValueType.BOOLEAN:
        return bool(cell.value)
    return (
        names[tag.uid].get(int(cell.value), cell.value) if tag.value_type is ValueType.STATE else cell.value
    )


def _parquet(
    tags: Sequence[Tag], rows: Sequence[SampleRow], names: Names, zone: str, *, single: bool
) -> bytes:
    """A column holds one type: where tags share one, its values are texts."""
    columns: dict[str, Any] = {
        "time": pa.array([row.ts_us for row in rows], pa.int64()).cast(pa.timestamp("us", tz=zone))
    }
    cells = [_cells(row, tags, names) for row in rows]
    if single:
        for place, name in enumerate(("tag", "value", "unit", "quality")):
            texts = [None if line[place] is None else _text(line[place]) for line in cells]
            columns[name] = pa.array(texts, pa.string())
    else:
        for place, (tag, title) in enumerate(zip(tags, _titles(tags)[::2], strict=True)):
            kind = _COLUMN.get(tag.value_type, pa.string())
            values = [line[2 * place] for line in cells]
            if kind == pa.string():
                values = [None if value is None else str(value) for value in values]
            columns[title] = pa.array(values, kind)
            columns[f"{tag.name}, quality"] = pa.array([line[2 * place + 1] for line in cells], pa.string())
    stream = io.BytesIO()
    papq.write_table(pa.table(columns), stream, compression="zstd")
    return stream.getvalue()


def _text(value: float | int | bool | str) -> str:
    return str(value).lower() if isinstance(value, bool) else str(value)
