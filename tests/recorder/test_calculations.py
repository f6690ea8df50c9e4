"""Calculated tags on the running recorder: evaluated once all inputs are known, kept over restarts."""

from __future__ import annotations

import asyncio
import json
from pathlib import Path

import numpy as np
import pytest

from cronaca.core import quality as q
from cronaca.core.bits import to_bits
from cronaca.core.codec.batch import HistoryKey
from cronaca.core.errors import StoreUnavailable
from cronaca.core.formulas import Formula, evaluate_history, parse_formula
from cronaca.core.model import SECOND, LoggerMode, Series, SourceSetup, Tag, ValueType, Window
from cronaca.core.ports import HistoryOf, LastKnown, LiveValues, News, Remembered, Request
from cronaca.core.readings import Readings, Values
from cronaca.core.setup.whole import Setup
from cronaca.recorder.engine import Outlet, Recorder
from cronaca.recorder.live import LiveTable
from cronaca.recorder.outputs.queue import OutputQueue
from cronaca.recorder.outputs.spool import Spool
from cronaca.recorder.stages.calculations import Calculator
from cronaca.recorder.stages.stage import Moment, StageContext
from tests.recorder.test_live_change import Counting, FakeControl
from tests.support.application import until, wait_for
from tests.support.builders import NOW, a_logger, a_tag
from tests.support.fakes import FakeDriver, FakeSink, always

FLOAT, INTEGER, BOOLEAN = ValueType.FLOAT, ValueType.INTEGER, ValueType.BOOLEAN
DEVICE_1 = SourceSetup(1, "s1", "Line 1 controller", "fake", "{}", True)
DEVICE_2 = SourceSetup(2, "s2", "Line 2 controller", "fake", "{}", True)
CALCULATED = SourceSetup(3, "s3", "Calculated", "calculated", "{}", True)
A = a_tag("a", tag_id=1, source_id=1)
B = a_tag("b", tag_id=2, source_id=2)


def calculated(number: int, value_type: ValueType = FLOAT, **place: object) -> Tag:
    return a_tag(
        f"c{number}", value_type, tag_id=number, source_id=3, address=json.dumps(place), stepped=True
    )


def formula(number: int, text: str, **inputs: Tag) -> Tag:
    named = {name: tag.uid for name, tag in inputs.items()}
    return calculated(number, kind="formula", formula=text, inputs=named)


def setup_of(*tags: Tag, enabled: bool = True) -> Setup:
    source = SourceSetup(3, "s3", "Calculated", "calculated", "{}", enabled)
    return Setup((DEVICE_1, DEVICE_2, source), tags, ())


def context_of(live: LiveTable, setup: Setup) -> StageContext:
    return StageContext(live, OutputQueue(10), {tag.tag_id: tag for tag in setup.tags}, {})


class Bench:
    """A calculator with a live table, fed by hand."""

    def __init__(self, *tags: Tag) -> None:
        self.live = LiveTable(tags, NOW, 256)
        self.calculator = Calculator(self.live)
        self.follow(*tags)

    def follow(self, *tags: Tag, enabled: bool = True, now_us: int = NOW) -> list[Readings]:
        self.live.follow(tags, now_us)
        setup = setup_of(*tags, enabled=enabled)
        return self.calculator.follow(setup, context_of(self.live, setup), now_us)

    def read(self, tag: Tag, second: float, value: float, quality: int = q.GOOD) -> None:
        reading = Values(np.array([to_bits(value, tag.value_type)], np.int64), np.array([quality], np.uint16))
        at = NOW + round(second * SECOND)
        slots = self.live.slots_of([tag.tag_id])
        self.calculator.on(Readings.of(slots, at, reading))
        self.live.update(Readings.of(slots, at, reading))

    def step(self, now: float, **known: float) -> list[tuple[float, int, float, int]]:
        """(second, tag, value, quality) of what comes out."""
        until = {int(name[1:]): NOW + round(second * SECOND) for name, second in known.items()}
        found = []
        now_us = NOW + round(now * SECOND)
        for made in self.calculator.on_time(Moment(now_us, now_us, until)):
            for slot, at, bits, quality in zip(
                made.slots, made.ts_us.tolist(), made.bits, made.quality, strict=True
            ):
                kind = self.live.types[slot]
                value = float(np.int64(bits).view(np.float64)) if kind == FLOAT else float(bits)
                found.append(((at - NOW) / SECOND, int(self.live.tag_ids[slot]), value, int(quality)))
        return found


def test_it_waits_until_every_input_is_known_up_to_the_instant() -> None:
    """Two devices scan the same tick, one answers later: one result of both new values, not two."""
    product = formula(9, "a * b", a=A, b=B)
    bench = Bench(A, B, product)
    bench.step(0, s1=0.001, s2=0.001)
    bench.read(A, 1, 3)
    assert bench.step(1.1, s1=2, s2=1) == []
    bench.read(B, 1, 4)
    assert bench.step(1.2, s1=2, s2=2) == [(1.0, 9, 12.0, q.GOOD)]
    assert bench.step(1.3, s1=2, s2=2) == []


