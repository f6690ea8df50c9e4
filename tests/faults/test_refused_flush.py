"""What the database refuses for good goes into the quarantine by itself; everything else is kept."""

from __future__ import annotations

import asyncio
import json
from dataclasses import replace
from pathlib import Path

import numpy as np
import pytest
from hypothesis import HealthCheck, given, settings
from hypothesis import strategies as st

from cronaca.core import quality as q
from cronaca.core.codec.batch import HistoryKey
from cronaca.core.errors import NotFound, StoreRejected, StoreUnavailable
from cronaca.core.loggers import TriggerSpec
from cronaca.core.model import (
    SECOND,
    Edge,
    Gap,
    GapReason,
    LoggerMode,
    Series,
    SourceSetup,
    ValueType,
    Window,
)
from cronaca.core.outputs import CoverageMark, Record, RunMark, SafeRecord
from cronaca.core.ports import Flush
from cronaca.core.setup.whole import Setup
from cronaca.db import Store
from cronaca.history.read.series import SeriesReader
from cronaca.logbook import records
from cronaca.plant.histories import list_histories
from cronaca.plant.loggers import insert_logger
from cronaca.plant.whole import read_setup
from cronaca.recorder.engine import Outlet, Recorder
from cronaca.recorder.outputs.quarantine import Quarantine, Refused, list_items, read_item, remove_items
from cronaca.recorder.outputs.refusal import RefusedWhole, repair
from cronaca.recorder.outputs.spool import Spool
from cronaca.services.sink import StoreSink
from tests.support.application import until
from tests.support.builders import NOW, a_flush, a_logger, a_tag, plant_with
from tests.support.fakes import FakeDriver, FakeSink, always


def one_sample(value: float, ts_us: int = NOW) -> Series:
    return Series.of(ValueType.FLOAT, [ts_us], [value])


def key(number: int) -> HistoryKey:
    return HistoryKey(1, number, 1)


class TestRepair:
    @given(st.integers(1, 40), st.data())
    @settings(suppress_health_check=[HealthCheck.function_scoped_fixture])
    def test_exactly_what_is_refused_is_taken_out(self, count: int, data: st.DataObject) -> None:
        bad = data.draw(st.sets(st.integers(1, count)))
        flush = a_flush(1, 1, {key(i): one_sample(i) for i in range(1, count + 1)})

        def probe(tried: Flush) -> None:
            if any(k.tag_id in bad for k in tried.batch.series):
                raise StoreRejected("out of range")

        repaired = repair(flush, probe)
        assert {k.tag_id for k in repaired.flush.batch.series} == set(range(1, count + 1)) - bad
        assert sorted(part.tag_ids for part in repaired.refused) == [(i,) for i in sorted(bad)]
        gaps = {gap.histories for gap in repaired.flush.of(Gap)}
        assert gaps == {(key(i),) for i in bad}, "each has a gap of its own"
        assert all(gap.reason is GapReason.NOT_STORABLE for gap in repaired.flush.of(Gap))

    def test_a_fault_of_our_own_while_storing_is_found_like_a_refusal(self) -> None:
        flush = a_flush(1, 1, {key(i): one_sample(i) for i in range(1, 9)})

        def probe(tried: Flush) -> None:
            if key(5) in tried.batch.series:
                raise OverflowError("int too big to convert")

        (refused,) = repair(flush, probe).refused
        assert refused.tag_ids == (5,)
        assert "OverflowError" in refused.reason
        assert refused.content["samples"] == [[NOW, 5.0, 0]]

    def test_of_a_record_only_the_value_that_is_refused_is_bad(self) -> None:
        record = Record(7, NOW, "asked for", (1, 2, 3), (10, 4294967295, 30), (0, 0, 0))
        flush = replace(a_flush(1, 1, {key(1): one_sample(1.0)}), outputs=(record,))

        def probe(tried: Flush) -> None:
            if any(4294967295 in one.bits for one in tried.of(Record)):
                raise StoreRejected("Out of range value for column 'c2'")

        repaired = repair(flush, probe)
        (kept,) = repaired.flush.of(Record)
        assert (kept.bits, kept.quality) == ((10, 0, 30), (0, q.BAD_OUT_OF_RANGE, 0))
        (refused,) = repaired.refused
        assert (refused.what, refused.tag_ids) == ("value of a record", (2,))
        assert refused.content["bits"] == 4294967295
        assert repaired.flush.of(Gap) == (), "its history has the value"

    def test_marks_of_runs_and_coverage_are_taken_out_alone(self) -> None:
        run = RunMark(3, "tag", NOW, True, "x", ())
        mark = CoverageMark((key(4),), NOW, None)
        flush = replace(a_flush(1, 1, {key(1): one_sample(1.0)}), outputs=(run, mark))

        def probe(tried: Flush) -> None:
            if tried.outputs:
                raise StoreRejected("no")

        repaired = repair(flush, probe)
        assert {part.what for part in repaired.refused} == {"run", "coverage"}
        assert len(repaired.flush.batch.series) == 1

    def test_when_even_nothing_is_refused_it_is_not_the_flush(self) -> None:
        def probe(_: Flush) -> None:
            raise StoreRejected("Table 'recorder_epoch' doesn't exist")

        with pytest.raises(RefusedWhole):
            repair(a_flush(1, 1, {key(1): one_sample(1.0)}), probe)

    def test_a_database_that_goes_away_meanwhile_ends_the_search(self) -> None:
        def probe(_: Flush) -> None:
            raise StoreUnavailable("db", "gone")

        with pytest.raises(StoreUnavailable):
            repair(a_flush(1, 1, {key(1): one_sample(1.0)}), probe)


