"""Aggregates that weight by time (Part 13: TimeAverage and Total in both forms, durations, percentages)."""

from __future__ import annotations

from functools import partial
from typing import Final

import numpy as np
from numpy.typing import NDArray

from cronaca.core.aggregates import spans, status
from cronaca.core.aggregates.bounds import interpolated
from cronaca.core.aggregates.facts import Facts, Mask, judge
from cronaca.core.aggregates.results import Processed, processed
from cronaca.core.aggregates.samples import Floats
from cronaca.core.aggregates.spans import Durations
from cronaca.core.aggregates.status import StatusArray
from cronaca.core.model import SECOND

C: Final = status.CALCULATED
_MS: Final = 1_000


def time_average(facts: Facts) -> Processed:
    """Area under the line through usable samples, led across Bad ones / the time it covers."""
    area, covered_us, codes = _bridged_area(facts)
    return processed(facts, area / np.maximum(covered_us, 1), codes, C, facts.partial)


def total(facts: Facts) -> Processed:
    """That area in value * seconds."""
    area, _, codes = _bridged_area(facts)
    return processed(facts, area / SECOND, codes, C, facts.partial)


def _bridged_area(facts: Facts) -> tuple[Floats, NDArray[np.int64], StatusArray]:
    line, where = facts.bridged, facts.intervals
    first = int(line.ts_us[0]) if len(line.ts_us) else np.iinfo(np.int64).max
    area = spans.area(line, onward=True)
    # Without a bound at its beginning an interval counts from its first usable sample on.
    covered_us = np.maximum(where.hi_us - np.maximum(where.lo_us, first), 0)
    codes = np.where(_bridge_is_good(facts, first), status.GOOD, status.UNCERTAIN_SUB_NORMAL)
    nothing = (covered_us == 0) | facts.past_data
    return area, covered_us, np.where(nothing, status.BAD_NO_DATA, codes).astype(np.uint32)


def _bridge_is_good(facts: Facts, first_us: int) -> Mask:
    where = facts.intervals
    all_good = np.ones(len(where), np.bool_) if facts.all_good else facts.segments.count(~facts.good) == 0
    begins = interpolated(facts, where.lo_us).good | (where.lo_us < first_us)
    held = where.hi_us <= facts.end_of_data_us
    ends = held if facts.stepped else interpolated(facts, where.hi_us).good
    found: Mask = all_good & begins & ends
    return found


def time_average_2(facts: Facts) -> Processed:
    """Area under the stretches that are not Bad / the time they take."""
    found, codes = by_time(facts, stepped=facts.stepped)
    usable_us = found.good + found.uncertain
    mean = spans.area(facts) / np.maximum(usable_us, 1)
    return processed(facts, mean, codes, C, facts.partial)


def total_2(facts: Facts) -> Processed:
    """Area under the stretches that are not Bad, in value * seconds: nothing is invented for the rest."""
    _, codes = by_time(facts, stepped=facts.stepped)
    return processed(facts, spans.area(facts) / SECOND, codes, C, facts.partial)


def by_time(facts: Facts, *, stepped: bool) -> tuple[Durations, StatusArray]:
    """Durations by quality, and the status by their shares of the interval."""
    found = spans.durations(facts, stepped=stepped)
    whole = facts.intervals.hi_us - facts.intervals.lo_us
    codes = judge(found.good, found.bad, whole, facts.configuration)
    return found, np.where(found.bad == whole, np.uint32(status.BAD_NO_DATA), codes)


def _in_state(facts: Facts, *, zero: bool) -> Processed:
    found, codes = by_time(facts, stepped=True)
    not_zero = spans.not_zero(facts)
    time_us = found.good + found.uncertain - not_zero if zero else not_zero
    return processed(facts, time_us / _MS, codes, C, facts.partial)


duration_in_state_zero = partial(_in_state, zero=True)
duration_in_state_non_zero = partial(_in_state, zero=False)


def _quality_time(facts: Facts, *, good: bool, share: bool) -> Processed:
    found = spans.durations(facts, stepped=True)
    time_us = found.good if good else found.bad
    whole_us = facts.intervals.hi_us - facts.intervals.lo_us
    codes = np.full(len(whole_us), status.GOOD if len(facts.ts_us) else status.BAD_NO_DATA, np.uint32)
    values = time_us * 100 / whole_us if share else time_us / _MS
    return processed(facts, values, codes, C, facts.partial)


duration_good = partial(_quality_time, good=True, share=False)
duration_bad = partial(_quality_time, good=False, share=False)
percent_good = partial(_quality_time, good=True, share=True)
percent_bad = partial(_quality_time, good=False, share=True)
