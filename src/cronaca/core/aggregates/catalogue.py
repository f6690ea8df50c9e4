"""The 37 standard aggregates of OPC UA (IEC 62541) Part 13: name, node, meaning, for which tags, and how.

Node ids as in the OPC Foundation's node set (namespace 0); sections as in edition 1.05, from memory.
"""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass
from typing import Final

from cronaca.core.aggregates import bounded, recorded, timed
from cronaca.core.aggregates.configuration import Configuration
from cronaca.core.aggregates.interval_data import IntervalData
from cronaca.core.aggregates.intervals import Intervals
from cronaca.core.aggregates.results import Processed
from cronaca.core.aggregates.samples import Samples
from cronaca.core.errors import InvalidInput
from cronaca.core.model import ValueType

SOURCE: Final = "IEC 62541-13 (OPC UA Part 13)"
_NUMBERS: Final = frozenset({ValueType.FLOAT, ValueType.INTEGER, ValueType.BOOLEAN})
_CODED: Final = _NUMBERS | {ValueType.STATE}
_ANY: Final = frozenset(ValueType)


@dataclass(frozen=True, slots=True)
class Aggregate:
    """One standard aggregate. `merges` says for which tags blocks of samples give the same result as the
    samples; `result` is what the value is: source (as the tag), number, count, ms, percent, status."""

    name: str
    node_id: int
    section: str
    formula: str
    compute: Callable[[IntervalData], Processed]
    types: frozenset[ValueType]
    merges: frozenset[ValueType]
    result: str
    bounds: str = "none"

    @property
    def source(self) -> str:
        """Where the definition stands."""
        return f"{SOURCE}, 4.2.2.{self.section}"


_BOOLEAN: Final = frozenset({ValueType.BOOLEAN})
_DISCRETE: Final = frozenset({ValueType.BOOLEAN, ValueType.STATE, ValueType.TEXT})
_ROWS: Final = (
    ("Interpolative", 2341, "3", "value at the start, on the line between the nearest usable samples",
     bounded.interpolative, _ANY, _ANY, "source", "interpolated"),
    ("Average", 2342, "4", "sum of Good samples / their number",
     recorded.average, _NUMBERS, _NUMBERS, "number", "none"),
    ("TimeAverage", 2343, "5", "area under the line through usable samples / time covered",
     timed.time_average, _NUMBERS, _NUMBERS, "number", "interpolated"),
    ("TimeAverage2", 11285, "6", "area under the stretches that are not Bad / their time",
     timed.time_average_2, _NUMBERS, _NUMBERS, "number", "simple"),
    ("Total", 2344, "7", "area under the line through usable samples, in value * seconds",
     timed.total, _NUMBERS, _NUMBERS, "area", "interpolated"),
    ("Total2", 11304, "8", "area under the stretches that are not Bad, in value * seconds",
     timed.total_2, _NUMBERS, _NUMBERS, "area", "simple"),
    ("Minimum", 2346, "9", "lowest Good sample", recorded.minimum, _NUMBERS, _NUMBERS, "source", "none"),
    ("Maximum", 2347, "10", "highest Good sample", recorded.maximum, _NUMBERS, _NUMBERS, "source", "none"),
    ("MinimumActualTime", 2348, "11", "lowest Good sample, with its time",
     recorded.minimum_actual_time, _NUMBERS, _NUMBERS, "source", "none"),
    ("MaximumActualTime", 2349, "12", "highest Good sample, with its time",
     recorded.maximum_actual_time, _NUMBERS, _NUMBERS, "source", "none"),
    ("Range", 2350, "13", "highest - lowest Good sample",
     recorded.value_range, _NUMBERS, _NUMBERS, "source", "none"),
    ("Minimum2", 11286, "14", "lowest of usable samples and bounds",
     bounded.minimum_2, _NUMBERS, _NUMBERS, "source", "simple"),
    ("Maximum2", 11287, "15", "highest of usable samples and bounds",
     bounded.maximum_2, _NUMBERS, _NUMBERS, "source", "simple"),
    ("MinimumActualTime2", 11305, "16", "lowest of usable samples and bounds, with its time",
     bounded.minimum_actual_time_2, _NUMBERS, _NUMBERS, "source", "simple"),
    ("MaximumActualTime2", 11306, "17", "highest of usable samples and bounds, with its time",
     bounded.maximum_actual_time_2, _NUMBERS, _NUMBERS, "source", "simple"),
    ("Range2", 11288, "18", "highest - lowest of usable samples and bounds",
     bounded.range_2, _NUMBERS, _NUMBERS, "source", "simple"),
    ("Count", 2352, "19", "number of Good samples", recorded.count, _ANY, _ANY, "count", "none"),
    ("DurationInStateZero", 11307, "20", "time (ms) at zero, values held", timed.duration_in_state_zero,
     _CODED, _BOOLEAN, "ms", "simple"),
    ("DurationInStateNonZero", 11308, "21", "time (ms) not at zero, values held",
     timed.duration_in_state_non_zero,
     _CODED, _BOOLEAN, "ms", "simple"),
    ("NumberOfTransitions", 2355, "22", "changes between zero and not zero, or of the state",
     recorded.transitions, _ANY, _DISCRETE, "count", "none"),
    ("Start", 2357, "23", "first sample", recorded.start, _ANY, _ANY, "source", "none"),
    ("End", 2358, "24", "last sample", recorded.end, _ANY, _ANY, "source", "none"),
    ("Delta", 2359, "25", "last - first Good sample", recorded.delta, _NUMBERS, _NUMBERS, "source", "none"),
    ("StartBound", 11505, "26", "simple bounding value at the start",
     bounded.start_bound_value, _ANY, _ANY, "source", "simple"),
    ("EndBound", 11506, "27", "simple bounding value at the end",
     bounded.end_bound_value, _ANY, _ANY, "source", "simple"),
    ("DeltaBounds", 11507, "28", "bound at the end - bound at the start",
     bounded.delta_bounds, _NUMBERS, _NUMBERS, "source", "simple"),
    ("DurationGood", 2360, "29", "time (ms) in which the held value was Good",
     timed.duration_good, _ANY, _ANY, "ms", "simple"),
    ("DurationBad", 2361, "30", "time (ms) in which it was Bad or not known",
     timed.duration_bad, _ANY, _ANY, "ms", "simple"),
    ("PercentGood", 2362, "31", "Good time / length of the interval * 100",
     timed.percent_good, _ANY, _ANY, "percent", "simple"),
    ("PercentBad", 2363, "32", "Bad time / length of the interval * 100",
     timed.percent_bad, _ANY, _ANY, "percent", "simple"),
    ("WorstQuality", 2364, "33", "worst status among the samples",
     recorded.worst_quality, _ANY, _ANY, "status", "none"),
    ("WorstQuality2", 11292, "34", "worst status among the samples and the bound at the start",
     recorded.worst_quality_2, _ANY, _ANY, "status", "simple"),
    ("AnnotationCount", 2351, "35", "number of notes",
     recorded.annotation_count, _ANY, _ANY, "count", "none"),
    ("StandardDeviationSample", 11426, "36", "sqrt(sum((x - mean)^2) / (n - 1)) over Good samples",
     recorded.deviation_sample, _NUMBERS, _NUMBERS, "number", "none"),
    ("VarianceSample", 11428, "37", "sum((x - mean)^2) / (n - 1) over Good samples",
     recorded.variance_sample, _NUMBERS, _NUMBERS, "square", "none"),
    ("StandardDeviationPopulation", 11427, "38", "sqrt(sum((x - mean)^2) / n) over Good samples",
     recorded.deviation_population, _NUMBERS, _NUMBERS, "number", "none"),
    ("VariancePopulation", 11429, "39", "sum((x - mean)^2) / n over Good samples",
     recorded.variance_population, _NUMBERS, _NUMBERS, "square", "none"),
)  # fmt: skip

