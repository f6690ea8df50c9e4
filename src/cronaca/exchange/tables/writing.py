"""Writing samples to CSV and Parquet in the long form, so that reading them back gives the very bits."""

from __future__ import annotations

from collections.abc import Mapping
from pathlib import Path
from typing import Final, Protocol

import numpy as np
import pyarrow as pa
import pyarrow.compute as pc
import pyarrow.csv as pacsv
import pyarrow.parquet as papq

from cronaca.core import quality as q
from cronaca.core.model import Series, ValueType
from cronaca.exchange.guarding import harmless

_CSV: Final = pa.schema(
    [("time", pa.string()), ("tag", pa.string()), ("value", pa.string()), ("quality", pa.string())]
)
_PARQUET: Final = pa.schema(
    [
        ("time", pa.timestamp("us", tz="UTC")),
        ("tag", pa.dictionary(pa.int32(), pa.string())),
        ("value", pa.float64()),
        ("integer", pa.int64()),
        ("text", pa.string()),
        ("quality", pa.uint16()),
    ]
)
_WORDS: Final = {q.GOOD: "Good", q.UNCERTAIN: "Uncertain", q.BAD: "Bad"}


class TableWriter(Protocol):
    """Takes samples of one tag after the other."""

    def write(self, tag: str, series: Series, texts: Mapping[int, str]) -> None:
        """Appends samples; `texts` gives the texts of a text tag's codes."""
        ...

    def close(self) -> None:
        """Finishes the file."""
        ...


class CsvWriter:
    """`time,tag,value,quality`: ISO 8601 in UTC with µs, shortest decimal that gives back the bits, quality
    as a word or as the upper 16 bits of the status code in hex. Names and texts that a spreadsheet would take
    for formulas are guarded; reading them takes the guard off again."""

    def __init__(self, path: Path) -> None:
        self._writer = pacsv.CSVWriter(
            str(path), _CSV, write_options=pacsv.WriteOptions(quoting_style="needed")
        )

    def write(self, tag: str, series: Series, texts: Mapping[int, str]) -> None:
        """Appends samples."""
        count = len(series)
        bad = pa.array(q.is_bad(series.quality))
        values = pc.if_else(
            bad, "", _as_texts(series, {code: harmless(text) for code, text in texts.items()})
        )
        times = pc.strftime(pa.array(series.ts_us).cast(pa.timestamp("us")), "%Y-%m-%dT%H:%M:%SZ")
        codes, places = np.unique(series.quality, return_inverse=True)
        words = pa.array([_WORDS.get(code, f"0x{code:04X}") for code in codes.tolist()])
        shown = harmless(tag)
        tags = pa.array([shown] * count) if count < 2 else pa.repeat(shown, count)
        columns = [times, tags, values, words.take(pa.array(places))]
        self._writer.write_batch(pa.RecordBatch.from_arrays(columns, schema=_CSV))

    def close(self) -> None:
        """Finishes the file."""
        self._writer.close()


class ParquetWriter:
    """Columns of their own for floats, integers (also booleans and states) and texts."""

    def __init__(self, path: Path) -> None:
        self._writer = papq.ParquetWriter(path, _PARQUET, compression="zstd")

    def write(self, tag: str, series: Series, texts: Mapping[int, str]) -> None:
        """Appends samples."""
        count = len(series)
        good = ~q.is_bad(series.quality)
        is_float, is_text = series.value_type is ValueType.FLOAT, series.value_type is ValueType.TEXT
        columns = [
            pa.array(series.ts_us).cast(pa.timestamp("us", tz="UTC")),
            pa.DictionaryArray.from_arrays(pa.array(np.zeros(count, np.int32)), pa.array([tag])),
            pa.array(series.values, pa.float64(), mask=~good) if is_float else pa.nulls(count, pa.float64()),
            pa.nulls(count, pa.int64())
            if is_float or is_text
            else pa.array(series.values, pa.int64(), mask=~good),
            _as_texts(series, texts) if is_text else pa.nulls(count, pa.string()),
            pa.array(series.quality),
        ]
        self._writer.write_table(pa.Table.from_arrays(columns, schema=_PARQUET))

    def close(self) -> None:
        """Finishes the file."""
        self._writer.close()


def _as_texts(series: Series, texts: Mapping[int, str]) -> pa.Array:
    if series.value_type is ValueType.TEXT:
        return pa.array([texts.get(code, "") for code in series.values.tolist()], pa.string())
    return pa.array(series.values).cast(pa.string())
