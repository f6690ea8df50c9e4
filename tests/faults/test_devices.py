"""One device that answers wrongly costs its own tags, and no other source a sample."""

from __future__ import annotations

import asyncio
import itertools
import json
from collections.abc import AsyncIterator, Iterator, Sequence
from contextlib import asynccontextmanager
from pathlib import Path

import pytest

from cronaca.core import quality as q
from cronaca.core.codec.batch import HistoryKey
from cronaca.core.errors import StoreRejected
from cronaca.core.model import SECOND, Gap, GapReason, LoggerMode, SourceSetup, Tag, ValueType
from cronaca.core.outputs import SafeRecord
from cronaca.core.ports import Driver, Flush
from cronaca.core.setup.whole import Setup
from cronaca.recorder.drivers.modbus import ModbusDriver
from cronaca.recorder.engine import Outlet, Recorder
from cronaca.recorder.outputs.quarantine import Quarantine, list_items
from cronaca.recorder.outputs.spool import Spool
from tests.support import raw_device
from tests.support.application import until
from tests.support.builders import a_logger, a_tag
from tests.support.fakes import FakeSink
from tests.support.raw_device import RawDevice

SCAN_US = SECOND // 10
WRONG = [
    raw_device.short, raw_device.odd, raw_device.overlong, raw_device.cut, raw_device.other_transaction,
    raw_device.other_function, raw_device.garbage, raw_device.silence, raw_device.reset, raw_device.flood,
    raw_device.empty, *(raw_device.exception(code) for code in (1, 2, 3, 4, 5, 6, 8, 10, 11, 99)),
]  # fmt: skip
PATIENT_S = 5.0
"""Where requests are counted: a machine that stalls for a second adds none."""
BUSY = raw_device.exception(6)
NO_ADDRESS = raw_device.exception(2)
NAMES = [
    *(one.__name__ for one in WRONG[:11]),
    *(f"exception_{code}" for code in (1, 2, 3, 4, 5, 6, 8, 10, 11, 99)),
]


def register(name: str, tag_id: int, source_id: int, address: int) -> Tag:
    place = {"table": "holding_register", "address": address, "data_type": "uint16"}
    return a_tag(
        name,
        ValueType.INTEGER,
        tag_id=tag_id,
        source_id=source_id,
        scan_us=SCAN_US,
        address=json.dumps(place),
    )


def source(number: int, port: int, timeout_s: float = 0.5) -> SourceSetup:
    config = json.dumps({"host": "127.0.0.1", "port": port, "unit": 1, "timeout_s": timeout_s})
    return SourceSetup(number, f"s{number}", f"Line {number} controller", "modbus_tcp", config, True)


def make_driver(setup: SourceSetup) -> Driver:
    return ModbusDriver(setup.config)


TAGS = (register("well", 1, 1, 7), register("wrong 1", 2, 2, 8), register("wrong 2", 3, 2, 9))


def tags_of(count: int) -> tuple[Tag, ...]:
    """One tag of the first device, two of each of the others."""
    others = range(2, count + 1)
    pairs = ((register(f"{n}.8", 2 * n - 2, n, 8), register(f"{n}.9", 2 * n - 1, n, 9)) for n in others)
    return (TAGS[0], *itertools.chain.from_iterable(pairs))


@pytest.fixture
def devices() -> Iterator[tuple[RawDevice, RawDevice]]:
    found = RawDevice(raw_device.well), RawDevice(raw_device.well)
    yield found
    for one in found:
        one.close()


@asynccontextmanager
async def recording(devices: Sequence[RawDevice], folder: Path) -> AsyncIterator[tuple[FakeSink, Recorder]]:
    """Records every tag of the devices at each scan and on change, in two archives."""
    tags = tags_of(len(devices))
    numbers = tuple(tag.tag_id for tag in tags)
    loggers = (
        a_logger(1, "p", "periodic", 1, LoggerMode.PERIODIC, SCAN_US, numbers),
        a_logger(2, "c", "on change", 2, LoggerMode.ON_CHANGE, 0, numbers),
    )
    histories = {(a, n): (HistoryKey(a, n, 1), ValueType.INTEGER) for a in (1, 2) for n in numbers}
    setup = Setup(tuple(source(i, one.port) for i, one in enumerate(devices, 1)), tags, loggers)
    sink, stop = FakeSink(), asyncio.Event()
    recorder = Recorder(setup, make_driver, histories, Outlet(sink, Spool(folder), "test"), block=256)
    task = asyncio.create_task(recorder.run(stop))
    yield sink, recorder
    stop.set()
    await task


