"""Faults on the whole application: what was committed is there once, what is missing has its reason."""

from __future__ import annotations

import time
from collections.abc import Iterator
from pathlib import Path

import numpy as np
import pytest

from cronaca.core import quality as q
from cronaca.core.model import SECOND, GapReason, Window
from cronaca.db import Store
from cronaca.demo.names import tag_uid
from tests.support.application import Application, lasts, wait_for


@pytest.fixture
def application(empty_store: Store, tmp_path: Path) -> Iterator[Application]:
    found = Application(empty_store.address, tmp_path)
    found.device.set({"head_pressure": 98.0})
    found.start()
    yield found
    found.stop()


def now_us() -> int:
    return time.time_ns() // 1000


def committed(application: Application) -> set[int]:
    """Times of all samples in the journal, as the database holds them."""
    answer = application.read("head_pressure", Window(now_us() - 3600 * SECOND, now_us()))
    return set(answer.recorded.ts_us.tolist())


def test_kill_9_of_recorder_and_server_loses_no_committed_sample(application: Application) -> None:
    began = now_us()
    application.wait_for_readings(4)
    application.kill("recorder")
    application.kill("server")
    before = committed(application)
    assert len(before) >= 3
    killed = now_us()
    lasts(2)
    application.start_part("server")
    application.start_part("recorder")
    wait_for(lambda: application.health().get("status") == "ok", 30, "the restart")
    application.wait_for_readings(3)

    answer = application.read("head_pressure", Window(began - 60 * SECOND, now_us()))
    times = answer.recorded.ts_us
    assert len(np.unique(times)) == len(times), "none twice"
    assert before <= set(times.tolist()), "none lost"
    down = [gap for gap in answer.blanks if gap.reason is GapReason.RECORDER_DOWN]
    assert len(down) == 1
    assert down[0].start_us <= killed
    assert down[0].end_us is not None
    assert down[0].end_us >= killed
    assert not ((times >= down[0].start_us) & (times < down[0].end_us)).any()
    assert times[-1] > down[0].end_us, "it goes on by itself"


def test_an_orderly_stop_flushes_all_and_is_told_apart(application: Application) -> None:
    application.wait_for_readings(2)
    assert application.end("recorder") == 0
    with application.store.snapshot() as tx:
        state, reason, known = tx.fetch("SELECT state, reason, known_until_us FROM recorder_epoch")[0]
    assert (state, reason) == ("closed", "stopped")
    assert max(committed(application)) >= known - SECOND
    assert wait_for(lambda: application.health()["recorder"]["state"] == "stopped")


def test_a_device_stopped_for_20_s_is_a_gap_with_its_reason_and_recovers(application: Application) -> None:
    application.wait_for_readings(2)
    off = now_us()
    application.device.off()
    wait_for(lambda: application.health()["sources"][0]["state"] == "down", 30, "the loss")
    assert "127.0.0.1" in application.get("/api/recorder")["sources"][0]["detail"]
    lasts(20 - (now_us() - off) / SECOND)
    application.device.on()
    on = now_us()
    wait_for(lambda: application.health().get("status") == "ok", 15, "the recovery")
    application.wait_for_readings(2)
    answer = application.read("head_pressure", Window(off - 5 * SECOND, now_us()))
    lost = answer.recorded.quality == q.BAD_NO_COMMUNICATION
    assert lost.sum() == 1, "said once, not each second"
    (gap,) = [gap for gap in answer.blanks if gap.reason is GapReason.SOURCE_DOWN]
    assert abs(gap.start_us - off) < 3 * SECOND
    assert gap.end_us is not None
    assert on - SECOND <= gap.end_us < on + 12 * SECOND
    path = f"/api/series/curves?tag={tag_uid('head_pressure')}&start={off - 5 * SECOND}&end={now_us()}"
    (told,) = [gap for gap in application.get(path)["series"][0]["gaps"] if gap["reason"] == "source_down"]
    assert told == {
        "start_us": str(gap.start_us),
        "end_us": str(gap.end_us),
        "reason": "source_down",
        "detail": "Bad, no communication",
    }
    contact = application.read("jam", Window(off - 5 * SECOND, now_us()))
    assert [gap.reason for gap in contact.blanks if gap.reason is GapReason.SOURCE_DOWN]


def test_a_second_recorder_waits_and_takes_over(application: Application) -> None:
    application.wait_for_readings(2)
    first = application.health()["recorder"]["epoch"]
    killed = application._processes["recorder"]
    application.start_part("recorder")
    application.wait_for_readings(2)
    assert application.health()["recorder"]["epoch"] == first, "it waits while the first one lives"
    killed.kill()
    killed.wait()
    wait_for(lambda: application.health()["recorder"]["epoch"] == first + 1, 40, "the takeover")
    times = application.read("head_pressure", Window(now_us() - 60 * SECOND, now_us())).recorded.ts_us
    assert len(np.unique(times)) == len(times)