AGGREGATES: Final = {
    name: Aggregate(name, node_id, section, formula, compute, types, merges, result, bounds)
    for name, node_id, section, formula, compute, types, merges, result, bounds in _ROWS
}


def find_aggregate(name: str) -> Aggregate:
    """A standard aggregate by its name; raises InvalidInput (the standard's Bad, aggregate not supported)."""
    aggregate = AGGREGATES.get(name)
    if aggregate is None:
        raise InvalidInput(
            "stat",
            "not-standard-aggregate",
            "{name!r} is not a standard aggregate",
            "Choose among {aggregates}.",
            name=name,
            aggregates=", ".join(AGGREGATES),
        )
    return aggregate


def refuse_type(name: str, types: frozenset[ValueType], value_type: ValueType) -> None:
    """Raises InvalidInput where a figure has no meaning for a tag's values."""
    if value_type not in types:
        raise InvalidInput(
            "stat",
            "no-meaning-values",
            "{name} is not defined for {value_type} values",
            "Use it for {value} tags, or count, time and states here: Count, "
            "NumberOfTransitions, PercentGood.",
            name=name,
            value_type=value_type.name.lower(),
            value=", ".join(sorted(kind.name.lower() for kind in types)),
        )


def process(
    name: str, samples: Samples, intervals: Intervals, configuration: Configuration | None = None
) -> Processed:
    """One aggregate over all intervals."""
    return process_all([name], samples, intervals, configuration)[name]


def process_all(
    names: list[str], samples: Samples, intervals: Intervals, configuration: Configuration | None = None
) -> dict[str, Processed]:
    """Several aggregates over the same intervals; what they share is worked out once."""
    chosen = [find_aggregate(name) for name in names]
    for aggregate in chosen:
        refuse_type(aggregate.name, aggregate.types, samples.series.value_type)
    data = IntervalData(samples, intervals, configuration or Configuration())
    return {aggregate.name: aggregate.compute(data) for aggregate in chosen}
