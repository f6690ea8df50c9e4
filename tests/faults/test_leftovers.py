"""What a session of changes can leave behind: records without a logger, slots without a tag, damaged rows."""

from __future__ import annotations

from dataclasses import replace

import numpy as np

from cronaca.core import quality as q
from cronaca.core.loggers import LoggerSpec
from cronaca.core.model import SECOND, GapReason, LoggerMode, Series, ValueType, Window
from cronaca.core.outputs import Record
from cronaca.core.readings import Readings, Values
from cronaca.db import Store
from cronaca.history.jobs.compaction import StoreCompaction
from cronaca.history.jobs.verify import verify
from cronaca.history.read.series import SeriesReader
from cronaca.history.tables import gaps, journal
from cronaca.history.tables.journal import JournalKey
from cronaca.logbook import records
from cronaca.plant import loggers
from cronaca.plant.changes import By
from cronaca.plant.loggers import LoggerRow
from cronaca.recorder.clock import AnchoredClock
from cronaca.recorder.live import LiveTable
from cronaca.services.sink import StoreSink
from tests.support.builders import NOW, RECORD_LOGGER, a_flush, a_record_logger, a_tag, plant_with

BY = By("Operator", NOW)
FAR = Window(0, 10**16)


def test_a_triggered_logger_that_is_removed_keeps_its_records_within_reach(store: Store) -> None:
    key = plant_with(store, [a_tag("lot", ValueType.INTEGER)])["lot"]
    number = a_record_logger(store, (key.tag_id,), ())
    sink = StoreSink(store)
    assert sink.open_epoch("test", NOW) == 1
    record = Record(number, NOW, "asked for", (key.tag_id,), (4711,), (0,))
    sink.commit(replace(a_flush(1, 1, {}, NOW + SECOND), outputs=(record,)))
    with store.transaction() as tx:
        row: LoggerRow = loggers.get_row(tx, RECORD_LOGGER)
        loggers.remove_logger(tx, RECORD_LOGGER, BY)
    with store.snapshot() as tx:
        assert records.list_loggers(tx) == [(number, RECORD_LOGGER, "lots (removed)")]
        assert records.count_records(tx, number) == 1
        (column,) = records.list_columns(tx, number)
        (found,) = records.read_records(tx, number, [column])
    assert found.values == (4711,)
    spec: LoggerSpec[str] = row.spec
    assert spec.mode.kind is LoggerMode.ON_TRIGGER
    with store.transaction() as tx:
        loggers.add_logger(tx, spec, BY, RECORD_LOGGER)
    with store.snapshot() as tx:
        assert records.list_loggers(tx) == [(number, RECORD_LOGGER, "lots")], "and comes back with them"


def test_slots_of_present_values_are_used_again_but_not_at_once() -> None:
    tags = [a_tag(f"t{i}", tag_id=i) for i in range(1, 200)]
    live, now_us = LiveTable(tags[:2], NOW, 256), NOW
    for i in range(2, 199):
        now_us += 30 * SECOND
        live.follow([tags[0], tags[i]], now_us)
        slots = live.slots_of([tags[0].tag_id, tags[i].tag_id])
        assert live.at(slots[1:], now_us).quality.tolist() == [q.BAD_WAITING_FOR_INITIAL_DATA]
        live.update(Readings.of(slots, now_us, Values(np.array([7, i]), np.zeros(2, np.uint16))))
        assert live.at(slots, now_us).bits.tolist() == [7, i]
        assert live.tag_ids[slots].tolist() == [1, tags[i].tag_id]
    assert len(live.tag_ids) < 8, "it does not grow with every change"
    changed = live.take_changed()
    assert sorted(changed.tag_ids.tolist()) == [1, 199]


def test_a_journal_row_that_cannot_be_read_costs_itself(store: Store) -> None:
    """It stopped the worker for ever, and every reading with it."""
    key = plant_with(store, [a_tag("t")], 0)["t"]
    sink = StoreSink(store)
    assert sink.open_epoch("test", NOW) == 1
    for seq in range(1, 6):
        at_us = NOW + seq * SECOND
        sink.commit(a_flush(1, seq, {key: Series.of(ValueType.FLOAT, [at_us], [seq])}, at_us))
    with store.transaction() as tx:
        tx.execute("UPDATE journal SET payload = 'CB garbage' WHERE seq = 3")
    (before,) = SeriesReader(store).read_keys([key], Window(NOW, NOW + 9 * SECOND))
    assert before.recorded.values.tolist() == [1, 2, 4, 5]
    assert GapReason.DAMAGED in {gap.reason for gap in before.blanks}, "said before it is set aside"
    compaction = StoreCompaction(store, AnchoredClock())
    while compaction.compact_step():
        pass
    with store.snapshot() as tx:
        assert journal.list_uncompacted(tx) == []
        assert [key for key, _ in journal.list_damaged(tx)] == [JournalKey(1, 3)]
        (gap,) = gaps.list_gaps(tx, FAR)
    assert (gap.reason, gap.start_us, gap.end_us) == (
        GapReason.DAMAGED, NOW + 2 * SECOND, NOW + 3 * SECOND,
    )  # fmt: skip
    (after,) = SeriesReader(store).read_keys([key], Window(NOW, NOW + 9 * SECOND))
    assert after.recorded.values.tolist() == [1, 2, 4, 5]
    faults = [str(fault) for fault in verify(store, lambda _: None)]
    assert len(faults) == 1 and "journal row 1/3" in faults[0]
