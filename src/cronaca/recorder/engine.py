"""The recorder: sources are scanned, loggers decide, the flusher commits; a changed set-up is followed."""

from __future__ import annotations

import asyncio
import contextlib
import json
import logging
from collections import deque
from collections.abc import Callable, Coroutine, Sequence
from concurrent.futures import Future
from dataclasses import dataclass, field, replace
from typing import Any, Final

from cronaca.core.addresses.names import CALCULATED
from cronaca.core.errors import CronacaError, InvalidInput, StoreError, StoreUnavailable
from cronaca.core.outputs import SafeRecord
from cronaca.core.ports import (
    BackfillSink,
    Control,
    HistoryLookup,
    HistoryOf,
    LastKnown,
    MissedReadings,
    News,
    RecorderReport,
    Remembered,
    Request,
    SampleSink,
    SetupKeeper,
    StatusBoard,
)
from cronaca.core.setup.whole import Setup
from cronaca.recorder import requests
from cronaca.recorder.clock import AnchoredClock
from cronaca.recorder.live import LiveTable
from cronaca.recorder.outputs.flush import Feeds, Flusher
from cronaca.recorder.outputs.quarantine import Quarantine
from cronaca.recorder.outputs.queue import OutputQueue
from cronaca.recorder.outputs.spool import Spool
from cronaca.recorder.stages.calculations import Recall
from cronaca.recorder.stages.stage import Stage
from cronaca.recorder.work import MakeDriver, Work, end_all

MOST_QUEUED: Final = 5_000_000
"""Samples held in memory while a commit hangs: about 160 MB. Behind them stands the spool on disk."""
_LEASE_PAUSE_S: Final = 0.5
_TICK_S: Final = 0.02
_IDLE_TICK_S: Final = 0.1
"""How long the loop sleeps at most while nothing is due and no reading comes."""
_LOOK_S: Final = 0.5
"""How often a changed set-up and requests are looked for: a change is at work within 2 s."""
_RECALL_AGAIN_S: Final = 2.0
_SETTLE_S: Final = 0.2
_STEADY_TICKS: Final = 100
_MOST_FAULTS: Final = 20
_UNKNOWN: Final = -1
"""Revision of a set-up that is not the database's."""
_LONGEST_FAULT: Final = 300
_log = logging.getLogger(__name__)


@dataclass(frozen=True, slots=True)
class Outlet:
    """Where a recorder's samples go, under whose name, and what people may ask of it."""

    sink: SampleSink
    spool: Spool
    holder: str
    control: Control | None = None
    past: BackfillSink | None = None
    servers: requests.Servers = field(default_factory=requests.Servers)
    last_known: Callable[[], LastKnown] = LastKnown.none
    """Called when recording begins: what was committed last, by whoever recorded. Raises StoreError."""
    board: StatusBoard = field(default_factory=StatusBoard)
    memory: HistoryLookup | None = None
    quarantine: Quarantine = field(default_factory=lambda: Quarantine(None))
    beat: Callable[[], None] = lambda: None
    """Called as long as the recorder's loop goes round: a sign of life."""
    keeper: SetupKeeper | None = None
    last_epoch: int | None = None
    """The epoch under which this recorder used the set-up that it begins with, when that is one kept on disk:
    it may begin while the database is away."""
    more_stages: Sequence[Stage] = ()
    """Stages behind the recorder's own."""
    niceness: int = 0
    """Of this process, by its operating system: below 0 it is preferred."""


