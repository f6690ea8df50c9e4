"""Journal, compaction and reading: a sample is seen once, from its commit on, whatever happens around it."""

from __future__ import annotations

import threading

import numpy as np
import pytest

from cronaca.core import quality as q
from cronaca.core.codec.batch import HistoryKey
from cronaca.core.errors import CorruptPayload, InvalidInput, LeaseLost
from cronaca.core.model import DAY, HOUR, MINUTE, SECOND, Gap, GapReason, Series, ValueType, Window
from cronaca.core.ports import Flush
from cronaca.db import Store
from cronaca.history.jobs.compaction import StoreCompaction
from cronaca.history.read.series import SeriesReader
from cronaca.history.tables import current, epochs, journal
from cronaca.history.write.bulk import backfill
from cronaca.services.sink import StoreSink
from tests.support.builders import NOW, FixedClock, a_flush, a_tag, live_values, plant_with

FLOAT = ValueType.FLOAT


def open_epoch(store: Store, now_us: int = NOW) -> int:
    epoch = StoreSink(store).open_epoch("test", now_us)
    assert epoch is not None
    return epoch


def lapse(store: Store) -> None:
    """Lets the lease run out at once."""
    with store.transaction() as tx:
        tx.execute("UPDATE recorder_epoch SET lease_until = UTC_TIMESTAMP(6) - INTERVAL 1 SECOND")


def seconds(first: int, count: int) -> Series:
    """A sample a second, the value its number."""
    numbers = np.arange(first, first + count)
    return Series.of(FLOAT, NOW + numbers * SECOND, numbers)


