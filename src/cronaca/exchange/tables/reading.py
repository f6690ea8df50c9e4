"""Reading samples from a table, a block of lines at a time."""

from __future__ import annotations

import csv
from collections.abc import Callable, Iterator, Sequence
from dataclasses import dataclass
from pathlib import Path
from typing import Any, Final

import numpy as np
import pyarrow as pa
import pyarrow.compute as pc
import pyarrow.csv as pacsv
import pyarrow.parquet as papq
from numpy.typing import NDArray

from cronaca.core import quality as q
from cronaca.core.errors import InvalidInput
from cronaca.core.model import Series, Times, Values, ValueType
from cronaca.exchange.guarding import plain
from cronaca.exchange.tables.cells import Bad, qualities_of, times_of, values_of
from cronaca.exchange.tables.form import (
    QUALITY,
    TAG,
    BadLine,
    Columns,
    Rejects,
    TableOptions,
    check_tags,
    find_columns,
)

BLOCK_BYTES: Final = 16 << 20
CodesOf = Callable[[list[str]], list[int]]
"""The codes of texts in the dictionary of texts."""


@dataclass(frozen=True, slots=True)
class Block:
    """Samples of one stretch of a file by the name of their tag, not in order; and how far it reaches."""

    samples: dict[str, Series]
    lines: int
    share: float
    """Of the whole file, 0 to 1."""


@dataclass(frozen=True, slots=True)
class _Rows:
    """A stretch of a file as columns, with the line of each row."""

    table: pa.RecordBatch
    lines: NDArray[np.int64]
    decimal_comma: bool
    guarded: bool = False
    """Texts that a spreadsheet would take for formulas have an apostrophe before them."""


def read_table(path: Path, options: TableOptions, rejects: Rejects, codes_of: CodesOf) -> Iterator[Block]:
    """The samples of a CSV or Parquet file, told apart by its ending. Lines that cannot be used go to the
    rejects; raises InvalidInput when the file as a whole cannot be."""
    if not path.is_file():
        raise InvalidInput(
            "file", "no-file", "there is no file {path}", "Give the path of a CSV or Parquet file.", path=path
        )
    parquet = path.suffix.lower() in (".parquet", ".pq")
    columns: Columns | None = None
    size = max(path.stat().st_size, 1)

    def codes_of_guarded(texts: list[str]) -> list[int]:
        return codes_of([plain(text) for text in texts])

    given = codes_of if parquet else codes_of_guarded
    for rows, share in _parquet(path) if parquet else _csv(path, size, rejects):
        if columns is None:
            columns = find_columns(rows.table.schema.names, options)
        samples = _samples(rows, columns, options, rejects, given)
        yield Block(samples, len(rows.lines), share)
    if columns is None:
        raise InvalidInput(
            "file",
            "holds-no-samples",
            "{path} holds no samples",
            "Give a file with a header and lines.",
            path=path,
        )


def _csv(path: Path, size: int, rejects: Rejects) -> Iterator[tuple[_Rows, float]]:
    names, delimiter, decimal_comma = _look_at(path)
    refused: list[BadLine] = []
    seen: list[int] = []

    def on_invalid(row: Any) -> str:  # noqa: ANN401 - the library's own record
        refused.append(BadLine(row.number, f"{row.actual_columns} cells instead of {row.expected_columns}"))
        seen.append(row.number)
        return "skip"

    with path.open("rb") as stream:
        try:
            reader = pacsv.open_csv(
                stream,
                pacsv.ReadOptions(use_threads=False, block_size=BLOCK_BYTES),
                pacsv.ParseOptions(
                    delimiter=delimiter, ignore_empty_lines=False, invalid_row_handler=on_invalid
                ),
                pacsv.ConvertOptions(
                    column_types={name: _cell_type(name) for name in names}, strings_can_be_null=False
                ),
            )
        except pa.ArrowInvalid as exc:
            raise InvalidInput(
                "file",
                "csv-unreadable",
                "{exc}",
                "Give a CSV file with a header.",
                exc=str(exc).splitlines()[0],
            ) from exc
        first = 2
        for batch in _batches(reader):
            numbers, first = _line_numbers(len(batch), first, seen)
            yield _Rows(batch, numbers, decimal_comma, guarded=True), min(stream.tell() / size, 1.0)
            rejects.add(refused)
            refused.clear()


