"""A cluster of three: any node may die, recording and reading go on, and it catches up when it returns."""

from __future__ import annotations

import time
from collections.abc import Iterator
from dataclasses import replace
from pathlib import Path

import pytest

from cronaca.core.model import Window
from cronaca.db import Store
from cronaca.history.read.series import SeriesReader
from tests.support.application import Application, wait_for
from tests.support.checks import Checker, now_us
from tests.support.cluster import Cluster

pytestmark = [pytest.mark.slow, pytest.mark.timeout(900)]


@pytest.fixture
def cluster() -> Iterator[Cluster]:
    found = Cluster()
    try:
        found.start()
        yield found
    finally:
        found.stop()


def test_any_node_may_be_killed_and_comes_back(cluster: Cluster, tmp_path: Path) -> None:
    application = Application(cluster.address, tmp_path)
    try:
        application.device.set({"head_pressure": 98.0})
        application.start()
        checker = Checker(application)
        for node in cluster.nodes:
            time.sleep(4)
            checker.look()
            node.kill()
            time.sleep(8)
            wait_for(lambda: application.health().get("status") == "ok", 40, f"life without {node.name}")
            checker.look()
            node.start()
            cluster.wait_synced(node, 3)
            assert application.read("head_pressure", Window(checker.began, now_us())).samples > 0
        time.sleep(25)
        assert checker.gaps() == [], "every second is there, over all three deaths and two compactions"
        known = max(checker.seen)
        with application.store.snapshot() as tx:
            (tag_id,) = tx.fetch("SELECT tag_id FROM tag WHERE name = 'Line 1 Press head pressure'")[0]
        for node in cluster.nodes:
            alone = Store(replace(cluster.address, host=node.place[0], port=node.place[1], others=()))
            (answer,) = SeriesReader(alone).read_many([tag_id], Window(checker.began, known + 1))
            alone.close()
            times = {t for t in answer.recorded.ts_us.tolist() if checker.began <= t <= known}
            assert times == {t for t in checker.seen if checker.began <= t <= known}, (
                f"{node.name} has all of it"
            )
    finally:
        application.stop()
