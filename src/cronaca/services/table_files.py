"""Tables of samples as files, of any length: the rows are read, ordered and written part by part."""

from __future__ import annotations

from collections.abc import Callable, Iterator, Mapping
from dataclasses import replace
from pathlib import Path
from typing import Final

import numpy as np

from cronaca.core import quality as q
from cronaca.core.errors import InvalidInput
from cronaca.core.model import Series, Tag, ValueType, Window, concatenate
from cronaca.core.samples import Run, merged, rows_of, sorted_run
from cronaca.exchange.sample_table import Names, TablePart
from cronaca.services.sample_tables import (
    PageSpec,
    RowOrder,
    SampleTables,
    Selection,
    check_order,
    state_names,
)

Tell = Callable[[float], None]
"""Hears the share that is done, 0 to 1; raising in it stops the work."""
PART_ROWS: Final = 20_000
RUN_SAMPLES: Final = 1_000_000
MOST_ORDERED_BYTES: Final = 8 << 30
"""Of the folder in which samples are ordered."""
_READ_SHARE: Final = 0.4
"""Of the work of ordering: all is read once, then written."""


def names_of(tags: tuple[Tag, ...], texts: Mapping[int, str]) -> Names:
    """What the numbers of each tag are called."""
    return {tag.uid: texts if tag.value_type is ValueType.TEXT else state_names(tag) for tag in tags}


def parts_of(
    tables: SampleTables, of: Selection, spec: PageSpec, folder: Path, tell: Tell
) -> Iterator[TablePart]:
    """All rows of a table, in its order. `folder`: where samples wait that are ordered by value. Raises
    InvalidInput for an order that cannot be."""
    check_order(of, spec)
    if spec.order is RowOrder.NEWEST:
        yield from _newest_first(tables, of, spec, tell)
    else:
        yield from _by_value(tables, of, spec, folder, tell)


def _newest_first(tables: SampleTables, of: Selection, spec: PageSpec, tell: Tell) -> Iterator[TablePart]:
    window, end_us = of.window, of.window.end_us
    while end_us > window.start_us:
        tell((window.end_us - end_us) / window.length_us)
        earlier = replace(of, window=Window(window.start_us, end_us))
        page = tables.page(earlier, replace(spec, limit=PART_ROWS))
        yield TablePart(page.rows, names_of(of.tags, page.texts))
        end_us = window.start_us if page.next_end_us is None else page.next_end_us


def _by_value(
    tables: SampleTables, of: Selection, spec: PageSpec, folder: Path, tell: Tell
) -> Iterator[TablePart]:
    runs = _write_runs(tables, of, folder, lambda share: tell(share * _READ_SHARE))
    total = sum(len(run.values) for run in runs)
    names = names_of(of.tags, {})
    is_measured = [tag.value_type is ValueType.FLOAT for tag in of.tags]
    done = 0
    for part in merged(runs, RUN_SAMPLES, descending=spec.order is RowOrder.LARGEST):
        for start in range(0, len(part.values), PART_ROWS):
            tell(_READ_SHARE + (1 - _READ_SHARE) * done / total)
            rows = rows_of(part.part(start, start + PART_ROWS), is_measured)
            yield TablePart(rows, names)
            done += len(rows)


def _write_runs(tables: SampleTables, of: Selection, folder: Path, tell: Tell) -> list[Run]:
    """The usable samples as sorted runs in files, the latest first."""
    runs: list[Run] = []
    waiting: list[list[Series]] = [[] for _ in of.tags]
    count = used = 0
    window = of.window
    for stretch, found in tables.matching_back(of):
        tell((window.end_us - stretch.start_us) / window.length_us)
        for mine, series in zip(waiting, found, strict=True):
            mine.append(series.take(~q.is_bad(series.quality)))
            count += len(mine[-1])
        if count >= RUN_SAMPLES or stretch.start_us <= window.start_us:
            runs.append(_write_run(folder / f"run{len(runs)}", of.tags, waiting))
            used += sum(column.nbytes for column in runs[-1])
            _check_used(used)
            waiting, count = [[] for _ in of.tags], 0
    return runs


def _write_run(stem: Path, tags: tuple[Tag, ...], waiting: list[list[Series]]) -> Run:
    series = [concatenate(parts[::-1], tag.value_type) for tag, parts in zip(tags, waiting, strict=True)]
    columns = []
    for name, column in sorted_run(series)._asdict().items():
        path = stem.with_suffix(f".{name}.npy")
        np.save(path, column)
        columns.append(np.load(path, mmap_mode="r"))
    return Run(*columns)


def _check_used(used: int) -> None:
    if used > MOST_ORDERED_BYTES:
        raise InvalidInput(
            "order",
            "ordering-needs-room",
            "ordering needs more than {most:,} MB of disk",
            "Choose a shorter window, fewer tags, or newest first.",
            most=MOST_ORDERED_BYTES >> 20,
        )