def _cell_type(name: str) -> pa.DataType:
    """Cells come as texts; those that repeat themselves as a dictionary of texts."""
    repeats = name.strip().lower() in TAG | QUALITY
    return pa.dictionary(pa.int32(), pa.string()) if repeats else pa.string()


def _batches(reader: pacsv.CSVStreamingReader) -> Iterator[pa.RecordBatch]:
    while True:
        try:
            yield reader.read_next_batch()
        except StopIteration:
            return
        except pa.ArrowInvalid as exc:
            raise InvalidInput(
                "file", "file-unreadable", "{exc}", "Correct the file.", exc=str(exc).splitlines()[0]
            ) from exc


def _line_numbers(count: int, first: int, left_out: list[int]) -> tuple[NDArray[np.int64], int]:
    """The lines of the next `count` rows, when those left out took lines too; and the line after them."""
    if not left_out:
        return np.arange(first, first + count), first + count
    numbers = np.arange(first, first + count + len(left_out))
    numbers = numbers[~np.isin(numbers, left_out)][:count]
    after = int(numbers[-1]) + 1 if count else first
    while after in left_out:
        after += 1
    return numbers, after


def _look_at(path: Path) -> tuple[list[str], str, bool]:
    """Header, delimiter, and whether numbers have a decimal comma, by the first lines."""
    with path.open(encoding="utf-8-sig", errors="replace", newline="") as stream:
        head = [line for _, line in zip(range(50), stream, strict=False)]
    if not head:
        raise InvalidInput(
            "file", "file-empty", "{path} is empty", "Give a file with a header and lines.", path=path
        )
    delimiter = max(";\t,", key=head[0].count)
    names = next(csv.reader([head[0]], delimiter=delimiter))
    cells = [cell for row in csv.reader(head[1:], delimiter=delimiter) for cell in row]
    comma = delimiter != "," and any(_has_decimal_comma(cell) for cell in cells)
    return names, delimiter, comma


def _has_decimal_comma(cell: str) -> bool:
    whole, _, part = cell.strip().lstrip("+-").partition(",")
    return whole.isdigit() and part.isdigit()


def _parquet(path: Path) -> Iterator[tuple[_Rows, float]]:
    try:
        file = papq.ParquetFile(path)
    except pa.ArrowInvalid as exc:
        raise InvalidInput(
            "file", "parquet-unreadable", "{exc}", "Give a Parquet file.", exc=str(exc).splitlines()[0]
        ) from exc
    total, done = max(file.metadata.num_rows, 1), 0
    for batch in file.iter_batches(batch_size=1 << 20):
        numbers = np.arange(done + 1, done + len(batch) + 1)
        done += len(batch)
        yield _Rows(batch, numbers, decimal_comma=False), done / total


def _samples(
    rows: _Rows, columns: Columns, options: TableOptions, rejects: Rejects, codes_of: CodesOf
) -> dict[str, Series]:
    if rows.lines.size == 0:
        return {}
    times, bad = times_of(rows.table[columns.time], options)
    if columns.value is None:
        return _wide(rows, columns, options, rejects, codes_of, times, bad)
    quality = np.zeros(len(times), np.uint16)
    if columns.quality is not None:
        quality, wrong = qualities_of(rows.table[columns.quality])
        bad = {**wrong, **bad}
    samples = {}
    groups = _by_tag(rows, columns, options)
    whole = _same_type(rows.table, columns, [options.kinds[name] for name, _ in groups], rows.decimal_comma)
    for name, places in groups:
        mine = quality[places]
        if whole is not None:
            values = whole.values[places]
            mine[~whole.there[places] & ~q.is_bad(mine)] = q.BAD_NO_DATA
        else:
            part = rows.table.take(pa.array(places))
            values, wrong = _typed(part, columns, options.kinds[name], rows.decimal_comma, codes_of, mine)
            bad.update({int(places[i]): reason for i, reason in wrong.items()})
        quality[places] = mine
        samples[name] = (places, values)
    _reject(rows, bad, rejects)
    usable = np.ones(len(times), np.bool_)
    usable[list(bad)] = False
    series = {}
    for name, (places, values) in samples.items():
        keep = usable[places]
        chosen = places[keep]
        series[name] = Series.of(options.kinds[name], times[chosen], values[keep], quality[chosen])
    return series


