"""Two tags together: correlation on a common time base, counting while a condition on the other one holds."""

from __future__ import annotations

from dataclasses import replace
from typing import Final

import numpy as np
from numpy.typing import NDArray

from cronaca.core.aggregates.bounds import Bound, simple
from cronaca.core.aggregates.interval_data import IntervalData, Mask
from cronaca.core.aggregates.samples import Floats, away_from
from cronaca.core.errors import InvalidInput
from cronaca.core.model import Values
from cronaca.core.statistics.spec import Comparison, Condition, Other, StatSpec

MOST_POINTS: Final = 2_000_000
_COMPARE: Final = {
    Comparison.ABOVE: np.greater,
    Comparison.AT_LEAST: np.greater_equal,
    Comparison.BELOW: np.less,
    Comparison.AT_MOST: np.less_equal,
    Comparison.EQUAL: np.equal,
    Comparison.NOT_EQUAL: np.not_equal,
}


def correlation(data: IntervalData, other: Other, spec: StatSpec) -> Floats:
    """Pearson's r of both tags' values on a grid `base_us` apart from the start of each interval, where both
    are usable; NaN for fewer than two such points or where one of them does not move."""
    second = _facts_of(data, other)
    result = []
    for lo, hi in zip(data.intervals.lo_us.tolist(), data.intervals.hi_us.tolist(), strict=True):
        if (hi - lo) // spec.base_us > MOST_POINTS:
            raise InvalidInput(
                "base_us",
                "makes-too-many-points",
                "it makes too many points",
                "Make it longer: at most {most_points:,}.",
                most_points=MOST_POINTS,
            )
        grid = np.arange(lo, hi, spec.base_us)
        first, two = simple(data, grid), simple(second, grid)
        both = first.usable & two.usable
        result.append(_pearson(first.values[both], two.values[both]))
    return np.array(result)


def _pearson(left: Values, other: Values) -> float:
    if len(left) < 2:
        return np.nan
    x, y = away_from(left, left[:1]), away_from(other, other[:1])
    x, y = x - x.mean(), y - y.mean()
    scale = float(np.sqrt(np.sum(x * x) * np.sum(y * y)))
    return float(np.clip(np.sum(x * y) / scale, -1, 1)) if scale > 0 else np.nan


def count_while(data: IntervalData, other: Other, condition: Condition) -> NDArray[np.int64]:
    """How many Good samples were recorded while the condition held on the other tag."""
    good = data.good & data.raw
    holds = np.zeros(len(good), np.bool_)
    at = np.flatnonzero(good)
    holds[at] = _holds(simple(_facts_of(data, other), data.ts_us[at]), condition)
    return data.segments.count(holds)


def _holds(bound: Bound, condition: Condition) -> Mask:
    values, limit = bound.values, condition.threshold
    result: Mask = bound.usable & _COMPARE[condition.comparison](values, limit)
    return result


def _facts_of(data: IntervalData, other: Other) -> IntervalData:
    return IntervalData(other.samples, data.intervals, replace(data.configuration, stepped=other.stepped))
