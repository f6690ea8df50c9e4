"""The pyramid says what the samples say, whatever is written later, and builders never publish stale sums."""

from __future__ import annotations

from collections.abc import Sequence
from datetime import UTC, datetime

import numpy as np
import pytest

from cronaca.core import quality as q
from cronaca.core.codec.batch import HistoryKey
from cronaca.core.model import DAY, HOUR, MINUTE, SECOND, Gap, GapReason, Series, ValueType, Window
from cronaca.core.trends import reduce_m4
from cronaca.db import Store
from cronaca.history.jobs import pyramid
from cronaca.history.jobs.compaction import StoreCompaction
from cronaca.history.jobs.pyramid import PyramidBuilder
from cronaca.history.read.curves import CurveReader
from cronaca.history.read.series import SeriesReader
from cronaca.history.tables import gaps, months, summaries
from cronaca.history.write.bulk import backfill
from cronaca.services.sink import StoreSink
from tests.support.builders import FixedClock, a_flush, a_tag, plant_with

FLOAT = ValueType.FLOAT
START = int(datetime(2026, 9, 28, tzinfo=UTC).timestamp()) * SECOND
"""Three days before the end of a month."""
NOW = START + 7 * DAY + 3 * HOUR


def wave(start_us: int, end_us: int, step_us: int = 10 * SECOND, seed: int = 1) -> Series:
    """One decimal, with noise, some Bad and Uncertain samples and a spike now and then."""
    times = np.arange(start_us, end_us, step_us)
    rng = np.random.default_rng(seed)
    values = np.round(70 + 5 * np.sin(times / HOUR / 2) + rng.normal(0, 0.2, len(times)), 1)
    values[rng.integers(0, len(times), 5)] += 40
    quality = np.zeros(len(times), np.uint16)
    quality[rng.integers(0, len(times), 40)] = q.BAD_NO_COMMUNICATION
    quality[rng.integers(0, len(times), 40)] = q.UNCERTAIN
    return Series.of(FLOAT, times, values, quality)


class Bench:
    """A store with one tag, and what reads it."""

    def __init__(self, store: Store, kind: ValueType = FLOAT) -> None:
        self.store = store
        self.key: HistoryKey = plant_with(store, [a_tag("t", kind)], START)["t"]
        self.clock = FixedClock(NOW)
        self.builder = PyramidBuilder(store, self.clock)
        self.reader = SeriesReader(store)
        self.curves = CurveReader(store, self.reader)

    def fill(self, series: Series) -> None:
        backfill(self.store, {self.key: series}, Window(START, NOW))

    def built(self) -> list[tuple[int, int]]:
        with self.store.snapshot() as tx:
            return [(m.month, m.days_built) for m in months.list_months(tx, self.key)]

    def assert_curves_agree(self, windows: Sequence[Window], width: int = 50) -> set[int]:
        """Each curve is M4 of all samples on the same snapped columns; returns the widths used."""
        used = set()
        for window in windows:
            (curve,) = self.curves.read_many([self.key.tag_id], window, width)
            (raw,) = self.reader.read_many([self.key.tag_id], window)
            expected = reduce_m4(raw.series, window, width, max(curve.width_us, 1))
            assert curve.series.ts_us.tolist() == expected.ts_us.tolist()
            assert curve.series.equals(expected)
            assert curve.answer.samples == raw.samples
            assert curve.answer.known_until_us == raw.known_until_us
            used.add(curve.width_us)
        return used


@pytest.fixture
def bench(store: Store) -> Bench:
    return Bench(store)


WINDOWS = [
    Window(START, START + 7 * DAY),
    Window(START + 12_345_678, START + 6 * DAY + 7),
    Window(START + 2 * DAY + 5 * HOUR, START + 4 * DAY + 11 * MINUTE),
    Window(START - 5 * DAY, NOW + DAY),
    Window(START + 3 * DAY, START + 3 * DAY + HOUR),
]