class TestQuarantine:
    def test_it_outlives_a_restart_and_is_read_and_emptied_by_name(self, tmp_path: Path) -> None:
        quarantine = Quarantine(tmp_path / "quarantine")
        quarantine.put([Refused("samples", (5,), "why", 1, 2, {"samples": [[1, 2.0, 0]]})], NOW)
        again = Quarantine(tmp_path / "quarantine")
        assert again.count == 1
        assert again.newest[0].reason == "why"
        (item,) = list_items(tmp_path / "quarantine")
        assert read_item(tmp_path / "quarantine", item.name)["samples"] == [[1, 2.0, 0]]
        with pytest.raises(NotFound):
            read_item(tmp_path / "quarantine", "../../etc/passwd")
        assert remove_items(tmp_path / "quarantine") == 1
        assert list_items(tmp_path / "quarantine") == []

    def test_a_full_one_keeps_counting_and_a_broken_file_is_listed(self, tmp_path: Path) -> None:
        quarantine = Quarantine(tmp_path, most_bytes=300)
        for _ in range(5):
            quarantine.put([Refused("samples", (5,), "why", 1, 2, {})], NOW)
        assert quarantine.count == 5
        assert sum(item.size for item in list_items(tmp_path)) <= 300
        (tmp_path / "9.json").write_text("{")
        assert list_items(tmp_path)[-1].report.what == "unreadable file"

    def test_files_are_for_their_owner_alone(self, tmp_path: Path) -> None:
        Quarantine(tmp_path / "q").put([Refused("samples", (5,), "why", 1, 2, {})], NOW)
        (path,) = (tmp_path / "q").iterdir()
        assert (path.stat().st_mode & 0o777, path.parent.stat().st_mode & 0o777) == (0o600, 0o700)


