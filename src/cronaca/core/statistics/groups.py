"""Values, or pieces of a line, of many intervals one after the other: what is worked out for each interval is
worked out for all of them at once. A loop over the minutes of a fortnight takes half a minute."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass
from typing import Final, TypeVar

import numpy as np
from numpy.typing import NDArray

from cronaca.core.aggregates.bounds import simple
from cronaca.core.aggregates.interval_data import IntervalData
from cronaca.core.aggregates.samples import Floats

MOST_AT_ONCE: Final = 1 << 20
"""Pieces that are held in memory together; one interval may have more."""
N = TypeVar("N", np.int64, np.float64)


@dataclass(frozen=True, slots=True)
class Groups:
    """Entries of intervals one after the other: those of interval i lie from `starts[i]` on, `counts[i]` of
    them. `some` says which intervals they are."""

    some: slice
    counts: NDArray[np.int64]

    @property
    def starts(self) -> NDArray[np.int64]:
        """Where the entries of each interval begin."""
        return np.cumsum(self.counts) - self.counts

    def total(self, column: NDArray[N]) -> NDArray[N]:
        """The column summed over each interval; 0 where it has no entry."""
        result = np.zeros(len(self.counts), column.dtype)
        filled = self.counts > 0
        if filled.any():
            result[filled] = np.add.reduceat(column, self.starts[filled])
        return result

    def lowest(self, column: Floats) -> Floats:
        """The lowest of each interval; infinite where it has no entry."""
        result = np.full(len(self.counts), np.inf)
        filled = self.counts > 0
        if filled.any():
            result[filled] = np.minimum.reduceat(column, self.starts[filled])
        return result

    def spread(self, column: NDArray[N]) -> NDArray[N]:
        """One value an interval, put beside each of its entries."""
        return np.repeat(column, self.counts)

    def in_order(self, column: Floats) -> NDArray[np.intp]:
        """The positions of the entries in order of their values, interval by interval."""
        return np.lexsort((column, np.repeat(np.arange(len(self.counts)), self.counts)))


@dataclass(frozen=True, slots=True)
class LinePieces(Groups):
    """The usable pieces of the line in each interval: how long (µs), and the values at their ends."""

    length_us: NDArray[np.int64]
    first: Floats
    last: Floats

    @property
    def low(self) -> Floats:
        """The lower end of each piece."""
        return np.minimum(self.first, self.last)

    @property
    def high(self) -> Floats:
        """The higher end."""
        return np.maximum(self.first, self.last)


@dataclass(frozen=True, slots=True)
class GoodValues(Groups):
    """The Good samples in each interval."""

    values: Floats


def good_values(data: IntervalData) -> GoodValues:
    """The Good samples of all intervals."""
    good, segments = data.good & data.raw, data.segments
    inside = slice(int(segments.start[0]), int(segments.end[-1])) if len(segments.start) else slice(0, 0)
    values = data.numbers[inside][good[inside]]
    return GoodValues(slice(0, len(segments.start)), segments.count(good), values)


def line_pieces(data: IntervalData) -> Iterator[LinePieces]:
    """The usable pieces of all intervals, some intervals at a time."""
    a = np.searchsorted(data.ts_us, data.intervals.lo_us, "right")
    b = np.maximum(np.searchsorted(data.ts_us, data.intervals.hi_us), a)
    reached = np.cumsum(b - a + 1)
    at = 0
    while at < len(reached):
        before = int(reached[at - 1]) if at else 0
        until = max(int(np.searchsorted(reached, before + MOST_AT_ONCE, "right")), at + 1)
        yield _pieces(data, slice(at, until), a[at:until], b[at:until])
        at = until


def _pieces(data: IntervalData, some: slice, a: NDArray[np.intp], b: NDArray[np.intp]) -> LinePieces:
    """Those of some intervals, whose samples strictly inside lie at [a, b)."""
    where = data.intervals
    lo = where.lo_us[some]
    end = np.maximum(np.minimum(where.hi_us[some], data.end_of_data_us), lo)
    counts = (b - a + 1).astype(np.int64)
    starts = np.cumsum(counts) - counts
    is_first = np.zeros(int(counts.sum()), np.bool_)
    is_first[starts] = True
    is_last = np.zeros(len(is_first), np.bool_)
    is_last[starts + counts - 1] = True
    # The sample that each piece begins with; of the first piece of an interval there is none.
    sample = np.arange(len(is_first)) - np.repeat(starts - a, counts) - 1
    of, following = sample[~is_first], sample[~is_last] + 1
    bound, leaving = simple(data, lo), simple(data, end, leaving=True)
    begin_us, end_us = np.repeat(lo, counts), np.repeat(end, counts)
    begin_us[~is_first], end_us[~is_last] = data.ts_us[of], data.ts_us[following]
    first, usable = np.repeat(bound.values.astype(np.float64), counts), np.repeat(bound.usable, counts)
    first[~is_first], usable[~is_first] = data.numbers[of], ~data.bad[of]
    last = first
    if not data.stepped:
        last, leads = np.repeat(leaving.values.astype(np.float64), counts), np.repeat(leaving.usable, counts)
        last[~is_last], leads[~is_last] = data.numbers[following], ~data.bad[following]
        last = np.where(leads, last, first)
    keep = usable & (end_us > begin_us)
    owner = np.repeat(np.arange(len(counts)), counts)
    kept = np.bincount(owner[keep], minlength=len(counts)).astype(np.int64)
    return LinePieces(some, kept, (end_us - begin_us)[keep], first[keep], last[keep])
