"""Blocks from rollups give the aggregates that the samples give: any window, any edges, across gaps."""

from __future__ import annotations

from dataclasses import dataclass, replace

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st
from numpy.typing import NDArray

from cronaca.core import quality as q
from cronaca.core.aggregates import AGGREGATES, Configuration, Samples, by_edges, process_all, status
from cronaca.core.aggregates.condense import clean, condense, without_edges
from cronaca.core.model import SECOND, Series, Values, ValueType
from cronaca.core.rollup import bucketise, coarsen

T0 = 1_790_000_000 * SECOND
SPAN_S = 900
_QUALITIES = (q.GOOD,) * 12 + (q.UNCERTAIN, q.BAD, q.BAD_NO_DATA)
EPS = float(np.finfo(np.float64).eps)


KINDS = [
    ValueType.FLOAT,
    ValueType.FLOAT,
    ValueType.INTEGER,
    ValueType.BOOLEAN,
    ValueType.STATE,
    ValueType.TEXT,
]


@dataclass(frozen=True)
class Recipe:
    """A few hundred samples about a second apart, with pauses, doubtful stretches and marks of holes."""

    kind: ValueType
    seed: int
    offset: float
    doubtful: int
    known_s: int | None

    def history(self) -> Samples:
        rng = np.random.default_rng(self.seed)
        odds = [0.5, 0.2, 0.14, 0.13, 0.03]
        steps = rng.choice([SECOND, SECOND, 300_000, 1_700_001, 25 * SECOND], SPAN_S, p=odds)
        ts = T0 + np.cumsum(steps)
        values = _values(rng, self.kind, self.offset, len(ts))
        quality = np.zeros(len(ts), np.uint16)
        for at in rng.integers(0, len(ts), self.doubtful):
            quality[at : at + int(rng.integers(1, 6))] = rng.choice(_QUALITIES)
        series = Series.of(self.kind, ts, values, quality)
        marks = (series.quality == q.BAD_NO_DATA) & (rng.random(len(ts)) < 0.5)
        return Samples(series, marks, None if self.known_s is None else int(ts[-1]) + self.known_s * SECOND)


def histories() -> st.SearchStrategy[Recipe]:
    return st.builds(
        Recipe, st.sampled_from(KINDS), st.integers(0, 2**32 - 1), st.sampled_from([0.0, 100.0, -1e9, 1e12]),
        st.integers(0, 12), st.sampled_from([None, 30]),
    )  # fmt: skip


def _values(rng: np.random.Generator, kind: ValueType, offset: float, count: int) -> Values:
    if kind is ValueType.FLOAT:
        return offset + np.round(rng.normal(0, 3, count), 1)
    if kind is ValueType.BOOLEAN:
        return (np.cumsum(rng.random(count) < 0.05) % 2).astype(np.float64)
    return rng.integers(0, 4, count) if kind is not ValueType.INTEGER else rng.integers(-1000, 1000, count)


def condensed(samples: Samples, edges: NDArray[np.int64], width_us: int) -> Samples:
    """The same history, with all that its rollups may stand for replaced by blocks."""
    buckets = bucketise(samples.series, 10 * SECOND)
    if width_us > 10 * SECOND:
        buckets = coarsen(buckets, width_us)
    buckets = buckets.take(clean(buckets) & without_edges(buckets.start_us, width_us, edges))
    taken = np.isin(samples.series.ts_us // width_us * width_us, buckets.start_us)
    series, blocks = condense(samples.series.take(~taken), buckets)
    assert samples.marks is not None
    marks = np.isin(series.ts_us, samples.series.ts_us[samples.marks])
    return Samples(series, marks, samples.known_until_us, samples.annotations, blocks)


@given(
    histories(),
    st.lists(st.integers(-60 * SECOND, 2 * SPAN_S * SECOND), min_size=2, max_size=8, unique=True),
    st.sampled_from([10 * SECOND, 60 * SECOND, 600 * SECOND]),
    st.booleans(), st.booleans(), st.sampled_from([(100, 100), (50, 50), (30, 80)]),
)  # fmt: skip
def test_both_ways_agree(
    recipe: Recipe, places: list[int], width_us: int, stepped: bool, tuab: bool,
    shares: tuple[int, int],
) -> None:  # fmt: skip
    """To the last bits that float64 allows: sums of n terms in different order differ by at most about
    (log2 n + blocks) * eps * the largest term, 64 eps here; a variance also carries the rounding of its
    blocks' means, eps * largest value * spread. All else is equal."""
    samples = recipe.history()
    edges = np.array(sorted(T0 + p for p in places), np.int64)
    config = Configuration(tuab, shares[0], shares[1], stepped=stepped)
    kind = samples.series.value_type
    names = [a.name for a in AGGREGATES.values() if kind in a.types and kind in a.merges]
    intervals = by_edges(edges.tolist())
    plain = process_all(names, samples, intervals, config)
    merged = process_all(names, condensed(samples, edges, width_us), intervals, config)
    usable = samples.series.values[~q.is_bad(samples.series.quality)].astype(np.float64)
    top = float(np.abs(usable).max(initial=0.0))
    spread = float(np.ptp(usable)) if len(usable) else 0.0
    for name in names:
        one, two = plain[name], merged[name]
        # How often an extreme occurs inside a block is not told by it.
        known = ~np.uint32(status.MULTI_VALUE | status.DATA_VALUE if "imum" in name else 0)
        assert [hex(c) for c in one.codes & known] == [hex(c) for c in two.codes & known], name
        assert one.ts_us.tolist() == two.ts_us.tolist(), name
        assert one.null.tolist() == two.null.tolist(), name
        room = 64 * EPS * top
        if AGGREGATES[name].result == "area":
            room *= 2 * SPAN_S
        elif "Variance" in name or "Deviation" in name:
            room = 64 * EPS * (top * spread + spread**2)
        elif name not in (
            "Average",
            "TimeAverage",
            "TimeAverage2",
            "Interpolative",
            "EndBound",
            "DeltaBounds",
        ):
            room = 0.0
        if "Deviation" in name:
            assert np.allclose(one.values**2, two.values**2, rtol=0, atol=room, equal_nan=True), name
        else:
            assert np.allclose(one.values, two.values, rtol=0, atol=room, equal_nan=True), name


def test_blocks_do_take_the_place_of_samples() -> None:
    ts = T0 + np.arange(3600) * SECOND
    series = Series.of(ValueType.FLOAT, ts, np.sin(np.arange(3600) / 100))
    samples = Samples(series, np.zeros(3600, np.bool_))
    short = condensed(samples, np.array([T0 + 5 * SECOND, T0 + 3000 * SECOND]), 60 * SECOND)
    assert len(short.series) < 500
    assert short.blocks is not None
    assert int(short.blocks.counts.sum()) == 3600


@pytest.mark.parametrize("edge,cut", [(0, False), (9, True), (10, False)])
def test_an_edge_cuts_only_the_bucket_it_lies_inside(edge: int, cut: bool) -> None:
    starts = np.array([T0, T0 + 10 * SECOND])
    left = without_edges(starts, 10 * SECOND, np.array([T0 + edge * SECOND]))
    assert left.tolist() == [not cut, True]
    assert replace(Configuration(), stepped=True).stepped
