"""Aggregates of bounding values, and of samples together with them (Part 13: Interpolative, StartBound,
EndBound, DeltaBounds, the second forms of Minimum, Maximum and Range)."""

from __future__ import annotations

from dataclasses import dataclass
from functools import partial
from typing import Final

import numpy as np
from numpy.typing import NDArray

from cronaca.core.aggregates import status
from cronaca.core.aggregates.bounds import Bound, end_bound, interpolated, start_bound
from cronaca.core.aggregates.interval_data import IntervalData, Mask
from cronaca.core.aggregates.results import Processed, processed, where_past
from cronaca.core.aggregates.samples import as_type, differences
from cronaca.core.aggregates.timed import by_time
from cronaca.core.model import Times, Values

C: Final = status.CALCULATED


def interpolative(data: IntervalData) -> Processed:
    """The interpolated bounding value where each interval begins."""
    return _of_bound(data, interpolated(data, data.intervals.begin_us), data.intervals.begin_us)


def start_bound_value(data: IntervalData) -> Processed:
    """The simple bounding value where each interval begins."""
    return _of_bound(data, start_bound(data), data.intervals.begin_us)


def end_bound_value(data: IntervalData) -> Processed:
    """The simple bounding value where each interval ends, at that time."""
    return _of_bound(data, end_bound(data), data.intervals.end_us)


def _of_bound(data: IntervalData, bound: Bound, ts_us: Times) -> Processed:
    result = processed(data, bound.values, bound.codes, bound.bits)
    times = ts_us if data.intervals.forward else ts_us[::-1]
    return Processed(result.begin_us, result.end_us, times, result.values, result.null, result.codes)


def delta_bounds(data: IntervalData) -> Processed:
    """Bound at the end minus bound at the beginning."""
    first, last = start_bound(data), end_bound(data)
    both = first.usable & last.usable
    codes = np.where(first.good & last.good, status.GOOD, status.UNCERTAIN_SUB_NORMAL)
    codes = np.where(both, codes, status.BAD_NO_DATA).astype(np.uint32)
    values = differences(last.values, first.values)
    return processed(data, values, where_past(data, codes), C, data.partial)


@dataclass(frozen=True, slots=True)
class _Extreme:
    """The lowest or highest of samples and bounds: value, its time, whether it stands where the interval
    begins, whether it is a bound between samples, how many are equal to it; `there` where one exists."""

    values: Values
    ts_us: Times
    at_start: Mask
    is_bound: Mask
    several: NDArray[np.int64]
    there: Mask


def _find(data: IntervalData, ufunc: np.ufunc) -> _Extreme:
    at, count = data.segments.extreme(data.values, ~data.bad & data.raw, ufunc)
    first, last = start_bound(data), end_bound(data)
    place = np.maximum(at, 0)
    empty = not len(data.ts_us)
    extreme = _Extreme(
        as_type(np.zeros(len(at)), data.values) if empty else data.values[place],
        np.zeros(len(at), np.int64) if empty else data.ts_us[place],
        np.zeros(len(at), np.bool_), np.zeros(len(at), np.bool_), count, at >= 0,
    )  # fmt: skip
    where = data.intervals
    extreme = _with_bound(extreme, first, first.usable & ~first.raw, where.begin_us, ufunc, starts=True)
    if not data.stepped:
        # Backward in time a sample may stand on the edge itself: it is the bound, and not inside.
        extreme = _with_bound(extreme, last, last.usable, where.effective_end_us, ufunc, starts=False)
    at_start = extreme.at_start | (extreme.there & (extreme.ts_us == where.begin_us))
    return _Extreme(extreme.values, extreme.ts_us, at_start, extreme.is_bound, extreme.several, extreme.there)


def _with_bound(
    extreme: _Extreme, bound: Bound, takes_part: Mask, ts_us: Times, ufunc: np.ufunc, *, starts: bool
) -> _Extreme:
    better = np.less if ufunc is np.minimum else np.greater
    equal = takes_part & extreme.there & (bound.values == extreme.values)
    wins = takes_part & (~extreme.there | better(bound.values, extreme.values))
    # Of equals the oldest stands.
    older = equal & (ts_us < extreme.ts_us)
    taken = wins | older
    several = np.where(wins, 1, extreme.several + equal)
    return _Extreme(
        as_type(np.where(taken, bound.values, extreme.values), extreme.values),
        np.where(taken, ts_us, extreme.ts_us),
        np.where(taken, starts, extreme.at_start & ~taken),
        extreme.is_bound & ~taken | taken,
        several,
        extreme.there | takes_part,
    )


def _extreme(data: IntervalData, *, ufunc: np.ufunc, own_time: bool) -> Processed:
    extreme = _find(data, ufunc)
    _, codes = by_time(data, stepped=data.stepped)
    codes = np.where(extreme.there, codes, np.uint32(status.BAD_NO_DATA))
    bits = status.bit(extreme.several > 1, status.MULTI_VALUE)
    shown = extreme.is_bound if own_time else extreme.is_bound & extreme.at_start
    bits |= status.bit(shown, status.INTERPOLATED)
    if not own_time:
        bits |= status.bit(~extreme.at_start, C)
    return processed(
        data, extreme.values, codes, bits, data.partial, ts_us=extreme.ts_us if own_time else None
    )


minimum_2 = partial(_extreme, ufunc=np.minimum, own_time=False)
maximum_2 = partial(_extreme, ufunc=np.maximum, own_time=False)
minimum_actual_time_2 = partial(_extreme, ufunc=np.minimum, own_time=True)
maximum_actual_time_2 = partial(_extreme, ufunc=np.maximum, own_time=True)


def range_2(data: IntervalData) -> Processed:
    """Highest minus lowest of usable samples and bounds."""
    low, high = _find(data, np.minimum), _find(data, np.maximum)
    _, codes = by_time(data, stepped=data.stepped)
    codes = np.where(low.there, codes, np.uint32(status.BAD_NO_DATA))
    return processed(data, differences(high.values, low.values), codes, C, data.partial)
