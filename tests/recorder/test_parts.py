"""The recorder's parts, each alone: queue, clock, live table, scanning, flushing, supervision."""

from __future__ import annotations

import asyncio
import os
import signal
import subprocess
import sys
import threading
import time
from collections.abc import Callable, Iterator, Sequence
from pathlib import Path

import numpy as np
import pytest

from cronaca.core import quality as q
from cronaca.core.codec.batch import HistoryKey
from cronaca.core.errors import LeaseLost, SourceUnreachable, StoreUnavailable
from cronaca.core.model import SECOND, Gap, GapReason, LoggerMode, SourceSetup, Tag, ValueType
from cronaca.core.outputs import SafeRecord
from cronaca.core.ports import Flush
from cronaca.core.readings import Readings, Values
from cronaca.main.supervisor import Supervisor
from cronaca.recorder.clock import AnchoredClock
from cronaca.recorder.devices.scan import SourceScanner
from cronaca.recorder.live import LiveTable
from cronaca.recorder.outputs.flush import Feeds, Flusher
from cronaca.recorder.outputs.queue import OutputQueue, Samples
from cronaca.recorder.outputs.spool import Spool
from cronaca.recorder.stages.periodic import PeriodicLogger
from cronaca.recorder.stages.stage import StageContext
from cronaca.worker.loop import run_loop
from tests.support.application import until
from tests.support.builders import NOW, REPORT, a_logger, a_tag
from tests.support.fakes import FakeDriver, FakeSink, FakeTime

KEY = HistoryKey(1, 1, 1)


def queue_for(most: int) -> OutputQueue:
    queue = OutputQueue(most)
    queue.position_of(KEY, ValueType.FLOAT)
    return queue


def chunk(ts_us: int, *values: float) -> Samples:
    count = len(values)
    bits = np.array(values, np.float64).view(np.int64)
    return Samples(np.zeros(count, np.intp), np.full(count, ts_us), bits, np.zeros(count, np.uint16))


def reading(*values: float, quality: int = q.GOOD) -> Values:
    return Values(np.array(values, np.float64).view(np.int64), np.full(len(values), quality, np.uint16))


def wait_for(condition: Callable[[], bool], seconds: float = 5.0) -> None:
    deadline = time.monotonic() + seconds
    while not condition():
        assert time.monotonic() < deadline, "it did not happen in time"
        time.sleep(0.01)


class TestQueue:
    def test_samples_come_out_by_history_in_order(self) -> None:
        queue = queue_for(100)
        assert queue.position_of(HistoryKey(1, 2, 1), ValueType.INTEGER) == 1
        assert queue.position_of(KEY, ValueType.FLOAT) == 0, "a history keeps its place"
        for ts in (10, 20):
            bits = np.array([np.float64(ts / 4).view(np.int64), ts])
            queue.put(Samples(np.array([0, 1]), np.full(2, ts), bits, np.zeros(2, np.uint16)))
        batch, gaps = queue.drain()
        assert batch.series[KEY].values.tolist() == [2.5, 5.0]
        assert batch.series[HistoryKey(1, 2, 1)].values.tolist() == [10, 20]
        assert gaps == ()
        assert queue.drain()[0].sample_count == 0

    def test_an_overflow_drops_the_oldest_counts_them_and_says_where(self) -> None:
        queue = queue_for(3)
        for ts in range(10):
            queue.put(chunk(ts, float(ts)))
        assert (queue.queued, queue.dropped) == (3, 7)
        batch, (gap,) = queue.drain()
        assert isinstance(gap, Gap)
        assert batch.series[KEY].ts_us.tolist() == [7, 8, 9]
        assert (gap.start_us, gap.end_us, gap.reason) == (0, 7, GapReason.QUEUE_OVERFLOW)
        assert "7 samples" in gap.detail


