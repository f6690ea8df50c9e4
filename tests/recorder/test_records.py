"""Triggered loggers: when a record is taken, what it holds, that it is safe once, that the plant is told."""

from __future__ import annotations

import asyncio
from collections.abc import Iterator
from dataclasses import replace
from pathlib import Path

import numpy as np
import pytest

from cronaca.core import quality as q
from cronaca.core.bits import to_bits
from cronaca.core.codec.batch import HistoryKey
from cronaca.core.logger_rules.trigger import Trigger
from cronaca.core.loggers import Logger, TriggerSpec
from cronaca.core.model import SECOND, Edge, GapReason, LoggerMode, SourceSetup, ValueType, Window
from cronaca.core.outputs import CoverageMark, Record, SafeRecord
from cronaca.core.readings import Readings, Values
from cronaca.core.setup.whole import Setup
from cronaca.db import Store
from cronaca.logbook import records
from cronaca.logbook.record_pages import RecordChoice, column_figures
from cronaca.recorder.engine import Outlet, Recorder
from cronaca.recorder.live import LiveTable
from cronaca.recorder.outputs.queue import OutputQueue
from cronaca.recorder.outputs.spool import Entry, Spool, WhenFull
from cronaca.recorder.stages.on_trigger import BY_PERSON, RecordLogger
from cronaca.recorder.stages.stage import Moment, StageContext
from cronaca.services.sink import StoreSink
from tests.support.application import goes_on, until
from tests.support.builders import NOW, a_flush, a_logger, a_record_logger, a_tag, left_in, plant_with
from tests.support.fakes import FakeDriver, FakeSink, always

