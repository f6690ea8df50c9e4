"""Why is this tag empty? Each state of a logger, on the running recorder and the real store, leaves a blank
with its own reason, in the order of time."""

from __future__ import annotations

import asyncio
import json
import time
from collections.abc import Awaitable, Callable, Mapping
from pathlib import Path

import pytest

from cronaca.core.addresses.settings import ModbusSettings
from cronaca.core.loggers import TriggerSpec, WhenSpec
from cronaca.core.model import SECOND, Edge, GapReason, LoggerMode, ValueType, WeekSpan, Window
from cronaca.core.setup import ArchiveSpec, PlantSpec, SourceSpec, TagSpec
from cronaca.db import Store
from cronaca.history.read.series import SeriesAnswer, SeriesReader
from cronaca.plant import archives, loggers, sources, tag_changes
from cronaca.plant.changes import By
from cronaca.plant.site import change_plant
from cronaca.plant.tags import list_tags
from cronaca.plant.whole import read_setup
from cronaca.recorder.engine import Outlet, Recorder
from cronaca.recorder.outputs.spool import Spool
from cronaca.services.control import StoreControl, get_revision, read_histories
from cronaca.services.sink import StoreSink
from tests.support.application import wait_for
from tests.support.builders import a_spec, remade
from tests.support.fakes import FakeDriver, always

FLOAT = ValueType.FLOAT