class TestOneSeries:
    @pytest.fixture
    def key(self, store: Store) -> HistoryKey:
        return plant_with(store, [a_tag("t")])["t"]

    def read(self, store: Store, key: HistoryKey, start: int = NOW - HOUR, end: int = NOW + HOUR) -> Series:
        (answer,) = SeriesReader(store).read_many([key.tag_id], Window(start, end))
        return answer.recorded

    def test_samples_are_there_from_the_commit_on_and_after_compaction(
        self, store: Store, key: HistoryKey
    ) -> None:
        sink, epoch = StoreSink(store), open_epoch(store)
        for i in range(5):
            sink.commit(a_flush(epoch, i + 1, {key: seconds(10 * i, 10)}))
            assert self.read(store, key).equals(seconds(0, 10 * (i + 1)))
        assert StoreCompaction(store, FixedClock()).compact_step() == 5
        assert self.read(store, key).equals(seconds(0, 50))
        with store.snapshot() as tx:
            assert journal.count_backlog(tx) == (0, 0)

    def test_a_reading_too_long_to_be_kept_is_the_same_as_its_pieces(
        self, store: Store, key: HistoryKey
    ) -> None:
        count = 2_100_000
        whole = Series.of(FLOAT, NOW - np.arange(count, 0, -1) * SECOND, np.arange(count) / 10)
        span = Window(NOW - count * SECOND, NOW)
        backfill(store, {key: whole}, span)
        reader = SeriesReader(store)
        middle = Window(span.start_us + 10 * DAY, span.start_us + 11 * DAY)
        (kept,) = reader.read_keys([key], middle)
        (long,) = reader.read_keys([key], span)
        assert long.recorded.equals(whole)
        first = 10 * DAY // SECOND
        assert kept.recorded.equals(whole.take(slice(first - 1, first + DAY // SECOND + 1)))

    def test_a_repeated_commit_changes_nothing(self, store: Store, key: HistoryKey) -> None:
        sink, epoch = StoreSink(store), open_epoch(store)
        flush = a_flush(epoch, 1, {key: seconds(0, 10)})
        sink.commit(flush)
        sink.commit(flush)
        StoreCompaction(store, FixedClock()).compact_step()
        sink.commit(flush)
        assert self.read(store, key).equals(seconds(0, 10))

    def test_compacted_rows_leave_the_journal_after_a_while(self, store: Store, key: HistoryKey) -> None:
        sink, epoch, clock = StoreSink(store), open_epoch(store), FixedClock()
        sink.commit(a_flush(epoch, 1, {key: seconds(0, 10)}))
        compaction = StoreCompaction(store, clock)
        compaction.compact_step()
        with store.snapshot() as tx:
            assert journal.find_ends(tx) is not None
        clock.time += 6 * MINUTE
        compaction.compact_step()
        with store.snapshot() as tx:
            assert journal.find_ends(tx) is None
        assert self.read(store, key).equals(seconds(0, 10))

    def test_the_first_written_of_equal_times_stands_across_segments(
        self, store: Store, key: HistoryKey
    ) -> None:
        sink, epoch = StoreSink(store), open_epoch(store)
        compaction = StoreCompaction(store, FixedClock())
        sink.commit(a_flush(epoch, 1, {key: Series.of(FLOAT, [NOW, NOW + 9], [1, 1])}))
        compaction.compact_step()
        sink.commit(a_flush(epoch, 2, {key: Series.of(FLOAT, [NOW, NOW + 5], [2, 2])}))
        assert self.read(store, key).values.tolist() == [1, 2, 1]
        compaction.compact_step()
        assert self.read(store, key).values.tolist() == [1, 2, 1]

    def test_the_bounding_samples_come_along_however_far(self, store: Store, key: HistoryKey) -> None:
        sink, epoch = StoreSink(store), open_epoch(store)
        far = Series.of(FLOAT, [NOW - 40 * DAY, NOW + 40 * DAY], [1, 3])
        sink.commit(a_flush(epoch, 1, {key: far}))
        StoreCompaction(store, FixedClock()).compact_step()
        sink.commit(a_flush(epoch, 2, {key: Series.of(FLOAT, [NOW], [2])}))
        assert self.read(store, key).values.tolist() == [1, 2, 3]
        assert self.read(store, key, NOW + 1, NOW + 2).values.tolist() == [2, 3]
        with store.snapshot() as tx:
            months = tx.fetch("SELECT DISTINCT month FROM segment ORDER BY month")
        assert len(months) == 2, "a segment never spans a month"

    def test_a_bounding_sample_too_is_the_first_written_one(self, store: Store, key: HistoryKey) -> None:
        sink, epoch = StoreSink(store), open_epoch(store)
        sink.commit(a_flush(epoch, 1, {key: Series.of(FLOAT, [NOW + 1], [1])}))
        StoreCompaction(store, FixedClock()).compact_step()
        sink.commit(a_flush(epoch, 2, {key: Series.of(FLOAT, [NOW + 1], [2])}))
        assert self.read(store, key, NOW, NOW + 1).values.tolist() == [1]
        assert self.read(store, key, NOW + 2, NOW + 3).values.tolist() == [1]

    def test_late_samples_are_sorted_in(self, store: Store, key: HistoryKey) -> None:
        sink, epoch = StoreSink(store), open_epoch(store)
        compaction = StoreCompaction(store, FixedClock())
        for seq, part in enumerate([seconds(100, 50), seconds(0, 50), seconds(50, 50)], 1):
            sink.commit(a_flush(epoch, seq, {key: part}))
            compaction.compact_step()
        assert self.read(store, key).equals(seconds(0, 150))

    def test_a_damaged_segment_is_bad_and_the_log_names_tag_and_range(
        self, store: Store, key: HistoryKey, caplog: pytest.LogCaptureFixture
    ) -> None:
        sink, epoch = StoreSink(store), open_epoch(store)
        sink.commit(a_flush(epoch, 1, {key: seconds(0, 10)}))
        StoreCompaction(store, FixedClock()).compact_step()
        with store.transaction() as tx:
            tx.execute("UPDATE segment SET payload = CONCAT(payload, 'x')")
        assert self.read(store, key).quality.tolist() == [q.BAD_DATA_LOST] * 2
        assert f"tag {key.tag_id}, archive {key.archive_id}, {NOW} to" in caplog.text

    def test_a_window_with_too_many_samples_is_refused(self, store: Store, key: HistoryKey) -> None:
        sink, epoch = StoreSink(store), open_epoch(store)
        sink.commit(a_flush(epoch, 1, {key: seconds(0, 10)}))
        StoreCompaction(store, FixedClock()).compact_step()
        with store.transaction() as tx:
            tx.execute("UPDATE segment SET sample_count = 100000000")
        with pytest.raises(InvalidInput, match="shorter"):
            self.read(store, key)

    def test_a_reader_beside_the_worker_sees_each_sample_once(self, store: Store, key: HistoryKey) -> None:
        sink, epoch = StoreSink(store), open_epoch(store)
        reader, window = SeriesReader(store), Window(NOW - HOUR, NOW + HOUR)
        compaction, done, wrong = StoreCompaction(store, FixedClock()), threading.Event(), []
        committed = 0

        def read() -> None:
            while not done.is_set():
                least = committed
                (answer,) = reader.read_many([key.tag_id], window)
                found = answer.recorded
                if len(found) < least or not found.equals(seconds(0, len(found))):
                    wrong.append((least, found.ts_us.tolist()))

        def compact() -> None:
            while not done.is_set():
                compaction.compact_step()

        threads = [threading.Thread(target=work) for work in (read, compact, compact)]
        for thread in threads:
            thread.start()
        for i in range(120):
            sink.commit(a_flush(epoch, i + 1, {key: seconds(5 * i, 5)}))
            committed = 5 * (i + 1)
        done.set()
        for thread in threads:
            thread.join()
        assert wrong == []
        assert self.read(store, key).equals(seconds(0, 600))


class TestTypes:
    @pytest.mark.parametrize(
        ("kind", "values"),
        [
            (ValueType.INTEGER, [2**63 - 1, -(2**63), 2**53 + 1]),
            (ValueType.BOOLEAN, [1, 0, 1]),
            (ValueType.STATE, [3, -7, 0]),
            (ValueType.TEXT, [1, 2, 1]),
            (FLOAT, [0.1, -0.0, 1e300]),
        ],
    )
    def test_every_type_comes_back_exactly(self, store: Store, kind: ValueType, values: list[float]) -> None:
        key = plant_with(store, [a_tag("t", kind)])["t"]
        sink, epoch = StoreSink(store), open_epoch(store)
        series = Series.of(kind, [NOW, NOW + 1, NOW + 2], values, [q.GOOD, q.UNCERTAIN, q.GOOD])
        sink.commit(a_flush(epoch, 1, {key: series}))
        for _ in range(2):
            (answer,) = SeriesReader(store).read_many([key.tag_id], Window(NOW - 1, NOW + HOUR))
            assert answer.recorded.equals(series)
            StoreCompaction(store, FixedClock()).compact_step()


class TestEpochs:
    def test_one_recorder_at_a_time_and_the_successor_puts_the_gap_on_record(self, store: Store) -> None:
        key = plant_with(store, [a_tag("t")])["t"]
        sink = StoreSink(store)
        first = open_epoch(store)
        sink.commit(a_flush(first, 1, {key: seconds(0, 5)}, known_until_us=NOW + 5 * SECOND))
        assert sink.open_epoch("second", NOW + 6 * SECOND) is None
        lapse(store)
        second = sink.open_epoch("second", NOW + 60 * SECOND)
        assert second == first + 1
        (answer,) = SeriesReader(store).read_many([key.tag_id], Window(NOW, NOW + 60 * SECOND))
        gap = Gap(NOW + 5 * SECOND, NOW + 60 * SECOND, GapReason.RECORDER_DOWN, answer.blanks[-1].detail)
        assert gap in answer.blanks
        assert "without warning" in gap.detail
        assert answer.series.quality.tolist() == [q.GOOD] * 5 + [q.BAD_NO_DATA]

    def test_a_recorder_that_was_cut_off_cannot_write(self, store: Store) -> None:
        key = plant_with(store, [a_tag("t")])["t"]
        sink, first = StoreSink(store), open_epoch(store)
        lapse(store)
        sink.open_epoch("second", NOW + SECOND)
        with pytest.raises(LeaseLost):
            sink.commit(a_flush(first, 1, {key: seconds(0, 5)}))
        with store.snapshot() as tx:
            assert journal.find_ends(tx) is None

    def test_while_no_recorder_runs_the_silence_has_its_reason(self, store: Store) -> None:
        key = plant_with(store, [a_tag("t")])["t"]
        sink, first = StoreSink(store), open_epoch(store)
        sink.commit(a_flush(first, 1, {key: seconds(0, 1)}, known_until_us=NOW + SECOND))

        def last_reason() -> GapReason:
            (answer,) = SeriesReader(store).read_many([key.tag_id], Window(NOW, NOW + HOUR))
            return answer.blanks[-1].reason

        assert last_reason() is GapReason.NOT_YET_KNOWN
        lapse(store)
        assert last_reason() is GapReason.RECORDER_DOWN
        sink.close_epoch(first, NOW + SECOND, "stopped")
        assert last_reason() is GapReason.RECORDER_STOPPED

    def test_a_stop_on_purpose_is_told_apart_from_a_crash(self, store: Store) -> None:
        plant_with(store, [a_tag("t")])
        sink, first = StoreSink(store), open_epoch(store)
        sink.close_epoch(first, NOW + SECOND, "stopped")
        assert sink.open_epoch("second", NOW + 9 * SECOND) == first + 1
        (answer,) = SeriesReader(store).read_many([1], Window(NOW, NOW + 20 * SECOND))
        assert GapReason.RECORDER_STOPPED in [gap.reason for gap in answer.blanks]

    def test_a_flush_carries_gaps_and_knowledge(self, store: Store) -> None:
        key = plant_with(store, [a_tag("t")])["t"]
        sink, epoch = StoreSink(store), open_epoch(store)
        torn = Gap(NOW + 10, NOW + 20, GapReason.QUEUE_OVERFLOW, "3 samples")
        sink.commit(a_flush(epoch, 1, {key: seconds(0, 1)}, known_until_us=NOW + SECOND, outputs=[torn]))
        (answer,) = SeriesReader(store).read_many([key.tag_id], Window(NOW, NOW + HOUR))
        assert torn in answer.blanks
        assert answer.known_until_us == NOW + SECOND
        assert answer.blanks[-1].reason is GapReason.NOT_YET_KNOWN

    def test_backfilled_history_is_known_and_followed_by_a_gap(self, store: Store) -> None:
        key = plant_with(store, [a_tag("t")])["t"]
        backfill(store, {key: seconds(0, 40_000)}, Window(NOW, NOW + 40_000 * SECOND))
        open_epoch(store, NOW + 40_100 * SECOND)
        (answer,) = SeriesReader(store).read_many([key.tag_id], Window(NOW, NOW + 40_100 * SECOND))
        assert answer.recorded.equals(seconds(0, 40_000))
        assert [gap.reason for gap in answer.blanks] == [GapReason.NOT_RECORDED]

    def test_a_tag_without_history_is_answered_with_a_reason(self, store: Store) -> None:
        plant_with(store, [a_tag("t")])
        (answer,) = SeriesReader(store).read_many([77], Window(NOW, NOW + 1))
        assert len(answer.series) == 0
        assert GapReason.NOT_YET_RECORDED in [gap.reason for gap in answer.blanks]


class TestCurrentValues:
    def test_blocks_are_read_when_they_changed(self, store: Store) -> None:
        sink, epoch = StoreSink(store), open_epoch(store)
        sink.commit(a_flush(epoch, 1, {}, live=live_values({1: 1.5, 2: 2.5, 300: 3.5})))
        with store.snapshot() as tx:
            after, found = current.read_current(tx, (0, 0))
        assert found.tag_ids.tolist() == [1, 2, 300]
        assert found.bits.view(np.float64).tolist() == [1.5, 2.5, 3.5]
        sink.commit(a_flush(epoch, 2, {}, live=live_values({300: 4.5})))
        with store.snapshot() as tx:
            after, found = current.read_current(tx, after)
            assert found.tag_ids.tolist() == [300]
            assert len(current.read_current(tx, after)[1].tag_ids) == 0

    def test_a_damaged_block_is_refused(self, store: Store) -> None:
        StoreSink(store).commit(a_flush(open_epoch(store), 1, {}, live=live_values({1: 1.5})))
        with store.transaction() as tx:
            tx.execute("UPDATE current_value SET payload = CONCAT(payload, 'x')")
        with store.snapshot() as tx, pytest.raises(CorruptPayload):
            current.read_current(tx, (0, 0))

    def test_the_last_report_is_kept_with_the_epoch(self, store: Store) -> None:
        StoreSink(store).commit(a_flush(open_epoch(store), 1, {}))
        with store.snapshot() as tx:
            last = epochs.find_last_epoch(tx)
        assert last is not None
        assert last.report["samples_per_second"] == 1.0


class TestFilling:
    """What a recorder had spooled when its epoch ended."""

    def late(self, key: HistoryKey, seq: int, first: int, count: int) -> Flush:
        known = NOW + (first + count) * SECOND
        return a_flush(1, seq, {key: seconds(first, count)}, known_until_us=known)

    def test_it_fills_the_gap_and_nothing_else(self, store: Store) -> None:
        key = plant_with(store, [a_tag("t")])["t"]
        sink = StoreSink(store)
        assert open_epoch(store) == 1
        sink.commit(self.late(key, 1, 0, 10))
        lapse(store)
        second = sink.open_epoch("second", NOW + 40 * SECOND)
        assert second == 2
        theirs = Series.of(FLOAT, [NOW + i * SECOND for i in range(40, 60)], [-1.0] * 20)
        sink.commit(a_flush(2, 1, {key: theirs}, known_until_us=NOW + 60 * SECOND))
        for i in range(2, 6):
            sink.fill(2, self.late(key, i, 10 * (i - 1), 10))
            sink.fill(2, self.late(key, i, 10 * (i - 1), 10))
        (answer,) = SeriesReader(store).read_many([key.tag_id], Window(NOW, NOW + 60 * SECOND))
        assert answer.recorded.ts_us.tolist() == [NOW + i * SECOND for i in range(60)]
        assert answer.recorded.values.tolist() == [*range(40), *([-1.0] * 20)], (
            "the successor's time is its own"
        )
        assert answer.blanks == ()

    def test_what_is_not_filled_stays_a_gap(self, store: Store) -> None:
        key = plant_with(store, [a_tag("t")])["t"]
        sink = StoreSink(store)
        assert open_epoch(store) == 1
        sink.commit(self.late(key, 1, 0, 10))
        lapse(store)
        assert sink.open_epoch("second", NOW + 40 * SECOND) == 2
        sink.fill(2, self.late(key, 2, 10, 10))
        (answer,) = SeriesReader(store).read_many([key.tag_id], Window(NOW, NOW + 40 * SECOND))
        assert [(g.start_us, g.end_us) for g in answer.blanks] == [(NOW + 20 * SECOND, NOW + 40 * SECOND)]

    def test_only_under_a_lease(self, store: Store) -> None:
        key = plant_with(store, [a_tag("t")])["t"]
        sink = StoreSink(store)
        assert open_epoch(store) == 1
        sink.close_epoch(1, NOW, "stopped")
        with pytest.raises(LeaseLost):
            sink.fill(1, self.late(key, 2, 10, 10))
