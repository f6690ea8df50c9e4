"""What happens between samples, summed over intervals: areas under the line and durations by quality.

An interval is cut into the spans between its samples, and a piece on either side that reaches to its edge
inside a span that began before it or ends behind it.
"""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass
from typing import Final, TypeVar

import numpy as np
from numpy.typing import NDArray

from cronaca.core.aggregates.interval_data import IntervalData, Mask
from cronaca.core.aggregates.intervals import Segments
from cronaca.core.aggregates.samples import Floats
from cronaca.core.model import Times

_PIECE: Final = 1 << 15
"""Samples at once: their columns stay in the processor's cache, which is several times quicker."""
Counts = NDArray[np.int64]
S = TypeVar("S", np.int64, np.float64)
SpanColumn = Callable[[slice, slice], NDArray[S]]
"""From the samples where spans begin and those where they end, to one figure per span."""


@dataclass(frozen=True, slots=True)
class Durations:
    """Time in each interval (µs) by the quality of the region it lies in."""

    good: Counts
    uncertain: Counts
    bad: Counts


@dataclass(frozen=True, slots=True)
class _Edge:
    """A piece of a span: from `x` to `y` (both µs) behind the sample at position `p` (-1: before the first).
    `x` = `y` where there is no piece. `at` and `following` are `p` and the next position, kept inside the
    samples; `last` where there is no next one."""

    p: NDArray[np.intp]
    x: Times
    y: Times
    at: NDArray[np.intp]
    following: NDArray[np.intp]
    last: Mask

    @classmethod
    def of(cls, p: NDArray[np.intp], x: Times, y: Times, count: int) -> _Edge:
        """The piece behind position `p` of so many samples."""
        return cls(p, x, y, np.maximum(p, 0), np.minimum(p + 1, count - 1), p + 1 >= count)


@np.errstate(over="ignore", invalid="ignore")  # what float64 does not hold becomes Bad, out of range
def area(data: IntervalData, *, onward: bool = False) -> Floats:
    """The area under the usable stretches of the line in each interval, in value * µs. Before a Bad sample
    the line is held. `onward`: past the end of data the line is extrapolated; else it ends there. Up to the
    end of data the last value is known to have held."""
    total = _sum_spans(data, lambda a, b: _span_areas(data, a, b))
    for edge in _edges(data):
        total = total + _edge_area(data, edge, onward=onward)
    return total


def durations(data: IntervalData, *, stepped: bool) -> Durations:
    """How long each interval was Good, Uncertain, Bad. A region has the quality of the sample it begins
    with; on a slope also that of the one it leads to: held before a Bad one, it is Uncertain. What lies
    before the first sample or past the end of data is Bad."""
    return data.remember(("durations", stepped), lambda: _durations(data, stepped=stepped))


def _durations(data: IntervalData, *, stepped: bool) -> Durations:
    where = data.intervals
    whole = where.hi_us - where.lo_us
    if data.all_good and len(data.ts_us):
        first, last = data.ts_us[0], data.end_of_data_us
        good = np.maximum(np.minimum(where.hi_us, last) - np.maximum(where.lo_us, first), 0)
        return Durations(good, np.zeros(len(good), np.int64), whole - good)
    good = _sum_ints(data, lambda a, b: _good_spans(data, a, b, stepped=stepped))
    usable = _sum_ints(data, lambda a, _: ~data.bad[a])
    for edge in _edges(data):
        known = _known_end(data, edge) - edge.x
        good = good + np.where(_good_edge(data, edge, stepped=stepped), known, 0)
        usable = usable + np.where(_usable_edge(data, edge), known, 0)
    return Durations(good, usable - good, whole - usable)


def not_zero(data: IntervalData) -> Counts:
    """How long (µs) the usable value, held from each sample to the next, was not zero."""
    total = _sum_ints(data, lambda a, _: ~data.bad[a] & (data.values[a] != 0))
    blocks = data.samples.blocks
    if blocks is not None:
        # Of a boolean tag: its area is the time it was 1.
        inner, held = blocks.inner, blocks.held
        plain = _sum_ints(data, lambda a, _: inner[a] & (data.values[a] != 0))
        nonzero = _sum_spans(data, lambda a, _: np.where(inner[a], held[a], 0.0))
        total = total + np.rint(nonzero).astype(np.int64) - plain
    for edge in _edges(data):
        on = _usable_edge(data, edge) & (data.numbers[edge.at] != 0)
        total = total + np.where(on, _known_end(data, edge) - edge.x, 0)
    return total


def _edges(data: IntervalData) -> list[_Edge]:
    """The piece at the early side of each interval, then the one at its late side."""
    return data.remember("edges", lambda: _make_edges(data))


def _make_edges(data: IntervalData) -> list[_Edge]:
    count = len(data.ts_us)
    if not count:
        return []
    where, segments = data.intervals, data.segments
    filled = segments.end > segments.start
    first = data.ts_us[np.minimum(segments.start, count - 1)]
    last = data.ts_us[np.maximum(segments.end - 1, 0)]
    return [
        _Edge.of(segments.start - 1, where.lo_us, np.where(filled, first, where.hi_us), count),
        _Edge.of(segments.end - 1, np.where(filled, last, where.hi_us), where.hi_us, count),
    ]


