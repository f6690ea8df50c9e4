"""What loggers follow: schedules, tags, intervals from a tag; and full detail around a trigger."""

from __future__ import annotations

import asyncio
from dataclasses import replace
from datetime import datetime
from pathlib import Path
from zoneinfo import ZoneInfo

import numpy as np
import pytest

from cronaca.core import quality as q
from cronaca.core.bits import to_bits
from cronaca.core.codec.batch import HistoryKey
from cronaca.core.logger_rules.schedule import is_within
from cronaca.core.loggers import Logger, TriggerSpec, WhenSpec
from cronaca.core.model import (
    SECOND,
    Edge,
    GapReason,
    LoggerMode,
    RunOrigin,
    RunRule,
    SourceSetup,
    Tag,
    ValueType,
    WeekSpan,
)
from cronaca.core.outputs import CoverageMark, Output
from cronaca.core.ports import News
from cronaca.core.readings import Readings, Values
from cronaca.core.setup.whole import Setup
from cronaca.recorder.engine import Outlet, Recorder
from cronaca.recorder.live import LiveTable
from cronaca.recorder.outputs.queue import OutputQueue
from cronaca.recorder.outputs.spool import Spool
from cronaca.recorder.stages.holding import Holding
from cronaca.recorder.stages.periodic import PeriodicLogger
from cronaca.recorder.stages.pre_post_trigger import PrePostTriggerLogger
from cronaca.recorder.stages.stage import Moment, StageContext
from tests.recorder.test_live_change import FakeControl
from tests.support.application import goes_on, until
from tests.support.builders import NOW, a_logger, a_tag, remade
from tests.support.fakes import FakeDriver, FakeSink, always

FLOAT, BOOLEAN = ValueType.FLOAT, ValueType.BOOLEAN
ROME = ZoneInfo("Europe/Rome")
A = a_tag("a", tag_id=1)
T = a_tag("t", BOOLEAN, tag_id=2)
I = a_tag("i", tag_id=3)  # noqa: E741 - an interval


def local(text: str) -> int:
    return round(datetime.fromisoformat(text).replace(tzinfo=ROME).timestamp()) * SECOND


@pytest.mark.parametrize(
    ("at", "expected"),
    [
        ("2026-03-02T05:59", False), ("2026-03-02T06:00", True), ("2026-03-02T21:59", True),
        ("2026-03-02T22:00", False), ("2026-03-07T12:00", False),
        # Saturday 22:00 to Sunday 06:00, on the night in which the clocks go forward (29 March 2026).
        ("2026-03-28T21:59", False), ("2026-03-28T22:00", True), ("2026-03-29T05:59", True),
        ("2026-03-29T06:00", False),
    ],
)  # fmt: skip
def test_a_schedule_goes_by_the_clock_on_the_wall(at: str, expected: bool) -> None:
    """2 March 2026 is a Monday, 28 March a Saturday."""
    spans = (WeekSpan((1, 2, 3, 4, 5), 360, 1320), WeekSpan((6,), 1320, 360))
    assert is_within(spans, ROME, local(at)) is expected


def test_a_span_that_ends_where_it_starts_is_a_whole_day() -> None:
    spans = (WeekSpan((7,), 0, 0),)
    assert is_within(spans, ROME, local("2026-03-29T23:59"))
    assert not is_within(spans, ROME, local("2026-03-30T00:00"))


class Stand:
    """Loggers on a live table that a test sets."""

    def __init__(self, *tags: Tag) -> None:
        self.tags = tags
        self.live = LiveTable(tags, NOW, 256)
        self.queue = OutputQueue(10_000)
        self.left: tuple[Output, ...] = ()
        found = {(1, t.tag_id): (HistoryKey(1, t.tag_id, 1), t.value_type) for t in tags}
        self.place = StageContext(self.live, self.queue, {t.tag_id: t for t in tags}, found)

    def reading(self, tag: Tag, value: float, quality: int = q.GOOD) -> Values:
        return Values(np.array([to_bits(value, tag.value_type)], np.int64), np.array([quality], np.uint16))

    def set(self, tag: Tag, second: float, value: float, quality: int = q.GOOD) -> None:
        at = NOW + round(second * SECOND)
        self.live.update(Readings.of(self.live.slots_of([tag.tag_id]), at, self.reading(tag, value, quality)))

    def kept(self, tag: Tag) -> list[tuple[float, float]]:
        batch, self.left = self.queue.drain()
        series = batch.series.get(HistoryKey(1, tag.tag_id, 1))
        rows = [] if series is None else zip(series.ts_us.tolist(), series.values.tolist(), strict=True)
        return [((t - NOW) / SECOND, v) for t, v in rows]


