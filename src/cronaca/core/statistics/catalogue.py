"""The figures beyond the standard's aggregates: name, meaning, for which tags, and how."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass
from typing import Final

import numpy as np
from numpy.typing import NDArray

from cronaca.core.aggregates import status
from cronaca.core.aggregates.facts import Facts
from cronaca.core.aggregates.results import Processed, processed
from cronaca.core.aggregates.samples import Floats
from cronaca.core.aggregates.status import StatusArray
from cronaca.core.aggregates.timed import by_time
from cronaca.core.errors import InvalidInput
from cronaca.core.model import ValueType
from cronaca.core.statistics import contacts, distribution, motion, pairs
from cronaca.core.statistics.spec import Base, Other, StatSpec, Weight

C: Final = status.CALCULATED
_REAL: Final = frozenset({ValueType.FLOAT, ValueType.INTEGER})
_NUMBERS: Final = _REAL | {ValueType.BOOLEAN}
_ANY: Final = frozenset(ValueType)
Compute = Callable[[Facts, StatSpec, Other | None], Processed]


@dataclass(frozen=True, slots=True)
class Statistic:
    """One figure. `result`: source, number, count, seconds, percent, integral, rate."""

    name: str
    formula: str
    source: str
    types: frozenset[ValueType]
    result: str
    compute: Compute


def _percentile(facts: Facts, spec: StatSpec, other: Other | None) -> Processed:
    del other
    return _weighted(facts, distribution.percentile(facts, spec), spec.weight)


def _median(facts: Facts, spec: StatSpec, other: Other | None) -> Processed:
    del other
    middle = StatSpec("Median", 50.0, spec.weight)
    return _weighted(facts, distribution.percentile(facts, middle), spec.weight)


def _deviation(facts: Facts, spec: StatSpec, other: Other | None) -> Processed:
    del other
    return _weighted(facts, distribution.deviation(facts, spec), spec.weight)


def _variation(facts: Facts, spec: StatSpec, other: Other | None) -> Processed:
    del other
    return _weighted(facts, distribution.variation(facts, spec), spec.weight)


def _integral(facts: Facts, spec: StatSpec, other: Other | None) -> Processed:
    del other
    found, codes = by_time(facts, stepped=facts.stepped)
    base = spec.base or Base.SECOND
    usable = found.good + found.uncertain > 0
    return _plain(facts, np.where(usable, motion.integral(facts, base), np.nan), codes)


def _rate(facts: Facts, spec: StatSpec, other: Other | None) -> Processed:
    del other
    return _plain(facts, motion.rate_of_change(facts, spec), by_time(facts, stepped=facts.stepped)[1])


def _slope(facts: Facts, spec: StatSpec, other: Other | None) -> Processed:
    del other
    return _plain(facts, motion.slope(facts, spec), facts.by_values())


def _travel(facts: Facts, spec: StatSpec, other: Other | None) -> Processed:
    del spec, other
    return _plain(facts, motion.travel(facts), facts.by_values())


def _rising(facts: Facts, spec: StatSpec, other: Other | None) -> Processed:
    del spec, other
    return _counted(facts, contacts.rising_edges(facts))


def _falling(facts: Facts, spec: StatSpec, other: Other | None) -> Processed:
    del spec, other
    return _counted(facts, contacts.falling_edges(facts))


def _on_time(reduce: Callable[[Floats], float]) -> Compute:
    def compute(facts: Facts, spec: StatSpec, other: Other | None) -> Processed:
        del spec, other
        found = [contacts.on_times(facts, i) for i in range(len(facts.intervals))]
        values = np.array([reduce(one.seconds) if len(one.seconds) else np.nan for one in found])
        cut = status.bit(np.array([one.cut for one in found]), status.PARTIAL)
        return _plain(facts, values, by_time(facts, stepped=True)[1], cut)

    return compute


def _correlation(facts: Facts, spec: StatSpec, other: Other | None) -> Processed:
    return _plain(
        facts, pairs.correlation(facts, _needed(other), spec), by_time(facts, stepped=facts.stepped)[1]
    )


def _count_while(facts: Facts, spec: StatSpec, other: Other | None) -> Processed:
    if spec.condition is None:
        raise InvalidInput("condition", "CountWhile needs one", "Give a comparison and a threshold.")
    found = pairs.count_while(facts, _needed(other), spec.condition)
    codes = np.where(facts.raw_counts[2] == 0, np.uint32(status.GOOD), facts.by_values())
    return processed(facts, found, codes, C, facts.partial, null=np.zeros(len(found), np.bool_))


def _needed(other: Other | None) -> Other:
    if other is None:
        raise InvalidInput("other", "this figure is of two tags", "Name the second one.")
    return other


def _weighted(facts: Facts, values: Floats, weight: Weight) -> Processed:
    if weight is Weight.TIME:
        return _plain(facts, values, by_time(facts, stepped=facts.stepped)[1])
    return _plain(facts, values, facts.by_values())


def _plain(facts: Facts, values: Floats, codes: StatusArray, *bits: int | NDArray[np.int64]) -> Processed:
    """A figure that is not there where it is NaN."""
    codes = np.where(np.isnan(values), np.uint32(status.BAD_NO_DATA), codes)
    return processed(facts, values, codes, C, facts.partial, *bits)


def _counted(facts: Facts, counts: NDArray[np.int64]) -> Processed:
    """Changes that were seen; none is a number too where the value is known."""
    codes = by_time(facts, stepped=True)[1]
    return processed(facts, counts, codes, C, facts.partial)


_OWN: Final = "defined in docs/aggregates.md"
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
    Statistic("CountWhile", "Good samples recorded while a condition on another tag held", _OWN, _ANY,
              "count", _count_while),
    Statistic("Correlation", "Pearson's r of both tags on a common time base",
              "Pearson, Proceedings of the Royal Society 58, 1895", _NUMBERS, "plain", _correlation),
)  # fmt: skip

STATISTICS: Final = {one.name: one for one in _ROWS}
TABLES: Final = {"Histogram": _REAL, "TimeInStates": _ANY - {ValueType.FLOAT}}
"""Figures that are tables, and for which tags."""
