"""Figures from rollups are those from samples, whatever the window, the edges and what was written late."""

from __future__ import annotations

import numpy as np
import pytest

from cronaca.core import quality as q
from cronaca.core.aggregates import (
    AGGREGATES,
    Configuration,
    Intervals,
    by_duration,
    by_edges,
    process_all,
    status,
)
from cronaca.core.figures import Path
from cronaca.core.model import DAY, HOUR, MINUTE, SECOND, Gap, GapReason, Series, ValueType, Window
from cronaca.db import Store
from cronaca.history.jobs.compaction import StoreCompaction
from cronaca.history.read import figures, series
from cronaca.history.read.figures import FigureReader, FigureSamples, Wanted
from cronaca.history.tables import gaps
from cronaca.services.sink import StoreSink
from tests.history.test_pyramid import NOW, START, Bench, wave
from tests.support.builders import a_flush, a_tag

FLOAT = ValueType.FLOAT
NAMES = [a.name for a in AGGREGATES.values() if FLOAT in a.merges]


class Reading(Bench):
    """A bench with a reader of figures for which few samples are many."""

    def __init__(self, store: Store, monkeypatch: pytest.MonkeyPatch) -> None:
        super().__init__(store)
        monkeypatch.setattr(figures, "FEW_SAMPLES", 500)
        self.figures = FigureReader(store, self.reader)
        self.tag = a_tag("t", tag_id=self.key.tag_id)

    def read(self, intervals: Intervals, *, exact: bool) -> FigureSamples:
        (found,) = self.figures.read_each([Wanted(self.tag, None, intervals, exact)])
        return found

    def assert_both_ways_agree(self, intervals: Intervals) -> Path:
        """Equal but for the last bits of sums, and for how often an extreme occurred."""
        plain, merged = self.read(intervals, exact=True), self.read(intervals, exact=False)
        assert plain.path.name == "raw"
        for config in (Configuration(), Configuration(stepped=True, treat_uncertain_as_bad=False)):
            one = process_all(NAMES, plain.samples, intervals, config)
            two = process_all(NAMES, merged.samples, intervals, config)
            for name in NAMES:
                known = ~np.uint32(status.MULTI_VALUE | status.DATA_VALUE if "imum" in name else 0)
                assert ((one[name].codes ^ two[name].codes) & known == 0).all(), name
                assert one[name].ts_us.tolist() == two[name].ts_us.tolist(), name
                assert one[name].values == pytest.approx(
                    two[name].values, rel=1e-11, abs=1e-9, nan_ok=True
                ), name
        return merged.path


@pytest.fixture
def bench(store: Store, monkeypatch: pytest.MonkeyPatch) -> Reading:
    found = Reading(store, monkeypatch)
    found.fill(wave(START, NOW))
    found.builder.build_some(60)
    return found


