"""The samples of one tag from a file of its own, without a set-up: what its values are is seen from them."""

from __future__ import annotations

import csv
import re
from itertools import islice
from pathlib import Path
from typing import Final

from cronaca.core.errors import InvalidInput
from cronaca.core.model import Series, ValueType, merge
from cronaca.exchange.tables.form import VALUE, OnBad, Rejects, TableOptions
from cronaca.exchange.tables.reading import read_table

_NAME: Final = "file"
_LOOKED_AT: Final = 1_000
_WHOLE: Final = re.compile(r"[+-]?\d{1,19}")
_BOOLEANS: Final = frozenset({"true", "false"})


def read_samples(path: Path, zone: str = "", kind: ValueType | None = None) -> tuple[Series, list[str]]:
    """The samples of a CSV or Parquet file `time,value[,quality]` in order of time, of samples with one time
    the first; and the texts that codes of text values stand for. An empty value is null. What its values are
    is seen from them unless `kind` says it. Raises InvalidInput that names the line."""
    texts: dict[str, int] = {}

    def codes_of(values: list[str]) -> list[int]:
        return [texts.setdefault(text, len(texts)) for text in values]

    kind = _kind_of(path) if kind is None else kind
    options = TableOptions({_NAME: kind}, zone, tag=_NAME)
    blocks = read_table(path, options, Rejects(OnBad.STOP), codes_of)
    parts = [part for block in blocks for part in block.samples.values()]
    return merge(parts, kind), list(texts)


def _kind_of(path: Path) -> ValueType:
    """Boolean when every value is true or false, integer when all are whole and floats do not hold one
    of them, float when every one is a number, text otherwise; by the first lines of the file."""
    if path.suffix.lower() != ".csv" or not path.is_file():
        return ValueType.FLOAT
    with path.open(encoding="utf-8-sig", errors="replace", newline="") as stream:
        head = stream.readline()
        stream.seek(0)
        rows = csv.DictReader(stream, delimiter=max(";\t,", key=head.count))
        name = next((n for n in rows.fieldnames or () if n.strip().lower() in VALUE), None)
        if name is None:
            raise InvalidInput(
                "csv",
                "no-column-value",
                "{path} has no column `value`",
                "Give a header `time,value[,quality]`.",
                path=path,
            )
        values = {(row[name] or "").strip().lower() for row in islice(rows, _LOOKED_AT)} - {""}
    if values and values <= _BOOLEANS:
        return ValueType.BOOLEAN
    whole = [int(v) for v in values if _WHOLE.fullmatch(v)]
    if len(whole) == len(values) and any(int(float(v)) != v for v in whole):
        return ValueType.INTEGER
    return ValueType.FLOAT if all(_is_number(v) for v in values) else ValueType.TEXT


def _is_number(text: str) -> bool:
    try:
        float(text.replace(",", "."))
    except ValueError:
        return False
    return True