class Plant:
    """A value and a contact of one device, one logger of the value, and a recorder that runs."""

    def __init__(self, store: Store, folder: Path) -> None:
        self.store, self.device = store, FakeDriver({"value": 1.0, "contact": 0.0})
        with store.transaction() as tx:
            change_plant(tx, PlantSpec("Pastificio Ombralta", "Europe/Rome"), self.by)
            source = sources.add_source(
                tx, SourceSpec("Line 1", "modbus_tcp", ModbusSettings("127.0.0.1")), self.by
            )
            place = {"table": "input_register", "data_type": "float32"}
            wanted = [
                TagSpec(
                    name,
                    source,
                    json.dumps({**place, "address": 2 * i}),
                    value_type=kind,
                    scan_us=SECOND // 10,
                )
                for i, (name, kind) in enumerate((("value", FLOAT), ("contact", FLOAT)))
            ]
            self.value, self.contact = tag_changes.add_tags(tx, wanted, self.by)
            self.archive = archives.add_archive(tx, ArchiveSpec("Process values"), self.by)
            self.spec = a_spec("all", self.archive, LoggerMode.PERIODIC, SECOND // 10, tags=(self.value,))
            self.logger = loggers.add_logger(tx, self.spec, self.by)
        with store.snapshot() as tx:
            found, histories, revision = read_setup(tx), read_histories(tx), get_revision(tx)
            (self.tag,) = (one for one in list_tags(tx) if one.uid == self.value)
        outlet = Outlet(StoreSink(store), Spool(folder), "test", StoreControl(store))
        self.recorder = Recorder(found, always(self.device), histories, outlet, block=256, revision=revision)

    @property
    def by(self) -> By:
        return By("engineer", time.time_ns() // 1000)

    def change(self, mode: LoggerMode | None = None, **fields: object) -> None:
        """Another rule for the logger, or another wanted state."""
        changed = remade(self.spec, mode, **fields)
        self.store.run(lambda tx: loggers.change_logger(tx, self.logger, changed, self.by))

    def read(self, after_s: float = 0.0) -> SeriesAnswer:
        now_us = time.time_ns() // 1000
        window = Window(now_us - 600 * SECOND, now_us + round(after_s * SECOND) + 1)
        (answer,) = SeriesReader(self.store).read_many([self.tag.tag_id], window)
        return answer

    def reasons(self) -> list[GapReason]:
        """Of the blanks behind the first sample, in order of time."""
        return [gap.reason for gap in self.read().blanks if gap.reason is not GapReason.NOT_YET_RECORDED]

    async def until(self, condition: Callable[[], object]) -> None:
        await asyncio.to_thread(wait_for, condition, 20)


async def at_work(plant: Plant, journey: Callable[[Plant], Awaitable[None]]) -> None:
    stop = asyncio.Event()
    task = asyncio.create_task(plant.recorder.run(stop))
    try:
        await plant.until(lambda: plant.read().samples > 3)
        await journey(plant)
    finally:
        stop.set()
        await task


async def _stop(plant: Plant) -> None:
    plant.change(wanted=False)


async def _pause_by_tag(plant: Plant) -> None:
    plant.change(when=WhenSpec(tag=plant.contact))


async def _pause_by_schedule(plant: Plant) -> None:
    """A schedule that is never now: one minute of the weekday before yesterday's."""
    weekday = (time.gmtime().tm_wday + 3) % 7 + 1
    plant.change(when=WhenSpec(spans=(WeekSpan((weekday,), 0, 1),)))


async def _inhibit(plant: Plant) -> None:
    plant.device.values["contact"] = 1.0
    plant.change(inhibit_tag=plant.contact)


async def _around(plant: Plant) -> None:
    trigger = TriggerSpec(plant.contact, Edge.RISING)
    plant.change(mode=LoggerMode.AROUND, trigger=trigger, after_us=SECOND)


async def _leave(plant: Plant) -> None:
    plant.change(tags=())


async def _device_away(plant: Plant) -> None:
    plant.device.up = False


CASES: Mapping[GapReason, Callable[[Plant], Awaitable[None]]] = {
    GapReason.LOGGER_STOPPED: _stop,
    GapReason.LOGGER_INHIBITED: _inhibit,
    GapReason.WAITING_FOR_TRIGGER: _around,
    GapReason.NOT_RECORDED: _leave,
}


@pytest.mark.parametrize("reason", CASES, ids=lambda one: one.value)
async def test_each_state_of_a_logger_has_its_reason(store: Store, tmp_path: Path, reason: GapReason) -> None:
    async def journey(plant: Plant) -> None:
        await CASES[reason](plant)
        await plant.until(lambda: reason in plant.reasons())
        plant.device.values["contact"] = 0.0

    await at_work(Plant(store, tmp_path), journey)


@pytest.mark.parametrize("pause", [_pause_by_tag, _pause_by_schedule])
async def test_a_pause_ends_and_its_blank_is_closed(
    store: Store, tmp_path: Path, pause: Callable[[Plant], Awaitable[None]]
) -> None:
    async def journey(plant: Plant) -> None:
        await pause(plant)
        await plant.until(lambda: GapReason.LOGGER_PAUSED in plant.reasons())
        plant.device.values["contact"] = 1.0
        if pause is _pause_by_schedule:
            plant.change()
        before = plant.read().samples
        await plant.until(lambda: plant.read().samples > before + 3)
        (gap,) = (one for one in plant.read().blanks if one.reason is GapReason.LOGGER_PAUSED)
        assert gap.end_us is not None
        assert gap.end_us < time.time_ns() // 1000

    await at_work(Plant(store, tmp_path), journey)


async def test_reasons_that_follow_each_other_stand_in_the_order_of_time(
    store: Store, tmp_path: Path
) -> None:
    async def journey(plant: Plant) -> None:
        await _device_away(plant)
        await plant.until(lambda: GapReason.SOURCE_DOWN in plant.reasons())
        plant.device.up = True
        before = plant.read().samples
        await plant.until(lambda: plant.read().samples > before + 3)
        await _stop(plant)
        await plant.until(lambda: GapReason.LOGGER_STOPPED in plant.reasons())

    plant = Plant(store, tmp_path)
    await at_work(plant, journey)
    blanks = plant.read(after_s=60).blanks
    assert [gap.start_us for gap in blanks] == sorted(gap.start_us for gap in blanks)
    found = [gap.reason for gap in blanks]
    assert found[0] is GapReason.NOT_YET_RECORDED
    assert found.index(GapReason.SOURCE_DOWN) < found.index(GapReason.LOGGER_STOPPED)


async def test_what_is_still_to_come_is_called_the_future(store: Store, tmp_path: Path) -> None:
    async def journey(plant: Plant) -> None:
        last = plant.read(after_s=60).blanks[-1]
        assert last.reason is GapReason.FUTURE
        assert last.start_us <= time.time_ns() // 1000

    await at_work(Plant(store, tmp_path), journey)
