"""Runs: found by a tag, a change of value, a logger; kept through kills, spools and set clocks."""

from __future__ import annotations

import asyncio
from dataclasses import replace
from pathlib import Path

import numpy as np
import pytest

from cronaca.core import quality as q
from cronaca.core.bits import to_bits
from cronaca.core.model import SECOND, RunOrigin, RunRule, SourceSetup, Tag, ValueType, Window
from cronaca.core.outputs import RunAttribute, RunMark
from cronaca.core.readings import Readings, Values
from cronaca.core.setup.whole import Setup
from cronaca.db import Store
from cronaca.logbook import runs
from cronaca.logbook.runs import RunFilter
from cronaca.recorder.engine import Outlet, Recorder
from cronaca.recorder.live import LiveTable
from cronaca.recorder.outputs.queue import OutputQueue
from cronaca.recorder.outputs.spool import Entry, Spool
from cronaca.recorder.stages.runs import RunWatcher
from cronaca.recorder.stages.stage import Moment, StageContext
from cronaca.services.sink import StoreSink
from tests.support.application import until
from tests.support.builders import NOW, a_flush, a_tag, left_in
from tests.support.fakes import FakeDriver, FakeSink, always

LOT = a_tag("Line 1 Lot number", ValueType.INTEGER, tag_id=1)
DOOR = a_tag("Line 1 Dryer door open", ValueType.BOOLEAN, tag_id=2)
MOISTURE = a_tag("Line 1 Cooler product moisture", tag_id=3)
BY_LOT = RunRule(1, "u1", "Line 1 lot", RunOrigin.CHANGE, tag_id=1, attributes=(3,))
BY_DOOR = RunRule(2, "u2", "Door open", RunOrigin.TAG, tag_id=2)
BY_LOGGER = RunRule(3, "u3", "Trial", RunOrigin.LOGGER, logger_id=7)


class Bench:
    def __init__(self, *rules: RunRule) -> None:
        self.live = LiveTable((LOT, DOOR, MOISTURE), NOW, 256)
        self.queue = OutputQueue(100)
        self.wanted: list[int] = []
        self.watcher = RunWatcher(self.live, lambda: self.wanted)
        self.follow(*rules)

    def follow(self, *rules: RunRule, at: float = 0) -> None:
        setup = Setup((), (LOT, DOOR, MOISTURE), (), "UTC", rules)
        tags = {tag.tag_id: tag for tag in setup.tags}
        context = StageContext(self.live, self.queue, tags, {})
        self.watcher.follow(setup, context, NOW + round(at * SECOND))

    def read(self, tag: Tag, second: float, value: float, quality: int = q.GOOD) -> None:
        reading = Values(np.array([to_bits(value, tag.value_type)], np.int64), np.array([quality], np.uint16))
        at, slots = NOW + round(second * SECOND), self.live.slots_of([tag.tag_id])
        self.live.update(Readings.of(slots, at, reading))
        self.watcher.on(Readings.of(slots, at, reading))

    def marks(self, now: float, scanned: float | None = None) -> list[tuple[float, bool, str]]:
        until_us = NOW + round((now if scanned is None else scanned) * SECOND)
        self.watcher.on_time(Moment(NOW + round(now * SECOND), until_us, {}))
        return [((m.at_us - NOW) / SECOND, m.begins, m.name) for m in left_in(self.queue, RunMark)]