def test_a_source_that_is_slow_does_not_hold_it_up_for_ever() -> None:
    product = formula(9, "a * b", a=A, b=B)
    bench = Bench(A, B, product)
    bench.read(B, 0.5, 4)
    bench.read(A, 1, 3)
    bench.step(1, s1=0.6, s2=0.6)
    assert bench.step(3.5, s1=9, s2=0.6) == []
    assert bench.step(4.5, s1=9, s2=0.6) == [(1.0, 9, 12.0, q.GOOD)]


def test_one_that_needs_another_comes_in_the_same_step_whatever_their_order_in_the_list() -> None:
    first, then = formula(9, "a + 1", a=A), formula(8, "x * 10", x=a_tag("c9"))
    bench = Bench(A, then, first)
    bench.step(0, s1=0.001)
    bench.read(A, 1, 2)
    assert bench.step(2, s1=2) == [(1.0, 9, 3.0, q.GOOD), (1.0, 8, 30.0, q.GOOD)]


def test_an_unchanged_input_is_known_from_the_start() -> None:
    bench = Bench(A, B)
    bench.read(B, -1, 4)
    product = formula(9, "a * b", a=A, b=B)
    bench.follow(A, B, product)
    bench.read(A, 1, 3)
    assert bench.step(2, s1=2, s2=2)[-1] == (1.0, 9, 12.0, q.GOOD)


def test_a_bad_input_makes_it_bad_and_never_zero() -> None:
    bench = Bench(A, formula(9, "a * 2", a=A))
    bench.step(0, s1=0.001)
    bench.read(A, 1, 0, q.BAD_NO_COMMUNICATION)
    ((_, _, value, quality),) = bench.step(2, s1=2)
    assert quality == q.BAD_NO_COMMUNICATION
    assert np.isnan(value)


def test_one_whose_input_is_gone_is_bad_and_the_others_go_on() -> None:
    lost, stays = formula(9, "b + 1", b=B), formula(8, "a + 1", a=A)
    above = formula(7, "x + 1", x=a_tag("c9"))
    bench = Bench(A, B, lost, stays, above)
    said = bench.follow(A, lost, stays, above, now_us=NOW + SECOND)
    bad = {int(bench.live.tag_ids[r.slots[0]]) for r in said if r.quality[0] == q.BAD_CONFIGURATION}
    assert bad == {9, 7}
    assert "a tag it needs is gone" in bench.calculator.unusable([9])
    bench.read(A, 2, 1)
    assert (2.0, 8, 2.0, q.GOOD) in bench.step(3, s1=3)


def test_switched_off_it_is_bad() -> None:
    product = formula(9, "a + 1", a=A)
    bench = Bench(A, product)
    (said,) = bench.follow(A, product, enabled=False)
    assert bench.live.tag_ids[said.slots[0]] == 9
    assert said.quality[0] == q.BAD_NO_COMMUNICATION


def test_a_change_of_another_tag_leaves_its_memory_alone() -> None:
    mean, other = formula(9, "average(a, 10 s)", a=A), formula(8, "a + 1", a=A)
    bench = Bench(A, mean)
    for second, value in ((0, 10), (1, 10), (2, 40)):
        bench.read(A, second, value)
    bench.step(3, s1=3)
    bench.follow(A, mean, other, now_us=NOW + 3 * SECOND)
    bench.read(A, 4, 40)
    values = [value for at, tag, value, _ in bench.step(5, s1=5) if (at, tag) == (4.0, 9)]
    assert values == [pytest.approx(25.0)], "(2 s of 10 and 2 s of 40) / 4 s"


def test_what_looks_back_changes_while_its_input_does_not() -> None:
    bench = Bench(A, formula(9, "held(a > 0)", a=A))
    bench.read(A, 0, 1)
    bench.step(0.5, s1=0.5)
    found = [bench.step(s + 0.1, s1=s + 0.1) for s in (1, 2, 3)]
    assert [one[0][2] for one in found] == [1.0, 2.0, 3.0]


