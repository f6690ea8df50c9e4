"""How a figure was made: enough to redo it by hand."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Final

import numpy as np

from cronaca.core import quality as q
from cronaca.core.aggregates import (
    AGGREGATES,
    Configuration,
    IntervalData,
    Intervals,
    Processed,
    Samples,
    spans,
    status,
)
from cronaca.core.aggregates.bounds import Bound, end_bound, interpolated, start_bound
from cronaca.core.aggregates.recorded import spread
from cronaca.core.figures.catalogue import find_figure, unit_of, with_base
from cronaca.core.model import SECOND, Window
from cronaca.core.statistics import StatSpec
from cronaca.core.statistics.spec import OF_ONE_STATE

MOST_LISTED: Final = 500
"""Samples listed one by one; of more the sums are given."""


@dataclass(frozen=True, slots=True)
class BoundDetails:
    """A bounding value: where, what, and the samples (time, value; None when Bad) it came from."""

    at_us: int
    value: float | int | None
    status: str
    how: str
    from_samples: tuple[tuple[int, float | int | None], ...]


@dataclass(frozen=True, slots=True)
class SampleDetails:
    """One sample of the interval, or the mark of a hole."""

    ts_us: int
    value: float | int | None
    quality: str
    is_mark: bool


@dataclass(frozen=True, slots=True)
class Path:
    """Where the samples came from: recorded ones alone, or rollups of this width for a part of them.
    `thinned`: of a part the samples are gone, and edges inside its buckets are not exact."""

    name: str = "raw"
    width_us: int = 0
    read_samples: int = 0
    summed_samples: int = 0
    thinned: bool = False


@dataclass(frozen=True, slots=True)
class Explanation:
    """How one figure over one interval was made. Durations in seconds. `ingredients` are the sums that the
    formula needs; `samples` are all samples of the interval, None where there are too many to list."""

    figure: str
    formula: str
    source: str
    unit: str
    result_kind: str
    value: float | int | None
    status_code: int
    status: str
    window: Window
    forward: bool
    configuration: Configuration
    stepped: bool
    options: dict[str, str | float]
    good: int
    uncertain: int
    bad: int
    good_s: float
    uncertain_s: float
    bad_s: float
    covered: float
    known_until_us: int
    bounds_rule: str
    start_bound: BoundDetails
    end_bound: BoundDetails
    ingredients: dict[str, float]
    samples: tuple[SampleDetails, ...] | None
    path: Path


def explain(
    spec: StatSpec,
    samples: Samples,
    intervals: Intervals,
    i: int,
    configuration: Configuration,
    *,
    result: Processed,
    unit: str = "",
    path: Path | None = None,
) -> Explanation:
    """The explanation of a figure's `result` over interval `i` (in the direction of time)."""
    value, code = result.value(i), int(result.codes[i])
    place = i if intervals.forward else len(intervals) - 1 - i
    data = IntervalData(samples, intervals.take(slice(place, place + 1)), configuration)
    full, figure = with_base(spec, unit), find_figure(spec.name)
    known = spans.durations(data, stepped=data.stepped)
    lo, hi = int(data.intervals.lo_us[0]), int(data.intervals.hi_us[0])
    rule = AGGREGATES[spec.name].bounds if spec.name in AGGREGATES else "simple"
    good, _, total = (int(column[0]) for column in data.raw_counts)
    bad = int(data.segments.count(q.is_bad(samples.series.quality) & data.raw)[0])
    return Explanation(
        spec.name, figure.formula, figure.source, unit_of(full, unit), figure.result,
        value, code, status.describe(code), Window(lo, hi), intervals.forward, configuration,
        data.stepped, _options(full),
        good, total - good - bad, bad,
        int(known.good[0]) / SECOND, int(known.uncertain[0]) / SECOND, int(known.bad[0]) / SECOND,
        int(known.good[0] + known.uncertain[0]) / (hi - lo), data.end_of_data_us, rule,
        *_bounds(data, rule), _ingredients(data), _listed(data), path or Path(),
    )  # fmt: skip


def _options(spec: StatSpec) -> dict[str, str | float]:
    options: dict[str, str | float] = {}
    if spec.name in ("Percentile", "Median"):
        options["percent"] = spec.percent
    if spec.name in ("Percentile", "Median", "Deviation", "Variation"):
        options["weight"] = spec.weight.value
    if spec.name in OF_ONE_STATE and spec.state is not None:
        options["state"] = spec.state
    if spec.base is not None:
        options["base"] = spec.base.value
        options["base_s"] = spec.base.us / SECOND
    if spec.name == "Correlation":
        options["base_s"] = spec.base_us / SECOND
    return options


def _bounds(data: IntervalData, rule: str) -> tuple[BoundDetails, BoundDetails]:
    begin, end = data.intervals.begin_us, data.intervals.end_us
    if rule == "interpolated":
        first, last = interpolated(data, begin), interpolated(data, end)
    else:
        first, last = start_bound(data), end_bound(data)
    return _bound(data, first, int(begin[0])), _bound(data, last, int(end[0]))


def _bound(data: IntervalData, bound: Bound, at_us: int) -> BoundDetails:
    code = int(bound.codes[0])
    used = [int(p[0]) for p in (bound.before, bound.after) if p[0] >= 0]
    rows = tuple((int(data.ts_us[p]), None if data.bad[p] else data.values[p].item()) for p in used)
    if not bound.usable[0]:
        return BoundDetails(at_us, None, status.describe(code), "none", rows)
    how = "recorded" if bound.raw[0] else "held" if len(rows) == 1 else "interpolated"
    if how == "held" and at_us > data.end_of_data_us:
        how = "extrapolated"
    return BoundDetails(at_us, bound.values[0].item(), status.describe(code), how, rows)


def _ingredients(data: IntervalData) -> dict[str, float]:
    """Sums over the interval, for figures of more samples than can be listed. Empty for codes and texts."""
    if data.samples.series.value_type.discrete:
        return {}
    around = spread(data)
    bridged = data.bridged
    first = int(bridged.ts_us[0]) if len(bridged.ts_us) else int(data.intervals.hi_us[0])
    covered = max(int(data.intervals.hi_us[0]) - max(int(data.intervals.lo_us[0]), first), 0)
    usable = spans.durations(data, stepped=data.stepped)
    return {
        "n": float(around.count[0]),
        "mean": float(around.mean[0]),
        "sum_of_squared_deviations": float(around.m2[0]),
        "area": float(spans.area(data)[0]) / SECOND,
        "usable_s": float(usable.good[0] + usable.uncertain[0]) / SECOND,
        "bridged_area": float(spans.area(bridged, onward=True)[0]) / SECOND,
        "covered_s": covered / SECOND,
    }


def _listed(data: IntervalData) -> tuple[SampleDetails, ...] | None:
    start, end = int(data.segments.start[0]), int(data.segments.end[0])
    blocks = data.samples.blocks
    if end - start > MOST_LISTED or (blocks is not None and bool(blocks.inner[start:end].any())):
        return None
    series, raw = data.samples.series, data.raw
    listed = []
    for p in range(start, end):
        code = int(series.quality[p])
        value = None if code >= q.BAD else np.asarray(series.values)[p].item()
        listed.append(SampleDetails(int(series.ts_us[p]), value, q.describe(code), not bool(raw[p])))
    return tuple(listed)
