"""What a recorder does with one set-up, and how it goes over to the next without losing a sample."""

from __future__ import annotations

import asyncio
import contextlib
import json
import logging
from collections import defaultdict
from collections.abc import Awaitable, Callable, Mapping, Sequence
from dataclasses import dataclass
from typing import Any, Final

from cronaca.core.addresses import load_settings
from cronaca.core.addresses.names import CALCULATED
from cronaca.core.errors import InvalidInput, SourceError, SourceRefused
from cronaca.core.loggers import Logger, OnChange, OnTrigger, Periodic
from cronaca.core.model import SECOND, Series, SourceSetup, SourceState, Tag, Window
from cronaca.core.outputs import SafeRecord
from cronaca.core.ports import (
    Driver,
    HistoryOf,
    LastKnown,
    LoggerReport,
    MissedReadings,
    Remembered,
    ReportingDriver,
    SourceReport,
)
from cronaca.core.readings import Readings, Values
from cronaca.core.setup.specs import secret_belongs
from cronaca.core.setup.whole import Setup
from cronaca.recorder.clock import AnchoredClock
from cronaca.recorder.devices.follow import SourceFollower
from cronaca.recorder.devices.scan import SourceScanner
from cronaca.recorder.devices.source import SourceWorker
from cronaca.recorder.live import LiveTable
from cronaca.recorder.outputs.queue import OutputQueue
from cronaca.recorder.pipeline import Pipeline
from cronaca.recorder.reporting import NowAndThen, Rates
from cronaca.recorder.stages.calculations import Calculator, Recall
from cronaca.recorder.stages.logger_set import LoggerSet
from cronaca.recorder.stages.memory import UnrecordedMemory
from cronaca.recorder.stages.runs import RunWatcher
from cronaca.recorder.stages.stage import Moment, Stage, StageContext

MakeDriver = Callable[[SourceSetup], Driver]
FillPast = Callable[[MissedReadings], Awaitable[None]]
_CANCEL_AGAIN_S: Final = 0.5
_log = logging.getLogger(__name__)


@dataclass(slots=True)
class _Scanned:
    """A source at work."""

    scanner: SourceWorker
    tags: list[Tag]
    task: asyncio.Task[None] | None = None


