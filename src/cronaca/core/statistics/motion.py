"""How fast and how much: rate of change, least-squares slope, integral with a time base, and their units."""

from __future__ import annotations

from typing import Final

import numpy as np
from numpy.typing import NDArray

from cronaca.core.aggregates import spans
from cronaca.core.aggregates.bounds import end_bound, start_bound
from cronaca.core.aggregates.facts import Facts
from cronaca.core.aggregates.samples import Floats, away_from
from cronaca.core.model import SECOND
from cronaca.core.statistics.spec import Base, StatSpec

_PER: Final = {"/s": Base.SECOND, "/min": Base.MINUTE, "/h": Base.HOUR}
_POWERS: Final = ("W", "kW", "MW", "GW", "VA", "kVA", "var", "kvar")


def rate_of_change(facts: Facts, spec: StatSpec) -> Floats:
    """(bound at the end - bound at the start) / length of the interval, per unit of time; NaN without
    both bounds."""
    first, last = start_bound(facts), end_bound(facts)
    rise = away_from(last.values, first.values)
    length = (facts.intervals.end_us - facts.intervals.begin_us) / (spec.base or Base.SECOND).us
    return np.where(first.usable & last.usable, rise / length, np.nan)


def slope(facts: Facts, spec: StatSpec) -> Floats:
    """Least-squares slope of the Good samples over time, per unit of time: sum((t - t_mean)(x - x_mean)) /
    sum((t - t_mean)^2); NaN for fewer than two."""
    good = facts.good & facts.raw
    found = []
    for a, b in zip(facts.segments.start.tolist(), facts.segments.end.tolist(), strict=True):
        inside = np.flatnonzero(good[a:b]) + a
        found.append(_slope(facts, inside) if len(inside) > 1 else np.nan)
    return np.array(found) * ((spec.base or Base.SECOND).us / SECOND)


def _slope(facts: Facts, inside: NDArray[np.intp]) -> float:
    t = (facts.ts_us[inside] - facts.ts_us[inside[0]]) / SECOND
    x = away_from(facts.values[inside], facts.values[inside[:1]])
    t = t - t.mean()
    return float(np.sum(t * (x - x.mean())) / np.sum(t * t))


def travel(facts: Facts) -> Floats:
    """How far the value went up and down: the sum of |change| between neighbouring Good samples of the
    interval; NaN without any. Nothing is counted across a sample that is not Good: what happened there is
    not known."""
    good = facts.good & facts.raw
    steps = np.zeros(len(good), np.float64)
    both = good[1:] & good[:-1]
    steps[1:][both] = np.abs(away_from(facts.values[1:], facts.values[:-1])[both])
    found = []
    for a, b in zip(facts.segments.start.tolist(), facts.segments.end.tolist(), strict=True):
        # The step into the first sample comes from before the interval.
        found.append(float(steps[a + 1 : b].sum()) if good[a:b].any() else np.nan)
    return np.array(found)


def integral(facts: Facts, base: Base) -> Floats:
    """Area under the usable stretches of the line, in value * base."""
    return spans.area(facts) / base.us


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
