"""How a figure was made: enough to redo it by hand."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Final

import numpy as np

from cronaca.core import quality as q
from cronaca.core.aggregates import (
    AGGREGATES,
    Configuration,
    Facts,
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
    facts = Facts(samples, intervals.take(slice(place, place + 1)), configuration)
    full, figure = with_base(spec, unit), find_figure(spec.name)
    known = spans.durations(facts, stepped=facts.stepped)
    lo, hi = int(facts.intervals.lo_us[0]), int(facts.intervals.hi_us[0])
    rule = AGGREGATES[spec.name].bounds if spec.name in AGGREGATES else "simple"
    good, _, total = (int(column[0]) for column in facts.raw_counts)
    bad = int(facts.segments.count(q.is_bad(samples.series.quality) & facts.raw)[0])
    return Explanation(
        spec.name, figure.formula, figure.source, unit_of(full, unit), figure.result,
        value, code, status.describe(code), Window(lo, hi), intervals.forward, configuration,
        facts.stepped, _options(full),
        good, total - good - bad, bad,
        int(known.good[0]) / SECOND, int(known.uncertain[0]) / SECOND, int(known.bad[0]) / SECOND,
        int(known.good[0] + known.uncertain[0]) / (hi - lo), facts.end_of_data_us, rule,
        *_bounds(facts, rule), _ingredients(facts), _listed(facts), path or Path(),
    )  # fmt: skip


def _options(spec: StatSpec) -> dict[str, str | float]:
    found: dict[str, str | float] = {}
    if spec.name in ("Percentile", "Median"):
        found["percent"] = spec.percent
    if spec.name in ("Percentile", "Median", "Deviation", "Variation"):
        found["weight"] = spec.weight.value
    if spec.base is not None:
        found["base"] = spec.base.value
        found["base_s"] = spec.base.us / SECOND
    if spec.name == "Correlation":
        found["base_s"] = spec.base_us / SECOND
    return found


def _bounds(facts: Facts, rule: str) -> tuple[BoundDetails, BoundDetails]:
    begin, end = facts.intervals.begin_us, facts.intervals.end_us
    if rule == "interpolated":
        first, last = interpolated(facts, begin), interpolated(facts, end)
    else:
        first, last = start_bound(facts), end_bound(facts)
    return _bound(facts, first, int(begin[0])), _bound(facts, last, int(end[0]))


def _bound(facts: Facts, bound: Bound, at_us: int) -> BoundDetails:
    code = int(bound.codes[0])
    used = [int(p[0]) for p in (bound.before, bound.after) if p[0] >= 0]
    rows = tuple((int(facts.ts_us[p]), None if facts.bad[p] else facts.values[p].item()) for p in used)
    if not bound.usable[0]:
        return BoundDetails(at_us, None, status.describe(code), "none", rows)
    how = "recorded" if bound.raw[0] else "held" if len(rows) == 1 else "interpolated"
    if how == "held" and at_us > facts.end_of_data_us:
        how = "extrapolated"
    return BoundDetails(at_us, bound.values[0].item(), status.describe(code), how, rows)


def _ingredients(facts: Facts) -> dict[str, float]:
    """Sums over the interval, for figures of more samples than can be listed. Empty for codes and texts."""
    if facts.samples.series.value_type.discrete:
        return {}
    around = spread(facts)
    bridged = facts.bridged
    first = int(bridged.ts_us[0]) if len(bridged.ts_us) else int(facts.intervals.hi_us[0])
    covered = max(int(facts.intervals.hi_us[0]) - max(int(facts.intervals.lo_us[0]), first), 0)
    usable = spans.durations(facts, stepped=facts.stepped)
    return {
        "n": float(around.count[0]),
        "mean": float(around.mean[0]),
        "sum_of_squared_deviations": float(around.m2[0]),
        "area": float(spans.area(facts)[0]) / SECOND,
        "usable_s": float(usable.good[0] + usable.uncertain[0]) / SECOND,
        "bridged_area": float(spans.area(bridged, onward=True)[0]) / SECOND,
        "covered_s": covered / SECOND,
    }


def _listed(facts: Facts) -> tuple[SampleDetails, ...] | None:
    start, end = int(facts.segments.start[0]), int(facts.segments.end[0])
    blocks = facts.samples.blocks
    if end - start > MOST_LISTED or (blocks is not None and bool(blocks.inner[start:end].any())):
        return None
    series, raw = facts.samples.series, facts.raw
    found = []
    for p in range(start, end):
        code = int(series.quality[p])
        value = None if code >= q.BAD else np.asarray(series.values)[p].item()
        found.append(SampleDetails(int(series.ts_us[p]), value, q.describe(code), not bool(raw[p])))
    return tuple(found)
