"""The recorder: sources are scanned, loggers decide, the flusher commits."""

from __future__ import annotations

import asyncio
import logging
from collections.abc import Mapping
from dataclasses import dataclass
from typing import Final

from cronaca.core.codec.batch import HistoryKey
from cronaca.core.errors import CronacaError
from cronaca.core.model import Gap, GapReason, LoggerMode, Setup, ValueType, Window
from cronaca.core.ports import Driver, Reading, RecorderReport, SampleSink
from cronaca.recorder.clock import AnchoredClock
from cronaca.recorder.flush import Feeds, Flusher
from cronaca.recorder.live import LiveTable, Slots
from cronaca.recorder.loggers import ChangeLogger, PeriodicLogger
from cronaca.recorder.queue import SampleQueue
from cronaca.recorder.scan import SourceScanner
from cronaca.recorder.spool import Spool

MOST_QUEUED: Final = 5_000_000
"""Samples held in memory while a commit hangs: about 160 MB. Behind them stands the spool on disk."""
_LEASE_PAUSE_S: Final = 0.5
_TICK_S: Final = 0.02
_CANCEL_AGAIN_S: Final = 0.5
_log = logging.getLogger(__name__)

HistoryOf = Mapping[tuple[int, int], tuple[HistoryKey, ValueType]]
"""The open history of each (archive, tag)."""


@dataclass(frozen=True, slots=True)
class Outlet:
    """Where a recorder's samples go, and under whose name."""

    sink: SampleSink
    spool: Spool
    holder: str


class Recorder:
    """Records one set-up until it is stopped."""

    def __init__(
        self,
        setup: Setup,
        drivers: Mapping[int, Driver],
        histories: HistoryOf,
        outlet: Outlet,
        *,
        block: int,
        clock: AnchoredClock | None = None,
        most_queued: int = MOST_QUEUED,
    ) -> None:
        self._clock = clock or AnchoredClock()
        self._sink = outlet.sink
        self._holder = outlet.holder
        now_us = self._clock.now_us()
        self._live = LiveTable(setup.tags, now_us, block)
        self._queue = SampleQueue(list(histories.values()), most_queued)
        self._periodic, self._on_change = _build_loggers(setup, histories, self._live, now_us)
        self._scanners = [
            SourceScanner(
                source,
                drivers[source.source_id],
                [tag for tag in setup.tags if tag.source_id == source.source_id],
                self._live,
                self._on_reading,
                self._clock,
            )
            for source in setup.sources
            if source.enabled
        ]
        self._spool = outlet.spool
        feeds = Feeds(
            self._queue, self._live.take_changed, self._live.offer_again, self._known_until_us, self._report
        )
        self._flusher = Flusher(outlet.sink, feeds, self._clock, outlet.holder, outlet.spool)

    async def run(self, stop: asyncio.Event) -> None:
        """Waits for the lease, then records until `stop` is set; raises what ended it otherwise."""
        epoch = await self._wait_for_lease(stop)
        if epoch is None:
            return
        _log.info("Recording begins, epoch %d", epoch)
        for logger in self._periodic:
            logger.begin(self._clock.now_us())
        self._flusher.start(epoch)
        tasks = [asyncio.create_task(scanner.run()) for scanner in self._scanners]
        try:
            await self._tick_until(stop, tasks)
        finally:
            await _end(tasks)
            await asyncio.to_thread(self._flusher.stop)
        if self._flusher.failed is not None:
            raise self._flusher.failed

    async def _wait_for_lease(self, stop: asyncio.Event) -> int | None:
        said = False
        while not stop.is_set():
            epoch = await asyncio.to_thread(self._sink.open_epoch, self._holder, self._clock.now_us())
            if epoch is not None:
                return epoch
            if not said:
                _log.info("Another recorder holds the lease; waiting for it to lapse")
                said = True
            await asyncio.sleep(_LEASE_PAUSE_S)
        return None

    async def _tick_until(self, stop: asyncio.Event, tasks: list[asyncio.Task[None]]) -> None:
        _, known_steps = self._clock.now_and_steps()
        while not stop.is_set() and self._flusher.alive:
            now_us, steps = self._clock.now_and_steps()
            missed = [logger.record_due(now_us, self._queue) for logger in self._periodic]
            if steps == known_steps:
                self._note_missed([window for window in missed if window is not None])
            known_steps = steps  # ticks that a clock set ahead leaves out are its own gap on record
            for task in tasks:
                if task.done():
                    raise task.exception() or CronacaError("A source stopped being scanned.")
            await asyncio.sleep(_TICK_S)

    def _note_missed(self, windows: list[Window]) -> None:
        """Nothing was looked at while the recorder stood still: that holds for every tag."""
        if windows:
            start, end = min(w.start_us for w in windows), max(w.end_us for w in windows)
            detail = f"The machine held the recorder up; nothing was sampled for {(end - start) / 1e6:g} s."
            self._queue.note_gap(Gap(start, end, GapReason.RECORDER_LATE, detail))

    def _on_reading(self, slots: Slots, ts_us: int, reading: Reading) -> None:
        self._live.update(slots, ts_us, reading)
        for logger in self._on_change:
            logger.on_reading(slots, ts_us, reading, self._queue)

    def _known_until_us(self) -> int:
        now_us = self._clock.now_us()
        scans = [scanner.known_until_us(now_us) for scanner in self._scanners]
        return min([now_us, *scans, *(logger.next_us for logger in self._periodic)])

    def _report(self, rate: float, flush_ms: float) -> RecorderReport:
        return RecorderReport(
            samples_per_second=round(rate, 1),
            queued_samples=self._queue.queued + self._spool.waiting,
            dropped_samples=self._queue.dropped + self._spool.dropped,
            late_scans=sum(scanner.late_scans for scanner in self._scanners),
            last_flush_ms=round(flush_ms, 1),
            sources=tuple(scanner.report for scanner in self._scanners),
        )


async def _end(tasks: list[asyncio.Task[None]]) -> None:
    """Ends all tasks. A protocol library may swallow a cancellation: it is said until it is heard."""
    pending = set(tasks)
    while pending:
        for task in pending:
            task.cancel()
        _, pending = await asyncio.wait(pending, timeout=_CANCEL_AGAIN_S)


def _build_loggers(
    setup: Setup, histories: HistoryOf, live: LiveTable, now_us: int
) -> tuple[list[PeriodicLogger], list[ChangeLogger]]:
    positions = {place: i for i, place in enumerate(histories)}
    periodic, on_change = [], []
    for logger in setup.loggers:
        mine = {tag_id: positions[logger.archive_id, tag_id] for tag_id in logger.tag_ids}
        if logger.mode is LoggerMode.PERIODIC:
            periodic.append(PeriodicLogger(logger, live, mine, now_us))
        else:
            on_change.append(ChangeLogger(logger, live, mine))
    return periodic, on_change
