"""The flusher: takes what waits, commits it, and puts it on disk while the database is away.

What the database refuses for good goes into the quarantine, part by part, and everything else goes on."""

from __future__ import annotations

import logging
import threading
import time
from collections import deque
from collections.abc import Callable
from dataclasses import dataclass, replace
from functools import partial
from typing import Final, NamedTuple

from cronaca.core.errors import LeaseLost, StoreConflict, StoreError, StoreUnavailable
from cronaca.core.outputs import SafeRecord
from cronaca.core.ports import Flush, LiveValues, RecorderReport, SampleSink
from cronaca.recorder.clock import AnchoredClock
from cronaca.recorder.outputs.quarantine import Quarantine
from cronaca.recorder.outputs.queue import OutputQueue
from cronaca.recorder.outputs.refusal import RefusedWhole, repair
from cronaca.recorder.outputs.spool import Entry, Spool

PERIOD_S: Final = 0.5
_LONGEST_PAUSE_S: Final = 5.0
_LONGEST_LEASE_S: Final = 3600.0
"""Without the database nobody knows whose lease it is: a stand-by that took over shows after so long."""
_log = logging.getLogger(__name__)


@dataclass(frozen=True, slots=True)
class Feeds:
    """What a flush is made from; the callables are safe to call from the flusher's thread."""

    queue: OutputQueue
    tell_safe: Callable[[tuple[SafeRecord, ...]], None]
    """Records are committed: the plant may be told."""
    take_live: Callable[[], LiveValues]
    offer_live_again: Callable[[], None]
    """Present values that were taken did not arrive."""
    known_until_us: Callable[[], int]
    report: Callable[[float, float], RecorderReport]
    """From samples per second and the last flush's milliseconds."""
    sources_known: Callable[[], tuple[tuple[int, int], ...]] = tuple
    """Of each source, until when its samples were handed to the queue."""


class _Step(NamedTuple):
    """A step of the wall clock whose epoch is still to be opened."""

    generation: int
    before_us: int | None
    """Until when the epoch before knew; None: that one is of a life before, and over."""
    after_us: int
    """The time at which sampling went on."""


