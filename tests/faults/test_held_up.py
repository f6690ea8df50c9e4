"""A recorder that stands still for a moment: what a server reports by itself is not lost."""

from __future__ import annotations

import asyncio
import json
import signal
import time
from pathlib import Path

from cronaca.core import quality as q
from cronaca.core.codec.batch import HistoryKey
from cronaca.core.model import SECOND, Window
from cronaca.db import Store
from cronaca.db.ports import find_free_port
from cronaca.demo.opcua_stand_in import OpcUaStandIn
from cronaca.history.read.series import SeriesReader
from cronaca.history.tables import gaps
from tests.recorder.test_opcua_cuts import TAG, _plant
from tests.support.application import Processes, until

HELD_S = 4.0


async def test_a_recorder_that_is_stopped_for_four_seconds_loses_no_change_of_an_opc_ua_server(
    store: Store, tmp_path: Path
) -> None:
    """As a process of its own, by SIGSTOP; without the server's history, so that its queue has to do."""
    server = OpcUaStandIn(find_free_port())
    await server.start()
    await server.set_values(1, {TAG: 1.0})
    key = _plant(store, server.endpoint)["changes"]
    with store.transaction() as tx:
        config = json.dumps({"endpoint": server.endpoint, "history": False})
        tx.execute("UPDATE source SET config = %(config)s", config=config)
    parts = Processes(store.address, tmp_path)
    parts.start_part("recorder")
    said = [1.0]

    async def say(count: int) -> None:
        for _ in range(count):
            said.append(said[-1] + 1.0)
            await server.set_values(1, {TAG: said[-1]})
            await asyncio.sleep(0.1)

    try:
        await until(lambda: good(store, key) == said, 40)
        await say(5)
        await until(lambda: good(store, key) == said)
        parts.signal("recorder", signal.SIGSTOP)
        await say(round(HELD_S / 0.1))
        parts.signal("recorder", signal.SIGCONT)
        await say(5)
        await until(lambda: len(good(store, key)) >= len(said), 30)
        assert good(store, key) == said
        with store.snapshot() as tx:
            assert gaps.list_scoped(tx, Window(0, 10**16), [key])[key] == []
    finally:
        parts.end_all()
        await server.stop()


def good(store: Store, key: HistoryKey) -> list[float]:
    now_us = time.time_ns() // 1000
    window = Window(now_us - 3600 * SECOND, now_us + 60 * SECOND)
    (answer,) = SeriesReader(store).read_keys([key], window)
    found: list[float] = answer.recorded.values[~q.is_bad(answer.recorded.quality)].tolist()
    return list(dict.fromkeys(found))