def logger(**fields: object) -> Logger:
    return a_logger(1, "l", "one", 1, LoggerMode.ON_CHANGE, 0, (1,), **fields)  # type: ignore[arg-type]


class TestHolding:
    def look(
        self, stand: Stand, one: Logger, holding: Holding, second: float
    ) -> list[tuple[str, str] | None]:
        found = holding.look([one], NOW + round(second * SECOND))
        return [None if hold is None else (hold.state, hold.why) for _, hold in found]

    def test_a_tag_says_whether_it_is_wanted_and_a_failed_one_changes_nothing(self) -> None:
        stand, one = Stand(A, T), logger(when=WhenSpec(tag=2))
        holding = Holding(stand.live)
        holding.follow(Setup((), stand.tags, (one,)), [1])
        assert self.look(stand, one, holding, 0) == [], "no value yet: it records"
        stand.set(T, 1, 0)
        assert self.look(stand, one, holding, 1) == [("paused", "tag")]
        stand.set(T, 2, 0, q.BAD_NO_COMMUNICATION)
        assert self.look(stand, one, holding, 2) == []
        assert 1 in holding, "it stays as it was"
        stand.set(T, 3, 1)
        assert self.look(stand, one, holding, 3) == [None]
        stand.set(T, 4, 0, q.BAD_NO_COMMUNICATION)
        assert self.look(stand, one, holding, 4) == []
        assert 1 not in holding

    def test_a_schedule_pauses_in_the_plants_zone_and_an_inhibit_tag_comes_first(self) -> None:
        night = WhenSpec(spans=(WeekSpan((1, 2, 3, 4, 5, 6, 7), 0, 1),))
        stand, one = Stand(A, T), logger(when=night, inhibit_tag=2)
        holding = Holding(stand.live)
        holding.follow(Setup((), stand.tags, (one,), "Europe/Rome"), [1])
        noon = (local("2026-03-02T12:00") - NOW) / SECOND
        midnight = (local("2026-03-02T00:00") - NOW) / SECOND
        assert self.look(stand, one, holding, noon) == [("paused", "schedule")]
        assert self.look(stand, one, holding, midnight) == [None]
        stand.set(T, midnight, 1)
        assert self.look(stand, one, holding, midnight) == [("inhibited", "inhibit tag")]


class TestInterval:
    def test_it_comes_from_a_tag_and_the_last_usable_one_stays(self) -> None:
        stand = Stand(A, I)
        when = WhenSpec(interval_tag=3)
        one = a_logger(1, "l", "one", 1, LoggerMode.PERIODIC, 2 * SECOND, (1,), when=when)
        working = PeriodicLogger(one, stand.place, NOW)
        stand.set(A, 0, 7)

        def run(begin: float, end: float) -> list[float]:
            for step in range(round((end - begin) * 10)):
                now = NOW + round((begin + step / 10) * SECOND)
                working.look_at_interval(now)
                working.record_due(now)
            return [t for t, _ in stand.kept(A)]

        assert run(0, 6.5) == [2, 4, 6]
        stand.set(I, 6.5, 0.5)
        assert run(6.5, 8.4) == [7, 7.5, 8]
        assert working.refused == ""
        for value, quality, says in ((0, q.GOOD, "says 0 s"), (1, q.BAD_NO_COMMUNICATION, "no usable value")):
            stand.set(I, 8.5, value, quality)
            assert run(8.5, 9.4)[-1] == 9
            assert says in working.refused
            assert "0.5 s stays" in working.refused


class TestAround:
    def around(self, stand: Stand, before: float, after: float) -> PrePostTriggerLogger:
        spec = TriggerSpec(tag=2, edge=Edge.RISING)
        one = a_logger(
            1, "l", "one", 1, LoggerMode.AROUND, 0, (1,), trigger=spec, before_us=round(before * SECOND),
            after_us=round(after * SECOND),
        )  # fmt: skip
        found = PrePostTriggerLogger(one, stand.place)
        found.on_time(Moment(NOW, NOW, {}))
        return found

    def feed(
        self, stand: Stand, working: PrePostTriggerLogger, second: float, value: float, trigger: float
    ) -> None:
        at = NOW + round(second * SECOND)
        slots = stand.live.slots_of([1, 2])
        bits = np.array([to_bits(value, FLOAT), int(trigger)], np.int64)
        working.on(Readings.of(slots, at, Values(bits, np.zeros(2, np.uint16))))
        working.on_time(Moment(at, at, {}))

    def test_full_detail_from_before_to_after_and_nothing_else(self) -> None:
        stand = Stand(A, T)
        working = self.around(stand, 2, 3)
        for second in range(20):
            self.feed(stand, working, second, second * 10, second in (8, 9))
        assert stand.kept(A) == [(s, s * 10.0) for s in range(6, 11)]
        marks = [((m.at_us - NOW) / SECOND, m.reason) for m in stand.left if isinstance(m, CoverageMark)]
        waiting = GapReason.WAITING_FOR_TRIGGER
        assert marks == [(0, waiting), (6, None), (11, waiting)]
        assert working.waits

    def test_an_edge_inside_makes_it_longer(self) -> None:
        stand = Stand(A, T)
        working = self.around(stand, 1, 3)
        for second in range(20):
            self.feed(stand, working, second, second, second in (8, 10))
        assert [t for t, _ in stand.kept(A)] == list(range(7, 13))

    def test_a_person_may_ask_for_it_and_a_change_of_the_set_up_keeps_what_is_held(self) -> None:
        stand = Stand(A, T)
        working = self.around(stand, 3, 1)
        for second in range(6):
            self.feed(stand, working, second, second, 0)
        again = PrePostTriggerLogger(replace(working.setup, name="other"), stand.place, working)
        again.ask(NOW + 5 * SECOND)
        assert [t for t, _ in stand.kept(A)] == [2, 3, 4, 5]


