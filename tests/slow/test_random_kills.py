"""kill -9 at random moments, round after round: no committed sample lost, none twice, each gap on record."""

from __future__ import annotations

import random
import time
from functools import partial
from pathlib import Path

import numpy as np
import pytest

from cronaca.core.model import SECOND, GapReason, Window
from cronaca.db import Store
from tests.support.application import Application, wait_for

ROUNDS = 20


def has_epoch(application: Application, epoch: int) -> bool:
    return (application.health().get("recorder") or {}).get("epoch") == epoch


@pytest.mark.slow
@pytest.mark.timeout(1200)
def test_twenty_rounds_of_random_kills(empty_store: Store, tmp_path: Path) -> None:
    chance = random.Random(20)
    application = Application(empty_store.address, tmp_path)
    application.device.set({"head_pressure": 98.0})
    application.start()
    began = time.time_ns() // 1000
    before: set[int] = set()
    recorder_kills = 0
    try:
        for _ in range(ROUNDS):
            time.sleep(chance.uniform(1.0, 4.0))
            part = chance.choice(["recorder", "recorder", "worker", "server"])
            application.kill(part)
            recorder_kills += part == "recorder"
            found = application.read("head_pressure", Window(began - 60 * SECOND, time.time_ns() // 1000))
            times = found.recorded.ts_us.tolist()
            assert before <= set(times), "a committed sample is gone"
            assert len(set(times)) == len(times), "a sample is there twice"
            before = set(times)
            application.start_part(part)
            # Health calls a recorder running for some seconds after its death: only a new epoch is proof.
            wait_for(partial(has_epoch, application, recorder_kills + 1), 30, "the takeover")
            wait_for(lambda: application.health().get("status") == "ok", 30, "the recovery")
        answer = application.read("head_pressure", Window(began - 60 * SECOND, time.time_ns() // 1000))
        down = [gap for gap in answer.blanks if gap.reason is GapReason.RECORDER_DOWN]
        assert len(down) == recorder_kills
        holes = np.flatnonzero(np.diff(answer.recorded.ts_us) > SECOND)
        for hole in holes:
            start, end = int(answer.recorded.ts_us[hole]), int(answer.recorded.ts_us[hole + 1])
            assert any(gap.start_us < end and (gap.end_us or end) > start for gap in down), (
                "a hole without a reason"
            )
    finally:
        application.stop()