async def test_a_value_no_column_takes_stops_neither_its_logger_nor_anybody_else(
    store: Store, tmp_path: Path
) -> None:
    """An unsigned register in a state tag of a record logger, on the real store; the record's table is as an
    older version made it, and one more tag has no column at all for what comes."""
    state = a_tag("state", ValueType.STATE, scan_us=SECOND // 10)
    other = a_tag("other", scan_us=SECOND // 10)
    keys = plant_with(store, [state, other], 0)
    number = keys["state"].tag_id
    with store.transaction() as tx:
        made = a_logger(
            0, "r" * 36, "lots", keys["state"].archive_id, LoggerMode.ON_TRIGGER, 0,
            (number, keys["other"].tag_id), trigger=TriggerSpec(number, Edge.CHANGE),
        )  # fmt: skip
        logger_id = insert_logger(tx, made, 0)
    records.ensure_tables(store)
    with store.transaction() as tx:
        tx.execute(f"ALTER TABLE record_{logger_id} MODIFY COLUMN c1 INT NULL")
    with store.snapshot() as tx:
        plant_setup = read_setup(tx)
        histories = {(h.key.archive_id, h.key.tag_id): (h.key, h.value_type) for h in list_histories(tx)}
    driver, quarantine = FakeDriver({"state": 0, "other": 5.0}), Quarantine(tmp_path / "quarantine")
    out = Outlet(StoreSink(store), Spool(tmp_path / "spool"), "test", quarantine=quarantine)
    recorder = Recorder(plant_setup, always(driver), histories, out, block=256)
    stop = asyncio.Event()
    task = asyncio.create_task(recorder.run(stop))
    await until(lambda: len(SeriesReader(store).read_keys([keys["state"]], Window(0, 10**16))[0].recorded))
    driver.values["state"] = 1
    await until(lambda: record_values(store, logger_id))
    driver.values["state"] = 4294967295
    await until(lambda: len(record_values(store, logger_id)) == 2)
    driver.values["state"] = 2
    await until(lambda: len(record_values(store, logger_id)) == 3)
    stop.set()
    await task
    assert record_values(store, logger_id) == [(1, 0), (None, q.BAD_OUT_OF_RANGE), (2, 0)]
    (answer,) = SeriesReader(store).read_keys([keys["state"]], Window(0, 10**16))
    assert 4294967295 in answer.recorded.values.tolist(), "its history takes every value"
    (item,) = list_items(tmp_path / "quarantine")
    assert item.report.tag_ids == (number,)
    assert "Out of range" in item.report.reason
    records.ensure_tables(store)
    with store.transaction() as tx:
        tx.execute(f"UPDATE record_{logger_id} SET c1 = 4294967295 WHERE record_no = 3")
    assert record_values(store, logger_id)[2] == (4294967295, 0), "by now the column takes it"


def record_values(store: Store, logger_id: int) -> list[tuple[int | None, int]]:
    with store.snapshot() as tx:
        return [(v, c) for v, c in tx.fetch(f"SELECT c1, q1 FROM record_{logger_id} ORDER BY record_no")]


async def test_what_is_refused_is_told_with_the_report_and_the_rest_goes_on(tmp_path: Path) -> None:
    class Picky(FakeSink):
        def _look(self, flush: Flush) -> None:
            if any(k.tag_id == 2 for k in flush.batch.series):
                raise StoreRejected("it does not fit")

        def commit(self, flush: Flush) -> tuple[SafeRecord, ...]:
            self._look(flush)
            return super().commit(flush)

        def probe(self, epoch: int, flush: Flush) -> None:
            self._look(flush)

    tags = tuple(a_tag(f"t{i}", tag_id=i, scan_us=SECOND // 10) for i in (1, 2))
    plan = Setup(
        (SourceSetup(1, "u", "Line 1", "fake", "{}", True),), tags,
        (a_logger(1, "p", "periodic", 1, LoggerMode.PERIODIC, SECOND // 10, (1, 2)),),
    )  # fmt: skip
    histories = {(1, i): (key(i), ValueType.FLOAT) for i in (1, 2)}
    sink, quarantine = Picky(), Quarantine(tmp_path / "q")
    out = Outlet(sink, Spool(tmp_path / "s"), "test", quarantine=quarantine)
    recorder = Recorder(plan, always(FakeDriver()), histories, out, block=256)
    stop = asyncio.Event()
    task = asyncio.create_task(recorder.run(stop))
    await until(lambda: len([1 for tag, *_ in sink.samples() if tag == 1]) > 15)
    stop.set()
    await task
    gaps = [gap for flush in sink.flushes for gap in flush.of(Gap)]
    assert gaps and {gap.histories for gap in gaps} == {(key(2),)}
    # The newest report was made before its own flush was stored, so what that one lost is not in it yet.
    assert 0 < sink.flushes[-1].report.quarantined <= quarantine.count
    assert sink.flushes[-1].report.quarantined >= quarantine.count - 1
    assert sink.flushes[-1].report.quarantine[0].tag_ids == (2,)
    times = np.array([ts for tag, ts, *_ in sink.samples() if tag == 1])
    assert np.diff(times).max() <= SECOND, "its neighbour goes on"
    body = json.loads(next((tmp_path / "q").glob("*.json")).read_text())
    assert body["samples"][0][1] == 0.0
