"""The recorder's way: a new kind of stage with an output of its own travels like the rest, and a stage that
fails costs the others nothing."""

from __future__ import annotations

import asyncio
import os
import subprocess
import sys
from collections.abc import Sequence
from pathlib import Path

import numpy as np
import pytest

from cronaca.core.model import SECOND, SourceSetup
from cronaca.core.outputs import StageState
from cronaca.core.ports import LastKnown
from cronaca.core.readings import Readings, Values
from cronaca.core.setup.whole import Setup
from cronaca.db import Store
from cronaca.recorder.engine import Outlet, Recorder
from cronaca.recorder.live import LiveTable
from cronaca.recorder.outputs.queue import OutputQueue
from cronaca.recorder.outputs.spool import Spool
from cronaca.recorder.pipeline import Pipeline
from cronaca.recorder.stages.stage import Moment, Stage, StageContext
from tests.support.application import until, wait_for
from tests.support.builders import NOW, a_tag
from tests.support.fakes import FakeDriver, FakeSink, always

A, B = a_tag("a", tag_id=1), a_tag("b", tag_id=2)
SETUP = Setup((), (A, B), ())
TOY = """
import asyncio, itertools, sys
from pathlib import Path
from cronaca.core.errors import StoreUnavailable
from cronaca.core.model import SourceSetup
from cronaca.core.setup.whole import Setup
from cronaca.core.outputs import KINDS
from cronaca.core.ports import LastKnown, LiveValues
from cronaca.db import Store
from cronaca.db.address import parse_url
from cronaca.history.tables.stage_states import list_states
from cronaca.recorder.engine import Outlet, Recorder
from cronaca.recorder.outputs.spool import Spool
from cronaca.services.outputs import HANDLERS
from cronaca.services.sink import StoreSink
from tests.support.builders import a_tag
from tests.support.fakes import FakeDriver, always
from tests.support.toy_stage import Peak, Peaks, store_peaks

url, folder = sys.argv[1], Path(sys.argv[2])
store = Store(parse_url(url))

class Gate(StoreSink):
    def commit(self, flush):
        if (folder / "away").exists():
            raise StoreUnavailable("fake:1/db", "switched off")
        return super().commit(flush)

class Counting(FakeDriver):
    numbers = itertools.count(1)
    async def read(self, tags):
        self.values["a"] = float(next(self.numbers))
        return await super().read(tags)

def last_known():
    with store.snapshot() as tx:
        return LastKnown(LiveValues.none(), list_states(tx))

setup = Setup((SourceSetup(1, "u", "s", "fake", "{}", True),), (a_tag("a", tag_id=1, scan_us=50_000),), ())
spool = Spool(folder / "spool", kinds={**KINDS, "peak": Peak})
sink = Gate(store, {**HANDLERS, Peak: store_peaks})
outlet = Outlet(sink, spool, "toy", last_known=last_known, more_stages=(Peaks(1),))
asyncio.run(Recorder(setup, always(Counting()), {}, outlet, block=256).run(asyncio.Event()))
"""


def peaks_in(store: Store) -> list[int]:
    with store.snapshot() as tx:
        return [int(value) for _, value in tx.fetch("SELECT at_us, value FROM toy_peak ORDER BY value")]


def test_a_new_stage_with_a_new_output_survives_kill_spool_and_restart(store: Store, tmp_path: Path) -> None:
    """Its device counts from 1 at each start: what was a peak before is none again, and none is missing."""
    with store.transaction() as tx:
        tx.execute("CREATE TABLE toy_peak (at_us BIGINT NOT NULL PRIMARY KEY, value DOUBLE NOT NULL)")
    address = store.address
    url = f"mysql://{address.user}:{address.password}@{address.host}:{address.port}/{address.database}"
    command = [sys.executable, "-c", TOY, url, str(tmp_path)]
    env = {**os.environ, "PYTHONPATH": "src:."}

    def spooled() -> int:
        return sum(path.stat().st_size for path in tmp_path.glob("spool/*/*.spool"))

    killed = subprocess.Popen(command, env=env)
    wait_for(lambda: len(peaks_in(store)) > 3, 30, "its first peaks")
    (tmp_path / "away").touch()
    wait_for(lambda: spooled() > 2_000, 30, "peaks on disk")
    killed.kill()
    killed.wait()
    before = peaks_in(store)
    (tmp_path / "away").unlink()
    again = subprocess.Popen(command, env=env)
    wait_for(lambda: len(peaks_in(store)) > len(before) + 60, 60, "those on disk, and new ones")
    again.terminate()
    again.wait()
    found = peaks_in(store)
    assert found == list(range(1, len(found) + 1))


