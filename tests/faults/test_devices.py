"""One device that answers wrongly costs its own tags, and no other source a sample."""

from __future__ import annotations

import asyncio
import itertools
import json
from collections.abc import AsyncIterator, Iterator
from contextlib import asynccontextmanager
from pathlib import Path

import pytest

from cronaca.core import quality as q
from cronaca.core.codec.batch import HistoryKey
from cronaca.core.model import SECOND, Logger, LoggerMode, Setup, SourceSetup, Tag, ValueType
from cronaca.core.ports import Driver
from cronaca.recorder.engine import Outlet, Recorder
from cronaca.recorder.spool import Spool
from cronaca.sources.modbus import ModbusDriver
from tests.support import raw_device
from tests.support.application import until
from tests.support.builders import a_tag
from tests.support.fakes import FakeSink
from tests.support.raw_device import RawDevice

SCAN_US = SECOND // 10
WRONG = [
    raw_device.short, raw_device.odd, raw_device.overlong, raw_device.cut, raw_device.other_transaction,
    raw_device.other_function, raw_device.garbage, raw_device.silence, raw_device.reset, raw_device.flood,
    raw_device.empty, *(raw_device.exception(code) for code in (1, 2, 3, 4, 5, 6, 8, 10, 11, 99)),
]  # fmt: skip
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


def source(number: int, port: int) -> SourceSetup:
    config = json.dumps({"host": "127.0.0.1", "port": port, "unit": 1, "timeout_s": 0.5})
    return SourceSetup(number, f"s{number}", f"Line {number} controller", "modbus_tcp", config, True)


def make_driver(setup: SourceSetup) -> Driver:
    return ModbusDriver(setup.config)


TAGS = (register("well", 1, 1, 7), register("wrong 1", 2, 2, 8), register("wrong 2", 3, 2, 9))
LOGGERS = (
    Logger(1, "p", "periodic", 1, LoggerMode.PERIODIC, SCAN_US, (1, 2, 3)),
    Logger(2, "c", "on change", 2, LoggerMode.ON_CHANGE, 0, (1, 2, 3)),
)
HISTORIES = {
    (archive, tag.tag_id): (HistoryKey(archive, tag.tag_id, 1), ValueType.INTEGER)
    for archive in (1, 2)
    for tag in TAGS
}


@pytest.fixture
def devices() -> Iterator[tuple[RawDevice, RawDevice]]:
    found = RawDevice(raw_device.well), RawDevice(raw_device.well)
    yield found
    for one in found:
        one.close()


@asynccontextmanager
async def recording(
    devices: tuple[RawDevice, RawDevice], folder: Path
) -> AsyncIterator[tuple[FakeSink, Recorder]]:
    setup = Setup(tuple(source(i, one.port) for i, one in enumerate(devices, 1)), TAGS, LOGGERS)
    sink, stop = FakeSink(), asyncio.Event()
    recorder = Recorder(setup, make_driver, HISTORIES, Outlet(sink, Spool(folder), "test"), block=256)
    task = asyncio.create_task(recorder.run(stop))
    yield sink, recorder
    stop.set()
    await task


def newest(sink: FakeSink, tag_id: int) -> tuple[float, int] | None:
    rows = [(value, quality) for tag, _, value, quality in sink.samples() if tag == tag_id]
    return rows[-1] if rows else None


def seen(sink: FakeSink, tag_id: int, since: int) -> int:
    return sum(tag == tag_id for tag, *_ in sink.samples()) - since


@pytest.mark.parametrize("behaviour", WRONG, ids=NAMES)
async def test_a_device_that_answers_wrongly_costs_no_other_source_a_sample(
    behaviour: raw_device.Behaviour, devices: tuple[RawDevice, RawDevice], tmp_path: Path
) -> None:
    async with recording(devices, tmp_path) as (sink, _):
        await until(lambda: newest(sink, 3) == (9, q.GOOD))
        devices[1].behaviour = behaviour
        before = seen(sink, 1, 0)
        await until(lambda: q.is_bad_code(newest(sink, 2)[1]) and seen(sink, 1, before) > 15)  # type: ignore[index]
        devices[1].behaviour = raw_device.well
        await until(lambda: newest(sink, 2) == (8, q.GOOD) and newest(sink, 3) == (9, q.GOOD), 30)
    gaps = [gap for flush in sink.flushes for gap in flush.gaps]
    assert gaps == []
    well = sorted({ts for tag, ts, value, quality in sink.samples() if tag == 1 and value == 7})
    steps = {after - before for before, after in itertools.pairwise(well)}
    assert max(steps) < 3 * SECOND, "the other device was read all the while"
    assert all(value == 7 for tag, _, value, quality in sink.samples() if tag == 1 and quality < q.BAD)
