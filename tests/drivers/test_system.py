"""The recorder's own values: clock by the plant's zone, machine, states by their numbers."""

from __future__ import annotations

import json
from datetime import UTC, datetime
from pathlib import Path

import psutil
import pytest

from cronaca.core import quality as q
from cronaca.core.addresses.system import Item
from cronaca.core.bits import from_bits
from cronaca.core.errors import SourceRefused
from cronaca.core.model import SECOND, SourceState, Tag, ValueType
from cronaca.core.ports import LoggerReport, RecorderReport, SourceReport, StatusBoard
from cronaca.recorder.drivers.system import Machine, SystemDriver
from tests.support.builders import FixedClock, a_tag

SOURCE, LOGGER = "aaaaaaaa-0000-0000-0000-000000000001", "bbbbbbbb-0000-0000-0000-000000000001"


def own(item: str, of: str = "", kind: ValueType = ValueType.FLOAT) -> Tag:
    return a_tag(f"{item} {of}", kind, address=json.dumps({"item": item, "of": of} if of else {"item": item}))


def board() -> StatusBoard:
    report = RecorderReport(
        120.5, 7, 1, 2, 3.5, (SourceReport(4, SourceState.DOWN, 0, "refused"),),
        (LoggerReport(9, "paused", "", 3, 100, 2.5, "schedule"),),
    )  # fmt: skip
    return StatusBoard(report, "Europe/Rome", {4: SOURCE}, {9: LOGGER})


async def values(driver: SystemDriver, *tags: Tag) -> list[float | None]:
    reading = await driver.read(tags)
    return [
        None if code >= q.BAD else float(from_bits(int(bits), tag.value_type))
        for tag, bits, code in zip(tags, reading.bits, reading.quality, strict=True)
    ]


async def test_the_clock_is_that_of_the_plant() -> None:
    """Sunday 29 March 2026, 01:30 UTC is 03:30 in Rome: the hour after 02:00 was left out."""
    now = round(datetime(2026, 3, 29, 1, 30, 15, tzinfo=UTC).timestamp()) * SECOND
    driver = SystemDriver(board(), dict, FixedClock(now))
    parts = ("year", "month", "day", "weekday", "hour", "minute", "second")
    assert await values(driver, *map(own, parts)) == [2026, 3, 29, 7, 3, 30, 15]


async def test_states_and_rates_of_sources_and_loggers() -> None:
    driver = SystemDriver(board(), dict, FixedClock())
    tags = (
        own("source_state", SOURCE, ValueType.STATE), own("logger_state", LOGGER, ValueType.STATE),
        own("logger_reason", LOGGER, ValueType.STATE), own("logger_rate", LOGGER), own("sample_rate"),
        own("queued"), own("late_scans"), own("commit_time"), own("logger_state", SOURCE, ValueType.STATE),
    )  # fmt: skip
    assert await values(driver, *tags) == [2, 3, 3, 2.5, 120.5, 7, 2, 3.5, None]


async def test_before_the_first_report_nothing_is_known_and_nothing_is_zero() -> None:
    driver = SystemDriver(StatusBoard(), dict, FixedClock())
    assert (
        await values(driver, own("sample_rate"), own("source_state", SOURCE), own("processor")) == [None] * 3
    )


async def test_the_machine_as_psutil_tells_it(tmp_path: Path) -> None:
    found = Machine(tmp_path).read()
    disk = psutil.disk_usage(str(tmp_path))
    assert found[Item.DISK_FREE] == pytest.approx(disk.free / 1e9, rel=0.05)
    assert 0 < found[Item.MEMORY] < 100
    assert Item.DISK not in Machine(tmp_path / "gone").read()


async def test_nothing_of_it_takes_a_value() -> None:
    driver = SystemDriver(board(), dict, FixedClock())
    with pytest.raises(SourceRefused):
        await driver.write(own("hour"), 3)