class Recorder:
    """Records a set-up, and follows its changes, until it is stopped."""

    def __init__(
        self,
        setup: Setup,
        make_driver: MakeDriver,
        histories: HistoryOf,
        outlet: Outlet,
        *,
        block: int,
        revision: int = 0,
        clock: AnchoredClock | None = None,
        most_queued: int = MOST_QUEUED,
    ) -> None:
        self._clock = clock or AnchoredClock()
        self._outlet = outlet
        self._first = News(revision, setup, histories)
        self._revision = revision
        self._make_driver = make_driver
        self._live = LiveTable(setup.tags, self._clock.now_us(), block)
        self._queue = OutputQueue(most_queued)
        self._work = Work(
            self._live, self._queue, make_driver, self._clock, self._fill_past, outlet.more_stages
        )
        self._serving: set[asyncio.Task[None]] = set()
        self._loop: asyncio.AbstractEventLoop | None = None
        self._restored = False
        self._opened = 0
        feeds = Feeds(
            self._queue, self._tell_safe,
            self._live.take_changed, self._live.offer_again, self._work.known_until_us, self._report,
            self._work.sources_known,
        )  # fmt: skip
        self._flusher = Flusher(
            outlet.sink, feeds, self._clock, outlet.holder, outlet.spool, outlet.quarantine
        )
        self._faults: deque[str] = deque(maxlen=_MOST_FAULTS)

    async def run(self, stop: asyncio.Event) -> None:
        """Waits for the lease, then records until `stop` is set; raises what ended it otherwise."""
        self._loop = asyncio.get_running_loop()
        try:
            epoch = await self._wait_for_lease(stop)
        except StoreUnavailable as exc:
            if self._outlet.last_epoch is None:
                raise
            await self._begin_without_database(self._outlet.last_epoch, exc)
        else:
            if epoch is None:
                return
            await self._begin(epoch)
        watching = asyncio.create_task(self._watch())
        try:
            await self._tick_until(stop, watching)
        finally:
            await end_all([watching, *self._serving])
            await self._work.end()
            await asyncio.to_thread(self._flusher.stop)
        if self._flusher.failed is not None:
            raise self._flusher.failed
        if not stop.is_set():
            raise CronacaError("Writing to the database ended unexpectedly.")

    async def _begin(self, epoch: int) -> None:
        _log.info("Recording begins, epoch %d", epoch)
        self._opened = epoch
        await self._restore()
        # Reading what was committed last takes seconds on a busy machine: what was missed since the lease is
        # part of the gap. From here on each logger says for itself which ticks it missed.
        began_us = self._clock.now_us()
        await asyncio.to_thread(self._outlet.sink.begin_epoch, epoch, began_us)
        await self._follow(self._first)
        self._work.begin(began_us)
        self._flusher.start(epoch)

    async def _begin_without_database(self, last_epoch: int, exc: StoreUnavailable) -> None:
        """Samples go to the spool under the epoch of the life before, as if that had only been cut off; a new
        epoch is opened when the database is back, and they fill the gap. What is calculated begins then: only
        the database knows what meters stood at."""
        _log.warning("Recording begins without the database, with the set-up used last: %s", exc)
        setup = self._first.setup
        if setup is not None:
            sources = tuple(
                replace(source, enabled=source.enabled and source.protocol != CALCULATED)
                for source in setup.sources
            )
            await self._follow(replace(self._first, setup=replace(setup, sources=sources)))
        self._revision = _UNKNOWN  # the set-up is asked for as soon as the database answers
        self._work.begin(self._clock.now_us())
        self._flusher.start(last_epoch, open_first=True)

    async def _restore(self) -> None:
        """What was committed last is known again: meters go on from there."""
        if not self._restored:
            last = await asyncio.to_thread(self._outlet.last_known)
            self._work.restore(last.newest(self._outlet.spool.states))
            self._restored = True

    async def _wait_for_lease(self, stop: asyncio.Event) -> int | None:
        said = False
        while not stop.is_set():
            self._outlet.beat()
            sink, holder = self._outlet.sink, self._outlet.holder
            epoch = await asyncio.to_thread(sink.open_epoch, holder, self._clock.now_us())
            if epoch is not None:
                return epoch
            if not said:
                _log.info("Another recorder holds the lease; waiting for it to lapse")
                said = True
            await asyncio.sleep(_LEASE_PAUSE_S)
        return None

    async def _tick_until(self, stop: asyncio.Event, watching: asyncio.Task[None]) -> None:
        _, known_steps = self._clock.now_and_steps()
        torn = _Torn()
        while not stop.is_set() and self._flusher.alive:
            self._outlet.beat()
            now_us, steps = self._clock.now_and_steps()
            self._work.tick(now_us)
            if steps != known_steps:
                self._restart()  # ticks that a set clock leaves out are its own gap on record
            known_steps = steps
            if torn.has_ended(self._dropped):
                self._restart()
            if watching.done():
                raise watching.exception() or asyncio.CancelledError
            await asyncio.sleep(_TICK_S)
            if not torn.open:
                await self._work.wait_until_due(_IDLE_TICK_S - _TICK_S)

    async def _watch(self) -> None:
        """Follows the set-up and serves requests for ever."""
        control = self._outlet.control
        if control is None:
            await asyncio.Event().wait()
            return
        while True:
            await asyncio.sleep(_LOOK_S)
            try:
                news = await asyncio.to_thread(control.look, self._revision)
            except StoreUnavailable as exc:
                _log.debug("The set-up cannot be read: %s", exc)
                continue
            except Exception as exc:  # noqa: BLE001 - kept where it happened, and said
                self._say_fault("The set-up cannot be read", exc)
                continue
            await self._follow_news(news)
            for request in news.requests:
                self._in_background(self._serve(request, control))

    async def _follow_news(self, news: News) -> None:
        """A set-up that cannot be applied is said, and the one at work goes on."""
        if news.setup is None:
            return
        try:
            await self._restore()
            await self._follow(news)
            _log.info("The set-up has changed: revision %d is at work", news.revision)
        except Exception as exc:  # noqa: BLE001 - kept where it happened, and said
            self._say_fault(f"Revision {news.revision} of the set-up cannot be applied", exc)
            self._revision = news.revision  # it would not be taken up the next time either

    def _in_background(self, work: Coroutine[Any, Any, None]) -> None:
        """Runs something beside the recording; a fault of it is said and costs nothing else."""
        task = asyncio.create_task(work)
        self._serving.add(task)

        def done(ended: asyncio.Task[None]) -> None:
            self._serving.discard(ended)
            exc = None if ended.cancelled() else ended.exception()
            if exc is not None:
                self._say_fault("Something asked of the recorder failed", exc)

        task.add_done_callback(done)

    def _say_fault(self, what: str, exc: BaseException) -> None:
        _log.error("%s", what, exc_info=exc)
        text = f"{what}: {type(exc).__name__}: {exc}"[:_LONGEST_FAULT]
        if text not in self._faults:
            self._faults.append(text)

    async def _follow(self, news: News) -> None:
        if news.setup is not None and news.histories is not None:
            await self._work.follow(news.setup, news.histories)
            self._recall()
            self._revision = news.revision
            self._keep(news.setup, news.histories)
            board = self._outlet.board
            board.zone = news.setup.zone
            board.sources = {source.source_id: source.uid for source in news.setup.sources}
            board.loggers = {logger.logger_id: logger.uid for logger in news.setup.loggers}

    def _keep(self, setup: Setup, histories: HistoryOf) -> None:
        """The set-up is kept beside the recorder, for a start without the database."""
        keeper = self._outlet.keeper
        if keeper is None or self._revision == _UNKNOWN or not self._restored:
            return

        async def keep() -> None:
            epoch = self._flusher.epoch or self._opened
            if not epoch:
                return
            try:
                await asyncio.to_thread(keeper.keep, epoch, setup, histories)
            except OSError as exc:
                self._say_fault("The set-up could not be kept on disk for a start without the database", exc)

        self._in_background(keep())

    def _restart(self) -> None:
        """Nothing is carried across what just happened but what is on record."""
        self._work.tear()
        self._recall()

    def _recall(self) -> None:
        """Statistics over long windows need what was recorded before they began."""
        memory, specs = self._outlet.memory, self._work.forgotten()
        if memory is not None and specs:
            self._in_background(self._remember(memory, specs))

    async def _remember(self, memory: HistoryLookup, specs: Sequence[Recall]) -> None:
        """While the database is away it is asked again: what was recorded does not change."""
        for spec in specs:
            past = await self._recalled(memory, spec)
            if past is not None:
                self._work.remember(spec.tag_id, past)

    async def _recalled(self, memory: HistoryLookup, spec: Recall) -> Remembered | None:
        while True:
            try:
                past = await asyncio.to_thread(memory.recall, spec.of_tag, spec.window)
                if past is not None:
                    return past
                await asyncio.sleep(_SETTLE_S)
            except StoreError as exc:
                _log.warning("What was recorded before is not known to a statistic yet: %s", exc)
                await asyncio.sleep(_RECALL_AGAIN_S)
            except InvalidInput as exc:  # more samples than one reading may hold
                _log.warning("A statistic begins without what was recorded before: %s", exc)
                return None

    async def _fill_past(self, missed: MissedReadings) -> None:
        """Has what was written of an outage corrected, once all of it is in the database."""
        backfill, now_us = self._outlet.past, self._clock.now_us()
        if backfill is None:
            return
        while self._flusher.safe_until_us <= now_us:
            await asyncio.sleep(_SETTLE_S)
        await asyncio.to_thread(backfill.fill, missed)

    def _tell_safe(self, safe: tuple[SafeRecord, ...]) -> None:
        """Called from the flusher's thread: writing to the plant is the loop's work."""
        if self._loop is not None and self._loop.is_running():
            telling = asyncio.run_coroutine_threadsafe(self._work.tell_plant(safe), self._loop)
            telling.add_done_callback(_say_failure)

    async def _serve(self, request: Request, control: Control) -> None:
        answer: dict[str, Any]
        try:
            answer = await requests.serve(request, self._make_driver, self._work, self._outlet.servers)
        except Exception as exc:  # noqa: BLE001 - who asked is told, and so is health
            self._say_fault(f"The request {request.kind} failed", exc)
            answer = {"ok": False, "reason": f"It failed: {type(exc).__name__}: {exc}", "values": []}
        with contextlib.suppress(StoreError):  # who asked gives up by himself
            await asyncio.to_thread(control.answer, request.number, json.dumps(answer))

    @property
    def late_scans(self) -> int:
        """Scans that began late."""
        return self._work.late_scans

    @property
    def _dropped(self) -> int:
        return self._queue.dropped + self._outlet.spool.dropped

    def _report(self, rate: float, flush_ms: float) -> RecorderReport:
        report = RecorderReport(
            samples_per_second=round(rate, 1),
            queued_samples=self._queue.queued + self._outlet.spool.waiting,
            dropped_samples=self._dropped,
            late_scans=self._work.late_scans,
            last_flush_ms=round(flush_ms, 1),
            sources=self._work.source_reports(),
            loggers=self._work.logger_reports(),
            revision=self._revision,
            spooled_samples=self._outlet.spool.waiting,
            spool_bytes=0 if self._outlet.spool.empty else self._outlet.spool.size,
            niceness=self._outlet.niceness,
            quarantined=self._outlet.quarantine.count,
            quarantine=self._outlet.quarantine.newest,
            faults=(*self._faults, *self._work.faults()),
        )
        self._outlet.board.report = report
        return report


def _say_failure(telling: Future[None]) -> None:
    """What nobody awaits must not fail unheard."""
    if not telling.cancelled() and telling.exception() is not None:
        _log.error("The plant was not told of a record", exc_info=telling.exception())


class _Torn:
    """Watches the count of dropped samples: where it has stood still again, a hole ended."""

    def __init__(self) -> None:
        self._seen: int | None = None
        self._steady = 0
        self.open = False
        """Whether samples were dropped a moment ago."""

    def has_ended(self, dropped: int) -> bool:
        """True once, some ticks after the last sample of a row was dropped."""
        if dropped != self._seen:
            self.open, self._steady = self._seen is not None, 0
            self._seen = dropped
            return False
        self._steady += 1
        if self.open and self._steady >= _STEADY_TICKS:
            self.open = False
            return True
        return False