async def test_on_the_running_recorder_a_tag_pauses_a_logger_and_says_why(tmp_path: Path) -> None:
    device = FakeDriver({"a": 0, "t": 1})
    source = SourceSetup(1, "u", "Line 1", "fake", "{}", True)
    tags = [replace(one, scan_us=SECOND // 10) for one in (A, T)]
    found = {(1, t.tag_id): (HistoryKey(1, t.tag_id, 1), t.value_type) for t in tags}
    sink = FakeSink()
    one = a_logger(1, "l", "one", 1, LoggerMode.PERIODIC, SECOND // 10, (1,), when=WhenSpec(tag=2))
    setup = Setup((source,), tuple(tags), (one,))
    recorder = Recorder(setup, always(device), found, Outlet(sink, Spool(tmp_path), "t"), block=256)
    stop = asyncio.Event()
    task = asyncio.create_task(recorder.run(stop))
    await until(lambda: len(sink.samples()) >= 5)
    device.values["t"] = 0
    await until(lambda: sink.flushes[-1].report.loggers[0].state == "paused")
    before = len(sink.samples())
    await goes_on(1)
    assert len(sink.samples()) == before, "nothing is recorded while it is paused"
    report = sink.flushes[-1].report.loggers[0]
    assert (report.state, report.why) == ("paused", "tag")
    assert report.reason == "t disables it at present."
    device.values["t"] = 1
    await until(lambda: len(sink.samples()) > before)
    stop.set()
    await task
    reasons = [mark.reason for flush in sink.flushes for mark in flush.of(CoverageMark)]
    assert reasons[-2:] == [GapReason.LOGGER_PAUSED, None]


async def test_a_source_that_goes_takes_triggers_and_runs_along_and_stops_nobody(tmp_path: Path) -> None:
    """Its tags become Bad as it goes: by then they have no place any more, and what watched them is still
    there."""
    device, sink, control = FakeDriver({"a": 1, "t": 0}), FakeSink(), FakeControl()
    gone, stays = (SourceSetup(n, f"u{n}", f"Line {n}", "fake", "{}", True) for n in (1, 2))
    tags = [replace(T, scan_us=SECOND // 10), replace(A, source_id=2, scan_us=SECOND // 10)]
    found = {(1, t.tag_id): (HistoryKey(1, t.tag_id, 1), t.value_type) for t in tags}
    spec = TriggerSpec(tag=2, edge=Edge.RISING)
    lots = a_logger(1, "l1", "records", 1, LoggerMode.ON_TRIGGER, 0, (1,), trigger=spec)
    near = a_logger(2, "l2", "around", 1, LoggerMode.AROUND, 0, (1,), trigger=spec, after_us=SECOND)
    every = a_logger(3, "l3", "every", 1, LoggerMode.PERIODIC, SECOND // 10, (1,))
    rule = RunRule(1, "r", "Contact", RunOrigin.TAG, tag_id=2)
    setup = Setup((gone, stays), tuple(tags), (lots, near, every), "UTC", (rule,))
    recorder = Recorder(setup, always(device), found, Outlet(sink, Spool(tmp_path), "t", control), block=256)
    stop = asyncio.Event()
    task = asyncio.create_task(recorder.run(stop))
    await until(lambda: len(sink.samples()) >= 5)
    untriggered = [remade(one, trigger=TriggerSpec()) for one in (lots, near)]
    control.news = News(7, Setup((stays,), (tags[1],), (*untriggered, every), "UTC", (rule,)), found)
    await until(lambda: sink.flushes[-1].report.revision == 7)
    before = len(sink.samples())
    await until(lambda: task.done() or len(sink.samples()) > before + 5)
    assert not task.done(), "the recorder goes on"
    stop.set()
    await task