class TestClock:
    def test_it_follows_the_monotonic_clock_and_reports_a_step(self) -> None:
        fake = FakeTime()
        clock = AnchoredClock(lambda: fake.wall, lambda: fake.monotonic)
        fake.advance(2)
        assert clock.now_us() == fake.wall // 1000
        fake.wall -= 3_600 * 10**9
        assert clock.now_us() > fake.wall // 1000, "a step does not move it unnoticed"
        assert clock.follow_wall() == pytest.approx(-3_600 * SECOND)
        assert clock.now_us() == fake.wall // 1000

    def test_a_small_difference_is_taken_up_slowly(self) -> None:
        fake = FakeTime()
        clock = AnchoredClock(lambda: fake.wall, lambda: fake.monotonic)
        fake.wall += 200 * 10**6
        assert clock.follow_wall() == 0
        assert 0 < clock.now_us() - (fake.wall // 1000 - 200_000) <= 10_000


class TestLive:
    def table(self) -> LiveTable:
        return LiveTable([a_tag("a", tag_id=1), a_tag("b", tag_id=300)], NOW, 256)

    def test_before_the_first_reading_a_tag_waits(self) -> None:
        live = self.table()
        assert live.at(live.slots_of([1]), NOW).quality.tolist() == [q.BAD_WAITING_FOR_INITIAL_DATA]

    def test_a_tick_never_takes_a_value_from_after_it(self) -> None:
        live = self.table()
        slots = live.slots_of([1])
        live.update(Readings.of(slots, NOW + 900_000, reading(1.0)))
        live.update(Readings.of(slots, NOW + 1_100_000, reading(2.0)))
        assert live.at(slots, NOW + SECOND).bits.view(np.float64).tolist() == [1.0]

    def test_nor_does_one_that_is_looked_at_a_second_later_on_the_quickest_scan(self) -> None:
        live = self.table()
        slots = live.slots_of([1])
        for i in range(40):
            live.update(Readings.of(slots, NOW + i * 50_000, reading(float(i))))
        found = [live.at(slots, NOW + i * 50_000).bits.view(np.float64)[0] for i in range(20, 40)]
        assert found == [float(i) for i in range(20, 40)]

    def test_before_all_that_is_remembered_the_oldest_stands(self) -> None:
        live = self.table()
        slots = live.slots_of([1])
        for i in range(40):
            live.update(Readings.of(slots, NOW + i * 50_000, reading(float(i))))
        assert live.at(slots, NOW).bits.view(np.float64)[0] == 16.0

    def test_an_old_value_is_not_called_good(self) -> None:
        live = self.table()
        slots = live.slots_of([1])
        live.update(Readings.of(slots, NOW, reading(1.0)))
        assert live.at(slots, NOW + 3 * SECOND).quality.tolist() == [q.GOOD]
        assert live.at(slots, NOW + 4 * SECOND).quality.tolist() == [q.UNCERTAIN_LAST_USABLE]

    def test_whole_blocks_are_handed_out_when_one_tag_changed(self) -> None:
        live = self.table()
        assert live.take_changed().tag_ids.tolist() == [1, 300]
        assert live.take_changed().tag_ids.tolist() == []
        live.update(Readings.of(live.slots_of([300]), NOW, reading(1.0)))
        assert live.take_changed().tag_ids.tolist() == [300]


class TestPeriodicLogger:
    def test_a_tick_is_looked_at_after_its_grace_and_missed_ones_are_not_invented(self) -> None:
        tag = a_tag("a", tag_id=1)
        live = LiveTable([tag], NOW, 256)
        queue = queue_for(100)
        place = StageContext(live, queue, {1: tag}, {(1, 1): (KEY, ValueType.FLOAT)})
        logger = PeriodicLogger(a_logger(1, "u", "n", 1, LoggerMode.PERIODIC, SECOND, (1,)), place, NOW)
        live.update(Readings.of(live.slots_of([1]), NOW + SECOND, reading(5.0)))
        logger.record_due(NOW + SECOND + 200_000)
        assert queue.queued == 0
        logger.record_due(NOW + SECOND + 260_000)
        logger.record_due(NOW + 5 * SECOND + 260_000)
        batch, gaps = queue.drain()
        assert gaps == (), "held up for a moment is no hole"
        assert batch.series[KEY].ts_us.tolist() == [NOW + one * SECOND for one in (1, 2, 5)]
        assert batch.series[KEY].quality.tolist() == [q.GOOD, *[q.UNCERTAIN_LAST_USABLE] * 2]

    def test_a_fault_that_began_at_a_missed_tick_is_recorded_and_one_that_lasts_is_told_once(self) -> None:
        tag = a_tag("a", tag_id=1)
        live = LiveTable([tag], NOW, 256)
        queue = queue_for(100)
        place = StageContext(live, queue, {1: tag}, {(1, 1): (KEY, ValueType.FLOAT)})
        logger = PeriodicLogger(a_logger(1, "u", "n", 1, LoggerMode.PERIODIC, SECOND, (1,)), place, NOW)
        slots, bad = live.slots_of([1]), Values(np.zeros(1, np.int64), np.array([q.BAD_NO_COMMUNICATION]))
        live.update(Readings.of(slots, NOW + SECOND, reading(5.0)))
        logger.record_due(NOW + SECOND + 260_000)
        live.update(Readings.of(slots, NOW + 2 * SECOND, bad))
        live.update(Readings.of(slots, NOW + 3 * SECOND, reading(6.0)))
        logger.record_due(NOW + 3 * SECOND + 260_000)  # the tick at 2 s was missed
        live.update(Readings.of(slots, NOW + 4 * SECOND, bad))
        logger.record_due(NOW + 4 * SECOND + 260_000)
        logger.record_due(NOW + 6 * SECOND + 260_000)
        series = queue.drain()[0].series[KEY]
        assert series.ts_us.tolist() == [NOW + one * SECOND for one in (1, 2, 3, 4)]
        assert q.is_bad(series.quality).tolist() == [False, True, False, True]

    def test_ticks_missed_for_longer_than_is_tolerated_are_a_gap_of_its_own_tags(self) -> None:
        tag = a_tag("a", tag_id=1)
        live = LiveTable([tag], NOW, 256)
        queue = queue_for(100)
        place = StageContext(live, queue, {1: tag}, {(1, 1): (KEY, ValueType.FLOAT)})
        setup = a_logger(1, "u", "n", 1, LoggerMode.PERIODIC, SECOND, (1,), late_us=2 * SECOND)
        logger = PeriodicLogger(setup, place, NOW)
        live.update(Readings.of(live.slots_of([1]), NOW + SECOND, reading(5.0)))
        for seconds in (1, 3, 9):
            logger.record_due(NOW + seconds * SECOND + 260_000)
        batch, gaps = queue.drain()
        assert batch.series[KEY].ts_us.tolist() == [NOW + one * SECOND for one in (1, 2, 3, 9)]
        assert [(g.start_us, g.end_us, g.reason, g.histories) for g in gaps if isinstance(g, Gap)] == [
            (NOW + 4 * SECOND, NOW + 9 * SECOND, GapReason.RECORDER_LATE, (KEY,))
        ]


class TestScanner:
    async def test_it_scans_on_the_clock_marks_a_loss_once_and_recovers_by_itself(self) -> None:
        tag = a_tag("a", tag_id=1, scan_us=SECOND // 20)
        live, driver, seen = LiveTable([tag], NOW, 256), FakeDriver({"a": 7.0}), []

        def on_readings(found: Readings) -> None:
            seen.append((int(found.ts_us.max()), int(found.quality[0])))

        async def quick(seconds: float) -> None:
            await asyncio.sleep(min(seconds, 0.05))

        source = SourceSetup(1, "u", "Line 1", "fake", "{}", True)
        scanner = SourceScanner(source, driver, [tag], live, on_readings, AnchoredClock(), quick)

        def state() -> str:
            return scanner.report.state.value

        task = asyncio.create_task(scanner.run())
        await until(lambda: state() == "up" and len(seen) >= 6)
        off = sum(ts % (SECOND // 20) != 0 for ts, quality in seen if quality == q.GOOD)
        assert off == scanner.late_scans, "stamped with the tick, not with the answer, unless it was late"
        assert off < len(seen)
        driver.up = False
        await until(lambda: state() == "down" and driver.connects > 2)
        assert scanner.report.detail == "no connection to the fake"
        assert [quality for _, quality in seen].count(q.BAD_NO_COMMUNICATION) == 1
        driver.up = True
        await until(lambda: state() == "up" and seen[-1][1] == q.GOOD)
        task.cancel()


class Silent(FakeDriver):
    """Takes connections and never answers."""

    async def connect(self) -> None:
        self.connects += 1


async def test_a_device_that_connects_and_is_silent_stays_down() -> None:
    tag = a_tag("a", tag_id=1, scan_us=SECOND // 50)
    live, driver, marks = LiveTable([tag], NOW, 256), Silent(), []
    driver.up = False

    async def quick(seconds: float) -> None:
        await asyncio.sleep(min(seconds, 0.02))

    source = SourceSetup(1, "u", "Line 1", "fake", "{}", True)
    scanner = SourceScanner(source, driver, [tag], live, lambda *_: marks.append(1), AnchoredClock(), quick)
    task = asyncio.create_task(scanner.run())
    await asyncio.sleep(0.15)
    since = scanner.report.since_us
    await asyncio.sleep(0.3)
    task.cancel()
    assert driver.connects > 3
    assert scanner.report.state.value == "down"
    assert scanner.report.since_us == since, "down since the first failure, not since the last try"
    assert len(marks) == 1


async def test_a_driver_that_swallows_its_cancellation_does_not_keep_the_scanner_alive() -> None:
    class Swallows(FakeDriver):
        async def read(self, tags: Sequence[Tag]) -> Values:
            try:
                await asyncio.sleep(60)
            except asyncio.CancelledError as exc:
                raise SourceUnreachable("request cancelled") from exc
            return await super().read(tags)

    tag = a_tag("a", tag_id=1, scan_us=SECOND // 50)
    live = LiveTable([tag], NOW, 256)
    source = SourceSetup(1, "u", "Line 1", "fake", "{}", True)
    scanner = SourceScanner(source, Swallows(), [tag], live, lambda *_: None, AnchoredClock())
    task = asyncio.create_task(scanner.run())
    await asyncio.sleep(0.2)
    task.cancel()
    done, _ = await asyncio.wait({task}, timeout=2)
    assert done, "it goes on after it was told to end"
    assert task.cancelled()


class TestFlusher:
    def flusher(self, sink: FakeSink, queue: OutputQueue, clock: AnchoredClock | None = None) -> Flusher:
        live = LiveTable([a_tag("a", tag_id=1)], NOW, 256)
        feeds = Feeds(
            queue, lambda safe: None, live.take_changed, live.offer_again, lambda: NOW,
            lambda rate, ms: REPORT,
        )  # fmt: skip
        return Flusher(sink, feeds, clock or AnchoredClock(), "test", self.spool)

    @pytest.fixture(autouse=True)
    def with_spool(self, tmp_path: Path) -> Iterator[None]:
        self.spool = Spool(tmp_path)
        yield
        self.spool.close()

    def test_samples_wait_while_the_database_is_away_and_come_in_order(self) -> None:
        sink, queue = FakeSink(), queue_for(1000)
        flusher = self.flusher(sink, queue)
        sink.away = True
        flusher.start(1)
        for ts in range(20):
            queue.put(chunk(ts, float(ts)))
            time.sleep(0.05)
        wait_for(lambda: sink.tries >= 2)
        assert sink.flushes == []
        sink.away = False
        wait_for(lambda: len(sink.samples()) == 20)
        flusher.stop()
        assert [ts for _, ts, _, _ in sink.samples()] == list(range(20))
        assert [flush.seq for flush in sink.flushes] == list(range(1, len(sink.flushes) + 1))
        assert sink.closed == [(1, "stopped")]

    def test_it_stops_when_another_recorder_took_over(self) -> None:
        class Lost(FakeSink):
            def commit(self, flush: Flush) -> tuple[SafeRecord, ...]:
                raise LeaseLost(flush.epoch)

        flusher = self.flusher(Lost(), queue_for(10))
        flusher.start(1)
        wait_for(lambda: not flusher.alive)
        assert isinstance(flusher.failed, LeaseLost)

    def test_told_to_stop_while_the_database_is_away_samples_stay_on_disk(self, tmp_path: Path) -> None:
        sink, queue = FakeSink(), queue_for(10)
        sink.away = True
        flusher = self.flusher(sink, queue)
        flusher.start(1)
        queue.put(chunk(7, 1.5))
        wait_for(lambda: sink.tries > 0)
        flusher.stop()
        assert flusher.failed is None and sink.closed == []
        self.spool.close()
        self.spool = Spool(tmp_path)
        sink.away = False
        again = self.flusher(sink, queue_for(10))
        again.start(2)
        wait_for(lambda: bool(sink.filled) and bool(sink.flushes))
        again.stop()
        filled = [f for _, f in sink.filled if f.batch.sample_count]
        assert [(e, f.epoch) for e, f in sink.filled if f.batch.sample_count] == [(2, 1)]
        assert filled[0].batch.series[KEY].ts_us.tolist() == [7]

    def test_what_a_cut_off_recorder_had_taken_stays_on_disk(self) -> None:
        class Lost(FakeSink):
            def commit(self, flush: Flush) -> tuple[SafeRecord, ...]:
                raise LeaseLost(flush.epoch)

        queue = queue_for(10)
        flusher = self.flusher(Lost(), queue)
        queue.put(chunk(7, 1.5))
        flusher.start(1)
        wait_for(lambda: not flusher.alive)
        assert self.spool.waiting == 1

    def test_present_values_that_did_not_arrive_are_sent_again(self) -> None:
        sink = FakeSink()
        sink.away = True
        flusher = self.flusher(sink, queue_for(10))
        flusher.start(1)
        wait_for(lambda: sink.tries > 1)
        sink.away = False
        wait_for(lambda: bool(sink.flushes))
        flusher.stop()
        assert any(len(flush.live.tag_ids) == 1 for flush in sink.flushes)

    def test_a_step_of_the_clock_opens_an_epoch(self) -> None:
        fake, sink = FakeTime(), FakeSink()
        clock = AnchoredClock(lambda: fake.wall, lambda: fake.monotonic)
        flusher = self.flusher(sink, queue_for(10), clock)
        flusher.start(sink.open_epoch("test", NOW) or 0)
        fake.wall -= 10**12
        wait_for(lambda: any(flush.epoch == 2 for flush in sink.flushes))
        flusher.stop()
        assert sink.closed == [(1, "clock_step"), (2, "stopped")]
        assert next(f.seq for f in sink.flushes if f.epoch == 2) == 1


class NothingToDrop:
    def run_all(self) -> None:
        raise AssertionError("it is not due yet")


class NothingToBuild:
    problem = ""

    def build_some(self, seconds: float, stop: Callable[[], bool]) -> int:
        return 0


class NothingDue:
    def make_due(self, beat: Callable[[], None]) -> int:
        return 0


class TestCompactor:
    def test_it_makes_reports_and_a_failure_of_them_holds_nothing_else_up(self) -> None:
        stop, done = threading.Event(), []

        class Work:
            def compact_step(self) -> int:
                done.append("compaction")
                return 0

        class Reports:
            def make_due(self, beat: Callable[[], None]) -> int:
                beat()
                done.append("reports")
                if done.count("reports") == 3:
                    stop.set()
                raise ValueError("no room on the paper")

        class Says:
            def say(self, *, failing: bool, detail: str = "") -> None:
                said.append((failing, detail))

        said: list[tuple[bool, str]] = []
        beats: list[str] = []
        run_loop(
            Work(), NothingToBuild(), NothingToDrop(), Reports(), stop, period_s=0.01, background=Says(),
            beat=lambda: beats.append("beat"),
        )  # fmt: skip
        assert done == ["compaction", "reports"] * 3
        assert said == [(True, "The work on reports failed: ValueError: no room on the paper")]
        assert beats

    def test_it_works_off_what_waits_and_outlives_a_database_that_is_away(self) -> None:
        stop = threading.Event()
        steps: list[int] = []

        class Work:
            def compact_step(self) -> int:
                steps.append(len(steps))
                if len(steps) == 3:
                    raise StoreUnavailable("fake:1/db", "switched off")
                if len(steps) > 5:
                    stop.set()
                return int(len(steps) < 3)

        run_loop(Work(), NothingToBuild(), NothingToDrop(), NothingDue(), stop, period_s=0.01)
        assert len(steps) == 6


SLEEP = [sys.executable, "-c", "import time; time.sleep(60)"]


class TestSupervisor:
    def test_a_child_that_dies_is_started_again_and_all_end_with_it(self) -> None:
        supervisor, stop = Supervisor({"a": SLEEP}, {}), threading.Event()
        supervisor.start()
        watcher = threading.Thread(target=supervisor.watch, args=(stop, 0.02))
        watcher.start()
        first = supervisor.pid_of("a")
        assert first is not None
        os.kill(first, signal.SIGKILL)
        wait_for(lambda: supervisor.pid_of("a") not in (None, first))
        stop.set()
        watcher.join()
        supervisor.stop()
        assert supervisor.pid_of("a") is None

    def test_children_die_with_a_parent_killed_by_surprise(self) -> None:
        program = (
            "import sys, time; sys.path[:0] = ['src']\n"
            "from cronaca.main.supervisor import Supervisor\n"
            f"s = Supervisor({{'a': {SLEEP!r}}}, {{}}); s.start()\n"
            "print(s.pid_of('a'), flush=True); time.sleep(60)"
        )
        parent = subprocess.Popen([sys.executable, "-c", program], stdout=subprocess.PIPE, text=True)
        assert parent.stdout is not None
        child = int(parent.stdout.readline())
        time.sleep(0.3)  # setpriv has asked for the signal by then
        parent.kill()
        parent.wait()
        parent.stdout.close()

        def gone() -> bool:
            try:
                return Path(f"/proc/{child}/stat").read_text().split()[2] == "Z"
            except FileNotFoundError:
                return True

        wait_for(gone)
