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


def reduce_m4(series: Series, window: Window, width: int, grid_us: int = 1) -> Series:
    """The samples that a plot of `width` pixel columns over the window needs, in order of time.

    Samples outside the window (the bounding values) are kept as they are: give at most one each side.
    With a grid, the edges of the columns snap to its multiples: samples already reduced by buckets of that
    width then give the very answer that all samples give.
    """
    if not 1 <= width <= WIDEST:
        raise InvalidInput(
            "width",
            "not-plot-width",
            "{width} is not a plot width",
            "Give 1 to {widest} pixels.",
            width=width,
            widest=WIDEST,
        )
    if (grid_us == 1 and len(series) <= 4 * width) or not len(series):
        return series
    starts = _group_starts(series.ts_us, window, width, grid_us)
    ends = np.r_[starts[1:], len(series)]
    bad = q.is_bad(series.quality)
    kept = np.zeros(len(series), np.bool_)
    for index in (starts, ends - 1, *_extremes(series, bad, starts, ends), *_bad_ends(bad, starts)):
        kept[index] = True
    return series.take(kept)


def _group_starts(ts_us: Times, window: Window, width: int, grid_us: int) -> Index:
    """Where the samples of each column begin, those before the window and behind it as columns of their own.
    A sample belongs to the column in which its grid cell begins; only the columns' edges are looked up, for
    there are far fewer of them than samples."""
    edges = window.start_us - (-np.arange(width, dtype=np.int64) * window.length_us // width)
    edges[1:] = -(-edges[1:] // grid_us) * grid_us
    places = ts_us.searchsorted(np.r_[np.minimum(edges, window.end_us), window.end_us])
    starts = np.unique(np.r_[0, places])
    return starts[starts < len(ts_us)]


def _extremes(series: Series, bad: NDArray[np.bool_], starts: Index, ends: Index) -> list[Index]:
    """Positions of each column's first lowest and first highest usable sample."""
    sizes = ends - starts
    any_bad = bool(bad.any())
    result = []
    for reducer, worst in ((np.minimum, np.inf), (np.maximum, -np.inf)):
        usable = np.where(bad, _limit(series, worst), series.values) if any_bad else series.values
        best = reducer.reduceat(usable, starts)
        hits = np.flatnonzero(usable == np.repeat(best, sizes))
        hits = hits[~bad[hits]] if any_bad else hits
        result.append(hits[_first_of_group(np.searchsorted(starts, hits, side="right"))])
    return result


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
