"""A table of samples as a file for people: its rows as they are shown, times in the plant's zone."""

from __future__ import annotations

from collections.abc import Callable, Iterable, Iterator, Mapping, Sequence
from dataclasses import dataclass
from datetime import UTC, datetime, timedelta
from typing import IO, Any, Final
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


@dataclass(frozen=True, slots=True)
class TablePart:
    """Some rows of a table, and what the numbers in them are called."""

    rows: Sequence[SampleRow]
    names: Names


@dataclass(frozen=True, slots=True)
class TableShape:
    """What a table holds: its tags, the plant's zone, and whether each row is one sample."""

    tags: Sequence[Tag]
    zone: str
    is_single: bool


def write_sample_table(stream: IO[bytes], form: Form, shape: TableShape, parts: Iterable[TablePart]) -> None:
    """A line for each row of the table, part by part as they come: memory holds one part. Where a row is one
    sample: time, tag, value, unit, quality; otherwise time and, for each tag, a column for its values and one
    for their quality. What is Bad has no value; states and texts stand as they are called. Raises
    InvalidInput for more rows than a workbook holds."""
    if form is Form.PARQUET:
        _write_parquet(stream, shape, parts)
        return
    columns = ["Tag", "Value", "Unit", "Quality"] if shape.is_single else _titles(shape.tags)
    if form is Form.CSV:
        file = sheets.CsvFile(stream, ["Time", *columns])
        file.write(_lines(shape, parts))
        file.finish()
    else:
        lines = _lines(shape, parts, sheets.check_sheet)
        sheets.write_workbook(stream, [("Samples", ["Time", *columns], lines)])


def _lines(
    shape: TableShape, parts: Iterable[TablePart], check: Callable[[int], None] = lambda _: None
) -> Iterator[list[Any]]:
    """The lines of all parts; `check` hears how many there will be before a part is written."""
    count = 0
    for part in parts:
        count += len(part.rows)
        check(count)
        for row in part.rows:
            yield [_local(row.ts_us, shape.zone), *_cells(row, shape.tags, part.names)]


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


def _write_parquet(stream: IO[bytes], shape: TableShape, parts: Iterable[TablePart]) -> None:
    """A column holds one type: where tags share one, its values are texts."""
    schema = _schema(shape)
    with papq.ParquetWriter(stream, schema, compression="zstd") as writer:
        for part in parts:
            lines = [_cells(row, shape.tags, part.names) for row in part.rows]
            times = pa.array([row.ts_us for row in part.rows], pa.int64())
            columns = [times.cast(pa.timestamp("us", tz=shape.zone))]
            for place, field in enumerate(list(schema)[1:]):
                columns.append(_column([line[place] for line in lines], field.type))
            writer.write_table(pa.table(columns, schema=schema))


def _schema(shape: TableShape) -> pa.Schema:
    fields = [("time", pa.timestamp("us", tz=shape.zone))]
    if shape.is_single:
        fields += [(name, pa.string()) for name in ("tag", "value", "unit", "quality")]
    else:
        for tag, title in zip(shape.tags, _titles(shape.tags)[::2], strict=True):
            fields.append((title, _COLUMN.get(tag.value_type, pa.string())))
            fields.append((f"{tag.name}, quality", pa.string()))
    return pa.schema(fields)


def _column(values: list[Any], kind: pa.DataType) -> pa.Array:
    if kind == pa.string():
        values = [None if value is None else _text(value) for value in values]
    return pa.array(values, kind)


def _text(value: float | int | bool | str) -> str:
    return str(value).lower() if isinstance(value, bool) else str(value)