class Broken(Stage):
    """Fails at whatever it is asked."""

    name = "broken"

    def follow(self, setup: Setup, context: StageContext, now_us: int) -> Sequence[Readings]:
        raise ZeroDivisionError("follow")

    def wakes_on(self) -> Sequence[int]:
        return (1,)

    def on(self, readings: Readings) -> None:
        raise ZeroDivisionError("on")

    def on_time(self, moment: Moment) -> Sequence[Readings]:
        raise ZeroDivisionError("on_time")

    def snapshot(self) -> bytes:
        raise ZeroDivisionError("snapshot")

    def next_time(self, now_us: int) -> int:
        raise ZeroDivisionError("next_time")

    def known_until(self, now_us: int) -> int:
        raise ZeroDivisionError("known_until")

    def readings_until(self, now_us: int) -> int:
        raise ZeroDivisionError("readings_until")

    def lower_known(self, known: dict[int, int], now_us: int) -> None:
        raise ZeroDivisionError("lower_known")


class Counts(Stage):
    """Counts what wakes it, and doubles a on its own tick."""

    name = "counts"

    def __init__(self, wakes: int) -> None:
        self.heard: list[int] = []
        self._wakes = wakes
        self._live: LiveTable | None = None

    def follow(self, setup: Setup, context: StageContext, now_us: int) -> Sequence[Readings]:
        self._live = context.live
        return ()

    def wakes_on(self) -> Sequence[int]:
        return (self._wakes,)

    def on(self, readings: Readings) -> None:
        self.heard += readings.bits.tolist()

    def on_time(self, moment: Moment) -> Sequence[Readings]:
        assert self._live is not None
        return [read(self._live, 2, 7)] if self._wakes == 1 else ()

    def snapshot(self) -> bytes:
        return bytes(self.heard)


def read(live: LiveTable, tag_id: int, bits: int) -> Readings:
    values = Values(np.array([bits], np.int64), np.zeros(1, np.uint16))
    return Readings.of(live.slots_of([tag_id]), NOW, values)


class TestPipeline:
    @pytest.fixture(autouse=True)
    def build(self) -> None:
        self.live, self.queue = LiveTable((A, B), NOW, 256), OutputQueue(10)
        self.first, self.then = Counts(1), Counts(2)
        self.pipeline = Pipeline(self.live, self.queue, (self.first, Broken(), self.then))
        tags = {tag.tag_id: tag for tag in SETUP.tags}
        self.pipeline.follow(SETUP, StageContext(self.live, self.queue, tags, {}), NOW)

    def test_a_stage_is_woken_by_its_tags_alone_and_one_that_fails_stops_no_other(self) -> None:
        self.pipeline.offer(read(self.live, 1, 5))
        self.pipeline.offer(read(self.live, 2, 6))
        assert (self.first.heard, self.then.heard) == ([5], [6])
        assert self.pipeline.faults() == ("The recorder's broken failed: ZeroDivisionError: follow",)

    def test_what_a_stage_makes_is_seen_behind_it_only_and_is_a_present_value(self) -> None:
        assert self.pipeline.on_time(Moment(NOW, NOW, {}))
        assert (self.first.heard, self.then.heard) == ([], [7])
        assert self.live.at(self.live.slots_of([2]), NOW).bits.tolist() == [7]

    def test_a_state_is_left_when_it_changed_and_only_the_newest_of_a_flush(self) -> None:
        for bits in (1, 2, 3):
            self.pipeline.offer(read(self.live, 1, bits))
        assert self.queue.drain()[1] == (StageState("counts", bytes([1, 2, 3])),)
        self.pipeline.on_time(Moment(NOW, NOW, {}))


def test_the_newest_state_is_known_again_whether_committed_or_on_disk() -> None:
    known = LastKnown(LastKnown.none().present, {"a": (5, b"committed"), "b": (5, b"committed")})
    newest = known.newest({"a": (5, b"on disk"), "b": (4, b"of an earlier recorder")})
    assert [newest.state_of(stage) for stage in ("a", "b", "c")] == [b"on disk", b"committed", b""]


async def test_a_stage_that_fails_is_said_by_the_running_recorder(tmp_path: Path) -> None:
    sink, stop = FakeSink(), asyncio.Event()
    source = SourceSetup(1, "u", "Line 1", "fake", "{}", True)
    setup = Setup((source,), (a_tag("a", tag_id=1, scan_us=SECOND // 10),), ())
    outlet = Outlet(sink, Spool(tmp_path), "t", more_stages=(Broken(),))
    recorder = Recorder(setup, always(FakeDriver({"a": 1.0})), {}, outlet, block=256)
    task = asyncio.create_task(recorder.run(stop))
    await until(lambda: sink.flushes and sink.flushes[-1].report.faults)
    stop.set()
    await task
    assert sink.flushes[-1].report.faults == ("The recorder's broken failed: ZeroDivisionError: follow",)
