"""A cut of ten minutes, at the speed of the plant."""

from __future__ import annotations

import asyncio
from datetime import datetime
from pathlib import Path

import pytest

from cronaca.db import Store
from tests.recorder.test_opcua_cuts import TAG, check_cut, recording

pytestmark = [pytest.mark.slow, pytest.mark.timeout(900)]


async def test_ten_minutes_once_a_second(store: Store, tmp_path: Path) -> None:
    async with recording(store, tmp_path) as at_work:

        async def miss(_: datetime) -> list[float]:
            missed = [100.0 + i for i in range(600)]
            for value in missed:
                await at_work.server.set_values(1, {TAG: value})
                await asyncio.sleep(1.0)
            return missed

        await check_cut(at_work, miss)