def _by_tag(rows: _Rows, columns: Columns, options: TableOptions) -> list[tuple[str, NDArray[np.int64]]]:
    """The rows of each tag, in their order."""
    if columns.tag is None:
        return [(options.tag, np.arange(len(rows.lines)))]
    column = rows.table[columns.tag]
    coded = column if pa.types.is_dictionary(column.type) else pc.dictionary_encode(column)
    names = [str(name).strip() for name in coded.dictionary.to_pylist()]
    names = [plain(name) for name in names] if rows.guarded else names
    codes = coded.indices.to_numpy(zero_copy_only=False)
    used = np.flatnonzero(np.bincount(codes)).tolist()
    check_tags([names[code] for code in used], options.kinds)
    order = np.argsort(codes, kind="stable")
    ends = np.searchsorted(codes[order], used, side="right").tolist()
    return [
        (names[code], order[start:end]) for code, start, end in zip(used, [0, *ends[:-1]], ends, strict=True)
    ]


@dataclass(frozen=True, slots=True)
class _Whole:
    """A whole column of values of one type, and where there is one."""

    values: Values
    there: NDArray[np.bool_]


def _same_type(
    table: pa.RecordBatch, columns: Columns, kinds: Sequence[ValueType], decimal_comma: bool
) -> _Whole | None:
    """The quick way for the usual case: all tags are of one type, and every cell is good."""
    if len(set(kinds)) != 1 or kinds[0] is ValueType.TEXT:
        return None
    column = table[_value_column(table.schema.names, columns, kinds[0])]
    values, there, bad = values_of(column, kinds[0], decimal_comma)
    return None if bad else _Whole(values, there)


def _typed(
    part: pa.RecordBatch,
    columns: Columns,
    kind: ValueType,
    decimal_comma: bool,
    codes_of: CodesOf,
    quality: q.QualityArray,
) -> tuple[Values, Bad]:
    """The values of one tag. Where a cell is empty, `quality` becomes Bad, no data, unless it is Bad."""
    name = _value_column(part.schema.names, columns, kind)
    if kind is ValueType.TEXT:
        return _texts(part[name], codes_of), {}
    values, there, bad = values_of(part[name], kind, decimal_comma)
    quality[~there & ~q.is_bad(quality)] = q.BAD_NO_DATA
    # What stands where a sample is Bad does not matter.
    return values, {i: reason for i, reason in bad.items() if quality[i] < q.BAD}


def _value_column(names: list[str], columns: Columns, kind: ValueType) -> str:
    own = {ValueType.TEXT: "text", ValueType.FLOAT: ""}.get(kind, "integer")
    return own if own in names else columns.value or own


def _texts(column: pa.Array, codes_of: CodesOf) -> Values:
    coded = pc.dictionary_encode(column.cast(pa.string()).fill_null(""))
    codes = np.array(codes_of([str(text) for text in coded.dictionary.to_pylist()]), np.int64)
    result: NDArray[np.int64] = codes[coded.indices.to_numpy(zero_copy_only=False)]
    return result


def _wide(
    rows: _Rows, columns: Columns, options: TableOptions, rejects: Rejects, codes_of: CodesOf, times: Times,
    bad: Bad,
) -> dict[str, Series]:  # fmt: skip
    """One column per tag; an empty cell is no sample."""
    samples = {}
    for name in columns.tags:
        kind = options.kinds[name]
        if kind is ValueType.TEXT:
            there = np.array([bool(text) for text in rows.table[name].to_pylist()], np.bool_)
            values: Values = _texts(rows.table[name], codes_of)
        else:
            values, there, wrong = values_of(rows.table[name], kind, rows.decimal_comma)
            bad = {**{i: f"{name}: {reason}" for i, reason in wrong.items()}, **bad}
        samples[name] = (values, there)
    _reject(rows, bad, rejects)
    usable = np.ones(len(times), np.bool_)
    usable[list(bad)] = False
    return {
        name: Series.of(options.kinds[name], times[there & usable], values[there & usable])
        for name, (values, there) in samples.items()
    }


def _reject(rows: _Rows, bad: Bad, rejects: Rejects) -> None:
    rejects.add([BadLine(int(rows.lines[i]), reason) for i, reason in sorted(bad.items())])
