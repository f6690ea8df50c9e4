"""Live recording of 10,000 tags, and the way of a changed value from the device to the browser's door."""

from __future__ import annotations

import asyncio
import json
import resource
import time
from collections.abc import Sequence
from pathlib import Path

import numpy as np
from tests.support.application import Application
from tests.support.builders import a_tag, plant_with
from tests.support.signed_in import BEARER
from websockets.sync.client import connect

from bench.data import p95
from cronaca.core.model import SECOND, Tag
from cronaca.core.readings import Values
from cronaca.db import Store
from cronaca.db.migrate import migrate
from cronaca.db.private_server import PrivateServer
from cronaca.demo.names import tag_uid
from cronaca.history.tables.current import BLOCK
from cronaca.plant.histories import list_histories
from cronaca.plant.whole import read_setup
from cronaca.recorder.engine import Outlet, Recorder
from cronaca.recorder.outputs.spool import Spool
from cronaca.services.sink import StoreSink

TAGS = 10_000
LENGTH_S = 30
CHANGES = 40


class _Wander:
    """Ten thousand values that all change at every reading."""

    async def connect(self) -> None:
        return

    async def read(self, tags: Sequence[Tag]) -> Values:
        values = np.random.default_rng().normal(70, 1, len(tags))
        return Values(values.view(np.int64), np.zeros(len(tags), np.uint16))

    async def write(self, tag: Tag, value: float) -> None:
        raise NotImplementedError(f"{tag.name}: {value}")

    async def close(self) -> None:
        return


def measure_recorder(folder: Path) -> tuple[float, int]:
    """Share of one core that the recorder process takes, and its late scans."""
    server = PrivateServer(folder / "recorder")
    store = Store(server.start(), timeout_s=60)
    migrate(store)
    plant_with(store, [a_tag(f"tag {i}") for i in range(TAGS)], 0)
    with store.snapshot() as tx:
        facts = read_setup(tx)
        known = list_histories(tx)
    histories = {(h.key.archive_id, h.key.tag_id): (h.key, h.value_type) for h in known}
    spool = Spool(folder / "spool")
    recorder = Recorder(
        facts, lambda _: _Wander(), histories, Outlet(StoreSink(store), spool, "bench"),
        block=BLOCK,
    )  # fmt: skip

    async def run() -> float:
        stop = asyncio.Event()
        task = asyncio.create_task(recorder.run(stop))
        await asyncio.sleep(5)
        before = cpu_seconds()
        await asyncio.sleep(LENGTH_S)
        used = cpu_seconds() - before
        stop.set()
        await task
        return used / LENGTH_S

    share = asyncio.run(run())
    late = recorder.late_scans
    with store.snapshot() as tx:
        ((samples,),) = tx.fetch("SELECT SUM(sample_count) FROM journal")
    assert samples > TAGS * LENGTH_S, f"only {samples} samples came"
    store.close()
    server.stop()
    return share, late


def cpu_seconds() -> float:
    """What this process has used."""
    used = resource.getrusage(resource.RUSAGE_SELF)
    return used.ru_utime + used.ru_stime


def measure_live(folder: Path) -> float:
    """Seconds, 95th percentile, from setting a contact at the device to the message with its sample."""
    server = PrivateServer(folder / "live")
    application = Application(server.start(), folder)
    found = []
    try:
        application.start()
        with connect(f"ws://127.0.0.1:{application.port}/api/live", additional_headers=BEARER) as socket:
            socket.send(json.dumps({"tags": [tag_uid("door")]}))
            for i in range(CHANGES):
                time.sleep(0.7 + 0.013 * i)
                started = time.perf_counter()
                application.device.set({"door": i % 2 == 0})
                _wait_for(socket, bool(i % 2 == 0))
                found.append(time.perf_counter() - started)
    finally:
        application.stop()
        server.stop()
    return p95(found[1:])


def _wait_for(socket: object, value: bool) -> None:
    deadline = time.monotonic() + 10 * SECOND
    while time.monotonic() < deadline:
        message = json.loads(socket.recv(timeout=10))  # type: ignore[attr-defined]
        if message["type"] == "values" and any(v["v"] is value for v in message["values"]):
            return
        if message["type"] == "samples" and any(s["v"][-1:] == [value] for s in message["series"]):
            return
