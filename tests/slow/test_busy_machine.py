"""A machine with more to do than it can: the recorder goes on, because it is preferred."""

from __future__ import annotations

import itertools
import os
import subprocess
import sys
import time
from pathlib import Path

import pytest

from cronaca.core.model import SECOND, Window
from cronaca.db import Store
from cronaca.history.tables import gaps
from tests.support.application import Application, wait_for

pytestmark = [pytest.mark.slow, pytest.mark.timeout(600)]
BUSY_S = 60.0
SPIN = "while True: pass"


def test_twice_as_many_busy_processes_as_cores_cost_no_gap(empty_store: Store, tmp_path: Path) -> None:
    """The stand-in runs at normal priority, as any device does its own work."""
    application = Application(empty_store.address, tmp_path)
    application.start()
    try:
        wait_for(lambda: application.health()["recorder"]["known_until_us"], 40)
        if (application.health()["recorder"]["niceness"] or 0) >= 0:
            pytest.skip("this account may not prefer a process")
        time.sleep(5.0)
        began_us = time.time_ns() // 1000
        busy = [subprocess.Popen([sys.executable, "-c", SPIN]) for _ in range(2 * (os.cpu_count() or 2))]
        time.sleep(BUSY_S)
        for one in busy:
            one.kill()
            one.wait()
        ended_us = time.time_ns() // 1000
        wait_for(lambda: int(application.health()["recorder"]["known_until_us"]) > ended_us, 60)
        window = Window(began_us, ended_us)
        with empty_store.snapshot() as tx:
            torn = gaps.list_newest(tx, window, 50)
        assert torn == []
        answer = application.read("head_pressure", window)
        inside = [t for t in answer.recorded.ts_us.tolist() if began_us <= t < ended_us]
        assert len(inside) >= BUSY_S - 5
        assert max(b - a for a, b in itertools.pairwise(inside)) <= 6 * SECOND
    finally:
        application.stop()
