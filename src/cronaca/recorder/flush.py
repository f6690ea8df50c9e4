"""The flusher: takes what waits, commits it, and never gives a batch up while the database is away."""

from __future__ import annotations

import logging
import threading
import time
from collections.abc import Callable
from dataclasses import dataclass
from typing import Final

from cronaca.core.errors import LeaseLost, StoreError
from cronaca.core.ports import Flush, LiveValues, RecorderReport, SampleSink
from cronaca.recorder.clock import AnchoredClock
from cronaca.recorder.queue import SampleQueue

PERIOD_S: Final = 0.5
_LONGEST_PAUSE_S: Final = 5.0
_log = logging.getLogger(__name__)


@dataclass(frozen=True, slots=True)
class Feeds:
    """What a flush is made from; the callables are safe to call from the flusher's thread."""

    queue: SampleQueue
    take_live: Callable[[], LiveValues]
    known_until_us: Callable[[], int]
    report: Callable[[float, float], RecorderReport]
    """From samples per second and the last flush's milliseconds."""


class Flusher:
    """Commits to a sink in a thread of its own, so that a stalled database never blocks sampling."""

    def __init__(self, sink: SampleSink, feeds: Feeds, clock: AnchoredClock, holder: str) -> None:
        self._sink = sink
        self._feeds = feeds
        self._clock = clock
        self._holder = holder
        self._stop = threading.Event()
        self._thread = threading.Thread(target=self._run, name="flusher", daemon=True)
        self._epoch = 0
        self._seq = 0
        self._rate = 0.0
        self._collected = time.monotonic()
        self._last_ms = 0.0
        self.failed: Exception | None = None

    def start(self, epoch: int) -> None:
        """Begins to flush into an open epoch."""
        self._epoch = epoch
        self._thread.start()

    def stop(self) -> None:
        """Flushes once more, ends the epoch, ends the thread."""
        self._stop.set()
        self._thread.join()

    @property
    def alive(self) -> bool:
        """False after the flusher met an error it cannot mend; `failed` holds it."""
        return self._thread.is_alive()

    def _run(self) -> None:
        try:
            while not self._stop.wait(PERIOD_S):
                self._follow_clock()
                self._commit(self._collect())
            last = self._collect()
            self._commit(last)
            self._sink.close_epoch(self._epoch, last.known_until_us, "stopped")
        except (LeaseLost, StoreError) as exc:
            _log.error("The recorder stops: %s", exc)
            self.failed = exc

    def _collect(self) -> Flush:
        # What is known is asked before what waits is taken: a sample in between is merely early.
        known_until_us = self._feeds.known_until_us()
        batch, gaps = self._feeds.queue.drain()
        now = time.monotonic()
        self._rate = 0.8 * self._rate + 0.2 * batch.sample_count / max(now - self._collected, PERIOD_S / 2)
        self._collected = now
        self._seq += 1
        return Flush(
            self._epoch,
            self._seq,
            known_until_us,
            self._clock.now_us(),
            batch,
            self._feeds.take_live(),
            tuple(gaps),
            self._feeds.report(self._rate, self._last_ms),
        )

    def _commit(self, flush: Flush) -> None:
        """Repeats until the flush is safe; when told to stop, gives the database one more chance."""
        pause = PERIOD_S
        while True:
            started = time.perf_counter()
            try:
                self._sink.commit(flush)
            except LeaseLost:
                raise
            except StoreError as exc:
                if self._stop.is_set():
                    raise
                _log.warning("The database is away; samples wait: %s", exc)
                self._stop.wait(pause)
                pause = min(2 * pause, _LONGEST_PAUSE_S)
                continue
            self._last_ms = (time.perf_counter() - started) * 1000
            return

    def _follow_clock(self) -> None:
        """A step of the wall clock ends the epoch and opens another one: order is by epoch, then time."""
        before_us = self._feeds.known_until_us()
        step_us = self._clock.follow_wall()
        if not step_us:
            return
        _log.warning("The clock of the machine was set by %.3f s", step_us / 1e6)
        self._commit(self._collect())
        self._sink.close_epoch(self._epoch, before_us, "clock_step")
        number = self._sink.open_epoch(self._holder, self._clock.now_us())
        if number is None:
            raise LeaseLost(self._epoch)
        self._epoch, self._seq = number, 0
