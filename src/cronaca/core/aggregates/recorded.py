"""Aggregates of recorded samples alone, each counting once (Part 13: Average, Minimum, Maximum, Range, Count,
Start, End, Delta, WorstQuality, NumberOfTransitions, AnnotationCount, deviations and variances)."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Final

import numpy as np
from numpy.typing import NDArray

from cronaca.core import quality as q
from cronaca.core.aggregates import status
from cronaca.core.aggregates.bounds import start_bound
from cronaca.core.aggregates.interval_data import IntervalData, Mask
from cronaca.core.aggregates.results import Processed, processed, where_past
from cronaca.core.aggregates.samples import Floats, as_type, away_from, differences
from cronaca.core.aggregates.status import StatusArray
from cronaca.core.model import Times, Values, ValueType

C: Final = status.CALCULATED
_SAFE_EXPONENT: Final = 400
"""Squares of what lies within 2^-400 and 2^400 stay inside of float64, however many are summed."""


def average(data: IntervalData) -> Processed:
    """Sum of Good samples / their number."""
    return processed(data, spread(data).mean, _of_good(data), C, data.partial)


def variance_population(data: IntervalData) -> Processed:
    """Sum of squared deviations of Good samples / n."""
    return _spread(data, sample=False, root=False)


def variance_sample(data: IntervalData) -> Processed:
    """Sum of squared deviations of Good samples / (n - 1); 0 for one sample."""
    return _spread(data, sample=True, root=False)


def deviation_population(data: IntervalData) -> Processed:
    """Root of the population variance."""
    return _spread(data, sample=False, root=True)


def deviation_sample(data: IntervalData) -> Processed:
    """Root of the sample variance."""
    return _spread(data, sample=True, root=True)


def _spread(data: IntervalData, *, sample: bool, root: bool) -> Processed:
    result = spread(data)
    values = result.deviation(sample=sample) if root else result.variance(sample=sample)
    return processed(data, values, _of_good(data), C, data.partial)


@dataclass(frozen=True, slots=True)
class Spread:
    """Of the Good samples in each interval: number, mean, and the sum of squared deviations divided by
    4^exponent. The power of two near the largest deviation is taken out, which costs no digit: squares of
    what float64 holds may lie beyond it."""

    count: NDArray[np.int64]
    mean: Floats
    scaled_m2: Floats
    exponent: NDArray[np.int32]

    @property
    def m2(self) -> Floats:
        """The sum of squared deviations; infinite where float64 does not hold it."""
        with np.errstate(over="ignore"):
            return np.ldexp(self.scaled_m2, 2 * self.exponent)

    @np.errstate(over="ignore")  # what float64 does not hold becomes Bad, out of range
    def variance(self, *, sample: bool) -> Floats:
        """Mean squared deviation, by n - 1 for a sample."""
        return np.ldexp(self._mean_square(sample=sample), 2 * self.exponent)

    def deviation(self, *, sample: bool) -> Floats:
        """Its root."""
        return np.ldexp(np.sqrt(self._mean_square(sample=sample)), self.exponent)

    def _mean_square(self, *, sample: bool) -> Floats:
        result: Floats = self.scaled_m2 / np.maximum(self.count - sample, 1)
        return result


def spread(data: IntervalData) -> Spread:
    """How the Good samples of each interval are spread around their mean."""
    return data.remember("spread", lambda: _spread_of(data))


@np.errstate(over="ignore", invalid="ignore")  # what float64 does not hold becomes Bad, out of range
def _spread_of(data: IntervalData) -> Spread:
    """Values are taken relative to the first one of their interval, in two passes, so a large offset eats no
    digits; blocks merge by Chan, Golub, LeVeque (STAN-CS-79-773, 1979)."""
    segments, good, blocks = data.segments, data.good & data.raw, data.samples.blocks
    counts = (
        good.astype(np.float64) if blocks is None else np.where(good, blocks.counts, 0).astype(np.float64)
    )
    values = data.values if blocks is None else blocks.mean
    first = segments.first(counts > 0)
    none = np.zeros((), values.dtype)
    shift = np.where(first >= 0, values[np.maximum(first, 0)] if len(values) else none, none)
    inside = slice(int(segments.start[0]), int(segments.end[-1]))
    away = np.zeros(len(values))
    away[inside] = away_from(values[inside], np.repeat(shift, segments.counts))
    away[counts == 0] = 0.0
    exponent = np.frexp(segments.reduce(np.maximum, np.abs(away), 0.0))[1]
    exponent[np.abs(exponent) < _SAFE_EXPONENT] = 0
    if exponent.any():
        away[inside] = np.ldexp(away[inside], -np.repeat(exponent, segments.counts))
    total = segments.reduce(np.add, counts, 0.0)
    safe = np.maximum(total, 1)
    mean_away = segments.reduce(np.add, away * counts, 0.0) / safe
    away[inside] -= np.repeat(mean_away, segments.counts)
    away[counts == 0] = 0.0
    m2 = segments.reduce(np.add, counts * away * away, 0.0)
    # What rounding left of the mean: the correction of the two-pass algorithm of the same report.
    rest = segments.reduce(np.add, counts * away, 0.0)
    m2 = np.maximum(m2 - rest * rest / safe, 0.0)
    if blocks is not None:
        inner = segments.reduce(np.add, np.where(counts > 0, blocks.m2, 0.0), 0.0)
        m2 = m2 + np.ldexp(inner, -2 * exponent)
    mean = shift + np.ldexp(mean_away + rest / safe, exponent)
    return Spread(total.astype(np.int64), mean, m2, exponent)


def _of_good(data: IntervalData) -> StatusArray:
    """By shares of samples; Bad, no data, where none is Good."""
    good, _, _ = data.raw_counts
    return np.where(good == 0, np.uint32(status.BAD_NO_DATA), data.by_values())


def count(data: IntervalData) -> Processed:
    """The number of Good samples: 0 and Good where nothing was recorded, 0 and Bad where all was Bad."""
    good, _, total = data.raw_counts
    codes = np.where(total == 0, np.uint32(status.GOOD), data.by_values())
    no_value = np.zeros(len(good), np.bool_)
    return processed(data, good, codes, C, data.partial, null=no_value)


def minimum(data: IntervalData) -> Processed:
    """The lowest Good sample."""
    return _extreme(data, np.minimum, own_time=False)


def maximum(data: IntervalData) -> Processed:
    """The highest Good sample."""
    return _extreme(data, np.maximum, own_time=False)


def minimum_actual_time(data: IntervalData) -> Processed:
    """The lowest Good sample with its time; the oldest of several."""
    return _extreme(data, np.minimum, own_time=True)


def maximum_actual_time(data: IntervalData) -> Processed:
    """The highest Good sample with its time; the oldest of several."""
    return _extreme(data, np.maximum, own_time=True)


def _extreme(data: IntervalData, ufunc: np.ufunc, *, own_time: bool) -> Processed:
    at, several = data.segments.extreme(data.values, data.good & data.raw, ufunc)
    place = np.maximum(at, 0)
    codes = _extreme_codes(data, ufunc, at)
    ts, values = _taken(data, place)
    lowered = codes == status.UNCERTAIN_SUB_NORMAL
    calculated = lowered if own_time else lowered | (ts != data.intervals.begin_us)
    bits = status.bit(calculated, C) | status.bit(several > 1, status.MULTI_VALUE)
    return processed(data, values, codes, bits, data.partial, ts_us=ts if own_time else None)


def _taken(data: IntervalData, place: NDArray[np.intp]) -> tuple[Times, Values]:
    if not len(data.ts_us):
        return np.zeros(len(place), np.int64), as_type(np.zeros(len(place)), data.values)
    return data.ts_us[place], data.values[place]


def _extreme_codes(data: IntervalData, ufunc: np.ufunc, at: NDArray[np.intp]) -> StatusArray:
    """Uncertain where a Bad sample was left out, or an Uncertain one lies beyond the extreme."""
    bad = data.raw_counts[1]
    doubtful = data.raw & ~data.good & ~data.bad
    beyond, _ = data.segments.extreme(data.values, doubtful, ufunc)
    lowered = bad > 0
    both = (beyond >= 0) & (at >= 0)
    if both.any():
        better = np.less if ufunc is np.minimum else np.greater
        lowered = lowered | (both & better(data.values[beyond], data.values[at]))
    codes = np.where(lowered, status.UNCERTAIN_SUB_NORMAL, status.GOOD)
    return np.where(at < 0, status.BAD_NO_DATA, codes).astype(np.uint32)


def value_range(data: IntervalData) -> Processed:
    """Highest minus lowest Good sample."""
    good = data.good & data.raw
    low, _ = data.segments.extreme(data.values, good, np.minimum)
    high, _ = data.segments.extreme(data.values, good, np.maximum)
    codes = np.maximum(_extreme_codes(data, np.minimum, low), _extreme_codes(data, np.maximum, high))
    return processed(data, difference(data, high, low), codes, C, data.partial)


def difference(data: IntervalData, indices: NDArray[np.intp], other: NDArray[np.intp]) -> Values:
    """Differences of samples: exact for whole numbers, in floats where 64 bits do not hold one of them."""
    if not len(data.ts_us):
        return as_type(np.zeros(len(indices)), data.values)
    # Where there is no sample the first one stands for both: 0, and no other column type by it.
    nowhere = (indices < 0) | (other < 0)
    a, b = np.where(nowhere, 0, indices), np.where(nowhere, 0, other)
    return differences(data.values[a], data.values[b])


def delta(data: IntervalData) -> Processed:
    """Last minus first Good sample, in the direction of time."""
    good = data.good & data.raw
    first, last = data.segments.first(good), data.segments.last(good)
    first_raw, last_raw = data.segments.first(data.raw), data.segments.last(data.raw)
    passed = (first != first_raw) | (last != last_raw)
    codes = np.where(passed, status.UNCERTAIN_SUB_NORMAL, status.GOOD)
    codes = np.where(first < 0, status.BAD_NO_DATA, codes).astype(np.uint32)
    ends = (last, first) if data.intervals.forward else (first, last)
    return processed(data, difference(data, *ends), codes, C, data.partial)


def start(data: IntervalData) -> Processed:
    """The first recorded sample, whatever its quality."""
    return _end_sample(data, first=data.intervals.forward)


def end(data: IntervalData) -> Processed:
    """The last recorded sample, whatever its quality."""
    return _end_sample(data, first=not data.intervals.forward)


def _end_sample(data: IntervalData, *, first: bool) -> Processed:
    at = data.segments.first(data.raw) if first else data.segments.last(data.raw)
    ts, values = _taken(data, np.maximum(at, 0))
    quality = data.samples.series.quality[np.maximum(at, 0)] if len(data.ts_us) else np.zeros(len(at))
    codes = np.where(at < 0, np.uint32(status.BAD_NO_DATA), status.from_quality(quality.astype(np.uint16)))
    result = processed(data, values, codes, ts_us=ts)
    if data.intervals.forward:
        times = np.where(at < 0, result.begin_us, ts)
    else:
        times = np.where(at < 0, data.intervals.begin_us, ts)[::-1]
    return Processed(result.begin_us, result.end_us, times, result.values, result.null, result.codes)


def worst_quality(data: IntervalData) -> Processed:
    """The worst status among the samples; the value is a status code."""
    return _worst(data, with_bound=False)


def worst_quality_2(data: IntervalData) -> Processed:
    """The worst status among the samples and the simple bound at the beginning."""
    return _worst(data, with_bound=True)


def _worst(data: IntervalData, *, with_bound: bool) -> Processed:
    severity = q.severity(data.samples.series.quality).astype(np.int64)
    at, several = data.segments.extreme(severity, data.raw, np.maximum)
    place = np.maximum(at, 0)
    own = data.samples.series.quality[place] if len(data.ts_us) else np.zeros(len(at), np.uint16)
    codes = np.where(at < 0, 0, status.from_quality(own)).astype(np.uint32)
    level = np.where(at < 0, -1, (codes >> np.uint32(30)).astype(np.int64))
    if with_bound:
        bound = start_bound(data)
        mine = (bound.codes >> np.uint32(30)).astype(np.int64)
        # A sample at the very beginning is the bound itself, a Bad one too: it is not counted twice.
        several = np.where(
            (mine == level) & ~_recorded_at(data, data.intervals.begin_us),
            several + 1,
            np.where(mine > level, 1, several),
        )
        codes = np.where(mine > level, bound.codes, codes)
        level = np.maximum(level, mine)
    result = where_past(data, np.where(level < 0, status.BAD_NO_DATA, status.GOOD).astype(np.uint32))
    multi = status.bit(several > 1, status.MULTI_VALUE)
    return processed(data, codes.astype(np.int64), result, C, data.partial, multi)


def _recorded_at(data: IntervalData, at_us: Times) -> Mask:
    """Whether there is a recorded sample at each instant."""
    recorded = data.ts_us[data.raw]
    place = np.searchsorted(recorded, at_us)
    result = np.zeros(len(at_us), np.bool_)
    there = place < len(recorded)
    result[there] = recorded[place[there]] == at_us[there]
    return result


def transitions(data: IntervalData) -> Processed:
    """Changes between zero and not zero (of the state, for state lists and texts) from one usable sample to
    the next; the last one before the interval is the first reference. No sample and a known value: 0."""
    _, _, total = data.raw_counts
    result = data.segments.total(state_changes(data))
    usable = data.segments.count(~data.bad & data.raw)
    codes = np.where(usable == 0, np.uint32(status.BAD_NO_DATA), data.by_values())
    # Nothing recorded because nothing changed: none is what is known.
    still = (total == 0) & start_bound(data).usable
    codes = np.where(still, np.uint32(status.GOOD), codes)
    return processed(data, result, where_past(data, codes), C, data.partial)


def state_changes(data: IntervalData) -> NDArray[np.int64]:
    """How many changes of state each sample brings, against the usable one before it."""
    u = data.usable_at
    kind = data.samples.series.value_type
    states = data.values[u] if kind in (ValueType.STATE, ValueType.TEXT) else data.values[u] != 0
    result = np.zeros(len(data.ts_us), np.int64)
    result[u[1:]] = states[1:] != states[:-1]
    blocks = data.samples.blocks
    if blocks is not None:
        # What happened inside a block is told by the block; it stands at the end of its first span.
        inside = np.flatnonzero(blocks.inner) + 1
        result[inside] = blocks.transitions[inside - 1]
    return result


def annotation_count(data: IntervalData) -> Processed:
    """The number of notes in each interval."""
    where, times = data.intervals, data.samples.annotations
    notes = np.empty(0, np.int64) if times is None else times
    ends = [np.searchsorted(notes, edge, where.side) for edge in (where.lo_us, where.hi_us)]
    result = (ends[1] - ends[0]).astype(np.int64)
    return processed(data, result, np.zeros(len(result), np.uint32), C, data.partial)
