"""How fast and how much: rate of change, least-squares slope, integral with a time base, and their units."""

from __future__ import annotations

from typing import Final

import numpy as np
from numpy.typing import NDArray

from cronaca.core.aggregates import spans
from cronaca.core.aggregates.bounds import end_bound, start_bound
from cronaca.core.aggregates.interval_data import IntervalData
from cronaca.core.aggregates.samples import Floats, away_from
from cronaca.core.model import SECOND
from cronaca.core.statistics.spec import Base, StatSpec

_PER: Final = {"/s": Base.SECOND, "/min": Base.MINUTE, "/h": Base.HOUR}
_POWERS: Final = ("W", "kW", "MW", "GW", "VA", "kVA", "var", "kvar")


def rate_of_change(data: IntervalData, spec: StatSpec) -> Floats:
    """(bound at the end - bound at the start) / length of the interval, per unit of time; NaN without
    both bounds."""
    first, last = start_bound(data), end_bound(data)
    rise = away_from(last.values, first.values)
    length = (data.intervals.end_us - data.intervals.begin_us) / (spec.base or Base.SECOND).us
    return np.where(first.usable & last.usable, rise / length, np.nan)


def slope(data: IntervalData, spec: StatSpec) -> Floats:
    """Least-squares slope of the Good samples over time, per unit of time: sum((t - t_mean)(x - x_mean)) /
    sum((t - t_mean)^2); NaN for fewer than two."""
    good = data.good & data.raw
    result = []
    for a, b in zip(data.segments.start.tolist(), data.segments.end.tolist(), strict=True):
        inside = np.flatnonzero(good[a:b]) + a
        result.append(_slope(data, inside) if len(inside) > 1 else np.nan)
    return np.array(result) * ((spec.base or Base.SECOND).us / SECOND)


def _slope(data: IntervalData, inside: NDArray[np.intp]) -> float:
    t = (data.ts_us[inside] - data.ts_us[inside[0]]) / SECOND
    x = away_from(data.values[inside], data.values[inside[:1]])
    t = t - t.mean()
    return float(np.sum(t * (x - x.mean())) / np.sum(t * t))


def travel(data: IntervalData) -> Floats:
    """How far the value went up and down: the sum of |change| between neighbouring Good samples of the
    interval; NaN without any. Nothing is counted across a sample that is not Good: what happened there is
    not known."""
    good = data.good & data.raw
    steps = np.zeros(len(good), np.float64)
    both = good[1:] & good[:-1]
    steps[1:][both] = np.abs(away_from(data.values[1:], data.values[:-1])[both])
    result = []
    for a, b in zip(data.segments.start.tolist(), data.segments.end.tolist(), strict=True):
        # The step into the first sample comes from before the interval.
        result.append(float(steps[a + 1 : b].sum()) if good[a:b].any() else np.nan)
    return np.array(result)


def integral(data: IntervalData, base: Base) -> Floats:
    """Area under the usable stretches of the line, in value * base."""
    return spans.area(data) / base.us


def integral_base(unit: str, wished: Base | None) -> Base:
    """The time base of an integral: as wished, else as the unit has it (kg/h, kW: hour), else second."""
    if wished is not None:
        return wished
    for ending, base in _PER.items():
        if unit.endswith(ending):
            return base
    return Base.HOUR if unit in _POWERS else Base.SECOND


def integral_unit(unit: str, base: Base) -> str:
    """The unit of an integral: kg/h over hours is kg, kW over hours is kWh, anything else a product."""
    ending = f"/{base.symbol}"
    if unit.endswith(ending):
        return unit.removesuffix(ending)
    if unit in _POWERS:
        return f"{unit}{base.symbol}"
    return f"{unit}·{base.symbol}" if unit else base.symbol


def rate_unit(unit: str, base: Base) -> str:
    """The unit of a rate."""
    return f"{unit or '1'}/{base.symbol}"
