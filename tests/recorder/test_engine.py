"""The whole recorder on a fake device and a fake sink; then on the real store."""

from __future__ import annotations

import asyncio
import itertools
import time
from collections.abc import Sequence
from dataclasses import replace
from pathlib import Path

from cronaca.core import quality as q
from cronaca.core.codec.batch import HistoryKey
from cronaca.core.model import SECOND, Gap, GapReason, LoggerMode, SourceSetup, Tag, ValueType, Window
from cronaca.core.ports import LastKnown, SampleSink
from cronaca.core.readings import Values
from cronaca.core.setup.whole import Setup
from cronaca.db import Store
from cronaca.history.read.series import SeriesReader
from cronaca.plant.histories import list_histories
from cronaca.plant.whole import read_setup
from cronaca.recorder.engine import Outlet, Recorder
from cronaca.recorder.outputs.spool import Spool
from cronaca.services.sink import StoreSink
from tests.support.application import until
from tests.support.builders import a_logger, a_tag, plant_with, remade
from tests.support.fakes import FakeDriver, FakeSink, always

ANALOG = a_tag("analog", tag_id=1, scan_us=SECOND // 10)
CONTACT = a_tag("contact", ValueType.BOOLEAN, tag_id=2, scan_us=SECOND // 20)
SETUP = Setup(
    (SourceSetup(1, "u", "Line 1", "fake", "{}", True),),
    (ANALOG, CONTACT),
    (
        a_logger(1, "p", "periodic", 1, LoggerMode.PERIODIC, SECOND // 5, (1,)),
        a_logger(2, "c", "contacts", 1, LoggerMode.ON_CHANGE, 0, (2,)),
    ),
)
HISTORIES = {
    (1, 1): (HistoryKey(1, 1, 1), ValueType.FLOAT),
    (1, 2): (HistoryKey(1, 2, 1), ValueType.BOOLEAN),
}


def outlet(sink: SampleSink, folder: Path) -> Outlet:
    return Outlet(sink, Spool(folder), "test")


async def record(recorder: Recorder, seconds: float, meanwhile: object = None) -> None:
    stop = asyncio.Event()
    task = asyncio.create_task(recorder.run(stop))
    await asyncio.sleep(seconds)
    if callable(meanwhile):
        meanwhile()
        await asyncio.sleep(seconds)
    stop.set()
    await task


async def test_analog_values_come_on_the_clock_and_contacts_on_change(tmp_path: Path) -> None:
    driver, sink = FakeDriver({"analog": 5.5, "contact": 0}), FakeSink()
    recorder = Recorder(SETUP, always(driver), HISTORIES, outlet(sink, tmp_path), block=256)

    def good(tag_id: int) -> list[float]:
        return [v for tag, _, v, quality in sink.samples() if tag == tag_id and quality == q.GOOD]

    stop = asyncio.Event()
    task = asyncio.create_task(recorder.run(stop))
    await until(lambda: len(good(1)) >= 4 and good(2))
    driver.values["contact"] = 1
    await until(lambda: len(good(1)) >= 9 and good(2)[-1] == 1)
    stop.set()
    await task
    analog = [(t, v) for tag, t, v, quality in sink.samples() if tag == 1 and quality == q.GOOD]
    contact = good(2)
    assert all(t % (SECOND // 5) == 0 and v == 5.5 for t, v in analog)
    assert len({t for t, _ in analog}) == len(analog)
    assert [value for value, _ in itertools.groupby(contact)] == [0, 1]
    late = [g for flush in sink.flushes for g in flush.of(Gap) if g.reason is GapReason.RECORDER_LATE]
    doubtful = [t for tag, t, _, quality in sink.samples() if tag == 2 and quality != q.GOOD]
    assert len(contact) - 2 <= len(late) + len(doubtful), "only behind a hold-up is a value recorded again"


async def test_a_recorder_that_was_held_up_says_where(tmp_path: Path) -> None:
    """A machine that stands still for longer than is tolerated costs samples; the hole is on record for the
    tags that have it, and no line is drawn across it."""
    sink = FakeSink()
    periodic, contacts = SETUP.loggers
    plan = replace(SETUP, loggers=(remade(periodic, late_us=SECOND), contacts))
    recorder = Recorder(plan, always(FakeDriver()), HISTORIES, outlet(sink, tmp_path), block=256)
    await record(recorder, 1.2, lambda: time.sleep(1.5))
    key = HistoryKey(1, 1, 1)
    gaps = [gap for flush in sink.flushes for gap in flush.of(Gap) if key in gap.histories]
    times = sorted({t for tag, t, _, _ in sink.samples() if tag == 1})
    # What was missed for no longer than is tolerated (the machine may stand still by itself) is no gap.
    holes = [(a, b) for a, b in itertools.pairwise(times) if b - a - SECOND // 5 > SECOND]
    assert {g.reason for g in gaps} == {GapReason.RECORDER_LATE}
    assert [(g.start_us, g.end_us) for g in gaps] == [
        (before + SECOND // 5, after) for before, after in holes
    ]
    assert max(g.end_us - g.start_us for g in gaps if g.end_us) >= SECOND
    assert (key,) in {g.histories for g in gaps}, "the contact was not missed for so long"


async def test_a_moment_in_which_the_recorder_was_held_up_is_uncertain_and_no_hole(tmp_path: Path) -> None:
    sink = FakeSink()
    driver = FakeDriver({"analog": 5.5})
    recorder = Recorder(SETUP, always(driver), HISTORIES, outlet(sink, tmp_path), block=256)
    await record(recorder, 1.2, lambda: time.sleep(1.5))
    assert [gap for flush in sink.flushes for gap in flush.of(Gap)] == []
    rows = sorted({(t, v, k) for tag, t, v, k in sink.samples() if tag == 1})
    late = [(b, a) for b, a in itertools.pairwise(rows) if a[0] - b[0] > SECOND // 5]
    assert late, "ticks were missed"
    assert all(before[1:] == (5.5, q.UNCERTAIN_LAST_USABLE) for before, _ in late)


async def test_knowledge_never_runs_ahead_of_what_is_committed(tmp_path: Path) -> None:
    sink = FakeSink()
    recorder = Recorder(SETUP, always(FakeDriver()), HISTORIES, outlet(sink, tmp_path), block=256)
    await record(recorder, 2.0)
    for earlier, later in zip(sink.flushes, sink.flushes[1:], strict=False):
        assert earlier.known_until_us <= later.known_until_us
        late = [
            t for s in later.batch.series.values() for t in s.ts_us.tolist() if t < earlier.known_until_us
        ]
        assert late == [], "a sample came after its time was said to be known"


async def test_it_waits_for_the_lease_and_ends_when_told_to(tmp_path: Path) -> None:
    sink = FakeSink()
    sink.held_by_other = True
    recorder = Recorder(SETUP, always(FakeDriver()), HISTORIES, outlet(sink, tmp_path), block=256)
    stop = asyncio.Event()
    task = asyncio.create_task(recorder.run(stop))
    await asyncio.sleep(0.2)
    assert sink.flushes == []
    sink.held_by_other = False
    await until(lambda: sink.flushes)
    stop.set()
    await task


async def test_it_ends_even_when_a_driver_swallows_being_told_to(tmp_path: Path) -> None:
    class Deaf(FakeDriver):
        heard = 0

        async def read(self, tags: Sequence[Tag]) -> Values:
            try:
                await asyncio.sleep(5)
            except asyncio.CancelledError:
                self.heard += 1
                if self.heard > 1:
                    raise
            return await super().read(tags)

    recorder = Recorder(SETUP, always(Deaf()), HISTORIES, outlet(FakeSink(), tmp_path), block=256)
    await asyncio.wait_for(record(recorder, 0.5), 5)


async def test_on_the_real_store_each_sample_is_there_once(store: Store, tmp_path: Path) -> None:
    keys = plant_with(store, [ANALOG, CONTACT])
    with store.snapshot() as tx:
        plant_setup = read_setup(tx)
        histories = {(h.key.archive_id, h.key.tag_id): (h.key, h.value_type) for h in list_histories(tx)}
    driver = FakeDriver({"analog": 1.25})
    recorder = Recorder(plant_setup, always(driver), histories, outlet(StoreSink(store), tmp_path), block=256)
    await record(recorder, 3.5)
    with store.snapshot() as tx:
        rows = tx.fetch("SELECT opened_us, known_until_us, state, reason FROM recorder_epoch")
    (opened, known, state, reason) = rows[0]
    assert (state, reason) == ("closed", "stopped")
    (answer,) = SeriesReader(store).read_many([keys["analog"].tag_id], Window(opened, known))
    good = answer.recorded.take(answer.recorded.quality == q.GOOD)
    assert len(good) >= 2
    assert set((good.ts_us % SECOND).tolist()) == {0}
    assert set((good.ts_us[1:] - good.ts_us[:-1]).tolist()) == {SECOND}


async def test_the_gap_before_a_recorder_ends_where_it_begins_to_record(store: Store, tmp_path: Path) -> None:
    """Between the lease and the first tick lies the reading of what was committed last: seconds, on a busy
    machine. The gap once ended with the lease, and a tick in between was missing without a reason as soon
    as an earlier recorder filled the gap from its disk."""
    keys = plant_with(store, [ANALOG, CONTACT])
    sink = StoreSink(store)
    before_us = time.time_ns() // 1000
    sink.close_epoch(sink.open_epoch("before", before_us) or 0, before_us, "stopped")
    with store.snapshot() as tx:
        plant_setup = read_setup(tx)
        histories = {(h.key.archive_id, h.key.tag_id): (h.key, h.value_type) for h in list_histories(tx)}
    restored: list[int] = []

    def last_known() -> LastKnown:
        time.sleep(1.6)
        restored.append(time.time_ns() // 1000)
        return LastKnown.none()

    of = Outlet(sink, Spool(tmp_path), "test", last_known=last_known)
    await record(Recorder(plant_setup, always(FakeDriver({"analog": 1.25})), histories, of, block=256), 5)
    (answer,) = SeriesReader(store).read_many(
        [keys["analog"].tag_id], Window(before_us, time.time_ns() // 1000)
    )
    (gap,) = [g for g in answer.blanks if g.reason is GapReason.RECORDER_STOPPED and g.start_us == before_us]
    first_us = int(answer.recorded.ts_us[0])
    assert gap.end_us is not None and restored[0] <= gap.end_us <= first_us
    assert first_us - gap.end_us <= SECOND, "no tick is missing behind the gap"
