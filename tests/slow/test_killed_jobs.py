"""kill -9 of the worker while it makes a file: the next one makes it, whole."""

from __future__ import annotations

import time
from pathlib import Path
from typing import Any

import numpy as np
import pytest

from cronaca.core.model import SECOND, Series, ValueType, Window
from cronaca.db import Store
from cronaca.demo.names import tag_uid
from cronaca.history.write.bulk import backfill
from cronaca.logbook.jobs import LOST_S
from cronaca.plant.histories import list_histories
from cronaca.plant.tags import find_tags
from tests.support.application import Application, wait_for

SAMPLES = 3_000_000
STEP_US = SECOND // 10


def fill(store: Store, start_us: int) -> None:
    """Half a week of a tag at 10 Hz."""
    with store.snapshot() as tx:
        tag = find_tags(tx, [tag_uid("head_pressure")])[tag_uid("head_pressure")]
        (key,) = [h.key for h in list_histories(tx) if h.key.tag_id == tag.tag_id]
    times = start_us + np.arange(SAMPLES) * STEP_US
    series = Series.of(ValueType.FLOAT, times, 98 + np.sin(np.arange(SAMPLES) / 100))
    backfill(store, {key: series}, Window(start_us, start_us + SAMPLES * STEP_US))


@pytest.mark.slow
@pytest.mark.timeout(900)
def test_a_file_is_made_whole_by_the_worker_after_the_one_that_was_killed(
    empty_store: Store, tmp_path: Path
) -> None:
    application = Application(empty_store.address, tmp_path)
    application.start()
    try:
        start_us = time.time_ns() // 1000 - 8 * 86_400 * SECOND
        fill(application.store, start_us)
        ends = {"start_us": str(start_us), "end_us": str(start_us + SAMPLES * STEP_US)}
        body = {"kind": "export_samples", "tags": [tag_uid("head_pressure")], **ends, "utc": True}
        uid = application.send("POST", "/api/jobs", body)["uid"]

        def job() -> dict[str, Any]:
            return dict(application.get(f"/api/jobs/{uid}"))

        wait_for(lambda: job()["share"] > 0.1, 60, "some of the work")
        application.kill("worker")
        assert (job()["state"], job()["file_name"]) == ("running", "")
        application.start_part("worker")
        wait_for(lambda: job()["state"] != "running" or job()["share"] < 0.1, LOST_S + 30, "another begin")
        wait_for(lambda: job()["state"] == "done", 180, "the file")
        assert application.download(f"/api/jobs/{uid}/file").count(b"\n") == SAMPLES + 1
    finally:
        application.stop()
