"""Reduction of a series to what a plot of a given width can show, without changing the picture.

M4 (Jugel, Jerzak, Hackenbroich, Markl: M4: A Visualization-Oriented Time Series Data Aggregation,
PVLDB 7(10), 2014): of each pixel column the first, last, lowest and highest sample are kept; a line
drawn through them covers the same pixels as one through all samples. The first and the last Bad
sample of a column are kept as well, so a gap never closes.
"""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

from cronaca.core import quality as q
from cronaca.core.errors import InvalidInput
from cronaca.core.model import Series, Times, Window

WIDEST = 8_192
Index = NDArray[np.intp]


def column_of(ts_us: Times, window: Window, width: int) -> NDArray[np.int64]:
    """The pixel column, 0 to width - 1 inside the window, of each time."""
    return (ts_us - window.start_us) * width // window.length_us


def reduce_m4(series: Series, window: Window, width: int, grid_us: int = 1) -> Series:
    """The samples that a plot of `width` pixel columns over the window needs, in order of time.

    Samples outside the window (the bounding values) are kept as they are: give at most one each side.
    With a grid, the edges of the columns snap to its multiples: samples already reduced by buckets of that
    width then give the very answer that all samples give.
    """
    if not 1 <= width <= WIDEST:
        raise InvalidInput("width", f"{width} is not a plot width", f"Give 1 to {WIDEST} pixels.")
    if (grid_us == 1 and len(series) <= 4 * width) or not len(series):
        return series
    columns = _snapped_columns(series.ts_us, window, width, grid_us)
    starts = np.flatnonzero(np.r_[True, columns[1:] != columns[:-1]])
    ends = np.r_[starts[1:], len(series)]
    bad = q.is_bad(series.quality)
    keep = [starts, ends - 1, *_extremes(series, bad, starts, ends), *_bad_ends(bad, starts)]
    return series.take(np.unique(np.concatenate(keep)))


def _snapped_columns(ts_us: Times, window: Window, width: int, grid_us: int) -> NDArray[np.int64]:
    """The column of each time, by the start of its grid cell; -1 before the window, `width` behind it."""
    cells = np.maximum(ts_us // grid_us * grid_us, window.start_us)
    columns = column_of(cells, window, width)
    columns[ts_us < window.start_us] = -1
    columns[ts_us >= window.end_us] = width
    return columns


def _extremes(series: Series, bad: NDArray[np.bool_], starts: Index, ends: Index) -> list[Index]:
    """Positions of each column's first lowest and first highest usable sample."""
    groups = np.repeat(np.arange(len(starts)), ends - starts)
    found = []
    for reducer, worst in ((np.minimum, np.inf), (np.maximum, -np.inf)):
        usable = np.where(bad, _limit(series, worst), series.values)
        best = reducer.reduceat(usable, starts)
        hits = np.flatnonzero((usable == best[groups]) & ~bad)
        found.append(hits[_first_of_group(groups[hits])])
    return found


def _limit(series: Series, worst: float) -> float | int:
    """A value that never wins, in the column's own type: int64 must not be rounded to float."""
    if series.values.dtype == np.int64:
        return int(np.iinfo(np.int64).max if worst > 0 else np.iinfo(np.int64).min)
    return worst


def _bad_ends(bad: NDArray[np.bool_], starts: Index) -> list[Index]:
    """Positions of each column's first and last Bad sample."""
    hits = np.flatnonzero(bad)
    groups = np.searchsorted(starts, hits, side="right")
    first = _first_of_group(groups)
    last = _first_of_group(groups[::-1])[::-1]
    return [hits[first], hits[last]]


def _first_of_group(groups: NDArray[np.intp]) -> NDArray[np.bool_]:
    first = np.ones(len(groups), np.bool_)
    np.not_equal(groups[1:], groups[:-1], out=first[1:])
    return first
