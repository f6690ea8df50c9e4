"""Samples in the order of their values, however many there are: sorted runs that are merged part by part.

A run is sorted in memory and may lie in files; merging reads slices of them. It is the external merge sort of
Knuth, The Art of Computer Programming 3, 5.4.1, whose parts are found by splitters taken at regular distances
from each run (Shi and Schaeffer, J. Parallel Distrib. Comput. 14, 1992; both from memory).
"""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from typing import Any, NamedTuple

import numpy as np
from numpy.typing import NDArray

from cronaca.core.model import Series
from cronaca.core.samples.rows import Cell, SampleRow

Slice = tuple[int, int]


class Run(NamedTuple):
    """Columns of usable samples of several tags, ordered by value, then tag, then time. `tags`: by their
    place; `bits`: the values as they were recorded (a measurement among whole numbers orders all of them as
    measurements)."""

    values: NDArray[Any]
    bits: NDArray[Any]
    tags: NDArray[Any]
    ts_us: NDArray[Any]
    quality: NDArray[Any]

    def part(self, start: int, end: int) -> Run:
        """The samples from one place to another."""
        return Run(*(column[start:end] for column in self))


def sorted_run(parts: Sequence[Series]) -> Run:
    """Usable samples of tags, which are known by their place, as one run."""
    values = np.concatenate([part.values for part in parts])
    tags = np.repeat(np.arange(len(parts), dtype=np.uint8), [len(part) for part in parts])
    ts_us = np.concatenate([part.ts_us for part in parts])
    quality = np.concatenate([part.quality for part in parts])
    bits = np.concatenate([part.values.view(np.int64) for part in parts])
    return _sorted(Run(values, bits, tags, ts_us, quality))


def merged(runs: Sequence[Run], most: int, *, descending: bool = False) -> Iterator[Run]:
    """All samples of the runs in order, in parts of about `most` samples at the most, however many are alike.

    The runs are of stretches of time that follow each other, the latest first: samples that are alike need no
    sorting. Descending is the same order backwards."""
    if not runs:
        return
    for slices, alike in _plan(runs, most, descending=descending):
        if alike:
            parts = _in_turn(runs, slices, most)
            yield from (_backwards(part) for part in reversed(parts)) if descending else parts
        else:
            part = _sorted(_joined([run.part(*ends) for run, ends in zip(runs, slices, strict=True)]))
            if len(part.values):
                yield _backwards(part) if descending else part


def rows_of(part: Run, is_measured: Sequence[bool]) -> list[SampleRow]:
    """A row for each sample. `is_measured`: by place of the tag, whether its values are float64."""
    columns = (part.ts_us, part.tags, part.bits, part.bits.view(np.float64), part.quality)
    return [
        SampleRow(at, tag, (Cell(measured if is_measured[tag] else whole, quality),))
        for at, tag, whole, measured, quality in zip(*(column.tolist() for column in columns), strict=True)
    ]


def _plan(runs: Sequence[Run], most: int, *, descending: bool) -> Iterator[tuple[list[Slice], bool]]:
    """Of each run the slices that are read together, and whether their values are all alike. Between two
    splitters no run has more than `most` / runs samples, for it has given a splitter after each so many."""
    step = max(1, most // max(1, len(runs)))
    splitters = np.unique(np.concatenate([run.values[::step] for run in runs]))
    edges = [[0] for _ in runs]
    for run, mine in zip(runs, edges, strict=True):
        sides = [np.searchsorted(run.values, splitters, side=side) for side in ("left", "right")]
        mine += [*np.stack(sides, axis=1).ravel().tolist(), len(run.values)]
    places = range(2 * len(splitters) + 1)
    for i in reversed(places) if descending else places:
        yield [(mine[i], mine[i + 1]) for mine in edges], i % 2 == 1


def _in_turn(runs: Sequence[Run], slices: Sequence[Slice], most: int) -> list[Run]:
    """Samples of one value by tag and time: as they lie in the runs, from the earliest run on."""
    found = []
    pairs = [run.part(*ends) for run, ends in zip(runs, slices, strict=True)][::-1]
    for tag in np.unique(np.concatenate([pair.tags for pair in pairs])).tolist():
        for pair in pairs:
            start, end = (int(np.searchsorted(pair.tags, tag, side=side)) for side in ("left", "right"))
            found += [pair.part(i, min(i + most, end)) for i in range(start, end, most)]
    return found


def _joined(parts: Sequence[Run]) -> Run:
    return Run(*(np.concatenate(columns) for columns in zip(*parts, strict=True)))


def _sorted(run: Run) -> Run:
    order = np.lexsort((run.ts_us, run.tags, run.values))
    return Run(*(column[order] for column in run))


def _backwards(run: Run) -> Run:
    return Run(*(column[::-1] for column in run))
