"""Plain rows for reports: what a tag was in each hour, each day. Values at the edges are those of the line
that a trend draws: held for stepped tags, on the slope otherwise."""

from __future__ import annotations

from dataclasses import dataclass
from itertools import pairwise

import numpy as np
from numpy.typing import NDArray

from cronaca.core import quality as q
from cronaca.core.model import Series, Times, ValueType
from cronaca.core.rollup.buckets import Points, spans

_AT_ONCE = 24


@dataclass(frozen=True, slots=True)
class ReportRow:
    """One tag over [start_us, end_us). Durations in µs; what is missing of the whole is not known (yet).

    `low` and `high` are over recorded usable samples, or the held value where there is none; `mean` is
    weighted by time over usable stretches; None where no value was usable.
    """

    start_us: int
    end_us: int
    samples: int
    good_us: int
    uncertain_us: int
    bad_us: int
    low: float | None
    low_us: int | None
    high: float | None
    high_us: int | None
    mean: float | None
    last_value: float | None
    transitions: int


def report_rows(
    series: Series, recorded: Series, edges_us: list[int], *, stepped: bool, until_us: int
) -> list[ReportRow]:
    """A row for each stretch between neighbouring edges of which something is known.

    `series` has its holes marked and a bounding sample on each side; `recorded` holds the recorded samples
    alone; nothing is known from `until_us` on."""
    rows: list[ReportRow] = []
    # A few hours or days at a time stay in the processor's cache.
    for i in range(0, len(edges_us) - 1, _AT_ONCE):
        edges = edges_us[i : i + _AT_ONCE + 1]
        near = slice(*np.searchsorted(series.ts_us, [edges[0], edges[-1]]).tolist())
        around = series.take(slice(max(near.start - 1, 0), near.stop + 1))
        rows += _rows(around, recorded, edges, stepped=stepped, until_us=until_us)
    return rows


def _rows(
    series: Series, recorded: Series, edges_us: list[int], *, stepped: bool, until_us: int
) -> list[ReportRow]:
    edges = np.unique(np.minimum(np.array(edges_us, np.int64), until_us))
    whole = _with_edges(series, edges, stepped=stepped or series.value_type is not ValueType.FLOAT)
    points = Points(whole.ts_us, whole.values, whole.quality)
    count = max(len(whole) - 1, 0)
    between = spans(points.take(slice(count)), points.take(slice(1, count + 1)))
    integral = between.figures["held" if stepped else "sloped"]
    ends = [min(edge, until_us) for edge in edges_us]
    places = np.searchsorted(whole.ts_us[:count], ends).tolist()
    mine = np.searchsorted(recorded.ts_us, edges_us).tolist()
    rows = []
    for j, (start, end) in enumerate(pairwise(edges_us)):
        inside = slice(places[j], places[j + 1])
        known = {name: int(column[inside].sum()) for name, column in between.counts.items()}
        usable_us = known["good_us"] + known["uncertain_us"]
        if usable_us + known["bad_us"] == 0:
            continue
        own, held = recorded.take(slice(mine[j], mine[j + 1])), whole.take(inside)
        mean = float(integral[inside].sum() / usable_us) if usable_us else None
        rows.append(
            ReportRow(
                start, end, len(own), known["good_us"], known["uncertain_us"], known["bad_us"],
                *_extremes(own, held), mean, _last(held), known["transitions"],
            )
        )  # fmt: skip
    return rows


def _with_edges(series: Series, edges: Times, *, stepped: bool) -> Series:
    """The series with a sample of the line at each edge behind its first sample."""
    if not len(series):
        return series
    # Times are in order: looking up beats every set operation and every sort on millions of them.
    places = np.searchsorted(series.ts_us, edges)
    standing = series.ts_us[np.minimum(places, len(series) - 1)] == edges
    new = (edges > series.ts_us[0]) & ~standing
    edges, places = edges[new], places[new]
    before, after = places - 1, np.minimum(places, len(series) - 1)
    values, quality = series.values[before].copy(), series.quality[before].copy()
    if not stepped and series.value_type is ValueType.FLOAT:
        usable = ~q.is_bad(quality) & ~q.is_bad(series.quality[after]) & (after > before)
        length = np.where(usable, series.ts_us[after] - series.ts_us[before], 1)
        share = (edges - series.ts_us[before]) / length
        between = values + share * (series.values[after] - values)
        values = np.where(usable, between, values)
        quality = np.where(usable, np.maximum(quality, series.quality[after]), quality)
    return Series(
        series.value_type,
        np.insert(series.ts_us, places, edges),
        np.insert(series.values, places, values).astype(series.value_type.dtype, copy=False),
        np.insert(series.quality, places, quality),
    )


def _extremes(mine: Series, held: Series) -> tuple[float | None, int | None, float | None, int | None]:
    for extreme in (mine, held):
        usable = np.flatnonzero(~q.is_bad(extreme.quality))
        if len(usable) and extreme.value_type is not ValueType.TEXT:
            values: NDArray[np.float64] | NDArray[np.int64] = extreme.values[usable]
            low, high = usable[values.argmin()], usable[values.argmax()]
            return (
                float(extreme.values[low]), int(extreme.ts_us[low]),
                float(extreme.values[high]), int(extreme.ts_us[high]),
            )  # fmt: skip
    return None, None, None, None


def _last(held: Series) -> float | None:
    if not len(held) or q.is_bad(held.quality[-1:])[0] or held.value_type is ValueType.TEXT:
        return None
    return float(held.values[-1])
