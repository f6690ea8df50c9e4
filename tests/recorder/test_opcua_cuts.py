"""A recorder and an OPC UA server over the real protocol, on the real store: cuts, a clock that is off."""

from __future__ import annotations

import asyncio
import json
import threading
import time
from collections.abc import AsyncIterator, Awaitable, Callable, Sequence
from contextlib import asynccontextmanager
from dataclasses import dataclass, replace
from datetime import UTC, datetime, timedelta
from pathlib import Path

import numpy as np

from cronaca.core import quality as q
from cronaca.core.codec.batch import HistoryKey
from cronaca.core.jobs import Queue
from cronaca.core.model import SECOND, LoggerMode, Series, SourceState, Window
from cronaca.core.ports import SourceReport
from cronaca.db import Store
from cronaca.db.ports import find_free_port
from cronaca.demo.opcua_stand_in import OpcUaStandIn
from cronaca.history.read.series import SeriesReader
from cronaca.history.write.edits import list_edits, read_replaced
from cronaca.plant.archives import insert_archive
from cronaca.plant.histories import list_histories
from cronaca.plant.loggers import insert_logger
from cronaca.plant.site import Plant, put_plant
from cronaca.plant.sources import insert_source
from cronaca.plant.tags import insert_tag
from cronaca.plant.whole import read_setup
from cronaca.recorder.drivers.opcua import Identity, Login, OpcUaDriver
from cronaca.recorder.drivers.opcua.values import to_us
from cronaca.recorder.engine import Outlet, Recorder
from cronaca.recorder.outputs.spool import Spool
from cronaca.services.jobs.for_recorder import AskedBackfill, handlers
from cronaca.services.jobs.runner import JobRunner
from cronaca.services.sink import StoreSink
from cronaca.worker.jobs import JobThreads
from tests.support.application import goes_on, until
from tests.support.builders import a_logger, a_tag

CUT_SAMPLES = 600
"""As many as ten minutes have, once a second."""
TAG = "temperature_1"


@dataclass
class Recording:
    """One tag of a server, recorded on change and by the clock into an archive each."""

    store: Store
    server: OpcUaStandIn
    keys: dict[str, HistoryKey]
    recorder: Recorder

    async def say(self, values: Sequence[float], pause_s: float = 0.1) -> None:
        """The device has these values, one after the other."""
        for value in values:
            await asyncio.sleep(pause_s)
            await self.server.set_values(1, {TAG: value})

    def read(self, name: str) -> Series:
        now_us = time.time_ns() // 1000
        window = Window(now_us - 3600 * SECOND, now_us + 60 * SECOND)
        (answer,) = SeriesReader(self.store).read_keys([self.keys[name]], window)
        return answer.recorded

    def good(self) -> list[float]:
        series = self.read("changes")
        found: list[float] = series.values[q.is_good(series.quality)].tolist()
        return found

    def source(self) -> SourceReport:
        return self.recorder._work.source_reports()[0]


@asynccontextmanager
async def recording(
    store: Store, folder: Path, clock_off: timedelta = timedelta(0)
) -> AsyncIterator[Recording]:
    server = OpcUaStandIn(find_free_port(), most_per_read=50, clock_off=clock_off)
    await server.start()
    await server.set_values(1, {TAG: 1.0})
    keys = _plant(store, server.endpoint)
    with store.snapshot() as tx:
        plant_setup = read_setup(tx)
        histories = {(h.key.archive_id, h.key.tag_id): (h.key, h.value_type) for h in list_histories(tx)}
    login = Login.of({"endpoint": server.endpoint}, "", Identity(folder / "own"))
    outlet = Outlet(StoreSink(store), Spool(folder / "spool"), "test", past=AskedBackfill(store))
    recorder = Recorder(plant_setup, lambda _: OpcUaDriver(login), histories, outlet, block=256)
    stop = asyncio.Event()
    task = asyncio.create_task(recorder.run(stop))
    found = Recording(store, server, keys, recorder)
    await until(lambda: found.recorder._work.source_reports() and found.source().state is SourceState.UP)
    ended = threading.Event()
    worker = JobThreads([_jobs_of_recorders(store)], ended, look_s=0.1)
    worker.start()
    yield found
    stop.set()
    ended.set()
    await task
    await asyncio.to_thread(worker.join)
    await server.stop()


def _jobs_of_recorders(store: Store) -> JobRunner:
    return JobRunner(
        store, Queue.RECORDER, handlers(store), "test/1", lambda: time.time_ns() // 1000,
        may_still=lambda *_: True,
    )  # fmt: skip


