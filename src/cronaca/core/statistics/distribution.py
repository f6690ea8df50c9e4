"""How values are spread: percentiles, deviation, variation, histogram; by samples or weighted by time."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from cronaca.core.aggregates.interval_data import IntervalData
from cronaca.core.aggregates.recorded import spread
from cronaca.core.aggregates.samples import Floats
from cronaca.core.statistics.groups import GoodValues, LinePieces, good_values, line_pieces
from cronaca.core.statistics.spec import StatSpec, Weight


def percentile(data: IntervalData, spec: StatSpec) -> Floats:
    """The value below which so many percent lie, per interval; NaN where there is none.

    By samples: linear between neighbours (Hyndman and Fan, Sample Quantiles in Statistical Packages, The
    American Statistician 50(4), 1996, type 7). By time: the lowest value x such that the line was at or
    below x for so many percent of the usable time; on a slope each value counts as long as it was passed."""
    if spec.weight is Weight.TIME:
        return _each(data, lambda pieces: _time_percentiles(pieces, spec.percent))
    return _sample_percentiles(good_values(data), spec.percent)


def _sample_percentiles(good: GoodValues, percent: float) -> Floats:
    result = np.full(len(good.counts), np.nan)
    filled = good.counts > 0
    ordered = good.values[good.in_order(good.values)]
    place = percent / 100 * (good.counts[filled] - 1)
    below = np.floor(place).astype(np.int64)
    above = np.minimum(below + 1, good.counts[filled] - 1)
    a, b = ordered[good.starts[filled] + below], ordered[good.starts[filled] + above]
    share = place - below
    # From the nearer end, so that both ends are exact.
    result[filled] = np.where(share < 0.5, a + (b - a) * share, b - (b - a) * (1 - share))
    return result


def deviation(data: IntervalData, spec: StatSpec) -> Floats:
    """Standard deviation of the line over usable time: sqrt(integral of (x - mean)^2 / time); by samples
    the sample deviation, n - 1."""
    if spec.weight is Weight.SAMPLES:
        result = spread(data)
        return np.where(result.count > 0, result.deviation(sample=True), np.nan)
    return _each(data, lambda pieces: _time_moments(pieces)[1])


def variation(data: IntervalData, spec: StatSpec) -> Floats:
    """Coefficient of variation, percent: deviation / |mean| * 100; none where the mean is 0."""
    around = deviation(data, spec)
    if spec.weight is Weight.SAMPLES:
        mean = spread(data).mean
    else:
        mean = _each(data, lambda pieces: _time_moments(pieces)[0])
    with np.errstate(divide="ignore", invalid="ignore"):
        return np.where(mean == 0, np.nan, around / np.abs(mean) * 100)


def _each(data: IntervalData, work: Callable[[LinePieces], Floats]) -> Floats:
    """One figure of the line per interval."""
    return np.concatenate([np.empty(0), *(work(pieces) for pieces in line_pieces(data))])


@np.errstate(invalid="ignore")  # an interval without time has no mean: 0 / 0
def _time_moments(pieces: LinePieces) -> tuple[Floats, Floats]:
    """Mean and standard deviation of the line over its time."""
    total = pieces.total(pieces.length_us)
    share = pieces.length_us / pieces.spread(total)
    filled = pieces.counts > 0
    shift = np.zeros(len(total))
    shift[filled] = pieces.first[pieces.starts[filled]]
    a, b = pieces.first - pieces.spread(shift), pieces.last - pieces.spread(shift)
    mean = pieces.total(share * (a + b) / 2)
    a, b = a - pieces.spread(mean), b - pieces.spread(mean)
    # The square of a straight line from a to b, integrated: (a^2 + a b + b^2) / 3.
    square = np.maximum(pieces.total(share * (a * a + a * b + b * b) / 3), 0.0)
    return np.where(filled, shift + mean, np.nan), np.where(filled, np.sqrt(square), np.nan)


def _time_percentiles(pieces: LinePieces, percent: float) -> Floats:
    target = percent / 100 * pieces.total(pieces.length_us).astype(np.float64)
    held = pieces.total((pieces.first != pieces.last).astype(np.int64)) == 0
    result = np.where(held, _of_held(pieces, target), np.nan)
    if not held.all():
        sloped = pieces.spread(~held)
        counts = np.where(held, 0, pieces.counts)
        some = LinePieces(
            pieces.some, counts, pieces.length_us[sloped], pieces.first[sloped], pieces.last[sloped]
        )
        result = np.where(held, result, _bisected(some, target))
    return np.where(pieces.counts > 0, result, np.nan)


def _of_held(pieces: LinePieces, target: Floats) -> Floats:
    """Of values that are held: the first, in order, up to which the time reaches the target."""
    if not len(pieces.first):
        return np.full(len(target), np.nan)
    order = pieces.in_order(pieces.first)
    reached = np.cumsum(pieces.length_us[order])
    starts = pieces.starts
    before = np.where(starts > 0, reached[np.maximum(starts - 1, 0)], 0)
    at = np.searchsorted(reached, before + target)
    last = np.maximum(starts + pieces.counts - 1, 0)
    result: Floats = pieces.first[order][np.clip(at, np.minimum(starts, last), last)]
    return result


def _bisected(pieces: LinePieces, target: Floats) -> Floats:
    """The lowest value at or below which the line was for `target` µs, by bisection in all intervals at once;
    NaN where an interval has no piece."""
    low, high, length = pieces.low, pieces.high, pieces.length_us.astype(np.float64)
    left, right = pieces.lowest(low), -pieces.lowest(-high)
    done = (pieces.counts == 0) | (_time_at_most(pieces, low, high, length, left) >= target)
    result = np.where(pieces.counts == 0, np.nan, left)
    while not done.all():
        middle = left + (right - left) / 2
        met = ~done & ((middle == left) | (middle == right))
        result, done = np.where(met, right, result), done | met
        middle = np.where(done, 0.0, middle)
        enough = _time_at_most(pieces, low, high, length, middle) >= target
        left = np.where(done | enough, left, middle)
        right = np.where(done | ~enough, right, middle)
    return result


def _time_at_most(pieces: LinePieces, low: Floats, high: Floats, length: Floats, value: Floats) -> Floats:
    """How long pieces that rise or fall evenly from `low` to `high` are at or below a value an interval."""
    return _time(pieces, low, high, length, value, with_equal=True)


def _time(
    pieces: LinePieces, low: Floats, high: Floats, length: Floats, value: Floats, *, with_equal: bool
) -> Floats:
    beside = pieces.spread(value)
    held = low <= beside if with_equal else low < beside
    rise = np.where(high > low, high - low, 1.0)
    share = np.where(high > low, np.clip((beside - low) / rise, 0.0, 1.0), held)
    return pieces.total(share * length)


@dataclass(frozen=True, slots=True)
class Histogram:
    """How often values lay in each bin [edge, next edge), the last one with its end: samples, or seconds."""

    edges: Floats
    amounts: Floats
    below: float
    above: float


def histograms(data: IntervalData, spec: StatSpec) -> list[Histogram]:
    """The histogram of each interval, in order of time. Bins without given ends reach from the lowest to the
    highest value."""
    if spec.weight is Weight.SAMPLES:
        return _sample_histograms(good_values(data), spec)
    return [histogram for pieces in line_pieces(data) for histogram in _time_histograms(pieces, spec)]


def _sample_histograms(good: GoodValues, spec: StatSpec) -> list[Histogram]:
    edges = _edges(good.lowest(good.values), -good.lowest(-good.values), spec)
    under = [good.total((good.values < good.spread(edge)).astype(np.int64)) for edge in edges.T]
    last = good.total((good.values <= good.spread(edges[:, -1])).astype(np.int64))
    return _made(edges, np.array([*under[:-1], last], np.float64), good.counts.astype(np.float64))


def _time_histograms(pieces: LinePieces, spec: StatSpec) -> list[Histogram]:
    low, high, length = pieces.low, pieces.high, pieces.length_us / 1e6
    edges = _edges(pieces.lowest(low), -pieces.lowest(-high), spec)
    under = [_time(pieces, low, high, length, edge, with_equal=False) for edge in edges.T[:-1]]
    last = _time_at_most(pieces, low, high, length, edges[:, -1])
    return _made(edges, np.array([*under, last]), pieces.total(length))


def _made(edges: NDArray[np.float64], under: NDArray[np.float64], total: Floats) -> list[Histogram]:
    """Of what lies under each edge (edge x interval) and of all there is."""
    amounts = np.maximum(np.diff(under, axis=0), 0.0).T
    above = np.maximum(total - under[-1], 0.0)
    return [Histogram(edges[i], amounts[i], float(under[0, i]), float(above[i])) for i in range(len(edges))]


def _edges(low: Floats, high: Floats, spec: StatSpec) -> NDArray[np.float64]:
    """The edges of the bins (interval x edge)."""
    start = np.full(len(low), spec.low) if spec.low is not None else low
    end = np.full(len(high), spec.high) if spec.high is not None else high
    nothing = ~np.isfinite(start) | ~np.isfinite(end)
    start, end = np.where(nothing, 0.0, start), np.where(nothing, 1.0, end)
    # All values are equal (or only one end was given, beyond them): one unit in which they lie.
    flat = end <= start
    if spec.high is None:
        start, end = np.where(flat, start - 0.5, start), np.where(flat, start + 0.5, end)
    else:
        start = np.where(flat, end - 1.0, start)
    return np.linspace(start, end, spec.bins + 1, axis=-1)
