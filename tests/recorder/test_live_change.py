"""A set-up that changes while it is at work, and rules on the running recorder."""

from __future__ import annotations

import asyncio
import time
from collections.abc import Sequence
from dataclasses import replace
from pathlib import Path

import numpy as np

from cronaca.core import quality as q
from cronaca.core.bits import to_bits
from cronaca.core.codec.batch import HistoryKey
from cronaca.core.logger_rules import replay, rule_for
from cronaca.core.loggers import Logger
from cronaca.core.model import (
    NO_RULE,
    SECOND,
    GapReason,
    Keeps,
    LoggerMode,
    RuleKind,
    RuleSpec,
    Series,
    SourceSetup,
    Tag,
    ValueType,
)
from cronaca.core.outputs import CoverageMark
from cronaca.core.ports import HistoryOf, News, Request
from cronaca.core.readings import Readings, Values
from cronaca.core.setup.whole import Setup
from cronaca.recorder.clock import AnchoredClock
from cronaca.recorder.engine import Outlet, Recorder
from cronaca.recorder.live import LiveTable
from cronaca.recorder.outputs.queue import OutputQueue
from cronaca.recorder.outputs.spool import Spool
from cronaca.recorder.stages.logger_set import LoggerSet
from cronaca.recorder.stages.on_change import ChangeLogger
from cronaca.recorder.stages.stage import StageContext
from tests.support.application import goes_on, until
from tests.support.builders import NOW, a_logger, a_tag
from tests.support.fakes import FakeDriver, FakeSink, FakeTime, always

