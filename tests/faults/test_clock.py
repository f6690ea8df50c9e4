"""A step of the wall clock loses nothing, while the database is away too."""

from __future__ import annotations

import threading
import time
from pathlib import Path

from cronaca.core.errors import StoreUnavailable
from cronaca.core.model import SECOND, ValueType
from cronaca.core.ports import LiveValues
from cronaca.recorder.clock import AnchoredClock
from cronaca.recorder.outputs.flush import Feeds, Flusher
from cronaca.recorder.outputs.queue import OutputQueue
from cronaca.recorder.outputs.spool import Spool
from tests.recorder.test_parts import KEY, chunk
from tests.support.application import wait_for
from tests.support.builders import REPORT
from tests.support.fakes import FakeSink


class Epochs(FakeSink):
    """Remembers under which epoch and number each flush came."""

    def __init__(self) -> None:
        super().__init__()
        self.opened: list[int] = []

    def open_epoch(self, holder: str, now_us: int) -> int | None:
        if self.away:
            raise StoreUnavailable("fake:1/db", "switched off")
        self.opened.append(now_us)
        return super().open_epoch(holder, now_us)


def test_steps_while_the_database_is_away_are_kept_in_order_and_lose_no_sample(tmp_path: Path) -> None:
    offset = [time.time_ns() - time.monotonic_ns()]
    clock = AnchoredClock(lambda: time.monotonic_ns() + offset[0])
    queue = OutputQueue(100_000)
    queue.position_of(KEY, ValueType.FLOAT)
    sink, spool = Epochs(), Spool(tmp_path)
    feeds = Feeds(
        queue, lambda safe: None, LiveValues.none, lambda: None, clock.now_us, lambda rate, ms: REPORT
    )
    flusher = Flusher(sink, feeds, clock, "test", spool)
    first = sink.open_epoch("test", clock.now_us())
    assert first == 1
    put: list[tuple[int, float]] = []
    over = threading.Event()

    def sample() -> None:
        while not over.wait(0.02):
            value = float(len(put))
            put.append((clock.now_us(), value))
            queue.put(chunk(put[-1][0], value))

    flusher.start(first)
    sampler = threading.Thread(target=sample)
    sampler.start()
    wait_for(lambda: len(sink.samples()) > 10)
    sink.away = True
    for step_s in (3600, -7200):
        before = clock.now_and_steps()[1]
        offset[0] += step_s * 10**9
        wait_for(lambda seen=before: clock.now_and_steps()[1] > seen)  # type: ignore[misc]
        count = len(put)
        wait_for(lambda seen=count: len(put) > seen + 40)  # type: ignore[misc]
    assert sink.opened[1:] == [], "nothing could be opened yet"
    sink.away = False
    wait_for(lambda: len(sink.opened) == 3 and spool.empty, 30)
    over.set()
    sampler.join()
    flusher.stop()
    spool.close()
    assert_in_order(sink, put)


def assert_in_order(sink: Epochs, put: list[tuple[int, float]]) -> None:
    found = [value for _, _, value, _ in sink.samples()]
    assert found == [value for _, value in put], "all of them, in the order in which they were taken"
    by_epoch = {flush.epoch for flush in sink.flushes if flush.batch.sample_count}
    assert by_epoch == {1, 2, 3}
    for flush in sink.flushes:
        times = [t for series in flush.batch.series.values() for t in series.ts_us.tolist()]
        assert times == sorted(times), "no flush mixes times from before and after a step"
    assert [reason for _, reason in sink.closed] == ["clock_step", "clock_step", "stopped"]
    assert sink.opened[1] - sink.opened[0] > 3500 * SECOND
    assert sink.opened[2] < sink.opened[1]