def newest(sink: FakeSink, tag_id: int) -> tuple[float, int] | None:
    rows = [(value, quality) for tag, _, value, quality in sink.samples() if tag == tag_id]
    return rows[-1] if rows else None


def seen(sink: FakeSink, tag_id: int, since: int) -> int:
    return sum(tag == tag_id for tag, *_ in sink.samples()) - since


async def test_devices_that_answer_wrongly_cost_no_other_source_a_sample(tmp_path: Path) -> None:
    """One device for each way to answer wrongly, all at once, beside one that answers well."""
    devices = [RawDevice(raw_device.well) for _ in range(1 + len(WRONG))]
    async with recording(devices, tmp_path) as (sink, _):
        await until(lambda: not silent(sink), 30)
        for device, behaviour in zip(devices[1:], WRONG, strict=True):
            device.behaviour = behaviour
        before = seen(sink, 1, 0)
        await until(lambda: not trusted(sink) and seen(sink, 1, before) > 15, 30)
        for device in devices[1:]:
            device.behaviour = raw_device.well
        await until(lambda: not silent(sink), 30)
    for device in devices:
        device.close()
    gaps = [gap for flush in sink.flushes for gap in flush.of(Gap)]
    assert gaps == []
    well = sorted({ts for tag, ts, value, quality in sink.samples() if tag == 1 and value == 7})
    steps = {after - before for before, after in itertools.pairwise(well)}
    assert max(steps) < 3 * SECOND, "the other device was read all the while"
    assert all(value == 7 for tag, _, value, quality in sink.samples() if tag == 1 and quality < q.BAD)


