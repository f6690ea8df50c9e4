"""Aggregates that weight by time (Part 13: TimeAverage and Total in both forms, durations, percentages)."""

from __future__ import annotations

from functools import partial
from typing import Final

import numpy as np
from numpy.typing import NDArray

from cronaca.core.aggregates import spans, status
from cronaca.core.aggregates.bounds import interpolated
from cronaca.core.aggregates.interval_data import IntervalData, Mask, judge
from cronaca.core.aggregates.results import Processed, processed
from cronaca.core.aggregates.samples import Floats
from cronaca.core.aggregates.spans import Durations
from cronaca.core.aggregates.status import StatusArray
from cronaca.core.model import SECOND

C: Final = status.CALCULATED
_MS: Final = 1_000


def time_average(data: IntervalData) -> Processed:
    """Area under the line through usable samples, led across Bad ones / the time it covers."""
    area, covered_us, codes = _bridged_area(data)
    return processed(data, area / np.maximum(covered_us, 1), codes, C, data.partial)


def total(data: IntervalData) -> Processed:
    """That area in value * seconds."""
    area, _, codes = _bridged_area(data)
    return processed(data, area / SECOND, codes, C, data.partial)


def _bridged_area(data: IntervalData) -> tuple[Floats, NDArray[np.int64], StatusArray]:
    line, where = data.bridged, data.intervals
    first = int(line.ts_us[0]) if len(line.ts_us) else np.iinfo(np.int64).max
    area = spans.area(line, onward=True)
    # Without a bound at its beginning an interval counts from its first usable sample on.
    covered_us = np.maximum(where.hi_us - np.maximum(where.lo_us, first), 0)
    codes = np.where(_bridge_is_good(data, first), status.GOOD, status.UNCERTAIN_SUB_NORMAL)
    nothing = (covered_us == 0) | data.past_data
    return area, covered_us, np.where(nothing, status.BAD_NO_DATA, codes).astype(np.uint32)


def _bridge_is_good(data: IntervalData, first_us: int) -> Mask:
    where = data.intervals
    all_good = np.ones(len(where), np.bool_) if data.all_good else data.segments.count(~data.good) == 0
    begins = interpolated(data, where.lo_us).good | (where.lo_us < first_us)
    held = where.hi_us <= data.end_of_data_us
    ends = held if data.stepped else interpolated(data, where.hi_us).good
    result: Mask = all_good & begins & ends
    return result


def time_average_2(data: IntervalData) -> Processed:
    """Area under the stretches that are not Bad / the time they take."""
    values, codes = by_time(data, stepped=data.stepped)
    usable_us = values.good + values.uncertain
    mean = spans.area(data) / np.maximum(usable_us, 1)
    return processed(data, mean, codes, C, data.partial)


def total_2(data: IntervalData) -> Processed:
    """Area under the stretches that are not Bad, in value * seconds: nothing is invented for the rest."""
    _, codes = by_time(data, stepped=data.stepped)
    return processed(data, spans.area(data) / SECOND, codes, C, data.partial)


def by_time(data: IntervalData, *, stepped: bool) -> tuple[Durations, StatusArray]:
    """Durations by quality, and the status by their shares of the interval."""
    lengths = spans.durations(data, stepped=stepped)
    whole = data.intervals.hi_us - data.intervals.lo_us
    codes = judge(lengths.good, lengths.bad, whole, data.configuration)
    return lengths, np.where(lengths.bad == whole, np.uint32(status.BAD_NO_DATA), codes)


def _in_state(data: IntervalData, *, zero: bool) -> Processed:
    values, codes = by_time(data, stepped=True)
    not_zero = spans.not_zero(data)
    time_us = values.good + values.uncertain - not_zero if zero else not_zero
    return processed(data, time_us / _MS, codes, C, data.partial)


duration_in_state_zero = partial(_in_state, zero=True)
duration_in_state_non_zero = partial(_in_state, zero=False)


def _quality_time(data: IntervalData, *, good: bool, share: bool) -> Processed:
    lengths = spans.durations(data, stepped=True)
    time_us = lengths.good if good else lengths.bad
    whole_us = data.intervals.hi_us - data.intervals.lo_us
    codes = np.full(len(whole_us), status.GOOD if len(data.ts_us) else status.BAD_NO_DATA, np.uint32)
    values = time_us * 100 / whole_us if share else time_us / _MS
    return processed(data, values, codes, C, data.partial)


duration_good = partial(_quality_time, good=True, share=False)
duration_bad = partial(_quality_time, good=False, share=False)
percent_good = partial(_quality_time, good=True, share=True)
percent_bad = partial(_quality_time, good=False, share=True)
