"""All figures under one name each: the standard's aggregates and the statistics beyond them."""

from __future__ import annotations

from dataclasses import dataclass, replace
from typing import Final

import numpy as np
from numpy.typing import NDArray

from cronaca.core.aggregates import (
    AGGREGATES,
    Aggregate,
    Configuration,
    IntervalData,
    Intervals,
    Processed,
    Samples,
)
from cronaca.core.aggregates.catalogue import refuse_type
from cronaca.core.errors import InvalidInput
from cronaca.core.model import ValueType
from cronaca.core.statistics import (
    OWN_DEFINITION,
    STATISTICS,
    TABLES,
    Base,
    Histogram,
    Other,
    StateTime,
    Statistic,
    StatSpec,
    histograms,
    integral_base,
    integral_unit,
    rate_unit,
    time_in_states,
)

_BASE_SECOND: Final = Base.SECOND
_OF_TWO: Final = ("Correlation", "CountWhile")


_TABLE_FORMULAS: Final = {
    "Histogram": "samples, or usable seconds, in bins of equal width",
    "TimeInStates": "for each state its seconds, entries and longest stretch, values held",
}


@dataclass(frozen=True, slots=True)
class Entry:
    """What a figure is, for a list of all."""

    formula: str
    source: str
    types: frozenset[ValueType]
    result: str


@dataclass(frozen=True, slots=True)
class Figure:
    """One figure over all intervals, with the unit of its values. `result_kind` says what they are: source
    (values of the tag's own type), number, count, status and so on. `good`: for what share of each interval's
    time a Good value is known, percent."""

    spec: StatSpec
    result: Processed
    unit: str
    result_kind: str
    good: NDArray[np.float64]

    def doubtful(self, i: int, limit: float) -> bool:
        """Whether result `i` is not Good and rests on less than `limit` percent of its time: a moment that is
        missing in a day is no reason to doubt the day's mean."""
        return int(self.result.codes[i]) >> 30 != 0 and float(self.good[i]) < limit


@dataclass(frozen=True, slots=True)
class Table:
    """A figure that is a table: one per interval, in the direction of time."""

    spec: StatSpec
    rows: tuple[Histogram | tuple[StateTime, ...], ...]
    unit: str


def find_figure(name: str) -> Aggregate | Statistic:
    """A figure of one value by its name; raises InvalidInput."""
    figure = AGGREGATES.get(name) or STATISTICS.get(name)
    if figure is None:
        known = ", ".join([*AGGREGATES, *STATISTICS, *TABLES])
        raise InvalidInput(
            "stat", "not-figure", "{name!r} is not a figure", "Choose among {known}.", name=name, known=known
        )
    return figure


def all_figures() -> dict[str, Entry]:
    """Every figure by name."""
    figures = {
        n: Entry(aggregate.formula, aggregate.source, aggregate.types, aggregate.result)
        for n, aggregate in AGGREGATES.items()
    }
    for name, own in STATISTICS.items():
        figures[name] = Entry(own.formula, own.source, own.types, own.result)
    for name, types in TABLES.items():
        figures[name] = Entry(
            _TABLE_FORMULAS[name],
            OWN_DEFINITION,
            types,
            "table",
        )
    return figures


def merges(spec: StatSpec, value_type: ValueType, configuration: Configuration) -> bool:
    """Whether blocks of samples from rollups give the figure that the samples give. A sloped extrapolation
    needs the last two samples, of which a block may not tell one."""
    if configuration.sloped_extrapolation:
        return False
    aggregate = AGGREGATES.get(spec.name)
    if aggregate is not None:
        return value_type in aggregate.merges
    return spec.name in ("Integral", "RateOfChange")


def check(spec: StatSpec, value_type: ValueType, *, has_other: bool) -> None:
    """Raises InvalidInput for a figure that does not exist, has no meaning for such values, or whose options
    mean nothing or are missing."""
    spec.checked()
    if spec.name in _OF_TWO and not has_other:
        raise InvalidInput(
            "other",
            "figure-two-tags",
            "{spec} is a figure of two tags",
            "Name the second one.",
            spec=spec.name,
        )
    if spec.name == "CountWhile" and spec.condition is None:
        raise InvalidInput(
            "condition", "countwhile-needs-one", "CountWhile needs one", "Give a comparison and a threshold."
        )
    types = TABLES[spec.name] if spec.name in TABLES else find_figure(spec.name).types
    refuse_type(spec.name, types, value_type)


def compute(
    specs: list[StatSpec],
    samples: Samples,
    intervals: Intervals,
    configuration: Configuration,
    *,
    unit: str = "",
    other: Other | None = None,
) -> list[Figure | Table]:
    """Several figures of one tag over the same intervals; what they share is worked out once."""
    data = IntervalData(samples, intervals, configuration)
    good = AGGREGATES["PercentGood"].compute(data).values.astype(np.float64)
    results: list[Figure | Table] = []
    for spec in specs:
        check(spec, samples.series.value_type, has_other=other is not None)
        if spec.name in TABLES:
            results.append(_table(data, spec, unit))
            continue
        figure = find_figure(spec.name)
        full = with_base(spec, unit)
        result = figure.compute(data) if isinstance(figure, Aggregate) else figure.compute(data, full, other)
        results.append(Figure(full, result, unit_of(full, unit), figure.result, good))
    return results


def with_base(spec: StatSpec, unit: str) -> StatSpec:
    """The spec with the time base that it means where it does not say one."""
    if spec.name == "Integral":
        return replace(spec, base=integral_base(unit, spec.base))
    if spec.name in ("RateOfChange", "Slope"):
        return replace(spec, base=spec.base or _BASE_SECOND)
    return spec


def unit_of(spec: StatSpec, unit: str) -> str:
    """The unit of a figure's values, worked out from the tag's."""
    base = spec.base or _BASE_SECOND
    kind = find_figure(spec.name).result
    return {
        "source": unit,
        "number": unit,
        "area": integral_unit(unit, Base.SECOND),
        "square": f"({unit})²" if unit else "",
        "integral": integral_unit(unit, base),
        "rate": rate_unit(unit, base),
        "percent": "%",
        "ms": "ms",
        "seconds": "s",
    }.get(kind, "")


def _table(data: IntervalData, spec: StatSpec, unit: str) -> Table:
    order = range(len(data.intervals))
    places = order if data.intervals.forward else reversed(order)
    if spec.name == "Histogram":
        tables = histograms(data, spec)
        return Table(spec, tuple(tables[i] for i in places), unit)
    return Table(spec, tuple(tuple(time_in_states(data, i)) for i in places), "s")