def silent(sink: FakeSink) -> list[str]:
    """The ways to answer wrongly whose devices, asked for what they have, do not tell it."""
    last = newest_of_all(sink)
    told = {tag: (8 + tag % 2, q.GOOD) for tag in range(2, 2 + 2 * len(WRONG))}
    return [NAMES[tag // 2 - 1] for tag, what in told.items() if last.get(tag) != what]


def trusted(sink: FakeSink) -> list[str]:
    """The ways to answer wrongly after which a value is still taken for Good."""
    last = newest_of_all(sink)
    return [name for i, name in enumerate(NAMES) if not q.is_bad_code(last[2 + 2 * i][1])]


def newest_of_all(sink: FakeSink) -> dict[int, tuple[float, int]]:
    return {tag: (value, quality) for tag, _, value, quality in sink.samples()}


class TestBlocks:
    """Which exceptions cost a block its being one request."""

    async def read_for(self, driver: ModbusDriver, times: int) -> list[list[int]]:
        return [(await driver.read(TAGS[1:])).quality.tolist() for _ in range(times)]

    @pytest.mark.parametrize("code", [4, 5, 6, 8, 10, 11])
    async def test_a_state_that_passes_is_asked_again_by_the_same_request(self, code: int) -> None:
        device = RawDevice(raw_device.exception(code))
        driver = ModbusDriver(source(2, device.port, PATIENT_S).config)
        await driver.connect()
        bad = await self.read_for(driver, 5)
        assert all(q.is_bad_code(one) and one != q.BAD_CONFIGURATION for row in bad for one in row)
        assert f"exception {code}" in driver.trouble
        device.behaviour = raw_device.well
        assert await self.read_for(driver, 3) == [[q.GOOD, q.GOOD]] * 3
        assert driver.trouble == ""
        assert len(device.requests) == 8, "one request a scan, all the while"
        await driver.close()
        device.close()

    @pytest.mark.parametrize("code", [1, 2, 3])
    async def test_what_was_split_is_tried_as_one_again(self, code: int) -> None:
        now = [0.0]
        device = RawDevice(raw_device.exception(code))
        driver = ModbusDriver(source(2, device.port, PATIENT_S).config, lambda: now[0])
        await driver.connect()
        assert await self.read_for(driver, 2) == [[q.BAD_CONFIGURATION] * 2] * 2
        assert len(device.requests) == 5, "the whole once, then one by one"
        device.behaviour = raw_device.well
        assert await self.read_for(driver, 1) == [[q.GOOD, q.GOOD]]
        assert len(device.requests) == 7
        now[0] += 31.0
        await self.read_for(driver, 3)
        assert len(device.requests) == 7 + 1 + 3, "one to try it, then one a scan"
        await driver.close()
        device.close()

    async def test_a_hole_spoils_no_neighbour_even_at_the_first_reading(self) -> None:
        def hole(request: bytes) -> Iterator[bytes | None]:
            start, count = int.from_bytes(request[8:10], "big"), int.from_bytes(request[10:12], "big")
            yield from (NO_ADDRESS if start <= 9 < start + count else raw_device.well)(request)

        device = RawDevice(hole)
        driver = ModbusDriver(source(2, device.port, PATIENT_S).config)
        await driver.connect()
        assert await self.read_for(driver, 2) == [[q.GOOD, q.BAD_CONFIGURATION]] * 2
        await driver.close()
        device.close()


class RefusingSink(FakeSink):
    """A store with no column for one value."""

    REFUSED = 11

    def _look(self, flush: Flush) -> None:
        if any(self.REFUSED in series.values for series in flush.batch.series.values()):
            raise StoreRejected("Out of range value")

    def commit(self, flush: Flush) -> tuple[SafeRecord, ...]:
        self._look(flush)
        return super().commit(flush)

    def probe(self, epoch: int, flush: Flush) -> None:
        self._look(flush)
        super().probe(epoch, flush)


async def test_all_at_once_the_others_go_on_and_the_busy_one_is_read_by_one_request_a_scan(
    devices: tuple[RawDevice, RawDevice], tmp_path: Path
) -> None:
    """A device that answers short, one that is busy for twelve seconds, a value that no column takes: the
    recording of the first one has no gap."""
    third, fourth = RawDevice(raw_device.short), RawDevice(raw_device.well)
    tags = (*TAGS, register("short", 4, 3, 7), register("refused", 5, 4, RefusingSink.REFUSED))
    loggers = (a_logger(1, "p", "periodic", 1, LoggerMode.PERIODIC, SCAN_US, (1, 2, 3, 4, 5)),)
    histories = {(1, tag.tag_id): (HistoryKey(1, tag.tag_id, 1), ValueType.INTEGER) for tag in tags}
    all_devices = (*devices, third, fourth)
    setup = Setup(
        tuple(source(i, one.port, PATIENT_S) for i, one in enumerate(all_devices, 1)), tags, loggers
    )
    sink, stop, quarantine = RefusingSink(), asyncio.Event(), Quarantine(tmp_path / "quarantine")
    outlet = Outlet(sink, Spool(tmp_path / "spool"), "test", quarantine=quarantine)
    recorder = Recorder(setup, make_driver, histories, outlet, block=256)
    task = asyncio.create_task(recorder.run(stop))
    await until(lambda: newest(sink, 3) == (9, q.GOOD))
    devices[1].behaviour = BUSY
    before = seen(sink, 1, 0)
    await until(lambda: seen(sink, 1, before) > 120, 40)
    devices[1].behaviour = raw_device.well
    await until(lambda: newest(sink, 3) == (9, q.GOOD))
    devices[1].requests.clear()
    devices[0].requests.clear()
    before = seen(sink, 1, 0)
    await until(lambda: seen(sink, 1, before) > 10)
    scans = len(devices[0].requests)
    assert abs(len(devices[1].requests) - scans) <= 2, "as many requests as scans"
    stop.set()
    await task
    for device in (third, fourth):
        device.close()
    gaps = [gap for flush in sink.flushes for gap in flush.of(Gap)]
    assert {gap.histories for gap in gaps} == {(HistoryKey(1, 5, 1),)}, "of the refused value alone"
    assert {gap.reason for gap in gaps} == {GapReason.NOT_STORABLE}
    assert {item.report.tag_ids for item in list_items(tmp_path / "quarantine")} == {(5,)}
    good = [value for tag, _, value, quality in sink.samples() if tag == 5 and quality == q.GOOD]
    assert good == [], "the refused value is nowhere; a reading that failed may be stored as one"
    assert newest(sink, 4) == (0, q.BAD_DECODING)