LOT = a_tag("lot", ValueType.INTEGER, tag_id=1, scan_us=SECOND // 10)
MOISTURE = a_tag("moisture", tag_id=2, scan_us=SECOND // 10)
NUMBER = a_tag("number", ValueType.INTEGER, tag_id=3, scan_us=SECOND)
TAGS = {tag.tag_id: tag for tag in (LOT, MOISTURE, NUMBER)}
HISTORIES = {(1, i): (HistoryKey(1, i, 1), tag.value_type) for i, tag in TAGS.items()}


def logger(edge: Edge = Edge.CHANGE, **spec: object) -> Logger:
    trigger: TriggerSpec[int] = TriggerSpec(1, edge, **spec)  # type: ignore[arg-type]
    return a_logger(5, "u", "lots", 1, LoggerMode.ON_TRIGGER, 0, (1, 2), trigger=trigger)


class TestTrigger:
    STEPS = ((0, 0), (1, 0), (1, 0), (2, 0), (0, 0), (1, q.BAD), (0, 0), (3, 0))

    @pytest.mark.parametrize(
        ("edge", "expected"),
        [
            (Edge.RISING, [1, 7]),
            (Edge.FALLING, [4]),
            (Edge.EITHER, [1, 4, 7]),
            (Edge.CHANGE, [1, 3, 4, 7]),
        ],
    )
    def test_edges(self, edge: Edge, expected: list[int]) -> None:
        """The first value is none, a Bad one is none; what follows it is compared with the last usable."""
        trigger = Trigger(edge)
        assert [i for i, step in enumerate(self.STEPS) if trigger.offer(*step)] == expected

    def test_a_start_on_a_value_is_no_edge(self) -> None:
        trigger = Trigger(Edge.RISING)
        assert [trigger.offer(value, 0) for value in (1, 1, 0, 1)] == [False, False, False, True]


class TestRecordLogger:
    @pytest.fixture(autouse=True)
    def work(self) -> Iterator[None]:
        self.live, self.queue = LiveTable(list(TAGS.values()), NOW, 256), OutputQueue(100)
        self.place = StageContext(self.live, self.queue, TAGS, HISTORIES)
        yield

    def read(self, working: RecordLogger, seconds: float, lot: int, moisture: float) -> None:
        bits = np.array([lot, to_bits(moisture, ValueType.FLOAT)], np.int64)
        ts_us = NOW + round(seconds * SECOND)
        for tag_id, bit in zip((1, 2), bits, strict=True):
            slots = self.live.slots_of([tag_id])
            reading = Values(np.array([bit]), np.zeros(1, np.uint16))
            self.live.update(Readings.of(slots, ts_us, reading))
            working.on(Readings.of(slots, ts_us, reading))

    def values(self, record: Record) -> tuple[int, float]:
        return record.bits[0], float(np.array([record.bits[1]], np.int64).view(np.float64)[0])

    def test_it_holds_what_was_at_the_instant_of_the_edge(self) -> None:
        """Also when it is taken a moment later, and after several edges within one look."""
        working = RecordLogger(logger(), self.place)
        self.read(working, 0, 48_200, 12.0)
        self.read(working, 1, 48_201, 12.5)
        self.read(working, 1.1, 48_201, 13.5)
        assert working.waits_since_us == NOW + SECOND
        working.on_time(Moment(NOW + round(1.2 * SECOND), NOW + round(1.2 * SECOND), {}))
        batch, outputs = self.queue.drain()
        (record,) = [output for output in outputs if isinstance(output, Record)]
        assert (record.ts_us, record.reason) == (NOW + SECOND, "lot = 48201")
        assert self.values(record) == (48_201, 12.5)
        assert batch.series[HistoryKey(1, 2, 1)].values.tolist() == [12.5], "a point of its pen too"
        for i, lot in enumerate((48_202, 48_203, 48_204)):
            self.read(working, 2 + i / 10, lot, 11.0)
        working.on_time(Moment(NOW + 3 * SECOND, NOW + 3 * SECOND, {}))
        assert [one.reason[-5:] for one in left_in(self.queue, Record)] == ["48202", "48203", "48204"]

    def test_it_waits_for_every_reading_of_its_instant_but_not_for_ever(self) -> None:
        working = RecordLogger(logger(), self.place)
        self.read(working, 0, 1, 12.0)
        self.read(working, 1, 2, 12.0)
        working.on_time(Moment(NOW + SECOND + 300_000, NOW + SECOND, {}))
        assert left_in(self.queue, Record) == []
        working.on_time(Moment(NOW + 2 * SECOND, NOW + SECOND, {}))
        assert len(left_in(self.queue, Record)) == 1

    def test_a_person_asks_for_one(self) -> None:
        working = RecordLogger(logger(), self.place)
        working.ask(NOW + SECOND)
        working.finish()
        assert [one.reason for one in left_in(self.queue, Record)] == [BY_PERSON]

    def test_a_lot_that_changed_while_the_recorder_was_held_up_has_its_record(self) -> None:
        working = RecordLogger(logger(), self.place)
        self.read(working, 0, 1, 12.0)
        working.tear()
        self.read(working, 5, 2, 12.0)
        working.finish()
        assert [one.reason for one in left_in(self.queue, Record)] == ["lot = 2"]

    def test_a_change_while_it_is_held_off_is_none_afterwards(self) -> None:
        working = RecordLogger(logger(), self.place)
        self.read(working, 0, 1, 12.0)
        bits, slots = np.array([2], np.int64), self.live.slots_of([1])
        working.held = True
        working.on(Readings.of(slots, NOW + SECOND, Values(bits, np.zeros(1, np.uint16))))
        working.held = False
        self.read(working, 2, 2, 12.0)
        working.finish()
        assert left_in(self.queue, Record) == []

    def test_another_trigger_begins_anew_and_a_removed_one_harms_nothing(self) -> None:
        working = RecordLogger(logger(), self.place)
        self.read(working, 0, 1, 12.0)
        again = RecordLogger(logger(Edge.EITHER), self.place, working)
        self.read(again, 1, 0, 12.0)
        assert again.waits_since_us is None, "the first value of another trigger is no edge"
        nobody = StageContext(self.live, self.queue, {}, HISTORIES)
        orphan = RecordLogger(logger(), nobody)
        self.read(orphan, 2, 9, 12.0)
        assert orphan.waits_since_us is None


async def test_the_plant_is_told_after_the_commit(tmp_path: Path) -> None:
    driver, sink = FakeDriver({"lot": 1, "moisture": 12.5}), FakeSink()
    source = SourceSetup(1, "u", "Line 1", "fake", "{}", True)
    setup_ = Setup((source,), tuple(TAGS.values()), (logger(number_tag=3, reset=True),))
    recorder = Recorder(setup_, always(driver), HISTORIES, Outlet(sink, Spool(tmp_path), "t"), block=256)
    stop = asyncio.Event()
    task = asyncio.create_task(recorder.run(stop))

    def taken() -> list[Record]:
        return [record for flush in sink.flushes for record in flush.of(Record)]

    await until(lambda: sink.flushes and driver.reads > 3)
    sink.away = True
    driver.values["lot"] = 2
    await goes_on(1.0)
    assert "number" not in driver.values, "nothing is told before it is safe"
    sink.away = False
    # The trigger that is reset is another value, and so another record.
    await until(lambda: len(taken()) == 2 and driver.values.get("number") == 2)
    stop.set()
    await task
    assert [record.reason for record in taken()] == ["lot = 2", "lot = 0"]
    assert driver.values["number"] == 2
    assert driver.values["lot"] == 0, "the trigger is reset"


def test_a_full_spool_keeps_what_it_knows_of_coverage(tmp_path: Path) -> None:
    """Samples may have to be dropped; that a logger was held off since then is no sample."""
    batch = a_flush(1, 1, {}).batch
    mark = CoverageMark((HistoryKey(1, 1, 1),), NOW, GapReason.LOGGER_INHIBITED)
    spool = Spool(tmp_path, most_bytes=10, when_full=WhenFull.DROP_NEWEST)
    spool.append(Entry(1, 1, NOW, NOW, batch, (mark,)))
    assert spool.empty
    assert mark in spool.take_outputs()
    assert spool.take_outputs() == ()
    spool.close()


def test_a_record_waits_on_disk_like_any_sample(tmp_path: Path) -> None:
    record = Record(5, NOW, "lot = 2", (1, 2), (7, -(1 << 62)), (0, q.BAD))
    flush = a_flush(1, 1, {})
    spool = Spool(tmp_path)
    spool.append(Entry(1, 1, NOW, NOW, flush.batch, (record,)))
    spool.close()
    again = Spool(tmp_path)
    found = again.peek()
    assert found is not None and found.outputs == (record,)
    again.close()


class TestStore:
    def test_rows_are_typed_numbered_and_written_once(self, store: Store) -> None:
        keys = plant_with(store, [LOT, MOISTURE, NUMBER])
        numbers = {name: key.tag_id for name, key in keys.items()}
        members = (numbers["lot"], numbers["moisture"])
        logger_id = a_record_logger(store, members, ((numbers["moisture"], "Final moisture"),))
        records.ensure_tables(store)
        sink = StoreSink(store)
        epoch = sink.open_epoch("t", NOW)
        assert epoch is not None

        def flush(seq: int, *taken: Record) -> tuple[SafeRecord, ...]:
            plain = a_flush(epoch or 0, seq, {})
            return sink.commit(replace(plain, outputs=taken))

        def record(ts_us: int, lot: int, moisture: float, quality: int = 0) -> Record:
            bits = lot, to_bits(moisture, ValueType.FLOAT)
            return Record(logger_id, ts_us, f"lot = {lot}", members, bits, (0, quality))

        one = record(NOW, 2**60, 12.5)
        assert flush(1, one) == (SafeRecord(logger_id, NOW, 1),)
        assert flush(1, one) == (SafeRecord(logger_id, NOW, 1),), "repeated: the same number, no second row"
        assert [s.number for s in flush(2, record(NOW + 1, 3, 0, q.BAD), record(NOW + 2, 4, 14.5))] == [2, 3]
        with store.snapshot() as tx:
            columns = records.list_columns(tx, logger_id)
            rows = records.read_records(tx, logger_id, columns)
            figures = column_figures(tx, RecordChoice(logger_id, tuple(columns)))
            inside = records.count_records(tx, logger_id, Window(NOW + 1, NOW + 2))
        assert [c.name for c in columns] == ["lot", "Final moisture"]
        assert [(r.number, r.values) for r in rows] == [(3, (4, 14.5)), (2, (3, None)), (1, (2**60, 12.5))]
        assert rows[1].quality == (0, q.BAD)
        assert (figures[1].count, figures[1].low, figures[1].high, figures[1].mean) == (2, 12.5, 14.5, 13.5)
        assert inside == 1
