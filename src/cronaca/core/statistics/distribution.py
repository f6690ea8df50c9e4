"""How values are spread: percentiles, deviation, variation, histogram; by samples or weighted by time."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from cronaca.core.aggregates.facts import Facts
from cronaca.core.aggregates.recorded import spread
from cronaca.core.aggregates.samples import Floats
from cronaca.core.statistics.pieces import Pieces, pieces_of
from cronaca.core.statistics.wish import Weight, Wish


def percentile(facts: Facts, wish: Wish) -> Floats:
    """The value below which so many percent lie, per interval; NaN where there is none.

    By samples: linear between neighbours (Hyndman and Fan, Sample Quantiles in Statistical Packages, The
    American Statistician 50(4), 1996, type 7). By time: the lowest value x such that the line was at or
    below x for so many percent of the usable time; on a slope each value counts as long as it was passed."""
    if wish.weight is Weight.TIME:
        found = [
            _time_percentile(pieces_of(facts, i).used(), wish.percent) for i in range(len(facts.intervals))
        ]
        return np.array(found)
    return np.array([
        np.percentile(values, wish.percent) if len(values) else np.nan for values in good_values(facts)
    ])  # fmt: skip


def good_values(facts: Facts) -> list[Floats]:
    """The Good samples of each interval."""
    good = facts.good & facts.raw
    segments = zip(facts.segments.start.tolist(), facts.segments.end.tolist(), strict=True)
    return [facts.numbers[a:b][good[a:b]] for a, b in segments]


def deviation(facts: Facts, wish: Wish) -> Floats:
    """Standard deviation of the line over usable time: sqrt(integral of (x - mean)^2 / time); by samples
    the sample deviation, n - 1."""
    if wish.weight is Weight.SAMPLES:
        found = spread(facts)
        return np.where(found.count > 0, found.deviation(sample=True), np.nan)
    return np.array([_time_moments(pieces_of(facts, i).used())[1] for i in range(len(facts.intervals))])


def variation(facts: Facts, wish: Wish) -> Floats:
    """Coefficient of variation, percent: deviation / |mean| * 100; none where the mean is 0."""
    around = deviation(facts, wish)
    if wish.weight is Weight.SAMPLES:
        mean = spread(facts).mean
    else:
        mean = np.array([_time_moments(pieces_of(facts, i).used())[0] for i in range(len(facts.intervals))])
    with np.errstate(divide="ignore", invalid="ignore"):
        return np.where(mean == 0, np.nan, around / np.abs(mean) * 100)


def _time_moments(pieces: Pieces) -> tuple[float, float]:
    """Mean and standard deviation of the line over its time."""
    total = int(pieces.length_us.sum())
    if not total:
        return np.nan, np.nan
    share = pieces.length_us / total
    shift = float(pieces.first[0])
    a, b = pieces.first - shift, pieces.last - shift
    mean = float(np.sum(share * (a + b) / 2))
    a, b = a - mean, b - mean
    # The square of a straight line from a to b, integrated: (a^2 + a b + b^2) / 3.
    return shift + mean, float(np.sqrt(max(np.sum(share * (a * a + a * b + b * b) / 3), 0.0)))


def _time_percentile(pieces: Pieces, percent: float) -> float:
    total = int(pieces.length_us.sum())
    if not total:
        return np.nan
    target = percent / 100 * total
    flat = pieces.first == pieces.last
    if bool(flat.all()):
        order = np.argsort(pieces.first, kind="stable")
        reached = np.cumsum(pieces.length_us[order])
        at = min(int(np.searchsorted(reached, target)), len(order) - 1)
        return float(pieces.first[order][at])
    return _bisected(pieces, target)


def _bisected(pieces: Pieces, target: float) -> float:
    """The lowest value at or below which the line was for `target` µs: bisection, in which pieces that lie
    wholly on one side are counted once and dropped."""
    low, high = np.minimum(pieces.first, pieces.last), np.maximum(pieces.first, pieces.last)
    length = pieces.length_us.astype(np.float64)
    left, right, below = float(low.min()), float(high.max()), 0.0
    if _time_at_most(low, high, length, left) >= target:
        return left
    while True:
        middle = left + (right - left) / 2
        if middle in (left, right):
            return right
        if below + _time_at_most(low, high, length, middle) >= target:
            right = middle
        else:
            left = middle
        done = high <= left
        below += float(length[done].sum())
        keep = ~done & (low <= right)
        low, high, length = low[keep], high[keep], length[keep]


def _time_at_most(low: Floats, high: Floats, length: Floats, value: float) -> float:
    """How long pieces that rise or fall evenly from `low` to `high` are at or below a value."""
    rise = np.where(high > low, high - low, 1.0)
    share = np.where(high > low, np.clip((value - low) / rise, 0.0, 1.0), low <= value)
    return float(np.sum(share * length))


@dataclass(frozen=True, slots=True)
class Histogram:
    """How often values lay in each bin [edge, next edge), the last one with its end: samples, or seconds."""

    edges: Floats
    amounts: Floats
    below: float
    above: float


def histogram(facts: Facts, wish: Wish, i: int) -> Histogram:
    """The histogram of interval `i`. Bins without given ends reach from the lowest to the highest value."""
    if wish.weight is Weight.SAMPLES:
        values = good_values(facts)[i]
        edges = _edges(values, values, wish)
        amounts, _ = np.histogram(values, edges)
        return Histogram(edges, amounts.astype(np.float64), float((values < edges[0]).sum()),
                         float((values > edges[-1]).sum()))  # fmt: skip
    pieces = pieces_of(facts, i).used()
    low, high = np.minimum(pieces.first, pieces.last), np.maximum(pieces.first, pieces.last)
    edges = _edges(low, high, wish)
    length = pieces.length_us / 1e6
    under = np.array([_time_under(low, high, length, edge) for edge in edges])
    total = float(length.sum())
    last = _time_at_most(low, high, length, float(edges[-1]))
    amounts = np.diff(np.r_[under[:-1], last])
    return Histogram(edges, np.maximum(amounts, 0.0), float(under[0]), max(total - last, 0.0))


def _time_under(low: Floats, high: Floats, length: Floats, value: float) -> float:
    rise = np.where(high > low, high - low, 1.0)
    share = np.where(high > low, np.clip((value - low) / rise, 0.0, 1.0), low < value)
    return float(np.sum(share * length))


def _edges(low: Floats, high: Floats, wish: Wish) -> Floats:
    start = wish.low if wish.low is not None else float(low.min(initial=np.inf))
    end = wish.high if wish.high is not None else float(high.max(initial=-np.inf))
    if not np.isfinite(start) or not np.isfinite(end):
        start, end = 0.0, 1.0
    if end <= start:
        # All values are equal (or only one end was given, beyond them): one unit in which they lie.
        start, end = (start - 0.5, start + 0.5) if wish.high is None else (end - 1.0, end)
    return np.linspace(start, end, wish.bins + 1)