FLOAT = ValueType.FLOAT
TAGS = {i: a_tag(f"t{i}", tag_id=i, scan_us=SECOND // 10) for i in (1, 2, 3)}
SOURCE = SourceSetup(1, "u", "Line 1", "fake", "{}", True)


def histories(*tag_ids: int) -> HistoryOf:
    return {(1, i): (HistoryKey(1, i, 1), FLOAT) for i in tag_ids}


def on_change(*tag_ids: int, rule: RuleSpec = NO_RULE, **fields: object) -> Logger:
    return a_logger(1, "l", "changes", 1, LoggerMode.ON_CHANGE, 0, tag_ids, rule, **fields)  # type: ignore[arg-type]


def undisturbed(sink: FakeSink, tag_id: int) -> list[tuple[int, float]]:
    """Time and value of the good samples of a tag, without those that end a doubtful stretch: a machine that
    stalls for some scans makes the same value be recorded again."""
    mine = sorted((t, v, quality) for tag, t, v, quality in sink.samples() if tag == tag_id)
    before = [q.GOOD, *(quality for _, _, quality in mine)]
    pairs = zip(mine, before, strict=False)
    return [(t, v) for (t, v, now), last in pairs if now == q.GOOD and last != q.UNCERTAIN_LAST_USABLE]


class FakeControl:
    """Hands out what a test puts there."""

    def __init__(self) -> None:
        self.news = News(0)
        self.answers: dict[int, str] = {}
        self.requests: list[Request] = []

    def look(self, revision: int) -> News:
        requests, self.requests = tuple(self.requests), []
        if revision == self.news.revision:
            return News(revision, requests=requests)
        return replace(self.news, requests=requests)

    def answer(self, number: int, content: str) -> None:
        self.answers[number] = content


class Counting(FakeDriver):
    """Every reading differs from the one before; 100 ms apart, so that none may be missed unnoticed."""

    def __init__(self) -> None:
        super().__init__()
        self.count = 0

    async def read(self, tags: Sequence[Tag]) -> Values:
        self.count += 1
        bits = [to_bits(float(self.count), tag.value_type) for tag in tags]
        return Values(np.array(bits, np.int64), np.full(len(tags), q.GOOD, np.uint16))


async def test_a_change_is_at_work_in_2_s_and_costs_other_tags_no_sample(tmp_path: Path) -> None:
    """Every reading of tag 1 is recorded: its values, 1, 2, 3 ..., have no hole where the set-up changed,
    although its source got another tag, its logger another member and the tag beside it another rule."""
    driver, sink, control = Counting(), FakeSink(), FakeControl()
    setup = Setup((SOURCE,), (TAGS[1], TAGS[2]), (on_change(1, 2),))
    outlet = Outlet(sink, Spool(tmp_path), "test", control)
    recorder = Recorder(setup, always(driver), histories(1, 2), outlet, block=256)
    stop = asyncio.Event()
    task = asyncio.create_task(recorder.run(stop))
    await until(lambda: len(undisturbed(sink, 1)) >= 12)
    own = ((2, RuleSpec(width=1000)),)
    control.news = News(
        7, Setup((SOURCE,), tuple(TAGS.values()), (on_change(1, 2, 3, overrides=own),)), histories(1, 2, 3)
    )
    await until(lambda: sink.flushes[-1].report.revision == 7 and len(undisturbed(sink, 3)) >= 10)
    stop.set()
    await task
    values = [v for tag, _, v, quality in sink.samples() if tag == 1 and quality == q.GOOD]
    assert values == [float(i) for i in range(int(values[0]), int(values[-1]) + 1)], "no sample is lost"
    assert len(values) > 20
    assert driver.connects == 1, "the connection stands"
    new, late = undisturbed(sink, 3), undisturbed(sink, 2)
    assert late[-1][1] <= new[1][1], "the tag with a wide deadband of its own is not"


async def test_a_stopped_logger_records_nothing_and_a_removed_source_is_closed(tmp_path: Path) -> None:
    sink, control, clock = FakeSink(), FakeControl(), AnchoredClock()
    setup = Setup((SOURCE,), (TAGS[1],), (on_change(1),))
    outlet = Outlet(sink, Spool(tmp_path), "test", control)
    recorder = Recorder(setup, always(Counting()), histories(1), outlet, block=256, clock=clock)
    stop = asyncio.Event()
    task = asyncio.create_task(recorder.run(stop))
    await until(lambda: len(sink.samples()) >= 5)
    control.news = News(2, Setup((SOURCE,), (TAGS[1],), (on_change(1, wanted=False),)), histories(1))
    await until(lambda: "stopped" in {one.state for f in sink.flushes for one in f.report.loggers})
    stopped_at = clock.now_us()
    await goes_on(1)
    control.news = News(3, Setup((), (), ()), {})
    await until(lambda: sink.flushes[-1].report.sources == ())
    flushes = len(sink.flushes)
    await until(lambda: len(sink.flushes) > flushes + 1)
    report = [f.report for f in sink.flushes]
    stop.set()
    await task
    assert [t for _, t, _, _ in sink.samples() if t > stopped_at] == []
    assert report[-1].sources == () and report[-1].loggers == ()


async def test_an_inhibit_tag_holds_off_and_the_hole_has_its_reason(tmp_path: Path) -> None:
    class Device(Counting):
        held = 0.0

        async def read(self, tags: Sequence[Tag]) -> Values:
            found = await super().read(tags)
            bits = [
                to_bits(self.held, FLOAT) if t.tag_id == 2 else b
                for t, b in zip(tags, found.bits.tolist(), strict=True)
            ]
            return Values(np.array(bits, np.int64), found.quality)

    driver, sink = Device(), FakeSink()
    setup = Setup((SOURCE,), (TAGS[1], TAGS[2]), (on_change(1, inhibit_tag=2),))
    recorder = Recorder(setup, always(driver), histories(1), Outlet(sink, Spool(tmp_path), "t"), block=256)
    stop = asyncio.Event()
    task = asyncio.create_task(recorder.run(stop))

    def states() -> set[str]:
        return {one.state for one in sink.flushes[-1].report.loggers} if sink.flushes else set()

    await until(lambda: len(sink.samples()) >= 5)
    driver.held = 1.0
    await until(lambda: states() == {"inhibited"})
    await goes_on(1)
    again_us = max(t for _, t, _, _ in sink.samples()) + SECOND // 2
    driver.held = 0.0
    await until(lambda: any(t > again_us for _, t, _, _ in sink.samples()))
    stop.set()
    await task
    marks = [mark for flush in sink.flushes for mark in flush.of(CoverageMark)]
    assert marks.pop(0).reason is None, "what an earlier recorder left is over"
    assert [mark.reason for mark in marks] == [GapReason.LOGGER_INHIBITED, None]
    held = [t for _, t, _, _ in sink.samples() if marks[0].at_us < t < marks[1].at_us - SECOND // 10]
    assert held == []
    assert any(t > marks[1].at_us for _, t, _, _ in sink.samples())


async def test_a_logger_by_the_clock_keeps_the_highest_of_its_interval(tmp_path: Path) -> None:
    """A spike of one reading between two ticks is not lost."""
    driver, sink = FakeDriver({"t1": 5.0}), FakeSink()
    logger = a_logger(1, "l", "peaks", 1, LoggerMode.PERIODIC, SECOND, (1,), keeps=Keeps.HIGH)
    setup = Setup((SOURCE,), (TAGS[1],), (logger,))
    recorder = Recorder(setup, always(driver), histories(1), Outlet(sink, Spool(tmp_path), "t"), block=256)
    stop = asyncio.Event()
    task = asyncio.create_task(recorder.run(stop))

    def good() -> list[tuple[int, float]]:
        return [(t, v) for _, t, v, quality in sink.samples() if quality == q.GOOD]

    await until(lambda: len(good()) >= 1)
    driver.values["t1"] = 99.0
    before = driver.reads
    await until(lambda: driver.reads > before)  # read once: no tick needs to fall into it
    driver.values["t1"] = 5.0
    spike_us = time.time_ns() // 1000
    await until(lambda: good()[-1][0] > spike_us + 2 * SECOND)
    stop.set()
    await task
    assert all(t % SECOND == 0 for t, _ in good())
    # A machine that stood still for a moment makes the tick Uncertain; the spike is in it all the same.
    usable = [v for _, _, v, quality in sink.samples() if quality < q.BAD]
    assert usable.count(99.0) in (1, 2) and good()[-1][1] == 5.0


async def test_a_source_is_tested_on_request(tmp_path: Path) -> None:
    control, driver = FakeControl(), FakeDriver({"": 4.5})
    place = {"address": "{}", "value_type": int(FLOAT)}
    content = '{"protocol": "fake", "config": {}, "places": [' + str(place).replace("'", '"') + "]}"
    control.requests = [Request(5, "test_source", content), Request(6, "dance", "{}")]
    outlet = Outlet(FakeSink(), Spool(tmp_path), "t", control)
    recorder = Recorder(Setup((), (), ()), always(driver), {}, outlet, block=256)
    stop = asyncio.Event()
    task = asyncio.create_task(recorder.run(stop))
    await until(lambda: control.answers.keys() >= {5, 6})
    stop.set()
    await task
    assert '"ok": true' in control.answers[5] and "4.5" in control.answers[5]
    assert "does not know" in control.answers[6]


class TestRulesAtWork:
    """The running loggers keep the very samples that a rehearsal foretells."""

    SPECS = (
        RuleSpec(),
        RuleSpec(width=2),
        RuleSpec(width=3, of_range=True),
        RuleSpec(rate_limit_us=5 * SECOND, keep_extremes=True),
        RuleSpec(rate_limit_us=3 * SECOND, stamp_kept=True, longest_silence_us=20 * SECOND),
        RuleSpec(kind=RuleKind.LINE, width=1.5),
        RuleSpec(kind=RuleKind.LINE, width=4, longest_silence_us=15 * SECOND),
    )

    def readings(self) -> Series:
        rng = np.random.default_rng(7)
        values = np.round(50 + np.cumsum(rng.normal(0, 1, 600)), 1)
        values[200:260] = values[199]
        quality = np.zeros(600, np.uint16)
        quality[300:305] = q.BAD_NO_COMMUNICATION
        return Series.of(FLOAT, NOW + np.arange(600) * SECOND, values, quality)

    def test_what_is_foretold_is_what_is_kept(self) -> None:
        readings = self.readings()
        tags = {i: a_tag(f"t{i}", tag_id=i) for i in range(1, len(self.SPECS) + 1)}
        logger = on_change(*tags, overrides=tuple(zip(tags, self.SPECS, strict=True)))
        live, queue = LiveTable(list(tags.values()), NOW, 256), OutputQueue(10**6)
        working = ChangeLogger(logger, StageContext(live, queue, tags, histories(*tags)))
        slots = live.slots_of(list(tags))
        bits = np.where(np.isnan(readings.values), 0, readings.values).view(np.int64)
        for ts, one, quality in zip(readings.ts_us.tolist(), bits.tolist(), readings.quality, strict=True):
            reading = Values(np.full(len(tags), one), np.full(len(tags), quality, np.uint16))
            working.pass_time(ts - 1)
            working.on(Readings.of(slots, ts, reading))
        working.finish()
        batch, _ = queue.drain()
        for i, spec in enumerate(self.SPECS, 1):
            assert batch.series[HistoryKey(1, i, 1)].equals(replay(rule_for(spec, tags[i]), readings)), spec

    def test_a_changed_logger_takes_over_what_its_members_have_been_through(self) -> None:
        live, queue = LiveTable([TAGS[1], TAGS[2]], NOW, 256), OutputQueue(100)
        place = StageContext(live, queue, TAGS, histories(1, 2))
        first = on_change(1, 2, rule=RuleSpec(rate_limit_us=10 * SECOND))
        working = LoggerSet(live)
        working.follow(Setup((), tuple(TAGS.values()), (first,)), place, NOW)
        slots = live.slots_of([1, 2])

        def read(seconds: int, *values: float) -> None:
            bits = np.array(values, np.float64).view(np.int64)
            reading = Values(bits, np.zeros(len(values), np.uint16))
            working.on(Readings.of(slots[: len(values)], NOW + seconds * SECOND, reading))

        read(0, 1, 1)
        read(1, 2, 2)
        fewer = replace(first, tags=(1,), name="another name")
        working.follow(Setup((), tuple(TAGS.values()), (fewer,)), place, NOW)
        batch, _ = queue.drain()
        assert batch.series[HistoryKey(1, 1, 1)].values.tolist() == [1], "2 is held on"
        assert batch.series[HistoryKey(1, 2, 1)].values.tolist() == [1, 2], "who leaves loses nothing"
        read(12, 3)
        assert queue.drain()[0].series[HistoryKey(1, 1, 1)].values.tolist() == [2, 3][:1]
        working.follow(Setup((), tuple(TAGS.values()), ()), place, NOW)
        assert queue.drain()[0].series[HistoryKey(1, 1, 1)].values.tolist() == [3]


def test_a_clock_that_was_set_does_not_stop_an_unchanged_value_from_being_known(tmp_path: Path) -> None:
    """The hole of the step is marked; what stays the same across it is recorded again behind it."""
    fake, sink = FakeTime(), FakeSink()
    clock = AnchoredClock(lambda: fake.wall, lambda: fake.monotonic)
    setup = Setup((SOURCE,), (TAGS[1],), (on_change(1),))
    outlet = Outlet(sink, Spool(tmp_path), "t")
    recorder = Recorder(setup, always(FakeDriver({"t1": 5.0})), histories(1), outlet, block=256, clock=clock)

    async def run() -> None:
        stop = asyncio.Event()
        task = asyncio.create_task(recorder.run(stop))
        for step in range(60):
            await asyncio.sleep(0.05)
            fake.advance(0.05)
            if step == 25:
                fake.wall += 3_600 * 10**9
        stop.set()
        await task

    asyncio.run(run())
    good = [t for _, t, _, quality in sink.samples() if quality == q.GOOD]
    behind = [t for t in good if t - good[0] > 3_000 * SECOND]
    # Once, or once more on each side where a scan fell into the step and its value was doubtful.
    assert 1 <= len(behind) <= 2 and len(good) - len(behind) <= 2