class TestWatcher:
    def test_a_lot_number_makes_one_run_after_the_other_and_bad_ends_none(self) -> None:
        bench = Bench(BY_LOT)
        bench.read(LOT, 1, 4711)
        bench.read(LOT, 2, 4711)
        bench.read(LOT, 3, 0, q.BAD_NO_COMMUNICATION)
        bench.read(LOT, 4, 4711)
        bench.read(LOT, 5, 4712)
        assert bench.marks(6) == [
            (1, True, "Line 1 lot 4711"), (5, False, ""), (5, True, "Line 1 lot 4712"),
        ]  # fmt: skip

    def test_while_a_tag_is_on(self) -> None:
        bench = Bench(BY_DOOR)
        for second, value in enumerate((0, 1, 1, 0, 0, 1)):
            bench.read(DOOR, second, value)
        assert bench.marks(6) == [(1, True, "Door open"), (3, False, ""), (5, True, "Door open")]

    def test_while_a_logger_is_wanted(self) -> None:
        bench = Bench(BY_LOGGER)
        for second, wanted in enumerate(([7, 8], [7], [8], [7])):
            bench.wanted = wanted
            bench.watcher.on_time(Moment(NOW + second * SECOND, NOW, {}))
        assert bench.marks(6) == [(0, True, "Trial"), (2, False, ""), (3, True, "Trial")]

    def test_its_attributes_are_those_of_the_instant_once_they_are_known(self) -> None:
        bench = Bench(BY_LOT)
        bench.read(MOISTURE, 0.5, 30.0)
        bench.read(LOT, 1, 4711)
        assert bench.marks(1.1, scanned=1) == [], "a slower source may still answer"
        bench.read(MOISTURE, 1, 12.4)
        bench.read(MOISTURE, 1.1, 12.5)
        bench.watcher.on_time(Moment(NOW + 2 * SECOND, NOW + 2 * SECOND, {}))
        (mark,) = left_in(bench.queue, RunMark)
        assert mark.attributes == (
            RunAttribute(3, int(ValueType.FLOAT), to_bits(12.4, ValueType.FLOAT), q.GOOD),
        )

    def test_a_rule_that_is_gone_ends_its_run_and_one_with_another_name_does_not(self) -> None:
        bench = Bench(BY_LOT, BY_DOOR)
        bench.read(LOT, 1, 4711)
        bench.read(DOOR, 1, 1)
        bench.marks(2)
        bench.follow(replace(BY_LOT, name="Lot"), at=3)
        assert bench.marks(4) == [(3, False, "")], "the door's run"
        bench.read(LOT, 5, 4711)
        assert bench.marks(6) == []


def listed(store: Store) -> list[tuple[str, float, float | None, bool]]:
    with store.snapshot() as tx:
        found = runs.list_runs(tx, Window(0, NOW * 2), RunFilter())
    return [
        (r.name, (r.start_us - NOW) / SECOND, None if r.end_us is None else (r.end_us - NOW) / SECOND, r.cut)
        for r in reversed(found)
    ]


def mark(second: float, *, begins: bool, name: str = "", rule: int = 1) -> RunMark:
    fact = RunAttribute(3, int(ValueType.FLOAT), to_bits(12.4, ValueType.FLOAT), q.GOOD)
    return RunMark(rule, "change", NOW + round(second * SECOND), begins, name, (fact,))