async def check_cut(at_work: Recording, miss: Callable[[datetime], Awaitable[list[float]]]) -> None:
    """Ends the server, with its subscriptions, while its device goes on (`miss` says with which values);
    afterwards no sample is double and none is missing, and nothing stands for the outage any more."""
    await until(lambda: at_work.good() == [1.0])
    await at_work.say([float(i) for i in range(2, 12)])
    await until(lambda: len(at_work.good()) == 11)
    await at_work.server.stop()
    cut = datetime.now(UTC)
    missed = await miss(cut)
    back = datetime.now(UTC)
    await at_work.server.start()
    after = [900.0 + i for i in range(10)]
    await at_work.say(after)
    expected = [*map(float, range(1, 12)), *missed, *after]
    await until(lambda: len(at_work.good()) >= len(expected), 30)
    assert at_work.good() == expected
    assert not q.is_bad(at_work.read("changes").quality).any()
    _check_ticks(at_work.read("ticks"), at_work.read("changes"), Window(to_us(cut) + SECOND, to_us(back)))
    _check_record(at_work.store, at_work.keys["changes"], len(missed))


def _check_ticks(ticks: Series, changes: Series, window: Window) -> None:
    """By the clock: each tick of the outage has the value that held then."""
    inside = ticks.take((ticks.ts_us >= window.start_us) & (ticks.ts_us < window.end_us))
    assert np.diff(inside.ts_us).tolist() == [SECOND] * (len(inside) - 1)
    assert len(inside) >= window.length_us // SECOND
    assert q.is_good(inside.quality).all()
    held = np.searchsorted(changes.ts_us, inside.ts_us, "right") - 1
    assert inside.values.tolist() == changes.values[held].tolist()


def _check_record(store: Store, key: HistoryKey, missed: int) -> None:
    """The mark of the outage is kept as modified history: who, why."""
    with store.snapshot() as tx:
        (edit,) = list_edits(tx, key, Window(0, 4 * 10**15))
        (replaced,) = read_replaced(tx, edit.edit_id)
    assert (edit.person, edit.reason) == ("recorder", "The device remembered what was missed.")
    # The newest one the server gives by itself when it is back: it ends the hole and is not written twice.
    assert missed - 1 <= edit.written < missed + 10
    assert q.BAD_NO_COMMUNICATION in replaced.quality.tolist()


async def test_a_cut_is_filled_from_the_servers_history_none_double_none_missing(
    store: Store, tmp_path: Path
) -> None:
    """As many samples as ten minutes have, given in small parts."""
    async with recording(store, tmp_path) as at_work:

        async def miss(cut: datetime) -> list[float]:
            await goes_on(3.5)
            missed = [100.0 + i for i in range(CUT_SAMPLES)]
            for i, value in enumerate(missed):
                await at_work.server.set_values(1, {TAG: value}, cut + timedelta(milliseconds=5 * i))
            return missed

        await check_cut(at_work, miss)


async def test_a_servers_clock_that_is_behind_is_said_and_its_times_stay(
    store: Store, tmp_path: Path
) -> None:
    async with recording(store, tmp_path, timedelta(seconds=-30)) as at_work:
        await at_work.say([float(i) for i in range(2, 42)])
        assert at_work.source().detail == "Its clock is 30 s behind ours."
        await until(lambda: at_work.good()[-40:] == [float(i) for i in range(2, 42)])
        read_us = time.time_ns() // 1000
        recorded = at_work.read("changes")
    assert (recorded.ts_us < read_us - 29 * SECOND).all(), "never moved to our own clock"


def _plant(store: Store, endpoint: str) -> dict[str, HistoryKey]:
    """A tag of the server, recorded on change and by the clock into an archive each."""
    now_us = time.time_ns() // 1000
    with store.transaction() as tx:
        put_plant(tx, Plant("Pastificio Ombralta", "Europe/Rome", 1, ()))
        source_id = insert_source(tx, "s-1", "Line 1 server", "opc_ua", {"endpoint": endpoint})
        address = json.dumps({"node": "ns=2;s=Line1.temperature_1"})
        wanted = a_tag("t", source_id=source_id, address=address, scan_us=SECOND // 10, stepped=True)
        tag = replace(wanted, tag_id=insert_tag(tx, wanted))
        keys = {}
        for name, mode in (("changes", LoggerMode.ON_CHANGE), ("ticks", LoggerMode.PERIODIC)):
            archive_id = insert_archive(tx, f"a-{name}", name)
            interval_us = SECOND if mode is LoggerMode.PERIODIC else 0
            logger = a_logger(0, f"l-{name}", name, archive_id, mode, interval_us, (tag.tag_id,))
            insert_logger(tx, logger, now_us)
            keys[name] = next(h.key for h in list_histories(tx) if h.key.archive_id == archive_id)
    return keys