def _usable_edge(data: IntervalData, edge: _Edge) -> Mask:
    return (edge.p >= 0) & ~data.bad[edge.at]


def _good_edge(data: IntervalData, edge: _Edge, *, stepped: bool) -> Mask:
    good = (edge.p >= 0) & data.good[edge.at]
    if stepped:
        return good
    return good & (edge.last | data.good[edge.following])


def _known_end(data: IntervalData, edge: _Edge) -> Times:
    """Where a piece ends as far as it is known."""
    return np.where(edge.last, np.maximum(np.minimum(edge.y, data.end_of_data_us), edge.x), edge.y)


def _edge_area(data: IntervalData, edge: _Edge, *, onward: bool) -> Floats:
    usable = _usable_edge(data, edge)
    ahead = ~edge.last
    sloped = onward and data.configuration.sloped_extrapolation and not data.stepped
    end = edge.y if onward and not sloped else _known_end(data, edge)
    value = np.where(usable, data.numbers[edge.at], 0.0)
    length_us = (end - edge.x).astype(np.float64)
    if data.stepped:
        return value * length_us
    t = data.ts_us[edge.at]
    leads = usable & ahead & ~data.bad[edge.following]
    following = np.where(leads, data.numbers[edge.following], value)
    length = np.where(leads, data.ts_us[edge.following] - t, 1)
    slope = following / length - value / length
    middle = (edge.x - t) / 2 + (end - t) / 2
    result: Floats = (value + slope * np.where(usable, middle, 0)) * length_us
    return result + _area_beyond(data, edge, end) if sloped else result


def _area_beyond(data: IntervalData, edge: _Edge, end: Times) -> Floats:
    """What lies past the end of data: under the line of the last two samples; of one alone, held."""
    beyond = _usable_edge(data, edge) & edge.last
    rise = 0.0
    if len(data.ts_us) > 1:
        rise = (data.numbers[-1] - data.numbers[-2]) / (data.ts_us[-1] - data.ts_us[-2])
    t = data.ts_us[edge.at]
    middle = (end - t) / 2 + (edge.y - t) / 2
    result: Floats = np.where(beyond, (data.numbers[edge.at] + rise * middle) * (edge.y - end), 0.0)
    return result


def _good_spans(data: IntervalData, a: slice, b: slice, *, stepped: bool) -> Mask:
    return data.good[a] if stepped else data.good[a] & data.good[b]


def _span_areas(data: IntervalData, a: slice, b: slice) -> Floats:
    length = (data.ts_us[b] - data.ts_us[a]).astype(np.float64)
    value = data.numbers[a]
    if data.stepped:
        length *= value if data.all_good else np.where(data.bad[a], 0.0, value)
    else:
        if data.all_good:
            middle = value + data.numbers[b]
        else:
            following = np.where(data.bad[b], value, data.numbers[b])
            middle = np.where(data.bad[a], 0.0, value + following)
        middle *= 0.5
        length *= middle
    blocks = data.samples.blocks
    if blocks is not None:
        inner = blocks.inner[a]
        length[inner] = (blocks.held if data.stepped else blocks.sloped)[a][inner]
    return length


def _sum_ints(data: IntervalData, which: Callable[[slice, slice], Mask]) -> Counts:
    """Lengths (µs) of the spans chosen, summed exactly."""

    def column(a: slice, b: slice) -> Counts:
        return np.where(which(a, b), data.ts_us[b] - data.ts_us[a], 0)

    result = np.zeros(len(data.intervals), np.int64)
    _sum_into(result, data.segments, column)
    return result


def _sum_spans(data: IntervalData, column: SpanColumn[np.float64]) -> Floats:
    result = np.zeros(len(data.intervals))
    with np.errstate(over="ignore", invalid="ignore"):
        _sum_into(result, data.segments, column)
    return result


def _sum_into(sums: NDArray[S], segments: Segments, column: SpanColumn[S]) -> None:
    """Sums a column over the spans whose both ends lie in an interval; pairwise, in pieces of samples."""
    if not len(segments.start):
        return
    begin, stop = int(segments.start[0]), int(segments.end[-1])
    for low in range(begin, stop, _PIECE):
        high = min(low + _PIECE, stop)
        # One entry per sample: the span to the next one; the very last sample of all has none.
        ends = min(high + 1, stop)
        spans = np.zeros(high - low, sums.dtype)
        spans[: ends - low - 1] = column(slice(low, ends - 1), slice(low + 1, ends))
        first = int(np.searchsorted(segments.end, low, "right"))
        after = int(np.searchsorted(segments.start, high, "left"))
        start, end = segments.start[first:after], segments.end[first:after]
        leaving = end[(end > low) & (end <= high) & (end > start)] - 1 - low
        spans[leaving] = 0
        filled = np.flatnonzero(end > start) + first
        if len(filled):
            sums[filled] += np.add.reduceat(spans, np.maximum(segments.start[filled], low) - low)