class TestStore:
    def commit(self, sink: StoreSink, epoch: int, seq: int, second: float, *marks: RunMark) -> None:
        sink.commit(replace(a_flush(epoch, seq, {}, NOW + round(second * SECOND)), outputs=marks))

    def test_a_repeated_commit_makes_no_second_run(self, store: Store) -> None:
        sink = StoreSink(store)
        epoch = sink.open_epoch("a", NOW) or 0
        for _ in range(2):
            self.commit(sink, epoch, 1, 1, mark(1, begins=True, name="Lot 1"))
        self.commit(sink, epoch, 2, 2, mark(2, begins=False), mark(2, begins=True, name="Lot 2"))
        assert listed(store) == [("Lot 1", 1, 2, False), ("Lot 2", 2, None, False)]
        with store.snapshot() as tx:
            first = runs.list_runs(tx, Window(0, NOW * 2), RunFilter())[-1]
        assert first.start_attributes == (runs.AttributeValue(3, 12.4, q.GOOD),) == first.end_attributes

    def test_a_crash_cuts_a_run_at_the_last_commit_and_says_so(self, store: Store) -> None:
        sink = StoreSink(store)
        epoch = sink.open_epoch("a", NOW) or 0
        self.commit(sink, epoch, 1, 5, mark(1, begins=True, name="Lot 1"))
        sink.close_epoch(epoch, NOW + 5 * SECOND, "stopped")
        sink.open_epoch("b", NOW + 60 * SECOND)
        assert listed(store) == [("Lot 1", 1, 5, True)]

    def test_a_set_clock_cuts_none(self, store: Store) -> None:
        sink = StoreSink(store)
        epoch = sink.open_epoch("a", NOW) or 0
        self.commit(sink, epoch, 1, 5, mark(1, begins=True, name="Lot 1"))
        sink.close_epoch(epoch, NOW + 5 * SECOND, "clock_step")
        again = sink.open_epoch("a", NOW + 900 * SECOND) or 0
        self.commit(sink, again, 1, 901, mark(901, begins=False))
        assert listed(store) == [("Lot 1", 1, 901, False)]

    def test_what_a_dead_recorder_left_in_its_spool_comes_late(self, store: Store) -> None:
        sink = StoreSink(store)
        epoch = sink.open_epoch("a", NOW) or 0
        self.commit(sink, epoch, 1, 1)
        sink.close_epoch(epoch, NOW + 1 * SECOND, "lost")
        successor = sink.open_epoch("b", NOW + 60 * SECOND) or 0
        flush = replace(
            a_flush(epoch, 2, {}, NOW + 9 * SECOND), outputs=(mark(2, begins=True, name="Lot 1"),)
        )
        sink.fill(successor, flush)
        assert listed(store) == [("Lot 1", 2, 9, True)]
        then = (mark(11, begins=False), mark(11, begins=True, name="Lot 2"))
        sink.fill(successor, replace(a_flush(epoch, 3, {}, NOW + 12 * SECOND), outputs=then))
        assert listed(store) == [("Lot 1", 2, 11, False), ("Lot 2", 11, 12, True)]


def test_marks_wait_on_disk_like_any_sample(tmp_path: Path) -> None:
    spool = Spool(tmp_path)
    begun = mark(1, begins=True, name="Lot 1")
    spool.append(Entry.of(replace(a_flush(1, 1, {}), outputs=(begun,))))
    spool.close()
    again = Spool(tmp_path).peek()
    assert again is not None
    assert again.outputs == (begun,)


async def test_on_the_running_recorder_a_lot_is_a_run(tmp_path: Path) -> None:
    device, sink = FakeDriver({LOT.name: 4711, MOISTURE.name: 12.4}), FakeSink()
    tags = [replace(one, scan_us=SECOND // 10) for one in (LOT, MOISTURE)]
    setup = Setup((SourceSetup(1, "u", "Line 1", "fake", "{}", True),), tuple(tags), (), "UTC", (BY_LOT,))
    recorder = Recorder(setup, always(device), {}, Outlet(sink, Spool(tmp_path), "t"), block=256)
    stop = asyncio.Event()
    task = asyncio.create_task(recorder.run(stop))

    def found() -> list[tuple[bool, str]]:
        return [(m.begins, m.name) for flush in sink.flushes for m in flush.of(RunMark)]

    await until(lambda: len(found()) == 1)
    device.values[LOT.name] = 4712
    await until(lambda: len(found()) == 3)
    stop.set()
    await task
    assert found() == [(True, "Line 1 lot 4711"), (False, ""), (True, "Line 1 lot 4712")]


@pytest.mark.parametrize("value", [0.5, 3.0])
def test_a_value_with_decimals_names_its_run_shortly(value: float) -> None:
    rule = replace(BY_LOT, tag_id=3)
    bench = Bench(rule)
    bench.read(MOISTURE, 1, value)
    assert bench.marks(2) == [(1, True, f"Line 1 lot {value:g}")]
