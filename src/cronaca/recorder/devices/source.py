"""The life of one source: connect, be served, fail, wait, connect again."""

from __future__ import annotations

import asyncio
import logging
from abc import ABC, abstractmethod
from collections.abc import Awaitable, Callable, Sequence
from typing import Final

from cronaca.core.errors import SourceError
from cronaca.core.model import SourceSetup, SourceState, Tag
from cronaca.core.ports import Clock, Driver, SourceReport
from cronaca.core.readings import Readings
from cronaca.recorder.live import LiveTable

FIRST_PAUSE_S: Final = 0.5
LONGEST_PAUSE_S: Final = 8.0
_LONGEST_REASON: Final = 300
_log = logging.getLogger(__name__)

Sleep = Callable[[float], Awaitable[None]]
OnReadings = Callable[[Readings], None]


class SourceWorker(ABC):
    """A source at work: `run` goes on until it is cancelled."""

    def __init__(
        self, setup: SourceSetup, driver: Driver, live: LiveTable, on_readings: OnReadings, clock: Clock,
        sleep: Sleep = asyncio.sleep,
    ) -> None:  # fmt: skip
        self._setup = setup
        self._driver = driver
        self._live = live
        self._on_readings = on_readings
        self._clock = clock
        self._sleep = sleep
        self._state = SourceState.CONNECTING
        self._since_us = clock.now_us()
        self._detail = ""
        self.late_scans = 0

    @property
    def report(self) -> SourceReport:
        """State, since when, and why."""
        return SourceReport(self._setup.source_id, self._state, self._since_us, self._detail)

    @property
    def setup(self) -> SourceSetup:
        """The source that is at work."""
        return self._setup

    @property
    @abstractmethod
    def tag_count(self) -> int:
        """How many tags it has."""

    @abstractmethod
    def set_tags(self, tags: Sequence[Tag]) -> None:
        """Has these tags from now on, without a new connection."""

    @abstractmethod
    def known_until_us(self, now_us: int) -> int:
        """Up to here every reading was handed on."""

    @abstractmethod
    async def _serve(self) -> None:
        """Hands readings on over an open connection, until SourceError."""

    @abstractmethod
    def _say_bad(self) -> None:
        """Hands on that no tag has a value any more."""

    @abstractmethod
    def _after_loss(self) -> None:
        """The connection is about to be closed."""

    async def write(self, tag: Tag, value: float) -> None:
        """Writes a value to the device; raises SourceError."""
        await self._driver.write(tag, value)

    async def run(self) -> None:
        """Connects and serves for ever."""
        pause = FIRST_PAUSE_S
        while True:
            try:
                await self._driver.connect()
                await self._serve()
            except SourceError as exc:
                _stay_cancelled(exc)
                # Only an answer is proof of life: a device that takes connections and is silent is down.
                if self._state is SourceState.UP:
                    pause = FIRST_PAUSE_S
                self.fail(exc.reason)
            except Exception as exc:  # noqa: BLE001 - kept where it happened, and said
                # A driver or its library met what nobody foresaw: that is this source's failure alone.
                _log.exception("Source %s failed", self._setup.name)
                self.fail(f"its driver failed: {type(exc).__name__}: {exc}"[:_LONGEST_REASON])
            finally:
                self._after_loss()
                await self._close()
            await self._sleep(pause)
            pause = min(2 * pause, LONGEST_PAUSE_S)

    async def _close(self) -> None:
        try:
            await self._driver.close()
        except Exception:  # noqa: BLE001 - it is given up anyway; the log says why
            _log.exception("Source %s could not be closed", self._setup.name)

    def fail(self, reason: str) -> None:
        """All tags become Bad once; while the source stays away nothing more is said."""
        first = self._state is not SourceState.DOWN
        self._enter(SourceState.DOWN, reason)
        if first:
            self._say_bad()

    def _enter(self, state: SourceState, detail: str) -> None:
        if state is not self._state:
            self._state, self._since_us = state, self._clock.now_us()
        self._detail = detail


def _stay_cancelled(exc: SourceError) -> None:
    """A protocol library may turn the cancellation of its caller into an error of its own: without
    this the worker would take being told to end for a lost connection, and go on."""
    task = asyncio.current_task()
    if task is not None and task.cancelling():
        raise asyncio.CancelledError from exc