def test_curves_from_the_pyramid_are_those_of_the_samples(bench: Bench) -> None:
    bench.fill(wave(START, NOW))
    assert bench.assert_curves_agree(WINDOWS) == {0}
    assert bench.builder.build_some(60) == 2
    assert bench.built() == [(202609, 2**31 - 1), (202610, 0b1111)]
    assert max(bench.assert_curves_agree(WINDOWS)) >= HOUR


def test_late_samples_unbuild_their_day_and_the_next_one_with_samples(bench: Bench) -> None:
    bench.fill(wave(START, NOW))
    bench.builder.build_some(60)
    bench.fill(Series.of(FLOAT, [START + 2 * DAY + HOUR + 1], [500.0]))
    (september, october) = bench.built()
    assert september[1] & (1 << 29) == 0, "the thirtieth, to which the sample came"
    assert september[1] & (1 << 28), "the day before is still true"
    assert october[1] == 0, "its first values may hang on the last one of September"
    bench.assert_curves_agree(WINDOWS)
    assert bench.builder.build_some(60) == 2
    bench.assert_curves_agree(WINDOWS)
    (curve,) = bench.curves.read_many([bench.key.tag_id], WINDOWS[0], 10)
    assert curve.width_us and 500.0 in curve.series.values.tolist(), "a spike is never lost"


def test_waiting_samples_are_in_the_curve_before_they_are_compacted(bench: Bench) -> None:
    bench.fill(wave(START, NOW))
    bench.builder.build_some(60)
    sink = StoreSink(bench.store)
    epoch = sink.open_epoch("test", NOW)
    assert epoch is not None
    late = Series.of(FLOAT, [START + 3 * DAY + 7], [-90.0])
    sink.commit(a_flush(epoch, 1, {bench.key: late}, known_until_us=NOW))
    bench.assert_curves_agree(WINDOWS)
    StoreCompaction(bench.store, bench.clock).compact_step()
    bench.assert_curves_agree(WINDOWS)
    bench.builder.build_some(60)
    bench.assert_curves_agree(WINDOWS)


def test_a_gap_on_record_is_in_the_buckets_but_counts_as_no_sample(bench: Bench) -> None:
    with bench.store.transaction() as tx:
        gaps.add_gaps(tx, [Gap(START + DAY + 5, START + DAY + 6 * HOUR, GapReason.RECORDER_DOWN)])
    whole = wave(START, NOW)
    hole = (whole.ts_us >= START + DAY + 5) & (whole.ts_us < START + DAY + 6 * HOUR)
    bench.fill(whole.take(~hole))
    bench.builder.build_some(60)
    bench.assert_curves_agree(WINDOWS)


def test_a_builder_that_looked_before_a_change_does_not_publish(
    bench: Bench, monkeypatch: pytest.MonkeyPatch
) -> None:
    bench.fill(wave(START, NOW))
    ensure = bench.builder._partitions.ensure

    def change_first(places: set[tuple[int, int]]) -> None:
        monkeypatch.undo()
        bench.fill(Series.of(FLOAT, [START + DAY + 1], [999.0]))
        ensure(places)

    monkeypatch.setattr(bench.builder._partitions, "ensure", change_first)
    assert bench.builder.build_some(0) == 0, "the first month had changed meanwhile"
    bench.builder.build_some(60)
    bench.assert_curves_agree(WINDOWS)


def test_a_month_too_large_for_one_building_is_built_in_parts(
    bench: Bench, monkeypatch: pytest.MonkeyPatch
) -> None:
    monkeypatch.setattr(pyramid, "MOST_SAMPLES", 10_000)
    bench.fill(wave(START, NOW))
    assert bench.builder.build_some(60) > 2
    assert bench.built() == [(202609, 2**31 - 1), (202610, 0b1111)]
    bench.assert_curves_agree(WINDOWS)