class TestMeters:
    COUNTER = calculated(9, INTEGER, kind="counter", inputs={"input": A.uid, "reset": B.uid})

    def test_a_person_sets_it_and_only_it(self) -> None:
        bench = Bench(A, B, self.COUNTER, formula(8, "a", a=A))
        stands = bench.calculator.set_meter(9, 12, NOW)
        assert (bench.live.tag_ids[stands.slots[0]], stands.bits[0]) == (9, 12)
        bench.read(A, 1, 0)
        bench.read(A, 2, 1)
        assert [value for _, tag, value, _ in bench.step(3, s1=3, s2=3) if tag == 9][-1] == 13.0
        with pytest.raises(Exception, match="Only counters"):
            bench.calculator.set_meter(8, 1, NOW)

    def test_it_stands_at_once_where_it_stood(self) -> None:
        live = LiveTable((A, B, self.COUNTER), NOW, 256)
        calculator = Calculator(live)
        one = np.array([9], np.int64)
        present = LiveValues(one, np.array([INTEGER]), one, np.array([41]), np.zeros(1, np.uint16))
        calculator.restore(LastKnown(present, {}))
        setup = setup_of(A, B, self.COUNTER)
        (stands,) = calculator.follow(setup, context_of(live, setup), NOW)
        assert (stands.bits[0], stands.quality[0]) == (41, q.UNCERTAIN_LAST_USABLE)

    def test_a_changed_one_goes_on_from_where_it_stands(self) -> None:
        bench = Bench(A, B, self.COUNTER)
        bench.read(A, 1, 0)
        bench.read(A, 2, 1)
        bench.step(3, s1=3, s2=3)
        either = calculated(9, INTEGER, kind="counter", edge="either", inputs={"input": A.uid})
        bench.follow(A, B, either, now_us=NOW + 3 * SECOND)
        bench.read(A, 4, 0)
        assert [value for _, tag, value, _ in bench.step(5, s1=5) if tag == 9][-1] == 2.0

    def test_a_set_clock_and_a_hole_neither_stop_nor_bridge_it(self) -> None:
        meter = calculated(9, FLOAT, kind="hours", per="s", inputs={"input": A.uid})
        bench = Bench(A, meter)
        bench.read(A, 0, 1)
        bench.read(A, 2, 1)
        bench.step(2.5, s1=2.5)
        bench.calculator.tear(NOW - 3600 * SECOND)
        bench.read(A, -3599, 1)
        bench.read(A, -3598, 1)
        found = [value for _, tag, value, _ in bench.step(-3597, s1=-3597) if tag == 9]
        assert found[-1] == pytest.approx(2 + 1 + 1, abs=1.01)
        assert found[-1] < 6


def histories(*tags: Tag) -> HistoryOf:
    return {(1, t.tag_id): (HistoryKey(1, t.tag_id, 1), t.value_type) for t in tags}


