"""How the recorder did over the last hour, minute by minute."""

from __future__ import annotations

import time
from dataclasses import replace

from cronaca.core.model import MINUTE, SECOND, Gap, GapReason, Series, ValueType
from cronaca.history.tables import gaps
from tests.api.conftest import Plant
from tests.support.builders import REPORT, a_flush


def test_each_minute_says_its_rate_late_scans_how_far_behind_it_was_and_its_gaps(plant: Plant) -> None:
    """Two flushes in one minute, then a recorder that is away for a while."""
    now_us = time.time_ns() // 1000
    minute = (now_us // MINUTE - 5) * MINUTE
    key = plant.keys["temperature"]
    for seq, (late, behind_us) in enumerate([(2, SECOND), (5, 3 * SECOND)], plant.seq + 1):
        at_us = minute + 10 * late * SECOND
        series = Series.of(ValueType.FLOAT, [at_us - 2, at_us - 1, at_us], [1.0, 2.0, 3.0])
        flush = a_flush(plant.epoch, seq, {key: series}, known_until_us=at_us - behind_us)
        plant.sink.commit(
            replace(flush, received_us=at_us, report=replace(REPORT, late_scans=REPORT.late_scans + late))
        )
    gap = Gap(minute + MINUTE, minute + 3 * MINUTE, GapReason.RECORDER_DOWN, "It was away.")
    plant.store.run(lambda tx: gaps.add_gaps(tx, [gap]))

    minutes = plant.client.get("/api/recorder/hour").json()
    assert len(minutes) == 60
    known = {int(one["start_us"]): one for one in minutes}
    mine = known[minute]
    assert (mine["samples_per_second"], mine["late_scans"], mine["behind_ms"]) == (0.1, 5, 3000.0)
    assert [known[minute + i * MINUTE]["gaps"] for i in range(4)] == [0, 1, 1, 0]
    assert known[minute + MINUTE]["samples_per_second"] is None, "nobody knows of a minute without a recorder"