class Flusher:
    """Commits to a sink in a thread of its own, so that a stalled database never blocks sampling.

    While the database is away, flushes go to the spool; once it is back they are forwarded in order, and
    new ones wait behind them. What an earlier epoch left in the spool fills time that is not covered."""

    def __init__(
        self, sink: SampleSink, feeds: Feeds, clock: AnchoredClock, holder: str, spool: Spool,
        quarantine: Quarantine | None = None,
    ) -> None:  # fmt: skip
        self._sink = sink
        self._feeds = feeds
        self._clock = clock
        self._holder = holder
        self._spool = spool
        self._quarantine = quarantine or Quarantine(None)
        self._stop = threading.Event()
        self._thread = threading.Thread(target=self._run, name="flusher", daemon=True)
        self._epoch = 0
        self._seq = 0
        self._known_us: int | None = None
        self._own: set[int] = set()
        """Epochs of this process; what it has spooled under one goes on under the next."""
        self._lapses_at = 0.0
        """Until then a lease that is held may be the one of the life before."""
        self._generation = 0
        """Steps of the clock so far."""
        self._steps: deque[_Step] = deque()
        self._rate = 0.0
        self._collected = time.monotonic()
        self._last_ms = 0.0
        self._pause = PERIOD_S
        self._again_at = 0.0
        self.failed: BaseException | None = None
        """What ended the thread, when it was not told to end."""
        self.safe_until_us = 0
        """What was handed to the flusher before this is in the database."""

    def start(self, epoch: int, *, open_first: bool = False) -> None:
        """Begins to flush into an open epoch. With `open_first` it is one of a life before that is over: all
        goes to the spool under it, until another one can be opened; that fills it in."""
        self._epoch = epoch
        self._known_us = self._feeds.known_until_us()
        if open_first:
            # Numbers behind all that this epoch may have given: milliseconds since 1970 are.
            self._seq = self._clock.now_us() // 1000
            self._lapses_at = time.monotonic() + _LONGEST_LEASE_S
            self._steps.append(_Step(self._generation, None, self._known_us))
        else:
            self._own.add(epoch)
        self._spool.note_known(self._known_us)
        self._thread.start()

    def stop(self) -> None:
        """Flushes once more, ends the epoch, ends the thread."""
        self._stop.set()
        self._thread.join()

    @property
    def epoch(self) -> int:
        """The epoch that is open; 0 before one is."""
        return self._epoch if self._epoch in self._own else 0

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
        except BaseException as exc:  # noqa: BLE001 - kept where it happened, and said
            # Whatever it is, its cause is kept: the recorder's loop ends by it, and says why.
            _log.exception("The flusher failed; the recorder stops")
            self.failed = exc

    def _collect(self) -> Flush:
        # What is known is asked before what waits is taken: a sample in between is merely early.
        known_until_us = self._feeds.known_until_us()
        batch, outputs = self._feeds.queue.drain()
        now = time.monotonic()
        self._rate = 0.8 * self._rate + 0.2 * batch.sample_count / max(now - self._collected, PERIOD_S / 2)
        self._collected = now
        self._seq += 1
        since_us, self._known_us = self._known_us, known_until_us
        return Flush(
            self._epoch,
            self._seq,
            known_until_us,
            self._clock.now_us(),
            batch,
            self._feeds.take_live(),
            (*self._spool.take_outputs(), *outputs),
            self._feeds.report(self._rate, self._last_ms),
            since_us,
            self._feeds.sources_known(),
        )

    def _keep(self, flush: Flush) -> None:
        """Makes a flush safe: in the database, or behind what waits on disk."""
        if self._spool.empty and not self._steps and self._try(flush, flush):
            self._spool.note_known(flush.known_until_us)
            self.safe_until_us = flush.known_until_us
            return
        self._spool.append(Entry.of(flush, self._generation))
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
            if not self._open_until(entry.generation if entry.epoch in self._own else 0):
                return arrived
            own = entry.epoch in self._own
            waiting = replace(
                newest, epoch=self._epoch if own else entry.epoch, seq=entry.seq,
                known_until_us=entry.known_until_us, received_us=entry.received_us,
                batch=entry.batch, outputs=entry.outputs, since_us=entry.since_us,
                sources_known=entry.sources_known,
            )  # fmt: skip
            if not self._try(waiting, None):
                return arrived
            self._spool.pop()
            if own:
                newest, arrived = replace(newest, live=LiveValues.none()), True
        return arrived

    def _commit_or_fill(self, flush: Flush) -> None:
        own = flush.epoch == self._epoch
        safe = self._sink.commit(flush) if own else self._sink.fill(self._epoch, flush)
        if safe:
            self._feeds.tell_safe(safe)

    def _store(self, flush: Flush) -> None:
        """Commits or fills; what is refused for good is taken out and put into the quarantine first."""
        try:
            self._commit_or_fill(flush)
        except (LeaseLost, StoreUnavailable, StoreConflict):
            raise
        except Exception as exc:  # noqa: BLE001 - kept where it happened, and said
            _log.warning("A flush is refused: %s", exc)
            repaired = repair(flush, partial(self._sink.probe, self._epoch))
            self._quarantine.put(repaired.refused, self._clock.now_us())
            self._commit_or_fill(repaired.flush)

    def _try(self, flush: Flush, at_stake: Flush | None) -> bool:
        """Stores a flush; False when the database is away. A flush at stake is never lost: when another
        recorder has taken over, it waits on disk for uncovered time to fill."""
        return self._tried(partial(self._store, flush), at_stake)

    def _tried(self, work: Callable[[], None], at_stake: Flush | None) -> bool:
        started = time.perf_counter()
        try:
            work()
        except LeaseLost:
            if at_stake is not None:
                self._spool.append(Entry.of(at_stake, self._generation))
            raise
        except (StoreError, RefusedWhole) as exc:
            _log.warning("The database cannot be written; samples go to the spool: %s", exc)
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
        self._keep(self._collect())
        # What comes from now on belongs to another epoch. While the database is away it waits on disk like
        # the rest, and the epoch is opened when its turn comes.
        self._generation += 1
        self._known_us = None
        self._steps.append(_Step(self._generation, before_us, self._clock.now_us()))
        if self._spool.empty and self._open_until(self._generation):
            self._seq = 0

    def _open_until(self, generation: int) -> bool:
        """Opens the epochs of the steps up to a generation; False while the database is away."""
        while self._steps and self._steps[0].generation <= generation:
            if not self._tried(partial(self._open_after_step, self._steps[0]), None):
                return False
            self._steps.popleft()
        return True

    def _open_after_step(self, step: _Step) -> None:
        if step.before_us is not None:
            self._sink.close_epoch(self._epoch, step.before_us, "clock_step")
        # Of a start without the database the new epoch begins now: what was sampled until then fills the gap.
        after_us = self._clock.now_us() if step.before_us is None else step.after_us
        number = self._sink.open_epoch(self._holder, after_us)
        if number is None and step.before_us is None and self._lapses_at > time.monotonic():
            raise StoreConflict("The lease of the previous run has not expired yet.")
        if number is None:
            raise LeaseLost(self._epoch)
        self._epoch = number
        self._own.add(number)