def test_what_reading_costs_is_known_before_and_nothing_where_rollups_tell(bench: Reading) -> None:
    whole, third = by_duration(START, NOW), by_duration(START, START + (NOW - START) // 3)

    def cost(intervals: Intervals, *, exact: bool) -> int:
        return bench.figures.estimate([Wanted(bench.tag, None, intervals, exact)])

    samples = len(bench.read(whole, exact=True).samples.series)
    assert cost(whole, exact=True) == pytest.approx(samples, rel=0.01)
    assert cost(third, exact=True) == pytest.approx(samples / 3, rel=0.01)
    assert cost(whole, exact=False) == 0
    unknown = Wanted(a_tag("none", tag_id=999), None, whole, exact=True)
    assert bench.figures.estimate([unknown, unknown]) == 0


@pytest.mark.parametrize("offset_us,length_us,parts", [
    (0, 7 * DAY, HOUR), (0, 6 * DAY, 6 * DAY), (7_654_321, 5 * DAY, 5 * DAY), (12_345_678, 6 * DAY, 9 * HOUR),
    (3 * HOUR, 2 * DAY, 7 * MINUTE), (-DAY, 10 * DAY, 8 * HOUR), (5 * DAY, 4 * DAY, DAY),
])  # fmt: skip
def test_any_window_with_its_edges_inside_buckets(
    bench: Reading, offset_us: int, length_us: int, parts: int
) -> None:
    start = START + offset_us
    bench.assert_both_ways_agree(by_duration(start, start + length_us, parts))


def test_a_long_window_does_come_from_rollups(bench: Reading) -> None:
    path = bench.assert_both_ways_agree(by_duration(START, START + 7 * DAY, DAY))
    assert path.name == "rollup"
    assert path.summed_samples > path.read_samples
    assert path.summed_samples + path.read_samples == 7 * DAY // (10 * SECOND)


def test_late_samples_and_those_in_the_journal_are_in_the_figures(bench: Reading) -> None:
    sink = StoreSink(bench.store)
    epoch = sink.open_epoch("test", NOW)
    assert epoch is not None
    late = Series.of(FLOAT, [START + DAY + 5_000_001, START + DAY + HOUR], [999.0, -999.0])
    sink.commit(a_flush(epoch, 1, {bench.key: late}, NOW))
    where = by_duration(START, START + 7 * DAY, DAY)
    for _ in range(2):
        bench.assert_both_ways_agree(where)
        found = process_all(["Maximum"], bench.read(where, exact=False).samples, where)["Maximum"]
        assert found.value(1) == 999
        StoreCompaction(bench.store, bench.clock).compact_step()
        bench.builder.build_some(60)


def test_a_gap_on_record_parts_the_line_on_both_ways(bench: Reading) -> None:
    with bench.store.transaction() as tx:
        gap = Gap(START + DAY + 90_000_000, START + DAY + 2 * HOUR, GapReason.RECORDER_DOWN, "a test")
        gaps.add_gaps(tx, [gap])
    where = by_duration(START, START + 7 * DAY, DAY)
    bench.assert_both_ways_agree(where)
    assert bench.read(where, exact=True).samples.marks is not None


def test_a_bound_is_looked_for_beyond_a_bad_sample(store: Store, monkeypatch: pytest.MonkeyPatch) -> None:
    """Interpolated bounds skip Bad ones: the nearest usable sample may lie further away."""
    bench = Reading(store, monkeypatch)
    times = [START, START + HOUR, START + 2 * HOUR, START + 3 * HOUR]
    bench.fill(Series.of(FLOAT, times, [10.0, 0.0, 0.0, 40.0], [q.GOOD, q.BAD, q.BAD, q.GOOD]))
    where = by_edges([START + 80 * MINUTE, START + 100 * MINUTE])
    found = process_all(["Interpolative", "StartBound"], bench.read(where, exact=False).samples, where)
    assert found["Interpolative"].value(0) == pytest.approx(10 + 30 * 80 / 180)
    assert found["StartBound"].value(0) is None


def test_a_tag_that_was_never_recorded_has_no_figures(bench: Reading) -> None:
    stranger = a_tag("stranger", tag_id=999)
    where = by_duration(START, START + DAY)
    (found,) = bench.figures.read_each([Wanted(stranger, None, where)])
    assert process_all(["Average"], found.samples, where)["Average"].value(0) is None
    assert len(found.samples.series) == 0


def test_few_samples_are_read_as_they_are(store: Store) -> None:
    bench = Bench(store)
    bench.fill(wave(START, NOW))
    bench.builder.build_some(60)
    reader = FigureReader(store, bench.reader)
    where = by_duration(START, START + 7 * DAY, DAY)
    (found,) = reader.read_each([Wanted(a_tag("t", tag_id=bench.key.tag_id), None, where)])
    assert (found.path.name, found.samples.blocks) == ("raw", None)
    assert Window(START, NOW).length_us // (10 * SECOND) < figures.FEW_SAMPLES


def test_a_window_too_long_for_samples_is_refused_where_summaries_cannot_tell(
    bench: Reading, monkeypatch: pytest.MonkeyPatch
) -> None:
    monkeypatch.setattr(series, "MOST_SAMPLES", 40_000)
    where = by_duration(START, START + 6 * DAY)
    refused = bench.read(where, exact=True).refused
    assert refused is not None
    assert "Ask for a shorter window" in refused.remedy
    assert bench.read(where, exact=False).refused is None


def test_of_thinned_months_summaries_tell_what_they_can(bench: Reading) -> None:
    """September's samples are gone but for their rollups (whole hours here)."""
    where = by_duration(START, START + 2 * DAY, DAY)
    before = process_all(["Count", "Maximum"], bench.read(where, exact=True).samples, where)
    with bench.store.transaction() as tx:
        tx.execute("UPDATE history_month SET thinned = TRUE WHERE month = 202609")
        tx.execute("DELETE FROM segment WHERE month = 202609")
    refused = bench.read(where, exact=True).refused
    assert refused is not None
    assert "thinned" in refused.problem
    found = bench.read(where, exact=False)
    after = process_all(["Maximum"], found.samples, where)
    assert after["Maximum"].values.tolist() == before["Maximum"].values.tolist()
    assert found.path.thinned, "hours with a doubtful sample are told by their outermost samples alone"
