"""The flusher: takes what waits, commits it, and puts it on disk while the database is away."""

from __future__ import annotations

import logging
import threading
import time
from collections.abc import Callable
from dataclasses import dataclass, replace
from functools import partial
from typing import Final

from cronaca.core.errors import LeaseLost, StoreError
from cronaca.core.ports import Flush, LiveValues, RecorderReport, SafeRecord, SampleSink
from cronaca.recorder.clock import AnchoredClock
from cronaca.recorder.queue import SampleQueue
from cronaca.recorder.spool import Entry, Spool

PERIOD_S: Final = 0.5
_LONGEST_PAUSE_S: Final = 5.0
_log = logging.getLogger(__name__)


@dataclass(frozen=True, slots=True)
class Feeds:
    """What a flush is made from; the callables are safe to call from the flusher's thread."""

    queue: SampleQueue
    tell_safe: Callable[[tuple[SafeRecord, ...]], None]
    """Records are committed: the plant may be told."""
    take_live: Callable[[], LiveValues]
    offer_live_again: Callable[[], None]
    """Present values that were taken did not arrive."""
    known_until_us: Callable[[], int]
    report: Callable[[float, float], RecorderReport]
    """From samples per second and the last flush's milliseconds."""


class Flusher:
    """Commits to a sink in a thread of its own, so that a stalled database never blocks sampling.

    While the database is away, flushes go to the spool; once it is back they are forwarded in order, and
    new ones wait behind them. What an earlier epoch left in the spool fills time that is not covered."""

    def __init__(
        self, sink: SampleSink, feeds: Feeds, clock: AnchoredClock, holder: str, spool: Spool
    ) -> None:
        self._sink = sink
        self._feeds = feeds
        self._clock = clock
        self._holder = holder
        self._spool = spool
        self._stop = threading.Event()
        self._thread = threading.Thread(target=self._run, name="flusher", daemon=True)
        self._epoch = 0
        self._seq = 0
        self._rate = 0.0
        self._collected = time.monotonic()
        self._last_ms = 0.0
        self._pause = PERIOD_S
        self._again_at = 0.0
        self.failed: Exception | None = None
        self.safe_until_us = 0
        """What was handed to the flusher before this is in the database."""

    def start(self, epoch: int) -> None:
        """Begins to flush into an open epoch."""
        self._epoch = epoch
        self._spool.note_known(self._feeds.known_until_us())
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
                self._keep(self._collect())
            last = self._collect()
            self._again_at = 0.0
            self._keep(last)
            if self._spool.empty:
                self._sink.close_epoch(self._epoch, last.known_until_us, "stopped")
            else:
                _log.warning("The database is away; %d samples stay in the spool", self._spool.waiting)
        except (StoreError, OSError) as exc:
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
            (*gaps, *self._spool.take_gaps()),
            self._feeds.report(self._rate, self._last_ms),
            (*self._spool.take_coverage(), *self._feeds.queue.take_coverage()),
            self._feeds.queue.take_records(),
            self._feeds.queue.take_runs(),
        )

    def _keep(self, flush: Flush) -> None:
        """Makes a flush safe: in the database, or behind what waits on disk."""
        if self._spool.empty and self._try(partial(self._commit_or_fill, flush), flush):
            self._spool.note_known(flush.known_until_us)
            self.safe_until_us = flush.known_until_us
            return
        self._spool.append(Entry.of(flush))
        if not self._forward(flush):
            self._feeds.offer_live_again()

    def _forward(self, newest: Flush) -> bool:
        """Commits what waits, oldest first, for about one period. The newest present values come along;
        True when they have arrived."""
        if time.monotonic() < self._again_at:
            return False
        deadline = time.monotonic() + PERIOD_S
        arrived = False
        while (entry := self._spool.peek()) is not None and time.monotonic() < deadline:
            waiting = replace(
                newest, epoch=entry.epoch, seq=entry.seq, known_until_us=entry.known_until_us,
                received_us=entry.received_us, batch=entry.batch, gaps=entry.gaps, coverage=entry.coverage,
                records=entry.records, runs=entry.runs,
            )  # fmt: skip
            if not self._try(partial(self._commit_or_fill, waiting), None):
                return arrived
            self._spool.pop()
            if entry.epoch == self._epoch:
                newest, arrived = replace(newest, live=LiveValues.none()), True
        return arrived

    def _commit_or_fill(self, flush: Flush) -> None:
        own = flush.epoch == self._epoch
        safe = self._sink.commit(flush) if own else self._sink.fill(self._epoch, flush)
        if safe:
            self._feeds.tell_safe(safe)

    def _try(self, work: Callable[[], None], at_stake: Flush | None) -> bool:
        """Does something with the database; False when it is away. A flush at stake is never lost: when
        another recorder has taken over, it waits on disk for uncovered time to fill."""
        started = time.perf_counter()
        try:
            work()
        except LeaseLost:
            if at_stake is not None:
                self._spool.append(Entry.of(at_stake))
            raise
        except StoreError as exc:
            _log.warning("The database is away; samples go to the spool: %s", exc)
            self._again_at = time.monotonic() + self._pause
            self._pause = min(2 * self._pause, _LONGEST_PAUSE_S)
            return False
        self._pause = PERIOD_S
        self._last_ms = (time.perf_counter() - started) * 1000
        return True

    def _follow_clock(self) -> None:
        """A step of the wall clock ends the epoch and opens another one: order is by epoch, then time."""
        before_us = self._feeds.known_until_us()
        step_us = self._clock.follow_wall()
        if not step_us:
            return
        _log.warning("The clock of the machine was set by %.3f s", step_us / 1e6)
        last = self._collect()
        self._keep(last)
        # What waits belongs to the old epoch: the new one begins when all of it is safe.
        while not self._stop.is_set():
            self._forward(last)
            if self._spool.empty and self._try(partial(self._open_after_step, before_us), None):
                return
            self._stop.wait(self._pause)

    def _open_after_step(self, before_us: int) -> None:
        self._sink.close_epoch(self._epoch, before_us, "clock_step")
        number = self._sink.open_epoch(self._holder, self._clock.now_us())
        if number is None:
            raise LeaseLost(self._epoch)
        self._epoch, self._seq = number, 0