def test_denser_samples_get_a_finer_base(bench: Bench) -> None:
    bench.fill(wave(START, START + 2 * DAY, 100 * SECOND))
    bench.builder.build_some(60)
    with bench.store.snapshot() as tx:
        sparse = months.list_months(tx, bench.key)[0].base_us
    bench.fill(wave(START, START + 2 * DAY, SECOND, seed=2))
    bench.builder.build_some(60)
    with bench.store.snapshot() as tx:
        assert 0 < months.list_months(tx, bench.key)[0].base_us < sparse
    bench.assert_curves_agree(WINDOWS)


@pytest.mark.parametrize("kind", [ValueType.INTEGER, ValueType.BOOLEAN, ValueType.STATE, ValueType.TEXT])
def test_every_type_has_a_pyramid(store: Store, kind: ValueType) -> None:
    bench = Bench(store, kind)
    times = np.arange(START, START + 3 * DAY, 5 * SECOND)
    highest = 2 if kind is ValueType.BOOLEAN else 2**62
    bench.fill(Series.of(kind, times, np.random.default_rng(3).integers(0, highest, len(times))))
    bench.builder.build_some(60)
    assert max(bench.assert_curves_agree(WINDOWS)) >= HOUR


class TestReportRows:
    def test_hours_and_days_by_hand(self, bench: Bench) -> None:
        """10 for the first half hour, 30 from then on; sloped in between: exactly computable."""
        series = Series.of(FLOAT, [START, START + 30 * MINUTE, START + DAY], [10, 30, 30])
        bench.fill(series)
        bench.builder.build_some(60)
        with bench.store.snapshot() as tx:
            first, second = summaries.read_hours(tx, bench.key, Window(START, START + 2 * HOUR))
        assert first.mean == pytest.approx((20 * 30 + 30 * 30) / 60)
        assert (first.low, first.high, first.samples) == (10, 30, 2)
        assert (second.mean, second.low, second.samples, second.good_us) == (30, 30, 0, HOUR)

    def test_an_unchanged_value_is_summed_up_on_every_day(self, store: Store) -> None:
        bench = Bench(store, ValueType.BOOLEAN)
        bench.fill(Series.of(ValueType.BOOLEAN, [START], [1]))
        bench.builder.build_some(60)
        with store.snapshot() as tx:
            hours = summaries.read_hours(tx, bench.key, Window(START, NOW))
            days = summaries.read_days(tx, bench.key, Window(START, NOW))
        assert len(hours) == 7 * 24
        assert {(h.mean, h.good_us) for h in hours} == {(1.0, HOUR)}
        # Days of Europe/Rome begin at 22:00 UTC; the first one is known from two in the morning on.
        assert [d.start_us for d in days] == [START - 2 * HOUR + i * DAY for i in range(1, 7)]

    def test_a_day_of_the_plant_has_23_hours_in_spring(self, store: Store) -> None:
        bench = Bench(store)
        march = int(datetime(2027, 3, 27, tzinfo=UTC).timestamp()) * SECOND
        bench.clock.time = march + 4 * DAY
        backfill(store, {bench.key: wave(march, march + 4 * DAY, MINUTE)}, Window(march, march + 4 * DAY))
        bench.builder.build_some(60)
        with store.snapshot() as tx:
            days = summaries.read_days(tx, bench.key, Window(march, march + 3 * DAY))
        assert [d.end_us - d.start_us for d in days] == [23 * HOUR, 24 * HOUR, 24 * HOUR]

    def test_reporting_views_show_names_and_utc_times(self, bench: Bench) -> None:
        bench.fill(wave(START, NOW))
        bench.builder.build_some(60)
        with bench.store.snapshot() as tx:
            rows = tx.fetch("SELECT tag, unit, archive, start_utc, mean FROM report_hours ORDER BY start_utc")
            (days,) = tx.fetch("SELECT COUNT(*) FROM report_days")[0]
            tags = tx.fetch("SELECT tag, archive FROM report_tags")
        assert rows[0][:4] == ("t", "°C", "Process values", datetime(2026, 9, 28))
        assert len(rows) == 7 * 24 and days == 7 and tags == [("t", "Process values")]