class Work:
    """Sources that are scanned and loggers that decide; everything here runs in the recorder's loop."""

    def __init__(
        self, live: LiveTable, queue: OutputQueue, make_driver: MakeDriver, clock: AnchoredClock,
        fill_past: FillPast | None = None, more_stages: Sequence[Stage] = (),
    ) -> None:  # fmt: skip
        """`more_stages` come behind the recorder's own."""
        self._live = live
        self._queue = queue
        self._make_driver = make_driver
        self._clock = clock
        self._fill_past = fill_past
        self._setup = Setup((), (), ())
        self._context = StageContext(live, queue, {}, {})
        self._sources: dict[int, _Scanned] = {}
        self._calculator = Calculator(live)
        self._loggers = LoggerSet(live)
        runs = RunWatcher(live, self._loggers.wanted)
        self._pipeline = Pipeline(
            live, queue, (self._calculator, runs, self._loggers, UnrecordedMemory(live), *more_stages)
        )
        self._rates = Rates()
        self._unheard: dict[int, str] = {}
        self._began_us = clock.now_us()
        self._heard = asyncio.Event()
        # Each has thousands to look through, and is asked for with every flush.
        self._logger_reports = NowAndThen(self._report_loggers)
        self._calculated_reports = NowAndThen(self._report_calculated)

    def restore(self, last: LastKnown) -> None:
        """What was committed last by the recorder before: meters go on from there."""
        self._pipeline.restore(last)

    def forgotten(self) -> list[Recall]:
        """What calculated tags need of the time before they began; each is told once."""
        return self._calculator.forgotten(self._clock.now_us())

    def remember(self, tag_id: int, past: Remembered) -> None:
        """Tells a calculated tag what was recorded before it began."""
        self._calculator.remember(tag_id, past)

    async def follow(self, setup: Setup, histories: HistoryOf) -> None:
        """Goes over to a set-up. What is not touched by it goes on as it is."""
        now_us = self._clock.now_us()
        self._live.follow(setup.tags, now_us)
        context = StageContext(self._live, self._queue, {tag.tag_id: tag for tag in setup.tags}, histories)
        leaving = self._follow_sources(setup)
        self._context, self._setup = context, setup
        self._pipeline.follow(setup, context, now_us)
        self._logger_reports.forget()
        self._calculated_reports.forget()
        await end_all([source.task for source in leaving if source.task is not None])

    def _follow_sources(self, setup: Setup) -> list[_Scanned]:
        """Starts, changes and takes out sources; returns those whose scanning is to be ended."""
        tags_of: dict[int, list[Tag]] = defaultdict(list)
        for tag in setup.tags:
            tags_of[tag.source_id].append(tag)
        sources = {
            source.source_id: source
            for source in setup.sources
            if source.enabled and source.protocol != CALCULATED
        }
        leaving = []
        for number, scanned in list(self._sources.items()):
            source = sources.get(number)
            if source is None or not _same_connection(source, scanned.scanner.setup):
                scanned.scanner.fail("It was disabled." if source is None else "It was changed.")
                leaving.append(self._sources.pop(number))
            elif scanned.tags != tags_of[number]:
                scanned.tags = tags_of[number]
                scanned.scanner.set_tags(scanned.tags)
        for number, source in sources.items():
            if number not in self._sources:
                self._sources[number] = self._begin(source, tags_of[number])
        return leaving

    def _begin(self, source: SourceSetup, tags: list[Tag]) -> _Scanned:
        driver, live, clock = self._driver(source), self._live, self._clock
        scanner: SourceWorker
        if isinstance(driver, ReportingDriver):
            scanner = SourceFollower(source, driver, tags, live, self._on_readings, clock, self._on_past)
        else:
            scanner = SourceScanner(
                source, driver, tags, live, self._on_readings, clock, on_missed=self._loggers.miss
            )
        return _Scanned(scanner, tags, asyncio.create_task(scanner.run()))

    def _driver(self, source: SourceSetup) -> Driver:
        try:
            return self._make_driver(source)
        except InvalidInput as exc:
            _log.error("Source %s cannot run: %s", source.name, exc)
            return _NoDriver(str(exc))
        except Exception as exc:  # noqa: BLE001 - kept where it happened, and said
            _log.exception("Source %s cannot run", source.name)
            return _NoDriver(f"its settings cannot be used: {type(exc).__name__}: {exc}")

    def begin(self, now_us: int) -> None:
        """Ticks count from now: a recorder may have waited for its lease."""
        self._pipeline.begin(now_us)

    async def end(self) -> None:
        """Ends all scanning; what loggers hold back is recorded."""
        await end_all([source.task for source in self._sources.values() if source.task is not None])
        self._pipeline.finish()

    def tick(self, now_us: int) -> None:
        """Records what is due. A source whose task has ended, whatever ended it, is begun anew."""
        for source in self._sources.values():
            if source.task is not None and source.task.done():
                _log.error("Source %s stopped being read; it is begun anew", source.scanner.setup.name)
                source.scanner.fail("Reading stopped, and is being restarted.")
                source.task = asyncio.create_task(source.scanner.run())
        known = {n: source.scanner.known_until_us(now_us) for n, source in self._sources.items()}
        moment = Moment(now_us, min([now_us, *known.values()]), known)
        if self._pipeline.on_time(moment):
            self._heard.set()

    async def wait_until_due(self, longest_s: float) -> None:
        """Returns when something is due, at the next reading, or after so long: idling costs little."""
        now_us = self._clock.now_us()
        pause_s = min((self._pipeline.next_time(now_us) - now_us) / SECOND, longest_s)
        if pause_s <= 0:
            return
        self._heard.clear()
        with contextlib.suppress(TimeoutError):
            async with asyncio.timeout(pause_s):
                await self._heard.wait()

    def tear(self) -> None:
        """The next values are recorded whatever they are: a hole was torn, and nobody knows across it."""
        self._pipeline.tear(self._clock.now_us())

    def _on_readings(self, readings: Readings) -> None:
        self._heard.set()
        self._pipeline.offer(readings)

    async def _on_past(self, tag: Tag, window: Window, readings: Series) -> None:
        """What a device remembers of its outage is for each logger that records the tag by itself."""
        takers, context = [], self._context
        for logger in self._setup.loggers:
            mode = logger.mode
            if not logger.wanted or not isinstance(mode, Periodic | OnChange):
                continue
            if tag.tag_id in logger.tags and self._loggers.hold_of(logger.logger_id) is None:
                takers.append((context.histories[logger.archive, tag.tag_id][0], mode))
        if takers and self._fill_past is not None:
            await self._fill_past(MissedReadings(tag, window, readings, tuple(takers)))

    def secret_for(self, uid: str, protocol: str, config: Mapping[str, Any]) -> str:
        """The password that is kept for a source, for a connection that is the source's own; raises
        InvalidInput when it is another one."""
        source = next((source for source in self._setup.sources if source.uid == uid), None)
        if source is None or not source.secret:
            return ""
        kept = load_settings(source.protocol, json.loads(source.config))
        if not secret_belongs(load_settings(protocol, config), kept):
            raise InvalidInput(
                "secret",
                "password-kept-given-another-endpoint",
                "the password that is kept was given for another endpoint, security or user",
                "Type it again.",
            )
        return source.secret

    def ask_for_record(self, logger_id: int) -> str:
        """One sample or record of a logger's tags now, in any mode; returns why not, or nothing."""
        return self._loggers.ask_for_record(logger_id, self._clock.now_us())

    async def tell_plant(self, safe: Sequence[SafeRecord]) -> None:
        """Writes numbers of records that are committed, and resets their trigger bits."""
        for record in safe:
            logger = next((x for x in self._setup.loggers if x.logger_id == record.logger_id), None)
            if logger is None or not isinstance(logger.mode, OnTrigger):
                continue
            spec = logger.mode.trigger
            if spec.number_tag is not None:
                await self._write(record.logger_id, spec.number_tag, record.number)
            if spec.reset and spec.tag is not None:
                await self._write(record.logger_id, spec.tag, 0)

    async def _write(self, logger_id: int, tag_id: int, value: float) -> None:
        refused = await self.write_value(tag_id, value)
        if refused:
            self._unheard[logger_id] = f"The recording status could not be written: {refused}"
        else:
            self._unheard.pop(logger_id, None)

    async def write_value(self, tag_id: int, value: float) -> str:
        """Writes a value to the source of a tag; returns why it was refused, or nothing."""
        tag = self._context.tags.get(tag_id)
        if tag is None:
            return "The tag is not active: it was removed, or just added."
        if self._calculator.has(tag_id):
            return self._set_meter(tag, value)
        source = self._sources.get(tag.source_id)
        try:
            if source is None:
                raise SourceRefused("its source is disabled")
            await source.scanner.write(tag, value)
        except SourceError as exc:
            _log.warning("%s cannot be written: %s", tag.name, exc)
            return f"{tag.name} cannot be written: {exc.reason}"
        except Exception as exc:  # noqa: BLE001 - kept where it happened, and said
            _log.exception("%s cannot be written", tag.name)
            return f"{tag.name} cannot be written: its driver failed ({type(exc).__name__}: {exc})"
        return ""

    def _set_meter(self, tag: Tag, value: float) -> str:
        try:
            stands = self._calculator.set_meter(tag.tag_id, value, self._clock.now_us())
        except InvalidInput as exc:
            return str(exc)
        self._on_readings(stands)
        return ""

    def known_until_us(self) -> int:
        """Up to here everything is decided; called from the flusher's thread too."""
        now_us = self._clock.now_us()
        scans = [source.scanner.known_until_us(now_us) for source in list(self._sources.values())]
        return int(min([now_us, self._pipeline.known_until(now_us), *scans]))

    def sources_known(self) -> tuple[tuple[int, int], ...]:
        """Of each source, up to where all samples of its tags are decided; called from the flusher's thread.
        A source that is slow holds back nobody but itself."""
        now_us = self._clock.now_us()
        known = {
            n: min(now_us, source.scanner.known_until_us(now_us)) for n, source in list(self._sources.items())
        }
        for source in self._setup.sources:
            known.setdefault(source.source_id, now_us)
        self._pipeline.lower_known(known, now_us)
        return tuple(sorted(known.items()))

    def faults(self) -> tuple[str, ...]:
        """What of the set-up is set aside because it failed."""
        named = ((logger.name, self._loggers.why_failed(logger.logger_id)) for logger in self._setup.loggers)
        return (*(f"Logger {name}: {why}" for name, why in named if why), *self._pipeline.faults())

    @property
    def late_scans(self) -> int:
        """Scans that began late, of the sources at work."""
        return sum(source.scanner.late_scans for source in list(self._sources.values()))

    def source_reports(self) -> tuple[SourceReport, ...]:
        """How each source is doing; calculated values as of a second ago at most."""
        scanned = (source.scanner.report for source in list(self._sources.values()))
        return (*scanned, *self._calculated_reports.get())

    def _report_calculated(self) -> tuple[SourceReport, ...]:
        return tuple(
            self._calculated_report(source)
            for source in self._setup.sources
            if source.enabled and source.protocol == CALCULATED
        )

    def _calculated_report(self, source: SourceSetup) -> SourceReport:
        mine = [tag.tag_id for tag in self._setup.tags if tag.source_id == source.source_id]
        return SourceReport(source.source_id, SourceState.UP, self._began_us, self._calculator.unusable(mine))

    def logger_reports(self) -> tuple[LoggerReport, ...]:
        """How each logger is doing, as of a second ago at most."""
        return self._logger_reports.get()

    def _report_loggers(self) -> tuple[LoggerReport, ...]:
        kept = self._loggers.kept()
        rates = self._rates.of(kept)
        return tuple(self._report(logger, kept, rates) for logger in self._setup.loggers)

    def _report(self, logger: Logger, kept: dict[int, int], rates: dict[int, float]) -> LoggerReport:
        number = logger.logger_id
        state, why, reason = self._state(logger)
        return LoggerReport(
            number, state, reason, len(logger.tags), kept.get(number, 0),
            round(rates.get(number, 0.0), 2), why,
        )  # fmt: skip

    def _state(self, logger: Logger) -> tuple[str, str, str]:
        """State, kind of its reason, and the reason in words."""
        working = self._loggers.get(logger.logger_id)
        hold = self._loggers.hold_of(logger.logger_id)
        failed = self._loggers.why_failed(logger.logger_id)
        if not logger.wanted:
            return "stopped", "person", "It was stopped by a person."
        if failed:
            return "failed", "fault", failed
        if hold is not None:
            return hold.state, hold.why, hold.text
        if not logger.tags:
            return "recording", "no tags", "It has no tags."
        if working is not None and working.remark is not None:
            return working.remark
        unheard = self._unheard.get(logger.logger_id, "")
        return "recording", "status not written" if unheard else "none", unheard


class _NoDriver:
    """Stands for a source whose settings cannot be used: it says so, and the others run."""

    def __init__(self, reason: str) -> None:
        self._reason = reason

    async def connect(self) -> None:
        raise SourceRefused(self._reason)

    async def read(self, tags: Sequence[Tag]) -> Values:
        raise SourceRefused(f"{self._reason} ({len(tags)} tags)")

    async def write(self, tag: Tag, value: float) -> None:
        raise SourceRefused(f"{self._reason} ({tag.name} = {value})")

    async def close(self) -> None:
        """Nothing was opened."""


def _same_connection(a: SourceSetup, b: SourceSetup) -> bool:
    """A new name alone is no reason to connect anew."""
    return (a.protocol, a.config, a.secret) == (b.protocol, b.config, b.secret)


async def end_all(tasks: Sequence[asyncio.Task[None]]) -> None:
    """Ends tasks. A protocol library may swallow a cancellation: it is said until it is heard."""
    pending = set(tasks)
    while pending:
        for task in pending:
            task.cancel()
        _, pending = await asyncio.wait(pending, timeout=_CANCEL_AGAIN_S)