async def test_on_the_running_recorder_a_formula_is_recorded_and_agrees_with_history(tmp_path: Path) -> None:
    """Every reading of the input and every result is recorded; the same formula over the recorded input gives
    the recorded result, sample by sample."""
    fast = a_tag("a", tag_id=1, source_id=1, scan_us=SECOND // 10)
    mean = formula(9, "average(a, 1 s) + a", a=fast)
    every = a_logger(1, "l", "every change", 1, LoggerMode.ON_CHANGE, 0, (1, 9))
    sink, control = FakeSink(), FakeControl()
    setup = Setup((DEVICE_1, CALCULATED), (fast, mean), (every,))
    recorder = Recorder(
        setup,
        always(Counting()),
        histories(fast, mean),
        Outlet(sink, Spool(tmp_path), "t", control),
        block=256,
    )
    stop = asyncio.Event()
    task = asyncio.create_task(recorder.run(stop))
    await until(lambda: sum(tag == 9 for tag, *_ in sink.samples()) > 25)
    stop.set()
    await task
    rows = {n: [(t, v, k) for tag, t, v, k in sink.samples() if tag == n and k < q.BAD] for n in (1, 9)}
    inputs = Series.of(FLOAT, [r[0] for r in rows[1]], [r[1] for r in rows[1]], [r[2] for r in rows[1]])
    again = evaluate_history(Formula(parse_formula("average(a, 1 s) + a")), {"a": inputs}, FLOAT)
    expected = dict(zip(again.ts_us.tolist(), again.values.tolist(), strict=True))
    compared = [(value, expected[t]) for t, value, _ in rows[9] if t in expected]
    assert len(compared) > 20
    assert [a for a, _ in compared] == pytest.approx([b for _, b in compared], rel=1e-9)


def figure(number: int, name: str, window: float | str, of: Tag) -> Tag:
    return calculated(number, kind="figure", inputs={"input": of.uid}, figure=name, window=window)


def test_a_statistic_hears_every_reading_and_is_told_at_its_own_ticks() -> None:
    """The ticks themselves are no samples: five were read in ten seconds, at uneven times."""
    samples = figure(9, "Count", 10, A)
    bench = Bench(A, samples)
    for second in (1.3, 3.1, 5.7, 7.2, 9.9, 12.4):
        bench.read(A, second, second)
        bench.step(second + 0.05, s1=second + 0.05)
    assert bench.step(13.1, s1=13.1) == [(13.0, 9, 5.0, q.GOOD)]


def test_a_statistic_over_a_shift_that_the_plant_does_not_have_is_bad_and_says_why() -> None:
    lost = figure(9, "Maximum", "shift", A)
    bench = Bench(A)
    (said,) = bench.follow(A, lost)
    assert int(said.quality[0]) == q.BAD_CONFIGURATION
    assert "no shift calendar" in bench.calculator.unusable([9])


def test_others_need_a_statistic_like_any_tag() -> None:
    peak = figure(9, "Maximum", 10, A)
    half = formula(8, "x / 2", x=a_tag("c9"))
    bench = Bench(A, peak, half)
    bench.step(0, s1=0.001)
    bench.read(A, 0.5, 6)
    found = bench.step(1.2, s1=1.2)
    assert [(second, tag, value) for second, tag, value, _ in found][-2:] == [(1.0, 9, 6.0), (1.0, 8, 3.0)]


async def test_a_counter_goes_on_after_a_restart_and_is_reset_by_a_person(tmp_path: Path) -> None:
    contact = a_tag("a", BOOLEAN, tag_id=1, source_id=1, scan_us=SECOND // 10)
    counter = calculated(9, INTEGER, kind="counter", inputs={"input": contact.uid})
    setup, sink = Setup((DEVICE_1, CALCULATED), (contact, counter), ()), FakeSink()
    device = FakeDriver({"a": 0})

    async def record(present: LiveValues, control: FakeControl, edges: int) -> int:
        outlet = Outlet(sink, Spool(tmp_path), "t", control, last_known=lambda: LastKnown(present, {}))
        recorder = Recorder(setup, always(device), {}, outlet, block=256)
        stop = asyncio.Event()
        task = asyncio.create_task(recorder.run(stop))
        await asyncio.sleep(0.5)
        for _ in range(edges):
            device.values["a"] = 1
            await asyncio.sleep(0.3)
            device.values["a"] = 0
            await asyncio.sleep(0.3)
        await asyncio.sleep(0.8)
        stop.set()
        await task
        return _last(sink, 9)

    assert await record(LiveValues.none(), FakeControl(), 2) == 2
    committed = next(f.live for f in reversed(sink.flushes) if 9 in f.live.tag_ids)
    assert await record(committed, FakeControl(), 1) == 3
    control = FakeControl()
    control.news = News(0)
    control.requests = [Request(1, "write", json.dumps({"tag_id": 9, "value": 0}))]
    assert await record(committed, control, 0) == 0
    assert json.loads(control.answers[1])["ok"]


class FakeMemory:
    """A hundred samples were recorded in the last hour."""

    def __init__(self, away: int) -> None:
        self.away = away
        self.asked: list[tuple[int, Window]] = []

    def recall(self, tag_id: int, window: Window) -> Remembered:
        self.asked.append((tag_id, window))
        if self.away:
            self.away -= 1
            raise StoreUnavailable("127.0.0.1:3306", "it does not answer")
        times = np.linspace(window.start_us + SECOND, window.end_us - SECOND, 100).astype(np.int64)
        return Remembered(Series.of(ValueType.FLOAT, times, np.full(100, 5.0)), window.end_us)


@pytest.mark.parametrize("away", [0, 1])
async def test_a_statistic_knows_what_was_recorded_before_the_recorder_began(
    tmp_path: Path, away: int
) -> None:
    """Also when the database does not answer at first."""
    value = a_tag("a", FLOAT, tag_id=1, source_id=1)
    count = figure(9, "Count", 3600, value)
    setup, sink, memory = Setup((DEVICE_1, CALCULATED), (value, count), ()), FakeSink(), FakeMemory(away)
    outlet = Outlet(sink, Spool(tmp_path), "t", FakeControl(), memory=memory)
    recorder = Recorder(setup, always(FakeDriver({"a": 5.0})), {}, outlet, block=256)
    stop = asyncio.Event()
    task = asyncio.create_task(recorder.run(stop))
    await asyncio.to_thread(wait_for, lambda: _float(sink, 9) >= 100, 15, "the past counted")
    stop.set()
    await task
    assert [(tag_id, window.length_us) for tag_id, window in memory.asked] == [(1, 3600 * SECOND)] * (
        away + 1
    )


def _float(sink: FakeSink, tag_id: int) -> float:
    for flush in reversed(sink.flushes):
        at = np.flatnonzero(flush.live.tag_ids == tag_id)
        if len(at):
            return float(flush.live.bits[at[0]].view(np.float64))
    return 0.0


def _last(sink: FakeSink, tag_id: int) -> int:
    for flush in reversed(sink.flushes):
        at = np.flatnonzero(flush.live.tag_ids == tag_id)
        if len(at):
            return int(flush.live.bits[at[0]])
    raise AssertionError("it was never committed")
