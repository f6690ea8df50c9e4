"""The figures beyond the standard's aggregates: name, meaning, for which tags, and how."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass
from typing import Final

import numpy as np
from numpy.typing import NDArray

from cronaca.core.aggregates import status
from cronaca.core.aggregates.interval_data import IntervalData
from cronaca.core.aggregates.results import Processed, processed
from cronaca.core.aggregates.samples import Floats
from cronaca.core.aggregates.status import StatusArray
from cronaca.core.aggregates.timed import by_time
from cronaca.core.errors import InvalidInput
from cronaca.core.model import ValueType
from cronaca.core.statistics import contacts, distribution, motion, pairs
from cronaca.core.statistics.contacts import StateTime
from cronaca.core.statistics.spec import Base, Other, StatSpec, Weight

C: Final = status.CALCULATED
_REAL: Final = frozenset({ValueType.FLOAT, ValueType.INTEGER})
_NUMBERS: Final = _REAL | {ValueType.BOOLEAN}
_ANY: Final = frozenset(ValueType)
_CODES: Final = frozenset({ValueType.INTEGER, ValueType.BOOLEAN, ValueType.STATE})
Compute = Callable[[IntervalData, StatSpec, Other | None], Processed]


@dataclass(frozen=True, slots=True)
class Statistic:
    """One figure. `result`: source, number, count, seconds, percent, integral, rate."""

    name: str
    formula: str
    source: str
    types: frozenset[ValueType]
    result: str
    compute: Compute


def _percentile(data: IntervalData, spec: StatSpec, other: Other | None) -> Processed:
    del other
    return _weighted(data, distribution.percentile(data, spec), spec.weight)


def _median(data: IntervalData, spec: StatSpec, other: Other | None) -> Processed:
    del other
    middle = StatSpec("Median", 50.0, spec.weight)
    return _weighted(data, distribution.percentile(data, middle), spec.weight)


def _deviation(data: IntervalData, spec: StatSpec, other: Other | None) -> Processed:
    del other
    return _weighted(data, distribution.deviation(data, spec), spec.weight)


def _variation(data: IntervalData, spec: StatSpec, other: Other | None) -> Processed:
    del other
    return _weighted(data, distribution.variation(data, spec), spec.weight)


def _integral(data: IntervalData, spec: StatSpec, other: Other | None) -> Processed:
    del other
    values, codes = by_time(data, stepped=data.stepped)
    base = spec.base or Base.SECOND
    usable = values.good + values.uncertain > 0
    return _plain(data, np.where(usable, motion.integral(data, base), np.nan), codes)


def _rate(data: IntervalData, spec: StatSpec, other: Other | None) -> Processed:
    del other
    return _plain(data, motion.rate_of_change(data, spec), by_time(data, stepped=data.stepped)[1])


def _slope(data: IntervalData, spec: StatSpec, other: Other | None) -> Processed:
    del other
    return _plain(data, motion.slope(data, spec), data.by_values())


def _travel(data: IntervalData, spec: StatSpec, other: Other | None) -> Processed:
    del spec, other
    return _plain(data, motion.travel(data), data.by_values())


def _rising(data: IntervalData, spec: StatSpec, other: Other | None) -> Processed:
    del spec, other
    return _counted(data, contacts.rising_edges(data))


def _falling(data: IntervalData, spec: StatSpec, other: Other | None) -> Processed:
    del spec, other
    return _counted(data, contacts.falling_edges(data))


def _on_time(reduce: Callable[[Floats], float]) -> Compute:
    def compute(data: IntervalData, spec: StatSpec, other: Other | None) -> Processed:
        del spec, other
        times = [contacts.on_times(data, i) for i in range(len(data.intervals))]
        values = np.array([reduce(entry.seconds) if len(entry.seconds) else np.nan for entry in times])
        cut = status.bit(np.array([entry.cut for entry in times]), status.PARTIAL)
        return _plain(data, values, by_time(data, stepped=True)[1], cut)

    return compute


def _of_state(reduce: Callable[[StateTime], float]) -> Compute:
    def compute(data: IntervalData, spec: StatSpec, other: Other | None) -> Processed:
        del other
        known, codes = by_time(data, stepped=True)
        values = np.full(len(data.intervals), np.nan)
        for i in np.flatnonzero(known.good + known.uncertain > 0).tolist():
            mine = [one for one in contacts.time_in_states(data, i) if one.state == spec.state]
            values[i] = reduce(mine[0]) if mine else 0.0
        return _plain(data, values, codes)

    return compute


def _correlation(data: IntervalData, spec: StatSpec, other: Other | None) -> Processed:
    return _plain(data, pairs.correlation(data, _needed(other), spec), by_time(data, stepped=data.stepped)[1])


def _count_while(data: IntervalData, spec: StatSpec, other: Other | None) -> Processed:
    if spec.condition is None:
        raise InvalidInput(
            "condition", "countwhile-needs-one", "CountWhile needs one", "Give a comparison and a threshold."
        )
    counts = pairs.count_while(data, _needed(other), spec.condition)
    codes = np.where(data.raw_counts[2] == 0, np.uint32(status.GOOD), data.by_values())
    return processed(data, counts, codes, C, data.partial, null=np.zeros(len(counts), np.bool_))


def _needed(other: Other | None) -> Other:
    if other is None:
        raise InvalidInput(
            "other", "other-figure-two-tags", "this figure is of two tags", "Name the second one."
        )
    return other


def _weighted(data: IntervalData, values: Floats, weight: Weight) -> Processed:
    if weight is Weight.TIME:
        return _plain(data, values, by_time(data, stepped=data.stepped)[1])
    return _plain(data, values, data.by_values())


def _plain(
    data: IntervalData, values: Floats, codes: StatusArray, *bits: int | NDArray[np.int64]
) -> Processed:
    """A figure that is not there where it is NaN."""
    codes = np.where(np.isnan(values), np.uint32(status.BAD_NO_DATA), codes)
    return processed(data, values, codes, C, data.partial, *bits)


def _counted(data: IntervalData, counts: NDArray[np.int64]) -> Processed:
    """Changes that were seen; none is a number too where the value is known."""
    codes = by_time(data, stepped=True)[1]
    return processed(data, counts, codes, C, data.partial)


OWN_DEFINITION: Final = "our own definition, in the document on aggregates and statistics"
_OWN: Final = OWN_DEFINITION
_ROWS: Final = (
    Statistic("Percentile", "value below which so many percent of the samples, or of the time, lie",
              "Hyndman and Fan, The American Statistician 50(4), 1996, type 7; by time: inverse of the share "
              "of time at or below a value", _REAL, "source", _percentile),
    Statistic("Median", "the 50th percentile", "as Percentile", _REAL, "source", _median),
    Statistic("Deviation",
              "sqrt(integral of (x - mean)^2 dt / time); by samples sqrt(sum((x - mean)^2) / (n - 1))",
              "ISO 3534-1 (standard deviation); weighted by time: " + _OWN, _NUMBERS, "number", _deviation),
    Statistic("Variation", "deviation / |mean| * 100", "ISO 3534-1 (coefficient of variation)",
              _REAL, "percent", _variation),
    Statistic("Integral", "area under the stretches that are not Bad, in value * base",
              "IEC 62541-13 (Total2), with a time base: " + _OWN, _NUMBERS, "integral", _integral),
    Statistic("RateOfChange", "(bound at the end - bound at the start) / length", _OWN, _REAL, "rate", _rate),
    Statistic("Slope", "sum((t - t mean)(x - x mean)) / sum((t - t mean)^2) over Good samples",
              "ordinary least squares", _REAL, "rate", _slope),
    Statistic("Travel", "sum of |change| between neighbouring Good samples",
              _OWN + " (what a valve or damper that hunts wears itself out by: common practice, no source)",
              _REAL, "number", _travel),
    Statistic("RisingEdges", "changes from zero to not zero", _OWN, _NUMBERS, "count", _rising),
    Statistic("FallingEdges", "changes from not zero to zero", _OWN, _NUMBERS, "count", _falling),
    Statistic("Starts", "changes from zero to not zero", _OWN, _NUMBERS, "count", _rising),
    Statistic("OnTimeLongest", "longest stretch not at zero, inside the interval", _OWN, _NUMBERS,
              "seconds", _on_time(lambda s: float(s.max()))),
    Statistic("OnTimeShortest", "shortest stretch not at zero, inside the interval", _OWN, _NUMBERS,
              "seconds", _on_time(lambda s: float(s.min()))),
    Statistic("OnTimeMean", "mean stretch not at zero, inside the interval", _OWN, _NUMBERS, "seconds",
              _on_time(lambda s: float(s.mean()))),
    Statistic("TimeInState", "time in one state, values held", _OWN, _CODES, "seconds",
              _of_state(lambda s: s.seconds)),
    Statistic("StateEntries", "stretches of one state, the one at the start among them", _OWN, _CODES,
              "count", _of_state(lambda s: float(s.entries))),
    Statistic("StateLongest", "longest stretch of one state, inside the interval", _OWN, _CODES, "seconds",
              _of_state(lambda s: s.longest)),
    Statistic("CountWhile", "Good samples recorded while a condition on another tag held", _OWN, _ANY,
              "count", _count_while),
    Statistic("Correlation", "Pearson's r of both tags on a common time base",
              "Pearson, Proceedings of the Royal Society 58, 1895", _NUMBERS, "plain", _correlation),
)  # fmt: skip

STATISTICS: Final = {one.name: one for one in _ROWS}
TABLES: Final = {"Histogram": _REAL, "TimeInStates": _ANY - {ValueType.FLOAT}}
"""Figures that are tables, and for which tags."""
